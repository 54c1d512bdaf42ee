package check

import (
	"slices"
	"strings"

	"roundyear/calendar"
	"roundyear/cell"
	"roundyear/civil"
	"roundyear/dimension"
)

// Structure holds the periods of a table against each other: what its columns
// say, whatever the rule they were made by.
type Structure struct {
	columns []structureColumn
	rows    []structureRow
}

type structureColumn struct {
	Matched
	ids   map[string]int32
	texts []string
}

type structureRow struct {
	day    civil.Day
	line   int
	values []int32
}

// NewStructure returns the structure of those of the columns that say something
// of periods: keys, labels that sort by others, and first and last days.
func NewStructure(matched []Matched) *Structure {
	s := &Structure{}
	needed := map[string]bool{}
	for _, one := range matched {
		a := one.Attribute
		isPeriod := a.SameFor.Unit != calendar.Day && (a.Role == dimension.RoleKey || isBound(a))
		if a.SortBy != "" || isPeriod {
			needed[a.Name] = true
		}
		if a.SortBy != "" {
			needed[a.SortBy] = true
		}
	}
	for _, one := range matched {
		if needed[one.Attribute.Name] {
			s.columns = append(s.columns, structureColumn{Matched: one, ids: map[string]int32{}})
		}
	}
	return s
}

// Places returns the indexes of the columns that Add wants, in its order.
func (s *Structure) Places() []int {
	var indexes []int
	for _, column := range s.columns {
		indexes = append(indexes, column.Index)
	}
	return indexes
}

// Add takes in the values of a row at the indexes.
func (s *Structure) Add(line int, day civil.Day, values []string) {
	row := structureRow{day: day, line: line, values: make([]int32, len(values))}
	for i, value := range values {
		column := &s.columns[i]
		id, known := column.ids[value]
		if !known {
			id = int32(len(column.texts))
			value = strings.Clone(value)
			column.ids[value] = id
			column.texts = append(column.texts, value)
		}
		row.values[i] = id
	}
	s.rows = append(s.rows, row)
}

// Verified says what the structure has proved, and of how many columns or pairs.
type Verified struct{ Labels, Runs, Nested, Bounds int }

// Faults returns what is wrong, and what was looked at.
func (s *Structure) Faults() ([]Fault, Verified) {
	slices.SortStableFunc(s.rows, func(a, b structureRow) int { return int(a.day - b.day) })
	var faults []Fault
	var proved Verified
	for i, column := range s.columns {
		a := column.Attribute
		switch {
		case a.SortBy != "":
			if key := s.find(a.SortBy); key >= 0 {
				proved.Labels++
				faults = append(faults, s.oneToOne(i, key)...)
			}
		case a.Role == dimension.RoleKey && a.SameFor.Unit != calendar.Day:
			proved.Runs++
			faults = append(faults, s.oneRun(i)...)
			for j, coarser := range s.columns {
				if s.isAbove(coarser, column) {
					proved.Nested++
					faults = append(faults, s.nested(i, j)...)
				}
			}
		case isBound(a):
			if key := s.keyOf(a.SameFor); key >= 0 {
				proved.Bounds++
				faults = append(faults, s.bound(i, key, a.Role == dimension.RoleFirstDay)...)
			}
		}
	}
	return faults, proved
}

// isBound tells whether an attribute is the first or the last day of its period.
func isBound(a dimension.Attribute) bool {
	return a.Role == dimension.RoleFirstDay || a.Role == dimension.RoleLastDay
}

func (s *Structure) find(attribute string) int {
	return slices.IndexFunc(s.columns, func(c structureColumn) bool { return c.Attribute.Name == attribute })
}

func (s *Structure) keyOf(grain calendar.Grain) int {
	return slices.IndexFunc(s.columns, func(c structureColumn) bool {
		return c.Attribute.Role == dimension.RoleKey && c.Attribute.SameFor == grain
	})
}

// isAbove tells whether a column holds a coarser period of the same calendar,
// in which each of the finer lies. Weeks lie in years, and cross all between.
func (s *Structure) isAbove(coarser, finer structureColumn) bool {
	a, b := coarser.Attribute, finer.Attribute
	if a.Role != dimension.RoleKey || a.SameFor.Calendar != b.SameFor.Calendar || a.SameFor.Unit <= b.SameFor.Unit {
		return false
	}
	if b.SameFor.Unit == calendar.Week {
		return a.SameFor.Unit == calendar.Year || calendar.IsWeekBased(a.SameFor.Calendar)
	}
	return nestedUnits(b.SameFor.Unit, a.SameFor.Unit)
}

