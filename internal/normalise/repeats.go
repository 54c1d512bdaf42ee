package normalise

import (
	"fmt"
	"strings"

	"roundyear/rows"
)

// Repeats are rows whose key an earlier row has, by their parts and lines, each with that row.
type Repeats map[*rows.Part]map[int]Earlier

// Earlier is a row.
type Earlier struct {
	Part *rows.Part
	Line int
}

// Reason says of a row of a part that it repeats the key of the earlier one.
func (e Earlier) Reason(part *rows.Part) string {
	if e.Part != part {
		return fmt.Sprintf("repeats the key of line %d of %s", e.Line, e.Part.Name)
	}
	return fmt.Sprintf("repeats the key of line %d", e.Line)
}

// rejectRepeated rejects a row whose key an earlier one has.
func (w *worker) rejectRepeated(b *batch, row *rows.Row) bool {
	if w.options.Repeats == nil {
		return false
	}
	first, isRepeated := w.options.Repeats[row.Part()][row.Line]
	if !isRepeated {
		return false
	}
	var names, values []string
	for _, place := range w.options.Key {
		names, values = append(names, w.source.Names()[place]), append(values, string(row.Field(place)))
	}
	w.reject(b, row, strings.Join(names, ", "), strings.Join(values, ", "), first.Reason(row.Part()))
	return true
}
