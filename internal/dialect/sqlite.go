package dialect

import (
	"fmt"
	"strings"

	"roundyear/rows"
)

// SQLite is the SQL of SQLite. It has no types for dates and times: they are text by ISO 8601, which sorts and compares as they do. What
// tables and columns mean stands in the text of their definition, which the database keeps.
var SQLite = &Dialect{
	Name: "sqlite", Title: "SQLite",
	lexing: lexing{brackets: true},
	quote:  standardName, text: sqliteText, truth: [2]string{"0", "1"},
	today: "date('now', 'localtime')", daysBetween: func(from, to string) string {
		return "CAST(julianday(" + to + ") - julianday(" + from + ") AS INTEGER)"
	},
	indexesDays: true,
	dayOf:       func(expression string) string { return "date(" + expression + ")" },
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
	// The client goes on after an error. Only a violated key keeps it from committing then: one of a row that says what is missing.
	before: []string{
		"PRAGMA foreign_keys = ON", "BEGIN", "CREATE TEMP TABLE IF NOT EXISTS roundyear_fine (id INTEGER PRIMARY KEY)",
		"CREATE TEMP TABLE IF NOT EXISTS roundyear_missing (what TEXT, id INTEGER REFERENCES roundyear_fine (id) DEFERRABLE INITIALLY DEFERRED)",
		"CREATE TEMP TRIGGER IF NOT EXISTS roundyear_says AFTER INSERT ON roundyear_missing BEGIN SELECT RAISE(FAIL, 'part of the model is there already, or could not be made: nothing will be committed'); END",
	}, after: []string{"COMMIT"},
	refuseOthers: func(names []string) []string {
		return []string{"INSERT INTO temp.roundyear_missing SELECT name || ' is there already', 1 FROM main.sqlite_schema WHERE lower(name) IN (" + listOf(names, func(name string) string { return sqliteText(strings.ToLower(name)) }) + ")"}
	},
	verify: func(names []string, counts []tableCount) []string {
		statements := []string{fmt.Sprintf("INSERT INTO temp.roundyear_missing SELECT 'some tables or views', 1 WHERE (SELECT count(*) FROM main.sqlite_schema WHERE name IN (%s)) <> %d", listOf(names, sqliteText), len(names))}
		for _, one := range counts {
			statements = append(statements, fmt.Sprintf("INSERT INTO temp.roundyear_missing SELECT 'rows of ' || %s, 1 WHERE (SELECT count(*) FROM main.%s) <> %d", sqliteText(one.table), standardName(one.table), one.rows))
		}
		return statements
	},
	matches: func(expression, template string) string {
		return expression + " GLOB '" + digitsOf(template, "[0-9]", false) + "'"
	},
	concat: standardConcat, wholeNumber: "INTEGER",
	listed:   "VALUES",
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
