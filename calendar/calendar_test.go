package calendar_test

import (
	"fmt"
	"math/rand/v2"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/calendar"
	"roundyear/civil"
	"roundyear/civil/civiltest"
)

func fiscalOf(t testing.TB, starts civil.Month, namedBy calendar.NamedBy) *calendar.Months {
	t.Helper()
	cal, err := calendar.NewFiscalMonths(calendar.FiscalMonths{Name: "fiscal", Starts: starts, NamedBy: namedBy, Weeks: calendar.ISOWeeks})
	require.NoError(t, err)
	return cal
}

// everyKind is every kind of calendar in every setting.
func everyKind(t testing.TB) []calendar.Calendar {
	calendars := []calendar.Calendar{calendar.Gregorian(), calendar.ISO()}
	for first := civil.Monday; first <= civil.Sunday; first++ {
		for minDays := 1; minDays <= 7; minDays++ {
			weeks, err := calendar.NewWeeks(calendar.WeekRule{first, minDays})
			require.NoError(t, err)
			calendars = append(calendars, weeks)
		}
	}
	for starts := civil.January; starts <= civil.December; starts++ {
		for _, namedBy := range []calendar.NamedBy{calendar.ByEnd, calendar.ByStart, calendar.ByMost} {
			cal, err := calendar.NewFiscalMonths(calendar.FiscalMonths{Name: "fiscal", Starts: starts, NamedBy: namedBy, StartDay: 1 + int(starts)*int(namedBy)%28,
				Weeks: calendar.WeekRule{First: civil.Weekday(int(starts)%7 + 1), MinDays: 4}})
			require.NoError(t, err)
			calendars = append(calendars, cal)
			for i, split := range [][]int{repeated(4, 4, 5), repeated(4, 5, 4), repeated(5, 4, 4), repeated(4)} {
				if i%3 != int(namedBy) {
					continue
				}
				weeks := calendar.FiscalWeeks{Name: "retail", EndsOn: civil.Weekday(int(starts+civil.Month(i))%7 + 1), Split: split, NamedBy: namedBy, LeapWeek: int(starts) * i % 13}
				if i%2 == 0 {
					weeks.LastIn = starts
				} else {
					weeks.NearestMonth, weeks.NearestDay = starts, []int{1, 15, 28, 31}[int(starts)%4]
					if _, ok := civil.Of(2001, starts, weeks.NearestDay); !ok {
						weeks.NearestDay = 28
					}
				}
				cal, err := calendar.NewFiscalWeeks(weeks)
				require.NoError(t, err)
				calendars = append(calendars, cal)
			}
		}
	}
	return append(calendars, takenOver(t), thirds(t))
}

// repeated repeats weeks until they fill 52.
func repeated(weeks ...int) []int {
	var all []int
	for sum := 0; sum < 52; {
		for _, count := range weeks {
			all = append(all, count)
			sum += count
		}
	}
	return all
}

// takenOver is a calendar year until 2018, a short year of three months
// declared by hand, a year from April since, and a 4-5-4 one from 2040.
func takenOver(t testing.TB) calendar.Calendar {
	t.Helper()
	before, err := calendar.NewFiscalMonths(calendar.FiscalMonths{Name: "group", Starts: civil.January, Weeks: calendar.ISOWeeks})
	require.NoError(t, err)
	short, err := calendar.NewDeclared(calendar.DeclaredYears{Name: "group", Weeks: calendar.ISOWeeks, Years: []calendar.DeclaredYear{
		{Year: 2019, Starts: []civil.Day{civiltest.Day("2019-01-01"), civiltest.Day("2019-02-01"), civiltest.Day("2019-03-01")}, Ends: civiltest.Day("2019-03-31")},
	}})
	require.NoError(t, err)
	after, err := calendar.NewFiscalMonths(calendar.FiscalMonths{Name: "group", Starts: civil.April, Weeks: calendar.ISOWeeks})
	require.NoError(t, err)
	retail, err := calendar.NewFiscalWeeks(calendar.FiscalWeeks{Name: "group", EndsOn: civil.Saturday, NearestMonth: civil.January, NearestDay: 31, Split: repeated(4, 5, 4)})
	require.NoError(t, err)
	sequence, err := calendar.NewSequence("group", before, calendar.Since{civiltest.Day("2019-01-01"), short}, calendar.Since{civiltest.Day("2019-04-01"), after}, calendar.Since{civiltest.Day("2040-04-01"), retail})
	require.NoError(t, err)
	return sequence
}

