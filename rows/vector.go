package rows

import (
	"strconv"
	"strings"

	"roundyear/civil"
)

// Vector is the values of one column of a batch.
type Vector struct {
	Type  Type
	Scale uint8
	// Valid has a bit for each value that is there; nil when all are.
	Valid []uint64
	// Int are the values of all types but text.
	Int []int64
	// Offsets are where texts begin in Bytes, and where the last one ends.
	Offsets []uint32
	Bytes   []byte
}

// IsValid tells whether a value is there.
func (v *Vector) IsValid(row int) bool {
	return v.Valid == nil || v.Valid[row/64]>>(row%64)&1 == 1
}

// Text returns a text; empty for a value that is missing.
func (v *Vector) Text(row int) []byte {
	if !v.IsValid(row) {
		return nil
	}
	return v.Bytes[v.Offsets[row]:v.Offsets[row+1]]
}

const secondsOfDay = 24 * 60 * 60

// Moment returns the day and the nanoseconds after midnight of a Day, Moment or Instant. It is
// false where the value is missing, or is outside the years 0001 to 9999.
func (v *Vector) Moment(row int) (day civil.Day, nanos int64, ok bool) {
	if !v.IsValid(row) {
		return 0, 0, false
	}
	value := v.Int[row]
	if v.Type != Day {
		unit := power(v.Scale)
		of := value % (secondsOfDay * unit)
		if of < 0 {
			of += secondsOfDay * unit
		}
		value, nanos = (value-of)/(secondsOfDay*unit), of*(1e9/unit)
	}
	if value < int64(civil.MinDay) || value > int64(civil.MaxDay) {
		return 0, 0, false
	}
	return civil.Day(value), nanos, true
}

// power returns ten to the power of a scale up to 9.
func power(scale uint8) int64 {
	unit := int64(1)
	for range scale {
		unit *= 10
	}
	return unit
}

// AppendText appends a value as text: days and moments by ISO 8601, numbers with a point,
// nothing for a value that is missing.
func (v *Vector) AppendText(text []byte, row int) []byte {
	if !v.IsValid(row) {
		return text
	}
	switch v.Type {
	case Text:
		return append(text, v.Text(row)...)
	case Integer:
		return strconv.AppendInt(text, v.Int[row], 10)
	case Bool:
		return strconv.AppendBool(text, v.Int[row] != 0)
	case Decimal:
		return appendDecimal(text, v.Int[row], int(v.Scale))
	}
	day, nanos, ok := v.Moment(row)
	if !ok {
		// No date that there is: whoever reads it as one shall see what stands there.
		return strconv.AppendInt(text, v.Int[row], 10)
	}
	text = append(text, day.String()...)
	if v.Type == Day {
		return text
	}
	seconds := nanos / 1e9
	text = append(text, 'T')
	text = appendPadded(text, seconds/3600, 2)
	text = appendPadded(append(text, ':'), seconds/60%60, 2)
	text = appendPadded(append(text, ':'), seconds%60, 2)
	if fraction := nanos % 1e9; fraction != 0 {
		text = appendPadded(append(text, '.'), fraction/(1e9/power(v.Scale)), int(v.Scale))
	}
	if v.Type == Instant {
		text = append(text, 'Z')
	}
	return text
}

func appendPadded(text []byte, number int64, width int) []byte {
	digits := strconv.FormatInt(number, 10)
	for range width - len(digits) {
		text = append(text, '0')
	}
	return append(text, digits...)
}

// appendDecimal appends units of a scale as a number with so many decimals.
func appendDecimal(text []byte, units int64, scale int) []byte {
	digits := strconv.FormatInt(units, 10)
	if units < 0 {
		text, digits = append(text, '-'), digits[1:]
	}
	if short := scale + 1 - len(digits); short > 0 {
		digits = strings.Repeat("0", short) + digits
	}
	whole := len(digits) - scale
	if text = append(text, digits[:whole]...); scale == 0 {
		return text
	}
	return append(append(text, '.'), digits[whole:]...)
}
