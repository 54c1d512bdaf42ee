package jsonlines

import (
	"io"

	"roundyear/cell"
)

// Array writes rows as one JSON array of objects.
type Array struct {
	out   io.Writer
	lines *Lines
	line  []byte
	any   bool
}

// NewArray returns what writes rows with columns.
func NewArray(out io.Writer, columns []cell.Column) *Array {
	return &Array{out: out, lines: NewLines(columns)}
}

// Write writes a row.
func (a *Array) Write(row []cell.Value) error {
	before := "[\n"
	if a.any {
		before = ",\n"
	}
	a.any = true
	a.line = a.lines.Append(append(a.line[:0], before...), row, nil)
	_, err := a.out.Write(a.line[:len(a.line)-1])
	return err
}

// Close ends the array.
func (a *Array) Close() error {
	end := "\n]\n"
	if !a.any {
		end = "[]\n"
	}
	_, err := io.WriteString(a.out, end)
	return err
}
