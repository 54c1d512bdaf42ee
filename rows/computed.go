package rows

import (
	"context"
	"errors"
	"slices"

	"roundyear/fault"
)

// Computation computes columns of rows. Its methods are called by many goroutines.
type Computation struct {
	// Columns are what is computed, as text.
	Columns []Column
	// Needs are the places of the columns that it looks at.
	Needs []int
	// Compute appends the values for a row to text, and where each of them ends to ends. On an error the rows end there.
	Compute func(row *Row, text []byte, ends []int) ([]byte, []int, error)
}

// Computing returns the source with columns behind its own that are computed from these.
func (s *Source) Computing(c Computation) *Source {
	own := *s
	own.Parts, own.names, own.places = nil, nil, nil
	for _, part := range s.Parts {
		with := *part
		with.Columns = append(slices.Clone(part.Columns), c.Columns...)
		with.Decoder = &computed{inner: part, first: len(part.Columns), Computation: c}
		own.Parts = append(own.Parts, &with)
	}
	return &own
}

// Renaming returns the source with other names of its columns.
func (s *Source) Renaming(names []string) *Source {
	own := *s
	own.Parts, own.names, own.places = nil, nil, nil
	for _, part := range s.Parts {
		with := *part
		with.Columns = slices.Clone(part.Columns)
		for i, name := range names {
			with.Columns[i].Name = name
		}
		own.Parts = append(own.Parts, &with)
	}
	return &own
}

// computed decodes the rows of a part and computes columns.
type computed struct {
	inner *Part
	// first is the place of the first column that is computed.
	first int
	Computation
}

// Scan reads the part.
func (d *computed) Scan(ctx context.Context, scan *Scan) error {
	inner := *scan
	inner.exclusions = nil
	for _, exclusion := range scan.exclusions {
		if exclusion.Column >= d.first {
			exclusion.Column = noColumn
		}
		inner.exclusions = append(inner.exclusions, exclusion)
	}
	if column, isAsked := scan.ToldDays(); isAsked && column >= d.first {
		inner.days, inner.exclusions = 0, nil // no format knows them
	}
	return d.inner.Decoder.Scan(ctx, &inner)
}

// Decode decodes the rows of a batch.
func (d *computed) Decode(b *Batch) {
	outer := b.Part
	b.Part = d.inner
	d.inner.Decoder.Decode(b)
	var text []byte
	var ends []int
	var row Row
	count := b.Len()
	for i := range count {
		b.Row(i, &row)
		before := len(ends)
		var err error
		if row.Ragged() == 0 {
			text, ends, err = d.Compute(&row, text, ends)
		}
		if err != nil {
			b.endAt(i, d.first, faultAt(err, d.inner.Name, row.Line))
			ends = ends[:before]
			break
		}
		for len(ends) < before+len(d.Columns) {
			ends = append(ends, len(text))
		}
	}
	if b.Part = outer; b.Vectors == nil {
		d.addTexts(b, text, ends)
		return
	}
	vectors := make([]Vector, len(d.Columns))
	start := 0
	for i, end := range ends {
		if v := &vectors[i%len(vectors)]; end > start {
			v.AppendBytes(text[start:end])
		} else {
			v.AppendMissing()
		}
		start = end
	}
	b.Vectors = append(b.Vectors[:d.first:d.first], vectors...)
}

func faultAt(err error, file string, line int) error {
	var problem *fault.Fault
	if !errors.As(err, &problem) {
		problem = &fault.Fault{What: err.Error()}
	}
	problem.File, problem.Line = file, line
	return problem
}

// endAt makes the rows of the batch end before one of them.
func (b *Batch) endAt(row, columns int, why error) {
	b.Fault = why
	if b.Vectors != nil {
		b.Count = row
		return
	}
	b.Places, b.Ends = b.Places[:row], b.Ends[:row*columns]
}

// addTexts adds the values to rows of text, each of which is copied for that.
func (d *computed) addTexts(b *Batch, values []byte, valueEnds []int) {
	text := make([]byte, 0, len(b.Text)+len(values)+len(valueEnds))
	ends := make([]uint32, 0, len(b.Ends)+len(valueEnds))
	from, at := 0, 0
	for i := range b.Places {
		place := &b.Places[i]
		own := b.Ends[i*d.first : (i+1)*d.first]
		last := own[d.first-1] &^ QuotedField
		start := uint32(len(text))
		text = append(text, b.Text[place.Start:max(last, place.Start)]...)
		for _, end := range own {
			ends = append(ends, end-place.Start+start) // the mark of a quoted field stays
		}
		for range d.Columns {
			text = append(append(text, 0), values[from:valueEnds[at]]...)
			ends = append(ends, uint32(len(text)))
			from = valueEnds[at]
			at++
		}
		place.Start = start
	}
	b.Text, b.Ends = text, ends
}

// Close closes the part.
func (d *computed) Close() error {
	if closer, ok := d.inner.Decoder.(interface{ Close() error }); ok {
		return closer.Close()
	}
	return nil
}
