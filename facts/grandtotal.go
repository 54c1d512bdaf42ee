package facts

import (
	"slices"

	"roundyear/calendar"
	"roundyear/cell"
)

// allMembers is the group of all groups of the facts, for balances.
const allMembers = -1

// GrandTotals returns the measures of all groups and all periods that are shown, each by its kind: means and distinct counts are those of
// all facts, and balances those at the end or the start of the shown periods, or the mean over all their days. Percentiles are blank, since
// they cannot be made of those of periods, and so are the first and the last value, which say nothing of several groups.
func (r *Result) GrandTotals() []cell.Value {
	totals := slices.Repeat([]cell.Value{cell.Blank}, len(r.operation.Measures))
	if len(r.series) == 0 {
		return totals
	}
	shown := make([]*series, r.tally.groups.len()) // by the numbers of the groups
	low, high := r.high, r.low
	for i := range r.series {
		s := &r.series[i]
		low, high = min(low, s.low), max(high, s.high)
		if !r.isTotal(s) {
			shown[s.group] = s
		}
	}
	all := r.tally.empty(calendar.Grain{Calendar: calendar.Gregorian(), Unit: calendar.Year})
	all.absorb(r.tally, func(group, number int) (int, int, bool) {
		s := shown[group]
		if s == nil || number < s.low || number > s.high {
			return 0, 0, false
		}
		return all.group(nil), 0, true
	})
	if all.groups.len() == 0 {
		all.group(nil)
	}
	total := &Result{tally: all, operation: r.operation, scales: r.scales, days: r.days}
	w := total.walk(&series{})
	if r.hasBalances {
		r.days.members[allMembers] = nil
		for group := range r.days.facts.groups.len() {
			r.days.members[allMembers] = append(r.days.members[allMembers], group)
		}
	}
	for i, measure := range r.operation.Measures {
		at, found := all.factsOf(0, 0)
		switch {
		case measure.Kind.IsBalance():
			if sum, _, ok := total.balanceIn(allMembers, i, r.operation.Grain.At(low).First, r.operation.ThroughOf(r.operation.Grain.At(high))); ok {
				totals[i] = w.written(i, sum)
			}
		case measure.Kind == Percentile, measure.Kind == First, measure.Kind == Last:
		case found:
			totals[i] = w.value(i, at, all.cells.record(at))
		case measure.Gap == Zero:
			totals[i] = w.gap(i, 0)
		}
	}
	return totals
}
