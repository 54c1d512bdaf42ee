package workbook

import (
	"bytes"
	"fmt"
	"io"
	"slices"
)

// mergedCells counts the cells below the header that are merged over several rows, by their columns. Only the first row of each holds
// the value, and the others are blank.
type mergedCells struct {
	above   int
	columns map[int]int
}

// maxBehind is how much is read of what stands behind the rows.
const maxBehind = 16 << 20

var mergeCell = []byte("mergeCell")

// read reads what stands behind the rows.
func (c *mergedCells) read(from io.Reader) error {
	text, err := io.ReadAll(io.LimitReader(from, maxBehind))
	if err != nil || !bytes.Contains(text, mergeCell) {
		return err
	}
	c.columns = map[int]int{}
	for m := (&markup{data: text}); m.next(); {
		if !m.opens("mergeCell") {
			continue
		}
		first, last, found := bytes.Cut([]byte(m.attribute("ref")), []byte{':'})
		column := columnOf(first)
		from, isFirst := rowOf(first)
		to, isLast := rowOf(last)
		if found && column >= 0 && isFirst && isLast && to > from && from > c.above {
			c.columns[column]++
		}
	}
	return nil
}

// rowOf returns the row of a cell such as C5.
func rowOf(cell []byte) (int, bool) {
	return wholeNumber(bytes.TrimLeft(cell, "ABCDEFGHIJKLMNOPQRSTUVWXYZ"))
}

// notes say in which columns there are some, by their places in the sheet and their names.
func (c *mergedCells) notes(places []int, names []string) (notes []string) {
	for i, name := range names {
		switch count := c.columns[places[i]]; {
		case count == 1:
			notes = append(notes, fmt.Sprintf("a cell of %s is merged over several rows; only the first of them has its value", name))
		case count > 1:
			notes = append(notes, fmt.Sprintf("%d cells of %s are merged over several rows; only the first row of each has its value", count, name))
		}
	}
	return slices.Clip(notes)
}
