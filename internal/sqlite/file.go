// Package sqlite reads tables of SQLite databases, and what their queries give, and writes a table as a
// database of its own.
package sqlite

import (
	"bytes"
	"context"
	"database/sql/driver"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"

	"modernc.org/sqlite"
	sqlite3 "modernc.org/sqlite/lib"

	"roundyear/fault"
	"roundyear/internal/dialect"
	"roundyear/internal/input"
	"roundyear/nearest"
	"roundyear/rows"
)

// mark begins every database.
var mark = []byte("SQLite format 3\x00")

// Fits tells whether a content is a database, by its beginning.
func Fits(start []byte) bool { return bytes.HasPrefix(start, mark) }

// File is a table of a database, or a query. It decodes the rows of its part.
type File struct {
	*input.Content
	path string
	// with begins all queries: it names the columns of the rows by their places.
	with    string
	columns []rows.Column
	rows    int
	// table is one with many rows as SQL has it, and number the name of the number of its rows; empty for a table or query that has none.
	table, number string
}

// isQuery tells a query from the name of a table.
var isQuery = regexp.MustCompile(`(?is)^\s*(select|with|values)\b.*\W`)

// Open opens a database and the table that is named, the only one, or what a query gives. Nothing in the database is changed. It
// counts what the columns hold for their types, and returns the part of their rows.
func Open(ctx context.Context, content *input.Content) (*rows.Part, error) {
	path, _ := content.File()
	if path == "" || content.IsPacked() {
		return nil, &fault.Fault{File: content.Name, What: "is an SQLite database within something else", Remedy: "Unpack it to a file first", Kind: fault.Malformed}
	}
	f := &File{Content: content, path: path}
	connection, err := f.connect()
	if err != nil {
		return nil, err
	}
	defer func() { _ = connection.Close() }()
	from, err := f.from(ctx, connection)
	if err != nil {
		return nil, err
	}
	names, err := f.names(ctx, connection, "SELECT * FROM "+from+" LIMIT 0")
	if err != nil {
		return nil, err
	}
	own, renamed := rows.Distinct(names)
	if err := f.observe(ctx, connection, from, own); err != nil {
		return nil, err
	}
	return &rows.Part{Name: f.Name, Columns: f.columns, Renamed: renamed, Size: content.Size, Decoder: f}, nil
}

// patience is how many milliseconds to wait for a program that has locked the database.
const patience = 5000

// connect opens the database for reading.
func (f *File) connect() (driver.Conn, error) {
	absolute, err := filepath.Abs(f.path)
	if err != nil {
		return nil, f.CannotRead(err)
	}
	address := Address(absolute, fmt.Sprintf("mode=ro&_pragma=busy_timeout(%d)&_pragma=query_only(1)", patience))
	connection, err := (&sqlite.Driver{}).Open(address)
	if err != nil {
		return nil, f.cannot(err)
	}
	return connection, nil
}

// from returns what stands behind FROM for the table that is named, the only one, or the query.
func (f *File) from(ctx context.Context, connection driver.Conn) (string, error) {
	if isQuery.MatchString(f.Table) {
		query, err := dialect.SQLite.Query(f.Table)
		if err != nil {
			return "", &fault.Fault{File: f.Name, What: "the query " + err.Error(), Remedy: "Write one query: SELECT …"}
		}
		return "(" + query + "\n)", nil
	}
	names, err := f.tables(ctx, connection)
	if err != nil {
		return "", err
	}
	shown := strings.Join(names[:min(len(names), maxNamed)], ", ")
	switch {
	case len(names) == 0:
		return "", &fault.Fault{File: f.Name, What: "has no tables", Kind: fault.Malformed}
	case f.Table == "" && len(names) == 1:
		return quoted(names[0]), nil
	case f.Table == "":
		return "", &fault.Fault{File: f.Name, What: fmt.Sprintf("has %d tables: %s", len(names), shown), Remedy: fmt.Sprintf("Name one of them: %q", f.Name+"#"+names[0])}
	}
	for _, name := range names {
		if strings.EqualFold(name, f.Table) {
			return quoted(name), nil
		}
	}
	file := strings.TrimSuffix(f.Name, "#"+f.Table)
	problem := &fault.Fault{File: file, What: fmt.Sprintf("has no table %q", f.Table), Remedy: "Its tables: " + shown, Kind: fault.Missing}
	if near := nearest.Name(f.Table, names); near != "" {
		problem.Remedy = fmt.Sprintf("Did you mean %q?", file+"#"+near)
	}
	return "", problem
}

// tables returns the names of the tables and views of a database.
func (f *File) tables(ctx context.Context, connection driver.Conn) (names []string, err error) {
	err = f.each(ctx, connection, "SELECT name FROM sqlite_schema WHERE type IN ('table', 'view') AND name NOT LIKE 'sqlite\\_%' ESCAPE '\\' ORDER BY name", func(values []driver.Value) error {
		names = append(names, fmt.Sprint(values[0]))
		return nil
	})
	return names, err
}

