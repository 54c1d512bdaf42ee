package publish_test

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/calendar"
	"roundyear/cell"
	"roundyear/civil"
	"roundyear/dimension"
	"roundyear/internal/publish"
)

func model(t testing.TB, names ...string) *publish.Model {
	t.Helper()
	retail, err := calendar.NewFiscalWeeks(calendar.FiscalWeeks{Name: "retail", EndsOn: civil.Saturday, LastIn: civil.January, Split: []int{13, 13, 13, 13}})
	require.NoError(t, err)
	set, err := calendar.NewSet(calendar.ISOWeeks, retail)
	require.NoError(t, err)
	catalogue, err := dimension.NewCatalogue(dimension.Settings{Calendars: set})
	require.NoError(t, err)
	attributes, err := catalogue.Select(names)
	require.NoError(t, err)
	columns := make([]cell.Column, len(attributes))
	for i, attribute := range attributes {
		columns[i] = attribute.Column()
	}
	grain, err := set.Grain("day")
	require.NoError(t, err)
	m := publish.Of(catalogue, attributes, columns, grain)
	m.Name, m.Files = "dates", []string{"dates.csv"}
	return m
}

func TestHierarchiesGoFromCoarseToFine(t *testing.T) {
	m := model(t, "core", "weeks", "retail")
	assert.Equal(t, []publish.Hierarchy{
		{"year", []string{"year", "half_label", "quarter_label", "month_label", "date"}},
		{"week", []string{"week_year", "week_label", "date"}},
		{"iso", []string{"iso_year", "iso_week_label", "date"}},
		{"retail", []string{"retail_year_label", "retail_half_label", "retail_quarter_label", "retail_month_label", "date"}},
		{"retail weeks", []string{"retail_year_label", "retail_week_label", "date"}},
	}, m.Hierarchies)
	assert.Empty(t, model(t, "date", "year").Hierarchies, "a year above a day is no way down")
}

func TestWhatIsHidden(t *testing.T) {
	hidden := map[string]bool{}
	for _, column := range model(t, "date_key", "date", "year", "month", "month_name", "month_key", "month_label", "day_of_month").Columns {
		hidden[column.Name] = column.Hide
	}
	assert.Equal(t, map[string]bool{"date_key": true, "date": false, "year": false, "month": true, "month_name": false, "month_key": true, "month_label": false, "day_of_month": false}, hidden)
}

func TestDescriptionsAreKnownAgain(t *testing.T) {
	m := model(t, "date_key", "date", "month", "month_name")
	m.Special = []dimension.SpecialRow{dimension.Unknown}
	m.Roles = []publish.Role{{Facts: "orders", Files: []string{"a.csv", "b.csv"}, Date: "ordered", Key: "ordered_key", Main: true, Prefix: "ordered_"},
		{Facts: "orders", Files: []string{"a.csv", "b.csv"}, Date: "paid", Key: "paid_key", Prefix: "paid_"}}
	text, err := m.DataPackage(nil, nil)
	require.NoError(t, err)
	assert.True(t, json.Valid(text))
	assert.True(t, publish.IsOurs(text))
	assert.False(t, publish.IsOurs([]byte(`{"name":"mine"}`)))
	assert.False(t, publish.IsOurs([]byte("no JSON")))
	page := m.Page()
	assert.True(t, publish.IsOurPage(page))
	assert.False(t, publish.IsOurPage([]byte("# Mine\n")))
	assert.Contains(t, string(page), "add the prefix `paid_` to its column names (`paid_month_name`)")
	assert.Contains(t, string(page), "| unknown | -1 | Unknown |")
	assert.Contains(t, string(text), `"paid_month_name": "month_name"`)
}
