package jsonlines

import (
	"bytes"

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
	// objects reads the rows of a file of JSON Lines of which not all columns are kept.
	same    *File
	kept    map[int]bool
	objects *objects
	// any tells whether the object at work has a member.
	any bool
}

// NewExtender returns what writes an extension.
func NewExtender(extension rows.Extension) *Extender {
	e := &Extender{extension: extension, keep: extension.Kept(), kept: map[int]bool{}, objects: newObjects()}
	e.same, _ = extension.Source.Parts[0].Decoder.(*File)
	for _, place := range e.keep {
		e.kept[place] = true
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
	if e.same == nil {
		for _, place := range e.keep {
			line = append(e.member(line), e.names[place]...)
			if value := row.Field(place); len(value) > 0 {
				line = appendText(line, string(value))
			} else {
				line = append(line, "null"...)
			}
		}
		return line
	}
	if e.extension.Keep == nil {
		members := row.Raw()
		members = members[1 : len(members)-1]
		e.any = len(bytes.TrimSpace(members)) > 0
		return append(line, members...)
	}
	// What was read before can be read again.
	_ = e.objects.read(row.Raw(), func(name, value []byte) error {
		if e.kept[e.same.places[e.objects.unquoted(name)]] {
			line = append(append(append(e.member(line), name...), ':'), value...)
		}
		return nil
	})
	return line
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
