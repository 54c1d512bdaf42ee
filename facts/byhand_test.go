package facts_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/calendar"
	"roundyear/civil"
	"roundyear/civil/civiltest"
	"roundyear/daysoff"
	"roundyear/facts"
)

// Cases worked out by hand: what a period is held against, and whether it can be compared.
func TestComparisonsByHand(t *testing.T) {
	taxYear, err := calendar.NewFiscalMonths(calendar.FiscalMonths{Name: "tax", Starts: civil.April, StartDay: 6, Weeks: calendar.WeekRule{First: civil.Monday, MinDays: 4}})
	require.NoError(t, err)
	declared, err := calendar.NewDeclared(calendar.DeclaredYears{Name: "own", Weeks: calendar.WeekRule{First: civil.Monday, MinDays: 4}, Years: []calendar.DeclaredYear{
		{Year: 1, Starts: []civil.Day{day("2024-01-10"), day("2024-06-01")}, Ends: day("2024-12-31")},
		{Year: 2, Starts: []civil.Day{day("2025-01-01"), day("2025-05-15")}, Ends: day("2025-12-20")},
	}})
	require.NoError(t, err)
	easter := &facts.Event{Name: "Easter"}
	for year := 2020; year < 2030; year++ {
		easter.Days = append(easter.Days, daysoff.Easter(year))
	}
	grains := map[string]calendar.Grain{"month": grain(t, "month"), "day": grain(t, "day"), "quarter": grain(t, "quarter"), "retail.week": retail(t, calendar.Week), "retail.month": retail(t, calendar.Month), "retail.year": retail(t, calendar.Year),
		"tax.month": {Calendar: taxYear, Unit: calendar.Month}, "own.month": {Calendar: declared, Unit: calendar.Month}, "own.year": {Calendar: declared, Unit: calendar.Year}}
	for _, c := range []struct {
		what, grain, asOf, against string
		toDate, align              bool
		// rows are days and amounts; of the period that begins on at the other value, the change and whether it can be compared are wanted.
		rows, at, want string
	}{
		{"leap day: 29 February is held against 28 February", "day", "2024-03-05", "year-ago", false, false, "2023-02-27 1, 2023-02-28 4, 2024-02-29 9", "2024-02-29", "4 5 true"},
		{"leap day: 28 February 2025 against that of 2024, not the 29th", "day", "2025-03-05", "year-ago", false, false, "2024-02-20 1, 2024-02-28 4, 2024-02-29 100, 2025-02-28 9", "2025-02-28", "4 5 true"},
		{"leap day: February to the 29th goes to the 28th of others", "month", "2024-02-29", "year-ago", true, false, "2023-01-01 1, 2023-02-28 4, 2024-02-29 9", "2024-02-01", "4 5 true"},
		{"the 31st: to date, April ends on the 30th", "month", "2026-05-31", "previous", true, false, "2026-01-01 1, 2026-04-30 7, 2026-05-31 9", "2026-05-01", "7 2 true"},
		{"the 31st: to date, the 30th of May leaves the 31st of March out", "month", "2026-04-30", "previous", true, false, "2026-01-01 1, 2026-03-31 50, 2026-03-30 7, 2026-04-30 9", "2026-04-01", "7 2 true"},
		{"53 weeks: week 1 after the long year, by number", "retail.week", "2024-03-01", "year-ago", false, false, "2023-01-20 1, 2023-01-29 3, 2023-02-05 5, 2024-02-04 9", "2024-02-04", "3 6 true"},
		{"53 weeks: week 1 after the long year, restated", "retail.week", "2024-03-01", "year-ago-restated", false, false, "2023-01-20 1, 2023-01-29 3, 2023-02-05 5, 2024-02-04 9", "2024-02-04", "5 4 true"},
		{"53 weeks: week 53 has no week a year ago", "retail.week", "2024-03-01", "year-ago", false, false, "2023-01-20 1, 2023-01-29 3, 2024-01-28 9", "2024-01-28", "- - false"},
		{"53 weeks: nor has it one that is restated, which would be in its own year", "retail.week", "2024-03-01", "year-ago-restated", false, false, "2023-01-20 1, 2023-01-29 3, 2024-01-28 9", "2024-01-28", "- - false"},
		{"53 weeks: but the same weekdays are there", "retail.week", "2024-03-01", "same-weekday-year-ago", false, false, "2023-01-20 1, 2023-01-29 3, 2024-01-28 9", "2024-01-28", "3 6 true"},
		{"53 weeks: week 52 of the year before the long one is held against its own number", "retail.week", "2023-03-01", "year-ago", false, false, "2022-01-01 1, 2022-01-23 3, 2023-01-22 9", "2023-01-22", "3 6 true"},
		{"53 weeks: period 12 of five weeks against the one of four days by number", "retail.month", "2024-03-01", "year-ago", false, false, "2022-12-01 1, 2023-01-01 3, 2024-02-03 9", "2023-12-31", "3 6 true"},
		{"53 weeks: restated, the leap week matches none, so that it is not compared", "retail.month", "2024-03-01", "year-ago-restated", false, false, "2022-12-01 1, 2023-01-01 3, 2024-02-03 9", "2023-12-31", "3 - false"},
		{"a fiscal year from the 6th: the month from 6 April", "tax.month", "2026-06-01", "year-ago", false, false, "2025-01-01 1, 2025-04-05 50, 2025-04-06 7, 2025-05-05 1, 2026-04-06 9", "2026-04-06", "8 1 true"},
		{"a fiscal year from the 6th, as of the 20th: to date up to the 20th", "tax.month", "2026-04-20", "year-ago", true, false, "2025-01-01 1, 2025-04-20 7, 2025-04-21 50, 2026-04-06 9", "2026-04-06", "7 2 true"},
		{"a year declared by hand: period 2 against period 2", "own.month", "2025-12-31", "year-ago", false, false, "2024-01-10 1, 2024-06-01 7, 2025-05-15 9", "2025-05-15", "7 2 true"},
		{"the first year has none before it", "own.year", "2024-12-31", "previous", false, false, "2024-01-10 1", "2024-01-10", "- - false"},
		{"the first year with facts", "month", "2026-06-01", "year-ago", false, false, "2026-01-01 1, 2026-03-03 9", "2026-03-01", "- - false"},
		{"as of the first day of a period, the one before is complete", "month", "2026-04-01", "previous", false, false, "2026-01-01 1, 2026-02-02 7, 2026-03-03 9", "2026-03-01", "7 2 true"},
		{"as of the first day of a period, to date is one day", "month", "2026-04-01", "previous", true, false, "2026-01-01 1, 2026-03-01 7, 2026-03-02 50, 2026-04-01 9", "2026-04-01", "7 2 true"},
		{"as of the last day of a period, it is running", "month", "2026-03-31", "previous", false, false, "2026-01-01 1, 2026-02-02 7, 2026-03-03 9", "2026-03-01", "7 - false"},
		{"as of the last day of a period, to date it is whole", "month", "2026-03-31", "previous", true, false, "2026-01-01 1, 2026-02-28 7, 2026-03-31 9", "2026-03-01", "7 2 true"},
		{"a Monday against the same weekday a year ago", "day", "2026-03-10", "same-weekday-year-ago", false, false, "2025-03-09 50, 2025-03-10 7, 2026-03-09 9", "2026-03-09", "7 2 true"},
		{"Easter in March 2024 and in April 2025: Easter Sunday", "day", "2025-05-01", "year-ago", false, true, "2024-01-01 1, 2024-03-31 7, 2025-04-20 9", "2025-04-20", "7 2 true"},
		{"Easter in April 2023 and in March 2024: Good Friday", "day", "2024-05-01", "year-ago", false, true, "2023-01-01 1, 2023-04-07 7, 2024-03-29 9", "2024-03-29", "7 2 true"},
		{"Easter: March 2024 has Easter, and so has what it is held against, 9 March to 9 April 2023", "month", "2024-05-01", "year-ago", false, true, "2023-01-01 1, 2023-03-09 50, 2023-03-10 2, 2023-04-09 5, 2023-04-10 50, 2024-03-31 9", "2024-03-01", "7 2 true"},
		{"two Easters ago", "day", "2025-05-01", "two-years-ago", false, true, "2023-01-01 1, 2023-04-09 7, 2025-04-20 9", "2025-04-20", "7 2 true"},
		{"a negative base: the change is of its size", "month", "2026-04-01", "previous", false, false, "2026-01-01 1, 2026-02-02 -7, 2026-03-03 9", "2026-03-01", "-7 16 true"},
		{"nothing before: there is a change, of no percentage", "month", "2026-04-01", "previous", false, false, "2026-01-01 1, 2026-03-03 9", "2026-03-01", "0 9 true"},
	} {
		comparison, err := facts.ParseComparison(c.against)
		require.NoError(t, err)
		o := facts.Operation{Grain: grains[c.grain], AsOf: day(c.asOf), ToDate: c.toDate, Against: []facts.Comparison{comparison}, Measures: []facts.Measure{{Kind: facts.Sum, Name: "sum", Gap: facts.Zero}}}
		if c.align {
			o.Align = easter
		}
		own := facts.NewTally(o)
		for i, text := range strings.Split(c.rows, ", ") {
			on, amount, _ := strings.Cut(text, " ")
			require.NoError(t, own.Add(day(on), facts.Place{Day: day(on), Row: int64(i)}, nil, [][]byte{[]byte(amount)}))
		}
		r := result(t, own)
		found := false
		for row := range r.Rows() {
			if row[1].String() != c.at {
				continue
			}
			found = true
			texts := []string{row[4].String(), row[5].String(), row[7].String()}
			for i, text := range texts {
				if text == "" {
					texts[i] = "-"
				}
			}
			assert.Equal(t, c.want, strings.Join(texts, " "), c.what)
		}
		assert.True(t, found, "%s: there is no period from %s", c.what, c.at)
	}
}

