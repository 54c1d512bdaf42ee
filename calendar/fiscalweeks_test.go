package calendar_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/calendar"
	"roundyear/civil"
	"roundyear/civil/civiltest"
)

func retail(t testing.TB) *calendar.WeekYears {
	t.Helper()
	cal, err := calendar.NewFiscalWeeks(calendar.FiscalWeeks{Name: "retail", EndsOn: civil.Saturday, NearestMonth: civil.January, NearestDay: 31,
		Split: repeated(4, 5, 4), NamedBy: calendar.ByStart})
	require.NoError(t, err)
	return cal
}

// longYears lists the years of 53 weeks.
func longYears(c calendar.Calendar, from, to int) []int {
	var years []int
	for year := from; year <= to; year++ {
		if c.At(calendar.Year, year).Days() == 371 {
			years = append(years, year)
		}
	}
	return years
}

// The years of the retail trade's 4-5-4 calendar in the United States, as
// its association publishes them.
func TestRetailYearsAsPublished(t *testing.T) {
	c := retail(t)
	for year, bounds := range map[int][2]string{
		2006: {"2006-01-29", "2007-02-03"},
		2012: {"2012-01-29", "2013-02-02"},
		2017: {"2017-01-29", "2018-02-03"},
		2021: {"2021-01-31", "2022-01-29"},
		2022: {"2022-01-30", "2023-01-28"},
		2023: {"2023-01-29", "2024-02-03"},
		2024: {"2024-02-04", "2025-02-01"},
		2025: {"2025-02-02", "2026-01-31"},
	} {
		period := c.At(calendar.Year, year)
		assert.Equal(t, bounds, [2]string{period.First.String(), period.Last.String()}, "%d", year)
	}
	assert.Equal(t, []int{2006, 2012, 2017, 2023}, longYears(c, 2001, 2027))
	january := c.Locate(calendar.Month, civiltest.Day("2024-02-03"))
	assert.Equal(t, "FY2023 P12", c.Label(january))
	assert.Equal(t, []string{"2023-12-31", "2024-02-03"}, []string{january.First.String(), january.Last.String()}, "the leap week is in the last period")
	assert.Equal(t, "FY2023 W53", c.Label(c.Locate(calendar.Week, january.Last)))
	assert.Equal(t, civil.January, c.MonthName(12))
	assert.Equal(t, civil.February, c.MonthName(1))
}

// A year that ends on the last Saturday of September has 53 weeks in the years
// ending 2017-09-30 and 2023-09-30.
func TestLastSaturdayOfSeptember(t *testing.T) {
	c, err := calendar.NewFiscalWeeks(calendar.FiscalWeeks{Name: "fiscal", EndsOn: civil.Saturday, LastIn: civil.September, Split: repeated(5, 4, 4), LeapWeek: 1})
	require.NoError(t, err)
	assert.Equal(t, []int{2017, 2023}, longYears(c, 2013, 2027))
	assert.Equal(t, "2017-09-30", c.At(calendar.Year, 2017).Last.String())
	assert.Equal(t, "2023-09-30", c.At(calendar.Year, 2023).Last.String())
	assert.Equal(t, 42, c.Locate(calendar.Month, civiltest.Day("2022-09-25")).Days(), "the leap week goes to the first period")
	assert.Equal(t, "FY2023 Q1", c.Label(c.Locate(calendar.Quarter, civiltest.Day("2022-12-31"))))
	assert.Equal(t, civil.October, c.MonthName(1))
}

// A year that ends near New Year is named by the date that it ends near, so
// that no number comes twice or is left out.
func TestNamesOfYearsThatEndNearNewYear(t *testing.T) {
	for _, namedBy := range []calendar.NamedBy{calendar.ByEnd, calendar.ByStart, calendar.ByMost} {
		c, err := calendar.NewFiscalWeeks(calendar.FiscalWeeks{Name: "fiscal", EndsOn: civil.Saturday, NearestMonth: civil.December, NearestDay: 31, Split: repeated(4, 4, 5), NamedBy: namedBy})
		require.NoError(t, err)
		assert.Equal(t, "2026-01-03", c.At(calendar.Year, 2025).Last.String())
		assert.Equal(t, "2027-01-02", c.At(calendar.Year, 2026).Last.String())
		assert.Equal(t, "2028-01-01", c.At(calendar.Year, 2027).Last.String())
		assert.Equal(t, "2028-12-30", c.At(calendar.Year, 2028).Last.String())
	}
}