func thirds(t testing.TB) calendar.Calendar {
	t.Helper()
	cal, err := calendar.NewFiscalMonths(calendar.FiscalMonths{Name: "school", Starts: civil.September, Weeks: calendar.ISOWeeks, Groups: calendar.Groups{
		calendar.Third:     {1, 1, 1, 1, 2, 2, 2, 2, 3, 3, 3, 3},
		calendar.Trimester: {1, 1, 1, 1, 2, 2, 2, 3, 3, 3, 3, 3},
		calendar.Quarter:   {1, 1, 2, 2, 2, 3, 3, 3, 4, 4, 4, 4},
	}})
	require.NoError(t, err)
	return cal
}

func TestPeriodsTouchAndNumbersRun(t *testing.T) {
	from, to := civiltest.Day("1899-06-01"), civiltest.Day("2201-06-01")
	for i, cal := range everyKind(t) {
		for _, unit := range cal.Units() {
			name := fmt.Sprintf("calendar %d (%s), %s", i, cal.Name(), unit)
			period := cal.Locate(unit, from)
			label := cal.Label(period)
			for period.Last < to {
				next := cal.Locate(unit, period.Last+1)
				wantYear, wantInYear := period.Year, period.InYear+1
				if next.Year != period.Year {
					wantYear, wantInYear = period.Year+1, 1
				}
				if code := cal.Code(period); code == "" {
					t.Fatalf("%s: %+v has no code", name, period)
				}
				nextLabel := cal.Label(next)
				switch {
				case cal.At(unit, period.Number) != period,
					cal.Locate(unit, period.First) != period,
					cal.Locate(unit, period.Last) != period:
					t.Fatalf("%s: %+v is not found again", name, period)
				case next.First != period.Last+1, next.Number != period.Number+1,
					next.Year != wantYear, next.InYear != wantInYear:
					t.Fatalf("%s: %+v does not follow %+v", name, next, period)
				case label >= nextLabel:
					t.Fatalf("%s: %q sorts after %q", name, label, nextLabel)
				}
				period, label = next, nextLabel
			}
		}
	}
}

func TestRandomDaysLieInTheirPeriods(t *testing.T) {
	random := rand.New(rand.NewPCG(7, 11))
	calendars := everyKind(t)
	for range 20000 {
		cal := calendars[random.IntN(len(calendars))]
		units := cal.Units()
		unit := units[random.IntN(len(units))]
		someDay := civil.MinDay + civil.Day(random.IntN(int(civil.MaxDay-civil.MinDay)+1))
		period := cal.Locate(unit, someDay)
		require.True(t, period.Contains(someDay), "%s %s of %s is %+v", cal.Name(), unit, someDay, period)
		require.Equal(t, period, cal.At(unit, period.Number))
		require.Equal(t, period.Number-1, cal.Locate(unit, period.First-1).Number)
	}
}

func TestISOWeeksAgreeWithTheStandardLibrary(t *testing.T) {
	iso := calendar.ISO()
	witness := time.Date(1900, 1, 1, 0, 0, 0, 0, time.UTC)
	for d := civiltest.Day("1900-01-01"); d <= civiltest.Day("2200-12-31"); d++ {
		week := iso.Locate(calendar.Week, d)
		year, number := witness.ISOWeek()
		if label := fmt.Sprintf("%04d-W%02d", year, number); iso.Label(week) != label {
			t.Fatalf("%s is in %s, the standard library says %s", d, iso.Label(week), label)
		}
		witness = witness.AddDate(0, 0, 1)
	}
}

