package app_test

import (
	"database/sql"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	_ "modernc.org/sqlite"

	"roundyear/calendar"
	"roundyear/civil"
	"roundyear/facts"
	"roundyear/facts/decimal"
	"roundyear/internal/app"
	"roundyear/internal/delimited"
	"roundyear/internal/reading"
	"roundyear/internal/table"
)

// Facts of a large table are added up inside their database by themselves, but not where each different value would travel; asked for, those are,
// too. All ways give the same.
func TestWhereFactsAreAddedUp(t *testing.T) {
	path := filepath.Join(t.TempDir(), "shop.db")
	db, err := sql.Open("sqlite", path)
	require.NoError(t, err)
	_, err = db.Exec(`CREATE TABLE sales AS WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 900)
		SELECT date('2026-01-01', (i * 7 % 90) || ' days') AS sold, i % 13 AS pieces, CASE i % 4 WHEN 0 THEN NULL WHEN 1 THEN ' x ' ELSE 'y' END AS note FROM n`)
	require.NoError(t, err)
	require.NoError(t, db.Close())

	sum := []facts.Measure{{Kind: facts.Sum, Column: "pieces", Name: "pieces"}, {Kind: facts.Count, Name: "count"}}
	each := append(sum[:2:2], facts.Measure{Kind: facts.Distinct, Column: "note", Name: "notes"}, facts.Measure{Kind: facts.Percentile, Percent: decimal.OfInt(75), Column: "pieces", Name: "most"})
	tally := func(place app.Place, size int64, measures []facts.Measure) (bool, [][]string) {
		source, err := table.Open(t.Context(), []string{path}, nil, delimited.Form{Header: delimited.HeaderIsThere})
		require.NoError(t, err)
		defer source.Close()
		source.Parts[0].Size = size
		request := app.Facts{Source: source, Asked: reading.Asked{Pivot: 1970}, OnDatabase: app.OnDatabase{Place: place},
			Operation: facts.Operation{Date: "sold", Grain: calendar.Grain{Calendar: calendar.Gregorian(), Unit: calendar.Month}, AsOf: civil.MustOf(2030, 1, 1), Measures: measures}}
		tallied, err := request.Tally(t.Context())
		require.NoError(t, err)
		result, err := tallied.Result()
		require.NoError(t, err)
		var all [][]string
		for row := range result.Rows() {
			var texts []string
			for _, value := range row {
				texts = append(texts, value.String())
			}
			all = append(all, texts)
		}
		return tallied.IsInside, all
	}
	for _, c := range []struct {
		place    app.Place
		size     int64
		measures []facts.Measure
		isInside bool
	}{
		{app.AnyPlace, app.InsideFrom, sum, true},
		{app.AnyPlace, app.InsideFrom - 1, sum, false},
		{app.Local, app.InsideFrom, sum, false},
		{app.Inside, 0, sum, true},
		{app.AnyPlace, app.InsideFrom, each, false},
		{app.Inside, 0, each, true},
	} {
		isInside, got := tally(c.place, c.size, c.measures)
		assert.Equal(t, c.isInside, isInside, "%v", c)
		_, want := tally(app.Local, 0, c.measures)
		assert.Equal(t, want, got)
		assert.Len(t, got, 3)
	}
}
