package app

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"roundyear/facts"
	"roundyear/fault"
	"roundyear/internal/reading"
	"roundyear/rows"
)

// Census asks how many things were open over time.
type Census struct {
	Dated
	Operation facts.Census
	// ID is the column that names each thing; empty for none.
	ID   string
	Many ManyGroups
	OnDatabase

	groups, sums []int
}

// Counted is what came of reading the spans.
type Counted struct {
	*facts.CensusTally
	// Dates say how the two days were read.
	Dates []*reading.Dates
	// Backward are the first spans that closed before they opened.
	Backward []*fault.Fault
	// Repeated is how many rows name a thing that an earlier one names, and Again the first of them.
	Repeated int
	Again    []*fault.Fault
}

// maxShown is how many rows of a kind are shown.
const maxShown = 3

// Count reads all spans once, twice if the first rows do not tell how their dates are written.
func (c *Census) Count(ctx context.Context) (*Counted, error) {
	c.Columns, c.Where = []string{c.Operation.Opened, c.Operation.Closed}, c.Operation.Where
	c.places, c.numbers, c.groups, c.sums = nil, nil, nil, nil
	for _, name := range c.Operation.Groups {
		which, err := c.text(name)
		if err != nil {
			return nil, err
		}
		c.groups = append(c.groups, which)
	}
	c.Operation.GroupTypes = groupTypes(c.Source, c.Operation.Groups)
	for _, name := range c.Operation.Sums {
		which, err := c.number(name)
		if err != nil {
			return nil, err
		}
		c.sums = append(c.sums, which)
	}
	if counted, err := c.countInside(ctx); counted != nil || err != nil {
		return counted, err
	}
	var workers []*censusWorker
	var backward []backwardSpan
	begin := func([]*reading.Dates) (func() datedWorker[[]backwardSpan], error) {
		workers, backward = nil, nil
		return func() datedWorker[[]backwardSpan] {
			w := &censusWorker{census: c, tally: facts.NewCensusTally(c.Operation), spans: facts.Spans{Groups: make([][][]byte, len(c.groups)), Quantities: make([][][]byte, len(c.sums))}}
			workers = append(workers, w)
			return w
		}, nil
	}
	dates, err := eachDated(ctx, &c.Dated, begin, func(found []backwardSpan) error {
		backward = append(backward, found[:min(len(found), max(maxShown-len(backward), 0))]...)
		return nil
	})
	if err != nil {
		return nil, err
	}
	counted := &Counted{CensusTally: facts.NewCensusTally(c.Operation), Dates: dates}
	for _, w := range workers {
		counted.Join(w.tally)
	}
	for _, one := range backward {
		counted.Backward = append(counted.Backward, &fault.Fault{File: one.part.Name, Line: one.line, What: fmt.Sprintf("closed on %s, before it opened on %s", one.closed, one.opened)})
	}
	return counted, c.findAgain(ctx, counted)
}

// findAgain finds rows that name a thing that an earlier one names.
func (c *Census) findAgain(ctx context.Context, counted *Counted) error {
	if c.ID == "" {
		return nil
	}
	place, err := c.Source.Find(c.ID)
	if err != nil {
		return err
	}
	found, err := repeats(ctx, c.Source, []int{place})
	if err != nil {
		return err
	}
	for _, part := range c.Source.Parts {
		var lines []int
		for line := range found[part] {
			lines = append(lines, line)
		}
		counted.Repeated += len(lines)
		slices.Sort(lines)
		for _, line := range lines[:min(len(lines), max(maxShown-len(counted.Again), 0))] {
			counted.Again = append(counted.Again, &fault.Fault{File: part.Name, Line: line, Column: c.Source.Names()[place], What: found[part][line].Reason(part)})
		}
	}
	return nil
}

// backwardSpan is a span that closed before it opened.
type backwardSpan struct {
	part           *rows.Part
	line           int
	opened, closed fmt.Stringer
}

// censusWorker counts the spans of blocks.
type censusWorker struct {
	census *Census
	tally  *facts.CensusTally
	spans  facts.Spans
	// rows are the places of the spans in their block.
	rows     []int
	backward []backwardSpan
}

func (w *censusWorker) take(b *datedBlock) error {
	s := &w.spans
	s.Opened, s.Closed, s.HasClosed, w.rows = s.Opened[:0], s.Closed[:0], s.HasClosed[:0], w.rows[:0]
	for _, row := range b.kept {
		if b.states[0][row] != reading.Read {
			if b.states[0][row] == reading.Blank {
				w.tally.AddUndated()
			}
			continue // the guess was wrong, or the run ends at this date
		}
		opened, closed, hasClosed := b.day(0, row), b.day(1, row), b.states[1][row] == reading.Read
		if hasClosed && closed < opened && len(w.backward) < maxShown {
			w.backward = append(w.backward, backwardSpan{b.batch.Part, b.lineOf(row), opened, closed})
		}
		s.Opened, s.Closed, s.HasClosed, w.rows = append(s.Opened, opened), append(s.Closed, closed), append(s.HasClosed, hasClosed), append(w.rows, row)
	}
	for i, which := range w.census.groups {
		s.Groups[i] = chosen(b.texts[which], w.rows)
	}
	for i, which := range w.census.sums {
		s.Quantities[i] = chosen(b.texts[which], w.rows)
	}
	row, err := w.tally.AddSpans(s)
	w.census.Many.see(w.tally.GroupCount())
	var bad *facts.BadValue
	if errors.As(err, &bad) {
		return w.census.badNumber(b, w.rows[row], bad.Value, w.census.sums[bad.Measure], bad.Reason)
	}
	return err
}

func (w *censusWorker) done() []backwardSpan {
	found := w.backward
	w.backward = nil
	return found
}
