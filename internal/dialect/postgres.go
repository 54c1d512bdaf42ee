package dialect

import (
	"fmt"

	"roundyear/rows"
)

// mostDigits is how many digits a number has that surely fits 64 bits.
const mostDigits = 18

// Postgres is the SQL of PostgreSQL.
var Postgres = &Dialect{
	Name: "postgres", Title: "PostgreSQL",
	lexing: lexing{dollars: true, nested: true},
	quote:  standardName, text: postgresText, hasNoNUL: true, truth: [2]string{"false", "true"}, dated: "DATE ", timed: "TIMESTAMP ", clocked: "TIME ",
	today: "CURRENT_DATE", daysBetween: func(from, to string) string { return to + " - " + from },
	indexesDays: true,
	dayOf:       func(expression string) string { return "CAST(" + expression + " AS date)" },
	typeOf: func(c Column) string {
		switch c.Type {
		case rows.Day:
			return "date"
		case rows.Moment:
			return "timestamp"
		case rows.Instant:
			return "timestamptz"
		case rows.Integer:
			if c.Small {
				return "integer"
			}
			return "bigint"
		case rows.Decimal:
			if c.Wide {
				return "numeric"
			}
			return fmt.Sprintf("numeric(%d,%d)", mostDigits, c.Scale)
		case rows.Bool:
			return "boolean"
		case rows.Float:
			return "double precision"
		case rows.Clock:
			return "time"
		}
		return "text"
	},
	comments: standardComments,
	matches: func(expression, template string) string {
		return expression + " ~ '^" + digitsOf(template, "[0-9]", true) + "$'"
	},
	concat: standardConcat, wholeNumber: "integer",
	listed:   "VALUES",
	bytewise: func(expression string) string { return expression + ` COLLATE "C"` },
	// Of all functions, this one gives the text that is shown, with the spaces of a character(n).
	asText: func(expression string) string { return "concat(" + expression + ")" },
	asDate: func(expression string) string { return "CAST(" + expression + " AS date)" },
	asTime: func(expression string) string { return "CAST(" + expression + " AS time)" },
	keyOf:  func(expression string) string { return "CAST(to_char(" + expression + ", 'YYYYMMDD') AS bigint)" },
	fails:  func(expression string) string { return "CAST(" + expression + " || ' unread' AS date)" },
	odd: func(c Column, expression string) string {
		switch {
		case c.Type == rows.Text && c.Plain:
			return "CAST(" + expression + " AS text) IN ('NaN', 'Infinity', '-Infinity')"
		case c.Type == rows.Decimal:
			return expression + " = 'NaN'"
		case c.Type.IsDate():
			return "NOT isfinite(" + expression + ")"
		}
		return ""
	},
	viewComment: standardViewComment,
	before:      []string{"SET standard_conforming_strings = on", "BEGIN"}, after: []string{"COMMIT"},
	drop: dropIfExists,
}

// standardComments describes a table and its columns by statements that most databases have.
func standardComments(d *Dialect, t *Table) (statements []string) {
	if t.Comment != "" {
		statements = append(statements, "COMMENT ON TABLE "+d.quote(t.Name)+" IS "+d.text(oneLine(t.Comment)))
	}
	for _, c := range t.Columns {
		if c.Comment != "" {
			statements = append(statements, "COMMENT ON COLUMN "+d.quote(t.Name)+"."+d.quote(c.Name)+" IS "+d.text(oneLine(c.Comment)))
		}
	}
	return statements
}

func standardViewComment(d *Dialect, v *View) string {
	return "COMMENT ON VIEW " + d.quote(v.Name) + " IS " + d.text(oneLine(v.Comment))
}
