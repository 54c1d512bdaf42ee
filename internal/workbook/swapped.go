package workbook

import (
	"fmt"

	"roundyear/civil"
	"roundyear/fault"
)

// orders counts what the dates of a column say of the order in which day and month were read before they came into the workbook. A program
// with another order makes dates of those texts that are dates in its order, too, with day and month swapped, and leaves the others as text:
// then no cell has a day above 12, and each text has one.
type orders struct {
	// low and high count the cells with a day of the month up to 12, and above.
	low, high int
	// dayFirst and monthFirst count the texts of which only the first, or only the second number is above 12, open those with none.
	dayFirst, monthFirst, open int
}

func (o *orders) addDay(day civil.Day) {
	if _, _, of := day.Date(); of <= 12 {
		o.low++
	} else {
		o.high++
	}
}

func (o *orders) addText(text []byte) {
	first, rest, ok := leadingNumber(text)
	if !ok || len(rest) == 0 || rest[0] != '/' && rest[0] != '.' && rest[0] != '-' {
		return
	}
	second, rest, ok := leadingNumber(rest[1:])
	if !ok || len(rest) == 0 || rest[0] != '/' && rest[0] != '.' && rest[0] != '-' {
		return
	}
	const months = 12
	switch {
	case first > months && second <= months:
		o.dayFirst++
	case first <= months && second > months:
		o.monthFirst++
	case first <= months:
		o.open++
	}
}

// leadingNumber reads one or two digits at the beginning of a text.
func leadingNumber(text []byte) (number int, rest []byte, ok bool) {
	for len(text) > 0 && text[0] >= '0' && text[0] <= '9' {
		number, text, ok = number*10+int(text[0]-'0'), text[1:], true
		if number > 99 {
			return 0, nil, false
		}
	}
	return number, text, ok
}

func (o *orders) merge(other orders) {
	o.low, o.high, o.open = o.low+other.low, o.high+other.high, o.open+other.open
	o.dayFirst, o.monthFirst = o.dayFirst+other.dayFirst, o.monthFirst+other.monthFirst
}

// texts returns how many texts say the order.
func (o *orders) texts() int { return o.dayFirst + o.monthFirst }

// areSwapped tells whether cells and texts part so cleanly that it is no chance: of days all over the month four and four do by 3 in 1,000.
func (o *orders) areSwapped() bool {
	const few = 4
	return o.high == 0 && o.open == 0 && o.low >= few && o.texts() >= few && (o.dayFirst == 0 || o.monthFirst == 0)
}

// swapped returns the date with day and month the other way round.
func (v value) swapped() (value, bool) {
	days, clock := v.units, int64(0)
	if v.kind == moment {
		days, clock = v.units/unitsOfDay, v.units%unitsOfDay
		if clock < 0 {
			days, clock = days-1, clock+unitsOfDay
		}
	}
	year, month, day := civil.Day(days).Date()
	if day > 12 {
		return v, false
	}
	days = int64(civil.MustOf(year, civil.Month(day), int(month)))
	if v.units = days; v.kind == moment {
		v.units = days*unitsOfDay + clock
	}
	return v, true
}

// swap puts day and month of the dates of a row the right way round.
func (c *cells) swap() bool {
	for _, column := range c.swaps {
		if column >= len(c.values) {
			continue
		}
		v := &c.values[column]
		if v.kind != day && v.kind != moment {
			continue
		}
		own, ok := v.swapped()
		if !ok {
			c.isBad = &fault.Fault{File: c.Name, Line: c.row, Column: Letters(column), What: fmt.Sprintf("%s has a day above 12 and cannot have been swapped", v.appendText(nil)),
				Remedy: "Leave out --swapped, or correct the cell", Kind: fault.Malformed}
			return false
		}
		*v = own
	}
	return true
}
