// Package jsonlines reads and writes JSON Lines: a JSON object a line, whose names are the
// columns.
package jsonlines

import (
	"bytes"
	"cmp"
	"context"
	"fmt"
	"regexp"
	"sync/atomic"

	"roundyear/fault"
	"roundyear/internal/input"
	"roundyear/rows"
)

// File is a file of JSON Lines. It decodes the rows of its part.
type File struct {
	*input.Content
	columns []rows.Column
	places  map[string]int
	// isText tells of which columns values are strings, as far as they were decoded.
	isText []atomic.Bool
}

// IsText tells whether some value of a column that was decoded is a string.
func (f *File) IsText(place int) bool { return place < len(f.isText) && f.isText[place].Load() }

var beginning = regexp.MustCompile(`^\{\s*["}]`)

// Fits tells whether a content is JSON Lines, by its beginning.
func Fits(start []byte) bool {
	return beginning.Match(bytes.TrimLeft(bytes.TrimPrefix(start, utf8Mark), " \t\r\n"))
}

var utf8Mark = []byte{0xEF, 0xBB, 0xBF}

const (
	// defaultSize is how much of a file is read at a time.
	defaultSize = 256 << 10
	// maxLine bounds the memory that one line can take.
	maxLine = 4 << 20
	// maxColumns is more columns than any table has: the names are values then.
	maxColumns = 5000
)

// Open reads a content once for its columns, which are all names that its objects have, in the
// order in which they come. It returns the part of its rows.
func Open(ctx context.Context, content *input.Content) (*rows.Part, error) {
	f := &File{Content: content, places: map[string]int{}}
	namer := &rows.Part{Name: f.Name, Decoder: namer{f}}
	found := 0
	work := func() func(*rows.Batch) ([]string, error) {
		return func(b *rows.Batch) ([]string, error) { return b.Task.([]string), b.Err() }
	}
	err := rows.Process(ctx, &rows.Source{Parts: []*rows.Part{namer}}, work, func(names []string) error {
		for _, name := range names {
			if _, known := f.places[name]; known {
				continue
			}
			if found++; found > maxColumns {
				return &fault.Fault{File: f.Name, What: fmt.Sprintf("has more than %d columns", maxColumns), Remedy: "Are the names in its objects values?", Kind: fault.Malformed}
			}
			f.places[name] = len(f.columns)
			f.columns, f.isText = append(f.columns, rows.Column{Name: name}), make([]atomic.Bool, len(f.columns)+1)
		}
		return nil
	})
	if err != nil {
		return nil, err
	}
	if len(f.columns) == 0 {
		return nil, &fault.Fault{File: f.Name, What: "has objects without names", Remedy: "Is the export complete?", Kind: fault.Malformed}
	}
	return &rows.Part{Name: f.Name, Columns: f.columns, Size: f.Size, Decoder: f}, nil
}

// Scan cuts the file into batches of whole lines.
func (f *File) Scan(ctx context.Context, scan *rows.Scan) error {
	opened, err := f.Open()
	if err != nil {
		return err
	}
	defer func() { _ = opened.Close() }()
	size := cmp.Or(scan.Size, defaultSize)
	var carry []byte
	line, ended := 1, false
	for {
		b := scan.Spare()
		data := append(b.Input, carry...)
		end := 0
		for end == 0 && !ended {
			if len(data) >= maxLine {
				return &fault.Fault{File: f.Name, Line: line, What: "the line is longer than 4 MB", Remedy: "Is this a file with one object per line?", Kind: fault.Malformed}
			}
			if data, ended, err = input.More(opened, data, size); err != nil {
				return f.CannotRead(err)
			}
			end = bytes.LastIndexByte(data, '\n') + 1
		}
		if ended {
			end = len(data)
		}
		if end == 0 {
			return nil
		}
		carry = append(carry[:0], data[end:]...)
		b.Input, b.Line = data[:end], line
		line += bytes.Count(b.Input, []byte{'\n'})
		if b.Read = opened.Taken(); !scan.Give(b) {
			return ctx.Err()
		}
		if ended {
			return nil
		}
	}
}