// nestedUnits tells whether each period of a finer unit lies in one of a
// coarser: halves, thirds and trimesters do not lie in each other.
func nestedUnits(finer, coarser calendar.Unit) bool {
	switch {
	case finer == calendar.Month, coarser == calendar.Year:
		return true
	}
	return finer == calendar.Quarter && coarser == calendar.Half
}

// oneToOne looks whether each label stands for one sort key within its year,
// and each key for one label.
func (s *Structure) oneToOne(label, key int) []Fault {
	year := -1
	holds := s.columns[label].Attribute.SameFor
	if holds.Unit != calendar.Year {
		year = s.keyOf(calendar.Grain{Calendar: holds.Calendar, Unit: calendar.Year})
	}
	type pair struct{ year, id int32 }
	keys, labels := map[pair]int32{}, map[pair]int32{}
	var fault *Fault
	for _, row := range s.rows {
		of := int32(-1)
		if year >= 0 {
			of = row.values[year]
		}
		l, k := pair{of, row.values[label]}, pair{of, row.values[key]}
		wantKey, seenLabel := keys[l]
		wantLabel, seenKey := labels[k]
		if !seenLabel && !seenKey {
			keys[l], labels[k] = row.values[key], row.values[label]
			continue
		}
		if seenLabel && wantKey == row.values[key] && seenKey && wantLabel == row.values[label] {
			continue
		}
		if fault == nil {
			fault = &Fault{Kind: Ambiguous, Column: s.columns[label].Column, Other: s.columns[key].Column, First: row.day, Last: row.day,
				Value: s.columns[label].texts[row.values[label]] + " with " + s.columns[key].texts[row.values[key]]}
			if seenLabel {
				fault.Wanted = s.columns[label].texts[row.values[label]] + " with " + s.columns[key].texts[wantKey]
			} else {
				fault.Wanted = s.columns[label].texts[wantLabel] + " with " + s.columns[key].texts[row.values[key]]
			}
		}
		fault.extend(row)
	}
	return faultsOf(fault)
}

func (f *Fault) extend(row structureRow) {
	f.Lines = append(f.Lines, row.line)
	f.Last = row.day
	f.Count++
}

func faultsOf(fault *Fault) []Fault {
	if fault == nil {
		return nil
	}
	return []Fault{*fault}
}

// oneRun looks whether the days of each period come in one run.
func (s *Structure) oneRun(key int) []Fault {
	left := map[int32]bool{}
	var fault *Fault
	for i, row := range s.rows {
		value := row.values[key]
		if i > 0 && s.rows[i-1].values[key] != value {
			left[s.rows[i-1].values[key]] = true
		}
		if !left[value] {
			continue
		}
		if fault == nil {
			fault = &Fault{Kind: SplitPeriod, Column: s.columns[key].Column, First: row.day, Last: row.day, Value: s.columns[key].texts[value]}
		}
		fault.extend(row)
	}
	return faultsOf(fault)
}

// nested looks whether each finer period lies in one coarser.
func (s *Structure) nested(finer, coarser int) []Fault {
	within := map[int32]int32{}
	var fault *Fault
	for _, row := range s.rows {
		want, seen := within[row.values[finer]]
		if !seen {
			within[row.values[finer]] = row.values[coarser]
			continue
		}
		if want == row.values[coarser] {
			continue
		}
		if fault == nil {
			fault = &Fault{Kind: OverlappingPeriods, Column: s.columns[finer].Column, Other: s.columns[coarser].Column, First: row.day, Last: row.day,
				Value:  s.columns[finer].texts[row.values[finer]] + " in " + s.columns[coarser].texts[row.values[coarser]],
				Wanted: s.columns[coarser].texts[want]}
		}
		fault.extend(row)
	}
	return faultsOf(fault)
}

// bound looks whether the first or last day that a column says of each period
// is that of its run of days. The periods at the ends of the table may be cut,
// and those beside missing days, which are a fault of their own.
func (s *Structure) bound(bound, key int, isStart bool) []Fault {
	var fault *Fault
	for first := 0; first < len(s.rows); {
		end := first
		for end < len(s.rows) && s.rows[end].values[key] == s.rows[first].values[key] {
			end++
		}
		want := s.rows[first].day
		cut := first == 0 || s.rows[first-1].day+1 < want
		if !isStart {
			want = s.rows[end-1].day
			cut = end == len(s.rows) || s.rows[end].day > want+1
		}
		for _, row := range s.rows[first:end] {
			text := s.columns[bound].texts[row.values[bound]]
			if cut || Same(cell.OfDay(want), cell.Date, []byte(text), nil) {
				continue
			}
			if fault == nil {
				fault = &Fault{Kind: WrongBounds, Column: s.columns[bound].Column, Other: s.columns[key].Column, First: row.day, Last: row.day, Value: text, Wanted: want.String()}
			}
			fault.extend(row)
		}
		first = end
	}
	return faultsOf(fault)
}
