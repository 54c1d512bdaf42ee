// Package rowstest makes sources of typed rows for tests.
package rowstest

import (
	"context"

	"roundyear/rows"
)

// typed is a part of vectors, which come in batches of so many rows.
type typed struct {
	vectors []rows.Vector
	count   int
}

func (d *typed) Scan(ctx context.Context, scan *rows.Scan) error {
	size := max(scan.Size, 1)
	for from := 0; from < d.count; from += size {
		b := scan.Spare()
		b.Line, b.Task = from+1, [2]int{from, min(from+size, d.count)}
		if !scan.Give(b) {
			return ctx.Err()
		}
	}
	return nil
}

func (d *typed) Decode(b *rows.Batch) {
	span := b.Task.([2]int)
	b.Count = span[1] - span[0]
	for _, whole := range d.vectors {
		v := rows.Vector{Type: whole.Type, Scale: whole.Scale}
		if whole.Valid != nil {
			v.Valid = make([]uint64, b.Count/64+1)
		}
		for i := range b.Count {
			if whole.Valid != nil && whole.IsValid(span[0]+i) {
				v.Valid[i/64] |= 1 << (i % 64)
			}
		}
		if whole.Type == rows.Text {
			v.Bytes, v.Offsets = whole.Bytes, whole.Offsets[span[0]:span[1]+1]
		} else {
			v.Int = whole.Int[span[0]:span[1]]
		}
		b.Vectors = append(b.Vectors, v)
	}
}

// Typed returns a source of one part with the values of vectors, which need not say their types.
// Its batches have as many rows as the source's size of batches says.
func Typed(columns []rows.Column, vectors ...rows.Vector) *rows.Source {
	for i := range vectors {
		vectors[i].Type, vectors[i].Scale = columns[i].Type, columns[i].Scale
	}
	s := &rows.Source{}
	count := max(len(vectors[0].Int), len(vectors[0].Offsets)-1)
	if err := s.Add(&rows.Part{Name: "t", Columns: columns, Decoder: &typed{vectors, count}}); err != nil {
		panic(err)
	}
	return s
}
