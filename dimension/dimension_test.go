package dimension_test

import (
	"database/sql"
	"flag"
	"fmt"
	"os"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	_ "modernc.org/sqlite"

	"roundyear/calendar"
	"roundyear/cell"
	"roundyear/civil"
	"roundyear/dimension"
	"roundyear/language"
)

func catalogue(t testing.TB, starts civil.Month, namedBy calendar.NamedBy, rule calendar.WeekRule) *dimension.Catalogue {
	t.Helper()
	fiscal, err := calendar.NewFiscalMonths(calendar.FiscalMonths{Name: "fiscal", Starts: starts, NamedBy: namedBy, Weeks: rule})
	require.NoError(t, err)
	retail, err := calendar.NewFiscalWeeks(calendar.FiscalWeeks{Name: "retail", EndsOn: civil.Saturday, NearestMonth: civil.January, NearestDay: 31,
		Split: []int{4, 5, 4, 4, 5, 4, 4, 5, 4, 4, 5, 4}, NamedBy: calendar.ByStart})
	require.NoError(t, err)
	set, err := calendar.NewSet(rule, fiscal, retail)
	require.NoError(t, err)
	dutch, err := language.Of("nl")
	require.NoError(t, err)
	label := func(name, pattern string) dimension.Label {
		parsed, err := language.ParsePattern(pattern)
		require.NoError(t, err)
		return dimension.Label{name, parsed}
	}
	c, err := dimension.NewCatalogue(dimension.Settings{Calendars: set, Weekend: []civil.Weekday{civil.Saturday, civil.Sunday},
		Languages: []*language.Names{language.English, dutch}, AsOf: civil.MustOf(2026, civil.March, 15),
		Labels: []dimension.Label{label("date_label", "d MMM yyyy"), label("month_text", "LLLL yyyy"), label("week_text", "'w'w YYYY")},
	})
	require.NoError(t, err)
	return c
}

func valuesOf(c *dimension.Catalogue, day civil.Day) map[string]string {
	values := map[string]string{}
	for row := range c.Days(c.Attributes(), day, day) {
		for i, attribute := range c.Attributes() {
			values[attribute.Name] = row[i].String()
		}
	}
	return values
}

// One day with everything that is known about it, and why, checked by hand:
// Saturday, 28 February 2026. Weeks begin on Sunday, the fiscal year began on
// Sunday, 1 February, and so did the retail year.
func TestEveryAttributeOfADay(t *testing.T) {
	c := catalogue(t, civil.February, calendar.ByStart, calendar.WeekRule{First: civil.Sunday, MinDays: 1})
	var lines strings.Builder
	for _, e := range c.Explain(c.Attributes(), civil.MustOf(2026, civil.February, 28)) {
		fmt.Fprintf(&lines, "%s\t%s\t%s\t%s\n", e.Attribute.Group, e.Attribute.Name, e.Value, e.Because)
	}
	const path = "testdata/2026-02-28.tsv"
	if *update {
		require.NoError(t, os.WriteFile(path, []byte(lines.String()), 0o666))
	}
	want, err := os.ReadFile(path)
	require.NoError(t, err)
	assert.Equal(t, string(want), lines.String())
}

var update = flag.Bool("update", false, "write what the tests find into testdata; read the difference")

func TestDaysAreContiguousAndBothEndsIn(t *testing.T) {
	c := catalogue(t, civil.April, calendar.ByEnd, calendar.ISOWeeks)
	dates, err := c.Select([]string{"date"})
	require.NoError(t, err)
	var days []string
	for row := range c.Days(dates, civil.MustOf(2024, 2, 27), civil.MustOf(2024, 3, 2)) {
		days = append(days, row[0].String())
	}
	assert.Equal(t, []string{"2024-02-27", "2024-02-28", "2024-02-29", "2024-03-01", "2024-03-02"}, days)
}

