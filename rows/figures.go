package rows

import "bytes"

// Figures says of a column of texts that all of them are numbers, or truth values, as outputs whose columns have types have them. What reads
// texts still sees texts.
type Figures struct {
	// Type is Integer, Decimal or Bool, and Scale how many decimals a Decimal has.
	Type  Type
	Scale uint8
	// Plain turns the texts of a part into numbers such as 1234.56; nil for parts in which they are written so.
	Plain map[*Part]Plainer
}

// Plainer turns a text into a plain number.
type Plainer interface {
	AppendPlain(to, text []byte) ([]byte, bool)
}

// typed is the column as outputs have it whose columns have types.
func (f *Figures) typed(name string) Column {
	return Column{Name: name, Type: f.Type, Scale: f.Scale, Wide: f.Type == Decimal}
}

// figure appends a text of figures to a vector.
func (v *Vector) figure(f *Figures, part *Part, text []byte) {
	if plainer := f.Plain[part]; plainer != nil {
		if plain, ok := plainer.AppendPlain(nil, text); ok {
			text = plain
		}
	}
	switch v.Type {
	case Bool:
		v.Int = append(v.Int, 0)
		if bytes.Equal(text, []byte("true")) {
			v.Int[len(v.Int)-1] = 1
		}
	case Integer:
		number, digits := int64(0), bytes.TrimPrefix(text, []byte{'-'})
		for _, c := range digits {
			number = number*10 + int64(c-'0')
		}
		if len(digits) < len(text) {
			number = -number
		}
		v.Int = append(v.Int, number)
	default:
		v.AppendBytes(text)
	}
}
