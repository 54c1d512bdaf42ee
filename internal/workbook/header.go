package workbook

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"roundyear/fault"
	"roundyear/rows"
)

// header is the row of a sheet that names its columns.
type header struct {
	// row is its number, from 1; 0 for none.
	row    int
	isNone bool
	// names are the names by the columns of the sheet.
	names     []string
	isRenamed []string
}

// name returns the name of a column of the sheet; nothing for one that has none.
func (h *header) name(column int) string {
	if column >= len(h.names) {
		return ""
	}
	return h.names[column]
}

// renamed returns the columns that were given a name; none if all were.
func (h *header) renamed() []string {
	if h.isNone {
		return nil
	}
	return h.isRenamed
}

// looked is how many rows are looked at for the header.
const looked = 50

// first is one of the first rows of a sheet.
type first struct {
	number int
	values []value
	filled int
}

// findHeader finds the header of a sheet: the first row that has at least half as many cells as the widest one of the
// first rows, and more than one if that has. So a title above it is none.
func (f *File) findHeader(ctx context.Context, form Form) (*header, error) {
	top, err := f.top(ctx, form.Skip)
	if err != nil {
		return nil, err
	}
	if len(top) == 0 {
		problem := &fault.Fault{File: f.Name, What: fmt.Sprintf("the sheet %s is empty", f.sheet.name), Remedy: "It must have a header and rows", Kind: fault.Malformed}
		if form.Skip > 0 {
			problem.What, problem.Remedy, problem.Kind = fmt.Sprintf("has no rows behind --skip %d", form.Skip), "Use a smaller --skip", ""
		}
		return nil, problem
	}
	if form.NoHeader {
		f.above = form.Skip
		return &header{isNone: true}, nil
	}
	found := top[0]
	if form.Skip == 0 {
		widest := 0
		for _, row := range top {
			widest = max(widest, row.filled)
		}
		for _, row := range top {
			if row.filled >= min(widest, max(2, (widest+1)/2)) {
				found = row
				break
			}
		}
	}
	head := &header{row: found.number}
	for i, v := range found.values {
		if !form.HasHeader && (v.kind == day || v.kind == moment) {
			return nil, &fault.Fault{File: f.Name, Line: found.number, Column: Letters(i), What: fmt.Sprintf("the first row may be data instead of a header: %s is a date", v.appendText(nil)),
				Remedy: "If it is data, add --no-header (columns are then named column_1, column_2 …); if it is the header, add --header"}
		}
		head.names = append(head.names, strings.TrimSpace(string(v.appendText(nil))))
	}
	f.above = found.number
	return head, nil
}

// top returns the first rows behind those that are skipped.
func (f *File) top(ctx context.Context, skip int) (top []first, err error) {
	batch := &rows.Batch{}
	var bad error
	scan := &rows.Scan{Size: topSize, Spare: func() *rows.Batch { *batch = rows.Batch{}; return batch }, Give: func(b *rows.Batch) bool {
		c := f.cellsOf(b)
		for len(top) < looked && c.next() {
			if c.row <= skip {
				continue
			}
			row := first{number: c.row}
			row.filled = len(c.filled)
			row.values = slices.Clone(c.values[:c.filled[row.filled-1]+1])
			for i := range row.values {
				row.values[i].text = slices.Clone(row.values[i].text)
			}
			top = append(top, row)
		}
		bad = c.isBad
		return bad == nil && len(top) < looked
	}}
	if err := f.Scan(ctx, scan); err != nil {
		return nil, err
	}
	return top, bad
}

// topSize is how much of a sheet is read at a time for its first rows.
const topSize = 64 << 10
