package facts_test

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/calendar"
	"roundyear/civil"
	"roundyear/facts"
	"roundyear/facts/decimal"
)

// Facts that were added up by day and group before make the same result as the facts themselves.
func TestAggregatesMakeTheSame(t *testing.T) {
	r := rand.New(rand.NewPCG(8, 15))
	first, last := civil.MustOf(2025, 11, 1), civil.MustOf(2026, 4, 30)
	for round := range 200 {
		from := first + 20
		operation := facts.Operation{
			Grain: calendar.Grain{Calendar: calendar.Gregorian(), Unit: []calendar.Unit{calendar.Month, calendar.Quarter, calendar.Day}[round%3]}, Groups: []string{"shop"}, AsOf: civil.MustOf(2026, 3, 15), ToDate: round%2 == 0, Subtotals: round%5 == 0,
			Measures: []facts.Measure{{Kind: facts.Sum, Column: "a", Name: "a"}, {Kind: facts.Mean, Column: "a", Name: "mean"}, {Kind: facts.Min, Column: "a", Name: "min"}, {Kind: facts.Max, Column: "a", Name: "max"}, {Kind: facts.Count, Name: "count"}},
		}
		if round%4 == 0 {
			operation.From = &from
		}
		if round%7 == 0 {
			operation.Measures = append(operation.Measures, facts.Measure{Kind: facts.Closing, Column: "a", Name: "closing"})
		}
		whole, parts := facts.NewTally(operation), facts.NewTally(operation)
		type key struct {
			day       civil.Day
			isUndated bool
			shop      string
		}
		all := map[key]*facts.Aggregate{}
		for row := range 1 + r.IntN(60) {
			k := key{first + civil.Day(r.IntN(int(last-first))), r.IntN(9) == 0, string(rune('A' + r.IntN(3)))}
			if k.isUndated {
				k.day = 0
			}
			value := fmt.Sprintf("%d.%02d", r.IntN(200)-100, r.IntN(100))
			if r.IntN(6) == 0 {
				value = ""
			}
			values := make([][]byte, len(operation.Measures))
			for i := range values {
				values[i] = []byte(value)
			}
			if k.isUndated {
				require.NoError(t, whole.AddUndated(int64(row), values))
			} else {
				require.NoError(t, whole.Add(k.day, facts.Place{Day: k.day, Row: int64(row)}, [][]byte{[]byte(k.shop)}, values))
			}
			a := all[k]
			if a == nil {
				a = &facts.Aggregate{Day: k.day, IsUndated: k.isUndated, Groups: [][]byte{[]byte(k.shop)}, Measures: make([]facts.Part, len(operation.Measures))}
				all[k] = a
			}
			a.Rows++
			if value == "" {
				continue
			}
			number, err := decimal.Parse([]byte(value))
			require.NoError(t, err)
			for i, measure := range operation.Measures {
				part := &a.Measures[i]
				switch part.Values++; {
				case part.Values == 1, measure.Kind == facts.Min && number.Cmp(part.Number) < 0, measure.Kind == facts.Max && number.Cmp(part.Number) > 0:
					part.Number = number
				case measure.Kind != facts.Min && measure.Kind != facts.Max:
					part.Number = part.Number.Add(number)
				}
			}
		}
		for _, a := range all {
			parts.AddAggregate(a)
		}
		assert.Equal(t, whole.Summary(), parts.Summary())
		want, err := whole.Result()
		require.NoError(t, err)
		got, err := parts.Result()
		require.NoError(t, err)
		var wanted, is []string
		for row := range want.Rows() {
			wanted = append(wanted, rowText(row))
		}
		for row := range got.Rows() {
			is = append(is, rowText(row))
		}
		assert.Equal(t, wanted, is)
	}
}