// A leap week in one of two periods is told.
func TestLeapWeeksAreTold(t *testing.T) {
	o := facts.Operation{Grain: retail(t, calendar.Month), AsOf: day("2025-03-05"), Against: []facts.Comparison{facts.YearAgo}, Measures: []facts.Measure{{Kind: facts.Count, Name: "n", Gap: facts.Zero}}}
	own := facts.NewTally(o)
	for on := day("2022-01-01"); on < o.AsOf; on++ {
		require.NoError(t, own.Add(on, facts.Place{Day: on}, nil, [][]byte{nil}))
	}
	told := map[string]bool{}
	for row := range result(t, own).Rows() {
		if row[8].String() == "true" {
			told[row[0].String()+" "+row[3].String()+" "+row[4].String()] = true
		}
	}
	assert.Equal(t, map[string]bool{"FY2024 P12 35 28": true, "FY2025 P12 28 35": true}, told, "the year that ends on 3 February 2024 has 53 weeks")
}

// Days are days of the calendar, of those on which clocks are changed, too.
func TestPerDayOverChangesOfTheClock(t *testing.T) {
	o := facts.Operation{Grain: grain(t, "month"), AsOf: day("2026-12-01"), Measures: []facts.Measure{{Kind: facts.Sum, Name: "sum", Gap: facts.Zero}}, Rates: []facts.Rate{{Name: "day", Days: func(_ []string, p calendar.Period) (int, bool) { return p.Days(), true }}}}
	own := facts.NewTally(o)
	for _, on := range []string{"2026-03-29", "2026-10-25"} { // both in Dublin
		require.NoError(t, own.Add(day(on), facts.Place{Day: day(on)}, nil, [][]byte{[]byte("31")}))
	}
	for row := range result(t, own).Rows() {
		if row[0].String() == "2026-03" || row[0].String() == "2026-10" {
			assert.Equal(t, "31 1.00 31", row[3].String()+" "+row[4].String()+" "+row[5].String())
		}
	}
}

