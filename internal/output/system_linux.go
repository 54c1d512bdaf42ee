package output

import "golang.org/x/sys/unix"

// exchange gives two files or folders each other's name in one step.
var exchange = func(a, b string) error {
	return unix.Renameat2(unix.AT_FDCWD, a, unix.AT_FDCWD, b, unix.RENAME_EXCHANGE)
}

// foldsNames tells that names which differ in case are one file's.
var foldsNames = false
