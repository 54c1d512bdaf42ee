// Package daylist reads and writes lists of days off as other programs have
// them: iCalendar files.
package daylist

import (
	"bytes"
	"errors"
	"fmt"
	"hash/crc32"
	"io"
	"regexp"
	"slices"
	"strings"
	"time"

	"github.com/emersion/go-ical"

	"roundyear/civil"
	"roundyear/daysoff"
	"roundyear/fault"
)

// bareDate is a start or end that is a date and does not say so, which many
// programs write.
var bareDate = regexp.MustCompile(`(?m)^(DTSTART|DTEND)(:\d{8})\r?$`)

// ReadICalendar reads the events of a calendar, each on all days that it touches:
// as what their categories say, half days and the kinds of days off, and of a
// kind otherwise. Of events with a time of day it is the day in the zone that
// they name. Events that are cancelled are left out. The error is a Fault that
// says which event.
func ReadICalendar(name string, content []byte, kind daysoff.Kind) ([]*daysoff.Rule, error) {
	content = bytes.TrimPrefix(content, []byte("\xef\xbb\xbf"))
	content = bareDate.ReplaceAll(bytes.ReplaceAll(content, []byte("\r\n"), []byte("\n")), []byte("$1;VALUE=DATE$2"))
	content = bytes.ReplaceAll(content, []byte("\n"), []byte("\r\n"))
	calendar, err := decoded(content)
	if err != nil {
		return nil, &fault.Fault{File: name, What: "is not an iCalendar file (RFC 5545)", Cause: err, Remedy: "The file must start with BEGIN:VCALENDAR"}
	}
	var rules []*daysoff.Rule
	events := calendar.Events()
	if len(events) == 0 {
		return nil, &fault.Fault{File: name, What: "the calendar has no events", Remedy: "Is the export complete?"}
	}
	replaced := replacedOf(events)
	for i, event := range events {
		if status, _ := event.Status(); status == ical.EventCancelled {
			continue
		}
		rule, err := ruleOf(&event, kind, replaced)
		if err != nil {
			return nil, &fault.Fault{File: name, What: fmt.Sprintf("event %d (%s): %v", i+1, titleOf(&event), err), Remedy: "Correct or delete the event"}
		}
		rule.Source = fmt.Sprintf("%s, event %d", name, i+1)
		rules = append(rules, rule)
	}
	return rules, nil
}

// decoded reads a calendar. The library's decoder goes beyond the end of some
// lines that are none of a calendar, which is the file's fault.
func decoded(content []byte) (calendar *ical.Calendar, err error) {
	defer func() {
		if recover() != nil {
			calendar, err = nil, errors.New("a line is incomplete")
		}
	}()
	return ical.NewDecoder(bytes.NewReader(content)).Decode()
}

func titleOf(event *ical.Event) string {
	prop := event.Props.Get(ical.PropSummary)
	if prop == nil {
		return "no title"
	}
	// Many programs write a comma as it is, where the standard has \,.
	parts, err := prop.TextList()
	if title := strings.TrimSpace(strings.Join(parts, ",")); err == nil && title != "" {
		return title
	}
	return "no title"
}

// replacedOf returns the days of recurring events, by their identifiers, that
// events of their own take the place of.
func replacedOf(events []ical.Event) map[string][]civil.Day {
	replaced := map[string][]civil.Day{}
	for _, event := range events {
		if of := event.Props.Get(ical.PropRecurrenceID); of != nil {
			if moment, err := of.DateTime(time.UTC); err == nil && moment.Year() >= 1 {
				uid := uidOf(&event)
				replaced[uid] = append(replaced[uid], dayOf(moment))
			}
		}
	}
	return replaced
}

func uidOf(event *ical.Event) string {
	uid, _ := event.Props.Text(ical.PropUID)
	return uid
}

// halfDay is the category of a day of which half is off.
const halfDay = "half day"

// kindOf returns what an event's categories say that it is, or else a kind.
func kindOf(event *ical.Event, otherwise daysoff.Kind) (kind daysoff.Kind, half bool) {
	kind = otherwise
	for _, prop := range event.Props.Values(ical.PropCategories) {
		names, _ := prop.TextList()
		for _, name := range names {
			name = strings.ToLower(strings.TrimSpace(name))
			half = half || name == halfDay
			if slices.Contains(daysoff.Kinds, daysoff.Kind(name)) {
				kind = daysoff.Kind(name)
			}
		}
	}
	return kind, half
}

