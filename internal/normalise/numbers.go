package normalise

import (
	"fmt"

	"roundyear/numbertext"
	"roundyear/rows"
)

// plainFormat is how numbers are written that are plain already.
var plainFormat = &numbertext.Format{Mark: numbertext.Point}

func (w *worker) formatOf(i int, row *rows.Row) *numbertext.Format {
	if format := w.options.Numbers[i].Formats[row.Part()]; format != nil {
		return format
	}
	return plainFormat
}

// readNumbers reads the numbers of a row. It returns the place of one that cannot be read, or -1.
func (w *worker) readNumbers(row *rows.Row) (unread int) {
	if w.numbers == nil {
		w.numbers = make([][]byte, len(w.options.Numbers))
	}
	for i, number := range w.options.Numbers {
		plain, ok := w.formatOf(i, row).AppendPlain(w.numbers[i][:0], row.Field(number.Place))
		if w.numbers[i] = plain; !ok {
			return i
		}
	}
	return -1
}

// whyNoNumber says in words why a number cannot be read.
func (w *worker) whyNoNumber(i int, row *rows.Row) string {
	if numbertext.IsNumber(row.Field(w.options.Numbers[i].Place)) {
		return fmt.Sprintf("is not a number with a decimal %s", w.formatOf(i, row).Mark)
	}
	return "is not a number"
}