func TestWeekRules(t *testing.T) {
	for _, c := range []struct {
		rule       calendar.WeekRule
		day, label string
		ofMonth    int
	}{
		// Weeks of the United States in CLDR: from Sunday, 1 January in week 1.
		{calendar.WeekRule{civil.Sunday, 1}, "2026-01-01", "2026 W01", 1},
		{calendar.WeekRule{civil.Sunday, 1}, "2026-01-03", "2026 W01", 1},
		{calendar.WeekRule{civil.Sunday, 1}, "2026-01-04", "2026 W02", 2},
		{calendar.WeekRule{civil.Sunday, 1}, "2025-12-28", "2026 W01", 5},
		{calendar.WeekRule{civil.Sunday, 1}, "2025-12-27", "2025 W52", 4},
		// The first week must be full.
		{calendar.WeekRule{civil.Monday, 7}, "2026-01-04", "2025 W52", 1},
		{calendar.WeekRule{civil.Monday, 7}, "2026-01-05", "2026 W01", 2},
		{calendar.ISOWeeks, "2027-01-03", "2026 W53", 1},
		{calendar.ISOWeeks, "2026-08-31", "2026 W36", 6},
	} {
		weeks, err := calendar.NewWeeks(c.rule)
		require.NoError(t, err)
		assert.Equal(t, c.label, weeks.Label(weeks.Locate(calendar.Week, civiltest.Day(c.day))), "%v %s", c.rule, c.day)
		assert.Equal(t, c.ofMonth, c.rule.RowsTo(calendar.Gregorian().Locate(calendar.Month, civiltest.Day(c.day)).First, civiltest.Day(c.day)), "%v %s", c.rule, c.day)
	}
	_, err := calendar.NewWeeks(calendar.WeekRule{civil.Monday, 8})
	assert.EqualError(t, err, "the minimum days of week 1 must be from 1 to 7, not 8")
	_, err = calendar.NewWeeks(calendar.WeekRule{0, 4})
	assert.EqualError(t, err, "the first weekday must be from 1 (Monday) to 7 (Sunday), not 0")
}

func TestFiscalYears(t *testing.T) {
	for _, c := range []struct {
		starts  civil.Month
		namedBy calendar.NamedBy
		day     string
		unit    calendar.Unit
		label   string
		first   string
		last    string
	}{
		{civil.April, calendar.ByEnd, "2026-03-31", calendar.Year, "FY2026", "2025-04-01", "2026-03-31"},
		{civil.April, calendar.ByEnd, "2026-04-01", calendar.Year, "FY2027", "2026-04-01", "2027-03-31"},
		{civil.April, calendar.ByStart, "2026-04-01", calendar.Year, "FY2026", "2026-04-01", "2027-03-31"},
		{civil.February, calendar.ByStart, "2026-01-31", calendar.Month, "FY2025 P12", "2026-01-01", "2026-01-31"},
		{civil.February, calendar.ByStart, "2026-03-01", calendar.Month, "FY2026 P02", "2026-03-01", "2026-03-31"},
		{civil.February, calendar.ByStart, "2026-04-30", calendar.Quarter, "FY2026 Q1", "2026-02-01", "2026-04-30"},
		{civil.October, calendar.ByEnd, "2025-12-31", calendar.Quarter, "FY2026 Q1", "2025-10-01", "2025-12-31"},
		{civil.October, calendar.ByEnd, "2026-04-01", calendar.Half, "FY2026 H2", "2026-04-01", "2026-09-30"},
		{civil.January, calendar.ByEnd, "2026-07-01", calendar.Year, "FY2026", "2026-01-01", "2026-12-31"},
		{civil.December, calendar.ByEnd, "2024-02-29", calendar.Quarter, "FY2024 Q1", "2023-12-01", "2024-02-29"},
		// 1 April 2026 is a Wednesday: week 1 is five days long.
		{civil.April, calendar.ByEnd, "2026-04-05", calendar.Week, "FY2027 W01", "2026-04-01", "2026-04-05"},
		{civil.April, calendar.ByEnd, "2026-04-06", calendar.Week, "FY2027 W02", "2026-04-06", "2026-04-12"},
		{civil.April, calendar.ByEnd, "2026-03-31", calendar.Week, "FY2026 W53", "2026-03-30", "2026-03-31"},
	} {
		cal := fiscalOf(t, c.starts, c.namedBy)
		period := cal.Locate(c.unit, civiltest.Day(c.day))
		assert.Equal(t, c.label, cal.Label(period), "%s", c.day)
		assert.Equal(t, c.first, period.First.String(), "%s", c.day)
		assert.Equal(t, c.last, period.Last.String(), "%s", c.day)
	}
}

