//go:build unix

package output

import (
	"io/fs"
	"os"
	"path/filepath"
	"syscall"

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

// mayRename tells whether a file of a folder may get another name, and its own to another file: in a folder with the sticky bit only its
// owner may do that, and that of the folder.
func mayRename(path string, info fs.FileInfo) bool {
	folder, err := os.Stat(filepath.Dir(path))
	if err != nil || folder.Mode()&fs.ModeSticky == 0 || os.Geteuid() == 0 {
		return true
	}
	for _, one := range []fs.FileInfo{folder, info} {
		if owner, ok := one.Sys().(*syscall.Stat_t); ok && int(owner.Uid) == os.Geteuid() {
			return true
		}
	}
	return false
}
