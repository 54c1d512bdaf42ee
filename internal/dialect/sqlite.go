package dialect

import "roundyear/rows"

// SQLite is the SQL of SQLite. It has no types for dates and times: they are text by ISO 8601, which sorts and compares as they do. What
// tables and columns mean stands in the text of their definition, which the database keeps.
var SQLite = &Dialect{
	Name: "sqlite", Title: "SQLite",
	quote: standardName, text: standardText, truth: [2]string{"0", "1"},
	today: "date('now', 'localtime')", daysBetween: func(from, to string) string {
		return "CAST(julianday(" + to + ") - julianday(" + from + ") AS INTEGER)"
	},
	dayOf: func(expression string) string { return "date(" + expression + ")" },
	typeOf: func(c Column) string {
		switch c.Type {
		case rows.Integer:
			return "INTEGER"
		case rows.Decimal:
			return "NUMERIC"
		case rows.Float:
			return "REAL"
		case rows.Bool:
			return "BOOLEAN"
		case rows.Day:
			return "DATE"
		case rows.Moment, rows.Instant:
			return "DATETIME"
		case rows.Clock:
			return "TIME"
		}
		return "TEXT"
	},
	before: []string{"BEGIN"}, after: []string{"COMMIT"},
	matches: func(expression, template string) string {
		return expression + " GLOB '" + digitsOf(template, "[0-9]", false) + "'"
	},
	concat: standardConcat, wholeNumber: "INTEGER",
	bytewise: func(expression string) string { return expression + " COLLATE BINARY" },
	asText:   func(expression string) string { return "CAST(" + expression + " AS TEXT)" },
	asDate:   func(expression string) string { return expression },
	asTime:   func(expression string) string { return expression },
	keyOf:    func(expression string) string { return "CAST(strftime('%Y%m%d', " + expression + ") AS INTEGER)" },
	fails:    func(expression string) string { return "json(" + expression + " || ' unread')" },
	odd: func(c Column, expression string) string {
		if c.Type == rows.Text {
			return "typeof(" + expression + ") NOT IN ('text', 'integer', 'null')"
		}
		return ""
	},
	drop:   dropIfExists,
	placed: true, plain: "+",
}