// Decode finds the values of the objects of a batch.
func (f *File) Decode(b *rows.Batch) {
	o := newObjects()
	lines := linesOf(b)
	b.Text = b.Buffer
	spans := make([][]byte, len(f.columns))
	var memory []int // the places of the names of the object before, in their order
	for lines.next() {
		clear(spans)
		member := 0
		err := o.read(lines.raw, func(name, value []byte) error {
			var place int
			if member < len(memory) && o.isName(name, f.columns[memory[member]].Name) {
				place = memory[member]
			} else {
				place = f.places[o.unquoted(name)]
				memory = append(memory[:member], place)
			}
			member++
			if spans[place] != nil {
				return fmt.Errorf("has the name %s twice", name)
			}
			spans[place] = value
			return nil
		})
		if err != nil {
			b.Fault = lines.fault(f.Name, err)
			break
		}
		place := rows.Place{Start: uint32(len(b.Text)), Line: uint32(lines.line - b.Line), RawStart: uint32(lines.at), RawEnd: uint32(lines.at + len(lines.raw))}
		for column, value := range spans {
			if !b.Wants(column) {
				value = nil
			}
			start := len(b.Text)
			b.Text = o.appendValue(b.Text, value)
			if len(value) > 0 && value[0] == '"' && !f.isText[column].Load() {
				f.isText[column].Store(true)
			}
			place.MayHaveBreak = place.MayHaveBreak || bytes.IndexByte(b.Text[start:], '\n') >= 0
			b.Ends = append(b.Ends, uint32(len(b.Text)))
			b.Text = append(b.Text, 0)
		}
		b.Places = append(b.Places, place)
	}
	b.Buffer = b.Text
}

// namer decodes the names of the objects of a file, to find its columns.
type namer struct{ *File }

// Decode puts the names of the objects of a batch, each once, into its task.
func (n namer) Decode(b *rows.Batch) {
	o := newObjects()
	lines := linesOf(b)
	seen, names := map[string]bool{}, []string{}
	var memory [][]byte // the names of the object before
	for lines.next() {
		member := 0
		err := o.read(lines.raw, func(name, _ []byte) error {
			if member >= len(memory) || !bytes.Equal(memory[member], name) {
				memory = append(memory[:member], name)
				if !seen[string(name)] {
					seen[string(name)] = true
					names = append(names, o.unquoted(name))
				}
			}
			member++
			return nil
		})
		if err != nil {
			b.Fault = lines.fault(n.Name, err)
			break
		}
	}
	b.Task = names
}

// lines walks through the lines of a batch that are not empty.
type lines struct {
	data []byte
	// raw is the line at work without its end, at its place in the data, and line its number.
	raw      []byte
	at, line int
	nextAt   int
	nextLine int
}

func linesOf(b *rows.Batch) *lines {
	l := &lines{data: b.Input, nextLine: b.Line}
	if b.Line == 1 && bytes.HasPrefix(l.data, utf8Mark) {
		l.nextAt = len(utf8Mark)
	}
	return l
}

func (l *lines) next() bool {
	for l.nextAt < len(l.data) {
		l.at, l.line = l.nextAt, l.nextLine
		end := bytes.IndexByte(l.data[l.at:], '\n')
		if end < 0 {
			end = len(l.data) - l.at
		}
		l.nextAt, l.nextLine = l.at+end+1, l.line+1
		l.raw = bytes.TrimRight(l.data[l.at:l.at+end], " \t\r")
		if spaces := len(l.raw) - len(bytes.TrimLeft(l.raw, " \t")); spaces > 0 {
			l.raw, l.at = l.raw[spaces:], l.at+spaces
		}
		if len(l.raw) > 0 {
			return true
		}
	}
	return false
}

// fault says where a line is not an object.
func (l *lines) fault(name string, err error) *fault.Fault {
	return &fault.Fault{File: name, Line: l.line, What: err.Error(), Remedy: "Each line must be one JSON object", Kind: fault.Malformed}
}
