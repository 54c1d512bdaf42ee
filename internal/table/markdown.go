package table

import (
	"io"

	"roundyear/cell"
	"roundyear/internal/markup"
)

// markdown writes a table with numbers set to the right.
type markdown struct {
	out  io.Writer
	line []byte
}

func newMarkdown(out io.Writer, columns []cell.Column) (RowWriter, error) {
	w := &markdown{out: out}
	return w, w.header(columns)
}

func (w *markdown) header(columns []cell.Column) error {
	names, rules := "|", "|"
	for _, column := range columns {
		names += " " + markup.Markdown(column.Name) + " |"
		if column.Type == cell.Integer || column.Type == cell.Decimal {
			rules += " ---: |"
		} else {
			rules += " --- |"
		}
	}
	_, err := io.WriteString(w.out, names+"\n"+rules+"\n")
	return err
}

func (w *markdown) Write(row []cell.Value) error {
	w.line = append(w.line[:0], '|')
	for _, value := range row {
		w.line = append(append(append(w.line, ' '), markup.Markdown(value.String())...), " |"...)
	}
	w.line = append(w.line, '\n')
	_, err := w.out.Write(w.line)
	return err
}

func (w *markdown) Close() error { return nil }
