package table

import "fmt"

// Panicked returns the fault of a panic in the program, in a file and from a line of it on
// if that is known. The run it belongs to ends as with any other fault, and leaves nothing
// behind.
func Panicked(recovered any, file string, line int) *Fault {
	where := ""
	if line > 0 {
		where = fmt.Sprintf(" in line %d or after it", line)
	}
	return &Fault{File: file, What: fmt.Sprintf("internal fault%s: %v", where, recovered), External: true,
		Remedy: "This is a mistake in the program; please report it, with the file if you can"}
}

// guarded works, and returns a panic as an error.
func guarded(work func() error) (err error) {
	defer func() {
		if recovered := recover(); recovered != nil {
			err = Panicked(recovered, "", 0)
		}
	}()
	return work()
}
