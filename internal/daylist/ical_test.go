package daylist

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
)

func calendarOf(events ...string) []byte {
	text := "BEGIN:VCALENDAR\nVERSION:2.0\nPRODID:-//x//y//EN\n"
	for i, event := range events {
		text += "BEGIN:VEVENT\nUID:" + string(rune('a'+i)) + "\nDTSTAMP:20260101T000000Z\n" + event + "\nEND:VEVENT\n"
	}
	return []byte(text + "END:VCALENDAR\n")
}

func TestEventsOfACalendar(t *testing.T) {
	rules, err := ReadICalendar("c.ics", append([]byte("\xef\xbb\xbf"), calendarOf(
		"SUMMARY:Stock\n taking\nDTSTART:20260105\nDTEND:20260106",
		"SUMMARY:Summer closure\nDTSTART;VALUE=DATE:20260803\nDTEND;VALUE=DATE:20260808",
		"SUMMARY:Evening\nDTSTART;TZID=Europe/Dublin:20260401T183000\nDTEND;TZID=Europe/Dublin:20260401T220000",
		"SUMMARY:Over night\nDTSTART:20260410T200000Z\nDTEND:20260411T020000Z",
		"SUMMARY:First Mondays\nDTSTART;VALUE=DATE:20260601\nRRULE:FREQ=YEARLY;BYMONTH=6;BYDAY=1MO;COUNT=3\nEXDATE;VALUE=DATE:20270607",
	)...), daysoff.Closure)
	require.NoError(t, err)
	var texts []string
	for _, rule := range rules {
		texts = append(texts, rule.Name+": "+rule.When.Words())
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
	rules, err := ReadICalendar("c.ics", []byte("BEGIN:VCALENDAR\nVERSION:2.0\nPRODID:-//x//y//EN\n"+
		"BEGIN:VEVENT\nUID:a\nDTSTAMP:20260101T000000Z\nSUMMARY:Eve\nDTSTART:20261224\nCATEGORIES:Feast,statutory,Half day\nEND:VEVENT\n"+
		"BEGIN:VEVENT\nUID:b\nDTSTAMP:20260101T000000Z\nSUMMARY:Fair\nDTSTART:20260619\nCATEGORIES:MARKED\nEND:VEVENT\n"+
		"BEGIN:VEVENT\nUID:c\nDTSTAMP:20260101T000000Z\nSUMMARY:Called off\nDTSTART:20260620\nSTATUS:CANCELLED\nEND:VEVENT\n"+
		"BEGIN:VEVENT\nUID:d\nDTSTAMP:20260101T000000Z\nSUMMARY:Stocktaking\nDTSTART;VALUE=DATE:20240105\nRRULE:FREQ=YEARLY;COUNT=3\nEND:VEVENT\n"+
		"BEGIN:VEVENT\nUID:d\nDTSTAMP:20260101T000000Z\nSUMMARY:Stocktaking, later\nDTSTART;VALUE=DATE:20250107\nRECURRENCE-ID;VALUE=DATE:20250105\nEND:VEVENT\n"+
		"END:VCALENDAR\n"), daysoff.Bank)
	require.NoError(t, err)
	var texts []string
	for _, rule := range rules {
		texts = append(texts, fmt.Sprintf("%s: %s %t %s", rule.Name, rule.Kind, rule.Half, rule.When.Words()))
	}
	assert.Equal(t, []string{
		"Eve: statutory true 2026-12-24", "Fair: marked false 2026-06-19",
		"Stocktaking: bank false 2024-01-05, 2026-01-05", "Stocktaking, later: bank false 2025-01-07",
	}, texts)
}

func TestCalendarsThatAreWrong(t *testing.T) {
	for fault, content := range map[string][]byte{
		"event 1 (A): it has no start (DTSTART)":                                                 calendarOf("SUMMARY:A"),
		"event 1 (A): its start cannot be read":                                                  calendarOf("SUMMARY:A\nDTSTART:yesterday"),
		"event 1 (A): its recurrence cannot be read":                                             calendarOf("SUMMARY:A\nDTSTART:20260101\nRRULE:FREQ=SOMETIMES"),
		"event 1 (A): its recurrence cannot be read: it asks for days that no month or year has": calendarOf("SUMMARY:A\nDTSTART;VALUE=DATE:20200101\nRRULE:FREQ=MONTHLY;BYDAY=10MO"),
		"event 1 (A): it recurs since 1583":                                                      calendarOf("SUMMARY:A\nDTSTART;VALUE=DATE:15830101\nRRULE:FREQ=YEARLY"),
		"event 1 (A): it recurs within a day":                                                    calendarOf("SUMMARY:A\nDTSTART:20260101\nRRULE:FREQ=MINUTELY"),
		"event 1 (A): it is in the year 0; days off":                                             calendarOf("SUMMARY:A\nDTSTART:00000101"),
		"event 1 (no title): it is 3653 days long":                                               calendarOf("DTSTART:20260101\nDTEND:20360102"),
		"is no calendar of iCalendar (RFC 5545)":                                                 []byte("<html>"),
	} {
		_, err := ReadICalendar("c.ics", content, daysoff.Closure)
		assert.ErrorContains(t, err, "c.ics: "+fault)
	}
}

func TestWhatIsWrittenIsReadAgain(t *testing.T) {
	rule := &daysoff.Rule{Name: "King's Day; a feast, with a comma", Kind: daysoff.Statutory, Region: "NL", When: daysoff.OnDate{Month: civil.April, Day: 27},
		Moves: []daysoff.Move{{From: civil.Sunday, By: -1}}}
	set := daysoff.NewSet([]*daysoff.Rule{rule}, []civil.Weekday{civil.Saturday, civil.Sunday})
	var out bytes.Buffer
	require.NoError(t, WriteICalendar(&out, set.Between(civil.MustOf(2024, 1, 1), civil.MustOf(2025, 12, 31)), "en", civil.MustOf(2026, 3, 15)))
	assert.Contains(t, out.String(), "DTSTART;VALUE=DATE:20250426\r\n")
	assert.True(t, strings.HasPrefix(out.String(), "BEGIN:VCALENDAR\r\n"))
	rules, err := ReadICalendar("c.ics", out.Bytes(), daysoff.Closure)
	require.NoError(t, err)
	require.Len(t, rules, 2)
	assert.Equal(t, daysoff.Statutory, rules[1].Kind)
	var later bytes.Buffer
	require.NoError(t, WriteICalendar(&later, set.Between(civil.MustOf(2025, 1, 1), civil.MustOf(2025, 12, 31)), "en", civil.MustOf(2026, 3, 15)))
	uid := regexp.MustCompile(`UID:(20250427-.*@roundyear)`)
	assert.Equal(t, uid.FindString(out.String()), uid.FindString(later.String()), "the same in a shorter list")
	assert.NotEmpty(t, uid.FindString(later.String()))
	assert.Equal(t, "King's Day; a feast, with a comma (of 2025-04-27): 2025-04-26", rules[1].Name+": "+rules[1].When.Words())
	assert.ErrorContains(t, WriteICalendar(&out, nil, "en", 0), "there is no day off to write")
}
