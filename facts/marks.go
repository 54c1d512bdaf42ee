package facts

import (
	"slices"
	"strings"

	"roundyear/cell"
	"roundyear/civil"
)

// mark is a column at the end of a row that says what kind of row it is.
type mark int

// The marks: filled in a period without facts, running in that of the as-of day, carried where a measure comes from other periods,
// and loaded up to the period's last day.
const (
	filled mark = iota
	running
	carried
	loaded
)

var markNames = [...]string{"is_filled", "is_running", "is_carried", "is_loaded"}

// String returns the name of the column.
func (m mark) String() string { return markNames[m] }

// MarkNames returns the names of the columns that rows may end with.
func MarkNames() []string { return markNames[:] }

// marks returns those of an operation's rows: the last two only where they can say something.
func (o *Operation) marks() []mark {
	marks := []mark{filled, running}
	if o.hasBalances() || slices.ContainsFunc(o.Measures, func(m Measure) bool { return m.Gap == Carry || m.Gap == Linear }) {
		marks = append(marks, carried)
	}
	if o.Loaded != nil {
		marks = append(marks, loaded)
	}
	return marks
}

// FactMarks returns what works out the marks of facts by their day and the values of their group, as those of rows that are not filled.
func (r *Result) FactMarks() func(day civil.Day, values []string) []cell.Value {
	through := map[string]*civil.Day{}
	if r.operation.Loaded != nil {
		for i := range r.series {
			through[strings.Join(r.tally.groups.values(r.series[i].group), "\x00")] = r.series[i].loaded
		}
	}
	return func(day civil.Day, values []string) []cell.Value {
		period := r.operation.Grain.Locate(day)
		var marks []cell.Value
		for _, mark := range r.marks {
			is := false
			switch mark {
			case running:
				is = period.Contains(r.operation.AsOf)
			case loaded:
				through := through[strings.Join(values, "\x00")]
				is = through == nil || r.operation.knownThrough(period) <= *through
			}
			marks = append(marks, cell.OfBool(is))
		}
		return marks
	}
}
