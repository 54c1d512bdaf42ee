package output

import (
	"strings"

	"golang.org/x/sys/unix"
)

// sameName tells whether two paths are of one file by their names, whatever the case of their letters, as it is unless a disk was formatted to
// tell them apart.
func sameName(a, b string) bool { return strings.EqualFold(a, b) }

// exchange gives two files or folders each other's name in one step.
var exchange = func(a, b string) error { return unix.RenamexNp(a, b, unix.RENAME_SWAP) }
