package facts

import (
	"slices"

	"roundyear/calendar"
	"roundyear/cell"
	"roundyear/civil"
	"roundyear/facts/decimal"
)

// balance returns what a measure of a group is at the end of a day: for each group of the facts in it the sum of the last day with values up
// to then. The day is the earliest of those. It is false where no group has a value yet.
func (d *byDays) balance(group, measure int, day civil.Day) (sum decimal.Decimal, on civil.Day, ok bool) {
	for _, member := range d.members[group] {
		cell, last, found := d.facts.lastOf(member, measure, day)
		if !found {
			continue
		}
		sum = sum.Add(d.facts.measures[measure].of(cell))
		if !ok || last < on {
			on = last
		}
		ok = true
	}
	return sum, on, ok
}

// lastOf returns the cell of the last day up to a day on which a measure of a group has values.
func (t *Tally) lastOf(group, measure int, day civil.Day) (cell uint32, on civil.Day, ok bool) {
	list := &t.pages[group]
	number := min(int(day), (list.base+len(list.pages))<<t.bits-1)
	for ; number >= list.base<<t.bits; number-- {
		page := list.page(number >> t.bits)
		if page == noPage {
			number &^= int(t.pageSize()) - 1
			continue
		}
		cell := page + uint32(number)&(t.pageSize()-1)
		if t.measures[measure].values(t.cells.record(cell)) > 0 {
			return cell, civil.Day(number), true
		}
	}
	return 0, 0, false
}

// balanceIn returns a balance of a period, and the day that it is of: that of its last day, up to the as-of day, that before its first day,
// or the mean over its days from the first one on that has a balance.
func (r *Result) balanceIn(group, measure int, first, last civil.Day) (sum decimal.Decimal, on civil.Day, ok bool) {
	if last >= r.operation.AsOf && first <= r.operation.AsOf {
		last = r.operation.AsOf
	}
	d := r.days
	switch r.operation.Measures[measure].Kind {
	case Opening:
		return d.balance(group, measure, first-1)
	case Closing:
		return d.balance(group, measure, last)
	}
	days := 0
	for day := first; day <= last; {
		balance, _, known := d.balance(group, measure, day)
		until := min(d.nextOf(group, measure, day), last+1)
		if known {
			length := int(until - day)
			sum, days, ok = sum.Add(balance.Mul(decimal.OfInt(length))), days+length, true
		}
		day = until
	}
	if !ok {
		return sum, 0, false
	}
	return sum.Over(days, r.scales[measure]), 0, true
}

// nextOf returns the next day after a day on which a measure has values for any of the groups in a group.
func (d *byDays) nextOf(group, measure int, day civil.Day) civil.Day {
	next := civil.MaxDay
	for _, member := range d.members[group] {
		list := &d.facts.pages[member]
		end := min(civil.Day((list.base+len(list.pages))<<d.facts.bits), next)
		for number := max(day+1, civil.Day(list.base<<d.facts.bits)); number < end; number++ {
			page := list.page(int(number) >> d.facts.bits)
			if page == noPage {
				number |= civil.Day(d.facts.pageSize()) - 1
				continue
			}
			cell := page + uint32(number)&(d.facts.pageSize()-1)
			if d.facts.measures[measure].values(d.facts.cells.record(cell)) > 0 {
				next = number
				break
			}
		}
	}
	return next
}

// balanceCell is a balance as a value, and the day that it is of.
func (w *walk) balanceCell(measure int, first, last civil.Day) (value, on cell.Value, isOld bool) {
	sum, day, ok := w.result.balanceIn(w.series.group, measure, first, last)
	if !ok {
		return cell.Blank, cell.Blank, false
	}
	value = w.written(measure, sum)
	switch w.result.operation.Measures[measure].Kind {
	case Closing:
		return value, cell.OfDay(day), day < first
	case Opening:
		before := w.result.operation.Grain.Locate(first - 1)
		return value, cell.OfDay(day), day < before.First
	}
	return value, cell.Blank, false
}

// balanceColumns are those of the days that balances are of.
func (r *Result) balanceColumns() []cell.Column {
	var columns []cell.Column
	for _, measure := range r.operation.Measures {
		if measure.Kind == Closing || measure.Kind == Opening {
			columns = append(columns, cell.Column{Name: measure.Name + "_day", Type: cell.Date})
		}
	}
	return columns
}

// appendBalanceDays appends the days that the balances of a period are of.
func (w *walk) appendBalanceDays(period calendar.Period, row []cell.Value) []cell.Value {
	for i, measure := range w.result.operation.Measures {
		if measure.Kind != Closing && measure.Kind != Opening {
			continue
		}
		on, isOld := cell.Blank, false
		if w.isLoaded {
			_, on, isOld = w.balanceCell(i, period.First, w.result.operation.ThroughOf(period))
		}
		w.carried = w.carried || isOld
		row = append(row, on)
	}
	return row
}

// hasBalances tells whether a measure is of balances.
func (o *Operation) hasBalances() bool {
	return slices.ContainsFunc(o.Measures, func(m Measure) bool { return m.Kind.IsBalance() })
}
