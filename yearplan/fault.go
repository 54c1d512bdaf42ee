package yearplan

import (
	"fmt"
	"slices"
	"strings"
)

// Fault is one place at which a plan is wrong.
type Fault struct {
	// File is the plan as the user named it; Line and Column count from 1, the
	// column in characters.
	File         string
	Line, Column int
	// What says what is wrong, Remedy what to do about it.
	What, Remedy string
}

// Error returns the fault in one line.
func (f Fault) Error() string {
	text := fmt.Sprintf("%s, line %d, column %d: %s", f.File, f.Line, f.Column, shortened(f.What))
	if f.Remedy != "" {
		text += ". " + shortened(f.Remedy)
	}
	return text
}

// maxFault is how many characters a fault says of what it is about, which may
// be a value of any length.
const maxFault = 600

func shortened(text string) string {
	count := 0
	for at := range text {
		if count++; count > maxFault {
			return text[:at] + "…"
		}
	}
	return text
}

// Faults is all that is wrong with a plan, from its first line to its last.
type Faults []Fault

// Error returns the faults, each in a line.
func (f Faults) Error() string {
	var lines []string
	for _, fault := range f {
		lines = append(lines, fault.Error())
	}
	return strings.Join(lines, "\n")
}

func (f Faults) sorted() Faults {
	slices.SortStableFunc(f, func(a, b Fault) int {
		if a.Line != b.Line {
			return a.Line - b.Line
		}
		return a.Column - b.Column
	})
	return f
}