func TestLabels(t *testing.T) {
	for template, want := range map[string]string{
		"FY{yy}":                     "FY26",
		"{start}/{end_yy}":           "2025/26",
		"{start_yy}-{end}":           "25-2026",
		"Year {year:06}":             "Year 002026",
		"from {start} to {end} {yy}": "from 2025 to 2026 26",
	} {
		cal, err := calendar.NewFiscalMonths(calendar.FiscalMonths{Name: "fiscal", Starts: civil.April, Labels: calendar.Labels{calendar.Year: template}, Weeks: calendar.ISOWeeks})
		require.NoError(t, err)
		assert.Equal(t, want, cal.Label(cal.Locate(calendar.Year, civiltest.Day("2025-06-01"))))
		assert.Equal(t, want+" P03", cal.Label(cal.Locate(calendar.Month, civiltest.Day("2025-06-01"))))
	}
	for template, fault := range map[string]string{
		"FY{yyyy}":     `label "FY{yyyy}": unknown field {yyyy}; the fields are year, yy, start, start_yy, end, end_yy, year_label, period`,
		"FY{yy":        `label "FY{yy" has a { without a }`,
		"FY}":          `label "FY}" has a } without a {`,
		"{year:2}":     `label "{year:2}": {year} can be padded with :01 to :09, not ":2"`,
		"FY":           `label "FY" is the same for every year: add {year}, {yy}, {start}, {start_yy}, {end} or {end_yy}`,
		"{yy}{period}": `label "{yy}{period}": {period} and {year_label} have no meaning in the label of a year`,
	} {
		_, err := calendar.NewFiscalMonths(calendar.FiscalMonths{Name: "fiscal", Starts: civil.April, Labels: calendar.Labels{calendar.Year: template}, Weeks: calendar.ISOWeeks})
		assert.EqualError(t, err, fault)
	}
	gregorian := calendar.Gregorian()
	someDay := civiltest.Day("2026-03-09")
	for unit, want := range map[calendar.Unit]string{calendar.Day: "2026-03-09", calendar.Month: "2026-03", calendar.Quarter: "2026 Q1", calendar.Half: "2026 H1", calendar.Year: "2026"} {
		assert.Equal(t, want, gregorian.Label(gregorian.Locate(unit, someDay)))
	}
	assert.Equal(t, "2026", calendar.ISO().Label(calendar.ISO().Locate(calendar.Year, someDay)))
}

