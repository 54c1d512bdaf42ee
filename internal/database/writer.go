package database

import (
	"context"
	"errors"
	"fmt"
	"os"
	"strings"

	"roundyear/fault"
	"roundyear/internal/dialect"
	"roundyear/rows"
)

// Writer writes rows into a table of a database, which is made anew: those who read it see the old table until Commit, and the new one from
// then on. It is a rows.Sink.
type Writer struct {
	into target
}

// target is the table that is written, by the kind of server.
type target interface {
	write(block rows.Block) error
	// end ends the rows.
	end() error
	commit() error
	abort()
	dialect() *dialect.Dialect
	// into is what the table is called until it is in place, as SQL has it.
	into() string
	// insert carries out a statement that fills the table, and returns how many rows it has now; the error is ErrNoDay if a value is no day.
	insert(statement string) (count int64, err error)
	do(statement string) error
	each(query string, give func(values [][]byte) error) error
}

// ours is the comment of tables that were written by the program, and may be replaced by it.
const ours = "Written by Round Year"

// NewWriter begins a table of an address, or of a file of SQLite. One that is there already and was written by somebody else is only
// replaced with force.
func NewWriter(ctx context.Context, text string, columns []rows.Column, force bool) (*Writer, error) {
	into, err := intoTable(ctx, text, columns, force)
	if err != nil {
		return nil, err
	}
	return &Writer{into}, nil
}

func intoTable(ctx context.Context, text string, columns []rows.Column, force bool) (target, error) {
	if path, name, ok := tableOfFile(text); ok {
		if isQuery.MatchString(name) {
			return nil, &fault.Fault{File: text, What: "is a query, and cannot be written to", Remedy: fmt.Sprintf("Name a table: %s#table", path)}
		}
		return intoSQLite(ctx, path, name, columns, force)
	}
	address, err := Parse(text)
	if err != nil {
		return nil, err
	}
	switch {
	case address.Table == "":
		return nil, &fault.Fault{File: address.String(), What: "names no table", Remedy: fmt.Sprintf("Write it as %s#table", address.server())}
	case address.IsQuery():
		return nil, &fault.Fault{File: address.String(), What: "is a query, and cannot be written to", Remedy: fmt.Sprintf("Name a table: %s#table", address.server())}
	}
	if address.Scheme == "mysql" {
		return intoMySQL(ctx, address, columns, force)
	}
	return intoPostgres(ctx, address, columns, force)
}

// IsTable tells whether an output is a table of a database: of a server, or of a file of SQLite such as shop.db#sales.
func IsTable(out string) bool {
	_, _, isOfFile := tableOfFile(out)
	return isOfFile || IsAddress(out)
}

// tableOfFile splits the name of a table of a file of SQLite.
func tableOfFile(text string) (path, table string, ok bool) {
	path, table, _ = strings.Cut(text, "#")
	return path, table, table != "" && IsFile(path)
}

// IsSame tells whether two tables are of the same database.
func IsSame(one, other string) bool {
	if file := FileOf(one); file != "" {
		first, err := os.Stat(file)
		if err != nil {
			return false
		}
		second, err := os.Stat(FileOf(other))
		return err == nil && os.SameFile(first, second)
	}
	first, err := Parse(one)
	if err != nil {
		return false
	}
	second, err := Parse(other)
	return err == nil && first.server() == second.server()
}

// Quoted returns the name of the table of an output, as SQL has it.
func Quoted(out string) string {
	if _, name, ok := tableOfFile(out); ok {
		return dialect.SQLite.Quote(name)
	}
	address, err := Parse(out)
	switch {
	case err != nil:
		return ""
	case address.Scheme == "mysql":
		return dialect.MySQL.Quote(address.Table)
	}
	schema, name, isQualified := strings.Cut(address.Table, ".")
	if !isQualified {
		return dialect.Postgres.Quote(schema)
	}
	return dialect.Postgres.Quote(schema) + "." + dialect.Postgres.Quote(name)
}

// FileOf returns the file of SQLite that has a table; nothing for one of a server.
func FileOf(table string) string {
	if path, _, ok := tableOfFile(table); ok {
		return path
	}
	return ""
}

// mayReplace returns a fault for a table with a comment that must not be replaced without being asked.
func mayReplace(shown, comment string, force bool) error {
	switch {
	case force || strings.HasPrefix(comment, ours):
		return nil
	case strings.Contains(comment, ours):
		return &fault.Fault{File: shown, What: "belongs to a published model", Remedy: "Choose another name, or replace it with --force"}
	}
	return &fault.Fault{File: shown, What: "is a table that Round Year has not written", Remedy: "Choose another name, or replace it with --force"}
}

// beingWritten is the fault of a table that another run is writing.
func beingWritten(shown string) error {
	return &fault.Fault{File: shown, What: "is being written by another run", Remedy: waitLonger, Kind: fault.Unusable}
}

// ErrNoDay is the error for rows with a value that the database cannot make a day of.
var ErrNoDay = errors.New("a value is no day in the database")

// ErrNoTemporary is the error for a user who may not create temporary tables.
var ErrNoTemporary = errors.New("the user may not create temporary tables")

// denied is the fault of a right that is missing.
type denied struct{ error }

func (d denied) Unwrap() error { return d.error }

// Relate makes a table with rows that only the writer's connection has, so that a query may join it. The error is ErrNoTemporary if the
// database does not allow that.
func (w *Writer) Relate(table *dialect.Table, block rows.Block) error {
	d := w.into.dialect()
	err := w.into.do(d.CreateTemporary(table))
	switch {
	case errors.As(err, new(denied)):
		return ErrNoTemporary
	case err != nil:
		return err
	}
	inserts := d.NewInserts(table, table.Name, func(statement []byte) error { return w.into.do(string(statement)) })
	if err := inserts.Write(block); err != nil {
		return err
	}
	return inserts.Flush()
}

// Insert fills the table with what a query of the same database gives, instead of rows that are written, and returns how many rows these are.
// The error is ErrNoDay if a value is no day.
func (w *Writer) Insert(query string) (count int64, err error) {
	return w.into.insert("INSERT INTO " + w.into.into() + "\n" + query)
}

// Ask calls give with the rows of a query, in which the new table stands as it is called now.
func (w *Writer) Ask(query func(table string) string, give func(values [][]byte) error) error {
	return w.into.each(query(w.into.into()), give)
}

// Dialect is the SQL of the database.
func (w *Writer) Dialect() *dialect.Dialect { return w.into.dialect() }

// Write takes rows.
func (w *Writer) Write(block rows.Block) error { return w.into.write(block) }

// Pending returns 0: rows are sent as they come.
func (w *Writer) Pending() int { return 0 }

// Flush does nothing.
func (w *Writer) Flush() error { return nil }

// Close ends the rows. The table is not in place yet.
func (w *Writer) Close() error { return w.into.end() }

// Commit puts the table in place.
func (w *Writer) Commit() error { return w.into.commit() }

// Abort leaves the database as it was.
func (w *Writer) Abort() { w.into.abort() }

var _ rows.Sink = (*Writer)(nil)
