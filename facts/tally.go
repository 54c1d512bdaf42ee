package facts

import (
	"bytes"
	"fmt"

	"roundyear/civil"
	"roundyear/facts/decimal"
)

// Tally gathers facts, row by row. Its memory grows with the number of groups
// times periods and not with rows: the facts of one group and period add up in a cell,
// and cells are numbers in flat lists, one list per measure.
type Tally struct {
	grid
	operation Operation
	// isByDay tells that facts are kept by day, and brought to the periods of the operation later.
	isByDay bool
	periods periodTable
	// sources are those of the facts of each group, a bit for each; none where that is not asked for.
	sources  []uint64
	measures []accumulator
	// undated is one cell for the facts without a date.
	undatedCells *cells
	undated      []accumulator
	summary      Summary
	reach        reach
	// bySource tells that the sources of groups are noted, and source is the one that facts come from.
	bySource bool
	source   int
	numbers  []decimal.Decimal
	texts    [][]byte
	present  []bool
	columns  columns
}

// Summary counts the rows that a Tally has seen.
type Summary struct {
	// Rows are the facts in periods, Undated those without a date, Outside
	// those before From or after To, and NotToDate those behind the position of
	// the as-of day in their period, and Future those after the as-of day that are not in them.
	Rows, Undated, Outside, NotToDate, Future int
	// First and Last are the earliest and the latest day of the facts in
	// periods; they mean nothing when Rows is 0.
	First, Last civil.Day
	// FirstNotToDate is the earliest day of those behind the position of the as-of day, if there are some.
	// LastNotToDate is the latest of them.
	FirstNotToDate, LastNotToDate civil.Day
}

// noteNotToDate counts a fact behind the position of the as-of day.
func (s *Summary) noteNotToDate(day civil.Day) {
	if s.NotToDate == 0 {
		s.FirstNotToDate, s.LastNotToDate = day, day
	}
	s.FirstNotToDate, s.LastNotToDate = min(s.FirstNotToDate, day), max(s.LastNotToDate, day)
	s.NotToDate++
}

// Span returns the first and the last day of the facts in periods; without any, of those behind the position of the as-of day.
func (s *Summary) Span() (first, last civil.Day) {
	if s.Rows == 0 && s.NotToDate > 0 {
		return s.FirstNotToDate, s.LastNotToDate
	}
	return s.First, s.Last
}

// begin returns the first day with facts, in a period or not.
func (s *Summary) begin() civil.Day {
	switch {
	case s.NotToDate == 0:
		return s.First
	case s.Rows == 0:
		return s.FirstNotToDate
	}
	return min(s.First, s.FirstNotToDate)
}

// Place is where a fact stands among all facts: at which moment, and of those of
// one moment in which row.
type Place struct {
	Day civil.Day
	// Nanos are the nanoseconds of the day after midnight; 0 for a fact without a
	// time of day.
	Nanos int64
	Row   int64
}

func (p Place) before(other Place) bool {
	switch {
	case p.Day != other.Day:
		return p.Day < other.Day
	case p.Nanos != other.Nanos:
		return p.Nanos < other.Nanos
	}
	return p.Row < other.Row
}

// reach is the first and the last day of all facts, those that conditions leave out as well.
type reach struct {
	first, last civil.Day
	isKnown     bool
}

func (r *reach) add(day civil.Day) {
	if !r.isKnown {
		*r = reach{day, day, true}
	}
	r.first, r.last = min(r.first, day), max(r.last, day)
}

// Reach notes the day of a fact that a condition leaves out: the range of the periods is that of all facts.
func (t *Tally) Reach(day civil.Day) {
	if o := &t.operation; o.Includes(day) && (o.Future == KeepFuture || day <= o.AsOf) {
		t.reach.add(day)
	}
}

