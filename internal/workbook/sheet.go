package workbook

import (
	"bytes"
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"maps"
	"slices"
	"strings"

	"roundyear/fault"
	"roundyear/internal/input"
	"roundyear/rows"
)

// Form is what is said of a sheet that its cells do not tell.
type Form struct {
	// Skip is how many rows stand above the header.
	Skip int
	// HasHeader and NoHeader tell whether there is a header, if they tell it.
	HasHeader, NoHeader bool
	// Swapped says of columns whether their dates have day and month swapped.
	Swapped map[string]bool
}

// File is a sheet of a workbook. It decodes the rows of its part.
type File struct {
	*book
	sheet sheet
	// above is the row above the first one of the rows.
	above int
	// columns are the columns of the part, and places where they stand in the sheet; of is the other way round, with
	// -1 for a column of the sheet that is none.
	columns []rows.Column
	places  []int
	of      []int
	rows    int
	// form says which columns are swapped, swaps are their places in the sheet, and suspects the columns that seem to be, of which it says
	// nothing.
	form     Form
	swaps    []int
	suspects []rows.SwappedDates
	// notes say what is special in how the sheet is read, and behind gets what stands behind the rows, where that is asked for.
	notes  []string
	behind func(io.Reader) error
}

const (
	// defaultSize is how much of a sheet is read at a time.
	defaultSize = 512 << 10
	// maxRow bounds the memory that one row can take.
	maxRow = 64 << 20
)

// Open opens the sheet of a workbook that is named by its name or its number, or the only one. It looks for the header, reads the sheet
// once for the types of its columns, and returns the part of its rows.
func Open(ctx context.Context, content *input.Content, form Form) (_ *rows.Part, err error) {
	b, err := openBook(ctx, content)
	if err != nil {
		return nil, err
	}
	defer func() {
		if err != nil {
			_ = b.at.Close()
		}
	}()
	f := &File{book: b, form: form}
	if f.sheet, err = b.choose(content.Table); err != nil {
		return nil, err
	}
	if b.parts[f.sheet.part] == nil {
		return nil, b.damaged(fmt.Errorf("it has no part %s", f.sheet.part))
	}
	part := b.parts[f.sheet.part]
	if err := b.unpacks(f.sheet.name, part.UncompressedSize64, part.CompressedSize64); err != nil {
		return nil, err
	}
	head, err := f.findHeader(ctx, form)
	if err != nil {
		return nil, err
	}
	if err := f.findColumns(ctx, head); err != nil {
		return nil, err
	}
	return &rows.Part{Name: f.Name, Columns: f.columns, Renamed: head.renamed(), Header: head.row, Size: content.Size, Swapped: f.suspects, Notes: f.notes, Decoder: f}, nil
}

// findColumns reads all rows below the header for what the columns hold. A column without a name and without a value is none.
func (f *File) findColumns(ctx context.Context, head *header) error {
	var all []seen
	first := &rows.Part{Name: f.Name, Decoder: observer{f}}
	merged := &mergedCells{above: f.above}
	f.behind = merged.read
	defer func() { f.behind = nil }()
	hidden := 0
	work := func() func(*rows.Batch) (observed, error) {
		return func(b *rows.Batch) (observed, error) { return b.Task.(observed), b.Err() }
	}
	err := rows.Process(ctx, &rows.Source{Parts: []*rows.Part{first}}, work, func(o observed) error {
		for len(all) < len(o.columns) {
			all = append(all, seen{})
		}
		for i := range o.columns {
			all[i].merge(o.columns[i])
		}
		f.rows, hidden = f.rows+o.rows, hidden+o.hidden
		return nil
	})
	if err != nil {
		return err
	}
	if hidden > 0 {
		f.notes = append(f.notes, fmt.Sprintf("%d of %d rows are hidden in the workbook; they count like the others", hidden, f.rows))
	}
	var names []string
	for i := range max(len(all), len(head.names)) {
		name, isBlank := head.name(i), i >= len(all) || all[i].isBlank()
		if name == "" && isBlank {
			f.of = append(f.of, -1)
			continue
		}
		f.of = append(f.of, len(f.places))
		f.places, names = append(f.places, i), append(names, name)
	}
	if head.isNone {
		for i := range names {
			names[i] = fmt.Sprintf("column_%d", i+1)
		}
	}
	names, head.isRenamed = rows.Distinct(names)
	for i, place := range f.places {
		column := rows.Column{Name: names[i]}
		if place < len(all) {
			column = all[place].column(names[i])
			isSwapped, isTold := f.form.Swapped[names[i]]
			if orders := &all[place].orders; isSwapped && orders.low+orders.high > 0 {
				f.swaps = append(f.swaps, place)
			} else if !isTold && orders.areSwapped() {
				f.suspects = append(f.suspects, rows.SwappedDates{Column: i, Cells: orders.low, Texts: orders.texts()})
			}
		}
		f.columns = append(f.columns, column)
	}
	f.notes = append(f.notes, merged.notes(f.places, names)...)
	return f.checkSwapped(names)
}

