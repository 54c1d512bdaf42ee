// Package dialect writes SQL: the tables, views and rows of a model, as each database has them. Standard SQL is the base, and each dialect
// is one file that says where it deviates. It connects to nothing.
package dialect

import (
	"slices"
	"strings"

	"roundyear/rows"
)

// Dialect is the SQL of a database.
type Dialect struct {
	// Name is how it is asked for, and Title what people call the database.
	Name, Title string
	// quote writes a name so that it may be any word, and text a text as a literal.
	quote, text func(string) string
	// typeOf returns the type of a column.
	typeOf func(Column) string
	// truth are the literals of no and yes.
	truth [2]string
	// dated is the word before the text of a date literal, and timed that before a moment; clocked is the one before a time of day.
	dated, timed, clocked string
	// dayOf is the expression of the day of a moment.
	dayOf func(expression string) string
	// indexesDays tells that the day of a moment can be in an index.
	indexesDays bool
	// options stands behind the definition of a table.
	options func(comment string) string
	// columnComment is what stands behind a column to describe it; nil where that is a statement of its own.
	columnComment func(text string) string
	// comments returns the statements that describe a table and its columns; nil where they stand in its definition.
	comments func(d *Dialect, t *Table) []string
	// viewComment returns the statement that describes a view; nil where there is none.
	viewComment func(d *Dialect, v *View) string
	// before and after begin and end a script, and alone stands around a statement that must be alone.
	before, after []string
	alone         string
	// keeps tells that tables stay when a script stops after them.
	keeps bool
	// refuseOthers returns the statements of a script that make it fail if one of some names is taken, and verify those that keep it from
	// being committed unless all names and rows are there; nil where the client or the database does that by itself.
	refuseOthers func(names []string) []string
	verify       func(names []string, counts []tableCount) []string
	// renames gives tables other names, all at once, where definitions cannot be undone; nil elsewhere.
	renames func(pairs [][2]string) string
	// lexing is how it reads quotes and comments.
	lexing lexing
	// hasNoNUL tells that texts cannot have a NUL character.
	hasNoNUL bool
	// listed is the word before rows of values that are compared with others.
	listed string
	// union tells that several rows are a union of queries from a table of one row.
	union string
	// drop is what removes a table or view if it is there.
	drop func(kind, name string) string
	// plain is what stands before a column so that its value comes as it is kept.
	plain string
	// bytewise is an expression whose values are the same only if their bytes are, and text one of what a value is as text.
	bytewise, asText func(expression string) string
	// matches is the condition that a text has the form of a template, and concat puts texts together; wholeNumber is the type to cast to.
	matches     func(expression, template string) string
	concat      func(parts []string) string
	wholeNumber string
	// asDate and asTime turn a text by ISO 8601, or a moment, into a day or a time of day, and keyOf a day into a number such as 20260301.
	asDate, asTime, keyOf func(expression string) string
	// fails is an expression that ends the statement for any text, and odd the condition that a value of a column is one that is only
	// read locally; empty if all are the same everywhere.
	fails func(expression string) string
	odd   func(c Column, expression string) string
	// today is the expression of the day that it is, and daysBetween that of the days from one to another.
	today       string
	daysBetween func(from, to string) string
	// replaceView tells that a view can take the place of another one at once.
	replaceView bool
	// oneBlank tells that a unique column may have one blank only, unless it is an index of those that are not.
	oneBlank bool
	// placed tells that all foreign keys stand in the definition of their table.
	placed bool
}

// all are the dialects, in the order in which they are named.
func all() []*Dialect { return []*Dialect{Postgres, MySQL, SQLite, SQLServer, Oracle} }

// Names returns the names of the dialects.
func Names() []string {
	var names []string
	for _, one := range all() {
		names = append(names, one.Name)
	}
	return names
}

// Named returns the dialect of a name; nil if there is none.
func Named(name string) *Dialect {
	if i := slices.IndexFunc(all(), func(d *Dialect) bool { return d.Name == strings.ToLower(name) }); i >= 0 {
		return all()[i]
	}
	return nil
}

// Column is a column of a table that is made.
type Column struct {
	rows.Column
	// Comment says what it holds.
	Comment string
	// Required tells that no value is missing.
	Required bool
	// Small tells that all whole numbers fit into 32 bits.
	Small bool
	// Length is how many characters a text has at most; 0 for any number.
	Length int
}

