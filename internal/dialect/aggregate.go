package dialect

import (
	"fmt"
	"strings"

	"roundyear/civil"
)

// Aggregation is a query that adds up rows by some keys.
type Aggregation struct {
	// With stands before the query, and From behind FROM.
	With, From string
	// Keys are the expressions that rows are grouped by, and Values those of what they make; each has a name.
	Keys, Values []Term
}

// Term is an expression with a name.
type Term struct{ Expression, Name string }

// Aggregate returns the query.
func (d *Dialect) Aggregate(a *Aggregation) string {
	var lines, places []string
	for i, one := range append(append([]Term{}, a.Keys...), a.Values...) {
		lines = append(lines, "  "+one.Expression+" AS "+d.quote(one.Name))
		if i < len(a.Keys) {
			places = append(places, fmt.Sprint(i+1))
		}
	}
	query := a.With
	if query != "" {
		query += "\n"
	}
	query += "SELECT\n" + strings.Join(lines, ",\n") + "\nFROM " + a.From
	if len(places) > 0 {
		query += "\nGROUP BY " + strings.Join(places, ", ")
	}
	return query
}

// DayOf is the expression of the day of a moment.
func (d *Dialect) DayOf(expression string) string { return d.dayOf(expression) }

// Bytewise is an expression of which values are the same only if their bytes are.
func (d *Dialect) Bytewise(expression string) string { return d.bytewise(expression) }

// AsText is the text of a value, as it is shown.
func (d *Dialect) AsText(expression string) string { return d.asText(expression) }

// Day writes a day as a literal.
func (d *Dialect) Day(day civil.Day) string {
	return string(d.appendDated(nil, d.dated, []byte(day.String())))
}

// Compared is the condition that the value of a column compares with one of some literals, and for != that it is none of them, or that there
// is none.
func (d *Dialect) Compared(column, value, operator string, literals []string) string {
	joined := " OR "
	if operator == "!=" {
		operator, joined = "<>", " AND "
	}
	var tests []string
	for _, literal := range literals {
		tests = append(tests, value+" "+operator+" "+literal)
	}
	condition := strings.Join(tests, joined)
	if operator == "<>" {
		condition = "(" + condition + ") OR " + column + " IS NULL"
	}
	return "(" + condition + ")"
}

// Matches is the condition that a text has the form of a template: a digit for each digit, and all other characters as they are.
func (d *Dialect) Matches(expression, template string) string {
	return d.matches(expression, template)
}

// Concat puts texts together.
func (d *Dialect) Concat(parts ...string) string { return d.concat(parts) }

// WholeNumber is the type that texts of digits are cast to.
func (d *Dialect) WholeNumber() string { return d.wholeNumber }

// AsDate is the day of a text by ISO 8601, and AsTime the time of day of such a text or of a moment.
func (d *Dialect) AsDate(expression string) string { return d.asDate(expression) }

// AsTime is the time of day of a text by ISO 8601, or of a moment.
func (d *Dialect) AsTime(expression string) string { return d.asTime(expression) }

// KeyOf is the number of a day, such as 20260301.
func (d *Dialect) KeyOf(expression string) string { return d.keyOf(expression) }

// Fails is an expression that ends the statement, whatever text it is made of.
func (d *Dialect) Fails(expression string) string { return d.fails(expression) }

// Odd is the condition that a value of a column is not the same everywhere, such as NaN; empty if there is none.
func (d *Dialect) Odd(c Column, expression string) string { return d.odd(c, expression) }

// digitsOf puts an expression for a digit in the place of each digit of a template, and a point that stands for itself where it could be any character.
func digitsOf(template, digit string, dotIsAny bool) string {
	var b strings.Builder
	for _, c := range []byte(template) {
		switch {
		case c >= '0' && c <= '9':
			b.WriteString(digit)
		case c == '.' && dotIsAny:
			b.WriteString("[.]")
		default:
			b.WriteByte(c)
		}
	}
	return b.String()
}

// standardConcat puts texts together as standard SQL does.
func standardConcat(parts []string) string { return strings.Join(parts, " || ") }
