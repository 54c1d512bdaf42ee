package dialect

import (
	"context"

	"roundyear/rows"
)

// Model is tables with their rows, and views of them. A table stands behind those that it has keys of.
type Model struct {
	Tables []Filled
	Views  []*View
}

// Filled is a table with its rows.
type Filled struct {
	*Table
	Rows Rows
}

// Rows are the rows of a table, which can be made as often as they are wanted.
type Rows interface {
	// Each makes the rows block by block: work turns each block into bytes, several at a time, and collect takes the blocks and those bytes in
	// the order of the rows. Work may be nil.
	Each(ctx context.Context, work func(rows.Block) ([]byte, error), collect func(block rows.Block, made []byte) error) error
}
