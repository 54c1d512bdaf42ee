package database

import (
	"context"
	"fmt"

	"roundyear/fault"
	"roundyear/rows"
)

// Writer writes rows into a table of a database, which is made anew: those who read it see the old table until Commit, and the new one from
// then on. It is a rows.Sink.
type Writer struct {
	address *Address
	columns []rows.Column
	into    target
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

// NewWriter begins a table of an address. One that is there already and was written by somebody else is only replaced with force.
func NewWriter(ctx context.Context, text string, columns []rows.Column, force bool) (*Writer, error) {
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
	w := &Writer{address: address, columns: columns}
	switch address.Scheme {
	case "mysql":
		w.into, err = intoMySQL(ctx, address, columns, force)
	default:
		w.into, err = intoPostgres(ctx, address, columns, force)
	}
	if err != nil {
		return nil, err
	}
	return w, nil
}

// notOurs is the fault of a table that somebody else has made.
func notOurs(a *Address) error {
	return &fault.Fault{File: a.String(), What: "is a table that Round Year has not written", Remedy: "Choose another name, or replace it with --force"}
}

// beingWritten is the fault of a table that another run is writing.
func beingWritten(a *Address) error {
	return &fault.Fault{File: a.String(), What: "is being written by another run", Remedy: "Try again when that has finished", Kind: fault.Unusable}
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
