package report

import (
	"slices"
	"strings"

	"github.com/jedib0t/go-pretty/v6/text"

	"roundyear/cell"
	"roundyear/internal/terminal"
)

// gap is how many cells stand between two columns.
const gap = 2

// fitting returns the places of the columns that fit into a width, and the names of the others. First go columns without a value, then the first
// and last days of periods, then what says whether periods are comparable and by how much they differ, then other numbers from the right and
// percentages last of them, then marks, and groups at the very end. The first column and the first number stay.
func fitting(columns []cell.Column, headings []string, rows [][]string, footer []string, width int) (kept []int, dropped []string) {
	widths, isEmpty := make([]int, len(columns)), make([]bool, len(columns))
	for i := range columns {
		widths[i], isEmpty[i] = text.StringWidthWithoutEscSequences(headings[i]), true
		for _, row := range rows {
			widths[i] = max(widths[i], text.StringWidthWithoutEscSequences(terminal.Clean(Shortened(row[i], maxCell))))
			isEmpty[i] = isEmpty[i] && row[i] == ""
		}
		if footer != nil {
			widths[i] = max(widths[i], text.StringWidthWithoutEscSequences(footer[i]))
		}
		kept = append(kept, i)
	}
	total := func() int {
		sum := 0 // the line under the header has the gap of the last column, too
		for _, i := range kept {
			sum += widths[i] + gap
		}
		return sum
	}
	drop := func(mayGo func(column int) bool) {
		for at := len(kept) - 1; at > 0 && len(kept) > 2 && total() > width; at-- {
			if i := kept[at]; mayGo(i) {
				kept = slices.Delete(kept, at, at+1)
			}
		}
	}
	isMark := func(i int) bool { return columns[i].Type == cell.Boolean || columns[i].Name == signsColumn }
	drop(func(i int) bool { return isEmpty[i] })
	if columns[0].Name == "period" && total() > width { // both days or none
		dropped := func(i int) bool { return strings.HasPrefix(columns[i].Name, "period_") || columns[i].Name == "to_date" }
		kept = slices.DeleteFunc(kept, dropped)
	}
	isNumber := func(column cell.Column) bool { return column.Type == cell.Integer || column.Type == cell.Decimal }
	main := slices.IndexFunc(columns, isNumber)
	ends := func(i int, ending string) bool { return strings.HasSuffix(columns[i].Name, ending) }
	drop(func(i int) bool { return ends(i, "_comparable") || ends(i, "_change") })
	drop(func(i int) bool { return isNumber(columns[i]) && i != main && !ends(i, "_percent") })
	drop(func(i int) bool { return isNumber(columns[i]) && i != main })
	drop(isMark)
	drop(func(i int) bool { return i != main })
	for i, column := range columns {
		if !slices.Contains(kept, i) && column.Name != signsColumn {
			dropped = append(dropped, column.Name)
		}
	}
	return kept, dropped
}

// widthOf returns the width of a table.
func widthOf(headings []string, rows [][]string, footer []string) int {
	sum := 0
	for i, heading := range headings {
		width := text.StringWidthWithoutEscSequences(heading)
		for _, row := range rows {
			width = max(width, text.StringWidthWithoutEscSequences(terminal.Clean(Shortened(row[i], maxCell))))
		}
		if footer != nil {
			width = max(width, text.StringWidthWithoutEscSequences(footer[i]))
		}
		sum += width + gap
	}
	return sum
}

// picked returns some of the values of a list, by their places.
func picked[T any](all []T, places []int) []T {
	var some []T
	for _, place := range places {
		some = append(some, all[place])
	}
	return some
}
