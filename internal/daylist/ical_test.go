package daylist_test

import (
	"bytes"
	"fmt"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/civil"
	"roundyear/daysoff"
	"roundyear/internal/daylist"
)

func calendarOf(events ...string) []byte {
	text := "BEGIN:VCALENDAR\nVERSION:2.0\nPRODID:-//x//y//EN\n"
	for i, event := range events {
		text += "BEGIN:VEVENT\nUID:" + string(rune('a'+i)) + "\nDTSTAMP:20260101T000000Z\n" + event + "\nEND:VEVENT\n"
	}
	return []byte(text + "END:VCALENDAR\n")
}

// daysOf are the days of a rule in some years.
func daysOf(rule *daysoff.Rule, from, to int) string {
	var texts []string
	for year := from; year <= to; year++ {
		for _, day := range rule.When.In(year) {
			texts = append(texts, day.String())
		}
	}
	return strings.Join(texts, ", ")
}

// Whatever the years, and however the standard lets days be written.
func TestDaysOfRecurringEvents(t *testing.T) {
	for _, c := range []struct {
		event    string
		from, to int
		want     string
	}{
		{"DTSTART;VALUE=DATE:20260105\nRDATE;VALUE=DATE:20260301,20260402\nRDATE;VALUE=DATE:20260503", 2026, 2026, "2026-01-05, 2026-03-01, 2026-04-02, 2026-05-03"},
		{"DTSTART:20260105\nRDATE:20260301", 2026, 2026, "2026-01-05, 2026-03-01"},
		{"DTSTART;TZID=Asia/Tokyo:20260105T090000\nRDATE;TZID=Asia/Tokyo:20260301T090000\nRDATE:20260302T230000Z", 2026, 2026, "2026-01-05, 2026-03-01, 2026-03-03"},
		{"DTSTART:20260105T090000Z\nDTEND:20260105T100000Z\nRDATE;VALUE=PERIOD:20260301T090000Z/PT1H,20260401T090000Z/20260401T100000Z", 2026, 2026, "2026-01-05, 2026-03-01, 2026-04-01"},
		{"DTSTART;VALUE=DATE:20240101\nRRULE:FREQ=WEEKLY;COUNT=4\nRDATE;VALUE=DATE:20240520\nEXDATE;VALUE=DATE:20240108,20240115", 2024, 2025, "2024-01-01, 2024-01-22, 2024-05-20"},
		{"DTSTART;VALUE=DATE:20240106\nRRULE:FREQ=YEARLY;COUNT=2\nEXDATE:20240106", 2024, 2025, "2025-01-06"},
		{"DTSTART;TZID=America/New_York:20240106T200000\nRRULE:FREQ=DAILY;COUNT=3\nEXDATE:20240108T010000Z", 2024, 2024, "2024-01-06, 2024-01-08"},
		{"DTSTART;VALUE=DATE:15900601\nRRULE:FREQ=YEARLY;INTERVAL=100", 1583, 2200, "1590-06-01, 1690-06-01, 1790-06-01, 1890-06-01, 1990-06-01, 2090-06-01, 2190-06-01"},
		{"DTSTART;VALUE=DATE:21500601\nRRULE:FREQ=YEARLY", 2149, 2151, "2150-06-01, 2151-06-01"},
		{"DTSTART;VALUE=DATE:99980601\nRRULE:FREQ=YEARLY", 9997, 9999, "9998-06-01, 9999-06-01"},
		// The end counts with its time of day, in its own zone.
		{"DTSTART;TZID=Europe/Dublin:20260601T180000\nRRULE:FREQ=DAILY;UNTIL=20260603T170000Z", 2026, 2026, "2026-06-01, 2026-06-02, 2026-06-03"},
		{"DTSTART;TZID=Europe/Dublin:20260601T180000\nRRULE:FREQ=DAILY;UNTIL=20260603T165959Z", 2026, 2026, "2026-06-01, 2026-06-02"},
		{"DTSTART;VALUE=DATE:20261231\nDTEND;VALUE=DATE:20270103\nRRULE:FREQ=YEARLY;COUNT=2", 2026, 2028, "2026-12-31, 2027-01-01, 2027-01-02, 2027-12-31, 2028-01-01, 2028-01-02"},
	} {
		rules, err := daylist.ReadICalendar("c.ics", calendarOf("SUMMARY:A\n"+c.event), daysoff.Closure)
		require.NoError(t, err, c.event)
		assert.Equal(t, c.want, daysOf(rules[0], c.from, c.to), c.event)
	}
}

