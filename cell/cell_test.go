package cell

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"roundyear/civil"
)

func TestTextOfValues(t *testing.T) {
	for _, c := range []struct {
		value Value
		typ   Type
		text  string
		name  string
	}{
		{OfText("March"), Text, "March", "text"},
		{OfInteger(-1234567), Integer, "-1234567", "integer"},
		{OfDecimal("10.50"), Decimal, "10.50", "decimal"},
		{OfDay(civil.MustOf(2026, civil.March, 1)), Date, "2026-03-01", "date"},
		{OfBool(true), Boolean, "true", "boolean"},
		{OfBool(false), Boolean, "false", "boolean"},
	} {
		assert.Equal(t, c.text, c.value.String())
		assert.Equal(t, c.typ, c.value.Type())
		assert.Equal(t, c.name, c.value.Type().String())
		assert.False(t, c.value.IsBlank())
	}
	assert.True(t, Blank.IsBlank())
	assert.Equal(t, "", Blank.String())
	assert.True(t, OfDay(civil.MaxDay+1).IsBlank(), "10000-01-01 cannot be written with a four-digit year")
}
