package cli

import (
	"context"

	"roundyear/cell"
	"roundyear/facts"
	"roundyear/internal/table"
)

// blockRows is how many rows of a result are worked on as one.
const blockRows = 8192

// writeResult writes the rows of a result. Where all outputs are made of lines, blocks
// of them are worked on side by side.
func writeResult(ctx context.Context, sinks *sinks, result *facts.Result) error {
	if _, ok := sinks.lines(); ok {
		return sinks.writeBlocks(ctx, result.Len(), blockRows, func(from, to int, write func([]cell.Value, []bool)) {
			for row := range result.RowsBetween(from, to) {
				write(row, nil)
			}
		})
	}
	for row := range result.Rows() {
		if err := sinks.write(row); err != nil {
			return err
		}
		if ctx.Err() != nil {
			return ctx.Err()
		}
	}
	return nil
}

// writeBlocks writes the lines of so many rows, block by block. The rows of a block are
// given by rows, which is called by several workers and each time for other ones.
func (s *sinks) writeBlocks(ctx context.Context, count, block int, rows func(from, to int, write func(row []cell.Value, changed []bool))) error {
	newLines := func() []table.RowLines {
		lines, _ := s.lines()
		return lines
	}
	return table.Blocks{Count: count, Size: block, Rows: rows}.Encode(ctx, newLines, s.writeText)
}
