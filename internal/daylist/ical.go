// Package daylist reads and writes lists of days off as other programs have
// them: iCalendar files.
package daylist

import (
	"bytes"
	"fmt"
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

// ReadICalendar reads the events of a calendar as closures, each on all days
// that it touches. Of events with a time of day it is the day in the zone that
// they name. The error is a Fault that says which event.
func ReadICalendar(name string, content []byte) ([]*daysoff.Rule, error) {
	content = bytes.TrimPrefix(content, []byte("\xef\xbb\xbf"))
	content = bareDate.ReplaceAll(bytes.ReplaceAll(content, []byte("\r\n"), []byte("\n")), []byte("$1;VALUE=DATE$2"))
	content = bytes.ReplaceAll(content, []byte("\n"), []byte("\r\n"))
	calendar, err := ical.NewDecoder(bytes.NewReader(content)).Decode()
	if err != nil {
		return nil, &table.Fault{File: name, What: "is no calendar of iCalendar (RFC 5545)", Cause: err, Remedy: "It begins with BEGIN:VCALENDAR"}
	}
	var rules []*daysoff.Rule
	for i, event := range calendar.Events() {
		rule, err := ruleOf(&event)
		if err != nil {
			return nil, &table.Fault{File: name, What: fmt.Sprintf("event %d (%s): %v", i+1, titleOf(&event), err), Remedy: "Mend the event or take it out"}
		}
		rule.Source = fmt.Sprintf("%s, event %d", name, i+1)
		rules = append(rules, rule)
	}
	return rules, nil
}

func titleOf(event *ical.Event) string {
	title, err := event.Props.Text(ical.PropSummary)
	if err != nil || title == "" {
		return "no title"
	}
	return title
}

func ruleOf(event *ical.Event) (*daysoff.Rule, error) {
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
	set, err := event.RecurrenceSet(time.UTC)
	if err != nil {
		return nil, fmt.Errorf("its recurrence cannot be read: %w", err)
	}
	if set != nil {
		starts = nil
		for _, one := range set.Between(time.Date(firstRecurring, 1, 1, 0, 0, 0, 0, time.UTC), time.Date(lastRecurring, 12, 31, 0, 0, 0, 0, time.UTC), true) {
			starts = append(starts, dayOf(one))
		}
	}
	var days daysoff.OnDates
	for _, start := range starts {
		for i := range length {
			days = append(days, start+civil.Day(i))
		}
	}
	slices.Sort(days)
	return &daysoff.Rule{Name: titleOf(event), Kind: daysoff.Closure, When: slices.Compact(days)}, nil
}

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
	for i, one := range all {
		event := ical.NewEvent()
		event.Props.SetText(ical.PropUID, fmt.Sprintf("%d-%s-%d@roundyear", one.Own.Key(), strings.ToLower(one.Rule.Region), i))
		event.Props.SetDateTime(ical.PropDateTimeStamp, stamp)
		event.Props.SetDate(ical.PropDateTimeStart, timeOf(one.TakenOn))
		event.Props.SetDate(ical.PropDateTimeEnd, timeOf(one.TakenOn+1))
		title := one.Rule.NameIn(language)
		if one.IsMoved() {
			title += fmt.Sprintf(" (of %s)", one.Own)
		}
		event.Props.SetText(ical.PropSummary, title)
		event.Props.SetText(ical.PropCategories, string(one.Rule.Kind))
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