// NewTally returns a Tally that has seen nothing.
func NewTally(operation Operation) *Tally {
	grain, asOf := operation.Grain, operation.positionOf()
	isByDay := operation.byDay()
	if isByDay {
		grain, asOf = dayGrain, nil
	}
	t := &Tally{
		operation: operation,
		isByDay:   isByDay,
		periods:   periodTable{grain: grain, asOf: asOf},
		numbers:   make([]decimal.Decimal, len(operation.Measures)),
		texts:     make([][]byte, len(operation.Measures)),
		present:   make([]bool, len(operation.Measures)),
		bySource:  operation.Loaded != nil && operation.Loaded.OfSources != nil,
	}
	cells, measures := newAccumulators(operation.Measures)
	t.grid, t.measures = newGrid(cells, grain), measures
	t.undatedCells, t.undated = newAccumulators(operation.Measures)
	t.undatedCells.grow(1)
	for i := range t.undated {
		t.undated[i].distinct, t.undated[i].listed = nil, nil // which ones they are is not shown
	}
	return t
}

// BadValue is the error for a value of a measure that is not a number.
type BadValue struct {
	// Measure is the measure's place in the operation.
	Measure int
	Value   string
	Reason  error
}

// Error says which value and why.
func (e *BadValue) Error() string { return fmt.Sprintf("%q %s", e.Value, e.Reason) }

// Unwrap returns the reason.
func (e *BadValue) Unwrap() error { return e.Reason }

// Add takes in a fact that counts to a day. The place tells the first from the
// last. The groups and
// values are as the operation lists them, a blank value being none; the value
// of a Count is not looked at. The error is a BadValue, and nothing is taken
// in then.
func (t *Tally) Add(day civil.Day, place Place, groups, values [][]byte) error {
	if !t.operation.Includes(day) {
		t.summary.Outside++
		return nil
	}
	if err := t.read(values); err != nil {
		return err
	}
	number, group := t.periods.number(day), t.group(groups) // which is there even if none of its facts are in a period
	if number == notToDate {
		t.summary.noteNotToDate(day)
		return nil
	}
	if t.bySource {
		t.note(group, 1<<t.source)
	}
	cell := t.cell(group, number)
	t.take(t.cells, t.measures, cell, place)
	if t.summary.Rows == 0 {
		t.summary.First, t.summary.Last = day, day
	}
	t.summary.First, t.summary.Last = min(t.summary.First, day), max(t.summary.Last, day)
	t.summary.Rows++
	return nil
}

// AddUndated takes in a fact without a date, which is in no period.
func (t *Tally) AddUndated(row int64, values [][]byte) error {
	if err := t.read(values); err != nil {
		return err
	}
	t.take(t.undatedCells, t.undated, 0, Place{Row: row})
	t.summary.Undated++
	return nil
}

// read reads the values of a fact.
func (t *Tally) read(values [][]byte) error {
	for i := range t.operation.Measures {
		if t.operation.Measures[i].Kind == Count {
			continue
		}
		text := values[i]
		if len(text) > 0 && (text[0] <= ' ' || text[0] >= 0x80 || text[len(text)-1] <= ' ' || text[len(text)-1] >= 0x80) {
			text = bytes.TrimSpace(text)
		}
		if t.present[i] = len(text) > 0; !t.present[i] {
			continue
		}
		if t.operation.Measures[i].Kind == Distinct {
			t.texts[i] = text
			continue
		}
		number, err := decimal.Parse(text)
		if err != nil {
			return &BadValue{Measure: i, Value: string(values[i]), Reason: err}
		}
		t.numbers[i] = number
	}
	return nil
}

// take adds the values that were read to a cell.
func (t *Tally) take(cells *cells, measures []accumulator, cell uint32, place Place) {
	record := cells.record(cell)
	record[0]++
	for i := range measures {
		switch {
		case !t.present[i]:
		case measures[i].kind == Distinct:
			if d := measures[i].distinct; d != nil && d.add(cell, t.texts[i]) {
				record[measures[i].place+atCount]++
			}
		default:
			measures[i].add(cell, record, t.numbers[i], place)
		}
	}
}

// Enter says of which source the next facts are, by its number below MaxSources.
func (t *Tally) Enter(source int) { t.source = source }

// note notes that a group has facts of some sources.
func (t *Tally) note(group int, sources uint64) {
	for len(t.sources) <= group {
		t.sources = append(t.sources, 0)
	}
	t.sources[group] |= sources
}

