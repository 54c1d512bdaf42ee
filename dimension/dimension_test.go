package dimension

import (
	"database/sql"
	"fmt"
	"slices"
	"strconv"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	_ "modernc.org/sqlite"

	"roundyear/calendar"
	"roundyear/cell"
	"roundyear/civil"
)

func catalogue(t testing.TB, starts civil.Month, namedBy calendar.NamedBy, rule calendar.WeekRule) *Catalogue {
	t.Helper()
	fiscal, err := calendar.NewFiscalMonths(calendar.FiscalMonths{Name: "fiscal", Starts: starts, NamedBy: namedBy, Weeks: rule})
	require.NoError(t, err)
	set, err := calendar.NewSet(rule, fiscal)
	require.NoError(t, err)
	return NewCatalogue(Settings{Calendars: set, Weekend: []civil.Weekday{civil.Saturday, civil.Sunday}})
}

func valuesOf(c *Catalogue, day civil.Day) map[string]string {
	values := map[string]string{}
	for row := range c.Days(c.Attributes(), day, day) {
		for i, attribute := range c.Attributes() {
			values[attribute.Name] = row[i].String()
		}
	}
	return values
}

// One day with everything that is known about it, worked out by hand.
func TestEveryAttributeOfADay(t *testing.T) {
	c := catalogue(t, civil.February, calendar.ByStart, calendar.WeekRule{First: civil.Sunday, MinDays: 1})
	// Saturday, 28 February 2026; the fiscal year began on Sunday, 1 February.
	values := valuesOf(c, civil.MustOf(2026, civil.February, 28))
	weekBefore := valuesOf(c, civil.MustOf(2026, civil.February, 21))
	assert.Equal(t, number(t, weekBefore["fiscal_running_week"])+1, number(t, values["fiscal_running_week"]))
	delete(values, "fiscal_running_week")
	assert.Equal(t, map[string]string{
		"date_key": "20260228", "date": "2026-02-28",
		"year": "2026", "half": "1", "half_label": "H1", "half_key": "20261", "half_year_label": "2026 H1",
		"quarter": "1", "quarter_label": "Q1", "quarter_key": "20261", "quarter_year_label": "2026 Q1",
		"month": "2", "month_name": "February", "month_short": "Feb", "month_key": "202602", "month_label": "2026-02", "month_year_short": "Feb 2026",
		"day_of_month": "28", "day_of_quarter": "59", "day_of_year": "59", "day_of_week": "7", "day_name": "Saturday", "day_short": "Sat",
		"nth_weekday_of_month": "4",
		"month_start":          "2026-02-01", "month_end": "2026-02-28", "quarter_start": "2026-01-01", "quarter_end": "2026-03-31",
		"half_start": "2026-01-01", "half_end": "2026-06-30", "year_start": "2026-01-01", "year_end": "2026-12-31",
		"days_in_month": "28", "days_in_quarter": "90", "days_in_year": "365", "is_leap_year": "false",
		"running_month": "24313", "running_quarter": "8104", "running_year": "2026",
		"week": "9", "week_year": "2026", "week_key": "202609", "week_label": "2026 W09", "week_start": "2026-02-22", "week_end": "2026-02-28",
		"week_of_month": "4", "running_week": "105668",
		"iso_week": "9", "iso_year": "2026", "iso_week_key": "202609", "iso_week_label": "2026-W09", "iso_week_start": "2026-02-23", "iso_week_end": "2026-03-01",
		"is_weekend": "true", "is_workday": "false",
		"fiscal_year": "2026", "fiscal_year_label": "FY2026", "fiscal_half": "1", "fiscal_half_label": "H1", "fiscal_half_key": "20261", "fiscal_half_year_label": "FY2026 H1",
		"fiscal_quarter": "1", "fiscal_quarter_label": "Q1", "fiscal_quarter_key": "20261", "fiscal_quarter_year_label": "FY2026 Q1",
		"fiscal_month": "1", "fiscal_month_name": "February", "fiscal_month_short": "Feb", "fiscal_month_key": "202601", "fiscal_month_label": "FY2026 P01",
		"fiscal_week": "4", "fiscal_week_key": "202604", "fiscal_week_label": "FY2026 W04", "fiscal_day_of_year": "28",
		"fiscal_week_start": "2026-02-22", "fiscal_week_end": "2026-02-28", "fiscal_month_start": "2026-02-01", "fiscal_month_end": "2026-02-28",
		"fiscal_quarter_start": "2026-02-01", "fiscal_quarter_end": "2026-04-30", "fiscal_half_start": "2026-02-01", "fiscal_half_end": "2026-07-31",
		"fiscal_year_start": "2026-02-01", "fiscal_year_end": "2027-01-31",
		"fiscal_running_month": "24312", "fiscal_running_quarter": "8104", "fiscal_running_year": "2026",
	}, values)
}

