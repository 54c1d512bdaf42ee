package report

import (
	"io"

	"roundyear/cell"
)

// Rows is typed rows shown as a table for people: decimals, and counts by their
// name, with thousands grouped, yes for true and nothing for false. Other whole
// numbers are years and keys and stay as they are. It holds all rows until Close.
type Rows struct {
	out     io.Writer
	colour  bool
	columns []cell.Column
	rows    [][]string
	footer  []string
}

// NewRows returns a table for people.
func NewRows(out io.Writer, colour bool, columns []cell.Column) *Rows {
	return &Rows{out: out, colour: colour, columns: columns}
}

// Write takes in a row.
func (r *Rows) Write(row []cell.Value) error {
	texts := make([]string, len(row))
	for i, value := range row {
		texts[i] = value.String()
		switch column := r.columns[i]; {
		case column.Type == cell.Decimal, column.Name == "count":
			texts[i] = Grouped(texts[i])
		case column.Type == cell.Boolean:
			texts[i] = map[string]string{"true": "yes"}[texts[i]]
		}
	}
	r.rows = append(r.rows, texts)
	return nil
}

// Footer sets the line under the rows, such as their total.
func (r *Rows) Footer(texts []string) { r.footer = texts }

// Close writes the table.
func (r *Rows) Close() error {
	header, right := make([]string, len(r.columns)), make([]bool, len(r.columns))
	for i, column := range r.columns {
		header[i] = column.Name
		right[i] = column.Type == cell.Integer || column.Type == cell.Decimal
	}
	out := &failing{out: r.out}
	Grid(out, r.colour, header, right, r.rows, r.footer)
	return out.err
}

// failing keeps the first error of writing.
type failing struct {
	out io.Writer
	err error
}

func (f *failing) Write(data []byte) (int, error) {
	if f.err != nil {
		return 0, f.err
	}
	n, err := f.out.Write(data)
	f.err = err
	return n, err
}
