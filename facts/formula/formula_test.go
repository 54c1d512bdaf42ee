package formula_test

import (
	"errors"
	"fmt"
	"math/big"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/facts/decimal"
	"roundyear/facts/formula"
)

// row is the values of columns by their places. Those that begin with ? are no numbers.
type row []string

var names = []string{"units", "price", "shop", "zero", "blank", "due date", "größe", "customer.city"}

func (r row) Field(place int) []byte { return []byte(r[place]) }

func (r row) NumberField(place int) ([]byte, error) {
	if strings.HasPrefix(r[place], "?") {
		return nil, errors.New("is no number")
	}
	return []byte(r[place]), nil
}

func find(name string) (int, error) {
	for i, column := range names {
		if column == name {
			return i, nil
		}
	}
	return 0, fmt.Errorf("has no column %q", name)
}

// attribute gives the length of a value, and the value with a sign before it.
func attribute(column, name string) (*formula.Attribute, error) {
	place, _ := find(column)
	switch name {
	case "length":
		return &formula.Attribute{Place: place, IsNumber: true, Value: func(r formula.Row) (formula.Value, error) {
			return formula.Value{Kind: formula.Number, Number: decimal.OfInt(len(r.Field(place)))}, nil
		}}, nil
	case "marked":
		return &formula.Attribute{Place: place, Value: func(r formula.Row) (formula.Value, error) {
			return formula.Value{Kind: formula.Text, Text: append([]byte{'!'}, r.Field(place)...)}, nil
		}}, nil
	}
	return nil, fmt.Errorf("a day has no %q", name)
}

func evaluate(text string, values row) (string, error) {
	f, err := formula.Parse(text)
	if err != nil {
		return "", err
	}
	if err := f.Bind(formula.Finder{Column: find, Attribute: attribute}); err != nil {
		return "", err
	}
	value, err := f.Evaluate(values)
	return string(value.AppendText(nil)), err
}

func TestFormulas(t *testing.T) {
	values := row{"3", "12.50", " Kil ", "0", "", "2026-01-05", "1.10", "Cork"}
	for text, want := range map[string]string{
		"revenue = units * price":               "37.50",
		"x=units+price*2":                       "28.00",
		"x = (units + price) × 2":               "31.00",
		"x = units - price − 1":                 "-10.50",
		"x = -units * -2":                       "6",
		"x = 10 / 4":                            "2.5",
		"x = 1 / 3":                             "0.333333",
		"x = 2 ÷ 3":                             "0.666667",
		"x = -1 / 8":                            "-0.125",
		"x = price / units":                     "4.16666667",
		"x = round(price / units, 2)":           "4.17",
		"x = round(2.5)":                        "2",
		"x = round(-0.125, 2)":                  "-0.12",
		"x = abs(-units)":                       "3",
		"x = blank * 2":                         "",
		"x = 1 / nonzero(zero)":                 "",
		"x = coalesce(blank, units) * 2":        "6",
		"x = coalesce(blank, blank)":            "",
		"x = coalesce(blank, shop)":             " Kil ",
		"x = trim(shop) & ', ' & customer.city": "Kil, Cork",
		"x = upper(trim(shop))":                 "KIL",
		"x = lower('ÄB')":                       "äb",
		"x = 'it''s'":                           "it's",
		`x = "due date"`:                        "2026-01-05",
		`"new name" = größe * 2`:                "2.20",
		"x = units & 'x'":                       "3x",
		"x = (units * 2) & ' pcs'":              "6 pcs",
		"x = blank & blank":                     "",
		"x = '12' * 2":                          "24",
		"x = units.length + 1":                  "2", "x = 'a' & units.marked": "a!3", `x = "due date.length" * 2`: "20",
		"x = .5 + 1":          "1.5",
		"x = ROUND(1.005, 2)": "1.00",
		"x = " + strings.Repeat("9", 90) + " + 1":             "1" + strings.Repeat("0", 90),
		"x = " + strings.Repeat("1+", 1900) + "1":             "1901",
		"x = 9223372036854775807 * 9223372036854775807":       "85070591730234615847396907784232501249",
		"x = 0.00000000000000000001 * 0.00000000000000000001": "0.0000000000000000000000000000000000000001",
	} {
		got, err := evaluate(text, values)
		require.NoError(t, err, text)
		assert.Equal(t, want, got, text)
	}
}

