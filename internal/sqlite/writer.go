package sqlite

import (
	"context"
	"database/sql/driver"
	"errors"
	"io"
	"math"
	"os"
	"strconv"
	"strings"

	"modernc.org/sqlite"
	sqlite3 "modernc.org/sqlite/lib"

	"roundyear/fault"
	"roundyear/internal/dialect"
	"roundyear/rows"
)

// Writer writes rows as a database with one table. It lies in a temporary file until it is whole.
type Writer struct {
	out        io.Writer
	columns    []rows.Column
	table      string
	file       *os.File
	connection driver.Conn
	insert     driver.Stmt
	values     []driver.NamedValue
}

// defaultTable is the name of a table where that of the file does not say one.
const defaultTable = "rows"

// NewWriter returns a writer of rows with columns into a table.
func NewWriter(out io.Writer, table string, columns []rows.Column) *Writer {
	if table == "" {
		table = defaultTable
	}
	return &Writer{out: out, table: table, columns: columns}
}

// open makes the database and the table.
func (w *Writer) open() (err error) {
	if w.connection != nil {
		return nil
	}
	if w.file, err = os.CreateTemp("", "roundyear-*.db"); err != nil {
		return w.cannot(err)
	}
	address := Address(w.file.Name(), "_pragma=journal_mode(off)&_pragma=synchronous(off)&_pragma=locking_mode(exclusive)")
	if w.connection, err = (&sqlite.Driver{}).Open(address); err != nil {
		return w.cannot(err)
	}
	var columns, places []string
	for _, column := range w.columns {
		definition := quoted(column.Name) + " " + dialect.SQLite.TypeOf(dialect.Column{Column: column})
		if column.Key {
			definition += " PRIMARY KEY NOT NULL"
		}
		columns, places = append(columns, definition), append(places, "?")
		w.values = append(w.values, driver.NamedValue{Ordinal: len(places)})
	}
	for _, statement := range []string{"CREATE TABLE " + quoted(w.table) + " (" + strings.Join(columns, ", ") + ")", "BEGIN"} {
		if _, err := w.connection.(driver.ExecerContext).ExecContext(context.Background(), statement, nil); err != nil {
			return w.cannot(err)
		}
	}
	// Where the system can, the name goes at once, so that nothing is left of a run that is killed.
	_ = os.Remove(w.file.Name())
	if w.insert, err = w.connection.(driver.ConnPrepareContext).PrepareContext(context.Background(), "INSERT INTO "+quoted(w.table)+" VALUES ("+strings.Join(places, ", ")+")"); err != nil {
		return w.cannot(err)
	}
	return nil
}

func (w *Writer) cannot(err error) error {
	w.discard()
	var of *sqlite.Error
	if errors.As(err, &of) {
		switch of.Code() & 0xFF {
		case sqlite3.SQLITE_FULL, sqlite3.SQLITE_IOERR, sqlite3.SQLITE_CANTOPEN, sqlite3.SQLITE_NOMEM, sqlite3.SQLITE_READONLY:
			return &fault.Fault{What: "cannot write a temporary file", Cause: of, Kind: fault.Unusable}
		}
		return &fault.Fault{What: "the rows cannot be a table of SQLite: " + strings.TrimPrefix(of.Error(), "SQL logic error: "), Remedy: "Write CSV or Parquet"}
	}
	return &fault.Fault{What: "cannot write a temporary file", Cause: err, Kind: fault.Unusable}
}

// Write takes rows.
func (w *Writer) Write(block rows.Block) error {
	if err := w.open(); err != nil {
		return err
	}
	for row := range block.Count {
		if err := Fill(w.values, func(i int) rows.Column { return w.columns[i] }, &block, row); err != nil {
			w.discard()
			return err
		}
		if _, err := w.insert.(driver.StmtExecContext).ExecContext(context.Background(), w.values); err != nil {
			return w.cannot(err)
		}
	}
	return nil
}

// Fill puts the values of a row of a block in the places of a statement, as a database keeps them. A decimal goes as text, which the column
// makes a number. The fault is that of a number that would lose digits by that.
func Fill(values []driver.NamedValue, column func(place int) rows.Column, block *rows.Block, row int) error {
	for i := range block.Vectors {
		v := &block.Vectors[i]
		switch {
		case !v.IsValid(row):
			values[i].Value = nil
			continue
		case v.Type == rows.Integer || v.Type == rows.Bool:
			values[i].Value = v.Int[row]
			continue
		case v.Type == rows.Float:
			values[i].Value = math.Float64frombits(uint64(v.Int[row]))
			continue
		}
		text := string(v.AppendText(nil, row))
		values[i].Value = text
		switch of := column(i); {
		case of.Type == rows.Decimal:
			number, keeps := number(text)
			if !keeps {
				return &fault.Fault{Column: of.Name, What: text + " has more digits than SQLite keeps of a number", Remedy: "Write it to a file of another format, or to a database that has decimal numbers", Kind: fault.Malformed}
			}
			values[i].Value = number
		case v.Type == rows.Moment || v.Type == rows.Instant:
			values[i].Value = strings.Replace(text, "T", " ", 1)
		}
	}
	return nil
}

// keptDigits is how many digits of a number with decimals a database keeps, and mostDecimals how many of its decimals are looked at: those
// behind are of quotients, and rounded.
const keptDigits, mostDecimals = 15, 6

// number is a decimal as a column of numbers takes it. It is false for one that would lose digits.
func number(text string) (value driver.Value, keeps bool) {
	if len(text) <= keptDigits {
		return text, true
	}
	whole, decimals, _ := strings.Cut(text, ".")
	decimals = strings.TrimRight(decimals, "0")
	if decimals == "" {
		number, err := strconv.ParseInt(whole, 10, 64)
		return number, err == nil
	}
	digits := strings.TrimLeft(strings.TrimPrefix(whole, "-"), "0")
	return text, len(digits)+min(len(decimals), mostDecimals) <= keptDigits
}

// Pending returns 0: rows are written as they come.
func (w *Writer) Pending() int { return 0 }

// Flush does nothing.
func (w *Writer) Flush() error { return nil }

// Close ends the database and writes it out.
func (w *Writer) Close() error {
	if err := w.open(); err != nil {
		return err
	}
	defer w.discard()
	if _, err := w.connection.(driver.ExecerContext).ExecContext(context.Background(), "COMMIT", nil); err != nil {
		return w.cannot(err)
	}
	if _, err := w.file.Seek(0, io.SeekStart); err != nil {
		return w.cannot(err)
	}
	_, err := io.Copy(w.out, w.file)
	return err
}

// discard closes and removes the temporary file.
func (w *Writer) discard() {
	if w.insert != nil {
		_ = w.insert.Close()
		w.insert = nil
	}
	if w.connection != nil {
		_ = w.connection.Close()
		w.connection = nil
	}
	if w.file != nil {
		_ = w.file.Close()
		_ = os.Remove(w.file.Name())
		w.file = nil
	}
}

var _ rows.Sink = (*Writer)(nil)
