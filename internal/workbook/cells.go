package workbook

import (
	"errors"
	"fmt"
	"slices"

	"roundyear/fault"
)

// maxColumns is how many columns a sheet has at most.
const maxColumns = 16384

// cells walks through the rows of a piece of a sheet.
type cells struct {
	*book
	m markup
	// row is the number of the row at work, from 1, and values are its cells by their columns. filled are the columns that
	// hold something, in their order: a sheet may have one cell in each of a million rows, far to the right.
	row    int
	values []value
	filled []int
	// wants tells whether the value of a column is of any use; nil for all.
	wants func(column int) bool

	// kindsOnly tells that nobody reads the texts.
	kindsOnly bool
	// swaps are the columns whose dates have day and month swapped.
	swaps []int

	// isHidden tells that nobody sees the row.
	isHidden bool

	own   []byte // memory of texts of the row
	isBad error
}

// next reads the next row that holds something. It is false at the end, or where the piece is not well formed.
func (c *cells) next() bool {
	for c.m.next() {
		if !c.m.opens("row") {
			continue
		}
		number := c.row + 1
		isHidden := false
		c.m.eachAttribute(func(name, value []byte) {
			switch string(name) {
			case "r":
				if told, ok := wholeNumber(value); ok {
					number = told
				}
			case "hidden":
				isHidden = string(value) == "1" || string(value) == "true"
			}
		})
		c.isHidden = isHidden
		if number <= c.row {
			c.isBad = c.damagedAt(number, fmt.Errorf("row %d stands behind row %d", number, c.row))
			return false
		}
		c.row = number
		for _, column := range c.filled {
			c.values[column] = value{}
		}
		c.filled, c.own = c.filled[:0], c.own[:0]
		if !c.m.isEnd && !c.readRow() {
			if c.isBad == nil {
				c.isBad = c.damagedAt(c.row, fmt.Errorf("row %d does not end", c.row))
			}
			return false
		}
		if len(c.filled) > 0 {
			slices.Sort(c.filled)
			return true
		}
	}
	if !c.m.isAtEnd() {
		c.isBad = c.damagedAt(c.row, errors.New("a tag does not end"))
	}
	return false
}

func (c *cells) readRow() bool {
	column := 0
	for c.m.next() {
		switch {
		case c.m.closes("row"):
			return true
		case c.m.opens("c"):
			var style, typ []byte
			c.m.eachAttribute(func(name, value []byte) {
				switch string(name) {
				case "r":
					if told := columnOf(value); told >= 0 {
						column = told
					}
				case "s":
					style = value
				case "t":
					typ = value
				}
			})
			if column >= maxColumns {
				c.isBad = c.damagedAt(c.row, fmt.Errorf("a sheet has no column %d", column+1))
				return false
			}
			if !c.m.isEnd && !c.readCell(column, style, typ) {
				return false
			}
			column++
		}
	}
	return false
}

// readCell reads a cell to its end.
func (c *cells) readCell(column int, style, typ []byte) bool {
	var stored []byte
	start := len(c.own)
	hasFormula, hasValue, isReading, size := false, false, false, 0
	for c.m.next() {
		if size += len(c.m.text); size > maxCell {
			c.isBad = &fault.Fault{File: c.Name, Line: c.row, Column: Letters(column), What: fmt.Sprintf("a cell holds more than %d KB; workbooks have at most 32,767 characters in one", maxCell>>10), Remedy: "Is this a workbook that somebody uses?", Kind: fault.Malformed}
			return false
		}
		switch {
		case c.m.closes("c"):
			if c.wants != nil && !c.wants(column) {
				return true
			}
			if hasFormula && !hasValue && string(typ) != "str" {
				c.isBad = &fault.Fault{File: c.Name, Line: c.row, Column: Letters(column), What: "the formula has no stored value", Remedy: "Open the workbook in a spreadsheet program and save it", Kind: fault.Malformed}
				return false
			}
			v, ok := c.valueOf(stored, c.own[start:], style, typ)
			if !ok {
				c.isBad = c.damagedAt(c.row, fmt.Errorf("%s%d holds %.40q", Letters(column), c.row, stored))
				return false
			}
			if v.kind != blank {
				for len(c.values) <= column {
					c.values = append(c.values, value{})
				}
				if c.values[column].kind == blank {
					c.filled = append(c.filled, column)
				}
				c.values[column] = v
			}
			return true
		case c.m.is("f"):
			hasFormula = true
		case c.m.is("rPh"):
			isReading = c.m.isStart && !c.m.isEnd
		case c.m.closes("v") && !c.m.isStart:
			stored, hasValue = c.m.text, len(c.m.text) > 0
		case c.m.closes("t") && !c.m.isStart && !isReading:
			c.own = c.appendText(c.m.text)
		case c.m.opens("row"):
			return false
		}
	}
	return false
}

// valueOf returns what a cell holds by its type: a number where it has none.
func (c *cells) valueOf(stored, inline, style, typ []byte) (value, bool) {
	switch string(typ) {
	case "s":
		if len(stored) == 0 {
			return value{}, true
		}
		place, ok := wholeNumber(stored)
		if !ok || c.texts == nil {
			return value{}, false
		}
		shared, ok := c.texts.of(place)
		return textValue(shared), ok
	case "inlineStr":
		return textValue(inline), true
	case "str", "e", "d":
		start := len(c.own)
		c.own = c.appendText(stored)
		return textValue(c.own[start:]), true
	case "b":
		switch string(stored) {
		case "":
			return value{}, true
		case "0", "1":
			return value{kind: truth, units: int64(stored[0] - '0')}, true
		}
		return value{}, false
	}
	if len(stored) == 0 {
		return value{}, true
	}
	v, ok := numberOf(stored)
	if place, isStyle := wholeNumber(style); ok && isStyle && place < len(c.styles) {
		v = v.dated(c.styles[place], c.is1904)
	}
	return v, ok
}

func (c *cells) appendText(text []byte) []byte {
	if c.kindsOnly {
		return append(c.own, text...)
	}
	return appendText(c.own, text)
}

func textValue(content []byte) value {
	if len(content) == 0 {
		return value{}
	}
	return value{kind: text, text: content}
}

func (b *book) damagedAt(row int, cause error) error {
	problem := b.damaged(cause)
	problem.Line = row
	return problem
}

// columnOf returns the column of a cell such as C5, from 0; -1 for what is none.
func columnOf(cell []byte) int {
	column := 0
	for i, letter := range cell {
		switch {
		case letter >= 'A' && letter <= 'Z' && column <= maxColumns:
			column = column*26 + int(letter-'A') + 1
		case i > 0 && letter >= '0' && letter <= '9':
			return column - 1
		default:
			return -1
		}
	}
	return -1
}

// Letters returns the letters of a column, from 0: A, B, and so on to XFD.
func Letters(column int) string {
	var letters []byte
	for column++; column > 0; column = (column - 1) / 26 {
		letters = append(letters, byte('A'+(column-1)%26))
	}
	slices.Reverse(letters)
	return string(letters)
}
