package allocation_test

import (
	"math/big"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/facts/allocation"
	"roundyear/facts/decimal"
)

func numbers(t *testing.T, texts ...string) (all []decimal.Decimal) {
	t.Helper()
	for _, text := range texts {
		number, err := decimal.Parse([]byte(text))
		require.NoError(t, err)
		all = append(all, number)
	}
	return all
}

func TestApportion(t *testing.T) {
	for _, c := range []struct {
		total    string
		weights  []string
		decimals int
		want     []string
	}{
		{"100", []string{"1", "1", "1"}, 2, []string{"33.34", "33.33", "33.33"}},
		{"-0.05", []string{"1", "1", "1"}, 2, []string{"-0.02", "-0.02", "-0.01"}},
		{"10", []string{"1.5", "0", "1"}, 0, []string{"6", "0", "4"}},
		{"1", []string{"1", "2", "3", "-9"}, 2, []string{"0.17", "0.33", "0.50", "0.00"}},
		{"0", []string{"1", "2"}, 2, []string{"0.00", "0.00"}},
		{"123456789012345678901234567890.01", []string{"1", "1"}, 2, []string{"61728394506172839450617283945.01", "61728394506172839450617283945.00"}},
	} {
		parts, ok := allocation.Apportion(numbers(t, c.total)[0], numbers(t, c.weights...), c.decimals)
		require.True(t, ok)
		var texts []string
		for _, part := range parts {
			texts = append(texts, part.Text(c.decimals))
		}
		assert.Equal(t, c.want, texts, c.total)
	}
	_, ok := allocation.Apportion(numbers(t, "1")[0], numbers(t, "0", "-1"), 2)
	assert.False(t, ok, "nothing weighs anything")
	_, ok = allocation.Apportion(numbers(t, "1.001")[0], numbers(t, "1"), 2)
	assert.False(t, ok, "the total has more decimals")
	_, ok = allocation.Apportion(numbers(t, "1")[0], nil, 2)
	assert.False(t, ok)
}

// Parts add up, and each is less than one unit from its exact share, which it has if that is a whole number of units.
func TestPartsAddUp(t *testing.T) {
	random := rand.New(rand.NewPCG(4, 2))
	for range 3000 {
		total := decimal.OfUnits(random.Int64N(2_000_000)-1_000_000, 2)
		weights, whole := make([]decimal.Decimal, 1+random.IntN(40)), int64(0)
		units := make([]int64, len(weights))
		for i := range weights {
			units[i] = random.Int64N(1000) * random.Int64N(2)
			weights[i], whole = decimal.OfUnits(units[i], 1), whole+units[i]
		}
		parts, ok := allocation.Apportion(total, weights, 2)
		require.Equal(t, whole > 0, ok)
		if !ok {
			continue
		}
		sum := decimal.Decimal{}
		all, _ := total.Units(2)
		for i, part := range parts {
			sum = sum.Add(part)
			own, _ := part.Units(2)
			exact := big.NewRat(all*units[i], whole)
			distance := new(big.Rat).Sub(new(big.Rat).SetInt64(own), exact)
			require.Negative(t, distance.Abs(distance).Cmp(big.NewRat(1, 1)))
			if exact.IsInt() {
				require.Equal(t, exact.Num().Int64(), own)
			}
		}
		require.Zero(t, sum.Cmp(total))
	}
}
