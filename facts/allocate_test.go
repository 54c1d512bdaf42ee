package facts_test

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/civil"
	"roundyear/civil/civiltest"
	"roundyear/facts"
	"roundyear/facts/decimal"
)

// What is laid over days adds up to the whole at every grain, for each group and measure, whatever days weigh.
func TestAllocationsAddUp(t *testing.T) {
	random := rand.New(rand.NewPCG(11, 12))
	first := civiltest.Day("2024-01-01")
	for round := range 40 {
		of := grain(t, []string{"month", "quarter", "iso.week"}[random.IntN(3)])
		to := grain(t, []string{"day", "iso.week", "month", "year", "quarter"}[random.IntN(5)])
		tally := facts.NewTally(facts.Operation{Grain: grain(t, "day"), Groups: []string{"shop"}, AsOf: first, Measures: []facts.Measure{{Kind: facts.Sum, Name: "budget"}, {Kind: facts.Sum, Name: "units"}}})
		totals := map[string]decimal.Decimal{}
		for n := range 1 + random.IntN(30) {
			day, shop := first+civil.Day(random.IntN(500)), string(rune('a'+random.IntN(3)))
			budget, units := decimal.OfUnits(random.Int64N(1_000_000)-300_000, 2), decimal.OfInt(random.IntN(100))
			require.NoError(t, tally.Add(day, facts.Place{Day: day, Row: int64(n)}, [][]byte{[]byte(shop)}, [][]byte{[]byte(budget.String()), []byte(units.String())}))
			period := of.Locate(day).First.String()
			totals[shop+period+"0"] = totals[shop+period+"0"].Add(budget)
			totals[shop+period+"1"] = totals[shop+period+"1"].Add(units)
		}
		share := civil.Day(1 + random.IntN(40))
		weight := func(group []string, day civil.Day) decimal.Decimal {
			if (day+civil.Day(group[0][0]))%share == 0 || share == 1 {
				return decimal.OfUnits(int64(day%7)+1, 1)
			}
			return decimal.Decimal{}
		}
		// By day the parts of each whole are those that add up to it.
		daily, err := tally.Allocate(facts.Allocation{Of: of, Grain: grain(t, "day"), Weight: weight, Decimals: 2})
		require.NoError(t, err)
		parts := map[string]decimal.Decimal{}
		whole := [2]decimal.Decimal{}
		byGrain := map[string]decimal.Decimal{}
		for row := range daily.Rows {
			day := civiltest.Day(row[1].String())
			for m := range 2 {
				part, err := decimal.Parse([]byte(row[4+m].String()))
				require.NoError(t, err)
				key := row[3].String() + of.Locate(day).First.String() + fmt.Sprint(m)
				parts[key], whole[m] = parts[key].Add(part), whole[m].Add(part)
				key = row[3].String() + to.Locate(day).First.String() + fmt.Sprint(m)
				byGrain[key] = byGrain[key].Add(part)
			}
			if row[6].String() == "false" {
				require.Positive(t, weight([]string{row[3].String()}, day).Sign())
			}
		}
		require.Len(t, parts, len(totals))
		for key, total := range totals {
			require.Zero(t, total.Cmp(parts[key]), "round %d, %s: %s and %s", round, key, total, parts[key])
		}
		// At any other grain the rows are the sums of those by day.
		coarse, err := tally.Allocate(facts.Allocation{Of: of, Grain: to, Weight: weight, Decimals: 2})
		require.NoError(t, err)
		seen := map[string]decimal.Decimal{}
		for row := range coarse.Rows {
			for m := range 2 {
				part, err := decimal.Parse([]byte(row[4+m].String()))
				require.NoError(t, err)
				key := row[3].String() + row[1].String() + fmt.Sprint(m)
				seen[key] = seen[key].Add(part)
			}
		}
		require.Len(t, seen, len(byGrain))
		for key, sum := range byGrain {
			require.Zero(t, sum.Cmp(seen[key]), "round %d, %s", round, key)
		}
		require.Zero(t, whole[0].Cmp(coarse.Totals[0]))
		require.Equal(t, len(totals), 2*coarse.Wholes)
	}
}

func TestAllocationWithoutDays(t *testing.T) {
	day := civiltest.Day
	tally := facts.NewTally(facts.Operation{Grain: grain(t, "day"), AsOf: day("2026-01-01"), Measures: []facts.Measure{{Kind: facts.Sum, Name: "budget"}}})
	for i, month := range []string{"2026-01-01", "2026-02-01"} {
		require.NoError(t, tally.Add(day(month), facts.Place{Row: int64(i)}, nil, [][]byte{[]byte("31")}))
	}
	weight := func(_ []string, on civil.Day) decimal.Decimal {
		if on < day("2026-01-03") {
			return decimal.OfInt(1)
		}
		return decimal.Decimal{}
	}
	a := facts.Allocation{Of: grain(t, "month"), Grain: grain(t, "day"), Weight: weight, Decimals: 2}
	result, err := tally.Allocate(a)
	require.NoError(t, err)
	var lines []string
	for row := range result.Rows {
		lines = append(lines, row[0].String()+" "+row[3].String()+" "+row[4].String())
	}
	assert.Len(t, lines, 2+28)
	assert.Equal(t, []string{"2026-01-01 15.50 false", "2026-01-02 15.50 false", "2026-02-01 1.11 true"}, lines[:3])
	require.Len(t, result.Unplaced, 1)
	assert.Equal(t, "2026-02-01", result.Unplaced[0].Period.First.String())
	a.Otherwise = func([]string, civil.Day) decimal.Decimal { return decimal.OfInt(1) }
	result, err = tally.Allocate(a)
	require.NoError(t, err)
	assert.Equal(t, [3]int{2, 30, 1}, [3]int{result.Wholes, result.Days, result.Otherwise})
	assert.Empty(t, result.Unplaced)
	a.MaxRows = 3
	_, err = tally.Allocate(a)
	var many *facts.TooManyRows
	require.ErrorAs(t, err, &many)
}
