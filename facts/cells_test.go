package facts_test

import (
	"fmt"
	"math/big"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/calendar"
	"roundyear/cell"
	"roundyear/civil"
	"roundyear/facts"
	"roundyear/facts/decimal"
)

// amountOf is an amount of any size and scale; many only just fit 64 bits or do not. Whole
// ones each fit by themselves, and add up to what does not.
func amountOf(random *rand.Rand, whole bool) string {
	if whole {
		return fmt.Sprint(random.Int64() - random.Int64()/3)
	}
	switch random.IntN(12) {
	case 0:
		return ""
	case 1:
		return fmt.Sprint(int64(random.Uint64()))
	case 2:
		return "-9223372036854775808"
	case 3:
		return fmt.Sprintf("9223372036854775807.%0*d", 1+random.IntN(20), random.IntN(10))
	case 4:
		return fmt.Sprintf("%d.%0*d", random.IntN(1000), 1+random.IntN(30), random.IntN(10))
	}
	return fmt.Sprintf("%d.%02d", random.IntN(2000)-1000, random.IntN(100))
}

// Whatever the amounts, and however the facts are spread over tallies, each period and
// group has what its facts make, and any cut of the result has the same rows.
func TestCellsHoldWhatTheirFactsMake(t *testing.T) {
	type fact struct {
		day      civil.Day
		nanos    int64
		shop, to string
		amount   string
	}
	kinds := []facts.Kind{facts.Sum, facts.Count, facts.Mean, facts.Min, facts.Max, facts.First, facts.Last, facts.Distinct, facts.Percentile, facts.Percentile}
	for seed := range uint64(60) {
		random := rand.New(rand.NewPCG(seed, 3))
		operation := facts.Operation{Grain: calendar.Grain{Calendar: calendar.Gregorian(), Unit: calendar.Month}, Groups: []string{"shop", "to"}, Span: facts.Span(random.IntN(3)), AsOf: civil.MustOf(2030, 1, 1)}
		percents := map[int]string{8: "50", 9: []string{"0", "12.5", "90", "99.999", "100"}[seed%5]}
		for i, kind := range kinds {
			measure := facts.Measure{Kind: kind, Name: kind.String(), Gap: facts.Gap(random.IntN(4))}
			if kind == facts.Percentile {
				var err error
				measure.Percent, err = decimal.Parse([]byte(percents[i]))
				require.NoError(t, err)
			}
			operation.Measures = append(operation.Measures, measure)
		}
		start := civil.MustOf(2024, 6, 1)
		var all []fact
		for range 1 + random.IntN(300) {
			one := fact{start + civil.Day(random.IntN(900)), int64(random.IntN(3)), strings.Repeat("s", random.IntN(20)), fmt.Sprint(random.IntN(3)), amountOf(random, seed%4 == 0)}
			all = append(all, one)
		}
		tallies := make([]*facts.Tally, 1+random.IntN(3))
		for i := range tallies {
			tallies[i] = facts.NewTally(operation)
		}
		of := map[string][]int{}
		for row, one := range all {
			values := make([][]byte, len(kinds))
			for i := range values {
				values[i] = []byte(one.amount)
			}
			place := facts.Place{Day: one.day, Nanos: one.nanos, Row: int64(row)}
			// Values lie in a line, so that there are bytes behind them.
			line := fmt.Appendf(nil, "%s,%s,%d", one.shop, one.to, random.Uint64())
			shop, to := line[:len(one.shop)], line[len(one.shop)+1:len(one.shop)+1+len(one.to)]
			require.NoError(t, tallies[random.IntN(len(tallies))].Add(one.day, place, [][]byte{shop, to}, values))
			year, month, _ := one.day.Date()
			key := fmt.Sprintf("%04d-%02d|%s|%s", year, int(month), one.shop, one.to)
			of[key] = append(of[key], row)
		}
		for _, other := range tallies[1:] {
			tallies[0].Join(other)
		}
		result, err := tallies[0].Result()
		require.NoError(t, err)
		seen := 0
		var rows []string
		for row := range result.Rows() {
			rows = append(rows, rowText(row))
			key := row[0].String() + "|" + row[3].String() + "|" + row[4].String()
			list := of[key]
			require.Equal(t, list == nil, row[15].String() == "true", "filled")
			if list == nil {
				continue
			}
			seen++
			delete(of, key)
			slices.SortStableFunc(list, func(a, b int) int {
				if order := int(all[a].day - all[b].day); order != 0 {
					return order
				}
				return int(all[a].nanos - all[b].nanos)
			})
			var sum decimal.Decimal
			var known []decimal.Decimal
			for _, at := range list {
				if number, err := decimal.Parse([]byte(all[at].amount)); all[at].amount != "" {
					require.NoError(t, err)
					sum, known = sum.Add(number), append(known, number)
				}
			}
			require.Equal(t, fmt.Sprint(len(list)), row[6].String())
			texts := map[string]bool{}
			for _, at := range list {
				if all[at].amount != "" {
					texts[all[at].amount] = true
				}
			}
			require.Equal(t, fmt.Sprint(len(texts)), row[12].String(), "seed %d, distinct of %s", seed, key)
			if len(known) == 0 {
				require.True(t, row[5].IsBlank() && row[7].IsBlank() && row[11].IsBlank() && row[13].IsBlank())
				continue
			}
			least, most := slices.MinFunc(known, decimal.Decimal.Cmp), slices.MaxFunc(known, decimal.Decimal.Cmp)
			for column, want := range map[int]decimal.Decimal{5: sum, 8: least, 9: most, 10: known[0], 11: known[len(known)-1]} {
				got, err := decimal.Parse([]byte(row[column].String()))
				require.NoError(t, err)
				require.Zero(t, got.Cmp(want), "seed %d, %s of %s: %s, not %s", seed, kinds[column-5], key, got, want)
			}
			mean, err := decimal.Parse([]byte(row[7].String()))
			require.NoError(t, err)
			require.Zero(t, mean.Cmp(sum.Over(len(known), mean.Scale())))
			for i, percent := range percents {
				got, valid := new(big.Rat).SetString(row[5+i].String())
				require.True(t, valid)
				require.Zero(t, got.Cmp(percentile(known, percent)), "seed %d, percentile %s of %s: %s", seed, percent, key, row[5+i])
			}
		}
		assert.Empty(t, of, "each period with facts has a row")
		assert.Equal(t, len(rows)-seen, result.Filled())
		var cut []string
		for from := 0; from < result.Len(); {
			to := min(from+1+random.IntN(40), result.Len())
			for row := range result.RowsBetween(from, to) {
				cut = append(cut, rowText(row))
			}
			from = to
		}
		assert.Equal(t, rows, cut)
	}
}