func number(t *testing.T, text string) int {
	t.Helper()
	value, err := strconv.Atoi(text)
	require.NoError(t, err)
	return value
}

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
				if row[i].Type() != attribute.Type {
					t.Fatalf("%s is a %s, not a %s", attribute.Name, row[i].Type(), attribute.Type)
				}
				number := attribute.Holds.Locate(day).Number
				before, seen := constant[attribute.Name]
				if seen && before.number == number && before.value != value {
					t.Fatalf("%s changes from %s to %s within a %s, at %s", attribute.Name, before.value, value, attribute.Holds, day)
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
		FROM days`)
	require.NoError(t, err)
	defer rows.Close()
	c := catalogue(t, civil.October, calendar.ByEnd, calendar.ISOWeeks)
	attributes, err := c.Select([]string{"date", "date_key", "quarter", "day_of_year", "iso_week_label", "day_of_week",
		"month_start", "month_end", "fiscal_year", "fiscal_month", "is_leap_year"})
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
		ours := fmt.Sprintf("%s|%s|%s|%s|%s|%s|%s|%s|%s|%s|%d",
			row[0], row[1], row[2], row[3], row[4], row[5], row[6], row[7], row[8], row[9], leap)
		if ours != witness {
			t.Fatalf("ours %s, SQLite's %s", ours, witness)
		}
		count++
	}
	assert.False(t, rows.Next())
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
	assert.Equal(t, []string{"core", "weeks", "workdays", "fiscal"}, c.Groups())
	chosen, err := c.Select([]string{"date", " Workdays", "is_weekend", "month_name"})
	require.NoError(t, err)
	var names []string
	for _, attribute := range chosen {
		names = append(names, attribute.Name)
		assert.Equal(t, cell.Column{Name: attribute.Name, Type: attribute.Type}, attribute.Column())
	}
	assert.Equal(t, []string{"date", "is_weekend", "is_workday", "month_name"}, names)
	all, err := c.Select(nil)
	require.NoError(t, err)
	assert.Len(t, all, len(c.Attributes()))
	_, err = c.Select([]string{"date", "fiscal_moth"})
	var unknown *UnknownName
	require.ErrorAs(t, err, &unknown)
	assert.Equal(t, "fiscal_moth", unknown.Name)
	assert.Contains(t, unknown.Known, "fiscal_month")
	assert.EqualError(t, err, `there is no attribute or group "fiscal_moth"`)
}

func TestDatesBeyondTheYear9999AreBlank(t *testing.T) {
	values := valuesOf(catalogue(t, civil.April, calendar.ByEnd, calendar.ISOWeeks), civil.MaxDay)
	assert.Equal(t, "9999-12-31", values["date"])
	assert.Equal(t, "", values["fiscal_year_end"])
}

func TestCoverage(t *testing.T) {
	days := func(texts ...string) *Coverage {
		var c Coverage
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
	_, _, ok := (&Coverage{}).Range()
	assert.False(t, ok)

	joined := days("2025-03-01", "9999-12-31")
	joined.Join(*days("2024-01-01", "9999-12-31", "1900-01-01"))
	first, last, _ := joined.Range()
	assert.Equal(t, "2024-01-01 2025-03-01", first.String()+" "+last.String())
	assert.Equal(t, []DayCount{{civil.MustOf(1900, 1, 1), 1}, {civil.MaxDay, 2}}, joined.Sentinels())
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
