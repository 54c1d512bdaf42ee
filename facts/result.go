package facts

import (
	"cmp"
	"fmt"
	"iter"
	"math"
	"slices"

	"roundyear/calendar"
	"roundyear/cell"
	"roundyear/civil"
	"roundyear/facts/decimal"
)

// Result is what came of an operation: for each period, in time order, a row
// for each group. Its rows are worked out when they are asked for, so that its
// memory does not grow with those that are filled.
type Result struct {
	tally     *Tally
	operation Operation
	series    []series
	low, high int
	// rows are all rows, withFacts those that are not filled.
	rows, withFacts int
	// scales are the decimals with which each measure is written.
	scales []int
	// before are the rows before each period, byLow the series by their first period;
	// where all series have the same periods there are none.
	before []int
	byLow  []int32
	// sparse tells that series have no row in some of their periods; open are the periods in which
	// sites trade, and lifeless the groups of which it is not known when they are there.
	sparse bool
	// even tells that all series have rows in all periods.
	even     bool
	open     map[string][]bool
	lifeless []int
	// livesAt is the place of the column that says which life is that of a group.
	livesAt int
	// totals are the sums of measures that were asked for.
	totals []*decimal.Decimal
	// wholes are what shares are of.
	wholes *wholes
	// marks are the columns that a row ends with.
	marks []mark
	// days is what there is of facts that are known by day; nil for others.
	days *byDays
	// attributed are the periods that have days with each combination of attributes.
	attributed [][]bool
	// hasBalances tells that some measures are balances, and ranks are the ranks of groups by period, from the first one on.
	hasBalances bool
	ranks       []map[int]int
}

// series is the rows of one group, from one period to another.
type series struct {
	group     int
	values    []cell.Value
	low, high int
	// firstLow is the first period that it has, shown or not.
	firstLow int
	// first is the first period with facts.
	first int
	// away says in which periods the group is not there; nil for a group that is there in all.
	away *away
	// loaded is the day up to which its facts are complete; nil for all.
	loaded *civil.Day
}

// away is when a group is not there.
type away struct {
	// hasLife tells that it is there from low to high.
	hasLife   bool
	low, high int
	// open tells in which periods of the result it trades; nil for all.
	open []bool
}

// extraDecimals is how many decimals a mean has more than its values, and how many
// a straight line has at least that no number of decimals writes exactly.
const extraDecimals = 2

// TooManyRows is the error for a result of more rows than the operation allows.
type TooManyRows struct {
	Rows, Most, Periods, Groups int
	First, Last                 civil.Day
}

// Error says of how many periods and groups they are.
func (e *TooManyRows) Error() string {
	groups := fmt.Sprintf("%d groups", e.Groups)
	if e.Groups == 1 {
		groups = "one group"
	}
	return fmt.Sprintf("the result would have %d rows, more than %d: %d periods from %s to %s for %s", e.Rows, e.Most, e.Periods, e.First, e.Last, groups)
}

// Result works out the periods from all facts taken in. No facts can be taken in after it. The
// error is TooManyRows.
func (t *Tally) Result() (*Result, error) {
	if t.isByDay {
		return t.ResultBy(t.operation.Grain)
	}
	return t.result(nil)
}

// ResultBy works out the periods of a grain from facts that are known by day. The error is TooManyRows.
func (t *Tally) ResultBy(grain calendar.Grain) (*Result, error) {
	o := t.operation
	o.Grain = grain
	own, days := t.inPeriods(o)
	return own.result(days)
}