func TestFaultyFiscalCalendars(t *testing.T) {
	_, err := calendar.NewFiscalMonths(calendar.FiscalMonths{Starts: civil.April, Weeks: calendar.ISOWeeks})
	assert.EqualError(t, err, "a fiscal calendar needs a name")
	_, err = calendar.NewFiscalMonths(calendar.FiscalMonths{Name: "fiscal", Starts: 13, Weeks: calendar.ISOWeeks})
	assert.EqualError(t, err, "the first month must be from 1 to 12, not 13")
	_, err = calendar.NewFiscalMonths(calendar.FiscalMonths{Name: "fiscal", Starts: 4, Weeks: calendar.WeekRule{1, 0}})
	assert.Error(t, err)
	for fault, fiscal := range map[string]calendar.FiscalMonths{
		"the day must be from 1 to 28, which every month has, not 31":                                                  {StartDay: 31},
		"quarters must have a value for each of the 12 periods of the year, not for 3":                                 {Groups: calendar.Groups{calendar.Quarter: {1, 2, 3}}},
		"quarters must count up from 1 without gaps, such as 1, 1, 1, 2, 2, 2, not 1, 1, 1, 1, 1, 1, 3, 3, 3, 4, 4, 4": {Groups: calendar.Groups{calendar.Quarter: {1, 1, 1, 1, 1, 1, 3, 3, 3, 4, 4, 4}}},
		"quarters make 3 periods, not 4":                                        {Groups: calendar.Groups{calendar.Quarter: {1, 1, 1, 1, 2, 2, 2, 2, 3, 3, 3, 3}}},
		"a quarter spans both halves: period 6 starts a half but not a quarter": {Groups: calendar.Groups{calendar.Quarter: {1, 1, 1, 2, 2, 2, 3, 3, 3, 4, 4, 4}, calendar.Half: {1, 1, 1, 1, 1, 2, 2, 2, 2, 2, 2, 2}}},
		`label "Month" is the same for every month: add {period}`:               {Labels: calendar.Labels{calendar.Month: "Month"}},
	} {
		fiscal.Name, fiscal.Starts, fiscal.Weeks = "fiscal", civil.April, calendar.ISOWeeks
		_, err := calendar.NewFiscalMonths(fiscal)
		assert.EqualError(t, err, fault)
	}
	for fault, fiscal := range map[string]calendar.FiscalWeeks{
		"the weeks must add up to 52, not 48":                                          {Split: []int{4, 4, 4, 4, 4, 4, 4, 4, 4, 4, 4, 4}},
		"a period must have at least one week, not 0":                                  {Split: []int{52, 0}},
		"the period of the leap week must be from 1 to 13, not 14":                     {Split: repeated(4), LeapWeek: 14},
		"quarters must have a value for each of the 13 periods of the year, not for 4": {Split: repeated(4), Groups: calendar.Groups{calendar.Quarter: {1, 2, 3, 4}}},
		"the year must end near a date that every year has, not day 29 of month 2":     {NearestMonth: 2, NearestDay: 29, Split: repeated(4)},
	} {
		fiscal.Name, fiscal.EndsOn = "retail", civil.Saturday
		if fiscal.NearestMonth == 0 {
			fiscal.LastIn = civil.January
		}
		_, err := calendar.NewFiscalWeeks(fiscal)
		assert.EqualError(t, err, fault)
	}
	plain := fiscalOf(t, civil.January, calendar.ByStart)
	april := fiscalOf(t, civil.April, calendar.ByStart)
	_, err = calendar.NewSequence("fiscal", plain, calendar.Since{civiltest.Day("2019-04-01"), april})
	assert.EqualError(t, err, "the year that ends on 2019-03-31 is numbered 2019 and the one from 2019-04-01 on 2019: name the years after the change differently, or declare the short year")
	_, err = calendar.NewDeclared(calendar.DeclaredYears{Name: "x", Weeks: calendar.ISOWeeks, Years: []calendar.DeclaredYear{
		{Year: 2024, Starts: []civil.Day{civiltest.Day("2024-01-01")}, Ends: civiltest.Day("2024-06-30")},
		{Year: 2025, Starts: []civil.Day{civiltest.Day("2024-07-02")}, Ends: civiltest.Day("2024-12-31")},
	}})
	assert.EqualError(t, err, "the year 2025 starts on 2024-07-02, but the one before it ends on 2024-06-30: years must be contiguous")
}

