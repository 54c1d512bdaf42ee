package report

import (
	"strings"

	"github.com/jedib0t/go-pretty/v6/text"
)

// indent goes before what a line is continued with.
const indent = "  "

// wrapped breaks a line between words, so that each piece fits into a width in cells;
// 0 is no limit. A word that is longer stays whole, since it may be a path.
func wrapped(line string, width int) string {
	if width <= len(indent) || text.StringWidthWithoutEscSequences(line) <= width {
		return line
	}
	var out strings.Builder
	used := 0
	for i, word := range strings.Split(line, " ") {
		wide := text.StringWidthWithoutEscSequences(word)
		switch {
		case i == 0:
		case used+1+wide > width && used > len(indent):
			out.WriteString("\n" + indent)
			used = len(indent)
		default:
			out.WriteByte(' ')
			used++
		}
		out.WriteString(word)
		used += wide
	}
	return out.String()
}