// result works out the periods.
func (t *Tally) result(days *byDays) (*Result, error) {
	r := &Result{tally: t, operation: t.operation, low: 0, high: -1, marks: t.operation.marks(), days: days, hasBalances: t.operation.hasBalances()}
	r.settle()
	if t.groups.len() == 0 || t.summary.Rows+t.summary.NotToDate == 0 {
		return r, nil
	}
	r.low, r.high = t.bounds()
	if r.operation.Grain.At(r.high).First > r.operation.AsOf && !slices.Contains(r.marks, loaded) {
		r.marks = append(r.marks, loaded)
	}
	most := cmp.Or(t.operation.MaxRows, DefaultMaxRows)
	if t.operation.CombineAll {
		if count := t.combinations(); float64(r.Periods())*float64(count) > float64(most) {
			return nil, &TooManyRows{int(min(float64(r.Periods())*float64(count), math.MaxInt)), most, r.Periods(), count, t.summary.First, t.summary.Last}
		}
		t.combine()
	}
	r.findLives()
	groups := t.sortedGroups(len(t.operation.Groups))
	// Of millions of groups each takes a place of its own in one piece of memory.
	r.series = make([]series, 0, len(groups))
	cells := make([]cell.Value, 0, len(groups)*len(t.operation.Groups))
	for _, g := range groups {
		values := g.values[:len(t.operation.Groups)]
		s := series{group: g.number, low: r.low, high: r.high, loaded: r.loadedThrough(g)}
		from := len(cells)
		for column, value := range values {
			cells = append(cells, t.operation.groupCell(column, value))
		}
		s.values = cells[from:len(cells):len(cells)]
		first, last, withFacts := t.extent(g.number)
		if withFacts == 0 { // a combination that does not occur
			first, last = r.high+1, r.high
		}
		s.first = first
		if t.operation.Span == SpanSinceFirst || t.operation.Span == SpanOwn {
			s.low = first
		}
		if t.operation.Span == SpanOwn {
			s.high = last
		}
		r.live(&s, values, first, last)
		r.limitToAttributes(&s, values)
		if s.firstLow = s.low; r.cut(&s) {
			withFacts = r.countFacts(&s)
		}
		if s.low > s.high {
			continue
		}
		r.rows += s.high - s.low + 1
		r.withFacts += withFacts
		r.series = append(r.series, s)
	}
	if !r.sparse && r.rows > most {
		return nil, &TooManyRows{r.rows, most, r.Periods(), len(r.series), t.summary.First, t.summary.Last}
	}
	r.even = !r.sparse && !slices.ContainsFunc(r.series, func(s series) bool { return s.low != r.low || s.high != r.high })
	r.index()
	r.addWholes()
	r.rankAll()
	if r.rows > most {
		return nil, &TooManyRows{r.rows, most, r.Periods(), len(r.series), t.summary.First, t.summary.Last}
	}
	return r, nil
}

// settle works out the percentiles, and with how many decimals measures are written.
func (r *Result) settle() {
	all := []*Tally{r.tally}
	if r.days != nil { // those of single days are added up, of which percentiles are none
		all = append(all, slices.DeleteFunc(r.days.tallies(), func(t *Tally) bool { return t == r.days.days })...)
	}
	for i, measure := range r.operation.Measures {
		scale := r.tally.undated[i].scale
		for _, tally := range all {
			if tally.measures[i].listed != nil {
				tally.measures[i].settle(measure.Percent)
			}
			if measure.Kind == Percentile && tally == r.tally {
				scale = 0
			}
			scale = max(scale, tally.measures[i].scale)
		}
		if measure.Kind == Mean || measure.Kind == MeanOverDays {
			scale += extraDecimals
		}
		if measure.Gap == Constant {
			scale = max(scale, measure.Constant.Scale())
		}
		r.scales = append(r.scales, scale)
	}
}

// extent returns the first and the last period in which a group has facts, and in how
// many it has some.
func (t *Tally) extent(group int) (first, last, withFacts int) {
	t.eachCell(group, func(number int, _ uint32) {
		last = number
		if withFacts == 0 {
			first = last
		}
		withFacts++
	})
	return first, last, withFacts
}

// factsOf returns the cell of a group and period; it is false if that has no facts.
func (t *Tally) factsOf(group, period int) (uint32, bool) {
	cell := t.find(group, period)
	return cell, cell != noPage && t.cells.record(cell)[0] > 0
}

// bounds returns the first and last period that any group can have: those of the
// first and the last fact, and what From and To add up to the as-of date. Nothing
// is made up beyond that.
func (t *Tally) bounds() (low, high int) {
	grain := t.operation.Grain
	first, last := t.span()
	low, high = grain.Locate(first).Number, grain.Locate(last).Number
	if loaded, ok := t.operation.Loaded.latest(); ok {
		end := t.operation.AsOf
		if t.operation.To != nil {
			end = min(end, *t.operation.To)
		}
		period := grain.Locate(min(loaded, end))
		if min(period.Last, end) > loaded {
			period.Number-- // it is not all loaded
		}
		high = max(high, period.Number) // in which nothing happened
	}
	return low, high
}

// span returns the first and the last day whose periods any group can have, but for what is said to be loaded.
func (t *Tally) span() (first, last civil.Day) {
	first, last = t.summary.begin(), t.summary.Last
	if t.summary.NotToDate > 0 {
		// Up to the position of the as-of day nothing has happened in the periods of these.
		if late := min(t.summary.LastNotToDate, max(t.operation.AsOf, first)); t.summary.Rows == 0 || late > last {
			last = late
		}
	}
	if t.reach.isKnown {
		first, last = min(first, t.reach.first), max(last, t.lastReached())
	}
	if t.operation.From != nil {
		first = min(first, *t.operation.From)
	}
	if t.operation.To != nil {
		last = max(last, min(*t.operation.To, t.operation.AsOf))
	}
	return first, last
}