func TestSplits(t *testing.T) {
	weeksOf := func(c calendar.Calendar, unit calendar.Unit, on string) []int {
		var weeks []int
		year := c.Locate(calendar.Year, civiltest.Day(on))
		for first := year.First; first <= year.Last; {
			period := c.Locate(unit, first)
			weeks = append(weeks, period.Days()/7)
			first = period.Last + 1
		}
		return weeks
	}
	for _, c := range []struct {
		split            []int
		leapWeek         int
		periods, quarter []int
	}{
		{repeated(4, 4, 5), 0, []int{4, 4, 5, 4, 4, 5, 4, 4, 5, 4, 4, 6}, []int{13, 13, 13, 14}},
		{repeated(5, 4, 4), 6, []int{5, 4, 4, 5, 4, 5, 5, 4, 4, 5, 4, 4}, []int{13, 14, 13, 13}},
		{repeated(4), 13, []int{4, 4, 4, 4, 4, 4, 4, 4, 4, 4, 4, 4, 5}, []int{12, 12, 12, 17}},
		{[]int{2, 11, 13, 13, 10, 3}, 1, []int{3, 11, 13, 13, 10, 3}, nil},
	} {
		cal, err := calendar.NewFiscalWeeks(calendar.FiscalWeeks{Name: "x", EndsOn: civil.Saturday, NearestMonth: civil.January, NearestDay: 31, Split: c.split, LeapWeek: c.leapWeek})
		require.NoError(t, err)
		assert.Equal(t, c.periods, weeksOf(cal, calendar.Month, "2023-06-01"))
		if c.quarter == nil {
			assert.NotContains(t, cal.Units(), calendar.Quarter)
			assert.Contains(t, cal.Units(), calendar.Half)
			continue
		}
		assert.Equal(t, c.quarter, weeksOf(cal, calendar.Quarter, "2023-06-01"))
	}
}

func TestYearAgoInBothViews(t *testing.T) {
	c := retail(t)
	for _, v := range []struct{ day, byNumber, restated string }{
		{"2023-01-29", "2022-01-30", "2022-01-30"},
		{"2024-01-27", "2023-01-28", "2023-01-28"},
		// Week 53 has no match by number, and 364 days back is this year's week 1.
		{"2024-01-28", "", ""},
		{"2024-02-03", "", ""},
		// After the leap week the two views are a week apart.
		{"2024-02-04", "2023-01-29", "2023-02-05"},
		{"2025-02-01", "2024-01-27", "2024-02-03"},
		{"2025-02-02", "2024-02-04", "2024-02-04"},
	} {
		text := func(ago civil.Day, ok bool) string {
			if !ok {
				return ""
			}
			return ago.String()
		}
		assert.Equal(t, v.byNumber, text(calendar.YearAgo(c, civiltest.Day(v.day))), "%s by number", v.day)
		assert.Equal(t, v.restated, text(calendar.YearAgoRestated(c, civiltest.Day(v.day))), "%s restated", v.day)
	}
	ago, ok := calendar.YearAgo(fiscalOf(t, civil.February, calendar.ByStart), civiltest.Day("2024-02-29"))
	assert.True(t, ok)
	assert.Equal(t, "2023-02-28", ago.String())
	ago, ok = calendar.YearAgo(takenOver(t), civiltest.Day("2019-05-06"))
	assert.True(t, ok, "2 months into the year from April there was a period 2 in the short year")
	assert.Equal(t, "2019-02-06", ago.String())
	_, ok = calendar.YearAgo(takenOver(t), civiltest.Day("2019-09-06"))
	assert.False(t, ok, "the short year had no sixth period")
}

