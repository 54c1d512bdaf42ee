// Package table reads and writes tables: comma-separated files as a stream of
// records whose bytes are kept as they are, and typed rows in the formats that
// results are given in.
package table

import (
	"fmt"
	"strings"
)

// Fault is an error of a file or of what stands in it. It says where, what is
// wrong and what to do.
type Fault struct {
	// File is the file as the user named it, Line the line in it from 1, and
	// Column the name of the column; each may be missing.
	File   string
	Line   int
	Column string
	// What says what is wrong, Remedy what to do about it.
	What, Remedy string
	// External tells that the world failed and not the call: a file that
	// cannot be read or written.
	External bool
	// Cause is the error behind it, if there is one.
	Cause error
}

// Error returns the fault in one line.
func (f *Fault) Error() string {
	var where []string
	if f.File != "" {
		where = append(where, shortened(f.File))
	}
	if f.Line > 0 {
		where = append(where, fmt.Sprintf("line %d", f.Line))
	}
	if f.Column != "" {
		where = append(where, "column "+shortened(f.Column))
	}
	text := f.What
	if f.Cause != nil {
		text += ": " + f.Cause.Error()
	}
	text = shortened(text)
	if len(where) > 0 {
		text = strings.Join(where, ", ") + ": " + text
	}
	if f.Remedy != "" {
		text += ". " + shortened(f.Remedy)
	}
	return text
}

// maxFault is how many characters of a name or a reason a fault says, which
// may have a value of any length in it.
const maxFault = 400

func shortened(text string) string {
	count := 0
	for at := range text {
		if count++; count > maxFault {
			return text[:at] + "…"
		}
	}
	return text
}

// Unwrap returns the cause.
func (f *Fault) Unwrap() error { return f.Cause }
