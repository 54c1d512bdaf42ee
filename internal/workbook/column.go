package workbook

import (
	"roundyear/civil"
	"roundyear/rows"
)

// seen is what the cells of a column hold.
type seen struct {
	count [kinds]int
	// scale is the largest number of decimals of numbers, whole the largest number of digits before the
	// point, and clockScale the largest number of decimals of seconds.
	scale, whole, clockScale uint8
	// percents is how many of the numbers are shown as percent.
	percents int
	orders   orders
}

func (s *seen) add(v value) {
	s.count[v.kind]++
	if v.isPercent {
		s.percents++
	}
	switch v.kind {
	case number:
		s.scale = max(s.scale, v.scale)
		whole, units := uint8(0), abs(v.units)
		for range v.scale {
			units /= 10
		}
		for ; units > 0; units /= 10 {
			whole++
		}
		s.whole = max(s.whole, whole)
	case day:
		s.orders.addDay(civil.Day(v.units))
	case moment:
		s.orders.addDay(civil.Day(v.units / unitsOfDay))
		s.clockScale = max(s.clockScale, v.scale)
	case clock:
		s.clockScale = max(s.clockScale, v.scale)
	case text:
		s.orders.addText(v.text)
	}
}

func (s *seen) merge(other seen) {
	for kind, count := range other.count {
		s.count[kind] += count
	}
	s.percents += other.percents
	s.orders.merge(other.orders)
	s.scale, s.whole, s.clockScale = max(s.scale, other.scale), max(s.whole, other.whole), max(s.clockScale, other.clockScale)
}

// isBlank tells whether no cell holds anything.
func (s *seen) isBlank() bool {
	for kind, count := range s.count {
		if kind != int(blank) && count > 0 {
			return false
		}
	}
	return true
}

// column returns the column that holds all of it. Where kinds mix that have no type in common, all is text.
func (s *seen) column(name string) rows.Column {
	has := func(kinds ...kind) bool {
		all := 0
		for _, kind := range kinds {
			all += s.count[kind]
		}
		rest := 0
		for kind, count := range s.count {
			if kind != int(blank) {
				rest += count
			}
		}
		return all == rest && all > 0
	}
	const digits64 = 18
	column := rows.Column{Name: name}
	if s.percents > 0 && s.percents == s.count[number]+s.count[wide] {
		column.Shown = rows.AsPercent
	}
	switch {
	case has(day):
		column.Type = rows.Day
		return column
	case has(day, moment):
		column.Type, column.Scale = rows.Moment, s.clockScale
		return column
	case has(clock):
		column.Type, column.Scale = rows.Clock, s.clockScale
		return column
	case has(truth):
		column.Type = rows.Bool
		return column
	case has(number) && s.scale == 0:
		column.Type = rows.Integer
		return column
	case has(number) && s.whole+s.scale <= digits64:
		column.Type, column.Scale = rows.Decimal, s.scale
		return column
	case has(number, wide):
		column.Type = rows.Float
		return column
	case has(span):
		column.Shown = rows.AsSpans
		return column
	default:
		column.Shown = rows.AsNumbers
		return column
	}
}
