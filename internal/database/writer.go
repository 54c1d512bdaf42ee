package database

import (
	"context"
	"fmt"
	"strings"

	"roundyear/fault"
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

// FileOf returns the file of SQLite that has a table; nothing for one of a server.
func FileOf(table string) string {
	path, _, _ := tableOfFile(table)
	return path
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
	return &fault.Fault{File: shown, What: "is being written by another run", Remedy: "Try again when that has finished", Kind: fault.Unusable}
}

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
