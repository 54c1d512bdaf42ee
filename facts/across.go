package facts

import (
	"fmt"
	"slices"
	"strings"

	"roundyear/calendar"
	"roundyear/cell"
	"roundyear/civil"
)

// Across is a result in which the values of a group, or the years of the periods, stand side by side.
type Across struct {
	columns []cell.Column
	rows    [][]cell.Value
}

// mostAcross is how many columns stand side by side at most.
const mostAcross = 2000

// Columns returns the names and types of the columns.
func (a *Across) Columns() []cell.Column { return a.columns }

// Rows calls yield with the rows in time order, and within a period by group.
func (a *Across) Rows(yield func([]cell.Value) bool) {
	for _, row := range a.rows {
		if !yield(row) {
			return
		}
	}
}

// acrossKey is a row of the result, and acrossCell one column of it.
type acrossKey struct {
	number int
	groups string
}

// Across sets the values of one of the groups side by side, with a row for each period and other groups; without a name the years of the
// periods, with a row for each of their numbers in a year. What is false everywhere is left out of the marks. The error says that there
// would be too many columns.
func (r *Result) Across(group string) (*Across, error) {
	const head = 3 // the label and the two days of a period
	at, behind := -1, head+len(r.operation.Groups)
	columns := r.Columns()
	a := &Across{columns: []cell.Column{{Name: "period", Type: cell.Text}, {Name: "number", Type: cell.Integer}}}
	if group != "" {
		at = head + slices.Index(r.operation.Groups, group)
		a.columns = slices.Clone(columns[:head])
	}
	var others []int
	for i := head; i < behind; i++ {
		if i != at {
			others, a.columns = append(others, i), append(a.columns, columns[i])
		}
	}
	heads := len(a.columns)
	names := r.sideBySide(group)
	place := map[string]int{}
	for i, name := range names {
		place[name] = i
	}
	if count := len(names) * (len(columns) - behind); count > mostAcross {
		return nil, fmt.Errorf("%d columns would stand side by side, more than %d", count, mostAcross)
	}
	cells := map[acrossKey][]cell.Value{}
	var keys []acrossKey
	for row := range r.Rows() {
		day, err := civil.Parse(row[1].String())
		if err != nil {
			return nil, err
		}
		period := r.operation.Grain.Locate(day)
		key := acrossKey{number: period.Number}
		var name string
		own := slices.Clone(row[:head])
		if group == "" {
			key.number, name = period.InYear, r.yearLabel(period)
			own = []cell.Value{cell.OfText(inYearLabel(r.operation.Grain, period)), cell.OfInteger(period.InYear)}
		} else {
			name = row[at].String()
		}
		for _, i := range others {
			own = append(own, row[i])
			key.groups += row[i].String() + "\x00"
		}
		if cells[key] == nil {
			all := slices.Repeat([]cell.Value{cell.Blank}, heads+len(names)*(len(columns)-behind))
			copy(all, own)
			cells[key], keys = all, append(keys, key)
		}
		for m := range columns[behind:] {
			cells[key][heads+m*len(names)+place[name]] = row[behind+m]
		}
	}
	if group == "" {
		slices.SortStableFunc(keys, func(a, b acrossKey) int { return a.number - b.number })
	}
	for _, key := range keys {
		a.rows = append(a.rows, cells[key])
	}
	measures := columns[behind:]
	for _, measure := range measures {
		for _, name := range names {
			own := measure
			if own.Name = name; len(r.operation.Measures) > 1 || measure.Name != r.operation.Measures[0].Name {
				own.Name = measure.Name + " " + name
			}
			a.columns = append(a.columns, own)
		}
	}
	a.dropUnmarked(heads)
	return a, nil
}

// sideBySide returns the labels of what stands side by side, in their order.
func (r *Result) sideBySide(group string) (names []string) {
	if group == "" {
		low, high := r.high, r.low
		for i := range r.series {
			low, high = min(low, r.series[i].low), max(high, r.series[i].high)
		}
		for number := low; number <= high; number++ {
			if name := r.yearLabel(r.operation.Grain.At(number)); !slices.Contains(names, name) {
				names = append(names, name)
			}
		}
		return names
	}
	at := slices.Index(r.operation.Groups, group)
	column := &grid{groups: newGroupTable(), ranks: []map[string]int{nil}, made: map[int]madeGroup{}}
	if at < len(r.tally.ranks) {
		column.ranks[0] = r.tally.ranks[at]
	}
	for i := range r.series {
		if !r.hasRows(&r.series[i]) {
			continue
		}
		number, isNew := column.groups.number([][]byte{[]byte(r.series[i].values[at].String())})
		if made, ok := r.tally.made[r.series[i].group]; isNew && ok && at >= made.from {
			column.made[number] = madeGroup{made.isTotal, 0}
		}
	}
	for _, g := range column.sortedGroups(1) {
		names = append(names, g.values[0])
	}
	return names
}

// hasRows tells whether a series has a row in one of its periods.
func (r *Result) hasRows(s *series) bool {
	for number := s.low; number <= s.high; number++ {
		if !r.sparse || !r.isLeftOut(s, number) {
			return true
		}
	}
	return false
}

// yearLabel names the year of its calendar that a period belongs to.
func (r *Result) yearLabel(period calendar.Period) string {
	return r.operation.Grain.Calendar.Label(yearOf(r.operation.Grain, period))
}

// inYearLabel names a period within its year: the month by its name where the calendar has those, else the unit and its number.
func inYearLabel(grain calendar.Grain, period calendar.Period) string {
	if namer, ok := grain.Calendar.(calendar.MonthNamer); ok && grain.Unit == calendar.Month && namer.NamesMonths() {
		return namer.MonthName(period.InYear).String()
	}
	unit := grain.Unit.String()
	return fmt.Sprintf("%s %d", strings.ToUpper(unit[:1])+unit[1:], period.InYear)
}

// dropUnmarked leaves out marks that are true in no row.
func (a *Across) dropUnmarked(heads int) {
	var kept []int
	isMark := func(name string) bool {
		name, _, _ = strings.Cut(name, " ")
		return slices.Contains(markNames[:], name)
	}
	for i, column := range a.columns {
		if i < heads || !isMark(column.Name) || slices.ContainsFunc(a.rows, func(row []cell.Value) bool { return row[i].String() == "true" }) {
			kept = append(kept, i)
		}
	}
	pick := func(row []cell.Value) (own []cell.Value) {
		for _, i := range kept {
			own = append(own, row[i])
		}
		return own
	}
	for i, row := range a.rows {
		a.rows[i] = pick(row)
	}
	var columns []cell.Column
	for _, i := range kept {
		columns = append(columns, a.columns[i])
	}
	a.columns = columns
}
