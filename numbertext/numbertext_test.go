package numbertext_test

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/facts/decimal"
	"roundyear/numbertext"
)

func TestNumbersAsPeopleWriteThem(t *testing.T) {
	for _, c := range []struct {
		mark       numbertext.Mark
		text, want string
	}{
		{numbertext.Point, "1234.56", "1234.56"}, {numbertext.Point, "1,234.56", "1234.56"}, {numbertext.Point, "12,34,567.8", "1234567.8"}, {numbertext.Point, "1 234 567", "1234567"},
		{numbertext.Point, "1'234.5", "1234.5"}, {numbertext.Point, "1’234.5", "1234.5"}, {numbertext.Point, "(1,234.50)", "-1234.50"}, {numbertext.Point, "$ -12", "-12"}, {numbertext.Point, "-$12", "-12"},
		{numbertext.Point, "USD 1,000", "1000"}, {numbertext.Point, "12.50 EUR", "12.50"}, {numbertext.Point, "(12.50) EUR", "-12.50"}, {numbertext.Point, "EUR (12.50)", "-12.50"}, {numbertext.Point, "((5))", "none"}, {numbertext.Point, "-(5)", "none"}, {numbertext.Point, "(5)%", "-0.05"}, {numbertext.Point, "1.2e3", "1200"}, {numbertext.Point, "12.5%", "0.125"}, {numbertext.Point, "007", "7"}, {numbertext.Point, "0.50", "0.50"}, {numbertext.Point, "00,000.5", "none"}, {numbertext.Point, "5.", "5"}, {numbertext.Point, "-0", "-0"}, {numbertext.Point, "1e2%", "1"}, {numbertext.Point, "12-", "-12"}, {numbertext.Point, ".5", "0.5"},
		{numbertext.Point, "+7", "7"}, {numbertext.Point, "−7.5", "-7.5"}, {numbertext.Point, "", ""}, {numbertext.Point, " \u00a0", ""}, {numbertext.Point, "1\u202f234,", "none"},
		{numbertext.Comma, "1.234,56", "1234.56"}, {numbertext.Comma, "1\u202f234,5 €", "1234.5"}, {numbertext.Comma, "€ 1.000", "1000"}, {numbertext.Comma, "0,125", "0.125"}, {numbertext.Comma, "-3", "-3"}, {numbertext.Comma, "1,5E-3", "0.0015"},
		{numbertext.Comma, "10.50", "none"}, {numbertext.Comma, "0.071", "none"}, {numbertext.Point, "10,50", "none"}, {numbertext.Point, "1,23,4", "none"}, {numbertext.Point, "1.2.3", "none"}, {numbertext.Point, "12a", "none"}, {numbertext.Point, "--5", "none"},
		{numbertext.Point, "(-5)", "none"}, {numbertext.Point, "$5 €", "none"}, {numbertext.Point, "5%%", "none"}, {numbertext.Point, "1,000e3", "none"}, {numbertext.Point, "1 234,567.8", "none"}, {numbertext.Point, "EURO 5", "none"},
		{numbertext.Point, ".", "none"}, {numbertext.Point, "€", "none"}, {numbertext.Point, "e5", "none"}, {numbertext.Point, "1e", "none"}, {numbertext.Point, "1e+-3", "none"}, {numbertext.Point, "0x10", "none"}, {numbertext.Point, "2026-01-05", "none"},
		{numbertext.Point, ",234.5", "none"}, {numbertext.Point, "1,234,", "none"}, {numbertext.Point, "()", "none"},
	} {
		got, ok := numbertext.Format{Mark: c.mark}.AppendPlain(nil, []byte(c.text))
		if c.want == "none" {
			assert.False(t, ok, "%q as %q", c.text, got)
			continue
		}
		assert.True(t, ok, c.text)
		assert.Equal(t, c.want, string(got), c.text)
		if c.want != "" {
			_, err := decimal.Parse(got)
			assert.NoError(t, err, c.text)
		}
	}
}

func decided(values string, asked numbertext.Mark) string {
	whole := &numbertext.Column{}
	for i, value := range strings.Split(values, "; ") {
		part := &numbertext.Column{}
		part.Observe(i+2, []byte(value))
		whole.Join(part)
	}
	format, err := whole.Decide(numbertext.Asked{Mark: asked})
	if err != nil {
		return err.Error()
	}
	return format.Mark.String()
}

