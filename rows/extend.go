package rows

import "roundyear/cell"

// Extension says which rows are written again with more columns behind them.
type Extension struct {
	Source *Source
	// Keep are the places of the columns that are written; nil for all.
	Keep []int
	// Added are the columns behind them.
	Added []cell.Column
}

// Kept returns the places of the columns that are written.
func (e Extension) Kept() []int {
	if e.Keep != nil {
		return e.Keep
	}
	all := make([]int, len(e.Source.Columns()))
	for i := range all {
		all[i] = i
	}
	return all
}

// Columns returns all columns, those that are added with their types.
func (e Extension) Columns() []Column {
	var columns []Column
	for _, place := range e.Kept() {
		column := e.Source.Columns()[place]
		if column.Type == Text && column.Figures != nil {
			column = column.Figures.typed(column.Name)
		} else if column.Plain && column.Wide {
			column = Column{Name: column.Name, Type: Decimal, Scale: column.Scale, Wide: true} // whose values are texts
		}
		columns = append(columns, column)
	}
	return append(columns, OfCells(e.Added)...)
}

// Extender writes rows of a source in a format, with more columns behind them. What a row holds
// is kept byte for byte where it is in the same format. It serves one goroutine.
type Extender interface {
	// Header returns what stands before the first row.
	Header() []byte
	// Begin appends the columns of a row that are kept.
	Begin(line []byte, row *Row) []byte
	// Make appends those of a row that no source has, by their texts; one that is empty is
	// blank.
	Make(line []byte, texts [][]byte) []byte
	// Add appends the text of an added column, by its place among those; one that is empty
	// is blank.
	Add(line []byte, column int, text []byte) []byte
	// End ends a row.
	End(line []byte) []byte
}
