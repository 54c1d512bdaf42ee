package delimited

import (
	"bytes"

	"roundyear/cell"
)

// Lines makes lines of CSV as RFC 4180 has it, with \n for line ends, or the same with
// another delimiter. A value that stands in the row before as well is copied
// from its line: in a date table most do.
type Lines struct {
	delimiter byte
	formulas  Formulas
	columns   []cell.Column
	// before is the line before, row its values and widths the lengths of their
	// texts with the delimiter after them.
	before []byte
	row    []cell.Value
	widths []int32
	any    bool
}

// NewLines returns what makes lines of rows with columns.
func NewLines(delimiter byte, formulas Formulas, columns []cell.Column) *Lines {
	return &Lines{delimiter: delimiter, formulas: formulas, columns: columns, row: make([]cell.Value, len(columns)), widths: make([]int32, len(columns))}
}

// Header returns the line of the names of the columns.
func (l *Lines) Header() []byte {
	names := make([]cell.Value, len(l.columns))
	for i, column := range l.columns {
		names[i] = cell.OfText(column.Name)
	}
	return NewLines(l.delimiter, l.formulas, l.columns).Append(nil, names, nil)
}

// Append appends the line of a row. Where changed is given it tells which values may differ from
// those of the row before.
func (l *Lines) Append(text []byte, row []cell.Value, changed []bool) []byte {
	if len(row) == 0 {
		return append(text, '\n')
	}
	first, at := len(text), int32(0) // at is how far the line before has been passed
	for i := 0; i < len(row); {
		from := at
		for l.any && i < len(row) && l.same(row, changed, i) {
			at += l.widths[i]
			i++
		}
		if at > from {
			text = append(text, l.before[from:at]...)
			continue
		}
		at += l.widths[i]
		l.row[i] = row[i]
		start := len(text)
		text = row[i].AppendText(text)
		if row[i].Type() == cell.Text {
			if l.formulas == GuardFormulas {
				text = GuardFrom(text, start)
			}
			text = QuoteFrom(text, start, l.delimiter)
		}
		text = append(text, l.delimiter)
		l.widths[i] = int32(len(text) - start)
		i++
	}
	text[len(text)-1] = '\n'
	l.before, l.any = append(l.before[:0], text[first:]...), true
	l.before[len(l.before)-1] = l.delimiter
	return text
}

// same tells whether a value is that of the row before.
func (l *Lines) same(row []cell.Value, changed []bool, i int) bool {
	return changed != nil && !changed[i] || row[i].Same(l.row[i])
}

// QuoteFrom puts quotes around the field that begins at start and ends the
// line, if it needs them.
func QuoteFrom(line []byte, start int, delimiter byte) []byte {
	field := line[start:]
	if bytes.IndexByte(field, delimiter) < 0 && !bytes.ContainsAny(field, "\"\r\n") {
		return line
	}
	value := bytes.ReplaceAll(field, []byte{'"'}, []byte{'"', '"'})
	line = append(line[:start], '"')
	return append(append(line, value...), '"')
}
