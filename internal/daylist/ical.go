// Package daylist reads and writes lists of days off as other programs have
// them: iCalendar files.
package daylist

import (
	"bytes"
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
	"roundyear/internal/table"
)

// Recurring events are taken from the first of these years to the last.
const (
	firstRecurring = 1970
	lastRecurring  = 2100
)

// bareDate is a start or end that is a date and does not say so, which many
// programs write.
var bareDate = regexp.MustCompile(`(?m)^(DTSTART|DTEND|EXDATE|RDATE)(:\d{8})\r?$`)

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
		return nil, &table.Fault{File: name, What: "is no calendar of iCalendar (RFC 5545)", Cause: err, Remedy: "It begins with BEGIN:VCALENDAR"}
	}
	var rules []*daysoff.Rule
	events := calendar.Events()
	replaced := replacedOf(events)
	for i, event := range events {
		if status, _ := event.Status(); status == ical.EventCancelled {
			continue
		}
		rule, err := ruleOf(&event, kind, replaced)
		if err != nil {
			return nil, &table.Fault{File: name, What: fmt.Sprintf("event %d (%s): %v", i+1, titleOf(&event), err), Remedy: "Mend the event or take it out"}
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
		if beyond := recover(); beyond != nil {
			calendar, err = nil, fmt.Errorf("a line is cut short: %v", beyond)
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
		if one.Year() < 1583 || one.Year() > 9999 {
			return nil, fmt.Errorf("it is in the year %d; days off are from 1583 to 9999", one.Year())
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
	starts := []civil.Day{first}
	if rule := event.Props.Get(ical.PropRecurrenceRule); rule != nil && withinADay.MatchString(rule.Value) {
		return nil, fmt.Errorf("it recurs within a day (%s), and days off are whole days", rule.Value)
	}
	recurs, all, err := recurrences(event)
	switch {
	case err != nil:
		return nil, fmt.Errorf("its recurrence cannot be read: %w", err)
	case recurs && first.Year() < 1900:
		return nil, fmt.Errorf("it recurs since %d, and recurrences are reckoned from 1900 on", first.Year())
	case recurs:
		starts = slices.DeleteFunc(all, func(day civil.Day) bool { return slices.Contains(replaced[uidOf(event)], day) })
	}
	var days daysoff.OnDates
	for _, start := range starts {
		for i := range length {
			if day := start + civil.Day(i); day <= civil.MaxDay {
				days = append(days, day)
			}
		}
	}
	slices.Sort(days)
	kind, half := kindOf(event, otherwise)
	return &daysoff.Rule{Name: titleOf(event), Kind: kind, Half: half, When: slices.Compact(days)}, nil
}

// recurrences returns the days on which a recurring event begins, from
// firstRecurring to lastRecurring; it is false for one that does not recur.
func recurrences(event *ical.Event) (recurs bool, days []civil.Day, err error) {
	defer func() {
		if beyond := recover(); beyond != nil {
			// The library reckons with weeks that no month has.
			err = fmt.Errorf("it asks for days that no month or year has")
		}
	}()
	set, err := event.RecurrenceSet(time.UTC)
	if err != nil || set == nil {
		return false, nil, err
	}
	for _, one := range set.Between(time.Date(firstRecurring, 1, 1, 0, 0, 0, 0, time.UTC), time.Date(lastRecurring, 12, 31, 0, 0, 0, 0, time.UTC), true) {
		days = append(days, dayOf(one))
	}
	return true, days, nil
}

// withinADay is a rule that recurs more often than once a day.
var withinADay = regexp.MustCompile(`(?i)FREQ=(SECONDLY|MINUTELY|HOURLY)|BY(HOUR|MINUTE|SECOND)=`)

func dayOf(moment time.Time) civil.Day {
	year, month, day := moment.Date()
	return civil.MustOf(year, civil.Month(month), day)
}

// WriteICalendar writes days off as all-day events on the days on which they
// are taken, made on a day.
func WriteICalendar(out io.Writer, all []daysoff.DayOff, language string, made civil.Day) error {
	calendar := ical.NewCalendar()
	calendar.Props.SetText(ical.PropVersion, "2.0")
	calendar.Props.SetText(ical.PropProductID, "-//Round Year//days off//EN")
	year, month, dayOfMonth := made.Date()
	stamp := time.Date(year, time.Month(month), dayOfMonth, 0, 0, 0, 0, time.UTC)
	taken := map[string]int{}
	for _, one := range all {
		event := ical.NewEvent()
		// The same day off has the same identifier in every list, so that programs
		// that subscribe to it know it again.
		uid := fmt.Sprintf("%d-%d-%s-%08x", one.Own.Key(), one.TakenOn.Key(), strings.ToLower(one.Rule.Region), crc32.ChecksumIEEE([]byte(one.Rule.Name)))
		if taken[uid]++; taken[uid] > 1 {
			uid += fmt.Sprintf("-%d", taken[uid])
		}
		event.Props.SetText(ical.PropUID, uid+"@roundyear")
		event.Props.SetDateTime(ical.PropDateTimeStamp, stamp)
		event.Props.SetDate(ical.PropDateTimeStart, timeOf(one.TakenOn))
		event.Props.SetDate(ical.PropDateTimeEnd, timeOf(one.TakenOn+1))
		title := one.Rule.NameIn(language)
		if one.IsMoved() {
			title += fmt.Sprintf(" (of %s)", one.Own)
		}
		event.Props.SetText(ical.PropSummary, title)
		categories := []string{string(one.Rule.Kind)}
		if one.Rule.Half {
			categories = append(categories, halfDay)
		}
		list := ical.NewProp(ical.PropCategories)
		list.SetTextList(categories)
		event.Props.Set(list)
		event.Props.SetText(ical.PropDescription, one.Rule.Why())
		event.Props.SetText(ical.PropTransparency, "TRANSPARENT")
		if one.IsExpected() {
			event.Props.SetText(ical.PropStatus, "TENTATIVE")
		}
		calendar.Children = append(calendar.Children, event.Component)
	}
	if len(all) == 0 {
		return &table.Fault{What: "there is no day off to write into a calendar", Remedy: "Widen --from and --to"}
	}
	return ical.NewEncoder(out).Encode(calendar)
}

func timeOf(day civil.Day) time.Time {
	year, month, dayOfMonth := day.Date()
	return time.Date(year, time.Month(month), dayOfMonth, 0, 0, 0, 0, time.UTC)
}