// What the catalogue says of an attribute holds for its values: the type, the
// grain over which it does not change, and the key that its labels sort by.
func TestTheCatalogueSaysTheTruth(t *testing.T) {
	for _, rule := range []calendar.WeekRule{calendar.ISOWeeks, {First: civil.Sunday, MinDays: 1}} {
		c := catalogue(t, civil.October, calendar.ByEnd, rule)
		position := map[string]int{}
		for i, attribute := range c.Attributes() {
			assert.NotContains(t, position, attribute.Name)
			position[attribute.Name] = i
			assert.Regexp(t, `^[A-Z].*\.$`, attribute.Meaning, attribute.Name)
		}
		type held struct {
			number int
			value  string
		}
		constant := map[string]held{}
		labelOfKey := map[string]map[string]string{}
		for _, attribute := range c.Attributes() {
			labelOfKey[attribute.Name] = map[string]string{}
			if attribute.SortBy != "" {
				require.Contains(t, position, attribute.SortBy, attribute.Name)
				key := c.Attributes()[position[attribute.SortBy]]
				assert.Equal(t, cell.Integer, key.Type, "%s sorts by %s", attribute.Name, key.Name)
			}
		}
		// Each day by itself, so that every value is worked out afresh.
		for day := civil.MustOf(2023, 1, 1); day <= civil.MustOf(2029, 1, 1); day++ {
			var row []cell.Value
			for row = range c.Days(c.Attributes(), day, day) {
			}
			for i, attribute := range c.Attributes() {
				value := row[i].String()
				if row[i].Type() != attribute.Type && !row[i].IsBlank() {
					t.Fatalf("%s is a %s, not a %s", attribute.Name, row[i].Type(), attribute.Type)
				}
				number := attribute.SameFor.Locate(day).Number
				before, seen := constant[attribute.Name]
				if seen && before.number == number && before.value != value {
					t.Fatalf("%s changes from %s to %s within a %s, at %s", attribute.Name, before.value, value, attribute.SameFor, day)
				}
				constant[attribute.Name] = held{number, value}
				if attribute.SortBy != "" {
					key := row[position[attribute.SortBy]].String()
					if label, seen := labelOfKey[attribute.Name][key]; seen && label != value {
						t.Fatalf("%s: key %s stands for %s and %s", attribute.Name, key, label, value)
					}
					labelOfKey[attribute.Name][key] = value
				}
			}
		}
		for _, attribute := range c.Attributes() {
			labels := map[string]string{}
			for key, label := range labelOfKey[attribute.Name] {
				other, seen := labels[label]
				assert.False(t, seen, "%s %s has the keys %s and %s", attribute.Name, label, key, other)
				labels[label] = key
			}
		}
	}
}

