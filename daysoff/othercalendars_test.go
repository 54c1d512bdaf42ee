package daysoff

import (
	"bufio"
	"bytes"
	"fmt"
	"os/exec"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/civil"
)

// nodeDates prints what ICU in Node says of each day of 1950 to 2050.
const nodeDates = `
const calendars = ["islamic-civil", "coptic", "ethiopic", "persian", "hebrew"];
const formats = calendars.map(c => new Intl.DateTimeFormat("en-u-ca-" + c, {timeZone: "UTC", year: "numeric", month: c == "hebrew" ? "long" : "numeric", day: "numeric"}));
const lines = [];
for (let t = Date.UTC(1950, 0, 1); t <= Date.UTC(2050, 11, 31); t += 86400000) {
  lines.push(formats.map(f => { const p = {}; for (const x of f.formatToParts(t)) p[x.type] = x.value; return p.year + "/" + p.month + "/" + p.day; }).join("|"));
}
console.log(lines.join("\n"));
`

var hebrewNames = map[string]CalendarMonth{
	"Tishri": {Number: 1}, "Heshvan": {Number: 2}, "Kislev": {Number: 3}, "Tevet": {Number: 4}, "Shevat": {Number: 5}, "Adar I": {Number: 5, Leap: true},
	"Adar": {Number: 6}, "Adar II": {Number: 6}, "Nisan": {Number: 7}, "Iyar": {Number: 8}, "Sivan": {Number: 9}, "Tamuz": {Number: 10}, "Av": {Number: 11}, "Elul": {Number: 12},
}

// The calendars agree with ICU on every day of 1950 to 2050, where Node is.
func TestOtherCalendarsAgreeWithICU(t *testing.T) {
	node, err := exec.LookPath("node")
	if err != nil {
		t.Skip("there is no node on this machine")
	}
	output, err := exec.Command(node, "-e", nodeDates).Output()
	require.NoError(t, err)
	lines := bufio.NewScanner(bytes.NewReader(output))
	for day := civil.MustOf(1950, 1, 1); day <= civil.MustOf(2050, 12, 31); day++ {
		require.True(t, lines.Scan())
		for i, text := range strings.Split(lines.Text(), "|") {
			calendar := otherCalendars[i]
			parts := strings.Split(text, "/")
			var year, dayOfMonth int
			_, err := fmt.Sscan(parts[0], &year)
			require.NoError(t, err, text)
			_, err = fmt.Sscan(parts[2], &dayOfMonth)
			require.NoError(t, err, text)
			month, known := hebrewNames[parts[1]]
			if !known {
				_, err = fmt.Sscan(parts[1], &month.Number)
				require.NoError(t, err, text)
			}
			if got := calendar.day(year, month, dayOfMonth); got != day {
				t.Fatalf("%s: ICU says that %s is %s, which is %s here", calendar.Name, day, text, got)
			}
			if length := calendar.length(year, month); dayOfMonth > length {
				t.Fatalf("%s: %s is day %d of a month of %d", calendar.Name, day, dayOfMonth, length)
			}
		}
	}
}

// Feasts on the days on which they were kept.
func TestDatesOfOtherCalendars(t *testing.T) {
	for _, c := range []struct {
		calendar  string
		month     CalendarMonth
		day, year int
		want      string
	}{
		{"hebrew", CalendarMonth{Number: 1}, 1, 2024, "2024-10-03"}, {"hebrew", CalendarMonth{Number: 1}, 10, 2023, "2023-09-25"},
		{"hebrew", CalendarMonth{Number: 7}, 15, 2024, "2024-04-23"}, {"hebrew", CalendarMonth{Number: 5, Leap: true}, 1, 2024, "2024-02-10"},
		{"hebrew", CalendarMonth{Number: 5, Leap: true}, 1, 2025, ""}, {"hebrew", CalendarMonth{Number: 6}, 14, 2026, "2026-03-03"},
		{"persian", CalendarMonth{Number: 1}, 1, 2024, "2024-03-20"}, {"persian", CalendarMonth{Number: 1}, 1, 2026, "2026-03-21"},
		{"coptic", CalendarMonth{Number: 4}, 29, 2026, "2026-01-07"}, {"ethiopic", CalendarMonth{Number: 1}, 1, 2025, "2025-09-11"}, {"ethiopic", CalendarMonth{Number: 1}, 1, 2023, "2023-09-12"},
		{"islamic-civil", CalendarMonth{Number: 10}, 1, 2000, "2000-01-08 2000-12-28"},
	} {
		var got []string
		when := InCalendar{OtherCalendarOf(c.calendar), c.month, c.day}
		for _, day := range when.In(c.year) {
			got = append(got, day.String())
		}
		assert.Equal(t, c.want, strings.Join(got, " "), when.Words())
	}
	assert.Nil(t, OtherCalendarOf("mayan"))
}

// Every month of every year touches the next.
func TestMonthsOfOtherCalendarsTouch(t *testing.T) {
	for _, calendar := range otherCalendars {
		for gregorian := 1583; gregorian <= 2299; gregorian += 7 {
			year := calendar.yearOf(gregorian) + 1
			months := hebrewMonths(year)
			if calendar.Name != "hebrew" {
				months = nil
				for number := 1; calendar.length(year, CalendarMonth{Number: number}) > 0; number++ {
					months = append(months, CalendarMonth{Number: number})
				}
			}
			next := calendar.day(year, months[0], 1)
			for _, month := range months {
				require.Equal(t, next, calendar.day(year, month, 1), "%s %d/%s", calendar.Name, year, month)
				next += civil.Day(calendar.length(year, month))
			}
			if calendar.Name != "persian" || gregorian >= 1800 && gregorian <= 2090 {
				require.Equal(t, next, calendar.day(year+1, months[0], 1), "%s %d", calendar.Name, year)
			}
		}
	}
}
