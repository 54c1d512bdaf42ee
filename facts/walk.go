package facts

import (
	"roundyear/calendar"
	"roundyear/cell"
	"roundyear/civil"
	"roundyear/facts/decimal"
)

// number is a measure of a cell.
func (r *Result) number(measure int, cell uint32) decimal.Decimal {
	return r.tally.number(measure, cell, r.scales[measure])
}

// number is a measure of a cell; a mean has so many decimals.
func (t *Tally) number(measure int, cell uint32, scale int) decimal.Decimal {
	a := &t.measures[measure]
	switch a.kind {
	case Mean:
		return a.of(cell).Over(a.values(a.cells.record(cell)), scale)
	case Count, Distinct:
		return decimal.OfInt(a.values(a.cells.record(cell)))
	}
	return a.of(cell)
}

// walk goes through the periods of one group in time order, from any of them on.
type walk struct {
	result *Result
	series *series
	known  []knownValues
	// text is the digits of the value that is written.
	text []byte
	// found and isLoaded tell whether the period has facts, and is loaded; carried that a measure comes from other periods.
	found, isLoaded, carried bool
	// bases walk along the periods that comparisons hold the rows against, and base is memory for their measures.
	bases []*walk
	base  []cell.Value
	// future is memory for the measures of what lies after the as-of day.
	future []cell.Value
	// values are those of the group, where they were asked for.
	values []string
	// begin is the first day with facts of the group, by facts that are known by day, once it was asked for.
	begin                civil.Day
	hasBegin, knowsBegin bool
	// sums are those since the start of a longer period.
	sums runningSums
}

// knownValues are the values around a gap of a measure, by their periods; none if there
// is none. Before is good from searched on, after while it is not behind.
type knownValues struct {
	searched      bool
	before, after int
}

// none is a period that does not exist.
const none = -1 << 62

func (r *Result) walk(s *series) *walk {
	w := &walk{result: r, series: s, known: make([]knownValues, len(r.operation.Measures))}
	w.forget()
	return w
}

// forget makes the walk go on at any period.
func (w *walk) forget() {
	for i := range w.known {
		w.known[i] = knownValues{false, none, none}
	}
}

// to appends the measures of a period of the group to a row, what is worked out of them, and the marks.
func (w *walk) to(period calendar.Period, row []cell.Value) []cell.Value {
	start := len(row)
	row = w.measures(period, row)
	measuresEnd := len(row)
	if w.result.hasBalances {
		row = w.appendBalanceDays(period, row)
	}
	found, isLoaded, isCarried := w.found, w.isLoaded, w.carried
	if w.result.operation.derives() {
		measures := row[start:measuresEnd]
		row = w.derive(period, measures, row)
		for i := range w.result.operation.Against {
			row = w.compare(i, period, measures, row)
		}
		if w.result.operation.Budget != nil {
			row = w.budget(period, measures, row)
		}
	}
	if w.result.operation.ToDate {
		row = append(row, cell.OfDay(w.result.operation.ThroughOf(period)))
	}
	if w.result.operation.Subtotals {
		row = append(row, cell.OfBool(w.result.isTotal(w.series)))
	}
	for _, mark := range w.result.marks {
		is := !found
		switch mark {
		case running:
			is = period.Contains(w.result.operation.AsOf)
		case carried:
			is = isCarried
		case loaded:
			is = isLoaded
		}
		row = append(row, cell.OfBool(is))
	}
	return row
}

// measures appends the measures of a period of the group.
func (w *walk) measures(period calendar.Period, row []cell.Value) []cell.Value {
	number := period.Number
	w.isLoaded = w.series.loaded == nil || w.result.operation.knownThrough(period) <= *w.series.loaded
	at, found := w.result.tally.factsOf(w.series.group, number)
	w.found, w.carried = found, false
	if !found && period.First > w.result.operation.AsOf {
		w.isLoaded = false // it has not come yet
	}
	switch {
	case w.result.hasBalances && (found || w.isLoaded):
		for i, measure := range w.result.operation.Measures {
			switch {
			case measure.Kind.IsBalance():
				value, _, _ := w.balanceCell(i, period.First, w.result.operation.ThroughOf(period))
				row = append(row, value)
			case found:
				row = append(row, w.value(i, at, w.result.tally.cells.record(at)))
			default:
				row = append(row, w.gap(i, number))
			}
		}
	case found:
		record := w.result.tally.cells.record(at)
		for i := range w.known {
			row = append(row, w.value(i, at, record))
			if w.result.tally.measures[i].values(record) > 0 {
				w.known[i].searched, w.known[i].before = true, number
			}
		}
	case !w.isLoaded:
		// Nobody knows what happened.
		for range w.known {
			row = append(row, cell.Blank)
		}
	default:
		for i := range w.known {
			row = append(row, w.gap(i, number))
		}
	}
	return row
}

