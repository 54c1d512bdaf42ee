package database

import (
	"context"
	"database/sql/driver"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"

	"modernc.org/sqlite"
	sqlite3 "modernc.org/sqlite/lib"

	"roundyear/fault"
	"roundyear/internal/dialect"
	own "roundyear/internal/sqlite"
	"roundyear/rows"
)

// sqliteSession changes tables of a file of SQLite in one transaction.
type sqliteSession struct {
	path       string
	connection driver.Conn
	// isNew tells that there was no file, and none is to stay unless all is in place.
	isNew bool
}

func connectFile(path string) Session { return &sqliteSession{path: path} }

// Dialect is that of SQLite.
func (s *sqliteSession) Dialect() *dialect.Dialect { return dialect.SQLite }

// Name is the path of the file.
func (s *sqliteSession) Name() string { return s.path }

// Way is how tables change: all in one transaction, and references are by name.
func (s *sqliteSession) Way() Way { return Way{} }

// Begin opens the file and begins the transaction.
func (s *sqliteSession) Begin(ctx context.Context, dry bool) error {
	absolute, err := filepath.Abs(s.path)
	if err != nil {
		return &fault.Fault{File: s.path, What: "is not a path", Cause: err, Kind: fault.Unusable}
	}
	info, err := os.Stat(absolute)
	s.isNew = errors.Is(err, os.ErrNotExist) || err == nil && info.Size() == 0
	switch {
	case err == nil && !info.Mode().IsRegular():
		return &fault.Fault{File: s.path, What: "is not a regular file", Remedy: "Choose another path", Kind: fault.Unusable}
	case s.isNew && dry:
		absolute = ":memory:"
	case s.isNew:
		if err := os.MkdirAll(filepath.Dir(absolute), 0o755); err != nil {
			return &fault.Fault{File: s.path, What: "cannot be written", Cause: err, Kind: fault.Unusable}
		}
	}
	name := own.Address(absolute, fmt.Sprintf("_pragma=busy_timeout(%d)&_pragma=foreign_keys(0)", patience.Milliseconds()))
	if absolute == ":memory:" {
		name = absolute
	} else if dry {
		name += "&mode=ro"
	}
	if s.connection, err = (&sqlite.Driver{}).Open(name); err != nil {
		return s.cannot("", err)
	}
	if dry {
		return s.Do(ctx, "", "BEGIN")
	}
	if err := s.Do(ctx, "", "BEGIN IMMEDIATE"); err != nil { // nobody else writes from here on
		return err
	}
	if !s.isNew {
		removeStale(absolute + "-journal")
	}
	return nil
}

// removeStale removes the journal that a killed run has left before it had changed anything: its header is blank. One that matters was played
// back when the file was opened, and this transaction has not begun its own.
func removeStale(journal string) {
	file, err := os.Open(journal)
	if err != nil {
		return
	}
	var head [8]byte
	count, _ := io.ReadFull(file, head[:])
	_ = file.Close()
	if count == 0 || head == [8]byte{} {
		_ = os.Remove(journal)
	}
}

// Lock does nothing: the transaction holds the only lock that there is.
func (s *sqliteSession) Lock(context.Context, []string) error { return nil }

// Do carries a statement out.
func (s *sqliteSession) Do(ctx context.Context, table, statement string) error {
	if _, err := s.connection.(driver.ExecerContext).ExecContext(ctx, statement, nil); err != nil {
		return s.cannot(table, err)
	}
	return nil
}

// cannot is the fault of an error of the database.
func (s *sqliteSession) cannot(table string, err error) error {
	name := s.path
	if table != "" {
		name += "#" + table
	}
	var of *sqlite.Error
	if !errors.As(err, &of) {
		return &fault.Fault{File: name, What: "cannot be written", Cause: err, Kind: fault.Unusable}
	}
	text := strings.TrimPrefix(strings.TrimSuffix(of.Error(), fmt.Sprintf(" (%d)", of.Code())), "SQL logic error: ")
	switch of.Code() & 0xFF {
	case sqlite3.SQLITE_BUSY, sqlite3.SQLITE_LOCKED:
		return &fault.Fault{File: s.path, What: "is locked by another program", Remedy: "Try again when that has finished", Kind: fault.Unusable}
	case sqlite3.SQLITE_NOTADB, sqlite3.SQLITE_CORRUPT:
		return &fault.Fault{File: s.path, What: "is not a database of SQLite, or is damaged", Remedy: "Choose another path", Kind: fault.Malformed}
	case sqlite3.SQLITE_READONLY, sqlite3.SQLITE_CANTOPEN, sqlite3.SQLITE_PERM:
		return &fault.Fault{File: s.path, What: "cannot be written", Cause: errors.New(text), Kind: fault.Unusable}
	case sqlite3.SQLITE_CONSTRAINT:
		return &fault.Fault{File: name, What: "two rows have the same key: " + text}
	case sqlite3.SQLITE_FULL, sqlite3.SQLITE_IOERR:
		return &fault.Fault{File: s.path, What: "the disk is full, or cannot be written", Cause: errors.New(text), Kind: fault.Unusable}
	}
	return &fault.Fault{File: name, What: "cannot be written", Cause: errors.New(text), Kind: fault.Unusable}
}

