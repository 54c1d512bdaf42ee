package rows

import (
	"fmt"

	"roundyear/cell"
)

// Block is rows as vectors.
type Block struct {
	Vectors []Vector
	Count   int
}

// Size returns about how many bytes of memory the rows take.
func (b Block) Size() int {
	size := 0
	for i := range b.Vectors {
		v := &b.Vectors[i]
		size += 8*len(v.Int) + 4*len(v.Offsets) + len(v.Bytes) + 8*len(v.Valid)
	}
	return size
}

// Cut returns the first rows, at most so many, and the others.
func (b Block) Cut(most int) (first, rest Block) {
	if b.Count <= most {
		return b, Block{}
	}
	first, rest = Block{Count: most}, Block{Count: b.Count - most}
	for i := range b.Vectors {
		first.Vectors = append(first.Vectors, b.Vectors[i].between(0, most))
		rest.Vectors = append(rest.Vectors, b.Vectors[i].between(most, b.Count))
	}
	return first, rest
}

// between returns the values from one to before another.
func (v *Vector) between(from, to int) Vector {
	own := Vector{Type: v.Type, Scale: v.Scale}
	if v.Offsets != nil {
		own.Offsets, own.Bytes = v.Offsets[from:to+1], v.Bytes
	} else {
		own.Int = v.Int[from:to]
	}
	for i := from; i < to && len(v.Valid) > 0; i++ {
		if !v.IsValid(i) {
			own.Invalidate(i - from)
		}
	}
	return own
}

// AppendMissing appends a value that is missing.
func (v *Vector) AppendMissing() {
	v.Invalidate(v.Len())
	if v.Type == Text {
		v.AppendBytes(nil)
		return
	}
	v.Int = append(v.Int, 0)
}

// AppendBytes appends a text.
func (v *Vector) AppendBytes(text []byte) {
	if v.Offsets == nil {
		v.Offsets = append(v.Offsets, 0)
	}
	v.Bytes = append(v.Bytes, text...)
	v.Offsets = append(v.Offsets, uint32(len(v.Bytes)))
}

// AppendCell appends a value of a table.
func (v *Vector) AppendCell(value cell.Value) {
	switch {
	case value.IsBlank():
		v.AppendMissing()
	case v.Type == Text:
		if v.Offsets == nil {
			v.Offsets = append(v.Offsets, 0)
		}
		v.Bytes = value.AppendText(v.Bytes)
		v.Offsets = append(v.Offsets, uint32(len(v.Bytes)))
	case cellTypes[value.Type()] != v.Type:
		panic(fmt.Sprintf("a value of type %s for a column of type %d", value.Type(), v.Type))
	default:
		v.Int = append(v.Int, value.Int())
	}
}

// OfCells returns columns of a source for those of a table. Vectors of its decimals are text, since those
// have any number of digits.
func OfCells(columns []cell.Column) []Column {
	of := make([]Column, len(columns))
	for i, column := range columns {
		of[i] = Column{Name: column.Name, Type: cellTypes[column.Type], Scale: column.Scale, Wide: column.Type == cell.Decimal, Key: column.Key}
	}
	return of
}

var cellTypes = [...]Type{cell.Text: Text, cell.Integer: Integer, cell.Decimal: Decimal, cell.Date: Day, cell.Boolean: Bool, cell.Time: Clock}

// NewBlock returns a block of columns without rows, with memory for so many rows of so many bytes of text.
func NewBlock(columns []Column, count, bytes int) Block {
	b := Block{Vectors: make([]Vector, len(columns))}
	for i, column := range columns {
		v := Vector{Type: column.Type, Scale: column.Scale}
		if column.Type == Decimal && column.Wide {
			v.Type = Text
		}
		if v.Type == Text {
			v.Offsets, v.Bytes = append(make([]uint32, 0, count+1), 0), make([]byte, 0, bytes/len(columns))
		} else {
			v.Int = make([]int64, 0, count)
		}
		b.Vectors[i] = v
	}
	return b
}

// AppendFrom appends a row of another block of the same columns.
func (b *Block) AppendFrom(from *Block, row int) {
	for i := range b.Vectors {
		b.Vectors[i].AppendFrom(&from.Vectors[i], row)
	}
	b.Count++
}

// AppendFrom appends a value of another vector of the same column.
func (v *Vector) AppendFrom(from *Vector, at int) {
	switch {
	case !from.IsValid(at):
		v.AppendMissing()
	case from.Type == Text && v.Type != Text:
		v.toText()
		v.AppendBytes(from.Text(at))
	case v.Type == Text:
		v.AppendBytes(from.AppendText(nil, at))
	default:
		v.Int = append(v.Int, from.Int[at])
	}
}

// AppendField appends a value of a row to a vector of the same type. Text that is empty is
// missing, since files of text do not tell one from the other.
func (v *Vector) AppendField(r *Row, i int) {
	from, at := r.Vector(i)
	switch {
	case from != nil && !from.IsValid(at):
		v.AppendMissing()
	case from != nil && from.Type == Text && v.Type == Text:
		v.AppendBytes(from.Text(at))
	case from == nil || v.Type == Text:
		switch text, figures := r.Field(i), r.batch.Part.Columns[i].Figures; {
		case len(text) == 0:
			v.AppendMissing()
		case from == nil && figures != nil:
			v.figure(figures, r.batch.Part, text)
		default:
			v.AppendBytes(text)
		}
	case from.Type == Text:
		v.toText()
		v.AppendBytes(from.Text(at))
	default:
		v.Int = append(v.Int, from.Int[at])
	}
}

// toText makes numbers text, since one of them does not fit into 64 bits.
func (v *Vector) toText() {
	own := Vector{Type: Text, Scale: v.Scale, Valid: v.Valid, Offsets: []uint32{0}}
	for i := range v.Int {
		own.Bytes = v.AppendText(own.Bytes, i)
		own.Offsets = append(own.Offsets, uint32(len(own.Bytes)))
	}
	*v = own
}

// Joined returns a column of blocks as one vector, and how many values it has. Numbers become text where
// those of one of the blocks are.
func Joined(blocks []Block, column int) (all Vector, count int) {
	bytes, isText := 0, false
	for _, block := range blocks {
		v := &block.Vectors[column]
		count, bytes, isText = count+block.Count, bytes+len(v.Bytes), isText || v.Type == Text
	}
	all = Vector{Type: blocks[0].Vectors[column].Type, Scale: blocks[0].Vectors[column].Scale}
	if isText {
		all.Type, all.Offsets, all.Bytes = Text, append(make([]uint32, 0, count+1), 0), make([]byte, 0, bytes)
	} else {
		all.Int = make([]int64, 0, count)
	}
	at := 0
	for _, block := range blocks {
		v := block.Vectors[column]
		if isText && v.Type != Text {
			v.toText()
		}
		for i := range block.Count {
			if len(v.Valid) > 0 && !v.IsValid(i) {
				all.Invalidate(at + i)
			}
		}
		at += block.Count
		if !isText {
			all.Int = append(all.Int, v.Int...)
			continue
		}
		if block.Count == 0 {
			continue
		}
		// The texts of a block that was cut begin somewhere in its bytes.
		start, shift := v.Offsets[0], uint32(len(all.Bytes))
		all.Bytes = append(all.Bytes, v.Bytes[start:v.Offsets[block.Count]]...)
		for _, end := range v.Offsets[1 : block.Count+1] {
			all.Offsets = append(all.Offsets, end-start+shift)
		}
	}
	return all, count
}
