package cli

import (
	"context"
	"sync"

	"roundyear/cell"
	"roundyear/facts"
	"roundyear/parallel"
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

// blockText is the lines of a block, for each output.
type blockText struct{ texts [][]byte }

// writeBlocks writes the lines of so many rows, block by block. The rows of a block are
// given by rows, which is called by several workers and each time for other ones.
func (s *sinks) writeBlocks(ctx context.Context, count, block int, rows func(from, to int, write func(row []cell.Value, changed []bool))) error {
	produce := func(_ context.Context, give func(int) bool) error {
		for from := 0; from < count; from += block {
			if !give(from) {
				break
			}
		}
		return nil
	}
	pool := sync.Pool{New: func() any { return &blockText{make([][]byte, len(s.formats))} }}
	work := func() func(int) (*blockText, error) {
		return func(from int) (*blockText, error) {
			lines, _ := s.lines()
			done := pool.Get().(*blockText)
			texts := done.texts
			for i := range texts {
				texts[i] = texts[i][:0]
			}
			rows(from, min(from+block, count), func(row []cell.Value, changed []bool) {
				for i := range lines {
					texts[i] = lines[i].Append(texts[i], row, changed)
				}
			})
			return done, nil
		}
	}
	return parallel.Ordered(ctx, produce, work, func(done *blockText) error {
		defer pool.Put(done)
		return s.writeText(done.texts)
	})
}
