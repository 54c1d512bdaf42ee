// Package inside adds up facts where they lie: an operation becomes one statement of the database that has them, and only what it gives
// travels. That is by day and group, which holds for every calendar; periods, gaps and comparisons are made of it as they are made of facts
// that were read.
package inside

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"roundyear/datetext"
	"roundyear/facts"
	"roundyear/facts/where"
	"roundyear/internal/dialect"
	"roundyear/rows"
)

// Table is a table or query of a database that can be asked.
type Table interface {
	// Dialect is the SQL that it speaks.
	Dialect() *dialect.Dialect
	// Relation is what stands before a query, and behind FROM.
	Relation() (with, from string)
	// ColumnName is the name of a column in a query, and IsText tells that its values are kept as they are shown.
	ColumnName(column int) string
	IsText(column int) bool
	// Ask calls give with the rows of a query, as the database writes them.
	Ask(ctx context.Context, query string, give func(values [][]byte) error) error
}

// Request says what is added up, and the places of its columns.
type Request struct {
	Table   Table
	Columns []rows.Column
	// Dates are the columns whose days facts are grouped by, and Clock says to which day their moments count.
	Dates []int
	Clock datetext.Clock
	// Patterns are those of dates that are text (UTS 35), as the first rows tell, and OrderIsAsked tells that the call says whether the day or
	// the month comes first.
	Patterns     []string
	OrderIsAsked bool
	// Groups are the columns that facts are grouped by.
	Groups []int
	// Measures are what is added up, each of a column; -1 for one that needs none.
	Measures       []facts.Measure
	MeasureColumns []int
	// ByValue tells that each value of a day may travel, with how often there is one, for measures that need it.
	ByValue bool
	// Where are the conditions, each on a column.
	Where        []*where.Condition
	WhereColumns []int
}

// Refusal is the error for what a database cannot carry out with the same answer.
type Refusal struct{ Why string }

// Error says why.
func (r *Refusal) Error() string { return r.Why }

func refuse(format string, args ...any) error { return &Refusal{fmt.Sprintf(format, args...)} }

// Statement is a request as SQL.
type Statement struct {
	// SQL is the statement.
	SQL string

	request  *Request
	groups   []rows.Column
	tests    []*test
	measures []measure
	// each is how many keys are values of measures that need each of them.
	each int
}

// measure is where the parts of a measure stand among the values; those of other measures of the same column are shared.
type measure struct {
	count, value int
	// each is where its value stands among the keys that are values; -1 for none.
	each   int
	kind   facts.Kind
	column rows.Column
	// scale is how many decimals whole units of the value have; -1 for a value that is written with a point.
	scale int
	// digits is where it stands among the values how many decimals the facts of whole units really have; -1 for none.
	digits int
}

// Build makes the statement. It may ask the table what its columns hold. The error is a Refusal for what cannot be carried out.
func Build(ctx context.Context, r *Request) (*Statement, error) {
	s := &Statement{request: r}
	d := r.Table.Dialect()
	a := &dialect.Aggregation{}
	a.With, a.From = r.Table.Relation()
	if !r.Clock.MovesNothing() {
		return nil, refuse("time zones and days that do not start at midnight are converted locally")
	}
	for i := range r.Dates {
		day, err := r.day(ctx, i)
		if err != nil {
			return nil, err
		}
		a.Keys = append(a.Keys, dialect.Term{Expression: day, Name: fmt.Sprintf("day_%d", i+1)})
	}
	for i, place := range r.Groups {
		expression, err := r.key(place)
		if err != nil {
			return nil, err
		}
		a.Keys = append(a.Keys, dialect.Term{Expression: expression, Name: fmt.Sprintf("group_%d", i+1)})
		s.groups = append(s.groups, r.Columns[place])
	}
	for i, condition := range r.Where {
		one, expression, err := r.test(d, condition, r.WhereColumns[i])
		if err != nil {
			return nil, err
		}
		a.Keys = append(a.Keys, dialect.Term{Expression: expression, Name: fmt.Sprintf("test_%d", i+1)})
		s.tests = append(s.tests, one)
	}
	a.Values = append(a.Values, dialect.Term{Expression: "count(*)", Name: "facts"})
	before := len(a.Keys)
	for i, place := range r.MeasureColumns {
		add := r.measure
		if r.Measures[i].Kind.NeedsValues() {
			add = r.each
		}
		one, err := add(ctx, a, r.Measures[i], place)
		if err != nil {
			return nil, err
		}
		if one.each >= 0 {
			one.each -= before
		}
		s.measures = append(s.measures, one)
	}
	s.each = len(a.Keys) - before
	s.SQL = d.Aggregate(a)
	return s, nil
}

