package parquet

import (
	"io"

	"roundyear/cell"
	"roundyear/rows"
)

// Cells writes the rows of a table as a Parquet file.
type Cells struct {
	to    *Writer
	block rows.Block
}

// NewCells returns what writes rows with columns.
func NewCells(out io.Writer, columns []cell.Column) *Cells {
	return &Cells{to: NewWriter(out, rows.OfCells(columns))}
}

// cellRows is how many rows are handed on at a time.
const cellRows = 8 << 10

// Write writes a row.
func (c *Cells) Write(row []cell.Value) error {
	if c.block.Vectors == nil {
		c.block = rows.NewBlock(c.to.columns, cellRows, 0)
	}
	for i, value := range row {
		c.block.Vectors[i].AppendCell(value)
	}
	if c.block.Count++; c.block.Count < cellRows {
		return nil
	}
	return c.flush()
}

func (c *Cells) flush() error {
	block := c.block
	c.block = rows.Block{}
	return c.to.Write(block)
}

// Close writes the rest.
func (c *Cells) Close() error {
	if err := c.flush(); err != nil {
		return err
	}
	return c.to.Close()
}
