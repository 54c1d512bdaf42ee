package table

import (
	"context"
	"sync"

	"roundyear/cell"
	"roundyear/parallel"
)

// Blocks are rows that can be made from any row on, and so block by block by several workers.
type Blocks struct {
	// Count is how many rows there are, Size how many a block has.
	Count, Size int
	// Rows makes the rows from one to before another, and calls write for each. Where changed is
	// given it tells which values may differ from those of the row before.
	Rows func(from, to int, write func(row []cell.Value, changed []bool))
}

// blockTexts are the lines of a block, for each output.
type blockTexts struct{ texts [][]byte }

// Encode turns the rows into lines of several formats, blocks side by side, and writes them in
// order. Each block begins with lines of its own, which newLines makes; write gets the lines of a
// block for each format.
func (b Blocks) Encode(ctx context.Context, newLines func() []RowLines, write func(texts [][]byte) error) error {
	produce := func(_ context.Context, give func(int) bool) error {
		for from := 0; from < b.Count; from += b.Size {
			if !give(from) {
				break
			}
		}
		return nil
	}
	pool := sync.Pool{New: func() any { return &blockTexts{} }}
	work := func() func(int) (*blockTexts, error) {
		return func(from int) (*blockTexts, error) {
			lines := newLines()
			done := pool.Get().(*blockTexts)
			for len(done.texts) < len(lines) {
				done.texts = append(done.texts, nil)
			}
			for i := range done.texts {
				done.texts[i] = done.texts[i][:0]
			}
			b.Rows(from, min(from+b.Size, b.Count), func(row []cell.Value, changed []bool) {
				for i := range lines {
					done.texts[i] = lines[i].Append(done.texts[i], row, changed)
				}
			})
			return done, nil
		}
	}
	return parallel.Ordered(ctx, produce, work, func(done *blockTexts) error {
		defer pool.Put(done)
		return write(done.texts)
	})
}
