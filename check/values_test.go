package check

import (
	"strconv"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/calendar"
	"roundyear/cell"
	"roundyear/civil"
	"roundyear/dimension"
)

func catalogue(t testing.TB) *dimension.Catalogue {
	t.Helper()
	fiscal, err := calendar.NewFiscalMonths(calendar.FiscalMonths{Name: "fiscal", Starts: civil.April, Weeks: calendar.ISOWeeks})
	require.NoError(t, err)
	set, err := calendar.NewSet(calendar.ISOWeeks, fiscal)
	require.NoError(t, err)
	c, err := dimension.NewCatalogue(dimension.Settings{Calendars: set, Weekend: []civil.Weekday{civil.Saturday, civil.Sunday}})
	require.NoError(t, err)
	return c
}

func TestSameInOtherForms(t *testing.T) {
	day := cell.OfDay(civil.MustOf(2026, 3, 9))
	read := func(text []byte) (civil.Day, bool) { return civil.MustOf(2026, 3, 9), string(text) == "09/03/2026" }
	for _, c := range []struct {
		want cell.Value
		typ  cell.Type
		got  string
		same bool
	}{
		{cell.OfInteger(3), cell.Integer, "3", true}, {cell.OfInteger(3), cell.Integer, "03", true}, {cell.OfInteger(3), cell.Integer, " 3.0", true},
		{cell.OfInteger(3), cell.Integer, "3.5", false}, {cell.OfInteger(3), cell.Integer, "", false}, {cell.OfInteger(3), cell.Integer, "-3", false},
		{cell.OfBool(true), cell.Boolean, "Y", true}, {cell.OfBool(true), cell.Boolean, "1", true}, {cell.OfBool(false), cell.Boolean, "No", true},
		{cell.OfBool(true), cell.Boolean, "0", false}, {cell.OfBool(false), cell.Boolean, "", false}, {cell.OfBool(false), cell.Boolean, "maybe", false},
		{day, cell.Date, "2026-03-09", true}, {day, cell.Date, "2026-03-09 00:00:00", true}, {day, cell.Date, "2026-03-09T00:00:00.000Z", true},
		{day, cell.Date, "2026-03-09 10:00:00", false}, {day, cell.Date, "09/03/2026", true}, {day, cell.Date, "03/09/2026", false},
		{cell.OfText("March"), cell.Text, "March", true}, {cell.OfText("March"), cell.Text, "march", false},
		{cell.Blank, cell.Date, "", true}, {cell.Blank, cell.Date, "2026-03-09", false},
	} {
		assert.Equal(t, c.same, Same(c.want, c.typ, []byte(c.got), read), "%s and %q", c.want, c.got)
	}
}

// table makes rows of some attributes under names that say nothing.
func table(t testing.TB, c *dimension.Catalogue, names ...string) (columns []string, rows []SampleRow) {
	t.Helper()
	attributes, err := c.Select(names)
	require.NoError(t, err)
	require.Len(t, attributes, len(names))
	day := civil.MustOf(2024, 1, 1)
	for row := range c.Days(attributes, day, civil.MustOf(2026, 12, 31)) {
		one := SampleRow{Day: day}
		for _, value := range row {
			one.Fields = append(one.Fields, value.String())
		}
		rows = append(rows, one)
		day++
	}
	for i := range names {
		columns = append(columns, "c"+strconv.Itoa(i))
	}
	return columns, rows
}

// Columns of any name are known by what they hold, wherever no other attribute
// has the same values.
func TestColumnsAreKnownByWhatTheyHold(t *testing.T) {
	c := catalogue(t)
	names := []string{"month", "fiscal_month", "month_name", "fiscal_year_label", "is_weekend", "date_364_days_ago", "quarter_end", "day_of_year", "fiscal_week_key", "julian_day"}
	columns, rows := table(t, c, names...)
	matching := &Matching{Catalogue: c, Attributes: c.Lasting(), NameOf: func(name string) string { return name }, ByValues: true}
	matched := matching.Match(columns, rows)
	require.Len(t, matched, len(names))
	for i, one := range matched {
		assert.True(t, one.ByValues)
		found, _ := c.Select([]string{one.Attribute.Name})
		wanted, _ := c.Select([]string{names[i]})
		_, same := table(t, c, found[0].Name)
		_, want := table(t, c, wanted[0].Name)
		assert.Equal(t, want, same, "%s is taken for %s", names[i], one.Attribute.Name)
	}
	// A column that is named like one attribute and holds another.
	matched = matching.Match([]string{"month", "fiscal_month", "day_name"}, rows)
	assert.Equal(t, "month_name", matched[2].Attribute.Name)
	assert.True(t, matched[2].ByValues)
	// Without a year only names count, and what the user says comes first.
	matching.ByValues = false
	assert.Empty(t, matching.Match(columns, rows))
	matching.Given = map[string]string{"c0": "fiscal_month"}
	matched = matching.Match(columns, rows)
	require.Len(t, matched, 1)
	assert.Equal(t, "fiscal_month", matched[0].Attribute.Name)
	// A column of one value says nothing.
	matching.ByValues, matching.Given = true, nil
	constant := []SampleRow{{Day: civil.MustOf(2026, 1, 1), Fields: []string{"1"}}, {Day: civil.MustOf(2026, 1, 2), Fields: []string{"1"}}}
	assert.Empty(t, matching.Match([]string{"x"}, constant))
}

func TestStructureOfARightTable(t *testing.T) {
	c := catalogue(t)
	var names []string
	for _, attribute := range c.Lasting() {
		names = append(names, attribute.Name)
	}
	columns, rows := table(t, c, names...)
	matching := &Matching{Catalogue: c, Attributes: c.Lasting(), NameOf: func(name string) string { return name }}
	matched := matching.Match(names, rows)
	require.Len(t, matched, len(columns))
	s := NewStructure(matched)
	for i, row := range rows {
		var values []string
		for _, place := range s.Places() {
			values = append(values, row.Fields[place])
		}
		s.Add(i+2, row.Day, values)
	}
	faults, proved := s.Faults()
	assert.Empty(t, faults)
	assert.Greater(t, proved.Labels, 15)
	assert.Greater(t, proved.Runs, 8)
	assert.Greater(t, proved.Nested, 8)
	assert.Greater(t, proved.Bounds, 15)
}

func TestWithoutAPlanOnlyWhatIsTheSameEverywhereIsCompared(t *testing.T) {
	c := catalogue(t)
	names := map[string]bool{}
	for _, attribute := range Comparable(c, false, false) {
		names[attribute.Name] = true
	}
	for _, name := range []string{"year", "month_key", "quarter_end", "day_of_month", "iso_week", "iso_week_start", "date_364_days_ago", "is_leap_year", "is_last_day_of_month"} {
		assert.True(t, names[name], name)
	}
	for _, name := range []string{"week", "fiscal_year", "day_of_week", "month_name", "is_weekend", "days_left_in_week", "is_first_day_of_week", "week_of_month", "day_offset"} {
		assert.False(t, names[name], name)
	}
	assert.Len(t, Comparable(c, true, true), len(c.Attributes()))
}