func ruleOf(event *ical.Event, otherwise daysoff.Kind, replaced map[string][]civil.Day) (*daysoff.Rule, error) {
	begins := event.Props.Get(ical.PropDateTimeStart)
	if begins == nil {
		return nil, fmt.Errorf("it has no start (DTSTART)")
	}
	start, err := event.DateTimeStart(time.UTC)
	if err != nil {
		return nil, fmt.Errorf("its start cannot be read: %w", err)
	}
	end, err := event.DateTimeEnd(time.UTC)
	if err != nil {
		return nil, fmt.Errorf("its end cannot be read: %w", err)
	}
	for _, one := range []time.Time{start, end} {
		if one.Year() < firstYear || one.Year() > lastYear {
			return nil, fmt.Errorf("it is in the year %d; days off must be from %d to %d", one.Year(), firstYear, lastYear)
		}
	}
	first := dayOf(start)
	length := int(dayOf(end) - first)
	if isDate := begins.ValueType() == ical.ValueDate; !isDate && (end.Hour() != 0 || end.Minute() != 0 || end.Second() != 0) {
		// An event with times touches the day on which it ends.
		length++
	}
	length = max(length, 1)
	if length > 366 {
		return nil, fmt.Errorf("it is %d days long", length)
	}
	var when daysoff.When
	if when, err = fallsOn(event, start); err != nil {
		return nil, err
	}
	if days := replaced[uidOf(event)]; len(days) > 0 && event.Props.Get(ical.PropRecurrenceID) == nil {
		when = without(when, days)
	}
	if length > 1 {
		when = daysoff.Span{From: when, Lasts: length}
	}
	kind, half := kindOf(event, otherwise)
	return &daysoff.Rule{Name: titleOf(event), Kind: kind, Half: half, When: when}, nil
}

// fallsOn returns the days on which an event begins: its start, the days of its
// recurrence rules, and those of RDATE, less those of EXDATE.
func fallsOn(event *ical.Event, start time.Time) (daysoff.When, error) {
	first := dayOf(start)
	var all daysoff.All
	for _, prop := range event.Props.Values(ical.PropRecurrenceRule) {
		rule, err := daysoff.ParseRecurrenceFrom(prop.Value, first, func(until daysoff.Until) civil.Day { return lastStart(until, start) })
		if err != nil {
			return nil, fmt.Errorf("its recurrence cannot be read: %w", err)
		}
		all = append(all, rule)
	}
	single := daysoff.OnDates{}
	if len(all) == 0 {
		single = append(single, first)
	}
	for _, prop := range event.Props.Values(ical.PropRecurrenceDates) {
		days, err := daysOfList(prop, start.Location())
		if err != nil {
			return nil, fmt.Errorf("its RDATE cannot be read: %w", err)
		}
		single = append(single, days...)
	}
	if len(single) > 0 {
		all = append(all, single)
	}
	var left []civil.Day
	for _, prop := range event.Props.Values(ical.PropExceptionDates) {
		days, err := daysOfList(prop, start.Location())
		if err != nil {
			return nil, fmt.Errorf("its EXDATE cannot be read: %w", err)
		}
		left = append(left, days...)
	}
	var when daysoff.When = all
	if len(all) == 1 {
		when = all[0]
	}
	if len(left) > 0 {
		when = without(when, left)
	}
	return when, nil
}

func without(when daysoff.When, days []civil.Day) daysoff.When {
	left := map[civil.Day]bool{}
	for _, day := range days {
		left[day] = true
	}
	return daysoff.Without{When: when, Days: left}
}

// lastStart is the last day on which an event that starts at a time of day can
// start so that it is not after the end of its recurrence.
func lastStart(until daysoff.Until, start time.Time) civil.Day {
	year, month, day := until.Day.Date()
	zone := start.Location()
	if until.UTC {
		zone = time.UTC
	}
	end := time.Date(year, time.Month(month), day, 0, 0, until.Seconds, 0, zone).In(start.Location())
	last := dayOf(end)
	if end.Hour()*3600+end.Minute()*60+end.Second() < start.Hour()*3600+start.Minute()*60+start.Second() {
		last--
	}
	return last
}

