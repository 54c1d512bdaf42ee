package delimited

import (
	"bufio"
	"bytes"
	"errors"
	"fmt"
	"io"
	"unicode/utf8"

	"roundyear/fault"
)

// Mended counts the rows that were filled or cut in the last reading of a file.
type Mended struct{ Filled, Cut int }

// rewriter reads text in a layout as delimited text with commas, line by line, so that each row stays in the line that
// it is in.
type rewriter struct {
	layout Layout
	from   *bufio.Reader
	// skip is how many lines stand above the header, which pass as they are.
	skip int
	// columns is how many fields the first row has; 0 before it.
	columns int
	line    int
	fields  [][]byte
	text    []byte // memory of the fields
	out     []byte
	rest    []byte
	own     Mended
	mended  *Mended
	err     error
}

// rewrite returns what reads text in a layout as delimited text. What it mends is known once all is read.
func rewrite(layout Layout, skip int, mended *Mended) func(io.Reader) io.Reader {
	return func(from io.Reader) io.Reader {
		return &rewriter{layout: layout, from: bufio.NewReaderSize(from, 64<<10), skip: skip, mended: mended}
	}
}

// Read reads rewritten text.
func (r *rewriter) Read(to []byte) (int, error) {
	for len(r.rest) == 0 {
		if r.err != nil {
			return 0, r.err
		}
		r.out = r.out[:0]
		if r.err = r.next(); errors.Is(r.err, io.EOF) {
			*r.mended = r.own
		}
		r.rest = r.out
	}
	n := copy(to, r.rest)
	r.rest = r.rest[n:]
	return n, nil
}

// readLine reads a line with its end; the last one may have none.
func (r *rewriter) readLine() ([]byte, error) {
	line, err := r.from.ReadSlice('\n')
	if errors.Is(err, bufio.ErrBufferFull) {
		line = bytes.Clone(line)
		for errors.Is(err, bufio.ErrBufferFull) && len(line) < maxRecord {
			var more []byte
			more, err = r.from.ReadSlice('\n')
			line = append(line, more...)
		}
		if errors.Is(err, bufio.ErrBufferFull) {
			return nil, &fault.Fault{Line: r.line + 1, What: "the row is longer than 4 MB", Remedy: "Is this a text file with one row per line?", Kind: fault.Malformed}
		}
	}
	if len(line) > 0 && (err == nil || errors.Is(err, io.EOF)) {
		r.line++
		return line, nil
	}
	return nil, err
}

// next rewrites the next line, or lines if a quoted field goes over several.
func (r *rewriter) next() error {
	line, err := r.readLine()
	if err != nil {
		return err
	}
	if r.line <= r.skip {
		r.out = append(r.out, line...)
		return nil
	}
	if r.line == 1 && bytes.HasPrefix(line, utf8Mark) {
		line = line[len(utf8Mark):]
	}
	text := bytes.TrimRight(line, "\r\n")
	switch {
	case r.layout.Comment != "" && bytes.HasPrefix(bytes.TrimLeft(text, " \t"), []byte(r.layout.Comment)), len(bytes.TrimSpace(text)) == 0 && r.columns != 1:
		if r.columns != 1 { // where an empty line would be a row
			r.out = append(r.out, '\n')
		}
		return nil
	}
	r.fields, r.text = r.fields[:0], r.text[:0]
	switch {
	case r.layout.Widths != nil:
		r.cutAtWidths(text)
	case r.layout.IsSpaced:
		r.cutAtSpaces(text)
	default:
		if err := r.cutAtDelimiters(text); err != nil {
			return err
		}
	}
	r.write()
	return nil
}

// cutAtWidths cuts a line into columns of fixed widths. What stands behind the last one is a field, too: it must not be lost.
func (r *rewriter) cutAtWidths(text []byte) {
	for _, width := range r.layout.Widths {
		end := 0
		for range width {
			_, size := utf8.DecodeRune(text[end:])
			end += size
		}
		if width == 0 {
			end = len(text)
		}
		r.fields = append(r.fields, bytes.TrimSpace(text[:end]))
		text = text[end:]
	}
	if rest := bytes.TrimSpace(text); len(rest) > 0 {
		r.fields = append(r.fields, rest)
	}
}

// cutAtSpaces cuts a line at two or more spaces.
func (r *rewriter) cutAtSpaces(text []byte) {
	text = bytes.Trim(text, " ")
	for {
		at := bytes.Index(text, []byte("  "))
		if at < 0 {
			r.fields = append(r.fields, text)
			return
		}
		r.fields = append(r.fields, text[:at])
		text = bytes.TrimLeft(text[at:], " ")
	}
}

// cutAtDelimiters cuts a line at delimiters outside quotes, and reads on to where the last quote ends.
func (r *rewriter) cutAtDelimiters(text []byte) error {
	if r.layout.Delimiter == 0 {
		r.layout.Delimiter = delimiterOf(text)
	}
	quote := r.layout.Quote
	if quote == 0 {
		quote = '"'
	}
	text = bytes.Clone(text) // reading on takes the memory of the line
	first := r.line
	for {
		if r.layout.HasNoQuotes || len(text) == 0 || text[0] != quote {
			at := bytes.IndexByte(text, r.layout.Delimiter)
			if at < 0 {
				r.fields = append(r.fields, text)
				return nil
			}
			r.fields, text = append(r.fields, text[:at]), text[at+1:]
			continue
		}
		text = text[1:]
		var field []byte
		for {
			at := bytes.IndexByte(text, quote)
			if at < 0 {
				field = append(append(field, text...), '\n')
				more, err := r.readLine()
				if errors.Is(err, io.EOF) || len(field) > maxRecord {
					return &fault.Fault{Line: first, What: "a quote is not closed", Remedy: "Correct the line, or say --quote none if quotes are a part of the text", Kind: fault.Malformed}
				}
				if err != nil {
					return err
				}
				text = bytes.Clone(bytes.TrimRight(more, "\r\n"))
				continue
			}
			field, text = append(field, text[:at]...), text[at+1:]
			if len(text) == 0 || text[0] != quote {
				break
			}
			field, text = append(field, quote), text[1:]
		}
		r.fields = append(r.fields, field)
		if len(text) == 0 {
			return nil
		}
		if text[0] != r.layout.Delimiter {
			return &fault.Fault{Line: first, What: "a quote inside a quoted field is not doubled", Remedy: fmt.Sprintf("Double the quotes inside fields: %c%c", quote, quote), Kind: fault.Malformed}
		}
		text = text[1:]
	}
}

// write writes the fields as a line, as many as there are columns where the layout says so.
func (r *rewriter) write() {
	if r.columns == 0 {
		r.columns = len(r.fields)
	}
	switch {
	case r.layout.Fills && len(r.fields) < r.columns:
		for len(r.fields) < r.columns {
			r.fields = append(r.fields, nil)
		}
		r.own.Filled++
	case r.layout.Cuts && len(r.fields) > r.columns:
		r.fields = r.fields[:r.columns]
		r.own.Cut++
	}
	for i, field := range r.fields {
		if i > 0 {
			r.out = append(r.out, ',')
		}
		if !bytes.ContainsAny(field, ",\"\n\r") {
			r.out = append(r.out, field...)
			continue
		}
		r.out = append(r.out, '"')
		for _, c := range field {
			if c == '"' {
				r.out = append(r.out, '"')
			}
			r.out = append(r.out, c)
		}
		r.out = append(r.out, '"')
	}
	r.out = append(r.out, '\n')
}