// Replaces returns a fault for a database that holds other tables than the one that would be written to its path.
func Replaces(path string) error {
	if err := InUse(path); err != nil {
		return err
	}
	content, err := input.OfFile(context.Background(), path)
	if err != nil {
		return nil // there is none
	}
	defer func() { _ = content.Close() }()
	if start, _, err := content.Start(len(mark)); err != nil || !Fits(start) || content.IsPacked() {
		return nil
	}
	f := &File{Content: content, path: path}
	connection, err := f.connect()
	if err != nil {
		return err
	}
	defer func() { _ = connection.Close() }()
	names, err := f.tables(context.Background(), connection)
	if err != nil {
		return err
	}
	own := tableOf(path)
	if filepath.Ext(path) == "" {
		own = defaultTable
	}
	names = slices.DeleteFunc(names, func(name string) bool { return strings.EqualFold(name, own) })
	if len(names) == 0 {
		return nil
	}
	return &fault.Fault{File: path, What: fmt.Sprintf("is a database with other tables (%s), which would be gone", strings.Join(names[:min(len(names), maxNamed)], ", ")), Remedy: "Write to a file of its own"}
}

// InUse returns a fault for a database beside which files of a program lie that has it open, or was killed: the engine would take these for
// parts of whatever database were put in its place.
func InUse(path string) error {
	if behind, err := filepath.EvalSymlinks(path); err == nil {
		path = behind
	}
	for _, ending := range []string{"-wal", "-shm", "-journal"} {
		if _, err := os.Lstat(path + ending); err == nil {
			return &fault.Fault{File: path, What: fmt.Sprintf("would be replaced, but %s belongs to what is there", filepath.Base(path)+ending),
				Remedy: fmt.Sprintf("Close the programs that use the database, write a table into it with %s#TABLE, or write to another file", path)}
		}
	}
	return nil
}

// tableOf returns the name of the table in a database at a path.
func tableOf(path string) string {
	return strings.TrimSuffix(filepath.Base(path), filepath.Ext(path))
}

// maxNamed is how many tables are named.
const maxNamed = 10

// quoted writes a name as SQL has it.
func quoted(name string) string { return `"` + strings.ReplaceAll(name, `"`, `""`) + `"` }

// names returns the names of the columns of a query.
func (f *File) names(ctx context.Context, connection driver.Conn, query string) ([]string, error) {
	found, err := connection.(driver.QueryerContext).QueryContext(ctx, query, nil)
	if err != nil {
		return nil, f.cannot(err)
	}
	defer func() { _ = found.Close() }()
	return found.Columns(), nil
}

// each calls give with the values of the rows of a query.
func (f *File) each(ctx context.Context, connection driver.Conn, query string, give func([]driver.Value) error) error {
	found, err := connection.(driver.QueryerContext).QueryContext(ctx, query, nil)
	if err != nil {
		return f.cannot(err)
	}
	defer func() { _ = found.Close() }()
	values := make([]driver.Value, len(found.Columns()))
	for {
		switch err := found.Next(values); {
		case errors.Is(err, io.EOF):
			return nil
		case err != nil:
			return f.cannot(err)
		}
		if err := give(values); err != nil {
			return err
		}
	}
}

// cannot is the fault of an error that the database has returned.
func (f *File) cannot(err error) error {
	var of *sqlite.Error
	if !errors.As(err, &of) {
		return f.CannotRead(err)
	}
	text := strings.TrimSuffix(of.Error(), fmt.Sprintf(" (%d)", of.Code()))
	text = strings.TrimPrefix(text, "SQL logic error: ")
	switch of.Code() & 0xFF {
	case sqlite3.SQLITE_BUSY, sqlite3.SQLITE_LOCKED:
		return &fault.Fault{File: f.Name, What: "is locked by another program", Remedy: "Try again when that has finished", Kind: fault.Unusable}
	case sqlite3.SQLITE_NOTADB, sqlite3.SQLITE_CORRUPT:
		return &fault.Fault{File: f.Name, What: "is a database that is damaged or encrypted", Remedy: "Copy it again", Cause: errors.New(text), Kind: fault.Malformed}
	case sqlite3.SQLITE_READONLY:
		if of.Code() == sqlite3.SQLITE_READONLY_ROLLBACK {
			return &fault.Fault{File: f.Name, What: fmt.Sprintf("a program was stopped while it changed the database: %s-journal holds what was there before", filepath.Base(f.path)),
				Remedy: fmt.Sprintf("Open the database once with a program that may write, which undoes that: sqlite3 %s .tables", f.path), Kind: fault.Unusable}
		}
	case sqlite3.SQLITE_ERROR:
		return &fault.Fault{File: f.Name, What: "the database cannot carry that out: " + text, Remedy: "Correct the query, or name a table"}
	}
	return &fault.Fault{File: f.Name, What: "cannot be read", Cause: errors.New(text), Kind: fault.Unusable}
}

// Rows returns how many rows there are.
func (f *File) Rows() int { return f.rows }
