package output

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"time"
	"unsafe"

	"golang.org/x/sys/windows"
)

// shareAll lets others read, write, rename and remove a file that is open.
const shareAll = windows.FILE_SHARE_READ | windows.FILE_SHARE_WRITE | windows.FILE_SHARE_DELETE

// open opens a file or folder. The error is one of the package fs where there is such a one.
func open(path string, access, share, mode, flags uint32) (*os.File, error) {
	name, err := windows.UTF16PtrFromString(longPath(path))
	if err != nil {
		return nil, &fs.PathError{Op: "open", Path: path, Err: err}
	}
	handle, err := windows.CreateFile(name, access, share, nil, mode, flags, 0)
	if err != nil {
		return nil, &fs.PathError{Op: "open", Path: path, Err: err}
	}
	return os.NewFile(uintptr(handle), path), nil
}

// longPath writes a path so that it may have more than 260 letters.
func longPath(path string) string {
	const most = 247 // of a folder, since a file in it needs a name of the old form
	absolute, err := filepath.Abs(path)
	switch {
	case err != nil || len(absolute) <= most || strings.HasPrefix(absolute, `\\?\`) || strings.HasPrefix(absolute, `\\.\`):
		return path
	case strings.HasPrefix(absolute, `\\`):
		return `\\?\UNC` + absolute[1:]
	}
	return `\\?\` + absolute
}

// createNew creates a file that may get another name, and be removed, while it is open.
func createNew(path string) (*os.File, error) {
	return open(path, windows.GENERIC_READ|windows.GENERIC_WRITE, shareAll, windows.CREATE_NEW, windows.FILE_ATTRIBUTE_NORMAL)
}

// openFolder opens a folder likewise.
func openFolder(path string) (*os.File, error) {
	return open(path, windows.GENERIC_READ, shareAll, windows.OPEN_EXISTING, windows.FILE_FLAG_BACKUP_SEMANTICS)
}

// hold has nothing to do: a file or folder that is open is held.
func hold(*os.File) bool { return true }

// takeDead tells whether no living run holds a file or folder: to have it alone is refused while anybody has it open.
func takeDead(path string) (release func(), isDead bool) {
	file, err := open(path, windows.GENERIC_READ, 0, windows.OPEN_EXISTING, windows.FILE_FLAG_BACKUP_SEMANTICS|windows.FILE_FLAG_OPEN_REPARSE_POINT)
	if err != nil {
		return nil, false
	}
	_ = file.Close()
	return func() {}, true
}

// rename gives a file or folder another name, also one of a file that others have open and let go, and of one that may not be written. For
// a moment something may be in its way: a run that ends, a program that looks for viruses.
func rename(from, to string) error {
	const moments, moment = 20, 50 * time.Millisecond
	var err error
	for range moments {
		if err = renameNow(from, to); !errors.Is(err, fs.ErrPermission) && !errors.Is(err, windows.ERROR_SHARING_VIOLATION) || isOpenElsewhere(to) {
			return err
		}
		time.Sleep(moment)
	}
	return err
}

func renameNow(from, to string) error {
	if renamePOSIX(from, to) == nil {
		return nil
	}
	err := os.Rename(from, to)
	if info, statErr := os.Lstat(to); errors.Is(err, fs.ErrPermission) && statErr == nil && info.Mode().IsRegular() && info.Mode().Perm()&0o222 == 0 {
		if os.Chmod(to, 0o666) == nil {
			if err = os.Rename(from, to); err != nil {
				_ = os.Chmod(to, info.Mode().Perm())
			}
		}
	}
	return err
}

// renamePOSIX renames as POSIX does, which systems before Windows 10 (1809) and some file systems do not know.
func renamePOSIX(from, to string) error {
	file, err := open(from, windows.DELETE|windows.SYNCHRONIZE, shareAll, windows.OPEN_EXISTING, windows.FILE_FLAG_BACKUP_SEMANTICS|windows.FILE_FLAG_OPEN_REPARSE_POINT)
	if err != nil {
		return err
	}
	defer file.Close()
	absolute, err := filepath.Abs(to)
	if err != nil {
		return err
	}
	name, err := windows.UTF16FromString(longPath(absolute))
	if err != nil {
		return err
	}
	type renaming struct {
		flags    uint32
		root     windows.Handle
		size     uint32
		fileName [1]uint16
	}
	size := unsafe.Offsetof(renaming{}.fileName) + uintptr(len(name))*2
	buffer := make([]uint64, (size+7)/8) // aligned
	own := (*renaming)(unsafe.Pointer(&buffer[0]))
	own.flags = windows.FILE_RENAME_REPLACE_IF_EXISTS | windows.FILE_RENAME_POSIX_SEMANTICS | windows.FILE_RENAME_IGNORE_READONLY_ATTRIBUTE
	own.size = uint32(len(name)-1) * 2
	copy(unsafe.Slice(&own.fileName[0], len(name)), name)
	return windows.SetFileInformationByHandle(windows.Handle(file.Fd()), windows.FileRenameInfoEx, (*byte)(unsafe.Pointer(own)), uint32(size))
}

// isOpenElsewhere tells whether another program has a file open and does not let it be replaced.
func isOpenElsewhere(path string) bool {
	file, err := open(path, windows.DELETE, shareAll, windows.OPEN_EXISTING, windows.FILE_FLAG_BACKUP_SEMANTICS)
	if err == nil {
		_ = file.Close()
	}
	return errors.Is(err, windows.ERROR_SHARING_VIOLATION) || errors.Is(err, windows.ERROR_LOCK_VIOLATION)
}

// openToSync opens a file so that what is written can be brought to the disk.
func openToSync(path string) (*os.File, error) { return os.OpenFile(path, os.O_RDWR, 0) }

func writable(_ string, info fs.FileInfo) bool { return info.Mode().Perm()&0o222 != 0 }

func mayRename(string, fs.FileInfo) bool { return true }

// exchange is not there on this system.
var exchange = func(a, b string) error { return errors.ErrUnsupported }

// IsReaderGone tells whether nobody reads a pipe any more.
func IsReaderGone(err error) bool {
	return errors.Is(err, windows.ERROR_NO_DATA) || errors.Is(err, windows.ERROR_PIPE_NOT_CONNECTED) || errors.Is(err, windows.ERROR_BROKEN_PIPE)
}

// noNames are the names of devices, which are those with any ending, too, in every folder.
var noNames = regexp.MustCompile(`(?i)^(con|prn|aux|nul|conin\$|conout\$|com[0-9¹²³]|lpt[0-9¹²³])( *\..*)?$`)

// wrongName says why a path cannot be that of a file; nothing if it can. NUL by itself is the device that nothing comes of.
func wrongName(path string) string {
	rest := strings.TrimPrefix(path, filepath.VolumeName(path))
	for _, name := range strings.FieldsFunc(rest, func(r rune) bool { return r == '/' || r == '\\' }) {
		switch {
		case strings.EqualFold(path, "nul"), strings.Trim(name, ".") == "":
		case noNames.MatchString(name):
			return fmt.Sprintf("%s is the name of a device on Windows", name)
		case strings.ContainsFunc(name, func(r rune) bool { return r < ' ' || strings.ContainsRune(`<>:"|?*`, r) }):
			return fmt.Sprintf("%s has a character that no name has on Windows: one of < > : \" | ? *, or one that is not printed", name)
		case strings.HasSuffix(name, ".") || strings.HasSuffix(name, " "):
			return fmt.Sprintf("%s ends with a point or a blank, which Windows takes off", name)
		}
	}
	return ""
}

// foldsNames tells that names which differ in case are one file's.
var foldsNames = true

// removeAll removes a folder with all that is in it. Step by step where the system cannot do what the library asks of it.
func removeAll(path string) error {
	err := os.RemoveAll(path)
	if err == nil {
		return nil
	}
	info, statErr := os.Lstat(path)
	if errors.Is(statErr, fs.ErrNotExist) {
		return nil
	}
	if statErr != nil || !info.IsDir() {
		return err
	}
	entries, readErr := os.ReadDir(path)
	if readErr != nil {
		return err
	}
	for _, entry := range entries {
		if err := removeAll(filepath.Join(path, entry.Name())); err != nil {
			return err
		}
	}
	return os.Remove(path)
}
