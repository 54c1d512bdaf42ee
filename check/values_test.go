package check_test

import (
	"strconv"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/calendar"
	"roundyear/cell"
	"roundyear/check"
	"roundyear/civil"
	"roundyear/dimension"
	"roundyear/language"
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
		{cell.OfText("March"), cell.Text, "March", true}, {cell.OfText("March"), cell.Text, "march", false}, {cell.OfText("=x"), cell.Text, "'=x", true}, {cell.OfText("x"), cell.Text, "", false},
		{cell.Blank, cell.Date, "", true}, {cell.Blank, cell.Date, "2026-03-09", false},
	} {
		assert.Equal(t, c.same, check.Same(c.want, c.typ, []byte(c.got), read), "%s and %q", c.want, c.got)
	}
}

// table makes rows of some attributes under names that say nothing.
func table(t testing.TB, c *dimension.Catalogue, names ...string) (columns []string, rows []check.SampleRow) {
	t.Helper()
	attributes, err := c.Select(names)
	require.NoError(t, err)
	require.Len(t, attributes, len(names))
	day := civil.MustOf(2024, 1, 1)
	for row := range c.Days(attributes, day, civil.MustOf(2026, 12, 31)) {
		one := check.SampleRow{Day: day}
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
	matching := &check.Matching{Catalogue: c, Attributes: c.Stable(), NameOf: func(name string) string { return name }, ByValues: true}
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
	matched = matching.Match([]string{"month", "fiscal_month", "Day Name"}, rows)
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
	constant := []check.SampleRow{{Day: civil.MustOf(2026, 1, 1), Fields: []string{"1"}}, {Day: civil.MustOf(2026, 1, 2), Fields: []string{"1"}}}
	assert.Empty(t, matching.Match([]string{"x"}, constant))
}

func TestStructureOfARightTable(t *testing.T) {
	c := catalogue(t)
	var names []string
	for _, attribute := range c.Stable() {
		names = append(names, attribute.Name)
	}
	columns, rows := table(t, c, names...)
	matching := &check.Matching{Catalogue: c, Attributes: c.Stable(), NameOf: func(name string) string { return name }}
	matched := matching.Match(names, rows)
	require.Len(t, matched, len(columns))
	s := check.NewStructure(matched)
	for i, row := range rows {
		var values []string
		for _, index := range s.Places() {
			values = append(values, row.Fields[index])
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

func TestWhatAttributesDependOn(t *testing.T) {
	c := catalogue(t)
	depends := map[string]check.Depends{}
	for _, attribute := range c.Attributes() {
		depends[attribute.Name] = check.DependsOn(attribute)
	}
	for name, want := range map[string]check.Depends{
		"year": check.Independent, "month_name": check.Independent, "day_name": check.Independent, "iso_week": check.Independent, "is_leap_year": check.Independent, "is_weekend": check.Independent, "day_of_week": check.Independent,
		"days_left_in_week": check.Independent, "week": check.OnWeeks, "week_label": check.OnWeeks, "fiscal_year": check.OnFiscal, "fiscal_week_key": check.OnFiscal, "is_workday": check.OnDaysOff,
		"workday_of_month": check.OnDaysOff, "holiday_name": check.OnDaysOff, "day_offset": check.OnAsOf, "is_current_fiscal_year": check.OnAsOf,
	} {
		got, known := depends[name]
		assert.True(t, known, name)
		assert.Equal(t, want, got, name)
	}
}

// The conventions of a table are those of most of its rows.
func TestCustomsOfATable(t *testing.T) {
	german, err := language.Of("de")
	require.NoError(t, err)
	columns := []string{"month_name", "day_short", "is_weekend", "day_of_week"}
	var rows []check.SampleRow
	for day := civil.MustOf(2026, 1, 1); day < civil.MustOf(2027, 1, 1); day++ {
		_, month, _ := day.Date()
		weekday := day.Weekday()
		rows = append(rows, check.SampleRow{day, []string{german.Month(month), german.DayShort(weekday), strconv.FormatBool(weekday == civil.Friday || weekday == civil.Saturday),
			strconv.Itoa(weekday.From(civil.Sunday))}})
	}
	for i := range 10 { // wrong ones among them
		rows[i*30].Fields = []string{"Foo", "Foo", "true", "9"}
	}
	conventions := check.ConventionsOf(columns, rows)
	assert.Equal(t, "de", conventions.Language.Tag[:2])
	assert.Equal(t, []civil.Weekday{civil.Friday, civil.Saturday}, conventions.Weekend)
	assert.Equal(t, civil.Sunday, conventions.WeekStart)
	defaults := check.Conventions{language.English, []civil.Weekday{civil.Saturday, civil.Sunday}, civil.Monday}
	assert.Equal(t, defaults, check.ConventionsOf([]string{"a", "b", "c", "d"}, rows))
	// Two rows may well agree on what nobody does.
	two := []check.SampleRow{{civil.MustOf(2026, 1, 5), []string{"Foo", "Foo", "true", "2"}}, {civil.MustOf(2026, 1, 6), []string{"Foo", "Foo", "false", "1"}}}
	assert.Equal(t, defaults, check.ConventionsOf(columns, two), "no weekend is a Monday, and no week starts on a Tuesday")
	two = []check.SampleRow{{civil.MustOf(2026, 1, 9), []string{"Foo", "Foo", "true", "2"}}, {civil.MustOf(2026, 1, 10), []string{"Foo", "Foo", "false", "1"}}}
	assert.Equal(t, check.Conventions{language.English, []civil.Weekday{civil.Friday}, civil.Saturday}, check.ConventionsOf(columns, two))
	for i := range rows {
		rows[i].Fields = []string{"Foo", "Foo", "true", "9"}
	}
	assert.Equal(t, defaults, check.ConventionsOf(columns, rows), "what follows no custom is wrong")
}

// A column with the very name of an attribute is held to it, whatever it holds.
func TestANameIsAName(t *testing.T) {
	c := catalogue(t)
	_, rows := table(t, c, "month", "fiscal_month", "month_name")
	matching := &check.Matching{Catalogue: c, Attributes: c.Attributes(), NameOf: func(name string) string { return map[string]string{"day_name": "weekday"}[name] }, ByValues: true}
	matched := matching.Match([]string{"month", "weekday", "day_name"}, rows)
	require.Len(t, matched, 3)
	for i, want := range []string{"month", "day_name", "day_name"} {
		assert.Equal(t, want, matched[i].Attribute.Name)
		assert.False(t, matched[i].ByValues)
	}
}
