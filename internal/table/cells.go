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