// SQLite's own date functions as a witness, for every day of 1890 to 2110.
func TestAttributesAgreeWithSQLite(t *testing.T) {
	db, err := sql.Open("sqlite", ":memory:")
	require.NoError(t, err)
	defer db.Close()
	rows, err := db.Query(`
		WITH RECURSIVE days(d) AS (SELECT '1890-01-01' UNION ALL SELECT date(d, '+1 day') FROM days WHERE d < '2110-12-31')
		SELECT d || '|' || strftime('%Y%m%d', d) || '|' || ((strftime('%m', d) + 2) / 3) || '|' || CAST(strftime('%j', d) AS INTEGER)
			|| '|' || strftime('%G-W%V', d) || '|' || strftime('%u', d)
			|| '|' || date(d, 'start of month') || '|' || date(d, 'start of month', '+1 month', '-1 day')
			|| '|' || CAST(strftime('%Y', d, '+3 months') AS INTEGER) || '|' || (CAST(strftime('%m', d, 'start of month', '+3 months') AS INTEGER))
			|| '|' || (julianday(date(d, 'start of year', '+1 year')) - julianday(date(d, 'start of year')) = 366)
			|| '|' || CAST(julianday(d, '+12 hours') AS INTEGER) || '|' || date(d, '-364 days')
		FROM days`)
	require.NoError(t, err)
	defer rows.Close()
	c := catalogue(t, civil.October, calendar.ByEnd, calendar.ISOWeeks)
	attributes, err := c.Select([]string{"date", "date_key", "quarter", "day_of_year", "iso_week_label", "day_of_week",
		"month_start", "month_end", "fiscal_year", "fiscal_month", "is_leap_year", "julian_day", "date_364_days_ago"})
	require.NoError(t, err)
	count := 0
	for row := range c.Days(attributes, civil.MustOf(1890, 1, 1), civil.MustOf(2110, 12, 31)) {
		require.True(t, rows.Next())
		var witness string
		require.NoError(t, rows.Scan(&witness))
		leap := 0
		if row[10].String() == "true" {
			leap = 1
		}
		ours := fmt.Sprintf("%s|%s|%s|%s|%s|%s|%s|%s|%s|%s|%d|%s|%s",
			row[0], row[1], row[2], row[3], row[4], row[5], row[6], row[7], row[8], row[9], leap, row[11], row[12])
		if ours != witness {
			t.Fatalf("ours %s, SQLite's %s", ours, witness)
		}
		count++
	}
	assert.False(t, rows.Next())
	require.NoError(t, rows.Err())
	assert.Equal(t, 80718, count)
}

func TestValuesOfARangeAreThoseOfItsDays(t *testing.T) {
	c := catalogue(t, civil.April, calendar.ByEnd, calendar.WeekRule{First: civil.Sunday, MinDays: 1})
	day := civil.MustOf(2024, 11, 1)
	for row := range c.Days(c.Attributes(), day, civil.MustOf(2026, 4, 30)) {
		for alone := range c.Days(c.Attributes(), day, day) {
			if !slices.Equal(alone, row) {
				t.Fatalf("%s differs within a range: %v, %v", day, alone, row)
			}
		}
		day++
	}
}

func TestSelect(t *testing.T) {
	c := catalogue(t, civil.April, calendar.ByEnd, calendar.ISOWeeks)
	assert.Equal(t, []string{"core", "labels", "position", "earlier", "weeks", "workdays", "fiscal", "retail", "names_nl", "moving"}, c.Groups())
	chosen, err := c.Select([]string{"date", " Labels", "week_text", "month_name"})
	require.NoError(t, err)
	var names []string
	for _, attribute := range chosen {
		names = append(names, attribute.Name)
		assert.Equal(t, cell.Column{Name: attribute.Name, Type: attribute.Type}, attribute.Column())
	}
	assert.Equal(t, []string{"date", "date_label", "month_text", "week_text", "month_name"}, names)
	all, err := c.Select(nil)
	require.NoError(t, err)
	assert.Len(t, all, len(c.Stable()))
	for _, attribute := range all {
		assert.NotEqual(t, "moving", attribute.Group)
	}
	all, err = c.Select([]string{"all"})
	require.NoError(t, err)
	assert.Len(t, all, len(c.Attributes()))
	_, err = c.Select([]string{"date", "fiscal_moth"})
	var unknown *dimension.UnknownName
	require.ErrorAs(t, err, &unknown)
	assert.Equal(t, "fiscal_moth", unknown.Name)
	assert.Contains(t, unknown.Known, "fiscal_month")
	assert.EqualError(t, err, `unknown attribute or group "fiscal_moth"`)
}

