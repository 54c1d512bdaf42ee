package app_test

import (
	"context"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/calendar"
	"roundyear/civil"
	"roundyear/facts"
	"roundyear/facts/lapse"
	"roundyear/internal/app"
	"roundyear/internal/reading"
	"roundyear/rows"
	"roundyear/rows/rowstest"
)

// leavingOut is a decoder of rows that says that it has left out some more, if it was told how to.
type leavingOut struct {
	rows.Decoder
	told []rows.Comparison
}

func (l *leavingOut) Scan(ctx context.Context, scan *rows.Scan) error {
	l.told = nil
	for from := 0; ; {
		by, _, keeps := scan.Comparison(from)
		if keeps == nil {
			break
		}
		l.told, from = append(l.told, *keeps), by+1
	}
	if len(l.told) > 0 {
		b := scan.Spare()
		b.LeftOut, b.Line = 1000, 1
		scan.Give(b)
	}
	return l.Decoder.Scan(ctx, scan)
}

func (l *leavingOut) Decode(b *rows.Batch) {
	if b.LeftOut == 0 {
		l.Decoder.Decode(b)
	}
}

// The conditions of census and lapse are left to who has the rows, where the dates have types; what is left out counts as excluded.
func TestConditionsOnSpansAreToldToWhoHasThem(t *testing.T) {
	const count = 300
	opened, closed, number := rows.Vector{}, rows.Vector{}, rows.Vector{}
	texts := rows.Vector{Offsets: []uint32{0}}
	for i := range count {
		day := civil.MustOf(2025, 1, 1) + civil.Day(i)
		opened.Int, closed.Int, number.Int = append(opened.Int, int64(day)), append(closed.Int, int64(day)+3), append(number.Int, int64(i%5))
		texts.Bytes = append(texts.Bytes, day.String()...)
		texts.Offsets = append(texts.Offsets, uint32(len(texts.Bytes)))
	}
	source := rowstest.Typed([]rows.Column{{Name: "opened", Type: rows.Day}, {Name: "closed", Type: rows.Day}, {Name: "n", Type: rows.Integer}, {Name: "text"}}, opened, closed, number, texts)
	decoder := &leavingOut{Decoder: source.Parts[0].Decoder}
	source.Parts[0].Decoder = decoder
	where, err := app.ParseConditions(source, []string{"n>=1", "opened<2025-10-01"})
	require.NoError(t, err)
	asked := reading.Asked{Pivot: 1970}
	kept := 0
	for i := range count {
		if i%5 > 0 && opened.Int[i] < int64(civil.MustOf(2025, 10, 1)) {
			kept++
		}
	}

	census := app.Census{Dated: app.Dated{Source: source, Asked: asked}, Operation: facts.Census{Opened: "opened", Closed: "closed", Where: where, Grain: calendar.Grain{Calendar: calendar.Gregorian(), Unit: calendar.Month}, AsOf: civil.MustOf(2026, 1, 1)}}
	counted, err := census.Count(t.Context())
	require.NoError(t, err)
	require.Len(t, decoder.told, 2)
	assert.Equal(t, rows.Comparison{Operator: ">=", Numbers: []string{"1"}}, decoder.told[0])
	assert.Equal(t, count-kept+1000, census.Filtered)
	assert.Equal(t, kept, counted.Summary().Spans)

	measured := app.Lapse{Dated: app.Dated{Source: source, Asked: asked, Where: where}, Start: "opened", End: "closed", IsMeasured: true, Measure: lapse.Measure{Unit: lapse.Days}}
	lapsed, err := measured.Run(t.Context())
	require.NoError(t, err)
	require.Len(t, decoder.told, 2)
	assert.Equal(t, count-kept+1000, measured.Filtered)
	assert.Equal(t, kept, lapsed.Rows)

	// All rows decide how a text is written.
	measured.Start = "text"
	lapsed, err = measured.Run(t.Context())
	require.NoError(t, err)
	assert.Empty(t, decoder.told)
	assert.Equal(t, kept, lapsed.Rows)
	assert.Equal(t, count-kept, measured.Filtered)
}
