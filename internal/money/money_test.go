package money_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/facts/decimal"
	"roundyear/internal/money"
)

func TestText(t *testing.T) {
	for _, c := range []struct {
		tag, number string
		decimals    int
		want        string
	}{
		{"en-IE", "1234567.895", 2, "1,234,567.90"}, {"nl", "1234567.895", 2, "1.234.567,90"}, {"de-CH", "1234567.5", 2, "1’234’567.50"},
		{"fr", "1234567.5", 2, "1\u00a0234\u00a0567,50"}, {"hi", "1234567.5", 1, "12,34,567.5"}, {"ar-EG", "1234567.5", 2, "1,234,567.50"},
		{"es", "12345", 0, "12.345"}, {"ja", "-1234567", 0, "-1,234,567"}, {"en", "0.005", 2, "0.00"}, {"en", "-999.5", 0, "-1,000"},
		{"en", "98765432109876543210987654321.5", 2, "98,765,432,109,876,543,210,987,654,321.50"},
	} {
		locale, err := money.Of(c.tag)
		require.NoError(t, err)
		number, err := decimal.Parse([]byte(c.number))
		require.NoError(t, err)
		assert.Equal(t, c.want, locale.Text(number, c.decimals), c.tag)
	}
	_, err := money.Of("not a tag")
	assert.ErrorContains(t, err, "is not a language tag")
	assert.Equal(t, "1,234.5", money.Plain().Text(decimal.OfUnits(12345, 1), 1))
}

func TestCurrency(t *testing.T) {
	for code, decimals := range map[string]int{"eur": 2, "JPY": 0, "KWD": 3} {
		_, found, err := money.Currency(code)
		require.NoError(t, err)
		assert.Equal(t, decimals, found, code)
	}
	_, _, err := money.Currency("EURO")
	assert.ErrorContains(t, err, `"EURO" is not the code of a currency, such as EUR`)
}
