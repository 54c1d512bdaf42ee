package rows

import "context"

// Label is a column whose value is the same in all rows of a part.
type Label struct {
	Name, Value string
	// IsBlank tells that the rows have no value.
	IsBlank bool
}

// Labelled returns a part with labels behind its columns. A label that is one of the columns is left out.
func Labelled(part *Part, labels []Label) *Part {
	known := map[string]bool{}
	for _, column := range part.Columns {
		known[column.Name] = true
	}
	own := *part
	d := &labelled{inner: part, first: len(part.Columns)}
	own.Columns = append([]Column(nil), part.Columns...)
	for _, label := range labels {
		if known[label.Name] {
			continue
		}
		known[label.Name] = true
		d.labels = append(d.labels, label)
		own.Columns = append(own.Columns, Column{Name: label.Name})
	}
	if len(d.labels) == 0 {
		return part
	}
	own.Decoder = d
	return &own
}

// OwnColumns returns how many columns the rows of the part have in its file: no labels, and none that are computed.
func (p *Part) OwnColumns() int {
	switch d := p.Decoder.(type) {
	case *labelled:
		return d.inner.OwnColumns()
	case *widening:
		return d.inner.OwnColumns()
	case *computed:
		return d.inner.OwnColumns()
	}
	return len(p.Columns)
}

// Unlabelled returns the decoder of the format that a part is in.
func (p *Part) Unlabelled() Decoder {
	switch d := p.Decoder.(type) {
	case *labelled:
		return d.inner.Unlabelled()
	case *widening:
		return d.inner.Unlabelled()
	case *computed:
		return d.inner.Unlabelled()
	}
	return p.Decoder
}

// labelled decodes the rows of a part and adds labels to them.
type labelled struct {
	inner  *Part
	labels []Label
	// first is the place of the first label.
	first int
}

// Counted is a decoder that knows how many rows it has without reading them.
type Counted interface{ Rows() int }

// Scan reads the part, unless a label rules it out.
func (d *labelled) Scan(ctx context.Context, scan *Scan) error {
	inner := *scan
	inner.exclusions = nil
	counted, isCounted := d.inner.Decoder.(Counted)
	for by, exclusion := range scan.exclusions {
		if exclusion.Column < d.first {
			inner.exclusions = append(inner.exclusions, exclusion)
			continue
		}
		inner.exclusions = append(inner.exclusions, Exclusion{Column: noColumn})
		label := d.labels[exclusion.Column-d.first]
		bounds := Bounds{LeastText: label.Value, MostText: label.Value, IsOne: true, HasMissing: label.IsBlank}
		if !isCounted || !exclusion.Excludes(bounds) {
			continue
		}
		days, isTold := d.toldDays(scan)
		if !isTold {
			continue
		}
		b := scan.Spare()
		for i := range days {
			days[i].Failed = Failing(by)
		}
		b.LeftOutDays = days
		b.LeftOut, b.LeftOutBy, b.Line, b.Read = counted.Rows(), by, 1, int(d.inner.Size)
		scan.Give(b)
		return ctx.Err()
	}
	return d.inner.Decoder.Scan(ctx, &inner)
}

// bounded is a decoder that may know the bounds of a column of days or moments in all rows.
type bounded interface{ DayBounds(column int) []Bounds }

// toldDays returns the days that are to be told of all rows of the part; it is false where they are not known.
func (d *labelled) toldDays(scan *Scan) (days []LeftOutDay, ok bool) {
	column, isAsked := scan.ToldDays()
	if !isAsked {
		return nil, true
	}
	known, ok := d.inner.Decoder.(bounded)
	if !ok || column >= d.first {
		return nil, false
	}
	for _, one := range known.DayBounds(column) {
		if one.IsLoose || !one.Type.IsDate() {
			return nil, false
		}
		days = append(days, one.daysOf()...)
	}
	return days, len(days) > 0
}

// Decode decodes the rows of a batch.
func (d *labelled) Decode(b *Batch) {
	outer := b.Part
	if b.LeftOut > 0 && b.Task == nil {
		b.NewVectors()
		return
	}
	b.Part = d.inner
	d.inner.Decoder.Decode(b)
	if b.Part = outer; b.Vectors == nil {
		d.addTexts(b)
		return
	}
	for _, label := range d.labels {
		v := Vector{Codes: make([]uint32, b.Count), Offsets: []uint32{0, uint32(len(label.Value))}, Bytes: []byte(label.Value)}
		if label.IsBlank {
			v.Valid = make([]uint64, (b.Count+63)/64)
		}
		b.Vectors = append(b.Vectors, v)
	}
}

// addTexts adds the labels to rows of text, each of which is copied for that.
func (d *labelled) addTexts(b *Batch) {
	var values []byte
	var lengths []int
	for _, label := range d.labels {
		if label.IsBlank {
			label.Value = ""
		}
		values = append(append(values, 0), label.Value...)
		lengths = append(lengths, len(label.Value))
	}
	text := make([]byte, 0, len(b.Text)+len(b.Places)*len(values))
	ends := make([]uint32, 0, len(b.Ends)+len(b.Places)*len(lengths))
	for i := range b.Places {
		place := &b.Places[i]
		own := b.Ends[i*d.first : (i+1)*d.first]
		last := own[d.first-1] &^ QuotedField
		start := uint32(len(text))
		text = append(text, b.Text[place.Start:last]...)
		for _, end := range own {
			ends = append(ends, end-place.Start+start) // the mark of a quoted field stays
		}
		text = append(text, values...)
		end := last - place.Start + start
		for _, length := range lengths {
			end += uint32(length) + 1
			ends = append(ends, end)
		}
		place.Start = start
	}
	b.Text, b.Ends = text, ends
}

// Close closes the part.
func (d *labelled) Close() error {
	if closer, ok := d.inner.Decoder.(interface{ Close() error }); ok {
		return closer.Close()
	}
	return nil
}
