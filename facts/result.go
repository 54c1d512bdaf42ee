package facts

import (
	"cmp"
	"fmt"
	"iter"
	"maps"
	"slices"

	"roundyear/calendar"
	"roundyear/cell"
	"roundyear/civil"
	"roundyear/facts/decimal"
)

// Result is what came of an operation: for each period, in time order, a row
// for each group.
type Result struct {
	tally     *Tally
	operation Operation
	series    []series
	low, high int
	// filled counts the rows made up, left those that would have been but
	// for the as-of day.
	filled, left int
	// scales are the decimals with which each measure is written.
	scales []int
}

// series is the rows of one group; values holds those of period low+i at i.
type series struct {
	groups []string
	points []point
}

// point is a row: there is none, or it has facts, or it is filled.
type point struct {
	exists, filled bool
	values         []cell.Value
}

// extraDecimals is how many decimals a mean has more than its values.
const extraDecimals = 2

// mostRows bounds the memory of a result. A date far from the others, such as
// 1900-01-01 for none, reaches it before any true span of time does.
const mostRows = 20_000_000

// TooLong is the error for facts that lie so far apart that the periods
// between them cannot be a question that anyone has.
type TooLong struct {
	Periods, Groups int
	First, Last     civil.Day
}

// Error says between which days.
func (e *TooLong) Error() string {
	return fmt.Sprintf("from %s to %s there are %d periods for %d groups", e.First, e.Last, e.Periods, e.Groups)
}

// Result works out the periods from all facts taken in. The error is TooLong.
func (t *Tally) Result() (*Result, error) {
	r := &Result{tally: t, operation: t.operation, low: 0, high: -1}
	for i, measure := range t.operation.Measures {
		scale := t.scales[i]
		if measure.Kind == Mean {
			scale += extraDecimals
		}
		r.scales = append(r.scales, scale)
	}
	groups := sortedGroups(t.groups, len(t.operation.Groups))
	if len(groups) == 0 {
		return r, nil
	}
	r.low, r.high = t.bounds()
	if r.Periods()*len(groups) > mostRows {
		return nil, &TooLong{r.Periods(), len(groups), t.summary.First, t.summary.Last}
	}
	lastMade := t.operation.Grain.Locate(t.operation.AsOf).Number
	for _, g := range groups {
		low, high := r.low, r.high
		numbers := slices.Sorted(maps.Keys(g.entries))
		if t.operation.Span != SpanAll {
			low = numbers[0]
		}
		if t.operation.Span == SpanOwn {
			high = numbers[len(numbers)-1]
		}
		s := series{groups: g.values, points: make([]point, r.high-r.low+1)}
		for number := low; number <= high; number++ {
			p := &s.points[number-r.low]
			if e := g.entries[number]; e != nil {
				*p = point{exists: true, values: r.values(e)}
			} else if number <= lastMade {
				*p = point{exists: true, filled: true, values: make([]cell.Value, len(r.scales))}
				r.filled++
			} else {
				r.left++
			}
		}
		r.fillGaps(s.points, g.entries)
		r.series = append(r.series, s)
	}
	return r, nil
}

// bounds returns the first and last period that any group can have.
func (t *Tally) bounds() (low, high int) {
	grain := t.operation.Grain
	low, high = grain.Locate(t.summary.First).Number, grain.Locate(t.summary.Last).Number
	if t.operation.From != nil {
		low = min(low, grain.Locate(*t.operation.From).Number)
	}
	if t.operation.To != nil {
		// Beyond the as-of day there is nothing to make up.
		to := min(grain.Locate(*t.operation.To).Number, grain.Locate(t.operation.AsOf).Number)
		high = max(high, to)
	}
	return low, high
}

// values are the measures of an entry that has facts. A measure of which all
// values are blank is blank, since zero would be a claim.
func (r *Result) values(e *entry) []cell.Value {
	values := make([]cell.Value, len(e.states))
	for i, s := range e.states {
		switch kind := r.operation.Measures[i].Kind; {
		case kind == Count:
			values[i] = cell.OfInteger(s.count)
		case s.count > 0:
			values[i] = cell.OfDecimal(r.number(i, s).Text(r.scales[i]))
		}
	}
	return values
}

func (r *Result) number(measure int, s state) decimal.Decimal {
	switch r.operation.Measures[measure].Kind {
	case Mean:
		return s.value.Over(s.count, r.scales[measure])
	case Count:
		return decimal.OfInt(s.count)
	}
	return s.value
}

