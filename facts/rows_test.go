package facts_test

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/civil"
	"roundyear/facts"
	"roundyear/facts/decimal"
)

// Facts give the same whether they come one by one as text, column by column, or as codes and
// numbers.
func TestFactsGiveTheSameHoweverTheyCome(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 7))
	from, to := civil.MustOf(2026, 2, 10), civil.MustOf(2027, 1, 5)
	for round := range 60 {
		operation := monthly(t, facts.Measure{Kind: facts.Sum, Name: "sum"}, facts.Measure{Kind: facts.Min, Name: "min"}, facts.Measure{Kind: facts.Last, Name: "last"},
			facts.Measure{Kind: facts.Count, Name: "count"}, facts.Measure{Kind: facts.Mean, Name: "mean"}, facts.Measure{Kind: facts.Distinct, Name: "distinct"},
			facts.Measure{Kind: facts.Percentile, Name: "median", Percent: decimal.OfInt(50)})
		operation.Groups = []string{"shop"}
		if round%2 == 0 {
			operation.From, operation.To = &from, &to
		}
		shops := [][]byte{[]byte("Ballyfern"), []byte("K"), nil, []byte("Veldhoek am Wald")}
		scale := round % 4
		one, columns, typed := facts.NewTally(operation), facts.NewTally(operation), facts.NewTally(operation)
		row := int64(0)
		for range 4 { // blocks, the codes of every other one in another order
			texts := [][]byte{shops[3], shops[1], shops[0], nil}
			var asText, asCodes facts.Rows
			asText.Groups, asText.Values = make([][][]byte, 1), make([][][]byte, len(operation.Measures))
			asCodes.Values = make([][][]byte, len(operation.Measures))
			asCodes.Coded, asCodes.Numbers = &facts.Coded{Texts: texts}, make([]*facts.Numbers, len(operation.Measures))
			numbers := &facts.Numbers{Scale: scale}
			for range r.IntN(300) {
				day, code := civil.MustOf(2026, 1, 1)+civil.Day(r.IntN(400)), uint32(r.IntN(4))
				units, isThere := r.Int64N(2_000_000)-1_000_000, r.IntN(5) > 0
				if round%5 == 0 {
					units <<= 40 // sums go beyond 64 bits
				}
				var text []byte
				if isThere {
					text = []byte(decimal.OfUnits(units, scale).Text(scale))
				}
				place := facts.Place{Day: day, Nanos: r.Int64N(3), Row: row}
				row++
				values := make([][]byte, len(operation.Measures))
				for i := range values {
					values[i] = text
				}
				require.NoError(t, one.Add(day, place, texts[code:code+1], values))
				for _, rows := range []*facts.Rows{&asText, &asCodes} {
					rows.Days, rows.Places = append(rows.Days, day), append(rows.Places, place)
					for i := range values {
						rows.Values[i] = append(rows.Values[i], text)
					}
				}
				asText.Groups[0] = append(asText.Groups[0], texts[code])
				asCodes.Coded.Codes = append(asCodes.Coded.Codes, code)
				numbers.Units, numbers.IsThere = append(numbers.Units, units), append(numbers.IsThere, isThere)
			}
			for i, measure := range operation.Measures {
				if measure.Kind != facts.Count && measure.Kind != facts.Distinct {
					asCodes.Numbers[i], asCodes.Values[i] = numbers, nil
				}
			}
			_, err := columns.AddRows(&asText)
			require.NoError(t, err)
			_, err = typed.AddRows(&asCodes)
			require.NoError(t, err)
		}
		want := lines(t, one)
		assert.Equal(t, want, lines(t, columns), "as columns, round %d", round)
		assert.Equal(t, want, lines(t, typed), "as codes and numbers, round %d", round)
		assert.Equal(t, one.Summary(), typed.Summary())
	}
}

func TestABadValueOfManyRowsSaysWhichItIs(t *testing.T) {
	tally := facts.NewTally(monthly(t, facts.Measure{Kind: facts.Sum, Name: "a"}, facts.Measure{Kind: facts.Sum, Name: "b"}))
	day := civil.MustOf(2026, 1, 1)
	row, err := tally.AddRows(&facts.Rows{Days: []civil.Day{day, day, day}, Values: [][][]byte{{[]byte("1"), []byte("2"), []byte("x")}, {[]byte("1"), []byte("y"), []byte("3")}}})
	assert.Equal(t, 1, row)
	var bad *facts.BadValue
	require.ErrorAs(t, err, &bad)
	assert.Equal(t, "1 y", fmt.Sprint(bad.Measure, " ", bad.Value))
	assert.Zero(t, tally.Summary().Rows, "nothing is taken in")
}
