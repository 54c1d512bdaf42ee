package sqlite

import (
	"context"
	"database/sql/driver"
	"errors"
	"fmt"
	"math"
	"strings"

	"roundyear/fault"
	"roundyear/internal/dialect"
	"roundyear/rows"
)

// batchRows is how many rows a batch has.
const batchRows = 8 << 10

// placeName names a column by its place.
func placeName(place int) string { return fmt.Sprintf("c%d", place+1) }

// query returns the query of the rows, with nothing in columns that a batch does not want. A sign makes a column an
// expression, which has no declared type that something would be made of.
func (f *File) query(b *rows.Batch) string {
	return f.with + f.wanted(b) + " FROM q"
}

// wanted are the columns that a batch wants.
func (f *File) wanted(b *rows.Batch) string {
	var columns []string
	for i := range f.columns {
		if b.Wants(i) {
			columns = append(columns, "+"+placeName(i))
		} else {
			columns = append(columns, "NULL")
		}
	}
	return strings.Join(columns, ", ")
}

// file returns the name of the file without that of the table.
func (f *File) file() string { return strings.TrimSuffix(f.Name, "#"+f.Table) }

// Scan reads the rows in batches.
func (f *File) Scan(ctx context.Context, scan *rows.Scan) error {
	b := scan.Spare()
	if scan.Most == 0 {
		if connections := f.readers(ctx); connections != nil {
			return f.scanRanges(ctx, scan, b, connections)
		}
	}
	connection, err := f.connect()
	if err != nil {
		return err
	}
	defer func() { _ = connection.Close() }()
	return f.read(ctx, connection, f.query(b), scan, b)
}

// read reads the rows of a query in batches, of which the first is there.
func (f *File) read(ctx context.Context, connection driver.Conn, query string, scan *rows.Scan, b *rows.Batch) error {
	most := batchRows
	if scan.Size > 0 {
		most = min(most, scan.Size) // a row has a byte at least
	}
	line, perRow := 1, int(f.Size)/max(f.rows, 1)
	var block rows.Block
	give := func() bool {
		b.Task, b.Line, b.Read = block, line, perRow*block.Count
		line += block.Count
		block = rows.Block{}
		going := scan.Give(b)
		b = scan.Spare()
		return going
	}
	err := f.each(ctx, connection, query, func(values []driver.Value) error {
		if block.Vectors == nil {
			block = rows.NewBlock(f.columns, most, 0)
		}
		for i, value := range values {
			if err := f.append(&block.Vectors[i], value, i, line+block.Count); err != nil {
				return err
			}
		}
		if block.Count++; block.Count < most {
			return nil
		}
		if !give() {
			return errEnough
		}
		return ctx.Err()
	})
	switch {
	case errors.Is(err, errEnough):
		return ctx.Err()
	case err == nil && block.Count > 0:
		give()
		return ctx.Err()
	}
	return err
}

// errEnough ends a query of which no more rows are wanted.
var errEnough = errors.New("enough rows")

// append appends a value of the database to the vector of its column.
func (f *File) append(v *rows.Vector, value driver.Value, column, line int) error {
	switch {
	case value == nil:
		v.AppendMissing()
		return nil
	case v.Type == rows.Text:
		v.AppendBytes(textOf(value))
		return nil
	}
	switch value := value.(type) {
	case int64:
		if v.Type == rows.Float {
			v.Int = append(v.Int, int64(math.Float64bits(float64(value))))
		} else {
			v.Int = append(v.Int, value)
		}
		return nil
	case float64:
		if v.Type == rows.Float {
			v.Int = append(v.Int, int64(math.Float64bits(value)))
			return nil
		}
	}
	return &fault.Fault{File: f.Name, Line: line, Column: f.columns[column].Name, What: "holds another kind of value than before", Remedy: "Run the command again; another program may have changed the database", Kind: fault.Changed}
}

// textOf returns a value as text, as the vector of a column of its own type has it.
func textOf(value driver.Value) []byte {
	own := rows.Vector{Type: rows.Integer}
	switch value := value.(type) {
	case string:
		return []byte(value)
	case int64:
		own.Int = []int64{value}
	case float64:
		own.Type, own.Int = rows.Float, []int64{int64(math.Float64bits(value))}
	}
	return own.AppendText(nil, 0)
}

// Decode takes over the rows of a batch, which Scan has found.
func (f *File) Decode(b *rows.Batch) {
	block := b.Task.(rows.Block)
	b.Vectors, b.Count = block.Vectors, block.Count
}

// Dialect is the SQL of SQLite.
func (f *File) Dialect() *dialect.Dialect { return dialect.SQLite }

// Relation is what stands before a query, and behind FROM.
func (f *File) Relation() (with, from string) { return strings.TrimSuffix(f.with, " SELECT "), "q" }

// ColumnName is the name of a column in a query.
func (f *File) ColumnName(column int) string { return placeName(column) }

// IsText tells whether the values of a column are kept as they are shown. A column may hold any of them.
func (f *File) IsText(int) bool { return false }

// Ask calls give with the rows of a query.
func (f *File) Ask(ctx context.Context, query string, give func(values [][]byte) error) error {
	connection, err := f.connect()
	if err != nil {
		return err
	}
	defer func() { _ = connection.Close() }()
	var texts [][]byte
	return f.each(ctx, connection, query, func(values []driver.Value) error {
		texts = texts[:0]
		for _, value := range values {
			if value == nil {
				texts = append(texts, nil)
				continue
			}
			texts = append(texts, textOf(value))
		}
		return give(texts)
	})
}