// What explains a value ends with it, and never names a day or period in vain.
func TestEveryValueIsExplained(t *testing.T) {
	c := catalogue(t, civil.October, calendar.ByEnd, calendar.ISOWeeks)
	for _, day := range []civil.Day{civil.MustOf(2024, 2, 3), civil.MustOf(2024, 2, 29), civil.MustOf(2026, 3, 15), civil.MustOf(2027, 1, 2)} {
		values := valuesOf(c, day)
		for _, e := range c.Explain(c.Attributes(), day) {
			want := values[e.Attribute.Name]
			assert.Equal(t, want, e.Value.String())
			if want == "" {
				want = "blank"
			}
			assert.Regexp(t, "^.{10,}, so "+regexp.QuoteMeta(want)+"$", e.Because, e.Attribute.Name)
			assert.NotContains(t, e.Because, "%!", e.Attribute.Name)
		}
	}
}

func TestNamesOfOtherLanguagesStandBesideTheFirst(t *testing.T) {
	values := valuesOf(catalogue(t, civil.April, calendar.ByEnd, calendar.ISOWeeks), civil.MustOf(2026, 3, 9))
	assert.Equal(t, []string{"March", "maart", "maandag", "mrt", "maart", "9 Mar 2026", "March 2026", "w11 2026"}, []string{
		values["month_name"], values["month_name_nl"], values["day_name_nl"], values["fiscal_month_short_nl"], values["retail_month_name_nl"],
		values["date_label"], values["month_text"], values["week_text"]})
}

// The as-of date is 15 March 2026, a Sunday.
func TestWhatMovesWithTheAsOfDay(t *testing.T) {
	c := catalogue(t, civil.February, calendar.ByStart, calendar.ISOWeeks)
	for day, want := range map[civil.Day]map[string]string{
		civil.MustOf(2026, 3, 15): {"day_offset": "0", "is_current_day": "true", "is_future": "false", "month_offset": "0", "is_current_month": "true",
			"is_complete_month": "false", "is_month_to_date": "true", "is_complete_iso_week": "false", "is_current_fiscal_quarter": "true"},
		civil.MustOf(2026, 3, 16): {"day_offset": "1", "is_future": "true", "week_offset": "1", "is_month_to_date": "false", "is_current_month": "true"},
		civil.MustOf(2025, 3, 15): {"year_offset": "-1", "month_offset": "-12", "is_year_to_date": "true", "fiscal_year_offset": "-1", "is_fiscal_year_to_date": "true",
			"is_complete_year": "true", "is_current_year": "false", "is_month_to_date": "true", "quarter_offset": "-4"},
		civil.MustOf(2025, 3, 16): {"is_year_to_date": "false", "is_fiscal_year_to_date": "false", "is_quarter_to_date": "false", "is_half_to_date": "false"},
		// The retail year began on 2026-02-01, so the as-of date is its day 43;
		// day 43 of the year that began on 2025-02-02 is 2025-03-16.
		civil.MustOf(2025, 3, 17): {"is_retail_year_to_date": "false"},
		civil.MustOf(2025, 2, 28): {"is_month_to_date": "false", "is_year_to_date": "true", "fiscal_month_offset": "-13"},
	} {
		values := valuesOf(c, day)
		for name, value := range want {
			assert.Equal(t, value, values[name], "%s of %s", name, day)
		}
	}
	assert.Equal(t, "true", valuesOf(c, civil.MustOf(2025, 3, 16))["is_retail_year_to_date"])
}

