package rows

import (
	"context"
	"fmt"
	"io"
	"slices"
	"strings"

	"roundyear/fault"
)

// Decoder reads the rows of a part in the format that it is in.
type Decoder interface {
	// Scan reads the part from its first row on: it fills spare batches with what a
	// worker can decode, and gives them in order until give is false.
	Scan(ctx context.Context, scan *Scan) error
	// Decode finds the rows of a batch that Scan gave. Workers call it side by side.
	Decode(b *Batch)
}

// Scan is one reading of a part.
type Scan struct {
	// Size is about how many bytes a batch is to have; 0 is what is fast.
	Size int
	// Most is how many rows are looked at; 0 for all. A server need not send more.
	Most int
	// Spare returns a batch to fill.
	Spare func() *Batch
	// Give takes a batch that is filled. It is false when no more are wanted.
	Give func(*Batch) bool

	exclusions []Exclusion
	// days is the place of the column plus one whose days are told of rows that are left out; 0 for none.
	days int
}

// Part is a piece of a source with rows of its own: a file, a sheet, a table.
type Part struct {
	// Name is the part as the user named it.
	Name string
	// Columns are the columns of its rows.
	Columns []Column
	// Renamed are the columns that were given a name, since theirs was not their own or none.
	Renamed []string
	// Header is the line of the header, where it is not the first one; 0 for unknown.
	Header int
	// Notes say what is special in how it is read.
	Notes []string
	// Swapped are the columns whose dates seem to have day and month swapped.
	Swapped []SwappedDates
	// Size is its size in bytes, as it is stored.
	Size int64
	// Decoder reads its rows.
	Decoder Decoder
	// Index is its place in the source.
	Index int
}

// SwappedDates is a column by its place, with how many dates there are, all of a day up to 12, and how many texts, all of a day above it.
type SwappedDates struct{ Column, Cells, Texts int }

// Source is one or more parts with the same columns, read one after the other.
type Source struct {
	Parts []*Part
	// Progress, when set, is called with the number of bytes read each time.
	Progress func(bytes int)
	// BatchSize is about how many bytes a batch has; 0 is what is fast.
	BatchSize int
	// KeepsRagged tells that rows with more or fewer fields than there are columns come
	// among the others, and say so; otherwise the first one is a fault. Set before reading.
	KeepsRagged bool

	// BlankAs are texts that stand for no value, such as n/a, whatever spaces are around them. Set before reading.
	BlankAs []string

	// wanted tells which columns are read; nil for all.
	wanted     []bool
	exclusions []Exclusion
	// days is the place of the column plus one whose days are told of rows that are left out; 0 for none.
	days int
	// most is how many rows of each part are looked at; 0 for all.
	most  int
	names []string
	// places are the places of the columns by their names, once they are asked for.
	places map[string][]int
}

// Add takes in a part, which must have the same columns as those before it. Where their types differ,
// those of all parts become ones that hold the values of all.
func (s *Source) Add(part *Part) error {
	if len(s.Parts) > 0 && !slices.Equal(s.Parts[0].Columns, part.Columns) {
		columns, ok := widerColumns(s.Parts[0].Columns, part.Columns)
		if !ok {
			return &fault.Fault{File: part.Name, Line: 1, What: differingColumns(s.Parts[0], part),
				Remedy: "Files that are read together must have the same columns in the same order"}
		}
		for i, other := range s.Parts {
			if !slices.Equal(other.Columns, columns) {
				s.Parts[i] = widened(other, columns)
			}
		}
		if !slices.Equal(part.Columns, columns) {
			part = widened(part, columns)
		}
	}
	part.Index = len(s.Parts)
	s.Parts = append(s.Parts, part)
	return nil
}

func widerColumns(a, b []Column) ([]Column, bool) {
	var columns []Column
	for i := range min(len(a), len(b)) {
		column, ok := wider(a[i], b[i])
		if !ok || a[i].Name != b[i].Name {
			return nil, false
		}
		columns = append(columns, column)
	}
	return columns, len(a) == len(b)
}

func differingColumns(a, b *Part) string {
	for i, column := range b.Columns {
		switch {
		case i >= len(a.Columns):
			return fmt.Sprintf("has a column %q, which %s does not have", column.Name, a.Name)
		case a.Columns[i].Name != column.Name:
			return fmt.Sprintf("has %q as column %d, but %s has %q", column.Name, i+1, a.Name, a.Columns[i].Name)
		case a.Columns[i] != column:
			return fmt.Sprintf("has %q in another type than %s", column.Name, a.Name)
		}
	}
	return fmt.Sprintf("has no column %q, which %s has", a.Columns[len(b.Columns)].Name, a.Name)
}

// Narrowed returns the source with only some columns wanted, by their places. A format may leave the
// others empty, if that saves work.
func (s *Source) Narrowed(places ...int) *Source {
	own := *s
	own.wanted = make([]bool, len(s.Columns()))
	for _, place := range places {
		own.wanted[place] = true
	}
	for d, ok := s.Parts[0].Decoder.(*computed); ok; d, ok = d.inner.Decoder.(*computed) {
		for _, place := range d.Needs {
			own.wanted[place] = true
		}
	}
	return &own
}

// Close closes the parts that keep something open.
func (s *Source) Close() {
	for _, part := range s.Parts {
		if closer, ok := part.Decoder.(io.Closer); ok {
			_ = closer.Close()
		}
	}
}

// Columns returns the columns.
func (s *Source) Columns() []Column { return s.Parts[0].Columns }

// Names returns the names of the columns.
func (s *Source) Names() []string {
	if s.names == nil {
		for _, column := range s.Columns() {
			s.names = append(s.names, column.Name)
		}
	}
	return s.names
}

// Size returns the size of all parts in bytes.
func (s *Source) Size() int64 {
	var size int64
	for _, part := range s.Parts {
		size += part.Size
	}
	return size
}

// Name returns the names of the parts for reports.
func (s *Source) Name() string {
	if len(s.Parts) > 3 {
		return fmt.Sprintf("%d files, %s to %s", len(s.Parts), s.Parts[0].Name, s.Parts[len(s.Parts)-1].Name)
	}
	var names []string
	for _, part := range s.Parts {
		names = append(names, part.Name)
	}
	return strings.Join(names, ", ")
}
