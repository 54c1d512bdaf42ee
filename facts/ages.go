package facts

import (
	"cmp"
	"slices"

	"roundyear/cell"
	"roundyear/civil"
	"roundyear/facts/decimal"
)

// ages finds the median of the ages of the spans that are open, from day to day: a tree of counts by the days on which they opened.
type ages struct {
	// byFrom and byGone are the spans in the order of their first days, and of the first days on which they are not open any more.
	byFrom, byGone []agedSpan
	entered, left  int
	// days are the different first days, and tree sums up how many open spans have them (a binary indexed tree).
	days []int32
	tree []int
	open int
}

// newAges takes the spans of a group, which it sorts.
func newAges(spans []agedSpan) *ages {
	slices.SortFunc(spans, func(a, b agedSpan) int { return cmp.Compare(a.from, b.from) })
	a := &ages{byFrom: spans}
	for _, span := range spans {
		if last := len(a.days) - 1; last < 0 || a.days[last] != span.from {
			a.days = append(a.days, span.from)
		}
		if span.gone != never {
			a.byGone = append(a.byGone, span)
		}
	}
	slices.SortFunc(a.byGone, func(a, b agedSpan) int { return cmp.Compare(a.gone, b.gone) })
	a.tree = make([]int, len(a.days)+1)
	return a
}

// to goes on to the end of a day.
func (a *ages) to(end civil.Day) {
	for ; a.entered < len(a.byFrom) && a.byFrom[a.entered].from <= int32(end); a.entered++ {
		a.add(a.byFrom[a.entered].from, 1)
	}
	for ; a.left < len(a.byGone) && a.byGone[a.left].gone <= int32(end); a.left++ {
		a.add(a.byGone[a.left].from, -1)
	}
}

func (a *ages) add(day int32, count int) {
	a.open += count
	at, _ := slices.BinarySearch(a.days, day)
	for at++; at < len(a.tree); at += at & -at {
		a.tree[at] += count
	}
}

// nth returns the first day of the open span that has so many before it, by first days.
func (a *ages) nth(before int) int32 {
	at, step := 0, 1
	for step*2 < len(a.tree) {
		step *= 2
	}
	for ; step > 0; step /= 2 {
		if at+step < len(a.tree) && a.tree[at+step] <= before {
			at += step
			before -= a.tree[at]
		}
	}
	return a.days[at]
}

// median returns the median of the ages at the end of a day: the mean of the two in the middle where their number is even. It is
// blank where nothing is open.
func (a *ages) median(end civil.Day) cell.Value {
	if a.open == 0 {
		return cell.Blank
	}
	low, high := a.nth((a.open-1)/2), a.nth(a.open/2)
	return cell.OfDecimal(decimal.OfInt(2*int(end)-int(low)-int(high)).Over(2, medianDecimals).Text(medianDecimals))
}
