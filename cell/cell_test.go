package cell_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"roundyear/cell"
	"roundyear/civil"
)

func TestTextOfValues(t *testing.T) {
	for _, c := range []struct {
		value cell.Value
		typ   cell.Type
		text  string
		name  string
	}{
		{cell.OfText("March"), cell.Text, "March", "text"},
		{cell.OfInteger(-1234567), cell.Integer, "-1234567", "integer"},
		{cell.OfDecimal("10.50"), cell.Decimal, "10.50", "decimal"},
		{cell.OfDay(civil.MustOf(2026, civil.March, 1)), cell.Date, "2026-03-01", "date"},
		{cell.OfBool(true), cell.Boolean, "true", "boolean"},
		{cell.OfBool(false), cell.Boolean, "false", "boolean"},
	} {
		assert.Equal(t, c.text, c.value.String())
		assert.Equal(t, c.typ, c.value.Type())
		assert.Equal(t, c.name, c.value.Type().String())
		assert.False(t, c.value.IsBlank())
	}
	assert.True(t, cell.Blank.IsBlank())
	assert.Equal(t, "", cell.Blank.String())
	assert.True(t, cell.OfDay(civil.MaxDay+1).IsBlank(), "10000-01-01 cannot be written with a four-digit year")
}
