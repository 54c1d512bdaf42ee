package rows

import (
	"bytes"
	"fmt"

	"roundyear/civil"
)

// Batch is some rows of one part, in the order of the part. What Scan gives has only input;
// Decode finds the rows in it, either as text that lies row by row, or as vectors.
type Batch struct {
	// Part is the part that the rows are of.
	Part *Part
	// Input is what Scan has read for Decode, and Task what else it says. Line is the line of
	// the first row, or its number, from 1. Read is how many bytes of the part were read.
	Input []byte
	Task  any
	Line  int
	Read  int

	// Text, Ends and Places are rows of text: Text holds all fields, Places says where each
	// row begins, and Ends where its fields end, as many for each row as there are columns.
	// A field begins one byte behind the end of the one before it.
	Text   []byte
	Ends   []uint32
	Places []Place
	// Buffer is memory that Decode may use for Text.
	Buffer []byte
	// Vectors are the columns of rows that do not lie as text; Count is their number.
	Vectors []Vector
	Count   int
	// Lines are the lines of rows that do not lie as text, where they do not follow one another from that of the batch on.
	Lines []int
	// LeftOut is how many rows the format has left out in place of the batch, since the
	// exclusion LeftOutBy says that none of them is wanted.
	LeftOut, LeftOutBy int
	// LeftOutDays are the days of rows that are left out, in the column that the source is asked to tell them of.
	LeftOutDays []LeftOutDay
	// Fault is why the rows end early: what stands behind the last one is not a row.
	Fault error

	// spare is memory of vectors.
	spare       []Vector
	keepsRagged bool
	wanted      []bool
	blankAs     []string
	next        int
}

// LeftOutDay is a day of rows that are left out, or with Through the first one and the last one of them, and Failed which exclusions rule
// them out: a bit for each, as far as the format can tell.
type LeftOutDay struct {
	Day, Through civil.Day
	Failed       uint64
}

// Wants tells whether a column will be asked for, by its place. Decode may leave others empty.
func (b *Batch) Wants(column int) bool { return b.wanted == nil || b.wanted[column] }

// Place is where a row of text lies: its first field in Text, and all of it as it was read in
// Input. Line counts from the line of the batch.
type Place struct {
	Start, Line  uint32
	RawStart     uint32
	RawEnd       uint32
	Ragged       uint32
	MayHaveBreak bool
}

// QuotedField marks the end of a field that stands in double quotes, with those inside doubled.
const QuotedField = 1 << 31

func (b *Batch) reset(part *Part) {
	if b.spare == nil {
		b.spare = b.Vectors
	}
	*b = Batch{Part: part, spare: b.spare, Input: b.Input[:0], Ends: b.Ends[:0], Places: b.Places[:0], Buffer: b.Buffer[:0], Lines: b.Lines[:0]}
}

// NewVectors makes the vectors of the batch those of its columns, without values, in memory that may have
// been used before.
func (b *Batch) NewVectors() {
	columns := b.Part.Columns
	if len(b.spare) < len(columns) {
		b.spare = make([]Vector, len(columns))
	}
	b.spare = b.spare[:len(columns)]
	for i, column := range columns {
		v := &b.spare[i]
		*v = Vector{Type: column.Type, Scale: column.Scale, Valid: v.Valid[:0], Int: v.Int[:0]}
	}
	b.Vectors = b.spare
}

// Size returns the number of bytes of input.
func (b *Batch) Size() int { return len(b.Input) }

// AddRagged adds a row whose fields, with the ends given, are more or fewer than there are columns.
// It is false where such a row is a fault.
func (b *Batch) AddRagged(place Place, ends []uint32) bool {
	if !b.keepsRagged {
		return false
	}
	place.Ragged = uint32(len(ends))
	b.Places = append(b.Places, place)
	columns := len(b.Part.Columns)
	b.Ends = append(b.Ends, ends[:min(len(ends), columns)]...)
	for range columns - len(ends) {
		b.Ends = append(b.Ends, place.RawEnd)
	}
	return true
}

// Len returns the number of rows.
func (b *Batch) Len() int {
	if b.Vectors != nil {
		return b.Count
	}
	return len(b.Places)
}

// Next makes r the next row. It is false after the last one.
func (b *Batch) Next(r *Row) bool {
	if b.next == b.Len() {
		return false
	}
	b.Row(b.next, r)
	b.next++
	return true
}

// Row makes r a row of the batch, by its place from 0.
func (b *Batch) Row(index int, r *Row) {
	r.batch, r.index, r.scratch = b, index, r.scratch[:0]
	if b.Vectors != nil {
		r.Line = b.LineOf(index)
		return
	}
	width := len(b.Part.Columns)
	at := index * width
	place := &b.Places[index]
	r.text, r.ends, r.start, r.Line = b.Text, b.Ends[at:at+width:at+width], place.Start, b.Line+int(place.Line)
}