// checkSwapped is the fault of a column that is said to be swapped, or not, and is not there, or has no dates that could be.
func (f *File) checkSwapped(names []string) error {
	for _, name := range slices.Sorted(maps.Keys(f.form.Swapped)) {
		at := slices.Index(names, name)
		switch {
		case at < 0:
			return &fault.Fault{File: f.Name, What: fmt.Sprintf("has no column %q, which --swapped or the plan names. The columns are %s", name, strings.Join(names, ", "))}
		case f.form.Swapped[name] && !slices.Contains(f.swaps, f.places[at]):
			return &fault.Fault{File: f.Name, Column: name, What: "has no date cells to swap day and month in", Remedy: "If its dates are text, --order or --pattern say how they are written"}
		}
	}
	return nil
}

// Rows returns how many rows the sheet has.
func (f *File) Rows() int { return f.rows }

// Close closes the workbook.
func (f *File) Close() error { return errors.Join(f.at.Close(), f.Content.Close()) }

var (
	sheetStart = []byte("sheetData")
	rowStart   = []byte("row")
)

// Scan cuts the sheet into batches of whole rows.
func (f *File) Scan(ctx context.Context, scan *rows.Scan) error {
	opened, err := f.parts[f.sheet.part].Open()
	if err != nil {
		return f.damaged(err)
	}
	defer func() { _ = opened.Close() }()
	size := cmp.Or(scan.Size, defaultSize)
	var carry []byte
	hasBegun, ended, line := false, false, 1
	part := f.parts[f.sheet.part]
	share := float64(part.CompressedSize64) / float64(max(part.UncompressedSize64, 1))
	for !ended {
		b := scan.Spare()
		data := append(b.Input, carry...)
		end, isEmpty := 0, false
		for end == 0 && !ended {
			if len(data) >= maxRow {
				return &fault.Fault{File: f.Name, Line: line, What: "a row is longer than 64 MB", Remedy: "Is this a workbook that somebody uses?", Kind: fault.Malformed}
			}
			if data, ended, err = input.More(opened, data, size); err != nil {
				return f.damaged(err)
			}
			if !hasBegun {
				start, isNone := bodyOf(data)
				if start < 0 && !ended {
					// What stands above the rows is of no use, but may end within the tag.
					const longestTag = 4 << 10
					data = data[max(0, len(data)-longestTag):]
					continue
				}
				if start < 0 {
					return f.damaged(errors.New("the sheet has no cells"))
				}
				hasBegun, isEmpty = true, isNone
				data = data[start:]
			}
			end = lastRow(data)
			if last := closing(data); last >= 0 || isEmpty {
				end, ended = max(last, 0), true
			} else if ended {
				return f.damaged(errors.New("the sheet ends within its rows"))
			}
		}
		carry = append(carry[:0], data[end:]...)
		if ended && f.behind != nil {
			if err := f.behind(io.MultiReader(bytes.NewReader(carry), opened)); err != nil {
				return f.damaged(err)
			}
		}
		b.Input, b.Line = data[:end], line
		line = max(line, lastNumber(b.Input, line)+1)
		if b.Read = int(float64(end) * share); !scan.Give(b) {
			return ctx.Err()
		}
	}
	return nil
}

