package facts

import (
	"slices"

	"roundyear/facts/decimal"
)

// listed are the values of each cell, one by one, for the kinds that need all of them. Its
// memory grows with the values: 16 bytes each.
type listed struct {
	values []listedValue
	// heads are the last values of the cells, by their numbers, as places from 1.
	heads []uint32
	// large are the values that do not fit 64 bits.
	large []decimal.Decimal
}

// listedValue is a value in units of its own scale, or the place of a large one; before it
// comes the value at the place next.
type listedValue struct {
	units int64
	next  uint32
	scale int32
}

// isLarge is the scale of a value that is among the large ones.
const isLarge = -1

func (l *listed) add(cell uint32, number decimal.Decimal) {
	value := listedValue{scale: int32(number.Scale())}
	var fits bool
	if value.units, fits = number.Units(number.Scale()); !fits {
		value.units, value.scale = int64(len(l.large)), isLarge
		l.large = append(l.large, number)
	}
	l.push(cell, value)
}

func (l *listed) push(cell uint32, value listedValue) {
	for uint32(len(l.heads)) <= cell {
		l.heads = append(l.heads, make([]uint32, int(cell)+1-len(l.heads)+len(l.heads)/2)...)
	}
	value.next = l.heads[cell]
	l.values = append(l.values, value)
	l.heads[cell] = uint32(len(l.values))
}

// join takes in the values of another list, whose cells have other numbers here, or noPage for those that are left out.
func (l *listed) join(other *listed, cells []uint32) {
	for cell, head := range other.heads {
		if cell >= len(cells) || cells[cell] == noPage {
			continue
		}
		for at := head; at > 0; at = other.values[at-1].next {
			value := other.values[at-1]
			if value.scale == isLarge {
				l.add(cells[cell], other.large[value.units])
			} else {
				l.push(cells[cell], value)
			}
		}
	}
}

// sorted returns the values of a cell from the least to the greatest, in memory that is used
// again for the next cell: as units of a scale if all of them fit, else as numbers.
func (l *listed) sorted(cell uint32, scale int, memory []int64) (units []int64, numbers []decimal.Decimal) {
	units = memory[:0]
	for at := l.heads[cell]; at > 0; at = l.values[at-1].next {
		value, fits := l.values[at-1], true
		if int(value.scale) != scale {
			value.units, fits = l.number(value).Units(scale)
		}
		if !fits {
			return units, l.sortedNumbers(cell)
		}
		units = append(units, value.units)
	}
	slices.Sort(units)
	return units, nil
}

func (l *listed) sortedNumbers(cell uint32) []decimal.Decimal {
	var numbers []decimal.Decimal
	for at := l.heads[cell]; at > 0; at = l.values[at-1].next {
		numbers = append(numbers, l.number(l.values[at-1]))
	}
	slices.SortFunc(numbers, decimal.Decimal.Cmp)
	return numbers
}

func (l *listed) number(value listedValue) decimal.Decimal {
	if value.scale == isLarge {
		return l.large[value.units]
	}
	return decimal.OfUnits(value.units, int(value.scale))
}

// settle works out the percentile of all cells, as their amounts. It lies on the straight line
// between the two values around its place, as PERCENTILE_CONT of SQL:2003 has it, and is exact.
func (a *accumulator) settle(percent decimal.Decimal) {
	results := make(map[uint32]decimal.Decimal)
	scale, most := a.scale, a.scale
	var memory []int64
	for cell, head := range a.listed.heads {
		if head == 0 {
			continue
		}
		units, numbers := a.listed.sorted(uint32(cell), scale, memory)
		memory = units
		at := func(i int) decimal.Decimal {
			if numbers != nil {
				return numbers[i]
			}
			return decimal.OfUnits(units[i], scale)
		}
		result := percentileOf(max(len(units), len(numbers)), at, percent).Trimmed(scale)
		most = max(most, result.Scale())
		results[uint32(cell)] = result
	}
	a.scale = most
	for cell, result := range results {
		a.set(cell, a.cells.record(cell)[a.place:], result)
	}
	a.listed = nil
}

// percentileOf returns the percentile of so many sorted values.
func percentileOf(count int, at func(int) decimal.Decimal, percent decimal.Decimal) decimal.Decimal {
	// The place is (count-1) × percent / 100: whole steps and a part of one. A percent has few
	// decimals, so its units fit.
	steps := 100
	for range percent.Scale() {
		steps *= 10
	}
	units, _ := percent.Units(percent.Scale())
	place := (count - 1) * int(units)
	below, step := at(place/steps), place%steps
	if step == 0 {
		return below
	}
	above := at(place/steps + 1)
	return below.Between(above, step, steps, max(below.Scale(), above.Scale())+2+percent.Scale())
}
