package report

import (
	"fmt"
	"io"
	"strings"

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
	// width is that of the terminal in cells; 0 if it is not known.
	width int
	// periods says how periods are shown; nil for other rows. Bars are drawn where there is room.
	periods *Periods
	bars    []bar
}

// NewRows returns a table for people, of at most so many cells in width; 0 for any number. What does not fit is left out and named.
func NewRows(out io.Writer, colour bool, columns []cell.Column, width int) *Rows {
	return &Rows{out: out, colour: colour, columns: columns, width: width}
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

// Periods says that the rows are of periods, and how they are shown.
func (r *Rows) Periods(p Periods) { r.periods = &p }

// Footer sets the line under the rows, such as their total.
func (r *Rows) Footer(texts []string) { r.footer = texts }

// Close writes the table.
func (r *Rows) Close() error {
	var headings []string
	var legend string
	switch {
	case r.periods != nil:
		headings, legend = r.setPeriods()
	default:
		legend = r.setBeside()
		for _, column := range r.columns {
			headings = append(headings, column.Name)
		}
	}
	var dropped []string
	if r.width > 0 {
		var kept []int
		if kept, dropped = fitting(r.columns, headings, r.rows, r.footer, r.width); len(dropped) > 0 {
			r.columns, headings = picked(r.columns, kept), picked(headings, kept)
			for i, row := range r.rows {
				r.rows[i] = picked(row, kept)
			}
			if r.footer != nil {
				r.footer = picked(r.footer, kept)
			}
		}
	}
	right := make([]bool, len(r.columns))
	for i, column := range r.columns {
		right[i] = column.Type == cell.Integer || column.Type == cell.Decimal
	}
	if room := r.width - widthOf(headings, r.rows, r.footer) - gap; r.width > 0 && r.bars != nil && room >= leastBar {
		headings, right = append(headings, ""), append(right, false)
		for i, text := range drawn(r.bars, min(room, mostBar)) {
			r.rows[i] = append(r.rows[i], text)
		}
		if r.footer != nil {
			r.footer = append(r.footer, "")
		}
		if text := barLegend(r.bars); text != "" {
			legend = strings.TrimPrefix(legend+";  "+text, ";  ")
		}
	}
	out := &failing{out: r.out}
	Grid(out, r.colour, headings, right, r.rows, r.footer)
	if legend != "" {
		fmt.Fprintln(out, wrapped(legend, r.width))
	}
	if len(dropped) > 0 {
		fmt.Fprintln(out, wrapped("Not shown, since the terminal is too narrow: "+strings.Join(dropped, ", "), r.width))
	}
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
