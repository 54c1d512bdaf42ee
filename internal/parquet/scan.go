package parquet

import (
	"context"
	"errors"

	"roundyear/fault"
	"roundyear/rows"
)

// pieceRows is how many rows a batch has.
const pieceRows = 16 << 10

// rowSize is about how many bytes a row has, to make batches of a size that is asked for.
const rowSize = 64

// piece is the rows of a batch in a row group.
type piece struct {
	number int
	chunks []*chunk
	count  int
	// turns say of each chunk when it has been read up to the piece, and after are those of the
	// next piece.
	turns, after []chan struct{}
}

// chunk is the values of a column in a row group on their way, page by page. Workers read it in
// turn, one piece after the other.
type chunk struct {
	pages *pages
	page  *page
	// row and value are how far the page at work has been read: rows, and values that are
	// there.
	row, value int
	// codes are the texts of the dictionary of the chunk, once they are known.
	codes *codes
}

// Scan cuts the row groups into batches.
func (f *File) Scan(ctx context.Context, scan *rows.Scan) error {
	size := pieceRows
	if scan.Size > 0 {
		size = max(scan.Size/rowSize, 1)
	}
	total := max(f.file.NumRows(), 1)
	line := 1
	for number, group := range f.file.RowGroups() {
		count := int(group.NumRows())
		if by, days, ok := f.excluded(scan, number); ok {
			b := scan.Spare()
			b.LeftOutDays = days
			b.Line, b.LeftOut, b.LeftOutBy = line, count, by
			line += count
			b.Read = int(f.Size * int64(count) / total)
			if !scan.Give(b) {
				return ctx.Err()
			}
			continue
		}
		chunks := make([]*chunk, len(f.columns))
		for i := range chunks {
			chunks[i] = &chunk{}
		}
		turns := make([]chan struct{}, len(chunks)) // nil: at once
		for from := 0; from < count; from += size {
			b := scan.Spare()
			p := &piece{number: number, chunks: chunks, count: min(size, count-from), turns: turns}
			for range chunks {
				p.after = append(p.after, make(chan struct{}))
			}
			turns = p.after
			b.Task, b.Line = p, line
			b.Read = int(f.Size * int64(p.count) / total)
			line += p.count
			if !scan.Give(b) {
				return ctx.Err()
			}
		}
	}
	return nil
}

// Decode reads the values of a batch.
func (f *File) Decode(b *rows.Batch) {
	b.NewVectors()
	p, ok := b.Task.(*piece)
	if !ok {
		return // rows that are left out
	}
	for i := range f.columns {
		if err := f.decode(b, p, i); err != nil && b.Fault == nil {
			b.Fault = err
		}
	}
	if b.Fault == nil {
		b.Count = p.count
	}
}

// decode reads the values of a column, after those of the batches before.
func (f *File) decode(b *rows.Batch, p *piece, i int) error {
	if p.turns[i] != nil {
		<-p.turns[i]
	}
	defer close(p.after[i])
	v := &b.Vectors[i]
	if b.Fault != nil || !b.Wants(i) || f.columns[i].stored == nothing {
		*v = rows.Vector{Type: v.Type, Valid: make([]uint64, (p.count+63)/64)}
		return nil
	}
	err := f.guarded(func() error {
		if p.chunks[i].pages == nil {
			var err error
			if p.chunks[i].pages, err = f.openPages(p.number, &f.columns[i]); err != nil {
				return err
			}
		}
		if err := f.columns[i].read(p.chunks[i], p.count, v); err != nil {
			return err
		}
		if zone := f.columns[i].zone; zone != nil {
			zone.localise(v)
		}
		return nil
	})
	var problem *fault.Fault
	if errors.As(err, &problem) {
		problem.Column = f.columns[i].Name
	}
	return err
}
