//go:build unix

package output

import (
	"errors"
	"io/fs"
	"os"
	"path/filepath"
	"syscall"

	"golang.org/x/sys/unix"
)

// createNew creates a file that may get another name, and be removed, while it is open.
func createNew(path string) (*os.File, error) {
	return os.OpenFile(path, os.O_RDWR|os.O_CREATE|os.O_EXCL, 0o666)
}

// openFolder opens a folder likewise.
func openFolder(path string) (*os.File, error) { return os.Open(path) }

// hold locks a file or folder for as long as it is open. It is false when
// another run has locked it. Where a file system knows no locks nothing is
// locked, and nothing is ever taken for free.
func hold(file *os.File) bool {
	return unix.Flock(int(file.Fd()), unix.LOCK_EX|unix.LOCK_NB) != unix.EWOULDBLOCK
}

// takeDead locks a file or folder until release, unless a living run holds it.
func takeDead(path string) (release func(), isDead bool) {
	file, err := os.Open(path)
	if err != nil {
		return nil, false
	}
	if unix.Flock(int(file.Fd()), unix.LOCK_EX|unix.LOCK_NB) != nil {
		_ = file.Close()
		return nil, false
	}
	return func() { _ = file.Close() }, true
}

// rename gives a file or folder another name, also one of a file that others have open.
func rename(from, to string) error { return os.Rename(from, to) }

// isOpenElsewhere tells whether another program has a file open and does not let it be replaced, which no program can here.
func isOpenElsewhere(string) bool { return false }

// wrongName says why a path cannot be that of a file; nothing if it can, as all can here.
func wrongName(string) string { return "" }

// removeAll removes a folder with all that is in it.
func removeAll(path string) error { return os.RemoveAll(path) }

// openToSync opens a file so that what is written can be brought to the disk.
func openToSync(path string) (*os.File, error) { return os.Open(path) }

// IsReaderGone tells whether nobody reads a pipe any more.
func IsReaderGone(err error) bool { return errors.Is(err, syscall.EPIPE) }

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