func TestEventsOfACalendar(t *testing.T) {
	rules, err := daylist.ReadICalendar("c.ics", append([]byte("\xef\xbb\xbf"), calendarOf(
		"SUMMARY:Stock\n taking\nDTSTART:20260105\nDTEND:20260106",
		"SUMMARY:Summer closure\nDTSTART;VALUE=DATE:20260803\nDTEND;VALUE=DATE:20260808",
		"SUMMARY:Evening\nDTSTART;TZID=Europe/Dublin:20260401T183000\nDTEND;TZID=Europe/Dublin:20260401T220000",
		"SUMMARY:Over night\nDTSTART:20260410T200000Z\nDTEND:20260411T020000Z",
		"SUMMARY:First Mondays\nDTSTART;VALUE=DATE:20260601\nRRULE:FREQ=YEARLY;BYMONTH=6;BYDAY=1MO;COUNT=3\nEXDATE;VALUE=DATE:20270607",
	)...), daysoff.Closure)
	require.NoError(t, err)
	var texts []string
	for _, rule := range rules {
		texts = append(texts, rule.Name+": "+daysOf(rule, 2026, 2030))
		assert.Equal(t, daysoff.Closure, rule.Kind)
		assert.Contains(t, rule.Source, "c.ics, event ")
	}
	assert.Equal(t, []string{
		"Stocktaking: 2026-01-05",
		"Summer closure: 2026-08-03, 2026-08-04, 2026-08-05, 2026-08-06, 2026-08-07",
		"Evening: 2026-04-01",
		"Over night: 2026-04-10, 2026-04-11",
		"First Mondays: 2026-06-01, 2028-06-05",
	}, texts)
}

func TestWhatEventsAre(t *testing.T) {
	rules, err := daylist.ReadICalendar("c.ics", []byte("BEGIN:VCALENDAR\nVERSION:2.0\nPRODID:-//x//y//EN\n"+
		"BEGIN:VEVENT\nUID:a\nDTSTAMP:20260101T000000Z\nSUMMARY:Eve\nDTSTART:20261224\nCATEGORIES:Feast,statutory,Half day\nEND:VEVENT\n"+
		"BEGIN:VEVENT\nUID:b\nDTSTAMP:20260101T000000Z\nSUMMARY:Fair\nDTSTART:20260619\nCATEGORIES:MARKED\nEND:VEVENT\n"+
		"BEGIN:VEVENT\nUID:c\nDTSTAMP:20260101T000000Z\nSUMMARY:Called off\nDTSTART:20260620\nSTATUS:CANCELLED\nEND:VEVENT\n"+
		"BEGIN:VEVENT\nUID:d\nDTSTAMP:20260101T000000Z\nSUMMARY:Stocktaking\nDTSTART;VALUE=DATE:20240105\nRRULE:FREQ=YEARLY;COUNT=3\nEND:VEVENT\n"+
		"BEGIN:VEVENT\nUID:d\nDTSTAMP:20260101T000000Z\nSUMMARY:Stocktaking, later\nDTSTART;VALUE=DATE:20250107\nRECURRENCE-ID;VALUE=DATE:20250105\nEND:VEVENT\n"+
		"END:VCALENDAR\n"), daysoff.Bank)
	require.NoError(t, err)
	var texts []string
	for _, rule := range rules {
		texts = append(texts, fmt.Sprintf("%s: %s %t %s", rule.Name, rule.Kind, rule.Half, daysOf(rule, 2024, 2026)))
	}
	assert.Equal(t, []string{
		"Eve: statutory true 2026-12-24", "Fair: marked false 2026-06-19",
		"Stocktaking: bank false 2024-01-05, 2026-01-05", "Stocktaking, later: bank false 2025-01-07",
	}, texts)
}

