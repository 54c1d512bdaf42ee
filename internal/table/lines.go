package table

import (
	"io"

	"roundyear/cell"
)

// RowLines turns rows into lines of a format, one after the other. It keeps
// what the row before has looked like, so it serves one goroutine.
type RowLines interface {
	// Append appends the line of a row. Where changed is given it tells which
	// values may differ from those of the row before.
	Append(text []byte, row []cell.Value, changed []bool) []byte
}

// NewRowLines returns what turns rows into lines of a format, and the header of
// the format. It is false for a format that is not made of lines. Only files that
// spreadsheets read have formulas.
func NewRowLines(format string, formulas Formulas, columns []cell.Column) (lines RowLines, header []byte, ok bool) {
	switch format {
	case "csv", "tsv":
		delimiter := byte(',')
		if format == "tsv" {
			delimiter = '\t'
		}
		names := make([]cell.Value, len(columns))
		for i, column := range columns {
			names[i] = cell.OfText(column.Name)
		}
		return newDelimited(delimiter, formulas, len(columns)), newDelimited(delimiter, formulas, len(columns)).Append(nil, names, nil), true
	case "jsonl":
		j := &jsonLines{}
		for _, column := range columns {
			j.names = append(j.names, append(jsonText(column.Name), ':'))
		}
		return j, nil, true
	}
	return nil, nil, false
}

// lineWriter writes lines to an output as they come.
type lineWriter struct {
	out   io.Writer
	lines RowLines
	line  []byte
}

func newLineWriter(out io.Writer, lines RowLines, header []byte) (*lineWriter, error) {
	_, err := out.Write(header)
	return &lineWriter{out: out, lines: lines}, err
}

func (w *lineWriter) Write(row []cell.Value) error {
	w.line = w.lines.Append(w.line[:0], row, nil)
	_, err := w.out.Write(w.line)
	return err
}

func (w *lineWriter) Close() error { return nil }

// delimited makes lines of CSV as RFC 4180 has it, with \n for line ends, or
// the same with tabs. A value that stands in the row before as well is copied
// from its line: in a date table most do.
type delimited struct {
	delimiter byte
	formulas  Formulas
	// before is the line before, row its values and widths the lengths of their
	// texts with the delimiter after them.
	before []byte
	row    []cell.Value
	widths []int32
	any    bool
}

func newDelimited(delimiter byte, formulas Formulas, columns int) *delimited {
	return &delimited{delimiter: delimiter, formulas: formulas, row: make([]cell.Value, columns), widths: make([]int32, columns)}
}

func (d *delimited) Append(text []byte, row []cell.Value, changed []bool) []byte {
	if len(row) == 0 {
		return append(text, '\n')
	}
	first, at := len(text), int32(0) // at is how far the line before has been passed
	for i := 0; i < len(row); {
		from := at
		for d.any && i < len(row) && d.same(row, changed, i) {
			at += d.widths[i]
			i++
		}
		if at > from {
			text = append(text, d.before[from:at]...)
			continue
		}
		at += d.widths[i]
		d.row[i] = row[i]
		start := len(text)
		text = row[i].AppendText(text)
		if row[i].Type() == cell.Text {
			if d.formulas == GuardFormulas {
				text = GuardFrom(text, start)
			}
			text = QuoteFrom(text, start, d.delimiter)
		}
		text = append(text, d.delimiter)
		d.widths[i] = int32(len(text) - start)
		i++
	}
	text[len(text)-1] = '\n'
	d.before, d.any = append(d.before[:0], text[first:]...), true
	d.before[len(d.before)-1] = d.delimiter
	return text
}

// same tells whether a value is that of the row before.
func (d *delimited) same(row []cell.Value, changed []bool, i int) bool {
	return changed != nil && !changed[i] || row[i].Same(d.row[i])
}

// jsonLines makes an object a line. Dates and times are ISO 8601 text, a blank
// is null.
type jsonLines struct {
	names [][]byte
	// cells are the values as they were written last.
	cells [][]byte
}

func (j *jsonLines) Append(text []byte, row []cell.Value, changed []bool) []byte {
	if j.cells == nil {
		j.cells, changed = make([][]byte, len(row)), nil
	}
	text = append(text, '{')
	for i, value := range row {
		if i > 0 {
			text = append(text, ',')
		}
		text = append(text, j.names[i]...)
		if changed == nil || changed[i] {
			j.cells[i] = appendJSON(j.cells[i][:0], value)
		}
		text = append(text, j.cells[i]...)
	}
	return append(text, '}', '\n')
}

func appendJSON(text []byte, value cell.Value) []byte {
	switch {
	case value.IsBlank():
		return append(text, "null"...)
	case value.Type() == cell.Text:
		return append(text, jsonText(value.String())...)
	case value.Type() == cell.Date || value.Type() == cell.Time:
		return append(value.AppendText(append(text, '"')), '"')
	}
	return value.AppendText(text)
}