// Table is a table that is made.
type Table struct {
	Name, Comment string
	Columns       []Column
	// Key are the places of the columns of the primary key, Unique those of columns of which no two rows have the same value, and Indexes
	// those of columns that have an index.
	Key     []int
	Unique  []int
	Indexes []int
	Foreign []Foreign
}

// Foreign says that a column holds keys of another table.
type Foreign struct{ Column, Table, To string }

// View is a query under a name: columns of a table, and of others that are joined to it so that none of its rows is lost.
type View struct {
	Name, Comment string
	// From is the table, with a short name for the query.
	From, As string
	Columns  []ViewColumn
	Joins    []Join
	// Moving are columns that depend on the day that it is, if the view has some.
	Moving []MovingColumn
}

// MovingColumn is a column of a view that depends on the day that it is: what a number or a day of the table is beside that of today's row.
type MovingColumn struct {
	Name   string
	Column string
	Moves  Moves
}

// Moves says how a column depends on the day that it is.
type Moves uint8

// The days from today, whether a day is today, later or earlier; and how much a number is more than in today's row, or whether it is the same.
const (
	DaysFromToday Moves = iota
	IsToday
	IsAfterToday
	IsBeforeToday
	FromTodaysNumber
	IsTodaysNumber
)

// ViewColumn is a column of a table, by the short name of that, and its name in the view.
type ViewColumn struct{ Of, Name, As string }

// Join is a table that is joined to the first one of a view.
type Join struct {
	Table, As string
	// Column is the one of the table that equals From of the first one; IsMoment tells that From also has a time of day.
	Column, From string
	IsMoment     bool
	// IsToday tells that it is the row of the day that it is, whatever the first table has.
	IsToday bool
}

// Quote writes a name so that any word can be one.
func (d *Dialect) Quote(name string) string { return d.quote(name) }

// Text writes a text as a literal.
func (d *Dialect) Text(text string) string { return d.text(text) }

// TypeOf returns the type of a column.
func (d *Dialect) TypeOf(c Column) string { return d.typeOf(c) }

// Stored is the value of a column as the database keeps it, where a driver would make something of its own of it.
func (d *Dialect) Stored(column string) string { return d.plain + d.quote(column) }

// PlacesForeign tells that foreign keys are only possible in the definition of their table.
func (d *Dialect) PlacesForeign() bool { return d.placed }

// appendValue appends a value of a column as a literal.
func (d *Dialect) appendValue(to []byte, c *Column, v *rows.Vector, row int) []byte {
	if !v.IsValid(row) {
		return append(to, "NULL"...)
	}
	switch v.Type {
	case rows.Bool:
		return append(to, d.truth[v.Int[row]&1]...)
	case rows.Integer, rows.Decimal, rows.Float:
		return v.AppendText(to, row)
	case rows.Day:
		return d.appendDated(to, d.dated, v.AppendText(nil, row))
	case rows.Moment, rows.Instant:
		text := strings.TrimSuffix(strings.Replace(string(v.AppendText(nil, row)), "T", " ", 1), "Z")
		return d.appendDated(to, d.timed, []byte(text))
	case rows.Clock:
		return d.appendDated(to, d.clocked, v.AppendText(nil, row))
	}
	if c.Type == rows.Decimal { // one that need not fit 64 bits
		return append(to, v.Text(row)...)
	}
	return append(to, d.text(string(v.Text(row)))...)
}

// appendDated appends a date or time, whose text has no character that a literal would mistake.
func (d *Dialect) appendDated(to []byte, word string, text []byte) []byte {
	to = append(to, word...)
	to = append(to, '\'')
	to = append(to, text...)
	return append(to, '\'')
}

// doubled writes a text between marks, which are doubled within it.
func doubled(mark, text string) string {
	return mark + strings.ReplaceAll(text, mark, mark+mark) + mark
}

// standardName writes a name as standard SQL has it.
func standardName(name string) string { return doubled(`"`, name) }

// standardText writes a text as standard SQL has it.
func standardText(text string) string { return doubled("'", text) }

// dropIfExists removes a table or view if it is there.
func dropIfExists(kind, name string) string { return "DROP " + kind + " IF EXISTS " + name }
