package facts

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"math"

	"roundyear/calendar"
	"roundyear/civil"
	"roundyear/facts/decimal"
)

// Tally gathers facts, row by row. Its memory grows with the number of groups
// times periods and not with rows.
type Tally struct {
	operation Operation
	groups    []*group
	byKey     map[string]*group
	key       []byte
	period    calendar.Period
	located   bool
	scales    []int
	undated   entry
	summary   Summary
}

// Summary counts the rows that a Tally has seen.
type Summary struct {
	// Rows are the facts in periods, Undated those without a date, Outside
	// those before From or after To.
	Rows, Undated, Outside int
	// First and Last are the earliest and the latest day of the facts in
	// periods; they mean nothing when Rows is 0.
	First, Last civil.Day
}

// group is the facts of one combination of group values.
type group struct {
	values  []string
	entries map[int]*entry
	last    *entry
	number  int
}

// entry is the measures of one group and period.
type entry struct{ states []state }

// state is a measure on its way: what it has so far, of how many values, and
// for First and Last where it stands.
type state struct {
	value decimal.Decimal
	count int
	place Place
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

// NewTally returns a Tally that has seen nothing.
func NewTally(operation Operation) *Tally {
	return &Tally{
		operation: operation,
		byKey:     map[string]*group{},
		scales:    make([]int, len(operation.Measures)),
		undated:   entry{states: make([]state, len(operation.Measures))},
	}
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
	if !t.located || !t.period.Contains(day) {
		t.period, t.located = t.operation.Grain.Locate(day), true
	}
	e := t.groupOf(groups).entry(t.period.Number, len(t.operation.Measures))
	if err := t.addTo(e, place, values); err != nil {
		return err
	}
	if t.summary.Rows == 0 {
		t.summary.First, t.summary.Last = day, day
	}
	t.summary.First, t.summary.Last = min(t.summary.First, day), max(t.summary.Last, day)
	t.summary.Rows++
	return nil
}

// AddUndated takes in a fact without a date, which is in no period.
func (t *Tally) AddUndated(row int64, values [][]byte) error {
	if err := t.addTo(&t.undated, Place{Row: row}, values); err != nil {
		return err
	}
	t.summary.Undated++
	return nil
}

func (t *Tally) addTo(e *entry, place Place, values [][]byte) error {
	for i := range t.operation.Measures {
		s := &e.states[i]
		if t.operation.Measures[i].Kind == Count {
			s.count++
			continue
		}
		text := bytes.TrimSpace(values[i])
		if len(text) == 0 {
			continue
		}
		number, err := decimal.Parse(text)
		if err != nil {
			return &BadValue{Measure: i, Value: string(values[i]), Reason: err}
		}
		t.scales[i] = max(t.scales[i], number.Scale())
		s.take(t.operation.Measures[i].Kind, state{value: number, count: 1, place: place})
	}
	return nil
}

// take joins another state of the same measure.
func (s *state) take(kind Kind, other state) {
	if other.count == 0 {
		return
	}
	empty := s.count == 0
	s.count += other.count
	switch kind {
	case Count:
	case Sum, Mean:
		s.value = s.value.Add(other.value)
	case Min:
		if empty || other.value.Cmp(s.value) < 0 {
			s.value = other.value
		}
	case Max:
		if empty || other.value.Cmp(s.value) > 0 {
			s.value = other.value
		}
	case First:
		if empty || other.place.before(s.place) {
			s.value, s.place = other.value, other.place
		}
	case Last:
		if empty || s.place.before(other.place) {
			s.value, s.place = other.value, other.place
		}
	}
}

// Join takes in all that another Tally of the same operation has seen.
func (t *Tally) Join(other *Tally) {
	for i := range t.scales {
		t.scales[i] = max(t.scales[i], other.scales[i])
	}
	t.joinEntry(&t.undated, &other.undated)
	for key, theirs := range other.byKey {
		ours := t.byKey[key]
		if ours == nil {
			t.byKey[key] = theirs
			t.groups = append(t.groups, theirs)
			continue
		}
		for number, e := range theirs.entries {
			t.joinEntry(ours.entry(number, len(t.operation.Measures)), e)
		}
	}
	if other.summary.Rows > 0 {
		if t.summary.Rows == 0 {
			t.summary.First, t.summary.Last = other.summary.First, other.summary.Last
		}
		t.summary.First = min(t.summary.First, other.summary.First)
		t.summary.Last = max(t.summary.Last, other.summary.Last)
	}
	t.summary.Rows += other.summary.Rows
	t.summary.Undated += other.summary.Undated
	t.summary.Outside += other.summary.Outside
}

func (t *Tally) joinEntry(ours, theirs *entry) {
	for i := range ours.states {
		ours.states[i].take(t.operation.Measures[i].Kind, theirs.states[i])
	}
}

// Summary returns the counts of rows so far.
func (t *Tally) Summary() Summary { return t.summary }

func (t *Tally) groupOf(values [][]byte) *group {
	t.key = t.key[:0]
	for _, value := range values {
		t.key = binary.AppendUvarint(t.key, uint64(len(value)))
		t.key = append(t.key, value...)
	}
	if g := t.byKey[string(t.key)]; g != nil {
		return g
	}
	g := &group{entries: map[int]*entry{}, number: math.MinInt}
	for _, value := range values {
		g.values = append(g.values, string(value))
	}
	t.byKey[string(t.key)] = g
	t.groups = append(t.groups, g)
	return g
}

func (g *group) entry(number, measures int) *entry {
	if g.number == number {
		return g.last
	}
	e := g.entries[number]
	if e == nil {
		e = &entry{states: make([]state, measures)}
		g.entries[number] = e
	}
	g.last, g.number = e, number
	return e
}
