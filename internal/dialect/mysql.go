package dialect

import (
	"fmt"
	"strings"

	"roundyear/rows"
)

// MySQL is the SQL of MariaDB and MySQL.
var MySQL = &Dialect{
	Name: "mysql", Title: "MariaDB and MySQL",
	lexing: lexing{backslash: true, hash: true, spaced: true},
	quote:  func(name string) string { return doubled("`", name) }, text: mysqlText,
	truth: [2]string{"FALSE", "TRUE"},
	today: "CURRENT_DATE", daysBetween: func(from, to string) string { return "datediff(" + to + ", " + from + ")" },
	dayOf: func(expression string) string { return "CAST(" + expression + " AS date)" },
	typeOf: func(c Column) string {
		switch c.Type {
		case rows.Day:
			return "date"
		case rows.Moment, rows.Instant:
			return "datetime(6)"
		case rows.Integer:
			if c.Small {
				return "int"
			}
			return "bigint"
		case rows.Decimal:
			if c.Wide {
				return fmt.Sprintf("decimal(38,%d)", c.Scale)
			}
			return fmt.Sprintf("decimal(%d,%d)", mostDigits, c.Scale)
		case rows.Bool:
			return "boolean"
		case rows.Float:
			return "double"
		case rows.Clock:
			return "time(6)"
		}
		if c.Key {
			return "varchar(190)" // a text of any length cannot have an index
		}
		return "text"
	},
	columnComment: func(text string) string { return " COMMENT " + mysqlText(cut(oneLine(text), 1024)) },
	options: func(comment string) string {
		options := " CHARACTER SET utf8mb4"
		if comment != "" {
			options += " COMMENT " + mysqlText(cut(oneLine(comment), 2048))
		}
		return options
	},
	before: []string{"SET NAMES utf8mb4"},
	renames: func(pairs [][2]string) string {
		var all []string
		for _, pair := range pairs {
			all = append(all, doubled("`", pair[0])+" TO "+doubled("`", pair[1]))
		}
		return "RENAME TABLE " + strings.Join(all, ", ")
	},
	matches: func(expression, template string) string {
		return fmt.Sprintf("(char_length(%[1]s) = %[2]d AND %[1]s REGEXP '^%[3]s$')", expression, len(template), digitsOf(template, "[0-9]", true))
	},
	concat:      func(parts []string) string { return "concat(" + strings.Join(parts, ", ") + ")" },
	wholeNumber: "signed",
	bytewise:    func(expression string) string { return "CAST(CONVERT(" + expression + " USING utf8mb4) AS BINARY)" },
	asText:      func(expression string) string { return "CAST(" + expression + " AS CHAR CHARACTER SET utf8mb4)" },
	asDate:      func(expression string) string { return "CAST(" + expression + " AS date)" },
	asTime:      func(expression string) string { return "CAST(" + expression + " AS time(6))" },
	keyOf:       func(expression string) string { return "CAST(date_format(" + expression + ", '%Y%m%d') AS signed)" },
	fails:       func(expression string) string { return "CAST(concat(" + expression + ", ' unread') AS date)" },
	odd: func(c Column, expression string) string {
		if c.Type.IsDate() {
			return fmt.Sprintf("month(%[1]s) = 0 OR dayofmonth(%[1]s) = 0", expression)
		}
		return ""
	},
	drop: dropIfExists, replaceView: true,
}

// mysqlText writes a text as a literal of MariaDB and MySQL.
func mysqlText(text string) string { return "'" + mysqlEscapes.Replace(text) + "'" }

var mysqlEscapes = strings.NewReplacer(`\`, `\\`, "'", "''", "\x00", `\0`, "\n", `\n`, "\r", `\r`, "\x1a", `\Z`)

// cut shortens a text to so many characters.
func cut(text string, most int) string {
	if runes := []rune(text); len(runes) > most {
		return string(runes[:most-1]) + "…"
	}
	return text
}
