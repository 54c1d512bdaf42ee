package delimited

import (
	"fmt"
	"strconv"
	"strings"
)

// Layout is how text is laid out that is not delimited as most is. The zero Layout is delimited text with double quotes.
type Layout struct {
	// Delimiter stands between fields; 0 for one that the header tells. IsSpaced tells that two or more spaces do.
	Delimiter byte
	IsSpaced  bool
	// Quote is what stands around fields; 0 for double quotes. HasNoQuotes tells that quotes are a part of the text.
	Quote       byte
	HasNoQuotes bool
	// Comment begins lines that are no rows; empty for none.
	Comment string
	// Widths are those of columns in characters; the last one may be 0 for the rest of the line.
	Widths []int
	// Fills tells that rows with too few fields are filled with blanks, and Cuts that those with too many are cut.
	Fills, Cuts bool
}

// NewLayout reads a layout as flags and plans have it: a delimiter that is a character, tab or spaces; a quote that is a character or
// none; what begins comments; widths of columns; and fill or cut for ragged rows. What is empty is as usual.
func NewLayout(delimiter, quote, comment string, widths, ragged []string) (l Layout, err error) {
	isMark := func(text string) bool {
		return len(text) == 1 && text[0] > ' ' && text[0] < 0x7F && !strings.Contains("0123456789+-.", text)
	}
	switch {
	case delimiter == "":
	case delimiter == "spaces":
		l.IsSpaced = true
	case delimiter == "tab" || delimiter == "\t" || delimiter == `\t`:
		l.Delimiter = '\t'
	case delimiter == "space" || delimiter == " ":
		l.Delimiter = ' '
	case isMark(delimiter) && delimiter != `"`:
		l.Delimiter = delimiter[0]
	default:
		return l, fmt.Errorf("a delimiter is a single character such as ; or tab, space or spaces (two or more), not %q", delimiter)
	}
	switch {
	case quote == "" || quote == `"`:
	case quote == "none":
		l.HasNoQuotes = true
	case isMark(quote) && (l.Delimiter == 0 || quote[0] != l.Delimiter):
		l.Quote = quote[0]
	default:
		return l, fmt.Errorf("a quote is a single character such as ', or none, not %q", quote)
	}
	if l.Comment = comment; strings.ContainsAny(comment, "\r\n") {
		return l, fmt.Errorf("what begins a comment is in one line, not %q", comment)
	}
	for i, text := range widths {
		width, err := strconv.Atoi(strings.TrimSpace(text))
		isRest := strings.TrimSpace(text) == "*" && i == len(widths)-1 && i > 0
		if !isRest && (err != nil || width < 1 || width > maxRecord) {
			return l, fmt.Errorf("widths are numbers of characters such as 10,8,12, the last one may be * for the rest, not %q", text)
		}
		l.Widths = append(l.Widths, width)
	}
	if l.Widths != nil && (delimiter != "" || quote != "") {
		return l, fmt.Errorf("columns of fixed widths have no delimiter and no quotes")
	}
	for _, text := range ragged {
		switch strings.TrimSpace(text) {
		case "fill":
			l.Fills = true
		case "cut":
			l.Cuts = true
		case "both":
			l.Fills, l.Cuts = true, true
		default:
			return l, fmt.Errorf("ragged rows are filled (fill), cut (cut) or both, not %q", text)
		}
	}
	return l, nil
}

// isUsual tells whether text in the layout needs no rewriting.
func (l Layout) isUsual() bool {
	return !l.IsSpaced && l.Quote == 0 && !l.HasNoQuotes && l.Comment == "" && l.Widths == nil && !l.Fills && !l.Cuts
}