// lastReached is the last day of all facts, up to the position of the as-of day.
func (t *Tally) lastReached() civil.Day {
	if t.operation.ToDate {
		return min(t.reach.last, t.operation.AsOf)
	}
	return t.reach.last
}

const (
	// maxScale is more decimals than any value has that is not made up.
	maxScale = 30
	// linearDecimals is how many more decimals a value may have that lies between others.
	linearDecimals = 12
)

// Columns returns the names and types of the result's columns.
func (r *Result) Columns() []cell.Column {
	columns := []cell.Column{{Name: "period", Type: cell.Text}, {Name: "period_start", Type: cell.Date}, {Name: "period_end", Type: cell.Date}}
	for i, name := range r.operation.Groups {
		columns = append(columns, cell.Column{Name: name, Type: r.operation.groupType(i)})
	}
	columns = append(append(columns, r.measureColumns()...), r.balanceColumns()...)
	columns = append(append(columns, r.derivedColumns()...), r.comparisonColumns()...)
	if r.operation.ToDate {
		columns = append(columns, cell.Column{Name: "to_date", Type: cell.Date})
	}
	if r.operation.Subtotals {
		columns = append(columns, cell.Column{Name: isTotalColumn, Type: cell.Boolean})
	}
	for _, mark := range r.marks {
		columns = append(columns, cell.Column{Name: mark.String(), Type: cell.Boolean})
	}
	return columns
}

// measureColumns returns the names and types of the measures.
func (r *Result) measureColumns() []cell.Column {
	var columns []cell.Column
	for i, measure := range r.operation.Measures {
		column := cell.Column{Name: measure.Name, Type: cell.Decimal, Scale: uint8(min(r.scales[i], maxScale))}
		switch {
		case measure.Kind.counts() && measure.Gap != Linear && (measure.Gap != Constant || r.scales[i] == 0):
			column.Type = cell.Integer
		case measure.Gap == Linear:
			column.Scale = min(column.Scale+linearDecimals, maxScale)
		}
		columns = append(columns, column)
	}
	return columns
}

// Rows yields the rows in time order, and within a period by group. The slice
// is used again for the next row.
func (r *Result) Rows() iter.Seq[[]cell.Value] { return r.RowsBetween(0, r.rows) }

// Len returns the number of rows.
func (r *Result) Len() int { return r.rows }

// RowsBetween yields the rows from one to before another, counted from 0, so that workers
// can share the result.
func (r *Result) RowsBetween(from, to int) iter.Seq[[]cell.Value] {
	return func(yield func([]cell.Value) bool) {
		to = min(to, r.rows)
		if from >= to {
			return
		}
		row := make([]cell.Value, 0, len(r.Columns()))
		number, skip, active := r.seek(from)
		// Where no group comes twice, what is known of its last row is of no use.
		comesBack := to-from > len(active) || !r.even
		var walks []*walk
		if comesBack {
			walks = make([]*walk, len(r.series))
		}
		for {
			period := r.operation.Grain.At(number)
			head := [3]cell.Value{cell.OfText(r.operation.Grain.Label(period)), cell.OfDay(period.First), cell.OfDay(period.Last)}
			for _, at := range active {
				if r.sparse && r.isLeftOut(&r.series[at], number) {
					continue
				}
				if skip > 0 {
					skip--
					continue
				}
				var w *walk
				switch {
				case !comesBack:
					w = r.walk(&r.series[at])
				case walks[at] == nil:
					walks[at] = r.walk(&r.series[at])
					w = walks[at]
				default:
					w = walks[at]
				}
				row = append(append(row[:0], head[:]...), r.series[at].values...)
				if row = w.to(period, row); !yield(row) {
					return
				}
				if from++; from == to {
					return
				}
			}
			number++
			active = r.advance(active, number)
		}
	}
}

// seek returns the period of a row, how many rows that has before it, and the series with
// rows in the period, by their order.
func (r *Result) seek(row int) (number, skip int, active []int32) {
	number, skip = r.low+row/len(r.series), row%len(r.series)
	if r.even {
		return number, skip, r.byLow // all of them
	}
	at, found := slices.BinarySearch(r.before, row)
	if !found {
		at--
	}
	number, skip = r.low+at, row-r.before[at]
	for i := range r.series {
		if r.series[i].low <= number && number <= r.series[i].high {
			active = append(active, int32(i))
		}
	}
	return number, skip, active
}

