package app

import (
	"context"
	"fmt"
	"slices"

	"roundyear/facts/where"
	"roundyear/fault"
	"roundyear/internal/reading"
	"roundyear/internal/terminal"
	"roundyear/nearest"
	"roundyear/numbertext"
	"roundyear/rows"
)

// filter keeps the rows that meet all of some conditions. It counts which of the
// values that conditions ask for were seen, so each goroutine has its own.
type filter struct {
	conditions []*where.Condition
	columns    []int
	seen       [][]bool
	// plain is memory for numbers that are not written plainly.
	plain []byte
	// dates say how the columns of conditions on days are read whose dates are written in another form than in the conditions; nil for others.
	// readers read them, of one part.
	dates   []*reading.Dates
	readers []*reading.Reader
	part    *rows.Part
	// failed are the conditions that the last row did not meet, a bit for each.
	failed uint64
}

// ConditionError is the error for a text that is not a condition.
type ConditionError struct {
	Text string
	Err  error
}

// Error says which text, and why.
func (e *ConditionError) Error() string { return fmt.Sprintf("%q %s", e.Text, e.Err) }

// Unwrap returns the reason.
func (e *ConditionError) Unwrap() error { return e.Err }

// ParseConditions reads conditions on the columns of a source. The error is a ConditionError, or
// the fault of a column that there is not.
func ParseConditions(source *rows.Source, texts []string) ([]*where.Condition, error) {
	var conditions []*where.Condition
	isColumn := func(name string) bool {
		_, err := source.Find(name)
		return err == nil
	}
	for _, text := range texts {
		condition, err := where.Parse(text, isColumn)
		if err != nil {
			return nil, &ConditionError{text, err}
		}
		if _, err := source.Find(condition.Column); err != nil {
			return nil, err
		}
		conditions = append(conditions, condition)
	}
	return conditions, nil
}

// newFilter returns a filter of conditions that has seen nothing. The error is the fault of a
// column that there is not, or whose values cannot be compared.
func newFilter(ctx context.Context, source *rows.Source, conditions []*where.Condition, asked reading.Asked) (*filter, error) {
	f := &filter{conditions: conditions}
	for _, condition := range conditions {
		column, err := source.Find(condition.Column)
		if err != nil {
			return nil, err
		}
		f.columns = append(f.columns, column)
		f.seen = append(f.seen, make([]bool, len(condition.Values)))
	}
	return f, f.readDayConditions(ctx, source, asked)
}

// clone returns a filter of the same conditions that has seen nothing.
func (f *filter) clone() *filter {
	other := &filter{conditions: f.conditions, columns: f.columns, dates: f.dates}
	for _, seen := range f.seen {
		other.seen = append(other.seen, make([]bool, len(seen)))
	}
	return other
}

// join takes in what another filter has seen.
func (f *filter) join(other *filter) {
	for i := range f.seen {
		for j, seen := range other.seen[i] {
			f.seen[i][j] = f.seen[i][j] || seen
		}
	}
}

// note notes for each condition which of its values was seen; less than 0 for none.
func (f *filter) note(seen []int) {
	for i, which := range seen {
		if which >= 0 {
			f.seen[i][which] = true
		}
	}
}

// isEmpty tells whether there are no conditions.
func (f *filter) isEmpty() bool { return len(f.conditions) == 0 }

// keeps tells whether a record meets all conditions. The error is a Fault for a value
// that cannot be compared, unless another condition leaves the record out anyway.
func (f *filter) keeps(row *rows.Row, formats map[int]*numbertext.Format) (bool, error) {
	f.failed = 0
	var problem error
	for i, condition := range f.conditions {
		value := row.Field(f.columns[i])
		written := value
		if format := formats[f.columns[i]]; format != nil {
			if plain, ok := format.AppendPlain(f.plain[:0], value); ok {
				f.plain, value = plain, plain
			}
		}
		keep, which, err := condition.Match(f.dayOf(i, row, value))
		if err != nil {
			other := where.Condition{Column: condition.Column, Operator: where.NotEqual, Values: []string{string(written)}}
			found := &fault.Fault{File: row.Part().Name, Line: row.Line, Column: row.Part().Columns[f.columns[i]].Name, What: err.Error(),
				Remedy: "Correct the value, or exclude it with --where " + terminal.Word(other.String())}
			if problem = found; formats == nil && condition.OrdersNumbers() {
				problem = &badNumber{found}
			}
			continue
		}
		if which >= 0 {
			f.seen[i][which] = true
		}
		if !keep {
			f.failed |= rows.Failing(i)
		}
	}
	if f.failed == 0 && problem != nil {
		return false, problem
	}
	return f.failed == 0, nil
}