// key is the expression of a column that facts are grouped by, so that two values are one only if they are shown the same.
func (r *Request) key(place int) (string, error) {
	d, name := r.Table.Dialect(), r.Table.ColumnName(place)
	switch column := r.Columns[place]; column.Type {
	case rows.Text:
		if !r.Table.IsText(place) {
			name = d.AsText(name)
		}
		return d.Bytewise(name), nil
	case rows.Integer, rows.Decimal, rows.Day, rows.Bool, rows.Moment, rows.Clock:
		return name, nil
	default:
		return "", refuse("the values of %s are not compared there as they are shown", column.Name)
	}
}

// day is the expression of the day of a fact.
func (r *Request) day(ctx context.Context, date int) (string, error) {
	place := r.Dates[date]
	name, column := r.Table.ColumnName(place), r.Columns[place]
	switch column.Type {
	case rows.Day:
		return name, nil
	case rows.Moment, rows.Instant:
		return r.Table.Dialect().DayOf(name), nil
	case rows.Text:
		if r.Table.Dialect() == dialect.SQLite && date < len(r.Patterns) && strings.HasPrefix(r.Patterns[date], "yyyy-MM-dd") {
			return r.dayOfText(ctx, name, column.Name)
		}
		return r.dayOfPattern(ctx, date)
	}
	return "", refuse("%s is not a column of dates or times in the database", column.Name)
}

// dayOfText is the expression of the day of a text, if all of them are days or moments by ISO 8601.
func (r *Request) dayOfText(ctx context.Context, name, shown string) (string, error) {
	_, from := r.Table.Relation()
	with, _ := r.Table.Relation()
	isDay := fmt.Sprintf("(typeof(%[1]s) = 'text' AND date(substr(%[1]s, 1, 10)) IS substr(%[1]s, 1, 10) AND (length(%[1]s) = 10 OR substr(%[1]s, 11, 1) IN (' ', 'T') AND length(%[1]s) IN (16, 19) AND datetime(%[1]s) IS NOT NULL))", name)
	wrong := "0"
	query := fmt.Sprintf("%s SELECT count(*) FROM %s WHERE %s <> '' AND NOT %s", with, from, name, isDay)
	err := r.Table.Ask(ctx, query, func(values [][]byte) error {
		wrong = string(values[0])
		return nil
	})
	switch {
	case err != nil:
		return "", err
	case wrong != "0":
		return "", refuse("dates in %s are not all written as 2026-03-01 or 2026-03-01 14:05:00", shown)
	}
	return "substr(" + name + ", 1, 10)", nil
}

// measure adds the expressions of a measure, unless they are there already.
func (r *Request) measure(ctx context.Context, a *dialect.Aggregation, m facts.Measure, place int) (measure, error) {
	one := measure{count: -1, value: -1, each: -1, scale: -1, digits: -1, kind: m.Kind}
	if !m.Kind.CanAggregate() {
		return one, refuse("%s needs the order of the rows", m.Kind)
	}
	if place < 0 {
		return one, nil
	}
	name := r.Table.ColumnName(place)
	one.column = r.Columns[place]
	isNumber := one.column.Type == rows.Integer || one.column.Type == rows.Decimal
	isWide := isWide(one.column) && (m.Kind != facts.Min && m.Kind != facts.Max)
	value := name
	switch {
	case isNumber, isWide:
	case one.column.Type == rows.Float && r.Table.Dialect() == dialect.SQLite:
		var err error
		if value, one.scale, err = r.units(ctx, name, one.column.Name); err != nil {
			return one, err
		}
	case one.column.Type == rows.Float:
		return one, refuse("%s has floating-point numbers, whose sum depends on the order in which a database adds them", one.column.Name)
	default:
		return one, refuse("%s is not a column of numbers in the database", one.column.Name)
	}
	function := "sum"
	switch m.Kind {
	case facts.Min:
		function = "min"
	case facts.Max:
		function = "max"
	}
	expression := function + "(" + value + ")"
	if odd := r.Table.Dialect().Odd(dialect.Column{Column: one.column}, name); odd != "" && m.Kind == facts.Min {
		expression = fmt.Sprintf("CASE WHEN max(CASE WHEN %s THEN 1 ELSE 0 END) = 0 THEN %s END", odd, expression) // NaN is not the least number
	}
	one.count = position(a, "count("+name+")", fmt.Sprintf("values_%d", place+1))
	one.value = position(a, expression, fmt.Sprintf("%s_%d", function, place+1))
	if one.scale > 0 {
		one.digits = position(a, digits(value, one.scale), fmt.Sprintf("digits_%d", place+1))
	}
	return one, nil
}