// fillGaps gives the filled points of a group their values.
func (r *Result) fillGaps(points []point, entries map[int]*entry) {
	for i, measure := range r.operation.Measures {
		known := func(at int) (decimal.Decimal, bool) {
			e := entries[r.low+at]
			if e == nil || e.states[i].count == 0 {
				return decimal.Decimal{}, false
			}
			return r.number(i, e.states[i]), true
		}
		write := func(at int, number decimal.Decimal) {
			if measure.Kind == Count && measure.Gap == Zero {
				points[at].values[i] = cell.OfInteger(0)
				return
			}
			points[at].values[i] = cell.OfDecimal(number.Text(r.scales[i]))
		}
		before := -1
		for at := range points {
			if _, ok := known(at); ok {
				if measure.Gap == Linear && before >= 0 {
					r.draw(points, before, at, known, write)
				}
				before = at
				continue
			}
			if !points[at].filled {
				continue
			}
			switch {
			case measure.Gap == Zero:
				write(at, decimal.Decimal{})
			case measure.Gap == Carry && before >= 0:
				number, _ := known(before)
				write(at, number)
			}
		}
	}
}

// draw fills the points between two known ones with the straight line.
func (r *Result) draw(points []point, from, to int, known func(int) (decimal.Decimal, bool), write func(int, decimal.Decimal)) {
	start, _ := known(from)
	end, _ := known(to)
	for at := from + 1; at < to; at++ {
		if points[at].filled {
			write(at, start.Between(end, at-from, to-from, max(start.Scale(), end.Scale())))
		}
	}
}

// Columns returns the names and types of the result's columns.
func (r *Result) Columns() []cell.Column {
	columns := []cell.Column{{Name: "period", Type: cell.Text}, {Name: "period_start", Type: cell.Date}, {Name: "period_end", Type: cell.Date}}
	for _, name := range r.operation.Groups {
		columns = append(columns, cell.Column{Name: name, Type: cell.Text})
	}
	for _, measure := range r.operation.Measures {
		typ := cell.Decimal
		if measure.Kind == Count {
			typ = cell.Integer
		}
		columns = append(columns, cell.Column{Name: measure.Name, Type: typ})
	}
	return append(columns, cell.Column{Name: "is_filled", Type: cell.Boolean}, cell.Column{Name: "is_running", Type: cell.Boolean})
}

// Rows yields the rows in time order, and within a period by group. The slice
// is used again for the next row.
func (r *Result) Rows() iter.Seq[[]cell.Value] {
	return func(yield func([]cell.Value) bool) {
		row := make([]cell.Value, 0, len(r.Columns()))
		for number := r.low; number <= r.high; number++ {
			period := r.operation.Grain.At(number)
			label := r.operation.Grain.Label(period)
			for _, s := range r.series {
				p := s.points[number-r.low]
				if !p.exists {
					continue
				}
				row = append(row[:0], cell.OfText(label), cell.OfDay(period.First), cell.OfDay(period.Last))
				for _, value := range s.groups {
					row = append(row, cell.OfText(value))
				}
				row = append(row, p.values...)
				row = append(row, cell.OfBool(p.filled), cell.OfBool(period.Contains(r.operation.AsOf)))
				if !yield(row) {
					return
				}
			}
		}
	}
}

// Summary returns the counts of the facts behind the result.
func (r *Result) Summary() Summary { return r.tally.summary }

// Filled returns the number of rows made up for periods without facts.
func (r *Result) Filled() int { return r.filled }

// Left returns the number of rows without facts that were not made up, since
// they lie after the as-of day.
func (r *Result) Left() int { return r.left }

// Groups returns the number of groups.
func (r *Result) Groups() int { return len(r.series) }

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
	for _, g := range r.tally.groups {
		for _, e := range g.entries {
			dated = dated.Add(r.number(measure, e.states[measure]))
		}
	}
	return dated, r.number(measure, r.tally.undated.states[measure]), true
}

// sortedGroups sorts by the group columns in turn: as numbers where a column
// holds nothing else, so that shop 9 comes before shop 10, else as text.
func sortedGroups(groups []*group, columns int) []*group {
	numbers := make([]map[string]decimal.Decimal, columns)
	for column := range columns {
		numbers[column] = map[string]decimal.Decimal{}
		for _, g := range groups {
			number, err := decimal.Parse([]byte(g.values[column]))
			if err != nil {
				numbers[column] = nil
				break
			}
			numbers[column][g.values[column]] = number
		}
	}
	return slices.SortedFunc(slices.Values(groups), func(a, b *group) int {
		for column := range columns {
			if numbers[column] != nil {
				if order := numbers[column][a.values[column]].Cmp(numbers[column][b.values[column]]); order != 0 {
					return order
				}
			}
			if order := cmp.Compare(a.values[column], b.values[column]); order != 0 {
				return order
			}
		}
		return 0
	})
}
