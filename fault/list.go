package fault

import (
	"cmp"
	"slices"
	"strings"
)

// List is all that is wrong with a file, from its first line to its last.
type List []*Fault

// Error returns the faults, each in a line.
func (l List) Error() string {
	var lines []string
	for _, fault := range l {
		lines = append(lines, fault.Error())
	}
	return strings.Join(lines, "\n")
}

// Sorted sorts the faults by line and character.
func (l List) Sorted() List {
	slices.SortStableFunc(l, func(a, b *Fault) int {
		return cmp.Or(a.Line-b.Line, a.Char-b.Char)
	})
	return l
}
