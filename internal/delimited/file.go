// Package delimited reads and writes delimited text: CSV as RFC 4180 has it, the same with
// tabs, semicolons or bars. Rows keep the bytes that they have in the file.
package delimited

import (
	"bytes"
	"context"
	"fmt"

	"roundyear/fault"
	"roundyear/internal/input"
	"roundyear/rows"
)

// File is a delimited file with a header. It decodes the rows of its part.
type File struct {
	*input.Content
	// Delimiter stands between fields: a comma, semicolon, tab or bar, whichever the header
	// has most of.
	Delimiter byte
	// LineEnd is the line end of the header: \n or \r\n.
	LineEnd string
	// Header is the header as it stands in the file, without a byte order mark and its line
	// end.
	Header []byte

	// names are those of the columns, and renamed those of them that have other ones than in the
	// file: the second of two of one name, and those without one.
	names, renamed []string
	body           int64
	lines          int
	// verified tells that the whole file was read once and is UTF-8.
	verified bool
	mended   Mended
}

// Open reads the header of a content, and returns the part of its rows.
func Open(_ context.Context, content *input.Content, form Form) (*rows.Part, error) {
	f := &File{Content: content, lines: 1}
	if !form.Layout.isUsual() {
		content.Through(rewrite(form.Layout, form.Skip, &f.mended))
		form.Layout = Layout{Delimiter: ','}
	}
	start, whole, err := content.Start(maxRecord)
	if err != nil {
		return nil, err
	}
	if err := f.readHeader(start, form); err != nil {
		return nil, err
	}
	if whole && len(bytes.TrimSpace(start[f.body:])) == 0 && form.Header != NoHeader {
		return nil, &fault.Fault{File: f.Name, What: "has a header but no rows", Remedy: "Is the export complete?", Kind: fault.Malformed}
	}
	return &rows.Part{Name: f.Name, Columns: rows.Texts(f.names), Renamed: f.renamed, Size: f.Size, Decoder: f}, nil
}

// MendedIn returns how many rows of a part were filled or cut when it was read last.
func MendedIn(part *rows.Part) Mended {
	if file, ok := part.Unlabelled().(*File); ok {
		return file.mended
	}
	return Mended{}
}

// FitsTo returns why the rows of the file cannot stand together with those of another one in the
// format, since they are delimited in different ways.
func (f *File) FitsTo(first rows.Decoder) error {
	if other := first.(*File); other.Delimiter != f.Delimiter {
		return &fault.Fault{File: f.Name, Line: 1, What: fmt.Sprintf("uses the delimiter %q, but %s uses %q", f.Delimiter, other.Name, other.Delimiter),
			Remedy: "Files that are read together must have the same format"}
	}
	return nil
}

// OtherThanTab returns the delimiter of a delimited file, or a comma if it is a tab or the part
// is in another format.
func OtherThanTab(part *rows.Part) byte {
	if file, ok := part.Unlabelled().(*File); ok && file.Delimiter != '\t' {
		return file.Delimiter
	}
	return ','
}

// HasTabs tells whether a part is delimited text with tabs.
func HasTabs(part *rows.Part) bool {
	file, ok := part.Unlabelled().(*File)
	return ok && file.Delimiter == '\t'
}
