package delimited

import (
	"bytes"
	"slices"

	"roundyear/cell"
	"roundyear/rows"
)

// Extender writes rows with more columns as delimited text. Rows of files with the same
// delimiter keep their bytes.
type Extender struct {
	// Delimiter stands between fields, LineEnd behind rows.
	Delimiter byte
	LineEnd   string

	extension rows.Extension
	// guardKept and guardAdded tell whether texts that a spreadsheet would take for a formula
	// are guarded.
	guardKept, guardAdded bool
	isText                []bool
	// same is the first file of a source of files with the same delimiter.
	same *File
	keep []int
	// isRenamed tells that columns have other names than in the file.
	isRenamed bool
}

// NewExtender returns what writes an extension with a delimiter; 0 for that of the source.
func NewExtender(extension rows.Extension, delimiter byte, kept, added Formulas) *Extender {
	e := &Extender{Delimiter: delimiter, LineEnd: "\n", extension: extension, guardKept: kept == GuardFormulas, guardAdded: added == GuardFormulas, keep: extension.Kept()}
	first := extension.Source.Parts[0]
	if file, ok := first.Unlabelled().(*File); ok {
		e.isRenamed = !slices.Equal(file.names, extension.Source.Names())
		e.LineEnd = file.LineEnd
		if delimiter == 0 || delimiter == file.Delimiter {
			e.Delimiter = file.Delimiter
			if first.Decoder == rows.Decoder(file) {
				e.same = file // rows as they stand in the file
			}
		}
	}
	if e.Delimiter == 0 {
		e.Delimiter = ','
	}
	for _, column := range extension.Added {
		e.isText = append(e.isText, column.Type == cell.Text)
	}
	return e
}

// Header returns the line of the names, those of the source as they stand there.
func (e *Extender) Header() []byte {
	var line []byte
	names := e.extension.Source.Names()
	switch {
	case e.same != nil && e.extension.Keep == nil && !e.guardKept && !e.isRenamed:
		line = append(line, e.same.Header...)
	case e.same != nil && !e.isRenamed:
		fields := e.same.RawFields(e.same.Header)
		for i, place := range e.keep {
			if i > 0 {
				line = append(line, e.Delimiter)
			}
			if value := unquoted(fields[place]); e.guardKept && IsFormula(value) {
				line = e.field(line, value, true)
			} else {
				line = append(line, fields[place]...)
			}
		}
	default:
		for i, place := range e.keep {
			if i > 0 {
				line = append(line, e.Delimiter)
			}
			line = e.field(line, []byte(names[place]), e.guardKept)
		}
	}
	for i, column := range e.extension.Added {
		line = e.field(e.Between(line, i), []byte(column.Name), e.guardKept || e.guardAdded)
	}
	return e.End(line)
}

// Begin appends the columns of a row that are kept.
func (e *Extender) Begin(line []byte, row *rows.Row) []byte {
	if e.same != nil && !(e.guardKept && hasFormula(row)) {
		if e.extension.Keep == nil {
			return append(line, row.Raw()...)
		}
		for i, place := range e.keep {
			if i > 0 {
				line = append(line, e.Delimiter)
			}
			line = append(line, row.RawField(place)...)
		}
		return line
	}
	for i, place := range e.keep {
		if i > 0 {
			line = append(line, e.Delimiter)
		}
		if value := row.Field(place); e.same == nil || IsFormula(value) {
			line = e.field(line, value, e.guardKept)
		} else {
			line = append(line, row.RawField(place)...)
		}
	}
	return line
}

// Make appends the columns of a row that no source has.
func (e *Extender) Make(line []byte, texts [][]byte) []byte {
	for i, text := range texts {
		if i > 0 {
			line = append(line, e.Delimiter)
		}
		line = e.field(line, text, e.guardKept)
	}
	return line
}

// BeginRagged appends the fields of a ragged row as they are, but for the last ones, of which so many
// are left out. So it stays ragged until somebody mends it. It is false where rows do not keep
// their bytes.
func (e *Extender) BeginRagged(line []byte, row *rows.Row, less int, whole string) (begun []byte, all, surplus string, ok bool) {
	if e.same == nil {
		return line, whole, "", false
	}
	fields := e.same.RawFields(row.Raw())
	fields = fields[:max(len(fields)-less, 1)]
	columns := row.Part().OwnColumns() - less
	for i := range columns {
		if i > 0 {
			line = append(line, e.Delimiter)
		}
		if i < len(fields) {
			line = append(line, fields[i]...)
		}
	}
	join := func(fields [][]byte) string { return string(bytes.Join(fields, []byte{e.Delimiter})) }
	return line, join(fields), join(fields[min(columns, len(fields)):]), true
}

// Add appends the text of an added column.
func (e *Extender) Add(line []byte, column int, text []byte) []byte {
	line = e.Between(line, column)
	if !e.isText[column] {
		return append(line, text...)
	}
	return e.field(line, text, e.guardAdded)
}

// Between appends what stands before an added column: nothing if it is the first of the row.
func (e *Extender) Between(line []byte, column int) []byte {
	if column == 0 && len(e.keep) == 0 {
		return line
	}
	return append(line, e.Delimiter)
}

// End ends a row.
func (e *Extender) End(line []byte) []byte { return append(line, e.LineEnd...) }

func (e *Extender) field(line, value []byte, guard bool) []byte {
	start := len(line)
	line = append(line, value...)
	if guard {
		line = GuardFrom(line, start)
	}
	return QuoteFrom(line, start, e.Delimiter)
}

func hasFormula(row *rows.Row) bool {
	for place := range row.Len() {
		if IsFormula(row.Field(place)) {
			return true
		}
	}
	return false
}