func TestTheMarkIsDecidedFromAllValues(t *testing.T) {
	for values, want := range map[string]string{
		"1.234; 5":               `does not show whether the point or the comma marks the decimals (1 value could be either, and none settles it): "1.234" in line 2`,
		"7; 1,234; 1.234; 2,345": `does not show whether the point or the comma marks the decimals (3 values could be either, and none settles it): "1,234" in line 3`,
		"1.234; 5.5":             "point", "1.234; 0.250": "point", "1.234; 1234.567": "point", "1.234; 1.234.567": "comma", "1.234; 5,5": "comma", "1,234; 5.5": "point", "1,234; 1,234.5": "point",
		"1 234.567": "point", "1'234,567": "comma", "5; 7; ": "point", "12,34,567": "point", "1.234,5; x": "comma", "abc": "point", "(1.234); 12%; 1,5 €": "comma",
		"10.50; 3; 10,50": `has decimal points and decimal commas: "10.50" in line 2, "10,50" in line 4`,
		"5 €; EUR 7":      "point",
		"7; 5 €; $ 7; £1": `has amounts in different currencies: "5 €" in line 3, "$ 7" in line 4`,
	} {
		assert.Equal(t, want, decided(values, numbertext.Unsettled), values)
	}
	assert.Equal(t, "comma", decided("1.234; 5", numbertext.Comma))
	assert.Equal(t, "point", decided("10.50; 10,50", numbertext.Point))
	assert.Contains(t, decided("5 €; $ 7", numbertext.Point), "different currencies")
}

// Whatever the grouping and the mark, a number that was written is read as itself, and the column shows its mark.
func TestNumbersAreReadAsTheyWereWritten(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 2))
	for range 5000 {
		mark := []numbertext.Mark{numbertext.Point, numbertext.Comma}[r.IntN(2)]
		separators := []string{"", "'", " ", "\u00a0", "\u202f", ","}
		if mark == numbertext.Comma {
			separators[5] = "."
		}
		separator := separators[r.IntN(len(separators))]
		units, scale := r.Int64N(1_000_000_000_000)>>r.IntN(40), r.IntN(5)
		plain := decimal.OfUnits(units, scale).Text(scale)
		whole, fraction, _ := strings.Cut(plain, ".")
		grouped := ""
		for i, digit := range whole {
			if i > 0 && (len(whole)-i)%3 == 0 {
				grouped += separator
			}
			grouped += string(digit)
		}
		text := grouped
		if scale > 0 {
			text += string(rune(mark)) + fraction
		}
		if r.IntN(3) == 0 {
			plain = "-" + plain
			text = []string{"-" + text, "(" + text + ")", text + "-", "−" + text, "-€" + text, "- " + text + " EUR", "€ (" + text + ")"}[r.IntN(7)]
		}
		got, ok := numbertext.Format{Mark: mark}.AppendPlain(nil, []byte(text))
		require.True(t, ok, text)
		require.Equal(t, plain, string(got), text)
		if says := decided(text, numbertext.Unsettled); says != mark.String() {
			isOpen := scale == 3 && len(whole) <= 3 || scale == 0
			require.True(t, isOpen, "%q says %s", text, says)
		}
	}
}

func FuzzAppendPlain(f *testing.F) {
	for _, text := range []string{"1.234,50 €", "(12,34,567.8)", "1e5", "12 %", "−5", "EUR 5-"} {
		f.Add([]byte(text))
	}
	f.Fuzz(func(t *testing.T, text []byte) {
		column := &numbertext.Column{}
		column.Observe(1, text)
		for _, mark := range []numbertext.Mark{numbertext.Point, numbertext.Comma} {
			plain, ok := numbertext.Format{Mark: mark}.AppendPlain(nil, text)
			if !ok || len(plain) == 0 {
				continue
			}
			if _, err := decimal.Parse(plain); err != nil {
				assert.ErrorIs(t, err, decimal.ErrTooLong, "%q as %q", text, plain)
			}
			// A plain number is itself.
			if fmt.Sprint(mark) == "point" {
				again, ok := numbertext.Format{Mark: mark}.AppendPlain(nil, plain)
				assert.True(t, ok, "%q", plain)
				assert.Equal(t, string(plain), string(again))
			}
		}
	})
}