func TestToDateIsAtTheSamePlace(t *testing.T) {
	for _, v := range []struct {
		cal              calendar.Calendar
		unit             calendar.Unit
		asOf, in, cutoff string
	}{
		{calendar.Gregorian(), calendar.Month, "2026-03-15", "2026-02-01", "2026-02-15"},
		{calendar.Gregorian(), calendar.Month, "2026-03-31", "2026-02-01", "2026-02-28"},
		{calendar.Gregorian(), calendar.Month, "2026-02-28", "2026-01-01", "2026-01-28"},
		{calendar.Gregorian(), calendar.Quarter, "2026-06-30", "2026-02-01", "2026-03-30"},
		{calendar.Gregorian(), calendar.Quarter, "2026-05-31", "2026-02-01", "2026-02-28"},
		{calendar.Gregorian(), calendar.Year, "2024-02-29", "2023-06-01", "2023-02-28"},
		{calendar.Gregorian(), calendar.Year, "2023-02-28", "2024-06-01", "2024-02-28"},
		{fiscalOf(t, civil.April, calendar.ByEnd), calendar.Year, "2026-03-15", "2025-03-01", "2025-03-15"},
		{fiscalOf(t, civil.April, calendar.ByEnd), calendar.Half, "2026-03-15", "2025-08-01", "2025-09-15"},
		{calendar.ISO(), calendar.Week, "2026-03-11", "2026-03-02", "2026-03-04"},
		{retail(t), calendar.Year, "2024-02-03", "2022-06-01", "2023-01-28"},
		{retail(t), calendar.Month, "2026-03-10", "2026-02-10", "2026-02-10"},
		{takenOver(t), calendar.Year, "2026-03-15", "2025-03-01", "2025-03-15"},
		{takenOver(t), calendar.Year, "2019-05-15", "2019-02-01", "2019-02-14"},
	} {
		period := v.cal.Locate(v.unit, civiltest.Day(v.in))
		assert.Equal(t, v.cutoff, calendar.ToDate(v.cal, v.unit, civiltest.Day(v.asOf), period).String(), "%s %s of %s as of %s", v.cal.Name(), v.unit, v.in, v.asOf)
	}
}

func TestAYearFromTheSixthOfApril(t *testing.T) {
	c, err := calendar.NewFiscalMonths(calendar.FiscalMonths{Name: "tax", Starts: civil.April, StartDay: 6, Labels: calendar.Labels{calendar.Year: "{start}/{end_yy}", calendar.Month: "M{period:02}"}, Weeks: calendar.ISOWeeks})
	require.NoError(t, err)
	for _, v := range []struct{ day, month, first, last string }{
		{"2026-04-05", "2025/26 M12", "2026-03-06", "2026-04-05"},
		{"2026-04-06", "2026/27 M01", "2026-04-06", "2026-05-05"},
		{"2027-01-05", "2026/27 M09", "2026-12-06", "2027-01-05"},
		{"2027-03-01", "2026/27 M11", "2027-02-06", "2027-03-05"},
	} {
		month := c.Locate(calendar.Month, civiltest.Day(v.day))
		assert.Equal(t, []string{v.month, v.first, v.last}, []string{c.Label(month), month.First.String(), month.Last.String()}, v.day)
	}
	assert.Equal(t, "M12", c.Code(c.Locate(calendar.Month, civiltest.Day("2026-04-05"))))
	assert.False(t, c.NamesMonths())
}

func TestAChangeOfRule(t *testing.T) {
	c := takenOver(t)
	for _, v := range []struct{ day, year, quarter, month, first string }{
		{"2018-12-31", "FY2018", "FY2018 Q4", "FY2018 P12", "2018-12-01"},
		{"2019-03-31", "FY2019", "FY2019 Q1", "FY2019 P03", "2019-03-01"},
		{"2019-04-01", "FY2020", "FY2020 Q1", "FY2020 P01", "2019-04-01"},
		{"2040-03-31", "FY2040", "FY2040 Q4", "FY2040 P12", "2040-03-01"},
		// The 4-5-4 year began on 2040-01-29; it is cut, and counts from 1.
		{"2040-04-01", "FY2041", "FY2041 Q1", "FY2041 P01", "2040-04-01"},
	} {
		on := civiltest.Day(v.day)
		month := c.Locate(calendar.Month, on)
		assert.Equal(t, []string{v.year, v.quarter, v.month, v.first},
			[]string{c.Label(c.Locate(calendar.Year, on)), c.Label(c.Locate(calendar.Quarter, on)), c.Label(month), month.First.String()}, v.day)
	}
	assert.Equal(t, "2019-03-31", c.Locate(calendar.Year, civiltest.Day("2019-02-01")).Last.String())
	assert.Contains(t, c.Explain(calendar.Month, civiltest.Day("2040-04-01")), "the periods of the short year are numbered from 1, so it is number 1")
	assert.Contains(t, c.Explain(calendar.Year, civiltest.Day("2040-04-01")), "the rule is valid from 2040-04-01, so it starts on that day")
	assert.Contains(t, c.Explain(calendar.Year, civiltest.Day("2039-05-01")), "so this one runs from 2039-04-01 to 2040-03-31")
}

