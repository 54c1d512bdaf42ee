package facts

import (
	"roundyear/calendar"
	"roundyear/civil"
)

// dayGrain is that of tallies by day, whose periods have the number of their day.
var dayGrain = calendar.Grain{Calendar: calendar.Gregorian(), Unit: calendar.Day}

// absorb takes in the facts of the cells of another tally of the same measures: each by the group and the number of the period that into
// says, if any. It returns how many facts were left out.
func (t *Tally) absorb(other *Tally, into func(group, number int) (ownGroup, ownNumber int, ok bool)) (leftOut int) {
	cells := make([]uint32, other.cells.count)
	for i := range cells {
		cells[i] = noPage
	}
	for group := range other.groups.len() {
		other.eachCell(group, func(number int, cell uint32) {
			ownGroup, ownNumber, ok := into(group, number)
			if !ok {
				leftOut += int(other.cells.record(cell)[0])
				return
			}
			cells[cell] = t.cell(ownGroup, ownNumber)
			joinCells(t.cells, t.measures, cells[cell], other.cells, other.measures, cell)
		})
	}
	for m := range t.measures {
		if other.measures[m].kind == Percentile && other.measures[m].listed == nil {
			t.measures[m].listed = nil // it is settled, and its values are gone
		}
	}
	joinValues(t.cells, t.measures, other.measures, cells)
	return leftOut
}

// noteDay widens the days of the facts in periods.
func (s *Summary) noteDay(day civil.Day, rows int) {
	if s.Rows == 0 {
		s.First, s.Last = day, day
	}
	s.First, s.Last = min(s.First, day), max(s.Last, day)
	s.Rows += rows
}

// empty returns a tally of the same measures without a fact, by periods of a grain.
func (t *Tally) empty(grain calendar.Grain) *Tally {
	own := &Tally{operation: t.operation, undatedCells: t.undatedCells, undated: t.undated}
	cells, measures := newAccumulators(t.operation.Measures)
	own.grid, own.measures = newGrid(cells, grain), measures
	return own
}

// beside returns an empty tally whose groups are those of another, by the same numbers.
func (t *Tally) beside(grain calendar.Grain) *Tally {
	own := t.empty(grain)
	own.groups = t.groups
	return own
}

// reachGroups makes all groups have a list of cells.
func (g *grid) reachGroups() {
	for len(g.pages) < g.groups.len() {
		g.pages = append(g.pages, pageList{})
	}
}