func TestFormulasThatAreNone(t *testing.T) {
	values := row{"?", "12.50", "Kil", "0", "", "", "", ""}
	for text, want := range map[string]string{
		"":                                      "begins with the name of the new column",
		"= 1":                                   "begins with the name of the new column",
		"x":                                     "ends where = behind the name of the new column is expected",
		"x + 1":                                 `has "+" at character 3, where = behind the name`,
		"x = ":                                  "ends where a column, a number, a text in 'quotes' or a function is expected",
		"x = 1 +":                               "ends where a column",
		"x = (1":                                "ends where a closing parenthesis is expected",
		"x = 1)":                                `has ")" at character 6, where an operator is expected`,
		"x = 'a":                                "has a quote that is not closed, at character 5",
		"x = 1.2.3":                             `has "1.2.3" at character 5, which is not a number`,
		"x = rund(1)":                           `has no function "rund"; did you mean round?`,
		"x = zzzzzzz(1)":                        "the functions are abs, coalesce, lower, nonzero, round, trim, upper",
		"x = plus(1, 2)":                        `has no function "plus"`,
		"x = round(1, 2, 3)":                    "gives round 3 values; it takes a number and how many decimals it is to have",
		"x = coalesce(1)":                       "gives coalesce 1 values; it takes 2 to 20 values",
		"x = abs()":                             "where a column, a number",
		"x = price / zero":                      "divides by zero",
		"x = price / (zero * 2)":                "divides by zero",
		"x = units * 2":                         "is no number",
		"x = shop & 'a' * 2":                    `"a" is not a decimal number`,
		"x = price * upper(shop)":               `"KIL" is not a decimal number`,
		"x = round(price, -1)":                  "rounds to -1 decimals; it can be 0 to 100",
		"x = units.marked * 2":                  `"!?" in units.marked is not a decimal number`,
		"x = units.size":                        `a day has no "size"`,
		"x = nope.size":                         `has no column "nope.size"`,
		"x = nope":                              `has no column "nope"`,
		"x = " + strings.Repeat("(", 60) + "1":  "has more than 50 parentheses within one another",
		"x = " + strings.Repeat("-", 60) + "1":  "has more than 50 signs within one another",
		"x = " + strings.Repeat("1 + ", 1000):   "is longer than 4000 characters",
		"x = 1" + strings.Repeat("0", 200) + "": "is not a number such as 1.23",
	} {
		_, err := evaluate(text, values)
		assert.ErrorContains(t, err, want, text)
	}
}

func TestColumnsOfFormulas(t *testing.T) {
	f, err := formula.Parse("x = coalesce(units, price) * 2 & shop & 'a' & units")
	require.NoError(t, err)
	require.NoError(t, f.Bind(formula.Finder{Column: find, Attribute: attribute}))
	all, numbers := f.Columns()
	assert.Equal(t, []int{0, 1, 2}, all)
	assert.Equal(t, []int{0, 1}, numbers)
	assert.False(t, f.IsNumber())
	for text, isNumber := range map[string]bool{"x = units * 2": true, "x = units": false, "x = coalesce(units, 0)": false, "x = coalesce(units * 1, 0)": true, "x = -units": true, "x = 1": true, "x = '1'": false, "x = upper(shop)": false} {
		f, err := formula.Parse(text)
		require.NoError(t, err)
		assert.Equal(t, isNumber, f.IsNumber(), text)
	}
}

// Sums, differences and products are exact: they are those of fractions.
func TestFormulasAreExact(t *testing.T) {
	random := rand.New(rand.NewPCG(5, 6))
	for range 2000 {
		text, want := randomFormula(random, 4)
		got, err := evaluate("x = "+text, nil)
		require.NoError(t, err, text)
		is, ok := new(big.Rat).SetString(got)
		require.True(t, ok, got)
		require.Zero(t, want.Cmp(is), "%s is %s and not %s", text, want.FloatString(20), got)
	}
}

func randomFormula(random *rand.Rand, depth int) (string, *big.Rat) {
	if depth == 0 || random.IntN(4) == 0 {
		text := fmt.Sprintf("%d.%0*d", random.Int64N(1e9), random.IntN(6)+1, random.IntN(10))
		value, _ := new(big.Rat).SetString(text)
		return text, value
	}
	left, a := randomFormula(random, depth-1)
	right, b := randomFormula(random, depth-1)
	switch random.IntN(4) {
	case 0:
		return "(" + left + " + " + right + ")", new(big.Rat).Add(a, b)
	case 1:
		return "(" + left + " - " + right + ")", new(big.Rat).Sub(a, b)
	case 2:
		return "-(" + left + ")", new(big.Rat).Neg(a)
	}
	return left + " * " + right, new(big.Rat).Mul(a, b)
}

// Whatever stands in a formula, reading and computing it ends with a value or with an error.
func FuzzFormula(f *testing.F) {
	f.Add("x = round(units * price, 2) & 'a'")
	f.Add(`"a b" = coalesce("due date", -1.5) / nonzero(zero)`)
	f.Fuzz(func(t *testing.T, text string) {
		_, _ = evaluate(text, row{"3", "12.50", "Kil", "0", "", "2026-01-05", "1.10", "Cork"})
	})
}

func TestDecimalsOfFormulas(t *testing.T) {
	of := map[int]int{0: 0, 1: 2}
	for text, want := range map[string]int{
		"x = units * price": 2, "x = price * price": 4, "x = price + 1.125": 3, "x = -price": 2, "x = price / units": 8, "x = round(price * price, 2)": 2, "x = round(shop)": 0, "x = abs(nonzero(price))": 2,
		"x = coalesce(price, 1.125) + 0": 3, "x = shop * 2": -1, "x = upper(shop)": -1, "x = price & price": -1, "x = round(price, units)": -1, "x = '1.5' * 2": -1,
	} {
		f, err := formula.Parse(text)
		require.NoError(t, err)
		require.NoError(t, f.Bind(formula.Finder{Column: find, Attribute: attribute}))
		scale, known := f.Scale(func(place int) (int, bool) { scale, known := of[place]; return scale, known })
		if !known {
			scale = -1
		}
		assert.Equal(t, want, scale, text)
	}
}