func TestDeclaredYearsHaveBounds(t *testing.T) {
	declared, err := calendar.NewDeclared(calendar.DeclaredYears{Name: "group", Weeks: calendar.ISOWeeks, Years: []calendar.DeclaredYear{
		{Year: 2024, Starts: []civil.Day{civiltest.Day("2024-01-01"), civiltest.Day("2024-03-15"), civiltest.Day("2024-06-10")}, Ends: civiltest.Day("2024-09-30"), Groups: calendar.Groups{calendar.Quarter: {1, 1, 2}}},
		{Year: 2025, Starts: []civil.Day{civiltest.Day("2024-10-01"), civiltest.Day("2025-01-01"), civiltest.Day("2025-04-01"), civiltest.Day("2025-07-01")}, Ends: civiltest.Day("2025-09-30"), Groups: calendar.Groups{calendar.Quarter: {1, 2, 3, 4}}},
	}})
	require.NoError(t, err)
	for _, unit := range declared.Units() {
		period := declared.Locate(unit, civiltest.Day("2024-01-01"))
		for period.Last < civiltest.Day("2025-09-30") {
			require.Equal(t, period, declared.At(unit, period.Number), "%s", unit)
			next := declared.Locate(unit, period.Last+1)
			require.Equal(t, period.Number+1, next.Number, "%s", unit)
			require.Equal(t, period.Last+1, next.First, "%s", unit)
			period = next
		}
	}
	set, err := calendar.NewSet(calendar.ISOWeeks, declared)
	require.NoError(t, err)
	unknown, first, last := set.Unknown(civiltest.Day("2024-01-01"), civiltest.Day("2025-10-01"))
	require.NotNil(t, unknown)
	assert.Equal(t, "group 2024-01-01 2025-09-30", fmt.Sprintf("%s %s %s", unknown.Name(), first, last))
	unknown, _, _ = set.Unknown(civiltest.Day("2024-01-01"), civiltest.Day("2025-09-30"))
	assert.Nil(t, unknown)
}

// What is said of a day ends with the numbers that the period has.
func TestExplanationsAgreeWithPeriods(t *testing.T) {
	for _, v := range []struct {
		cal      calendar.Calendar
		unit     calendar.Unit
		day, why string
	}{
		{fiscalOf(t, civil.February, calendar.ByStart), calendar.Month, "2026-03-09", "the year starts in February; March is its 2nd month"},
		{fiscalOf(t, civil.February, calendar.ByStart), calendar.Year, "2026-01-31", "the year starts on 1 February, so this one runs from 2025-02-01 to 2026-01-31; it is named by the year in which it starts"},
		{fiscalOf(t, civil.February, calendar.ByStart), calendar.Quarter, "2026-05-09", "month 4 of the year is one of months 4 to 6, which are quarter 2"},
		{retail(t), calendar.Year, "2024-02-03", "the year ends on the Saturday nearest to 31 January, so this one runs from 2023-01-29 to 2024-02-03 (53 weeks); it is named by the year in which it starts"},
		{retail(t), calendar.Month, "2024-02-03", "the periods have 4-5-4 weeks; in this year of 53 weeks period 12 has one more; week 53 is one of weeks 49 to 53, which are period 12"},
		{retail(t), calendar.Week, "2023-02-05", "the year starts on 2023-01-29; the week from 2023-02-05 to 2023-02-11 is its 2nd"},
		{calendar.ISO(), calendar.Week, "2027-01-03", "weeks start on Monday; week 1 is the first with at least 4 days of the new year and starts on 2025-12-29; the week from 2026-12-28 to 2027-01-03 is the 53rd of the year"},
	} {
		assert.Equal(t, v.why, v.cal.Explain(v.unit, civiltest.Day(v.day)))
	}
}
