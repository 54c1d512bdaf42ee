package cli

import (
	"context"

	"roundyear/cell"
	"roundyear/facts"
	"roundyear/internal/app"
	"roundyear/internal/table"
)

// blockRows is how many rows of a result are worked on as one.
const (
	blockRows     = 8192
	mostBlockRows = 1 << 18
)

// writeResult writes the rows of a result. Where all outputs are made of lines, blocks
// of them are worked on side by side.
func writeResult(ctx context.Context, sinks *sinks, result *facts.Result) error {
	if !sinks.isLines() {
		return app.Each(ctx, result.Rows(), sinks.write)
	}
	// Finding the first row of a block takes time for each group.
	size := max(blockRows, min(result.Groups()/16, mostBlockRows))
	return sinks.writeBlocks(ctx, table.Blocks{Count: result.Len(), Size: size, Rows: func(from, to int, write func([]cell.Value, []bool)) {
		for row := range result.RowsBetween(from, to) {
			write(row, nil)
		}
	}})
}

// isLines tells whether all outputs are made of lines.
func (s *sinks) isLines() bool {
	_, ok := s.lines()
	return ok
}

// writeBlocks writes the lines of rows, block by block.
func (s *sinks) writeBlocks(ctx context.Context, blocks table.Blocks) error {
	newLines := func() []table.RowLines {
		lines, _ := s.lines()
		return lines
	}
	return blocks.Encode(ctx, newLines, s.writeText)
}