// IsRagged tells whether a row has more or fewer fields than there are columns.
func (b *Batch) IsRagged(index int) bool { return b.Vectors == nil && b.Places[index].Ragged > 0 }

// LineOf returns the line in which a row begins, or its number, from 1.
func (b *Batch) LineOf(index int) int {
	switch {
	case b.Vectors == nil:
		return b.Line + int(b.Places[index].Line)
	case len(b.Lines) > 0:
		return b.Lines[index]
	}
	return b.Line + index
}

// Err returns why the rows end early, once all of them have been read.
func (b *Batch) Err() error { return b.Fault }

// Row is one row of a batch.
type Row struct {
	// Line is the line of the part in which the row begins, or its number, from 1.
	Line int

	batch   *Batch
	index   int
	text    []byte
	ends    []uint32
	start   uint32
	scratch []byte
}

// Part returns the part that the row is of.
func (r *Row) Part() *Part { return r.batch.Part }

// Len returns the number of columns.
func (r *Row) Len() int { return len(r.batch.Part.Columns) }

// Raw returns the row as it was read, without its line end; nothing in a format that is not
// made of lines.
func (r *Row) Raw() []byte {
	if r.batch.Vectors != nil {
		return nil
	}
	place := &r.batch.Places[r.index]
	return r.batch.Input[place.RawStart:place.RawEnd]
}

// MayHaveBreak tells whether a field may hold a line break.
func (r *Row) MayHaveBreak() bool {
	return r.batch.Vectors != nil || r.batch.Places[r.index].MayHaveBreak
}

// Ragged returns the number of fields of a row that has more or fewer than there are columns;
// else 0. Those that are too many cannot be asked for, and those that are missing are empty.
func (r *Row) Ragged() int {
	if r.batch.Vectors != nil {
		return 0
	}
	return int(r.batch.Places[r.index].Ragged)
}

// RaggedReason says in words that a row has another number of fields than there are columns.
func RaggedReason(fields, columns int) string {
	count := fmt.Sprintf("%d fields", fields)
	if fields == 1 {
		count = "1 field"
	}
	return fmt.Sprintf("%s, but the header has %d", count, columns)
}

// RawField returns a field of a row of text as it stands there, quotes included.
func (r *Row) RawField(i int) []byte {
	start := r.start
	if i > 0 {
		start = r.ends[i-1]&^QuotedField + 1
	}
	end := r.ends[i] &^ QuotedField
	if start > end {
		return nil // a field that a ragged row does not have
	}
	return r.text[start:end]
}

// Field returns the value of a column as text, without quotes; a value that is missing, or a text that stands for
// that, is empty. It is good until the next row.
func (r *Row) Field(i int) []byte {
	value := r.value(i)
	if len(r.batch.blankAs) > 0 && r.batch.StandsForBlank(value) {
		return nil
	}
	return value
}

// StandsForBlank tells whether a text stands for no value.
func (b *Batch) StandsForBlank(text []byte) bool {
	text = bytes.TrimSpace(text)
	for _, blank := range b.blankAs {
		if string(text) == blank {
			return true
		}
	}
	return false
}

func (r *Row) value(i int) []byte {
	if r.batch.Vectors != nil {
		return r.formatted(i)
	}
	raw := r.RawField(i)
	if r.ends[i]&QuotedField == 0 {
		return raw
	}
	return r.unquoted(raw[1 : len(raw)-1])
}

func (r *Row) unquoted(inner []byte) []byte {
	if bytes.IndexByte(inner, '"') < 0 {
		return inner
	}
	start := len(r.scratch)
	for {
		quote := bytes.IndexByte(inner, '"')
		if quote < 0 {
			r.scratch = append(r.scratch, inner...)
			return r.scratch[start:]
		}
		r.scratch = append(r.scratch, inner[:quote+1]...)
		inner = inner[quote+2:]
	}
}

// formatted returns a value of a vector as text.
func (r *Row) formatted(i int) []byte {
	vector := &r.batch.Vectors[i]
	if vector.Type == Text {
		return vector.Text(r.index)
	}
	start := len(r.scratch)
	r.scratch = vector.AppendText(r.scratch, r.index)
	return r.scratch[start:]
}

// Vector returns the vector of a column and the place of the row in it; nil for text that lies
// row by row.
func (r *Row) Vector(i int) (*Vector, int) {
	if r.batch.Vectors == nil {
		return nil, 0
	}
	return &r.batch.Vectors[i], r.index
}