func TestEvents(t *testing.T) {
	yearly := &facts.Event{Days: []civil.Day{day("2022-10-02"), day("2023-10-08"), day("2025-10-05"), day("2026-10-04")}}
	for _, c := range []struct{ on, want string }{
		{"2023-10-08", "2022-10-02"}, {"2023-10-01", "2022-09-25"}, {"2022-10-02", ""}, {"2025-10-05", ""}, {"2026-10-10", "2025-10-11"}, {"2024-10-06", ""}, {"2026-05-01", "2025-05-02"}, {"2026-03-01", ""},
	} {
		got, ok := yearly.Before(day(c.on))
		assert.Equal(t, c.want != "", ok, c.on)
		if ok {
			assert.Equal(t, c.want, got.String(), c.on)
		}
	}
	_, ok := (&facts.Event{}).On(day("2026-01-01"))
	assert.False(t, ok)
	// No day is that of two others.
	for _, event := range []*facts.Event{yearly} {
		seen := map[civil.Day]civil.Day{}
		for on := day("2021-01-01"); on < day("2028-01-01"); on++ {
			if before, ok := event.Before(on); ok {
				require.NotContains(t, seen, before, "%s and %s", on, seen[before])
				seen[before] = on
			}
		}
		assert.Greater(t, len(seen), 600)
	}
}

func day(text string) civil.Day { return civiltest.Day(text) }
