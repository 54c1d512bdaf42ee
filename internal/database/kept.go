package database

import (
	"context"

	"roundyear/rows"
)

// How many of the first rows are kept, and about how many bytes of them, so that a query that takes long is not carried out anew for each look
// at some of them.
const (
	mostKept      = 5000
	mostBytesKept = 4 << 20
)

// keptRows are the first rows of a table or query, as the server has sent them.
type keptRows struct {
	batches []*rows.Batch
	// count is how many rows there are at least, and isWhole tells that nothing is missing of what was asked for.
	count   int
	isWhole bool
}

// firstRows asks for the first rows, unless they are there already.
func (t *Table) firstRows(ctx context.Context, wanted []int) (*keptRows, error) {
	if t.first != nil {
		return t.first, nil
	}
	kept, bytes := &keptRows{isWhole: true}, 0
	scan := &rows.Scan{Most: mostKept, Spare: func() *rows.Batch { return &rows.Batch{} }, Give: func(b *rows.Batch) bool {
		kept.batches = append(kept.batches, b)
		kept.count = b.Line - 1
		bytes += len(b.Input)
		kept.isWhole = bytes < mostBytesKept
		return kept.isWhole
	}}
	if err := t.server.scan(ctx, t, wanted, scan, scan.Spare()); err != nil {
		return nil, err
	}
	t.first = kept
	return kept, nil
}

// isEnough tells whether so many rows are there, or as many as the server has.
func (k *keptRows) isEnough(most int) bool { return k.isWhole || k.count >= most }

// give gives the rows to a scan.
func (k *keptRows) give(ctx context.Context, scan *rows.Scan, first *rows.Batch) error {
	for i, one := range k.batches {
		b := first
		if i > 0 {
			b = scan.Spare()
		}
		b.Input, b.Task, b.Line = append(b.Input[:0], one.Input...), one.Task, one.Line
		if !scan.Give(b) {
			break
		}
	}
	return ctx.Err()
}
