package facts

import (
	"slices"

	"roundyear/calendar"
	"roundyear/cell"
	"roundyear/facts/decimal"
)

// isTotalColumn is the column that tells rows of several groups.
const isTotalColumn = "is_total"

// size is a measure of a group and of a period; balances are those of that period at its end. It is false where it has no value.
func (r *Result) size(group, number int, period calendar.Period) (decimal.Decimal, bool) {
	if r.operation.Measures[0].Kind.IsBalance() {
		sum, _, ok := r.balanceIn(group, 0, period.First, r.operation.ThroughOf(period))
		return sum, ok
	}
	at, found := r.tally.factsOf(group, number)
	switch {
	case !found:
		return decimal.Decimal{}, r.operation.Measures[0].Gap == Zero
	case !r.operation.Measures[0].Kind.counts() && r.tally.measures[0].values(r.tally.cells.record(at)) == 0:
		return decimal.Decimal{}, false // all values are blank
	}
	return r.number(0, at), true
}

// rankAll ranks the groups of each period by the first measure, the greatest first. Equal ones have the same rank.
func (r *Result) rankAll() {
	if !r.operation.Ranked {
		return
	}
	type ranked struct {
		group int
		size  decimal.Decimal
	}
	r.ranks = make([]map[int]int, r.Periods())
	for at := range r.ranks {
		number := r.low + at
		period := r.operation.Grain.At(number)
		var all []ranked
		for i := range r.series {
			s := &r.series[i]
			if number < s.low || number > s.high || r.sparse && r.isLeftOut(s, number) || s.loaded != nil && r.operation.knownThrough(period) > *s.loaded {
				continue
			}
			if _, isOthers := r.tally.made[s.group]; isOthers {
				continue
			}
			if size, ok := r.size(s.group, number, period); ok {
				all = append(all, ranked{s.group, size})
			}
		}
		slices.SortFunc(all, func(a, b ranked) int { return b.size.Cmp(a.size) })
		r.ranks[at] = make(map[int]int, len(all))
		for i, one := range all {
			rank := i + 1
			if i > 0 && one.size.Cmp(all[i-1].size) == 0 {
				rank = r.ranks[at][all[i-1].group]
			}
			r.ranks[at][one.group] = rank
		}
	}
}

// rank is the rank of a group in a period; blank for several groups together, and for those without a value.
func (r *Result) rank(s *series, number int) cell.Value {
	if rank, ok := r.ranks[number-r.low][s.group]; ok {
		return cell.OfInteger(rank)
	}
	return cell.Blank
}