// each adds the values of a measure that needs each of them to the keys, unless they are there already.
func (r *Request) each(ctx context.Context, a *dialect.Aggregation, m facts.Measure, place int) (one measure, err error) {
	one = measure{count: -1, value: -1, scale: -1, digits: -1, kind: m.Kind, column: r.Columns[place]}
	var value string
	switch column, isDistinct := one.column, m.Kind == facts.Distinct; {
	case !r.ByValue:
		return one, refuse("each different value of a day would travel")
	case isDistinct, column.Type == rows.Integer, column.Type == rows.Decimal, isWide(column):
		value, err = r.key(place)
	case column.Type == rows.Float && r.Table.Dialect() == dialect.SQLite:
		value, one.scale, err = r.units(ctx, r.Table.ColumnName(place), column.Name)
	default:
		err = refuse("%s is not a column of numbers with decimals in the database", column.Name)
	}
	if err != nil {
		return one, err
	}
	name := fmt.Sprintf("each_%d", place+1)
	if one.scale >= 0 {
		name = fmt.Sprintf("units_%d", place+1)
	}
	one.each = slices.IndexFunc(a.Keys, func(key dialect.Term) bool { return key.Name == name })
	if one.each < 0 {
		one.each = len(a.Keys)
		a.Keys = append(a.Keys, dialect.Term{Expression: value, Name: name})
	}
	return one, nil
}

// units is a column of SQLite as whole units of the last of its decimals, of which there are as many as the scale says.
func (r *Request) units(ctx context.Context, name, shown string) (expression string, scale int, err error) {
	if scale, err = r.decimals(ctx, name, shown); err != nil {
		return "", 0, err
	}
	return fmt.Sprintf("CAST(round(%s * %s) AS INTEGER)", name, "1"+strings.Repeat("0", scale)), scale, nil
}

// digits is how many decimals numbers need that are written as whole units of so many: sums have as many as the numbers that they are of. Most
// need all, which is asked for first.
func digits(units string, scale int) string {
	var text strings.Builder
	text.WriteString("max(CASE")
	for needed := scale; needed > 0; needed-- {
		fmt.Fprintf(&text, " WHEN %s %% 1%s <> 0 THEN %d", units, strings.Repeat("0", scale-needed+1), needed)
	}
	text.WriteString(" ELSE 0 END)")
	return text.String()
}

// position returns where an expression stands among the values, and adds it if it does not yet.
func position(a *dialect.Aggregation, expression, name string) int {
	for i, one := range a.Values {
		if one.Expression == expression {
			return i
		}
	}
	a.Values = append(a.Values, dialect.Term{Expression: expression, Name: name})
	return len(a.Values) - 1
}

// mostDecimals is how many decimals floating-point numbers may have to be added as whole units.
const mostDecimals = 6

// decimals finds how many decimals the numbers of a column of SQLite have, so that they can be added exactly as whole units.
func (r *Request) decimals(ctx context.Context, name, shown string) (int, error) {
	with, from := r.Table.Relation()
	var tests []string
	for scale := range mostDecimals + 1 {
		tests = append(tests, fmt.Sprintf("max(round(%[1]s, %[2]d) IS NOT %[1]s)", name, scale))
	}
	const most = "1e9" // with six decimals, units stay below 2^53
	scale := -1
	err := r.Table.Ask(ctx, fmt.Sprintf("%s SELECT max(abs(%s)) > %s, %s FROM %s WHERE %[2]s IS NOT NULL", with, name, most, strings.Join(tests, ", "), from), func(values [][]byte) error {
		if string(values[0]) == "1" {
			return nil
		}
		for i, value := range values[1:] {
			if string(value) != "1" {
				scale = i
				return nil
			}
		}
		return nil
	})
	if err == nil && scale < 0 {
		err = refuse("%s has floating-point numbers that are not amounts of at most %d decimals", shown, mostDecimals)
	}
	return scale, err
}