// Each calls give with the rows of a query.
func (s *sqliteSession) Each(ctx context.Context, query string, give func(values [][]byte) error) error {
	found, err := s.connection.(driver.QueryerContext).QueryContext(ctx, query, nil)
	if err != nil {
		return s.cannot("", err)
	}
	defer func() { _ = found.Close() }()
	values, texts := make([]driver.Value, len(found.Columns())), make([][]byte, len(found.Columns()))
	for {
		switch err := found.Next(values); {
		case errors.Is(err, io.EOF):
			return nil
		case err != nil:
			return s.cannot("", err)
		}
		for i, value := range values {
			texts[i] = nil
			if value != nil {
				texts[i] = textOf([]byte{}, value)
			}
		}
		if err := give(texts); err != nil {
			return err
		}
	}
}

// Fill inserts rows into a table.
func (s *sqliteSession) Fill(ctx context.Context, t dialect.Filled, name string) (count int, err error) {
	insert, err := s.connection.(driver.ConnPrepareContext).PrepareContext(ctx, "INSERT INTO "+dialect.SQLite.Quote(name)+" VALUES (?"+strings.Repeat(", ?", len(t.Columns)-1)+")")
	if err != nil {
		return 0, s.cannot(t.Name, err)
	}
	defer func() { _ = insert.Close() }()
	values := make([]driver.NamedValue, len(t.Columns))
	for i := range values {
		values[i].Ordinal = i + 1
	}
	return count, t.Rows.Each(ctx, nil, func(block rows.Block, _ []byte) error {
		for row := range block.Count {
			if err := own.Fill(values, func(i int) rows.Column { return t.Columns[i].Column }, &block, row); err != nil {
				return err
			}
			if _, err := insert.(driver.StmtExecContext).ExecContext(ctx, values); err != nil {
				return s.cannot(t.Name, err)
			}
		}
		count += block.Count
		return nil
	})
}

// Describe returns what is there under a name.
func (s *sqliteSession) Describe(ctx context.Context, name string) (*Found, error) {
	var f *Found
	text := dialect.SQLite.Text(name)
	err := s.Each(ctx, "SELECT type, sql FROM sqlite_schema WHERE lower(name) = lower("+text+")", func(values [][]byte) error {
		f = &Found{IsTable: string(values[0]) == "table", IsView: string(values[0]) == "view"}
		if first, _, _ := strings.Cut(string(values[1]), "\n"); strings.Contains(first, "-- ") {
			_, f.Comment, _ = strings.Cut(first, "-- ")
		}
		return nil
	})
	if err != nil || f == nil {
		return nil, err
	}
	err = s.Each(ctx, "SELECT name, type, \"notnull\" FROM pragma_table_info("+text+")", func(values [][]byte) error {
		column := FoundColumn{string(values[0]), string(values[1])}
		if string(values[2]) == "1" {
			column.Type += " not null"
		}
		f.Columns = append(f.Columns, column)
		return nil
	})
	if err != nil {
		return nil, err
	}
	return f, s.Each(ctx, "SELECT DISTINCT m.name FROM sqlite_schema m, pragma_foreign_key_list(m.name) k WHERE m.type = 'table' AND lower(k.\"table\") = lower("+text+") ORDER BY 1", func(values [][]byte) error {
		f.Leaning = append(f.Leaning, string(values[0]))
		return nil
	})
}

// Grants returns nothing: a file has none.
func (s *sqliteSession) Grants(context.Context, string) ([]string, error) { return nil, nil }

// Tables returns the names of the tables and views of the file.
func (s *sqliteSession) Tables(ctx context.Context) ([]string, error) {
	return namesOf(ctx, s, "SELECT name FROM sqlite_schema WHERE type IN ('table', 'view') AND name NOT LIKE 'sqlite\\_%' ESCAPE '\\' ORDER BY 1")
}

// Commit puts all in place.
func (s *sqliteSession) Commit(ctx context.Context) error {
	if err := s.Do(ctx, "", "COMMIT"); err != nil {
		return err
	}
	s.isNew = false
	return nil
}

// Close ends the connection, and the transaction with it. A file that was not there before stays only if all is in place.
func (s *sqliteSession) Close() {
	if s.connection == nil {
		return
	}
	_ = s.connection.Close()
	s.connection = nil
	if s.isNew {
		_ = os.Remove(s.path)
		return
	}
	if info, err := os.Stat(s.path + "-journal"); err == nil && info.Size() > 0 {
		s.undo()
	}
}

// undo lets the engine take back what a failed transaction has written, which it leaves to whoever opens the file next if the disk was full.
func (s *sqliteSession) undo() {
	next := sqliteSession{path: s.path}
	if next.Begin(context.Background(), false) == nil {
		_ = next.Do(context.Background(), "", "ROLLBACK")
	}
	if next.connection != nil {
		_ = next.connection.Close()
	}
}
