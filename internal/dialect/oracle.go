package dialect

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"roundyear/rows"
)

// Oracle is the SQL of Oracle, from version 12.2 on. It takes an empty text for no value.
var Oracle = &Dialect{
	Name: "oracle", Title: "Oracle",
	quote: oracleName, text: oracleText, truth: [2]string{"0", "1"}, dated: "DATE ", timed: "TIMESTAMP ",
	today: "TRUNC(SYSDATE)", daysBetween: func(from, to string) string { return to + " - " + from },
	dayOf: func(expression string) string { return "TRUNC(" + expression + ")" },
	typeOf: func(c Column) string {
		switch c.Type {
		case rows.Day:
			return "DATE"
		case rows.Moment:
			return "TIMESTAMP(6)"
		case rows.Instant:
			return "TIMESTAMP(6) WITH TIME ZONE"
		case rows.Integer:
			if c.Small {
				return "NUMBER(10)"
			}
			return "NUMBER(19)"
		case rows.Decimal:
			if c.Wide {
				return "NUMBER"
			}
			return fmt.Sprintf("NUMBER(%d,%d)", mostDigits, c.Scale)
		case rows.Bool:
			return "NUMBER(1)"
		case rows.Float:
			return "BINARY_DOUBLE"
		case rows.Clock:
			return "VARCHAR2(15)" // there is no type for a time of day
		}
		if length := lengthOf(c, 4000, ""); length != "" {
			return "VARCHAR2(" + length + " CHAR)"
		}
		return "CLOB"
	},
	comments: standardComments,
	// A view is described as a table is.
	viewComment: func(d *Dialect, v *View) string {
		return "COMMENT ON TABLE " + d.quote(v.Name) + " IS " + standardText(oneLine(v.Comment))
	},
	before: []string{"WHENEVER SQLERROR EXIT FAILURE ROLLBACK", "SET DEFINE OFF"}, keeps: true, after: []string{"COMMIT"},
	union: " FROM dual",
	drop: func(kind, name string) string {
		statement := "DROP " + kind + " " + name
		if kind == "TABLE" {
			statement += " CASCADE CONSTRAINTS"
		}
		return "BEGIN\n  EXECUTE IMMEDIATE " + standardText(statement) + ";\nEXCEPTION\n  WHEN OTHERS THEN\n    IF SQLCODE != -942 THEN RAISE; END IF;\nEND;\n/"
	},
}

// plainName is a name that needs no quotes if no word of the language is the same.
var plainName = regexp.MustCompile(`^[a-zA-Z][a-zA-Z0-9_]*$`)

// oracleWords are the words that no name may be without quotes (V$RESERVED_WORDS, those that are reserved).
var oracleWords = strings.Fields(`ACCESS ADD ALL ALTER AND ANY AS ASC AUDIT BETWEEN BY CHAR CHECK CLUSTER COLUMN COLUMN_VALUE COMMENT COMPRESS CONNECT CREATE CURRENT
DATE DECIMAL DEFAULT DELETE DESC DISTINCT DROP ELSE EXCLUSIVE EXISTS FILE FLOAT FOR FROM GRANT GROUP HAVING IDENTIFIED IMMEDIATE IN INCREMENT INDEX INITIAL INSERT
INTEGER INTERSECT INTO IS LEVEL LIKE LOCK LONG MAXEXTENTS MINUS MLSLABEL MODE MODIFY NESTED_TABLE_ID NOAUDIT NOCOMPRESS NOT NOWAIT NULL NUMBER OF OFFLINE ON
ONLINE OPTION OR ORDER PCTFREE PRIOR PUBLIC RAW RENAME RESOURCE REVOKE ROW ROWID ROWNUM ROWS SELECT SESSION SET SHARE SIZE SMALLINT START SUCCESSFUL SYNONYM
SYSDATE TABLE THEN TO TRIGGER UID UNION UNIQUE UPDATE USER VALIDATE VALUES VARCHAR VARCHAR2 VIEW WHENEVER WHERE WITH`)

// oracleName writes a name without quotes where it can be, so that people need not write them either: names without quotes stand in upper
// case. One that is a reserved word stands in upper case with quotes.
func oracleName(name string) string {
	switch {
	case !plainName.MatchString(name):
		return standardName(name)
	case slices.Contains(oracleWords, strings.ToUpper(name)):
		return standardName(strings.ToUpper(name))
	}
	return name
}
