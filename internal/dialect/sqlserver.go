package dialect

import (
	"fmt"
	"strings"

	"roundyear/rows"
)

// SQLServer is the SQL of SQL Server.
var SQLServer = &Dialect{
	Name: "sqlserver", Title: "SQL Server",
	quote: func(name string) string { return "[" + strings.ReplaceAll(name, "]", "]]") + "]" },
	text:  sqlServerText,
	truth: [2]string{"0", "1"},
	today: "CAST(GETDATE() AS date)", daysBetween: func(from, to string) string { return "datediff(day, " + from + ", " + to + ")" },
	dayOf: func(expression string) string { return "CAST(" + expression + " AS date)" },
	typeOf: func(c Column) string {
		switch c.Type {
		case rows.Day:
			return "date"
		case rows.Moment:
			return "datetime2(6)"
		case rows.Instant:
			return "datetimeoffset(6)"
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
			return "bit"
		case rows.Float:
			return "float"
		case rows.Clock:
			return fmt.Sprintf("time(%d)", min(c.Scale, 7))
		}
		return "nvarchar(" + lengthOf(c, 4000, "max") + ")"
	},
	comments: func(d *Dialect, t *Table) (statements []string) {
		if t.Comment != "" {
			statements = append(statements, d.described(t.Comment, "TABLE", t.Name, ""))
		}
		for _, c := range t.Columns {
			if c.Comment != "" {
				statements = append(statements, d.described(c.Comment, "TABLE", t.Name, c.Name))
			}
		}
		return statements
	},
	viewComment: func(d *Dialect, v *View) string { return d.described(v.Comment, "VIEW", v.Name, "") },
	before:      []string{"SET XACT_ABORT ON", "BEGIN TRANSACTION"}, after: []string{"COMMIT TRANSACTION", "GO\nSET NOEXEC OFF"},
	// A fault ends a batch and its transaction, but the client goes on with the next batch, which then must do nothing.
	alone: "GO\nIF @@TRANCOUNT = 0 SET NOEXEC ON;\nGO", oneBlank: true,
	drop: dropIfExists,
}

// described gives a table, a view or a column a description of the kind that the tools of the server show.
func (d *Dialect) described(text, kind, name, column string) string {
	// A procedure takes literals and no expressions.
	literal := func(text string) string { return "N" + standardText(strings.ReplaceAll(oneLine(text), "$(", "$ (")) }
	statement := fmt.Sprintf("EXEC sys.sp_addextendedproperty N'MS_Description', %s, N'SCHEMA', N'dbo', N'%s', %s", literal(text), kind, literal(name))
	if column != "" {
		statement += ", N'COLUMN', " + literal(column)
	}
	return statement
}

// lengthOf returns how long texts may be, a power of two, up to what is possible; beyond stands for more.
func lengthOf(c Column, most int, beyond string) string {
	if c.Length == 0 || c.Length > most {
		if c.Key {
			return "190"
		}
		return beyond
	}
	length := 16
	for length < c.Length {
		length *= 2
	}
	return fmt.Sprint(min(length, most))
}
