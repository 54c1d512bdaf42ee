package rows

import (
	"math"
	"strconv"
	"strings"

	"roundyear/civil"
)

// Vector is the values of one column of a batch. Its type is that of the column, or Text where a
// number of the column does not fit into 64 bits.
type Vector struct {
	Type  Type
	Scale uint8
	// Valid has a bit for each value that is there. All are behind its end.
	Valid []uint64
	// Int are the values of all types but text.
	Int []int64
	// Offsets are where texts begin in Bytes, and where the last one ends.
	Offsets []uint32
	Bytes   []byte
	// Codes, if there are some, say which of these texts each value is; otherwise they are
	// the values themselves.
	Codes []uint32
}

// IsValid tells whether a value is there.
func (v *Vector) IsValid(row int) bool {
	return row/64 >= len(v.Valid) || v.Valid[row/64]>>(row%64)&1 == 1
}

// Len returns the number of values.
func (v *Vector) Len() int {
	switch {
	case v.Codes != nil:
		return len(v.Codes)
	case v.Type == Text:
		return max(len(v.Offsets)-1, 0)
	}
	return len(v.Int)
}

// Invalidate says that a value is missing.
func (v *Vector) Invalidate(row int) {
	for len(v.Valid) <= row/64 {
		v.Valid = append(v.Valid, ^uint64(0))
	}
	v.Valid[row/64] &^= 1 << (row % 64)
}

// Text returns a text; empty for a value that is missing.
func (v *Vector) Text(row int) []byte {
	if !v.IsValid(row) {
		return nil
	}
	if v.Codes != nil {
		row = int(v.Codes[row])
	}
	return v.Bytes[v.Offsets[row]:v.Offsets[row+1]]
}

// Spell makes texts that stand in codes the values themselves.
func (v *Vector) Spell() {
	own := Vector{Type: v.Type, Scale: v.Scale, Valid: v.Valid, Offsets: append(make([]uint32, 0, len(v.Codes)+1), 0)}
	for i := range v.Codes {
		own.AppendBytes(v.Text(i))
	}
	*v = own
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
		value, nanos = divided(value, secondsOfDay*unit)
		nanos *= 1e9 / unit
	}
	if value < int64(civil.MinDay) || value > int64(civil.MaxDay) {
		return 0, 0, false
	}
	return civil.Day(value), nanos, true
}

// AppendDays appends the days of values from one to before another. It is false if one of them has none.
func (v *Vector) AppendDays(days []civil.Day, from, to int) ([]civil.Day, bool) {
	perDay := int64(1)
	if v.Type != Day {
		perDay, _ = v.UnitsOfDay()
	}
	var start, end int64
	var day civil.Day
	for i := from; i < to; i++ {
		if len(v.Valid) > 0 && !v.IsValid(i) {
			return days, false
		}
		if value := v.Int[i]; value < start || value >= end {
			var ok bool
			if day, _, ok = v.Moment(i); !ok {
				return days, false
			}
			start = int64(day) * perDay
			end = start + perDay
		}
		days = append(days, day)
	}
	return days, true
}

// UnitsOfDay returns how many units a day of a Moment or Instant has, and how many nanoseconds one of them.
func (v *Vector) UnitsOfDay() (units, nanos int64) {
	unit := power(v.Scale)
	return secondsOfDay * unit, 1e9 / unit
}

// divided divides downwards.
func divided(value, by int64) (quotient, rest int64) {
	if rest = value % by; rest < 0 {
		rest += by
	}
	return (value - rest) / by, rest
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
	case Float:
		// The shortest decimal number that stands for the value: 12.3 is written so.
		return strconv.AppendFloat(text, math.Float64frombits(uint64(v.Int[row])), 'f', -1, 64)
	case Clock:
		return v.appendClock(text, v.Int[row]/power(v.Scale), v.Int[row]%power(v.Scale))
	}
	day, nanos, ok := v.Moment(row)
	switch {
	case ok:
		text = append(text, day.String()...)
	case v.Int[row] == Infinite:
		return append(text, "infinity"...)
	case v.Int[row] == -Infinite-1:
		return append(text, "-infinity"...)
	default:
		// No date that there is: whoever reads it as one shall see what stands there.
		text, nanos = v.appendFar(text, v.Int[row])
	}
	if v.Type == Day {
		return text
	}
	text = v.appendClock(append(text, 'T'), nanos/1e9, nanos%1e9/(1e9/power(v.Scale)))
	if v.Type == Instant {
		text = append(text, 'Z')
	}
	return text
}

// Infinite is the value of a Day, Moment or Instant that is later than all others, as some databases have it; -Infinite-1 is the one that is
// earlier.
const Infinite = math.MaxInt64

// appendFar appends a day before the year 1 or after 9999 by ISO 8601, with a sign and the year 0 before 1, and returns the nanoseconds behind
// it.
func (v *Vector) appendFar(text []byte, value int64) (_ []byte, nanos int64) {
	if v.Type != Day {
		unit := power(v.Scale)
		value, nanos = divided(value, secondsOfDay*unit)
		nanos *= 1e9 / unit
	}
	const cycleYears, cycleDays = 400, 146097
	cycles, ofCycle := divided(value-int64(civil.MinDay), cycleDays)
	year, month, day := (civil.MinDay + civil.Day(ofCycle)).Date()
	whole := int64(year) + cycles*cycleYears
	sign := byte('+')
	if whole < 0 {
		sign, whole = '-', -whole
	}
	text = appendPadded(append(text, sign), whole, 4)
	text = appendPadded(append(text, '-'), int64(month), 2)
	return appendPadded(append(text, '-'), int64(day), 2), nanos
}

// appendClock appends a time of day by its seconds and the units of the scale behind them.
func (v *Vector) appendClock(text []byte, seconds, fraction int64) []byte {
	text = appendPadded(text, seconds/3600, 2)
	text = appendPadded(append(text, ':'), seconds/60%60, 2)
	text = appendPadded(append(text, ':'), seconds%60, 2)
	if fraction != 0 {
		text = appendPadded(append(text, '.'), fraction, int(v.Scale))
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