func TestCoarserTables(t *testing.T) {
	c := catalogue(t, civil.February, calendar.ByStart, calendar.ISOWeeks)
	from, to := civil.MustOf(2025, 2, 10), civil.MustOf(2026, 1, 31)
	set := c.Calendars()
	for name, v := range map[string]struct {
		rows        int
		key, first  string
		has, hasNot []string
	}{
		"month":          {12, "month_key", "202502", []string{"year", "fiscal_year", "fiscal_month", "month_start", "fiscal_quarter_label", "month_offset", "is_complete_month", "month_name_nl", "month_text"}, []string{"date", "day_of_month", "retail_month", "week", "is_month_to_date"}},
		"fiscal.quarter": {4, "fiscal_quarter_key", "20251", []string{"fiscal_year", "fiscal_quarter_start"}, []string{"month", "quarter", "year", "fiscal_month"}},
		"retail.month":   {12, "retail_month_key", "202501", []string{"retail_year", "retail_quarter_label"}, []string{"retail_week", "month", "fiscal_month"}},
		"year":           {2, "year", "2025", []string{"is_leap_year", "days_in_year"}, []string{"half", "fiscal_year"}},
		"iso.week":       {51, "iso_week_key", "202507", []string{"iso_year", "week", "week_year"}, []string{"month", "fiscal_week"}},
		"retail.week":    {51, "retail_week_key", "202502", []string{"retail_year", "retail_month", "retail_quarter"}, []string{"iso_week", "month"}},
	} {
		grain, err := set.Grain(name)
		require.NoError(t, err)
		held := c.ConstantWithin(c.Attributes(), grain, from, to)
		var names []string
		for _, attribute := range held {
			names = append(names, attribute.Name)
		}
		for _, want := range v.has {
			assert.Contains(t, names, want, name)
		}
		for _, never := range v.hasNot {
			assert.NotContains(t, names, never, name)
		}
		key, ok := c.KeyOf(grain)
		require.True(t, ok, name)
		assert.Equal(t, v.key, key.Name)
		count, place := 0, slices.Index(names, key.Name)
		seen := map[string]bool{}
		for row := range c.Periods(held, grain, from, to) {
			if count == 0 {
				assert.Equal(t, v.first, row[place].String(), name)
			}
			seen[row[place].String()] = true
			count++
		}
		assert.Equal(t, v.rows, count, name)
		assert.Len(t, seen, count, "%s: each key stands once", name)
	}
}

// All that a coarser table says of a period is what the day table says of each
// of its days.
func TestCoarserTablesAgreeWithTheDays(t *testing.T) {
	c := catalogue(t, civil.July, calendar.ByEnd, calendar.WeekRule{First: civil.Sunday, MinDays: 1})
	from, to := civil.MustOf(2023, 1, 1), civil.MustOf(2026, 12, 31)
	for _, grain := range c.Calendars().Grains() {
		held := c.ConstantWithin(c.Attributes(), grain, from, to)
		var periods [][]cell.Value
		for row := range c.Periods(held, grain, from, to) {
			periods = append(periods, slices.Clone(row))
		}
		first := grain.Locate(from).Number
		day := from
		for row := range c.Days(held, from, to) {
			if !slices.Equal(row, periods[grain.Locate(day).Number-first]) {
				t.Fatalf("%s %s: %v, %v", grain, day, row, periods[grain.Locate(day).Number-first])
			}
			day++
		}
	}
}

func TestSpecialRows(t *testing.T) {
	c := catalogue(t, civil.April, calendar.ByEnd, calendar.ISOWeeks)
	attributes, err := c.Select([]string{"date_key", "date", "month_key", "month", "month_name", "is_workday"})
	require.NoError(t, err)
	text := func(s dimension.SpecialRow) string {
		var texts []string
		for _, value := range s.Values(attributes) {
			texts = append(texts, value.String())
		}
		return strings.Join(texts, "|")
	}
	assert.Equal(t, "-1||-1||Unknown|false", text(dimension.Unknown))
	assert.Equal(t, "-2||-2||Not yet|false", text(dimension.NotYet))
	assert.Equal(t, "0||0|0|n/a|", text(dimension.SpecialRow{Key: 0, Label: "n/a", BlankFlags: true, NumbersAreKey: true}))
}

