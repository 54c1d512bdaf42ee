package facts

import (
	"bytes"

	"roundyear/civil"
	"roundyear/facts/decimal"
)

// Aggregate is facts of one day and group that something else has added up, such as a database.
type Aggregate struct {
	// Day is the day that they count to, and IsUndated tells that they have none.
	Day       civil.Day
	IsUndated bool
	// Groups are the values of the group columns, as for Tally.Add.
	Groups [][]byte
	// Rows is how many facts there are, at least one.
	Rows int
	// Measures are what they make for each measure of the operation.
	Measures []Part
}

// Part is what some facts make for a measure: how many values there are, and their sum, or the least or the greatest. Of a kind that needs
// each value, all of the facts have the same.
type Part struct {
	Values int
	Number decimal.Decimal
	// Text is the value of a Distinct.
	Text []byte
}

// CanAggregate tells whether a measure of a kind can be told from parts.
func (k Kind) CanAggregate() bool { return k != First && k != Last }

// NeedsValues tells whether the parts of a measure of a kind must be of one value each.
func (k Kind) NeedsValues() bool { return k == Distinct || k == Percentile }

// AddAggregate takes in facts that were added up before. The measures of the operation must all be of kinds that can be told from parts.
func (t *Tally) AddAggregate(a *Aggregate) {
	if a.IsUndated {
		t.takeParts(t.undatedCells, t.undated, 0, a)
		t.summary.Undated += a.Rows
		return
	}
	if !t.operation.Includes(a.Day) {
		t.summary.Outside += a.Rows
		return
	}
	number, group := t.periods.number(a.Day), t.group(a.Groups)
	if number == notToDate {
		t.summary.noteNotToDate(a.Day)
		t.summary.NotToDate += a.Rows - 1
		return
	}
	if t.bySource {
		t.note(group, 1<<t.source)
	}
	t.takeParts(t.cells, t.measures, t.cell(group, number), a)
	t.summary.noteDay(a.Day, a.Rows)
}

// takeParts adds parts to a cell.
func (t *Tally) takeParts(cells *cells, measures []accumulator, cell uint32, a *Aggregate) {
	record := cells.record(cell)
	record[0] += int64(a.Rows)
	for i := range measures {
		part := a.Measures[i]
		if measures[i].kind == Count || part.Values == 0 {
			continue
		}
		own := record[measures[i].place:]
		if measures[i].kind == Distinct {
			if text := bytes.TrimSpace(part.Text); len(text) > 0 && measures[i].distinct != nil && measures[i].distinct.add(cell, text) {
				own[atCount]++
			}
			continue
		}
		isEmpty, times := own[atCount] == 0, 1
		own[atCount] += int64(part.Values)
		if measures[i].kind == Percentile {
			times = part.Values
		}
		for range times {
			measures[i].merge(cell, own, part.Number, Place{}, isEmpty)
		}
	}
}
