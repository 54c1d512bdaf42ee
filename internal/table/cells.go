package table

import (
	"roundyear/cell"
	"roundyear/rows"
)

// sinkWriter writes the rows of a table as columns.
type sinkWriter struct {
	to      rows.Sink
	columns []rows.Column
	block   rows.Block
}

// NewTableWriter writes typed rows into a table of a server. It appears once to is committed.
func NewTableWriter(to rows.Sink, columns []cell.Column) RowWriter {
	return &sinkWriter{to: to, columns: rows.OfCells(columns)}
}

// cellRows is how many rows are handed on at a time.
const cellRows = 8 << 10

// Write writes a row.
func (c *sinkWriter) Write(row []cell.Value) error {
	if c.block.Vectors == nil {
		c.block = rows.NewBlock(c.columns, cellRows, 0)
	}
	for i, value := range row {
		c.block.Vectors[i].AppendCell(value)
	}
	if c.block.Count++; c.block.Count < cellRows {
		return nil
	}
	return c.flush()
}

func (c *sinkWriter) flush() error {
	block := c.block
	c.block = rows.Block{}
	return c.to.Write(block)
}

// Close writes the rest.
func (c *sinkWriter) Close() error {
	if err := c.flush(); err != nil {
		return err
	}
	return c.to.Close()
}

// Further is a writer of a file that can hold several tables.
type Further interface {
	// Begin ends the table, and begins another one.
	Begin(name string, columns []cell.Column) error
}

// furtherSink writes the rows of tables as columns into one file.
type furtherSink struct {
	*sinkWriter
	begin func(name string, columns []rows.Column) error
}

// Begin writes the rest of the table, and begins another one.
func (f *furtherSink) Begin(name string, columns []cell.Column) error {
	if err := f.flush(); err != nil {
		return err
	}
	f.columns = rows.OfCells(columns)
	return f.begin(name, f.columns)
}
