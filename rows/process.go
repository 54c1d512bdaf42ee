package rows

import (
	"context"
	"sync"

	"roundyear/fault"
	"roundyear/parallel"
)

// Process reads all parts of a source in batches, works on them side by side and collects what
// comes of them in the order of the rows. Each worker is made by newWorker and used by one
// goroutine; what it returns must not point into its batch. A worker goes through all rows of
// its batch, and returns the error of the batch if it has none of its own. The first error by
// order of the rows ends it, and so does the end of the context.
func Process[T any](ctx context.Context, s *Source, newWorker func() func(*Batch) (T, error), collect func(T) error) error {
	spare := sync.Pool{New: func() any { return &Batch{} }}
	produce := func(ctx context.Context, give func(*Batch) bool) error {
		return s.scan(ctx, func() *Batch { return spare.Get().(*Batch) }, give)
	}
	return parallel.Ordered(ctx, produce, func() func(*Batch) (T, error) {
		work := newWorker()
		return func(b *Batch) (value T, err error) {
			defer spare.Put(b)
			defer func() {
				if recovered := recover(); recovered != nil {
					err = fault.Panicked(recovered, b.Part.Name, b.Line)
				}
			}()
			b.Part.Decoder.Decode(b)
			return work(b)
		}
	}, collect)
}

// scan gives the batches of all parts in order until give is false.
func (s *Source) scan(ctx context.Context, spare func() *Batch, give func(*Batch) bool) error {
	going := true
	for _, part := range s.Parts {
		scan := &Scan{Size: s.BatchSize, Most: s.most, exclusions: s.exclusions, days: s.days, Spare: func() *Batch {
			b := spare()
			b.reset(part)
			b.keepsRagged, b.wanted, b.blankAs = s.KeepsRagged, s.wanted, s.BlankAs
			return b
		}, Give: func(b *Batch) bool {
			if s.Progress != nil {
				s.Progress(b.Read)
			}
			going = ctx.Err() == nil && give(b)
			return going
		}}
		if err := part.Decoder.Scan(ctx, scan); err != nil {
			return err
		}
		if !going {
			return ctx.Err()
		}
	}
	return nil
}

// Sample calls see with the first rows of each part, at most so many. Ragged rows are left out.
func (s *Source) Sample(ctx context.Context, most int, see func(*Row)) error {
	for _, part := range s.Parts {
		one := &Source{Parts: []*Part{part}, BatchSize: s.BatchSize, KeepsRagged: s.KeepsRagged, BlankAs: s.BlankAs, most: most}
		seen := 0
		var failed, ragged error
		err := one.scan(ctx, func() *Batch { return &Batch{} }, func(b *Batch) bool {
			part.Decoder.Decode(b)
			var row Row
			for seen < most && b.Next(&row) {
				switch {
				case row.Ragged() == 0:
					see(&row)
					seen++
				case ragged == nil:
					ragged = &fault.Fault{File: part.Name, Line: row.Line, What: RaggedReason(row.Ragged(), part.OwnColumns()), Kind: fault.Malformed,
						Remedy: "No row has as many fields as the header: is it the header, and the delimiter the right one?"}
				}
			}
			if seen < most {
				failed = b.Err()
			}
			return failed == nil && seen < most
		})
		if failed != nil {
			return failed
		}
		if err == nil && seen == 0 {
			err = ragged
		}
		if err != nil {
			return err
		}
	}
	return nil
}
