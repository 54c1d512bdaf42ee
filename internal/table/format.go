package table

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"path/filepath"
	"slices"
	"strings"

	"roundyear/cell"
	"roundyear/fault"
)

// RowWriter writes typed rows in one format.
type RowWriter interface {
	// Write writes a row; its values are in the order of the columns.
	Write(row []cell.Value) error
	// Close writes what a format has after the last row.
	Close() error
}

// Formats are the names of the formats that typed rows are written in.
var Formats = []string{"csv", "tsv", "jsonl", "md"}

// FormatOf returns the format of a path by its ending.
func FormatOf(path string) (string, error) {
	ending := strings.ToLower(strings.TrimPrefix(filepath.Ext(path), "."))
	if slices.Contains(Formats, ending) {
		return ending, nil
	}
	if ending == "" {
		return "", &fault.Fault{File: path, What: "has no file extension that tells the format", Remedy: "Give it one of ." + strings.Join(Formats, ", .") + ", or say --format"}
	}
	return "", &fault.Fault{File: path, What: fmt.Sprintf("unknown file extension .%s", ending),
		Remedy: "The formats are " + strings.Join(Formats, ", ")}
}

// NewRowWriter writes the header of a format and returns the writer of its
// rows.
func NewRowWriter(format string, formulas Formulas, out io.Writer, columns []cell.Column) (RowWriter, error) {
	if lines, header, ok := NewRowLines(format, formulas, columns); ok {
		return newLineWriter(out, lines, header)
	}
	switch format {
	case "md":
		w := &markdown{out: out}
		return w, w.header(columns)
	}
	return nil, &fault.Fault{What: fmt.Sprintf("unknown format %q", format), Remedy: "The formats are " + strings.Join(Formats, ", ")}
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

func jsonText(text string) []byte {
	var buffer bytes.Buffer
	encoder := json.NewEncoder(&buffer)
	encoder.SetEscapeHTML(false)
	if err := encoder.Encode(text); err != nil {
		panic(err) // a string can always be encoded
	}
	return bytes.TrimSuffix(buffer.Bytes(), []byte{'\n'})
}

// markdown writes a table with numbers set to the right.
type markdown struct {
	out  io.Writer
	line []byte
}

func (w *markdown) header(columns []cell.Column) error {
	names, rules := "|", "|"
	for _, column := range columns {
		names += " " + escapeMarkdown(column.Name) + " |"
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
		w.line = append(append(append(w.line, ' '), escapeMarkdown(value.String())...), " |"...)
	}
	w.line = append(w.line, '\n')
	_, err := w.out.Write(w.line)
	return err
}

func (w *markdown) Close() error { return nil }

var markdownEscapes = strings.NewReplacer("|", `\|`, "\r\n", " ", "\n", " ")

func escapeMarkdown(text string) string { return markdownEscapes.Replace(text) }
