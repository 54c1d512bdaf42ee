// Package fault is the one form of error for what is wrong with a file, a plan, a table or
// a value in it: where, what, and what to do.
package fault

import (
	"fmt"
	"strconv"
	"strings"
)

// Kind is what kind of fault it is. Kinds are errors, so that errors.Is tells whether an
// error is a fault of a kind.
type Kind string

// Error returns the kind in words.
func (k Kind) Error() string { return string(k) }

// The kinds of faults. A fault without a kind is one of the call or the plan: what was
// asked for cannot be done.
const (
	// Missing is a file that is not there.
	Missing Kind = "not there"
	// Unusable is a file, a folder or an address that cannot be read or written.
	Unusable Kind = "cannot be read or written"
	// Malformed is a file with content of the wrong form.
	Malformed Kind = "malformed"
	// Changed is a file that became another one during the run.
	Changed Kind = "changed during the run"
	// Internal is a mistake in the program.
	Internal Kind = "internal fault"
)

// Fault is an error of a file or of what stands in it. It says where, what is wrong and
// what to do.
type Fault struct {
	// Kind is the kind of fault.
	Kind Kind
	// File is the file as the user named it, Line the line in it from 1, Char the
	// character in that line from 1, and Column the name of the column; each may be
	// missing.
	File       string
	Line, Char int
	Column     string
	// What says what is wrong, Remedy what to do about it.
	What, Remedy string
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
	if f.Char > 0 {
		where = append(where, fmt.Sprintf("column %d", f.Char))
	}
	if f.Column != "" {
		where = append(where, "column "+shortened(f.Column))
	}
	text := shortened(f.Reason())
	if len(where) > 0 {
		text = strings.Join(where, ", ") + ": " + text
	}
	if f.Remedy != "" {
		text += ". " + shortened(f.Remedy)
	}
	return text
}

// Reason says what is wrong, and the cause of it, without where and what to do.
func (f *Fault) Reason() string {
	if f.Cause == nil {
		return f.What
	}
	return f.What + ": " + f.Cause.Error()
}

// IsExternal tells whether the world failed and not the call: a file that is not there,
// cannot be used, or does not hold what it should.
func (f *Fault) IsExternal() bool { return f.Kind != "" }

// Is tells whether the fault is of a kind.
func (f *Fault) Is(target error) bool { return f.Kind != "" && target == f.Kind }

// Unwrap returns the cause.
func (f *Fault) Unwrap() error { return f.Cause }

// maxShown is how many characters of a name or a reason a fault says, which may have a
// value of any length in it.
const maxShown = 600

func shortened(text string) string {
	count := 0
	for at := range text {
		if count++; count > maxShown {
			return text[:at] + "…"
		}
	}
	return text
}

// Quoted puts a name into quotes for a message. What stands between the names of a path on Windows is not doubled, so that it can be copied.
func Quoted(name string) string {
	return strings.ReplaceAll(strconv.Quote(name), `\\`, `\`)
}

// Panicked returns the fault of a panic in the program, in a file and from a line of it on
// if that is known. The run it belongs to ends as with any other fault, and leaves nothing
// behind.
func Panicked(recovered any, file string, line int) *Fault {
	where := ""
	if line > 0 {
		where = fmt.Sprintf(" in line %d or after it", line)
	}
	return &Fault{Kind: Internal, File: file, What: fmt.Sprintf("internal fault%s: %v", where, recovered),
		Remedy: "This is a mistake in the program; please report it, with the file if you can"}
}
