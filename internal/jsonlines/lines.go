package jsonlines

import (
	"github.com/go-json-experiment/json/jsontext"

	"roundyear/cell"
)

// Lines makes an object a line. Dates and times are ISO 8601 text, a blank
// is null.
type Lines struct {
	names [][]byte
	// cells are the values as they were written last.
	cells [][]byte
}

// NewLines returns what makes lines of rows with columns.
func NewLines(columns []cell.Column) *Lines {
	l := &Lines{}
	for _, column := range columns {
		l.names = append(l.names, append(appendText(nil, column.Name), ':'))
	}
	return l
}

// Header returns nothing: each line says the names.
func (l *Lines) Header() []byte { return nil }

// Append appends the line of a row. Where changed is given it tells which values may differ from
// those of the row before.
func (l *Lines) Append(text []byte, row []cell.Value, changed []bool) []byte {
	if l.cells == nil {
		l.cells, changed = make([][]byte, len(row)), nil
	}
	text = append(text, '{')
	for i, value := range row {
		if i > 0 {
			text = append(text, ',')
		}
		text = append(text, l.names[i]...)
		if changed == nil || changed[i] {
			l.cells[i] = appendJSON(l.cells[i][:0], value)
		}
		text = append(text, l.cells[i]...)
	}
	return append(text, '}', '\n')
}

func appendJSON(text []byte, value cell.Value) []byte {
	switch {
	case value.IsBlank():
		return append(text, "null"...)
	case value.Type() == cell.Text:
		return appendText(text, value.String())
	case value.Type() == cell.Date || value.Type() == cell.Time:
		return append(value.AppendText(append(text, '"')), '"')
	}
	return value.AppendText(text)
}

func appendText(line []byte, text string) []byte {
	line, err := jsontext.AppendQuote(line, text)
	if err != nil {
		panic(err) // text is UTF-8 when it comes here
	}
	return line
}