// percentile lies on the straight line between the values around its place, in fractions.
func percentile(values []decimal.Decimal, percent string) *big.Rat {
	sorted := slices.SortedFunc(slices.Values(values), decimal.Decimal.Cmp)
	fraction := func(text string) *big.Rat {
		f, _ := new(big.Rat).SetString(text)
		return f
	}
	place := new(big.Rat).Mul(fraction(percent), big.NewRat(int64(len(sorted)-1), 100))
	whole := int(new(big.Int).Quo(place.Num(), place.Denom()).Int64())
	below := fraction(sorted[whole].String())
	if whole+1 == len(sorted) {
		return below
	}
	step := new(big.Rat).Sub(fraction(sorted[whole+1].String()), below)
	return below.Add(below, step.Mul(step, place.Sub(place, new(big.Rat).SetInt64(int64(whole)))))
}

func rowText(row []cell.Value) string {
	var texts []string
	for _, value := range row {
		texts = append(texts, value.String())
	}
	return strings.Join(texts, "|")
}

// The digits of a number are those of its units in the arithmetic of any size.
func TestTheDigitsOfANumber(t *testing.T) {
	random := rand.New(rand.NewPCG(1, 2))
	for range 20000 {
		units, scale := random.Int64()>>random.IntN(63), random.IntN(25)
		if random.IntN(2) == 0 {
			units = -units
		}
		small, large := decimal.OfUnits(units, scale), decimal.OfBig(big.NewInt(units), scale)
		more := random.IntN(30)
		require.Equal(t, large.Text(more), small.Text(more), "%d, %d", units, scale)
		require.Equal(t, large.String(), small.String())
		back, fits := large.Units(scale)
		require.True(t, fits)
		require.Equal(t, units, back)
	}
	for _, c := range []struct{ number, text string }{{"-0.05", "-0.05"}, {"0.00", "0.00"}, {"-9223372036854775808", "-9223372036854775808"}, {"100", "100"}, {"5e-3", "0.005"}} {
		number, err := decimal.Parse([]byte(c.number))
		require.NoError(t, err)
		assert.Equal(t, c.text, number.String())
	}
}

// Many groups, of which some have one fact long before all others.
func TestManyGroups(t *testing.T) {
	operation := facts.Operation{Grain: calendar.Grain{Calendar: calendar.Gregorian(), Unit: calendar.Day}, Groups: []string{"a", "b"}, Measures: []facts.Measure{{Kind: facts.Sum, Name: "n"}},
		AsOf: civil.MustOf(2026, 12, 31), Span: facts.SpanOwn}
	tally := facts.NewTally(operation)
	day := civil.MustOf(2026, 5, 5)
	const groups = 30000
	for round := range 2 {
		for g := range groups {
			on := day + civil.Day(g%40)
			if g%1000 == 0 && round == 1 {
				on = day - civil.Day(g)
			}
			// The two columns share letters: a|bc is not ab|c.
			a := strings.Repeat("x", g%7)
			require.NoError(t, tally.Add(on, facts.Place{Day: on, Row: int64(g)}, [][]byte{[]byte(a), fmt.Appendf(nil, "x%d", g)}, [][]byte{[]byte("0.5")}))
		}
	}
	result, err := tally.Result()
	require.NoError(t, err)
	assert.Equal(t, groups, result.Groups())
	total, _, _ := result.Total(0)
	assert.Equal(t, "30000.0", total.String())
	sums := map[string]int{}
	for row := range result.Rows() {
		if !row[5].IsBlank() {
			sums[row[3].String()+"|"+row[4].String()] += map[string]int{"0.5": 1, "1.0": 2}[row[5].String()]
		}
	}
	assert.Len(t, sums, groups)
	for key, halves := range sums {
		require.Equal(t, 2, halves, key)
	}
}

// What lies behind a value in its line is not part of it.
func TestGroupsEndWhereTheirValuesDo(t *testing.T) {
	operation := facts.Operation{Grain: calendar.Grain{Calendar: calendar.Gregorian(), Unit: calendar.Day}, Groups: []string{"a"}, Measures: []facts.Measure{{Kind: facts.Count, Name: "n"}}, AsOf: civil.MustOf(2026, 12, 31)}
	tally := facts.NewTally(operation)
	line := []byte("abcdefg\x03,")
	day := civil.MustOf(2026, 5, 5)
	for length := range 8 {
		require.NoError(t, tally.Add(day, facts.Place{Day: day}, [][]byte{line[:length]}, [][]byte{nil}))
	}
	result, err := tally.Result()
	require.NoError(t, err)
	assert.Equal(t, 8, result.Groups())
}
