package facts

import (
	"slices"
	"strings"

	"roundyear/calendar"
	"roundyear/civil"
)

// byDays is what a result has of facts that are known by day.
type byDays struct {
	regrouping *regrouping
	// facts are those by day with the groups of the facts, and days with the groups of the result.
	facts, days *Tally
	// members are the groups of the facts that belong to each of the result.
	members map[int][]int
	// against are the periods that others are held against, nil where periods of the result are.
	against []*shifted
	// budget are the amounts of the budget by the periods of the result.
	budget *Tally
	// future are the facts after the as-of day; nil where they are not kept apart.
	future *Tally
}

// inPeriods brings facts by day to the periods and groups of an operation.
func (t *Tally) inPeriods(o Operation) (*Tally, *byDays) {
	own := t.empty(o.Grain)
	own.operation, own.sources, own.bySource = o, nil, t.bySource
	d := &byDays{facts: t, regrouping: newRegrouping(own, t.topGroups(&o)), members: map[int][]int{}, against: make([]*shifted, len(o.Against))}
	for column, name := range o.Groups {
		if at := slices.Index(o.SourceGroups(), name); at >= 0 && at < len(t.ranks) && o.attribute(name) < 0 {
			own.ranks[column] = t.ranks[at]
		}
	}
	periods := periodTable{grain: o.Grain, asOf: o.positionOf()}
	number := func(day civil.Day) (int, bool) {
		if o.Future != KeepFuture && day > o.AsOf {
			return 0, false
		}
		number := periods.number(day)
		return number, number != notToDate
	}
	own.summary, own.reach = t.summary, t.reach
	own.summary.Rows = 0
	var lastFuture civil.Day
	t.eachDay(func(day civil.Day, rows int) {
		switch _, ok := number(day); {
		case ok:
			own.summary.noteDay(day, rows)
		case o.Future != KeepFuture && day > o.AsOf:
			own.summary.Future += rows
			lastFuture = max(lastFuture, day)
		default:
			own.summary.noteNotToDate(day)
			own.summary.NotToDate += rows - 1
		}
	})
	if o.Future == FutureApart && own.summary.Rows > 0 && own.summary.Future > 0 {
		own.summary.Last = max(own.summary.Last, lastFuture) // they have periods, too
	}
	d.regrouping.reach(t, func(day civil.Day) bool { return o.Future == KeepFuture || day <= o.AsOf })
	if len(o.Attributes) > 0 && own.summary.Rows > 0 {
		first, last := own.span()
		d.regrouping.reachAttributes(t, first, last)
	}
	d.regrouping.absorb(own, t, number)
	if o.Budget != nil {
		o.Budget.addGroups(d.regrouping)
		d.budget = own.beside(o.Grain)
		// A budget is one of days to come, too.
		d.regrouping.absorb(d.budget, o.Budget.Days, func(day civil.Day) (int, bool) {
			number := periods.number(day)
			return number, number != notToDate
		})
	}
	for i, comparison := range o.Against {
		if o.shifts(comparison) {
			d.against[i] = d.shift(comparison, &periods)
		}
	}
	if o.Future == FutureApart {
		d.future = own.beside(o.Grain)
		whole := periodTable{grain: o.Grain}
		d.regrouping.absorb(d.future, t, func(day civil.Day) (int, bool) { return whole.number(day), day > o.AsOf })
	}
	if o.RollingDays > 0 || o.IsTold {
		d.days = own.beside(dayGrain)
		d.regrouping.absorb(d.days, t, func(day civil.Day) (int, bool) { return int(day), o.Future == KeepFuture || day <= o.AsOf })
	}
	for key, groups := range d.regrouping.known {
		if key.tally == t {
			for _, group := range groups {
				if own.bySource {
					own.note(group, t.sourcesOf(key.group))
				}
				d.members[group] = append(d.members[group], key.group)
			}
		}
	}
	for _, members := range d.members {
		slices.Sort(members)
	}
	for _, tally := range append(d.tallies(), own) {
		tally.reachGroups()
	}
	return own, d
}

// eachDay calls do with the days that have facts of a group, and how many.
func (t *Tally) eachDay(do func(day civil.Day, rows int)) {
	for group := range t.groups.len() {
		t.eachCell(group, func(number int, cell uint32) { do(civil.Day(number), int(t.cells.record(cell)[0])) })
	}
}

// topGroups returns the groups that are the greatest by the first measure over all periods that are shown; nil where all are.
func (t *Tally) topGroups(o *Operation) map[string]bool {
	if o.Top == 0 {
		return nil
	}
	all := *o
	all.Top, all.Subtotals, all.Against, all.Budget, all.RollingDays, all.Future = 0, false, nil, nil, 0, min(o.Future, DropFuture)
	own, d := t.inPeriods(all)
	if own.groups.len() == 0 {
		return map[string]bool{}
	}
	r := &Result{tally: own, operation: all, days: d}
	r.low, r.high = own.bounds()
	low, high := all.shown(r.low, r.high)
	periods := periodTable{grain: o.Grain, asOf: o.positionOf()}
	sums := own.beside(calendar.Grain{Calendar: calendar.Gregorian(), Unit: calendar.Year})
	d.regrouping.absorb(sums, t, func(day civil.Day) (int, bool) {
		number := periods.number(day)
		return 0, number != notToDate && number >= low && number <= high && (o.Future == KeepFuture || day <= o.AsOf)
	})
	sums.reachGroups()
	total := &Result{tally: sums, operation: all, days: d}
	total.settle()
	groups := sums.groups
	sorted := own.sortedGroups(len(o.Groups))
	slices.SortStableFunc(sorted, func(a, b numberedGroup) int {
		inA, hasA := total.size(a.number, 0, o.Grain.At(high))
		inB, hasB := total.size(b.number, 0, o.Grain.At(high))
		switch {
		case hasA && hasB:
			return inB.Cmp(inA)
		case hasA:
			return -1
		case hasB:
			return 1
		}
		return 0
	})
	top := map[string]bool{}
	for _, g := range sorted[:min(o.Top, len(sorted))] {
		top[strings.Join(groups.values(g.number)[:len(o.Groups)], "\x00")] = true
	}
	return top
}

// tallies returns those of other days than the ones of the result.
func (d *byDays) tallies() (all []*Tally) {
	for _, tally := range []*Tally{d.future, d.days, d.budget} {
		if tally != nil {
			all = append(all, tally)
		}
	}
	for _, shifted := range d.against {
		if shifted != nil {
			all = append(all, shifted.tally)
		}
	}
	return all
}