// value is a measure of a cell that has facts. One of which all values are
// blank is blank, since zero would be a claim.
func (w *walk) value(measure int, at uint32, record []int64) cell.Value {
	a := &w.result.tally.measures[measure]
	switch {
	case a.kind.counts():
		return cell.OfInteger(a.values(record))
	case a.values(record) > 0:
		return w.written(measure, w.result.number(measure, at))
	}
	return cell.Blank
}

// gap is a measure of a period without facts.
func (w *walk) gap(i, number int) cell.Value {
	measure := w.result.operation.Measures[i]
	switch {
	case measure.Gap == Zero && measure.Kind.counts():
		return cell.OfInteger(0)
	case measure.Gap == Zero:
		return w.written(i, decimal.Decimal{})
	case measure.Gap == Constant && measure.Kind.counts() && w.result.scales[i] == 0:
		count, _ := measure.Constant.Units(0)
		return cell.OfInteger(int(count))
	case measure.Gap == Constant:
		return w.written(i, measure.Constant)
	case measure.Gap != Carry && measure.Gap != Linear:
		return cell.Blank
	}
	known := &w.known[i]
	if !known.searched {
		known.searched, known.before = true, w.lastKnown(i, number)
	}
	if known.before == none {
		return cell.Blank
	}
	if measure.Gap == Carry {
		if measure.CarryLimit > 0 && number-known.before > measure.CarryLimit {
			return cell.Blank
		}
		w.carried = true
		at, _ := w.result.tally.factsOf(w.series.group, known.before)
		return w.value(i, at, w.result.tally.cells.record(at))
	}
	if known.after < number {
		known.after = w.nextKnown(i, number)
	}
	if known.after == noneAfter {
		return cell.Blank
	}
	w.carried = true
	return w.written(i, w.result.between(i, w.valueAt(i, known.before), w.valueAt(i, known.after), number-known.before, known.after-known.before))
}

// lastKnown returns the last period before another in which a measure has a value.
func (w *walk) lastKnown(i, number int) int {
	t := w.result.tally
	for number--; number >= w.series.first; number-- {
		if t.pages[w.series.group].page(number>>t.bits) == noPage {
			number &^= int(t.pageSize()) - 1
			continue
		}
		if at, found := t.factsOf(w.series.group, number); found && t.measures[i].values(t.cells.record(at)) > 0 {
			return number
		}
	}
	return none
}

// noneAfter is a period behind all.
const noneAfter = 1 << 62

// nextKnown returns the next period in which a measure has a value.
func (w *walk) nextKnown(i, number int) int {
	t := w.result.tally
	list := &t.pages[w.series.group]
	end := (list.base + len(list.pages)) << t.bits
	for number++; number < end; number++ {
		if list.page(number>>t.bits) == noPage {
			number |= int(t.pageSize()) - 1
			continue
		}
		if at, found := t.factsOf(w.series.group, number); found && t.measures[i].values(t.cells.record(at)) > 0 {
			return number
		}
	}
	return noneAfter
}

func (w *walk) valueAt(i, number int) decimal.Decimal {
	at, _ := w.result.tally.factsOf(w.series.group, number)
	return w.result.number(i, at)
}

func (w *walk) written(i int, number decimal.Decimal) cell.Value {
	w.text = number.AppendText(w.text[:0], w.result.scales[i])
	return cell.OfDecimal(string(w.text))
}

// between is a point of the straight line between two values, with the decimals
// of the column and as many more as it needs: all of them where they come to an
// end, else at least two.
func (r *Result) between(i int, start, end decimal.Decimal, step, steps int) decimal.Decimal {
	extra, rest := 0, steps
	for rest%10 == 0 {
		extra, rest = extra+1, rest/10
	}
	for rest%2 == 0 || rest%5 == 0 {
		extra++
		if rest%2 == 0 {
			rest /= 2
		} else {
			rest /= 5
		}
	}
	scale := max(start.Scale(), end.Scale()) + extra
	if rest > 1 {
		scale = extraDecimals
	}
	return start.Between(end, step, steps, max(scale, r.scales[i])).Trimmed(r.scales[i])
}
