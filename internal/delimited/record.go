package delimited

import (
	"bytes"

	"roundyear/rows"
)

// record is a single record, such as a header or the text of a ragged row.
type record struct {
	raw  []byte
	ends []uint32
}

// parse reads the record that text begins with, and returns where the next one begins.
func (r *record) parse(text []byte, delimiter byte) (next int, err error) {
	p := parser{delimiter: delimiter, ends: r.ends[:0]}
	end, next, err := p.record(text, 0)
	r.raw, r.ends = text[:end], p.ends
	return next, err
}

func (r *record) len() int { return len(r.ends) }

// rawField returns a field as it stands in the text, quotes included.
func (r *record) rawField(i int) []byte {
	start := uint32(0)
	if i > 0 {
		start = r.ends[i-1]&^rows.QuotedField + 1
	}
	return r.raw[start : r.ends[i]&^rows.QuotedField]
}

// field returns the value of a field, without quotes.
func (r *record) field(i int) []byte {
	return unquoted(r.rawField(i))
}

// unquoted returns the value of a field as it stands in a file.
func unquoted(raw []byte) []byte {
	if len(raw) == 0 || raw[0] != '"' {
		return raw
	}
	return bytes.ReplaceAll(raw[1:len(raw)-1], []byte(`""`), []byte(`"`))
}

// RawFields returns the fields of a line that was read before as they stand there, quotes
// included.
func (f *File) RawFields(line []byte) [][]byte {
	var r record
	// What was read before can be read again.
	_, _ = r.parse(line, f.Delimiter)
	var fields [][]byte
	for i := range r.len() {
		fields = append(fields, r.rawField(i))
	}
	return fields
}
