package rows

import (
	"context"
	"math"
	"slices"
)

// widened returns a part with other types of its columns, which hold all of its values.
func widened(part *Part, columns []Column) *Part {
	own := *part
	own.Columns = columns
	own.Decoder = &widening{inner: part}
	return &own
}

// wider returns a column that holds the values of two: a number with the decimals of both, a moment for a day and a moment,
// text for text and something else. It is false for other types that have nothing in common, such as times in UTC and
// local ones, of which only one says which day it is.
func wider(a, b Column) (Column, bool) {
	const mostDecimals, mostOfMoments = 9, 6
	if a.Shown != b.Shown {
		a.Shown, b.Shown = AsNumbers, AsNumbers
	}
	own := Column{Name: a.Name, Scale: max(a.Scale, b.Scale), Shown: a.Shown}
	are := func(types ...Type) bool { return slices.Contains(types, a.Type) && slices.Contains(types, b.Type) }
	switch {
	case a == b:
		return a, true
	case are(Decimal) && (a.Wide || b.Wide), are(Integer, Decimal) && own.Scale <= mostDecimals:
		own.Type, own.Wide = Decimal, a.Wide || b.Wide
	case are(Integer, Decimal, Float):
		own.Type, own.Scale = Float, 0
	case are(Day, Moment) && own.Scale <= mostOfMoments:
		own.Type = Moment
	case are(Clock), are(Instant) && own.Scale <= mostOfMoments:
		own.Type = a.Type
	case (a.Type == Text || b.Type == Text) && a.Type != Instant && b.Type != Instant:
		own.Scale = 0
	default:
		return own, false
	}
	return own, true
}

// widening decodes the rows of a part and makes their vectors those of wider columns.
type widening struct{ inner *Part }

// Scan reads the part. Bounds are told in the types of the part.
func (w *widening) Scan(ctx context.Context, scan *Scan) error {
	return w.inner.Decoder.Scan(ctx, scan)
}

// Decode decodes the rows of a batch.
func (w *widening) Decode(b *Batch) {
	outer := b.Part
	b.Part = w.inner
	w.inner.Decoder.Decode(b)
	b.Part = outer
	for i := range b.Vectors {
		if from, to := w.inner.Columns[i], outer.Columns[i]; from != to {
			b.Vectors[i] = b.Vectors[i].widened(to)
		}
	}
}

// widened returns the values in the type of a wider column; as text where one does not fit into it.
func (v *Vector) widened(to Column) Vector {
	if v.Type == Text || v.Type == to.Type && v.Scale == to.Scale {
		return *v
	}
	if to.Type == Text {
		own := Vector{Type: Text, Valid: v.Valid, Offsets: []uint32{0}}
		for i := range v.Int {
			own.Bytes = v.AppendText(own.Bytes, i)
			own.Offsets = append(own.Offsets, uint32(len(own.Bytes)))
		}
		return own
	}
	own := Vector{Type: to.Type, Scale: to.Scale, Valid: v.Valid, Int: make([]int64, len(v.Int))}
	if to.Type == Float {
		for i, value := range v.Int {
			own.Int[i] = int64(math.Float64bits(float64(value) / float64(power(v.Scale))))
		}
		return own
	}
	factor := power(to.Scale - v.Scale)
	if v.Type == Day && to.Type == Moment {
		factor = secondsOfDay * power(to.Scale)
	}
	for i, value := range v.Int {
		if own.Int[i] = value * factor; own.Int[i]/factor != value {
			return v.widened(Column{}) // a number that does not fit into 64 bits
		}
	}
	return own
}

// Close closes the part.
func (w *widening) Close() error {
	if closer, ok := w.inner.Decoder.(interface{ Close() error }); ok {
		return closer.Close()
	}
	return nil
}