func (t *Tally) sourcesOf(group int) uint64 {
	if group < len(t.sources) {
		return t.sources[group]
	}
	return 0
}

// combinations returns how many combinations of the values of all group columns there are, at most 1 << 40.
func (t *Tally) combinations() int {
	count := 1
	for _, values := range t.GroupValues() {
		count = min(count*len(values), 1<<40)
	}
	return count
}

// GroupValues returns the values of each column that facts are grouped by.
func (t *Tally) GroupValues() [][]string {
	all := make([][]string, len(t.operation.Groups))
	seen := make([]map[string]bool, len(all))
	for number := range t.groups.len() {
		for column, value := range t.groups.values(number) {
			if seen[column] == nil {
				seen[column] = map[string]bool{}
			}
			if !seen[column][value] {
				seen[column][value] = true
				all[column] = append(all[column], value)
			}
		}
	}
	return all
}

// combine adds the combinations of values that do not occur as groups without facts.
func (t *Tally) combine() {
	all := t.GroupValues()
	values := make([][]byte, len(all))
	var add func(column int)
	add = func(column int) {
		if column == len(all) {
			t.group(values)
			return
		}
		for _, value := range all[column] {
			values[column] = []byte(value)
			add(column + 1)
		}
	}
	add(0)
}

// AddOutside counts facts outside the range that nobody has read.
func (t *Tally) AddOutside(count int) { t.summary.Outside += count }

// Join takes in all that another Tally of the same operation has seen.
func (t *Tally) Join(other *Tally) {
	joinCells(t.undatedCells, t.undated, 0, other.undatedCells, other.undated, 0)
	cells := make([]uint32, other.cells.count) // by those of the other
	noteSources := func(own, theirs int) {
		if sources := other.sourcesOf(theirs); sources != 0 {
			t.note(own, sources)
		}
	}
	t.grid.join(&other.grid, noteSources, func(own, theirs uint32) {
		cells[theirs] = own
		joinCells(t.cells, t.measures, own, other.cells, other.measures, theirs)
	})
	joinValues(t.cells, t.measures, other.measures, cells)
	if other.summary.Rows > 0 {
		if t.summary.Rows == 0 {
			t.summary.First, t.summary.Last = other.summary.First, other.summary.Last
		}
		t.summary.First = min(t.summary.First, other.summary.First)
		t.summary.Last = max(t.summary.Last, other.summary.Last)
	}
	if other.reach.isKnown {
		t.reach.add(other.reach.first)
		t.reach.add(other.reach.last)
	}
	t.summary.Rows += other.summary.Rows
	t.summary.Undated += other.summary.Undated
	t.summary.Outside += other.summary.Outside
	if other.summary.NotToDate > 0 {
		t.summary.noteNotToDate(other.summary.FirstNotToDate)
		t.summary.LastNotToDate = max(t.summary.LastNotToDate, other.summary.LastNotToDate)
		t.summary.NotToDate += other.summary.NotToDate - 1
	}
}

// joinCells takes one cell into another.
func joinCells(cells *cells, measures []accumulator, cell uint32, others *cells, theirs []accumulator, other uint32) {
	record, their := cells.record(cell), others.record(other)
	if their[0] == 0 {
		return
	}
	record[0] += their[0]
	for m := range measures {
		measures[m].join(cell, record, &theirs[m], other, their)
	}
}

// joinValues takes in the values of all cells, of the measures that keep them.
func joinValues(own *cells, measures, others []accumulator, cells []uint32) {
	for m := range measures {
		switch measures[m].kind {
		case Distinct:
			at := measures[m].place + atCount
			measures[m].distinct.join(others[m].distinct, cells, func(cell uint32) { own.record(cell)[at]++ })
		case Percentile:
			if measures[m].listed == nil || others[m].listed == nil {
				continue
			}
			measures[m].scale = max(measures[m].scale, others[m].scale)
			measures[m].listed.join(others[m].listed, cells)
		}
	}
}

// Summary returns the counts of rows so far.
func (t *Tally) Summary() Summary { return t.summary }