func TestDaysThatNoYearIsDeclaredForAreBlank(t *testing.T) {
	declared, err := calendar.NewDeclared(calendar.DeclaredYears{Name: "group", Weeks: calendar.ISOWeeks, Years: []calendar.DeclaredYear{
		{Year: 2024, Starts: []civil.Day{civil.MustOf(2024, 1, 1), civil.MustOf(2024, 5, 1)}, Ends: civil.MustOf(2024, 9, 30)},
	}})
	require.NoError(t, err)
	set, err := calendar.NewSet(calendar.ISOWeeks, declared)
	require.NoError(t, err)
	c, err := dimension.NewCatalogue(dimension.Settings{Calendars: set})
	require.NoError(t, err)
	assert.Equal(t, "2024", valuesOf(c, civil.MustOf(2024, 9, 30))["group_year"])
	assert.Equal(t, "", valuesOf(c, civil.MustOf(2024, 10, 1))["group_year"])
	assert.Equal(t, "2024", valuesOf(c, civil.MustOf(2024, 10, 1))["year"])
}

func TestTwoAttributesOfOneNameAreRefused(t *testing.T) {
	set, err := calendar.NewSet(calendar.ISOWeeks)
	require.NoError(t, err)
	pattern, err := language.ParsePattern("yyyy")
	require.NoError(t, err)
	_, err = dimension.NewCatalogue(dimension.Settings{Calendars: set, Labels: []dimension.Label{{"week_start", pattern}}})
	assert.EqualError(t, err, `two attributes would be named "week_start", one in group labels and one in group weeks: rename the calendar or the label`)
}

func TestDatesBeyondTheYear9999AreBlank(t *testing.T) {
	values := valuesOf(catalogue(t, civil.April, calendar.ByEnd, calendar.ISOWeeks), civil.MaxDay)
	assert.Equal(t, "9999-12-31", values["date"])
	assert.Equal(t, "", values["fiscal_year_end"])
}

func TestCoverage(t *testing.T) {
	days := func(texts ...string) *dimension.Coverage {
		var c dimension.Coverage
		for _, text := range texts {
			day, err := civil.Parse(text)
			require.NoError(t, err)
			c.Add(day)
		}
		return &c
	}
	for _, c := range []struct {
		name        string
		days        []string
		first, last string
		sentinels   int
	}{
		{"plain", []string{"2025-03-01", "2024-07-09", "2026-01-31"}, "2024-07-09", "2026-01-31", 0},
		{"no date", []string{"2025-03-01", "9999-12-31", "1900-01-01", "9999-12-31", "2025-04-01"}, "2025-03-01", "2025-04-01", 2},
		{"a true first of the year 1970", []string{"1970-01-01", "1970-01-05"}, "1970-01-01", "1970-01-05", 0},
		{"nothing else", []string{"1900-01-01"}, "1900-01-01", "1900-01-01", 0},
	} {
		coverage := days(c.days...)
		first, last, ok := coverage.Range()
		require.True(t, ok, c.name)
		assert.Equal(t, c.first, first.String(), c.name)
		assert.Equal(t, c.last, last.String(), c.name)
		assert.Len(t, coverage.Sentinels(), c.sentinels, c.name)
	}
	_, _, ok := (&dimension.Coverage{}).Range()
	assert.False(t, ok)

	joined := days("2025-03-01", "9999-12-31")
	joined.Join(*days("2024-01-01", "9999-12-31", "1900-01-01"))
	first, last, _ := joined.Range()
	assert.Equal(t, "2024-01-01 2025-03-01", first.String()+" "+last.String())
	assert.Equal(t, []dimension.DayCount{{civil.MustOf(1900, 1, 1), 1}, {civil.MaxDay, 2}}, joined.Sentinels())
}

func BenchmarkBuild(b *testing.B) {
	c := catalogue(b, civil.April, calendar.ByEnd, calendar.ISOWeeks)
	text := make([]byte, 0, 4096)
	days := 0
	for b.Loop() {
		for row := range c.Days(c.Attributes(), civil.MustOf(2000, 1, 1), civil.MustOf(2009, 12, 31)) {
			text = text[:0]
			for _, value := range row {
				text = value.AppendText(text)
			}
			days++
		}
	}
	b.ReportMetric(float64(b.Elapsed().Nanoseconds())/float64(days), "ns/day")
}
