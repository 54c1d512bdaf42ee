package jsonlines

import (
	"bytes"
	"slices"

	"roundyear/cell"
	"roundyear/rows"
)

// Extender writes rows with more columns as JSON Lines. Rows of JSON Lines keep their bytes.
type Extender struct {
	extension rows.Extension
	keep      []int
	// names and added are the names of the columns with a colon behind them.
	names, added [][]byte
	isQuoted     []bool
	// from is the first file of a source of JSON Lines, and own how many columns its rows have in it. isWhole tells that they are
	// written as they stand there.
	from    *File
	own     int
	isWhole bool
	// isInOrder tells that the columns are kept in the order of the source: then members stay in that of their object.
	isInOrder bool
	kept      map[int]bool
	// objects reads the rows of which not all is written as it stands, and values are those of a row by their columns.
	objects *objects
	values  [][]byte
	// any tells whether the object at work has a member.
	any bool
}

// NewExtender returns what writes an extension.
func NewExtender(extension rows.Extension) *Extender {
	e := &Extender{extension: extension, keep: extension.Kept(), objects: newObjects(), kept: map[int]bool{}}
	e.isInOrder = slices.IsSorted(e.keep)
	for _, place := range e.keep {
		e.kept[place] = true
	}
	first := extension.Source.Parts[0]
	e.from, _ = first.Unlabelled().(*File)
	e.own = first.OwnColumns()
	if e.from != nil {
		e.isWhole = extension.Keep == nil && first.Decoder == rows.Decoder(e.from) && slices.Equal(e.from.columns, first.Columns)
		e.values = make([][]byte, e.own)
	}
	for _, name := range extension.Source.Names() {
		e.names = append(e.names, append(appendText(nil, name), ':'))
	}
	for _, column := range extension.Added {
		e.added = append(e.added, append(appendText(nil, column.Name), ':'))
		e.isQuoted = append(e.isQuoted, column.Type == cell.Text || column.Type == cell.Date || column.Type == cell.Time)
	}
	return e
}

// Header returns nothing: each line says the names.
func (e *Extender) Header() []byte { return nil }

// Begin appends the columns of a row that are kept.
func (e *Extender) Begin(line []byte, row *rows.Row) []byte {
	line, e.any = append(line, '{'), false
	switch {
	case e.isWhole:
		members := row.Raw()
		members = members[1 : len(members)-1]
		e.any = len(bytes.TrimSpace(members)) > 0
		return append(line, members...)
	case e.from != nil:
		clear(e.values)
		// What was read before can be read again.
		_ = e.objects.read(row.Raw(), func(name, value []byte) error {
			place := e.from.places[e.objects.unquoted(name)]
			if !e.isInOrder {
				e.values[place] = value
			} else if e.kept[place] {
				line = append(append(e.member(line), e.names[place]...), value...)
			}
			return nil
		})
	}
	columns := row.Part().Columns
	for _, place := range e.keep {
		if e.from != nil && place < e.own {
			if value := e.values[place]; value != nil {
				line = append(append(e.member(line), e.names[place]...), value...)
			}
			continue
		}
		line = append(e.member(line), e.names[place]...)
		if value := row.Field(place); len(value) > 0 {
			line = appendValue(line, &columns[place], value)
		} else {
			line = append(line, "null"...)
		}
	}
	return line
}

// Make appends the columns of a row that no source has, but for those that are blank.
func (e *Extender) Make(line []byte, texts [][]byte) []byte {
	line, e.any = append(line, '{'), false
	columns := e.extension.Source.Columns()
	for i, text := range texts {
		if place := e.keep[i]; len(text) > 0 {
			line = appendValue(append(e.member(line), e.names[place]...), &columns[place], text)
		}
	}
	return line
}

// appendValue appends a value of a source: a number or a truth value as such if its column has that type, and else as text.
func appendValue(line []byte, column *rows.Column, value []byte) []byte {
	switch column.Type {
	case rows.Bool:
		return append(line, value...)
	case rows.Integer, rows.Decimal, rows.Float:
		if isNumber(value) {
			return append(line, value...)
		}
	case rows.Text:
		if column.Plain && isNumber(value) {
			return append(line, value...)
		}
	}
	return appendText(line, string(value))
}

// isNumber tells a number as columns of numbers have it from NaN and Infinity, which JSON has not, and from one with zeros before it.
func isNumber(value []byte) bool {
	digits := bytes.TrimPrefix(value, []byte{'-'})
	last := value[len(value)-1]
	return last >= '0' && last <= '9' && (len(digits) == 1 || digits[0] != '0' || digits[1] < '0' || digits[1] > '9')
}

// Add appends the text of an added column.
func (e *Extender) Add(line []byte, column int, text []byte) []byte {
	line = append(e.member(line), e.added[column]...)
	switch {
	case len(text) == 0:
		return append(line, "null"...)
	case e.isQuoted[column]:
		return appendText(line, string(text))
	}
	return append(line, text...)
}

// member appends the comma before a member that is not the first one.
func (e *Extender) member(line []byte) []byte {
	if e.any {
		line = append(line, ',')
	}
	e.any = true
	return line
}

// End ends a row.
func (e *Extender) End(line []byte) []byte { return append(line, '}', '\n') }
