package decimal_test

import (
	"math/big"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/facts/decimal"
)

func of(t testing.TB, text string) decimal.Decimal {
	t.Helper()
	number, err := decimal.Parse([]byte(text))
	require.NoError(t, err, text)
	return number
}

func TestParse(t *testing.T) {
	for text, want := range map[string]string{
		"0": "0", "12.50": "12.50", "-0.05": "-0.05", "+7": "7", ".5": "0.5", "5.": "5",
		"9223372036854775807":               "9223372036854775807",
		"9223372036854775808":               "9223372036854775808",
		"-9223372036854775809":              "-9223372036854775809",
		"123456789012345678901234567890.12": "123456789012345678901234567890.12",
		"1e3":                               "1000", "1.5E-3": "0.0015", "2.50e1": "25.0", "1.25e+2": "125", "12e-1": "1.2",
	} {
		assert.Equal(t, want, of(t, text).String(), text)
	}
	for _, text := range []string{"", "-", ".", "1,5", "1 000", "€5", "1.2.3", "abc", "1e", "1e+", "1ex", "0x10", "NaN", "Inf", "--1"} {
		_, err := decimal.Parse([]byte(text))
		assert.ErrorIs(t, err, decimal.ErrNotANumber, text)
	}
	for _, text := range []string{"1e101", "1e-101", "0." + strings.Repeat("1", 101), strings.Repeat("9", 201), "1.5e-100"} {
		_, err := decimal.Parse([]byte(text))
		assert.ErrorIs(t, err, decimal.ErrTooLong, text)
	}
}

func TestAddIsExact(t *testing.T) {
	assert.Equal(t, "0.3", of(t, "0.1").Add(of(t, "0.2")).String())
	assert.Equal(t, "10.05", of(t, "10").Add(of(t, "0.05")).String())
	assert.Equal(t, "9223372036854775808", of(t, "9223372036854775807").Add(decimal.OfInt(1)).String())
	assert.Equal(t, "-9223372036854775809", of(t, "-9223372036854775808").Add(decimal.OfInt(-1)).String())
	sum := decimal.Decimal{}
	for range 1_000_000 {
		sum = sum.Add(of(t, "0.01"))
	}
	assert.Equal(t, "10000.00", sum.String())
}

// The quick way of numbers of 64 bits is the same as the long one.
func TestOverOfSmallNumbers(t *testing.T) {
	random := rand.New(rand.NewPCG(8, 9))
	for range 20000 {
		units, scale := int64(random.Uint64())>>random.IntN(63), random.IntN(6)
		divisor, wanted := int(random.Int64()>>random.IntN(62))+1, random.IntN(8)
		quick, long := decimal.OfUnits(units, scale).Over(divisor, wanted), decimal.OfBig(big.NewInt(units), scale).Over(divisor, wanted)
		require.Equal(t, long.Text(wanted), quick.Text(wanted), "%d/10^%d / %d at %d", units, scale, divisor, wanted)
	}
}

func TestOverRoundsHalfToEven(t *testing.T) {
	for _, c := range []struct {
		number         string
		divisor, scale int
		want           string
	}{
		{"10", 4, 0, "2"}, {"14", 4, 0, "4"}, {"10", 3, 4, "3.3333"}, {"-10", 4, 0, "-2"},
		{"-14", 4, 0, "-4"}, {"20", 3, 2, "6.67"}, {"0.05", 2, 2, "0.02"}, {"1.2345", 1, 2, "1.23"}, {"-0.001", 2, 2, "0.00"},
	} {
		assert.Equal(t, c.want, of(t, c.number).Over(c.divisor, c.scale).Text(c.scale), "%s / %d", c.number, c.divisor)
	}
}

func TestBetween(t *testing.T) {
	assert.Equal(t, "12.50", of(t, "10").Between(of(t, "20"), 1, 4, 2).String())
	assert.Equal(t, "13.33", of(t, "10.00").Between(of(t, "20"), 1, 3, 2).String())
	assert.Equal(t, "-5", of(t, "0").Between(of(t, "-10"), 1, 2, 0).String())
}

func TestTextPads(t *testing.T) {
	assert.Equal(t, "5.00", decimal.OfInt(5).Text(2))
	assert.Equal(t, "5.125", of(t, "5.125").Text(2), "digits are never dropped")
	assert.Equal(t, "0.00", decimal.Decimal{}.Text(2))
}

func TestCmp(t *testing.T) {
	assert.Zero(t, of(t, "1.50").Cmp(of(t, "1.5")))
	assert.Negative(t, of(t, "-2").Cmp(of(t, "1.5")))
	assert.Positive(t, of(t, "99999999999999999999").Cmp(of(t, "1.5")))
}

// Sums agree with the standard library's fractions, whatever the digits.
func FuzzAdd(f *testing.F) {
	f.Add("0.1", "0.2")
	f.Add("9223372036854775807", "0.01")
	f.Add("-1e18", "1e-18")
	f.Fuzz(func(t *testing.T, a, b string) {
		first, firstErr := decimal.Parse([]byte(a))
		second, secondErr := decimal.Parse([]byte(b))
		if firstErr != nil || secondErr != nil {
			return
		}
		x, ok := new(big.Rat).SetString(a)
		require.True(t, ok, a)
		y, ok := new(big.Rat).SetString(b)
		require.True(t, ok, b)
		sum, ok := new(big.Rat).SetString(first.Add(second).String())
		require.True(t, ok)
		assert.Zero(t, sum.Cmp(x.Add(x, y)), "%s + %s", a, b)
	})
}

// The short way of reading a number is the long one.
func TestPlainNumbersAreReadAsAnyOther(t *testing.T) {
	random := rand.New(rand.NewPCG(4, 4))
	read := 0
	for range 200000 {
		text := make([]byte, random.IntN(21))
		for i := range text {
			text[i] = "00123456789.."[random.IntN(13)]
			if random.IntN(12) == 0 {
				text[i] = "-+eE ,/:\xff"[random.IntN(9)]
			}
		}
		if len(text) > 0 && random.IntN(3) == 0 {
			text[0] = '-'
		}
		short, shortErr := decimal.Parse(text)
		long, longErr := decimal.ParseAny(text)
		require.Equal(t, longErr, shortErr, "%q", text)
		require.Equal(t, long, short, "%q", text)
		if shortErr == nil {
			read++
		}
	}
	assert.Greater(t, read, 20000)
}
