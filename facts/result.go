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
// for each group. Its rows are worked out when they are asked for, so that its
// memory does not grow with those that are filled.
type Result struct {
	tally     *Tally
	operation Operation
	series    []series
	low, high int
	rows      int
	// scales are the decimals with which each measure is written.
	scales []int
}

// series is the rows of one group, from one period to another; numbers are the
// periods that have facts.
type series struct {
	group     *group
	numbers   []int
	low, high int
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

// Result works out the periods from all facts taken in. The error is TooManyRows.
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
	for _, g := range groups {
		s := series{group: g, numbers: slices.Sorted(maps.Keys(g.entries)), low: r.low, high: r.high}
		if t.operation.Span != SpanAll {
			s.low = s.numbers[0]
		}
		if t.operation.Span == SpanOwn {
			s.high = s.numbers[len(s.numbers)-1]
		}
		r.rows += s.high - s.low + 1
		r.series = append(r.series, s)
	}
	if most := cmp.Or(t.operation.MaxRows, DefaultMaxRows); r.rows > most {
		return nil, &TooManyRows{r.rows, most, r.Periods(), len(groups), t.summary.First, t.summary.Last}
	}
	return r, nil
}

// bounds returns the first and last period that any group can have: those of the
// first and the last fact, and what From and To add up to the as-of date. Nothing
// is made up beyond that.
func (t *Tally) bounds() (low, high int) {
	grain := t.operation.Grain
	low, high = grain.Locate(t.summary.First).Number, grain.Locate(t.summary.Last).Number
	if t.operation.From != nil {
		low = min(low, grain.Locate(*t.operation.From).Number)
	}
	if t.operation.To != nil {
		high = max(high, min(grain.Locate(*t.operation.To).Number, grain.Locate(t.operation.AsOf).Number))
	}
	return low, high
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

// walk goes through the periods of one group in time order.
type walk struct {
	result *Result
	series series
	// next is the index of the next period with facts.
	next  int
	known []knownValues
}

// knownValues are the values around a gap of a measure, by the places of their
// periods; -1 for none. After is good while it is not behind.
type knownValues struct{ before, after int }

func (r *Result) walk(s series) *walk {
	w := &walk{result: r, series: s, known: make([]knownValues, len(r.operation.Measures))}
	for i := range w.known {
		w.known[i] = knownValues{-1, -1}
	}
	return w
}

// to appends the measures of a period to a row, and tells whether it is filled.
// It is false for a period that the group does not have.
func (w *walk) to(number int, row []cell.Value) (_ []cell.Value, filled, exists bool) {
	s := w.series
	if number < s.low || number > s.high {
		return row, false, false
	}
	if w.next == len(s.numbers) || s.numbers[w.next] != number {
		for i := range w.known {
			row = append(row, w.gap(i, number))
		}
		return row, true, true
	}
	e := s.group.entries[number]
	for i, state := range e.states {
		row = append(row, w.result.value(i, state))
		if state.count > 0 {
			w.known[i].before = w.next
		}
	}
	w.next++
	return row, false, true
}

// value is a measure of an entry that has facts. One of which all values are
// blank is blank, since zero would be a claim.
func (r *Result) value(measure int, s state) cell.Value {
	switch {
	case r.operation.Measures[measure].Kind == Count:
		return cell.OfInteger(s.count)
	case s.count > 0:
		return cell.OfDecimal(r.number(measure, s).Text(r.scales[measure]))
	}
	return cell.Blank
}

// gap is a measure of a period without facts.
func (w *walk) gap(i, number int) cell.Value {
	measure, known := w.result.operation.Measures[i], &w.known[i]
	switch {
	case measure.Gap == Zero && measure.Kind == Count:
		return cell.OfInteger(0)
	case measure.Gap == Zero:
		return w.written(i, decimal.Decimal{})
	case measure.Gap == Carry && known.before >= 0:
		return w.written(i, w.valueAt(i, known.before))
	case measure.Gap == Linear && known.before >= 0:
		if known.after < w.next {
			known.after = w.knownFrom(i)
		}
		if known.after < len(w.series.numbers) {
			from, to := w.series.numbers[known.before], w.series.numbers[known.after]
			return w.written(i, w.result.between(i, w.valueAt(i, known.before), w.valueAt(i, known.after), number-from, to-from))
		}
	}
	return cell.Blank
}

// knownFrom returns the index of the next period in which a measure has a value.
func (w *walk) knownFrom(i int) int {
	after := w.next
	for after < len(w.series.numbers) && w.series.group.entries[w.series.numbers[after]].states[i].count == 0 {
		after++
	}
	return after
}

func (w *walk) valueAt(i, index int) decimal.Decimal {
	return w.result.number(i, w.series.group.entries[w.series.numbers[index]].states[i])
}

func (w *walk) written(i int, number decimal.Decimal) cell.Value {
	return cell.OfDecimal(number.Text(w.result.scales[i]))
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
		var walks []*walk
		for _, s := range r.series {
			walks = append(walks, r.walk(s))
		}
		for number := r.low; number <= r.high; number++ {
			period := r.operation.Grain.At(number)
			label := r.operation.Grain.Label(period)
			running := cell.OfBool(period.Contains(r.operation.AsOf))
			for _, w := range walks {
				row = append(row[:0], cell.OfText(label), cell.OfDay(period.First), cell.OfDay(period.Last))
				for _, value := range w.series.group.values {
					row = append(row, cell.OfText(value))
				}
				var filled, exists bool
				if row, filled, exists = w.to(number, row); !exists {
					continue
				}
				if !yield(append(row, cell.OfBool(filled), running)) {
					return
				}
			}
		}
	}
}

// Summary returns the counts of the facts behind the result.
func (r *Result) Summary() Summary { return r.tally.summary }

// Filled returns the number of rows made up for periods without facts.
func (r *Result) Filled() int {
	filled := r.rows
	for _, s := range r.series {
		filled -= len(s.numbers)
	}
	return filled
}

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
