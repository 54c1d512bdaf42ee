package daysoff

import (
	"bufio"
	"bytes"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/astronomy"
	"roundyear/civil"
)

// nodeDates prints what ICU in Node says of each day of 1950 to 2050.
const nodeDates = `
const calendars = ["islamic-civil", "coptic", "ethiopic", "persian", "hebrew", "islamic-umalqura", "chinese", "dangi"];
const formats = calendars.map(c => new Intl.DateTimeFormat("en-u-ca-" + c, {timeZone: "UTC", year: "numeric", month: c == "hebrew" ? "long" : "numeric", day: "numeric"}));
const lines = [];
for (let t = Date.UTC(1950, 0, 1); t <= Date.UTC(2050, 11, 31); t += 86400000) {
  lines.push(formats.map(f => { const p = {}; for (const x of f.formatToParts(t)) p[x.type] = x.value; return (p.relatedYear || p.year) + "/" + p.month + "/" + p.day; }).join("|"));
}
console.log(lines.join("\n"));
`

var hebrewNames = map[string]CalendarMonth{
	"Tishri": {Number: 1}, "Heshvan": {Number: 2}, "Kislev": {Number: 3}, "Tevet": {Number: 4}, "Shevat": {Number: 5}, "Adar I": {Number: 5, Leap: true},
	"Adar": {Number: 6}, "Adar II": {Number: 6}, "Nisan": {Number: 7}, "Iyar": {Number: 8}, "Sivan": {Number: 9}, "Tamuz": {Number: 10}, "Av": {Number: 11}, "Elul": {Number: 12},
}

// icuErrs are the months, by the calendar and a day in them, in which ICU is
// wrong, with what the sky or the published calendar says.
var icuErrs = map[string]string{
	"chinese 1954-02-03": "new moon at 23:55 in Beijing on 3 February, which was new year", "chinese 1955-02-22": "new moon at 23:54",
	"chinese 1987-07-26": "the leap month of 1987 was the sixth: the sun entered Virgo at 00:10 on 24 August",
	"chinese 1999-01-17": "new moon at 23:46", "chinese 2012-08-17": "new moon at 23:54", "chinese 2018-11-07": "new moon at 00:02 on 8 November",
	"chinese 2027-02-06": "new moon at 23:56, new year is on the 6th", "chinese 2030-02-02": "new moon at 00:07 on 3 February, which is new year",
	"dangi 2017-02-26": "new moon at 23:58 in Seoul",
}

