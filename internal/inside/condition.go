package inside

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"roundyear/facts/where"
	"roundyear/internal/dialect"
	"roundyear/rows"
)

// test is how a condition is told from the keys of a row.
type test struct {
	condition *where.Condition
	column    rows.Column
	// isFlag tells that the key says which of the condition's values holds, from 1, or 0 for none; of a condition on blanks it is 1 for any value.
	isFlag bool
	// sql is the condition where the key is a flag, and text the expression of the text that is compared otherwise.
	sql, text string
	// met and left are the values that meet the condition, and those that do not, up to mostValues and one more.
	met, left map[string]bool
}

// mostValues is how many values of a column a condition may name.
const mostValues = 1000

// test makes the key that a condition is told from: a flag where numbers or days are compared with numbers or days, else the value itself.
func (r *Request) test(d *dialect.Dialect, c *where.Condition, place int) (*test, string, error) {
	one := &test{condition: c, column: r.Columns[place], met: map[string]bool{}, left: map[string]bool{}}
	name := r.Table.ColumnName(place)
	// A floating-point number of less than 64 bits is another one than it is shown as.
	isNumber := one.column.Type == rows.Integer || one.column.Type == rows.Decimal || isWide(one.column)
	odd := d.Odd(dialect.Column{Column: one.column}, name)
	isAboutBlanks := c.Operator == where.IsBlank || c.Operator == where.IsNotBlank
	if isAboutBlanks && (isNumber || one.column.Type == rows.Float || one.column.Type == rows.Bool) {
		one.isFlag, one.sql = true, name+" IS NULL"
		if c.Operator == where.IsNotBlank {
			one.sql = name + " IS NOT NULL"
		}
		return one, flagOf(name, odd, []string{name + " IS NOT NULL"}), nil
	}
	var literals []string
	value := name
	if numbers, ok := c.Numbers(); ok && isNumber {
		for _, number := range numbers {
			literals = append(literals, number.String())
		}
	}
	if days, ok := c.Days(); ok && one.column.Type.IsDate() {
		if one.column.Type != rows.Day {
			value = d.DayOf(name)
		}
		for _, day := range days {
			literals = append(literals, d.Day(day))
		}
	}
	if len(literals) > 0 {
		one.isFlag, one.sql = true, d.Compared(name, value, string(c.Operator), literals)
		operator := string(c.Operator)
		if c.Operator == where.NotEqual {
			operator = "=" // so that the flag tells which of them it is
		}
		var tests []string
		for _, literal := range literals {
			tests = append(tests, value+" "+operator+" "+literal)
		}
		return one, flagOf(name, odd, tests), nil
	}
	expression, err := r.key(place)
	one.text = r.textOf(place)
	return one, expression, err
}

// isWide tells that a column has numbers that are read as text, since they may not fit into 64 bits.
func isWide(c rows.Column) bool { return c.Type == rows.Text && c.Plain }

// isOddFlag is the flag of a value that is only read locally.
const isOddFlag = -1

// flagOf is the number of the test that holds for a column, from 1, and 0 for none; isOddFlag if it is odd.
func flagOf(name, odd string, tests []string) string {
	var b strings.Builder
	fmt.Fprintf(&b, "CASE WHEN %s IS NULL THEN NULL", name)
	if odd != "" {
		fmt.Fprintf(&b, " WHEN %s THEN %d", odd, isOddFlag)
	}
	for i, test := range tests {
		fmt.Fprintf(&b, " WHEN %s THEN %d", test, i+1)
	}
	b.WriteString(" ELSE 0 END")
	return b.String()
}

// textOf is the expression of a column as text; empty for one whose text is not what is shown everywhere.
func (r *Request) textOf(place int) string {
	name := r.Table.ColumnName(place)
	switch {
	case r.Columns[place].Type == rows.Bool:
		return "CASE WHEN " + name + " THEN 'true' WHEN NOT " + name + " THEN 'false' END"
	case r.Columns[place].Type != rows.Text:
		return ""
	case r.Table.IsText(place):
		return name
	}
	return r.Table.Dialect().AsText(name)
}

// note notes what a value was found to be.
func (t *test) note(value []byte, isMet bool) {
	among := t.left
	if isMet {
		among = t.met
	}
	if len(among) <= mostValues {
		among[string(value)] = true
	}
}

// Condition is that of the rows that meet all conditions; empty for all rows. It can be told when the statement was carried out, since what
// texts and conditions make of each other is only known here.
func (s *Statement) Condition() (string, error) {
	var all []string
	for _, one := range s.tests {
		condition, err := one.on(s.request.Table.Dialect())
		if err != nil {
			return "", err
		}
		all = append(all, condition)
	}
	return strings.Join(all, "\n    AND "), nil
}

// on is the condition in a dialect.
func (t *test) on(d *dialect.Dialect) (string, error) {
	if t.isFlag {
		return t.sql, nil
	}
	if t.text == "" {
		return "", refuse("%s is compared locally with what is not a number or a day", t.column.Name)
	}
	values, operator := t.met, "IN"
	if len(t.met) > len(t.left) {
		values, operator = t.left, "NOT IN"
	}
	switch {
	case len(values) > mostValues:
		return "", refuse("more than %d values of %s meet a condition, and as many do not", mostValues, t.column.Name)
	case len(values) == 0 && operator == "IN":
		return "1 = 0", nil
	case len(values) == 0:
		return "1 = 1", nil
	}
	var literals []string
	for _, value := range slices.Sorted(maps.Keys(values)) {
		literals = append(literals, d.Bytewise(d.Text(value)))
	}
	return d.Bytewise("coalesce("+t.text+", '')") + " " + operator + " (" + strings.Join(literals, ", ") + ")", nil
}