// exclusions say which rows need not be read, since they do not meet a condition.
func (f *filter) exclusions(source *rows.Source) (all []rows.Exclusion) {
	for i, condition := range f.conditions {
		place := f.columns[i]
		if f.dates[i] != nil {
			all = append(all, rows.Exclusion{Column: place, Excludes: func(rows.Bounds) bool { return false }})
			continue
		}
		all = append(all, rows.Exclusion{Column: place, Excludes: condition.Excludes, Keeps: comparisonOf(condition, source.Columns()[place])})
	}
	return all
}

// comparisonOf is a condition that values of a column meet or not by themselves, whatever they are written like; nil for one that depends on how
// they are.
func comparisonOf(c *where.Condition, of rows.Column) *rows.Comparison {
	own := &rows.Comparison{Operator: string(c.Operator)}
	numbers, areNumbers := c.Numbers()
	days, areDays := c.Days()
	texts, areTexts := c.Texts()
	switch {
	case areNumbers && (of.Type == rows.Integer || of.Type == rows.Decimal || of.Type == rows.Text && of.Plain):
		for _, number := range numbers {
			own.Numbers = append(own.Numbers, number.String())
		}
	case areDays && of.Type.IsDate():
		own.Days = days
	case areTexts && of.Type == rows.Text && (c.Operator == where.Equal || c.Operator == where.NotEqual):
		own.Texts = texts
	default:
		return nil
	}
	return own
}

// maxSuggested is how many different values of a column are looked at for the one that
// was meant.
const maxSuggested = 10000

// unmatched says of each value that a condition asks for and no row has that there is
// none, with the nearest value that there is.
func (f *filter) unmatched(ctx context.Context, source *rows.Source) ([]string, error) {
	values := map[int]map[string]bool{}
	for i, condition := range f.conditions {
		if condition.Operator == where.Equal && slices.Contains(f.seen[i], false) {
			values[f.columns[i]] = map[string]bool{}
		}
	}
	if len(values) == 0 {
		return nil, nil
	}
	// A row that another condition leaves out may not have been read.
	type seen struct {
		values map[int]map[string]bool
		filter *filter
	}
	work := func() func(*rows.Batch) (seen, error) {
		own := f.clone()
		return func(batch *rows.Batch) (seen, error) {
			found, hits := map[int]map[string]bool{}, f.clone() // of this batch alone: it is taken in while the next one is looked at
			for column := range values {
				found[column] = map[string]bool{}
			}
			var row rows.Row
			for batch.Next(&row) {
				for i, condition := range f.conditions {
					if found[f.columns[i]] == nil || condition.Operator != where.Equal {
						continue
					}
					if _, which, err := condition.Match(own.dayOf(i, &row, row.Field(f.columns[i]))); err == nil && which >= 0 {
						hits.seen[i][which] = true
					}
				}
				for column, known := range found {
					if value := row.Field(column); !known[string(value)] && len(known) < maxSuggested {
						known[string(value)] = true
					}
				}
			}
			return seen{found, hits}, batch.Err()
		}
	}
	err := rows.Process(ctx, source, work, func(found seen) error {
		f.join(found.filter)
		for column, known := range found.values {
			for value := range known {
				if len(values[column]) < maxSuggested {
					values[column][value] = true
				}
			}
		}
		return nil
	})
	if err != nil {
		return nil, err
	}
	var texts []string
	for i, condition := range f.conditions {
		known := values[f.columns[i]]
		for j, value := range condition.Values {
			if condition.Operator != where.Equal || f.seen[i][j] || known[value] || f.dates[i] != nil && len(known) == 0 {
				continue
			}
			text := fmt.Sprintf("no row has %s = %q", condition.Column, value)
			var names []string
			for name := range known {
				names = append(names, name)
			}
			if near := nearest.Name(value, names); near != "" {
				text += fmt.Sprintf(". Did you mean %q?", near)
			}
			texts = append(texts, text)
		}
	}
	return texts, nil
}
