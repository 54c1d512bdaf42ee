package sqlite

import (
	"context"
	"database/sql/driver"
	"errors"
	"fmt"
	"path/filepath"
	"runtime"
	"slices"
	"strconv"
	"strings"

	"modernc.org/sqlite"

	"roundyear/fault"
	"roundyear/parallel"
	"roundyear/rows"
)

// rangeRows is how many rows a range has. A table with few of them is read by one connection.
var rangeRows = 16 << 10

// leastRanges is from how many ranges on a table is read by several connections.
const leastRanges = 4

// A large table is read in ranges of its row numbers, several at a time, each by a connection of its own, and the rows come in the order of
// those. While one connection reads, nobody can write to a database that has a rollback journal, so that all of them see the same; one with a
// write-ahead log is read by one connection.

// rowNumber returns the name of the number of a row, which SQLite keeps for ordinary tables; empty where there is none, or where columns have all
// of its names.
func (f *File) rowNumber(ctx context.Context, connection driver.Conn, from string, columns []string) string {
	for _, name := range []string{"rowid", "_rowid_", "oid"} {
		if slices.ContainsFunc(columns, func(column string) bool { return strings.EqualFold(column, name) }) {
			continue
		}
		if f.each(ctx, connection, "SELECT "+name+" FROM "+from+" LIMIT 0", func([]driver.Value) error { return nil }) != nil {
			return "" // a table WITHOUT ROWID
		}
		return name
	}
	return ""
}

// readers returns connections that see the same rows, and will until they are closed; nothing where one connection must do.
func (f *File) readers(ctx context.Context) []driver.Conn {
	if f.number == "" || f.rows < leastRanges*rangeRows || runtime.GOMAXPROCS(0) < 2 {
		return nil
	}
	absolute, err := filepath.Abs(f.path)
	if err != nil {
		return nil
	}
	// One that has to wait for a program that writes is not waited for, since that waits for those before it.
	address := Address(absolute, "mode=ro&_pragma=busy_timeout(0)&_pragma=query_only(1)")
	var all []driver.Conn
	for range 1 + runtime.GOMAXPROCS(0) { // the first one finds the ranges
		connection, err := (&sqlite.Driver{}).Open(address)
		if err != nil {
			break
		}
		isLogged := true
		err = f.each(ctx, connection, "PRAGMA journal_mode", func(values []driver.Value) error {
			isLogged = fmt.Sprint(values[0]) == "wal"
			return nil
		})
		for _, statement := range []string{"BEGIN", "SELECT 1 FROM sqlite_schema LIMIT 1"} { // with which it begins to read
			if err == nil {
				err = f.each(ctx, connection, statement, func([]driver.Value) error { return nil })
			}
		}
		if err != nil || isLogged {
			_ = connection.Close()
			break
		}
		all = append(all, connection)
	}
	if len(all) < 2 {
		closeAll(all)
		return nil
	}
	return all
}

func closeAll(connections []driver.Conn) {
	for _, connection := range connections {
		_ = connection.Close()
	}
}

// span is a range of row numbers: from the first one on to the one before the next, or to the end.
type span struct {
	first, next int64
	isLast      bool
}

// scanRanges reads the ranges by some connections, and gives their rows in order. It closes the connections.
func (f *File) scanRanges(ctx context.Context, scan *rows.Scan, first *rows.Batch, connections []driver.Conn) error {
	defer closeAll(connections)
	idle := make(chan driver.Conn, len(connections))
	for _, connection := range connections[1:] {
		idle <- connection
	}
	var columns []string
	for i := range f.columns {
		columns = append(columns, placeName(i))
	}
	number := placeName(-1)
	with := "WITH q(" + strings.Join(append([]string{number}, columns...), ", ") + ") AS (SELECT " + f.number + ", * FROM " + f.table + ") SELECT "
	query := with + f.wanted(first) + " FROM q WHERE " + number
	line := 1
	err := parallel.Ordered(ctx, func(ctx context.Context, give func(span) bool) error {
		return f.spans(ctx, connections[0], give)
	}, func() func(span) ([]*rows.Batch, error) {
		return func(of span) (batches []*rows.Batch, err error) {
			connection := <-idle
			defer func() { idle <- connection }()
			condition := " >= " + strconv.FormatInt(of.first, 10)
			if !of.isLast {
				condition += " AND " + number + " < " + strconv.FormatInt(of.next, 10)
			}
			own := &rows.Scan{Size: scan.Size, Spare: scan.Spare, Give: func(b *rows.Batch) bool {
				batches = append(batches, b)
				return ctx.Err() == nil
			}}
			err = f.read(ctx, connection, query+condition, own, scan.Spare())
			var problem *fault.Fault
			if errors.As(err, &problem) {
				problem.Line = 0 // which is that within the range
			}
			return batches, err
		}
	}, func(batches []*rows.Batch) error {
		for _, b := range batches {
			b.Line, line = line, line+b.Task.(rows.Block).Count
			if !scan.Give(b) {
				return errEnough
			}
		}
		return nil
	})
	if errors.Is(err, errEnough) {
		return ctx.Err()
	}
	return err
}

// spans gives the ranges of the table, each with so many rows.
func (f *File) spans(ctx context.Context, connection driver.Conn, give func(span) bool) error {
	first, isThere := int64(0), false
	ask := func(query string) error {
		isThere = false
		return f.each(ctx, connection, query, func(values []driver.Value) error {
			first, isThere = values[0].(int64), true
			return nil
		})
	}
	if err := ask(fmt.Sprintf("SELECT %s FROM %s ORDER BY 1 LIMIT 1", f.number, f.table)); err != nil || !isThere {
		return err
	}
	for {
		one := span{first: first}
		if err := ask(fmt.Sprintf("SELECT %s FROM %s WHERE %[1]s >= %[3]d ORDER BY 1 LIMIT 1 OFFSET %[4]d", f.number, f.table, first, rangeRows)); err != nil {
			return err
		}
		one.next, one.isLast = first, !isThere
		if !give(one) || one.isLast {
			return ctx.Err()
		}
	}
}