func TestCalendarsThatAreWrong(t *testing.T) {
	for fault, content := range map[string][]byte{
		"event 1 (A): it has no start (DTSTART)":     calendarOf("SUMMARY:A"),
		"event 1 (A): its start cannot be read":      calendarOf("SUMMARY:A\nDTSTART:yesterday"),
		"event 1 (A): its recurrence cannot be read": calendarOf("SUMMARY:A\nDTSTART:20260101\nRRULE:FREQ=SOMETIMES"),
		"event 1 (A): its recurrence cannot be read: \"FREQ=MONTHLY;BYDAY=10MO\" contains days that no month or year has": calendarOf("SUMMARY:A\nDTSTART;VALUE=DATE:20200101\nRRULE:FREQ=MONTHLY;BYDAY=10MO"),
		"event 1 (A): its EXDATE cannot be read: \"x\" is not a date":                                                     calendarOf("SUMMARY:A\nDTSTART:20260101\nEXDATE:20260102,x"),
		"event 1 (A): its RDATE cannot be read: 10000101T":                                                                calendarOf("SUMMARY:A\nDTSTART:20260101\nRDATE:10000101T090000Z"),
		"the calendar has no events": []byte("BEGIN:VCALENDAR\nVERSION:2.0\nPRODID:x\nEND:VCALENDAR\n"),
		"event 1 (A): its recurrence cannot be read: \"FREQ=MINUTELY\" is not a recurrence rule of RFC 5545: it recurs within a day": calendarOf("SUMMARY:A\nDTSTART:20260101\nRRULE:FREQ=MINUTELY"),
		"event 1 (A): it is in the year 0; days off": calendarOf("SUMMARY:A\nDTSTART:00000101"),
		"event 1 (no title): it is 3653 days long":   calendarOf("DTSTART:20260101\nDTEND:20360102"),
		"is not an iCalendar file (RFC 5545)":        []byte("<html>"),
	} {
		_, err := daylist.ReadICalendar("c.ics", content, daysoff.Closure)
		assert.ErrorContains(t, err, "c.ics: "+fault)
	}
}

func TestWhatIsWrittenIsReadAgain(t *testing.T) {
	rule := &daysoff.Rule{Name: "King's Day; a feast, with a comma", Kind: daysoff.Statutory, Region: "NL", When: daysoff.OnDate{Month: civil.April, Day: 27},
		Moves: []daysoff.Move{{From: civil.Sunday, By: -1}}}
	set := daysoff.NewSet([]*daysoff.Rule{rule}, []civil.Weekday{civil.Saturday, civil.Sunday})
	var out bytes.Buffer
	require.NoError(t, daylist.WriteICalendar(&out, verified(set.Between(civil.MustOf(2024, 1, 1), civil.MustOf(2025, 12, 31))), "en", civil.MustOf(2026, 3, 15)))
	assert.Contains(t, out.String(), "DTSTART;VALUE=DATE:20250426\r\n")
	assert.True(t, strings.HasPrefix(out.String(), "BEGIN:VCALENDAR\r\n"))
	rules, err := daylist.ReadICalendar("c.ics", out.Bytes(), daysoff.Closure)
	require.NoError(t, err)
	require.Len(t, rules, 2)
	assert.Equal(t, daysoff.Statutory, rules[1].Kind)
	var later bytes.Buffer
	require.NoError(t, daylist.WriteICalendar(&later, verified(set.Between(civil.MustOf(2025, 1, 1), civil.MustOf(2025, 12, 31))), "en", civil.MustOf(2026, 3, 15)))
	uid := regexp.MustCompile(`UID:(20250427-.*@roundyear)`)
	assert.Equal(t, uid.FindString(out.String()), uid.FindString(later.String()), "the same in a shorter list")
	assert.NotEmpty(t, uid.FindString(later.String()))
	assert.Equal(t, "King's Day; a feast, with a comma (of 2025-04-27): 2025-04-26", rules[1].Name+": "+daysOf(rules[1], 2024, 2026))
	assert.ErrorContains(t, daylist.WriteICalendar(&out, nil, "en", 0), "there are no days off to write")
}

func verified(all []daysoff.DayOff) []daylist.Entry {
	var entries []daylist.Entry
	for _, one := range all {
		entries = append(entries, daylist.Entry{one, true})
	}
	return entries
}

func TestADayKeptOnBothDaysIsWrittenOnBoth(t *testing.T) {
	rule := &daysoff.Rule{Name: "Fair", Kind: daysoff.Statutory, When: daysoff.OnDate{Month: 5, Day: 3}, Moves: []daysoff.Move{{From: civil.Sunday, By: 1}}, KeepBoth: true}
	own := civil.MustOf(2026, 5, 3)
	var out bytes.Buffer
	require.NoError(t, daylist.WriteICalendar(&out, []daylist.Entry{{daysoff.DayOff{Rule: rule, Own: own, TakenOn: own + 1}, false}}, "en", own))
	rules, err := daylist.ReadICalendar("c.ics", out.Bytes(), daysoff.Closure)
	require.NoError(t, err)
	require.Len(t, rules, 2)
	assert.Equal(t, "Fair: 2026-05-03", rules[0].Name+": "+daysOf(rules[0], 2026, 2026))
	assert.Equal(t, "Fair (of 2026-05-03): 2026-05-04", rules[1].Name+": "+daysOf(rules[1], 2026, 2026))
	assert.Equal(t, 2, strings.Count(out.String(), "CATEGORIES:statutory,unverified"))
	assert.Len(t, regexp.MustCompile(`UID:`).FindAllString(out.String(), -1), 2)
}