// bodyOf returns where the rows of a sheet begin, and whether there are none; -1 where the tag is not there yet.
func bodyOf(data []byte) (start int, isNone bool) {
	at := bytes.Index(data, sheetStart)
	if at < 0 {
		return -1, false
	}
	end := bytes.IndexByte(data[at:], '>')
	if end < 0 {
		return -1, false
	}
	return at + end + 1, data[at+end-1] == '/'
}

// lastRow returns where the last row begins; 0 for less than two.
func lastRow(data []byte) int {
	for end := len(data); ; {
		at := bytes.LastIndex(data[:end], rowStart)
		if at < 1 {
			return 0
		}
		if start := tagAt(data, at, len(rowStart)); start >= 0 && data[start+1] != '/' {
			return start
		}
		end = at
	}
}

// closing returns where the tag is that ends the rows; -1 if it is not there. Text of cells has no such tags, since < is written as an entity.
func closing(data []byte) int {
	for from := 0; ; {
		at := bytes.Index(data[from:], sheetStart)
		if at < 0 {
			return -1
		}
		if start := tagAt(data, from+at, len(sheetStart)); start >= 0 && data[start+1] == '/' {
			return start
		}
		from += at + len(sheetStart)
	}
}

// tagAt returns where the tag begins whose name stands at a place, with a prefix or without; -1 if that is no tag.
func tagAt(data []byte, at, length int) int {
	if at+length >= len(data) {
		return -1
	}
	if c := data[at+length]; !isSpace(c) && c != '>' && c != '/' {
		return -1
	}
	const longestPrefix = 32
	for start := at - 1; start >= 0 && start > at-longestPrefix; start-- {
		switch c := data[start]; {
		case c == '<':
			return start
		case c == '>' || isSpace(c) || c == '"' || c == '\'':
			return -1
		}
	}
	return -1
}

// lastNumber returns the number of the last row of a piece, which begins with a number unless the rows tell theirs.
func lastNumber(data []byte, first int) int {
	number := first - 1
	c := &markup{data: data}
	if last := lastRow(data); last > 0 {
		c.at = last
	}
	if c.next() && c.opens("row") {
		if told, ok := wholeNumber([]byte(c.attribute("r"))); ok {
			return told
		}
	}
	c.at = 0
	for c.next() {
		if c.opens("row") {
			number++
			if told, ok := wholeNumber([]byte(c.attribute("r"))); ok {
				number = told
			}
		}
	}
	return number
}

// Decode finds the values of the rows of a batch.
func (f *File) Decode(b *rows.Batch) {
	b.NewVectors()
	c := f.cellsOf(b)
	c.wants = func(column int) bool { return column < len(f.of) && f.of[column] >= 0 && b.Wants(f.of[column]) }
	for c.next() {
		if c.row <= f.above {
			continue
		}
		if !c.swap() {
			break
		}
		for i, place := range f.places {
			if place < len(c.values) {
				c.values[place].appendTo(&b.Vectors[i])
			} else {
				b.Vectors[i].AppendMissing()
			}
		}
		b.Lines = append(b.Lines, c.row)
		b.Count++
	}
	b.Fault = c.isBad
}

// cellsOf returns the rows of a batch. Their numbers go on from that of the batch where they tell none.
func (f *File) cellsOf(b *rows.Batch) *cells {
	return &cells{book: f.book, m: markup{data: b.Input}, row: b.Line - 1, swaps: f.swaps}
}

// observer finds what the columns of a sheet hold.
type observer struct{ *File }

// observed is that of a batch.
type observed struct {
	columns []seen
	rows    int
	hidden  int
}

// Decode puts what the columns hold into the task of a batch.
func (o observer) Decode(b *rows.Batch) {
	var own observed
	c := o.cellsOf(b)
	c.kindsOnly = true
	for c.next() {
		if c.row <= o.above {
			continue
		}
		own.rows++
		if c.isHidden {
			own.hidden++
		}
		for _, column := range c.filled {
			for len(own.columns) <= column {
				own.columns = append(own.columns, seen{})
			}
			own.columns[column].add(c.values[column])
		}
	}
	b.Task, b.Fault = own, c.isBad
}
