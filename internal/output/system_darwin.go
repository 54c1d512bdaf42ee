package output

import "golang.org/x/sys/unix"

// foldsNames tells that names which differ in case, or in how an accent is written, are one file's, as it is unless a disk was formatted to
// tell them apart.
var foldsNames = true

// exchange gives two files or folders each other's name in one step.
var exchange = func(a, b string) error { return unix.RenamexNp(a, b, unix.RENAME_SWAP) }