// The calendars agree with ICU on every day of 1950 to 2050, where Node is, but
// for the months in which ICU is known to be wrong.
func TestOtherCalendarsAgreeWithICU(t *testing.T) {
	node, err := exec.LookPath("node")
	if err != nil {
		t.Skip("there is no node on this machine")
	}
	output, err := exec.Command(node, "-e", nodeDates).Output()
	require.NoError(t, err)
	lines := bufio.NewScanner(bytes.NewReader(output))
	names := []string{"islamic-civil", "coptic", "ethiopic", "persian", "hebrew", "islamic-umalqura", "chinese", "dangi"}
	agrees := map[string]bool{}
	for day := civil.MustOf(1950, 1, 1); day <= civil.MustOf(2050, 12, 31); day++ {
		require.True(t, lines.Scan())
		for i, text := range strings.Split(lines.Text(), "|") {
			calendar := OtherCalendarOf(names[i])
			parts := strings.Split(text, "/")
			var year, dayOfMonth int
			_, err := fmt.Sscan(parts[0], &year)
			require.NoError(t, err, text)
			_, err = fmt.Sscan(parts[2], &dayOfMonth)
			require.NoError(t, err, text)
			month, known := hebrewNames[parts[1]]
			if !known {
				number, isLeap := strings.CutSuffix(parts[1], "bis")
				_, err = fmt.Sscan(number, &month.Number)
				require.NoError(t, err, text)
				month.Leap = isLeap
			}
			agreed := calendar.day(year, month, dayOfMonth) == day && dayOfMonth <= calendar.length(year, month)
			if !agreed && agrees[names[i]] {
				require.Contains(t, icuErrs, names[i]+" "+day.String(), "ICU says it is %s", text)
			}
			agrees[names[i]] = agreed
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
		first, last := 1583, 2299
		switch {
		case strings.HasPrefix(calendar.Name, "islamic-umal"):
			first, last = 1951, 2075
		case calendar.length(2000, CalendarMonth{Number: 1}) > 0 && calendar.length(1800, CalendarMonth{Number: 1}) == 0:
			first, last = 1970, 2198
		}
		for gregorian := first; gregorian <= last; gregorian++ {
			year := calendar.yearOf(gregorian) + 1
			months := monthsOf(calendar, year)
			next := calendar.day(year, months[0], 1)
			for _, month := range months {
				require.Equal(t, next, calendar.day(year, month, 1), "%s %d/%s", calendar.Name, year, month)
				next += civil.Day(calendar.length(year, month))
			}
			if calendar.Name != "persian" || gregorian >= 1800 && gregorian <= 2090 {
				require.Equal(t, next, calendar.day(year+1, CalendarMonth{Number: 1}, 1), "%s %d", calendar.Name, year)
			}
		}
	}
}

// monthsOf returns the months of a year in their order.
func monthsOf(calendar *OtherCalendar, year int) []CalendarMonth {
	var months []CalendarMonth
	for number := 1; calendar.length(year, CalendarMonth{Number: number}) > 0; number++ {
		months = append(months, CalendarMonth{Number: number})
		if leap := (CalendarMonth{Number: number, Leap: true}); calendar.length(year, leap) > 0 {
			months = append(months, leap)
		}
	}
	return months
}

// New year in Beijing, in Seoul and in Ha Noi, and leap months, as the calendars
// are published.
func TestLunisolarCalendarsAsPublished(t *testing.T) {
	newYear := map[string]string{
		"chinese": "2000-02-05 2001-01-24 2002-02-12 2003-02-01 2004-01-22 2005-02-09 2006-01-29 2007-02-18 2008-02-07 2009-01-26 2010-02-14 2011-02-03 2012-01-23 2013-02-10 2014-01-31 " +
			"2015-02-19 2016-02-08 2017-01-28 2018-02-16 2019-02-05 2020-01-25 2021-02-12 2022-02-01 2023-01-22 2024-02-10 2025-01-29 2026-02-17 2027-02-06 2028-01-26 2029-02-13 2030-02-03 2031-01-23 2032-02-11 2033-01-31 2034-02-19 2035-02-08",
		"dangi":      "2015-02-19 2016-02-08 2017-01-28 2018-02-16 2019-02-05 2020-01-25 2021-02-12 2022-02-01 2023-01-22 2024-02-10 2025-01-29 2026-02-17 2027-02-07",
		"vietnamese": "1985-01-21 2006-01-29 2007-02-17 2008-02-07 2020-01-25 2021-02-12 2022-02-01 2023-01-22 2024-02-10 2025-01-29 2026-02-17 2030-02-02",
	}
	for name, want := range newYear {
		for _, text := range strings.Fields(want) {
			on, err := civil.Parse(text)
			require.NoError(t, err)
			assert.Equal(t, []civil.Day{on}, InCalendar{OtherCalendarOf(name), CalendarMonth{Number: 1}, 1}.In(on.Year()), "%s %s", name, text)
		}
	}
	leapMonths := map[int]int{2001: 4, 2004: 2, 2006: 7, 2009: 5, 2012: 4, 2014: 9, 2017: 6, 2020: 4, 2023: 2, 2025: 6, 2028: 5, 2031: 3, 2033: 11}
	chinese := OtherCalendarOf("chinese")
	for year := 2000; year <= 2035; year++ {
		var leap int
		for _, month := range monthsOf(chinese, year) {
			if month.Leap {
				leap = month.Number
			}
		}
		assert.Equal(t, leapMonths[year], leap, "%d", year)
	}
	assert.Empty(t, InCalendar{chinese, CalendarMonth{Number: 1}, 1}.In(1900), "not reckoned before 1929")
}

// The Umm al-Qura calendar is printed in Java's library too, beyond what ICU is
// asked for.
func TestUmmAlQuraAgreesWithJava(t *testing.T) {
	java, err := exec.LookPath("java")
	if err != nil {
		t.Skip("there is no java on this machine")
	}
	source := filepath.Join(t.TempDir(), "Months.java")
	require.NoError(t, os.WriteFile(source, []byte(`
import java.time.*; import java.time.chrono.*;
public class Months { public static void main(String[] none) {
	for (int year = 1369; year <= 1500; year++) for (int month = 1; month <= 12; month++)
		System.out.println(year + " " + month + " " + LocalDate.ofEpochDay(HijrahDate.of(year, month, 1).toEpochDay())); } }`), 0o600))
	output, err := exec.Command(java, source).Output()
	if err != nil {
		t.Skip("java cannot run a source file on this machine")
	}
	calendar, count := OtherCalendarOf("islamic-umalqura"), 0
	for line := range strings.Lines(string(output)) {
		var year, month int
		var first string
		_, err := fmt.Sscan(line, &year, &month, &first)
		require.NoError(t, err)
		assert.Equal(t, first, calendar.day(year, CalendarMonth{Number: month}, 1).String(), "%d/%d", year, month)
		count++
	}
	assert.Equal(t, 12*132, count)
}

// The months that are told without reckoning sunset and moonset are those that
// the reckoning gives.
func TestMonthsOfMeccaToldByTheAgeOfTheMoon(t *testing.T) {
	told := 0
	for year := firstByMoonset; year <= lastUmmAlQura; year++ {
		for month, one := range ummAlQura(year) {
			if year == 1427 && month == 4 {
				continue
			}
			midnight := astronomy.Moment(one.first+28) - meccaOffset/24.
			newMoon := astronomy.NewMoon(astronomy.NewMoonFrom(midnight - 14))
			if newMoon > midnight+latestSunset || newMoon < midnight+earliestSunset-alwaysVisible {
				told++
			}
			assert.Equal(t, one.days == 29, setsAfterSun(year, midnight, newMoon), "%d-%d", year, month+1)
		}
	}
	assert.Greater(t, told, 200)
}
