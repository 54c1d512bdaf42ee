package rows

// Fields are the values of one column of some rows, as text.
type Fields struct {
	// Texts are the values, as Row.Field returns them. They are good until other ones are
	// read.
	Texts [][]byte
	row   Row
	own   []byte
}

// Read reads a column of the rows of a batch from one to before another.
func (f *Fields) Read(b *Batch, column, from, to int) {
	f.Texts, f.own = f.Texts[:0], f.own[:0]
	if len(b.blankAs) > 0 {
		defer f.blank(b)
	}
	if b.Vectors != nil {
		f.readVector(&b.Vectors[column], from, to)
		return
	}
	width, text := len(b.Part.Columns), b.Text
	for i := from; i < to; i++ {
		at := i*width + column
		start, end := b.Places[i].Start, b.Ends[at]
		if column > 0 {
			start = b.Ends[at-1]&^QuotedField + 1
		}
		if end&QuotedField == 0 && start <= end {
			f.Texts = append(f.Texts, text[start:end])
			continue
		}
		b.Row(i, &f.row)
		f.Texts = append(f.Texts, f.keep(f.row.Field(column)))
	}
}

// blank empties the texts that stand for no value.
func (f *Fields) blank(b *Batch) {
	for i, text := range f.Texts {
		if b.StandsForBlank(text) {
			f.Texts[i] = nil
		}
	}
}

func (f *Fields) readVector(v *Vector, from, to int) {
	for i := from; i < to; i++ {
		if v.Type == Text {
			f.Texts = append(f.Texts, v.Text(i))
			continue
		}
		start := len(f.own)
		f.own = v.AppendText(f.own, i)
		f.Texts = append(f.Texts, f.own[start:])
	}
}

// keep returns a text that is good as long as the others are.
func (f *Fields) keep(text []byte) []byte {
	start := len(f.own)
	f.own = append(f.own, text...)
	return f.own[start:]
}
