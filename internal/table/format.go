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
		return "", &Fault{File: path, What: "has no ending that says its format", Remedy: "Give it one of ." + strings.Join(Formats, ", .") + ", or say --format"}
	}
	return "", &Fault{File: path, What: fmt.Sprintf("there is no format for the ending .%s", ending),
		Remedy: "The formats are " + strings.Join(Formats, ", ")}
}

// NewRowWriter writes the header of a format and returns the writer of its
// rows.
func NewRowWriter(format string, out io.Writer, columns []cell.Column) (RowWriter, error) {
	switch format {
	case "csv":
		w := &delimited{out: out, delimiter: ','}
		return w, w.header(columns)
	case "tsv":
		w := &delimited{out: out, delimiter: '\t'}
		return w, w.header(columns)
	case "jsonl":
		w := &jsonLines{out: out}
		for _, column := range columns {
			w.names = append(w.names, append(jsonText(column.Name), ':'))
		}
		return w, nil
	case "md":
		w := &markdown{out: out}
		return w, w.header(columns)
	}
	return nil, &Fault{What: fmt.Sprintf("there is no format %q", format), Remedy: "The formats are " + strings.Join(Formats, ", ")}
}

// delimited writes CSV as RFC 4180 has it, with \n for line ends, or the same
// with tabs. A value that stands in the row before as well is copied from its
// line: in a date table most do.
type delimited struct {
	out          io.Writer
	delimiter    byte
	line, before []byte
	row          []cell.Value
	starts, ends []int
}

func (w *delimited) header(columns []cell.Column) error {
	row := make([]cell.Value, len(columns))
	for i, column := range columns {
		row[i] = cell.OfText(column.Name)
	}
	w.row, w.starts, w.ends = make([]cell.Value, len(row)), make([]int, len(row)), make([]int, len(row))
	return w.Write(row)
}

func (w *delimited) Write(row []cell.Value) error {
	w.line, w.before = w.before[:0], w.line
	for i, value := range row {
		if i > 0 {
			w.line = append(w.line, w.delimiter)
		}
		start := len(w.line)
		if value == w.row[i] {
			w.line = append(w.line, w.before[w.starts[i]:w.ends[i]]...)
		} else {
			w.row[i] = value
			w.line = value.AppendText(w.line)
			if value.Type() == cell.Text {
				w.line = QuoteFrom(w.line, start, w.delimiter)
			}
		}
		w.starts[i], w.ends[i] = start, len(w.line)
	}
	w.line = append(w.line, '\n')
	_, err := w.out.Write(w.line)
	return err
}

func (w *delimited) Close() error { return nil }

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

// jsonLines writes an object a line. Dates are ISO 8601 text, a blank is null.
type jsonLines struct {
	out   io.Writer
	names [][]byte
	line  []byte
}

func (w *jsonLines) Write(row []cell.Value) error {
	w.line = append(w.line[:0], '{')
	for i, value := range row {
		if i > 0 {
			w.line = append(w.line, ',')
		}
		w.line = append(w.line, w.names[i]...)
		switch {
		case value.IsBlank():
			w.line = append(w.line, "null"...)
		case value.Type() == cell.Text:
			w.line = append(w.line, jsonText(value.String())...)
		case value.Type() == cell.Date || value.Type() == cell.Time:
			w.line = append(value.AppendText(append(w.line, '"')), '"')
		default:
			w.line = value.AppendText(w.line)
		}
	}
	w.line = append(w.line, '}', '\n')
	_, err := w.out.Write(w.line)
	return err
}

func (w *jsonLines) Close() error { return nil }

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
	out io.Writer
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
	line := "|"
	for _, value := range row {
		line += " " + escapeMarkdown(value.String()) + " |"
	}
	_, err := io.WriteString(w.out, line+"\n")
	return err
}

func (w *markdown) Close() error { return nil }

func escapeMarkdown(text string) string {
	return strings.NewReplacer("|", `\|`, "\r\n", " ", "\n", " ").Replace(text)
}
