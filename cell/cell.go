// Package cell is one typed value of a table, and its text.
package cell

import (
	"fmt"
	"strconv"

	"roundyear/civil"
)

// Type is the type of a column.
type Type uint8

// The types of columns.
const (
	Text Type = iota
	Integer
	Decimal
	Date
	Boolean
	Time
)

var typeNames = [...]string{"text", "integer", "decimal", "date", "boolean", "time"}

// String returns the type's name in lower case.
func (t Type) String() string { return typeNames[t] }

// Column is the name and type of one column of a table.
type Column struct {
	Name string
	Type Type
	// Scale is how many decimals a Decimal has at most, and the seconds of a Time.
	Scale uint8
	// Key tells that no two rows have the same value, and that none is missing.
	Key bool
}

// Value is a value of any of the types, or a blank. The zero Value is blank.
type Value struct {
	text   string
	number int64
	typ    Type
	filled bool
}

// Blank is the absence of a value.
var Blank Value

// OfText returns a text. An empty text is not a blank in itself; CSV shows
// both the same.
func OfText(text string) Value { return Value{filled: true, typ: Text, text: text} }

// OfInteger returns a whole number.
func OfInteger(number int) Value {
	return Value{filled: true, typ: Integer, number: int64(number)}
}

// OfDecimal returns a decimal number by its digits, which are kept as they are.
func OfDecimal(digits string) Value { return Value{filled: true, typ: Decimal, text: digits} }

// OfDay returns a date, or a blank for a day that no four-digit year has.
func OfDay(day civil.Day) Value {
	if day < civil.MinDay || day > civil.MaxDay {
		return Blank
	}
	return Value{filled: true, typ: Date, number: int64(day)}
}

// OfTime returns a time of day by its seconds since midnight.
func OfTime(second int) Value { return Value{filled: true, typ: Time, number: int64(second)} }

// OfBool returns a truth value.
func OfBool(truth bool) Value {
	value := Value{filled: true, typ: Boolean}
	if truth {
		value.number = 1
	}
	return value
}

// Int returns a whole number, the count of a day (civil.Day), the seconds of a time of day or 1 for
// true; 0 for all else.
func (v Value) Int() int64 { return v.number }

// IsBlank tells whether there is no value.
func (v Value) IsBlank() bool { return !v.filled }

// Type returns the value's type; a blank has none of its own and says Text.
func (v Value) Type() Type { return v.typ }

// Same tells whether two values are the same. It is quicker than ==.
func (v Value) Same(other Value) bool {
	return v.number == other.number && v.typ == other.typ && v.filled == other.filled && v.text == other.text
}

// AppendText appends the value as data files have it: dates as 2026-03-01,
// times as 14:05:00, truth as true and false, numbers without grouping, a
// blank as nothing.
func (v Value) AppendText(text []byte) []byte {
	switch {
	case !v.filled:
		return text
	case v.typ == Integer:
		return strconv.AppendInt(text, v.number, 10)
	case v.typ == Date:
		return civil.Day(v.number).AppendText(text)
	case v.typ == Time:
		return fmt.Appendf(text, "%02d:%02d:%02d", v.number/3600, v.number/60%60, v.number%60)
	case v.typ == Boolean:
		return strconv.AppendBool(text, v.number == 1)
	}
	return append(text, v.text...)
}

// String returns the text that AppendText appends.
func (v Value) String() string { return string(v.AppendText(nil)) }