func TestTheScaleIsThatOfTheMark(t *testing.T) {
	column := &numbertext.Column{}
	for i, value := range []string{"1.234,5", "2,25", "12 %", "7", "1,5e-3", "1.234.567", "x"} {
		column.Observe(i+1, []byte(value))
	}
	format, err := column.Decide(numbertext.Asked{Mark: numbertext.Unsettled})
	require.NoError(t, err)
	assert.Equal(t, numbertext.Format{Mark: numbertext.Comma, Scale: 4}, format)
	unread, first := column.Unread(format)
	assert.Equal(t, 1, unread)
	assert.Equal(t, numbertext.Example{Line: 7, Value: "x"}, first)
	unread, first = column.Unread(numbertext.Format{Mark: numbertext.Point})
	assert.Equal(t, 5, unread)
	assert.Equal(t, 1, first.Line)
}

// The short way for numbers that are nearly plain says the same as the long one, which a space before them takes.
func TestTheShortWaySaysTheSame(t *testing.T) {
	r := rand.New(rand.NewPCG(8, 1))
	for range 200_000 {
		text := make([]byte, 1+r.IntN(9))
		for i := range text {
			text[i] = "0123456789.,-0011"[r.IntN(17)]
		}
		long := append([]byte(" "), text...)
		for _, mark := range []numbertext.Mark{numbertext.Point, numbertext.Comma} {
			got, ok := numbertext.Format{Mark: mark}.AppendPlain([]byte("x"), text)
			want, wanted := numbertext.Format{Mark: mark}.AppendPlain([]byte("x"), long)
			require.Equal(t, wanted, ok, "%s", text)
			if ok {
				require.Equal(t, string(want), string(got), "%s", text)
			}
		}
		short, other := &numbertext.Column{}, &numbertext.Column{}
		short.Observe(1, text)
		other.Observe(1, long)
		got, err := short.Decide(numbertext.Asked{Mark: numbertext.Unsettled})
		want, wanted := other.Decide(numbertext.Asked{Mark: numbertext.Unsettled})
		require.Equal(t, wanted == nil, err == nil, "%s", text)
		require.Equal(t, want, got, "%s", text)
		bad, _ := short.Unread(want)
		otherBad, _ := other.Unread(want)
		require.Equal(t, otherBad, bad, "%s", text)
	}
}

// Credits and debits count as negative only as they are said to.
func TestCreditsAndDebits(t *testing.T) {
	values := []string{"1,234.50 CR", "12.00DR", "cr 5.25", "Dr. 7.00", "9.00 Cr.", "3.50"}
	column := &numbertext.Column{}
	for i, value := range values {
		column.Observe(i+2, []byte(value))
	}
	_, err := column.Decide(numbertext.Asked{})
	assert.EqualError(t, err, `has amounts marked CR or DR, and does not show which are negative: "1,234.50 CR" in line 2`)
	for minus, want := range map[string][]string{
		numbertext.Credit: {"-1234.50", "12.00", "-5.25", "7.00", "-9.00", "3.50"},
		numbertext.Debit:  {"1234.50", "-12.00", "5.25", "-7.00", "9.00", "3.50"},
	} {
		format, err := column.Decide(numbertext.Asked{Minus: minus})
		require.NoError(t, err)
		count, _ := column.Unread(format)
		assert.Zero(t, count)
		for i, value := range values {
			plain, ok := format.AppendPlain(nil, []byte(value))
			require.True(t, ok, value)
			assert.Equal(t, want[i], string(plain), value)
		}
		for _, value := range []string{"-3.00 CR", "(3.00) DR", "3 CR DR", "CR", "3 CRXY", "DR. 3 CR"} {
			_, ok := format.AppendPlain(nil, []byte(value))
			assert.False(t, ok, value)
		}
	}
	_, ok := numbertext.Format{Mark: numbertext.Point}.AppendPlain(nil, []byte("3.00 CR"))
	assert.False(t, ok, "nobody has said what it is")
	plain, ok := numbertext.Format{Mark: numbertext.Point}.AppendPlain(nil, []byte("3.00 SCR"))
	assert.True(t, ok, "a currency")
	assert.Equal(t, "3.00", string(plain))
}