// advance returns the series with rows in a period, from those of the period before it.
func (r *Result) advance(active []int32, number int) []int32 {
	if r.even {
		return active
	}
	first, _ := slices.BinarySearchFunc(r.byLow, number, func(at int32, number int) int { return cmp.Compare(r.series[at].low, number) })
	end := first
	for end < len(r.byLow) && r.series[r.byLow[end]].low == number {
		end++
	}
	next := make([]int32, 0, len(active)+end-first)
	begin := r.byLow[first:end] // by order, too
	for _, at := range active {
		for len(begin) > 0 && begin[0] < at {
			next, begin = append(next, begin[0]), begin[1:]
		}
		if r.series[at].high >= number {
			next = append(next, at)
		}
	}
	return append(next, begin...)
}

// index prepares results of which the groups have periods of their own: the rows before
// each period, and the series by their first one.
func (r *Result) index() {
	r.byLow = make([]int32, len(r.series))
	for i := range r.series {
		r.byLow[i] = int32(i)
	}
	if r.even {
		return
	}
	r.before = make([]int, r.Periods()+1)
	for i := range r.series {
		r.before[r.series[i].low-r.low]++
		r.before[r.series[i].high-r.low+1]--
	}
	leftOut := make([]int, len(r.before))
	if r.sparse {
		for i := range r.series {
			for number := r.series[i].low; number <= r.series[i].high; number++ {
				if r.isLeftOut(&r.series[i], number) {
					leftOut[number-r.low]++
				}
			}
		}
	}
	rows, active := 0, 0
	for i, change := range r.before {
		r.before[i] = rows
		active += change
		rows += active - leftOut[i]
	}
	r.rows = rows
	slices.SortStableFunc(r.byLow, func(a, b int32) int { return cmp.Compare(r.series[a].low, r.series[b].low) })
}

// Summary returns the counts of the facts behind the result.
func (r *Result) Summary() Summary { return r.tally.summary }

// Filled returns the number of rows made up for periods without facts.
func (r *Result) Filled() int { return r.rows - r.withFacts }

// Groups returns the number of groups, without those that are made of others.
func (r *Result) Groups() int { return len(r.series) - r.totalCount() }

// totalCount returns how many series are of several groups that have their own.
func (r *Result) totalCount() (count int) {
	for i := range r.series {
		if r.isTotal(&r.series[i]) {
			count++
		}
	}
	return count
}

// Shown returns the number of periods that have rows.
func (r *Result) Shown() int {
	low, high := r.high+1, r.low-1
	for i := range r.series {
		low, high = min(low, r.series[i].low), max(high, r.series[i].high)
	}
	return max(high-low+1, 0)
}

// Periods returns the number of periods from the first to the last.
func (r *Result) Periods() int { return r.high - r.low + 1 }

// CutPeriods returns the periods of which From or To leaves out a part.
func (r *Result) CutPeriods() []calendar.Period {
	var cut []calendar.Period
	add := func(day *civil.Day, whole func(calendar.Period) bool) {
		if day == nil {
			return
		}
		period := r.operation.Grain.Locate(*day)
		if !whole(period) && !slices.Contains(cut, period) {
			cut = append(cut, period)
		}
	}
	add(r.operation.From, func(p calendar.Period) bool { return p.First == *r.operation.From })
	add(r.operation.To, func(p calendar.Period) bool { return p.Last == *r.operation.To })
	return cut
}

// Total returns the sum of a Sum or Count measure over all facts in periods,
// and over those without a date; it is false for other kinds.
func (r *Result) Total(measure int) (dated, undated decimal.Decimal, ok bool) {
	kind := r.operation.Measures[measure].Kind
	if kind != Sum && kind != Count {
		return dated, undated, false
	}
	if r.totals == nil {
		r.totals = make([]*decimal.Decimal, len(r.operation.Measures))
	}
	if r.totals[measure] == nil {
		for group := range r.tally.groups.len() {
			if r.tally.made[group].isTotal {
				continue
			}
			r.tally.eachCell(group, func(_ int, at uint32) { dated = dated.Add(r.number(measure, at)) })
		}
		r.totals[measure] = &dated
	}
	dated = *r.totals[measure]
	if kind == Count {
		return dated, decimal.OfInt(r.tally.summary.Undated), true
	}
	return dated, r.tally.undated[measure].of(0), true
}
