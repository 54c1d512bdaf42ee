package facts

import (
	"math/big"

	"roundyear/civil"
	"roundyear/facts/decimal"
)

// accumulator is one measure of all cells. Each record has at its place: nothing for a
// Count, which is the number of facts; for the others how many values there were and what
// they make, in units of the scale that all cells have; and for First and Last where that
// value stands, as day, nanoseconds and row. An amount that does not fit 64 bits is in
// large.
type accumulator struct {
	kind  Kind
	cells *cells
	place int
	scale int
	large map[uint32]*big.Int
	// distinct are the values of a Distinct, of which the record has the number.
	distinct *distinct
	// listed are the values of a Percentile until it is settled; then it is an amount.
	listed *listed
}

// What a record has at the place of an accumulator.
const (
	atCount = iota
	atUnits
	atDay
	atNanos
	atRow
)

// width returns how many numbers of a record a kind takes.
func (k Kind) width() int {
	switch k {
	case Count:
		return 0
	case Distinct:
		return atCount + 1
	case First, Last:
		return atRow + 1
	}
	return atUnits + 1
}

// newAccumulators returns cells and the accumulators of measures over them.
func newAccumulators(measures []Measure) (*cells, []accumulator) {
	all := make([]accumulator, len(measures))
	c := &cells{stride: 1}
	for i, measure := range measures {
		all[i] = accumulator{kind: measure.Kind.gathered(), cells: c, place: c.stride}
		switch measure.Kind {
		case Distinct:
			all[i].distinct = newDistinct()
		case Percentile:
			all[i].listed = &listed{}
		}
		c.stride += measure.Kind.gathered().width()
	}
	return c, all
}

// values returns how many values a cell has, blank ones left out.
func (a *accumulator) values(record []int64) int {
	if a.kind == Count {
		return int(record[0])
	}
	return int(record[a.place+atCount])
}

// add takes in a value.
func (a *accumulator) add(cell uint32, record []int64, number decimal.Decimal, place Place) {
	if units, fits := number.UnitsOf(a.scale); fits && a.addUnits(record, units, a.scale) {
		return
	}
	own := record[a.place:]
	own[atCount]++
	a.merge(cell, own, number, place, own[atCount] == 1)
}

// addUnits takes in a value of units of a scale, if that only adds to a number of 64 bits.
func (a *accumulator) addUnits(record []int64, units int64, scale int) bool {
	if a.kind > Mean || scale != a.scale || a.large != nil {
		return false
	}
	own := record[a.place:]
	sum := own[atUnits] + units
	if (sum > own[atUnits]) != (units > 0) {
		return false
	}
	own[atCount]++
	own[atUnits] = sum
	return true
}

// merge takes in a number that came of one or more values.
func (a *accumulator) merge(cell uint32, own []int64, number decimal.Decimal, place Place, empty bool) {
	// The decimals of all values show, of those too that are not the least or the last.
	if number.Scale() > a.scale {
		a.rescale(number.Scale())
	}
	switch a.kind {
	case Percentile:
		if a.listed != nil {
			a.listed.add(cell, number)
		}
	case Sum, Mean:
		a.set(cell, own, a.amount(cell, own).Add(number))
	case Min:
		if empty || number.Cmp(a.amount(cell, own)) < 0 {
			a.set(cell, own, number)
		}
	case Max:
		if empty || number.Cmp(a.amount(cell, own)) > 0 {
			a.set(cell, own, number)
		}
	case First:
		if empty || place.before(placeOf(own)) {
			a.set(cell, own, number)
			own[atDay], own[atNanos], own[atRow] = int64(place.Day), place.Nanos, place.Row
		}
	case Last:
		if empty || placeOf(own).before(place) {
			a.set(cell, own, number)
			own[atDay], own[atNanos], own[atRow] = int64(place.Day), place.Nanos, place.Row
		}
	}
}

func placeOf(own []int64) Place { return Place{civil.Day(own[atDay]), own[atNanos], own[atRow]} }

// join takes in a cell of another accumulator of the same kind.
func (a *accumulator) join(cell uint32, record []int64, other *accumulator, theirs uint32, their []int64) {
	if a.kind.counts() {
		return // facts are joined with the record, distinct values by themselves
	}
	added := their[other.place+atCount]
	if added == 0 {
		return
	}
	own, his := record[a.place:], their[other.place:]
	empty := own[atCount] == 0
	own[atCount] += added
	if a.kind == Percentile {
		return // the values themselves are joined for all cells
	}
	var place Place
	if a.kind == First || a.kind == Last {
		place = placeOf(his)
	}
	a.merge(cell, own, other.amount(theirs, his), place, empty)
}

// of returns the amount of a cell.
func (a *accumulator) of(cell uint32) decimal.Decimal {
	return a.amount(cell, a.cells.record(cell)[a.place:])
}

func (a *accumulator) amount(cell uint32, own []int64) decimal.Decimal {
	if large := a.large[cell]; large != nil {
		return decimal.OfBig(large, a.scale)
	}
	return decimal.OfUnits(own[atUnits], a.scale)
}

func (a *accumulator) set(cell uint32, own []int64, number decimal.Decimal) {
	if units, fits := number.Units(a.scale); fits {
		own[atUnits] = units
		delete(a.large, cell)
		return
	}
	if a.large == nil {
		a.large = map[uint32]*big.Int{}
	}
	a.large[cell] = number.BigUnits(a.scale)
}

// rescale gives the amounts of all cells more decimals.
func (a *accumulator) rescale(scale int) {
	old, large := a.scale, a.large
	a.scale, a.large = scale, nil
	for cell := range a.cells.count {
		own := a.cells.record(cell)[a.place:]
		if units := own[atUnits]; units != 0 && large[cell] == nil {
			a.set(cell, own, decimal.OfUnits(units, old))
		}
	}
	for cell, units := range large {
		a.set(cell, a.cells.record(cell)[a.place:], decimal.OfBig(units, old))
	}
}
