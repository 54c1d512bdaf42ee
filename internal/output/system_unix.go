//go:build unix

package output

import (
	"io/fs"
	"os"

	"golang.org/x/sys/unix"
)

// hold locks a file or folder for as long as it is open. It is false when
// another run has locked it. Where a file system knows no locks nothing is
// locked, and nothing is ever taken for free.
func hold(file *os.File) bool {
	return unix.Flock(int(file.Fd()), unix.LOCK_EX|unix.LOCK_NB) != unix.EWOULDBLOCK
}

// isFree locks a file or folder if no living run holds it.
func isFree(file *os.File) bool {
	return unix.Flock(int(file.Fd()), unix.LOCK_EX|unix.LOCK_NB) == nil
}

// writable tells whether a file may be written. A file that nobody may write is
// protected from the superuser too.
func writable(path string, info fs.FileInfo) bool {
	return info.Mode().Perm()&0o222 != 0 && unix.Access(path, unix.W_OK) == nil
}