// daysOfList reads the days of EXDATE or RDATE, which has dates, moments or
// periods with commas between them, as days in the zone of the event.
func daysOfList(prop ical.Prop, zone *time.Location) ([]civil.Day, error) {
	var days []civil.Day
	for text := range strings.SplitSeq(prop.Value, ",") {
		text = strings.TrimSpace(text)
		text, _, _ = strings.Cut(text, "/") // of a period, its start
		if text == "" {
			continue
		}
		one := ical.Prop{Name: prop.Name, Params: ical.Params{}, Value: text}
		if tzid := prop.Params.Get(ical.ParamTimezoneID); tzid != "" && len(text) != len("20260105") {
			one.Params.Set(ical.ParamTimezoneID, tzid)
		}
		if len(text) == len("20260105") {
			one.SetValueType(ical.ValueDate)
		}
		moment, err := one.DateTime(zone)
		if err != nil {
			return nil, fmt.Errorf("%.40q is not a date", text)
		}
		if len(text) != len("20260105") {
			moment = moment.In(zone)
		}
		if moment.Year() < firstYear || moment.Year() > lastYear {
			return nil, fmt.Errorf("%s is not within %d to %d", text, firstYear, lastYear)
		}
		days = append(days, dayOf(moment))
	}
	return days, nil
}

// The years that days off can be in.
const (
	firstYear = 1583
	lastYear  = 9999
)

func dayOf(moment time.Time) civil.Day {
	year, month, day := moment.Date()
	return civil.MustOf(year, civil.Month(month), day)
}

// Entry is a day off of a list.
type Entry struct {
	daysoff.DayOff
	// Verified tells that its rule is known to be right in its year.
	Verified bool
}

// onDays are the days on which it is off: the one on which it is taken, and its
// own if that stays off.
func (e Entry) onDays() []civil.Day {
	if e.IsMoved() && e.Rule.KeepBoth {
		return []civil.Day{e.Own, e.TakenOn}
	}
	return []civil.Day{e.TakenOn}
}

// unverified is the category of a day off in a year for which the rules are not
// known to be right.
const unverified = "unverified"

// WriteICalendar writes days off as all-day events on the days on which they
// are taken, made on a day.
func WriteICalendar(out io.Writer, all []Entry, language string, made civil.Day) error {
	calendar := ical.NewCalendar()
	calendar.Props.SetText(ical.PropVersion, "2.0")
	calendar.Props.SetText(ical.PropProductID, "-//Round Year//days off//EN")
	year, month, dayOfMonth := made.Date()
	stamp := time.Date(year, time.Month(month), dayOfMonth, 0, 0, 0, 0, time.UTC)
	taken := map[string]int{}
	for _, one := range all {
		for _, day := range one.onDays() {
			calendar.Children = append(calendar.Children, eventOf(one, day, language, stamp, taken).Component)
		}
	}
	if len(all) == 0 {
		return &fault.Fault{What: "there are no days off to write to a calendar", Remedy: "Widen --from and --to"}
	}
	return ical.NewEncoder(out).Encode(calendar)
}

// eventOf makes the event of a day on which a day off is off; taken counts
// identifiers.
func eventOf(one Entry, day civil.Day, language string, stamp time.Time, taken map[string]int) *ical.Event {
	event := ical.NewEvent()
	// The same day off has the same identifier in every list, so that programs
	// that subscribe to it know it again.
	uid := fmt.Sprintf("%d-%d-%s-%08x", one.Own.Key(), day.Key(), strings.ToLower(one.Rule.Region), crc32.ChecksumIEEE([]byte(one.Rule.Name)))
	if taken[uid]++; taken[uid] > 1 {
		uid += fmt.Sprintf("-%d", taken[uid])
	}
	event.Props.SetText(ical.PropUID, uid+"@roundyear")
	event.Props.SetDateTime(ical.PropDateTimeStamp, stamp)
	event.Props.SetDate(ical.PropDateTimeStart, timeOf(day))
	event.Props.SetDate(ical.PropDateTimeEnd, timeOf(day+1))
	title := one.Rule.NameIn(language)
	if day != one.Own {
		title += fmt.Sprintf(" (of %s)", one.Own)
	}
	event.Props.SetText(ical.PropSummary, title)
	categories := []string{string(one.Rule.Kind)}
	if one.Rule.Half {
		categories = append(categories, halfDay)
	}
	if !one.Verified {
		categories = append(categories, unverified)
	}
	list := ical.NewProp(ical.PropCategories)
	list.SetTextList(categories)
	event.Props.Set(list)
	event.Props.SetText(ical.PropDescription, one.Rule.Why())
	event.Props.SetText(ical.PropTransparency, "TRANSPARENT")
	if one.IsExpected() {
		event.Props.SetText(ical.PropStatus, "TENTATIVE")
	}
	return event
}

func timeOf(day civil.Day) time.Time {
	year, month, dayOfMonth := day.Date()
	return time.Date(year, time.Month(month), dayOfMonth, 0, 0, 0, 0, time.UTC)
}
