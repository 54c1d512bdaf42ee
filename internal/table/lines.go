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