func TestGrains(t *testing.T) {
	set, err := calendar.NewSet(calendar.ISOWeeks, fiscalOf(t, civil.April, calendar.ByEnd))
	require.NoError(t, err)
	for _, name := range []string{"day", "week", "iso.week", "month", "quarter", "half", "year", "week.year", "iso.year",
		"fiscal.week", "fiscal.month", "fiscal.quarter", "fiscal.half", "fiscal.year"} {
		grain, err := set.Grain(name)
		require.NoError(t, err)
		assert.Equal(t, name, grain.String())
	}
	grain, err := set.Grain(" Fiscal.Month ")
	require.NoError(t, err)
	assert.Equal(t, "fiscal.month", grain.String())
	period := grain.Locate(civiltest.Day("2026-05-09"))
	assert.Equal(t, "FY2027 P02", grain.Label(period))
	assert.Equal(t, period, grain.At(period.Number))
	assert.Equal(t, 31, period.Days())
	_, err = set.Grain("fortnight")
	assert.ErrorContains(t, err, `unknown grain "fortnight"; the grains are year, half, quarter, month, day, week.year, week, iso.year, iso.week, fiscal.year`)
	_, err = calendar.NewSet(calendar.ISOWeeks, fiscalOf(t, civil.April, calendar.ByEnd), fiscalOf(t, civil.May, calendar.ByEnd))
	assert.EqualError(t, err, `there are two calendars named "fiscal"`)
}

func TestWholeYears(t *testing.T) {
	set, err := calendar.NewSet(calendar.ISOWeeks, fiscalOf(t, civil.February, calendar.ByStart))
	require.NoError(t, err)
	from, to := set.WholeYears(civiltest.Day("2024-01-15"), civiltest.Day("2026-03-05"))
	// January 2024 lies in the fiscal year from February 2023.
	assert.Equal(t, "2023-02-01", from.String())
	assert.Equal(t, "2027-01-31", to.String())
}

// Years of padding are those of each calendar: twelve months before the first day of a year of weeks may lie in the year before the last.
func TestPaddedYears(t *testing.T) {
	weeks, err := calendar.NewFiscalWeeks(calendar.FiscalWeeks{Name: "fiscal", EndsOn: civil.Saturday, NearestMonth: civil.January, NearestDay: 31, Split: repeated(4, 5, 4)})
	require.NoError(t, err)
	set, err := calendar.NewSet(calendar.ISOWeeks, weeks)
	require.NoError(t, err)
	// The year from 2025-02-02 follows the one from 2024-02-04; 2024-02-02 is in the one before that, of 53 weeks.
	from, to := set.PaddedYears(civiltest.Day("2025-02-02"), civiltest.Day("2025-12-31"), 1)
	assert.Equal(t, "2024-01-01", from.String(), "not 2023-01-29")
	assert.Equal(t, "2027-01-30", to.String())
	for _, span := range [][2]string{{"2025-02-02", "2025-12-31"}, {"2024-01-15", "2026-03-05"}} {
		from, to = set.PaddedYears(civiltest.Day(span[0]), civiltest.Day(span[1]), 0)
		first, last := set.WholeYears(civiltest.Day(span[0]), civiltest.Day(span[1]))
		assert.Equal(t, [2]civil.Day{first, last}, [2]civil.Day{from, to})
	}
}

func BenchmarkLocate(b *testing.B) {
	cal := fiscalOf(b, civil.April, calendar.ByEnd)
	for _, unit := range cal.Units() {
		b.Run(unit.String(), func(b *testing.B) {
			d := civil.MustOf(2000, 1, 1)
			for b.Loop() {
				cal.Locate(unit, d)
				d++
				if d > 40000 {
					d = 0
				}
			}
		})
	}
}
