package output

import (
	"errors"
	"fmt"
	"io/fs"
	"math/rand/v2"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"

	"golang.org/x/text/unicode/norm"
)

// temporaryName makes up a name beside a target.
func temporaryName(target, ending string) string {
	return filepath.Join(filepath.Dir(target), fmt.Sprintf(".%s.%08x.%s", filepath.Base(target), rand.Uint32(), ending))
}

// createBeside creates a locked file under a temporary name beside a target.
func createBeside(target string) (string, *os.File, error) {
	for {
		path := temporaryName(target, "part")
		file, err := createNew(path)
		if errors.Is(err, fs.ErrExist) {
			continue
		}
		if err != nil {
			return "", nil, err
		}
		if hold(file) && isAt(file, path) {
			return path, file, nil
		}
		// Another run took it for a dead one's before it was locked.
		file.Close()
	}
}

// makeBeside makes a locked folder under a temporary name beside a target.
func makeBeside(target string) (string, *os.File, error) {
	for {
		path := temporaryName(target, "part")
		err := os.Mkdir(path, 0o777)
		if errors.Is(err, fs.ErrExist) {
			continue
		}
		if err != nil {
			return "", nil, err
		}
		lock, err := openFolder(path)
		if errors.Is(err, fs.ErrNotExist) {
			continue
		}
		if err != nil {
			os.Remove(path)
			return "", nil, err
		}
		if hold(lock) && isAt(lock, path) {
			return path, lock, nil
		}
		lock.Close()
	}
}

// isAt tells whether an open file is still the one of its path.
func isAt(file *os.File, path string) bool {
	own, err := file.Stat()
	if err != nil {
		return false
	}
	there, err := os.Lstat(path)
	return err == nil && os.SameFile(own, there)
}

// sameName tells whether two paths are of one file by their letters.
func sameName(a, b string) bool {
	return a == b || foldsNames && strings.EqualFold(norm.NFC.String(a), norm.NFC.String(b))
}

// sameEntry tells whether two paths are of one entry of a folder, which can be called in several ways itself.
func sameEntry(a, b string) bool {
	return sameName(a, b) || sameName(filepath.Base(a), filepath.Base(b)) && sameFile(filepath.Dir(a), filepath.Dir(b))
}

// samePlace tells whether two paths are of one file, or will be once there is one.
func samePlace(a, b string) bool { return sameEntry(a, b) || sameFile(a, b) }

func sameFile(a, b string) bool {
	one, err := os.Stat(a)
	if err != nil {
		return false
	}
	other, err := os.Stat(b)
	return err == nil && os.SameFile(one, other)
}

// within tells whether a path lies below a folder, which may not be there yet.
func within(path, folder string) bool {
	for above := filepath.Dir(path); ; above = filepath.Dir(above) {
		if samePlace(above, folder) {
			return true
		}
		if above == filepath.Dir(above) {
			return false
		}
	}
}

// leftName is a name that a run gives what it is writing: .NAME.XXXXXXXX.part,
// or .NAME.XXXXXXXX.old for a folder on its way out.
var leftName = regexp.MustCompile(`^\.(.+)\.[0-9a-f]{8}\.(part|old)$`)

// leftOf lists what runs have left beside a target under names with an ending.
func leftOf(target, ending string) []string {
	entries, err := os.ReadDir(filepath.Dir(target))
	if err != nil {
		return nil
	}
	var paths []string
	for _, entry := range entries {
		if parts := leftName.FindStringSubmatch(entry.Name()); parts != nil && sameName(parts[1], filepath.Base(target)) && parts[2] == ending {
			paths = append(paths, filepath.Join(filepath.Dir(target), entry.Name()))
		}
	}
	return paths
}

// clearLeft removes what dead runs with the same target have left.
func clearLeft(target string) {
	for _, path := range leftOf(target, "part") {
		removeDead(path)
	}
}

// removeDead removes a file or folder unless a living run holds it.
func removeDead(path string) {
	if info, err := os.Lstat(path); err != nil || !info.IsDir() && !info.Mode().IsRegular() {
		return
	}
	if release, isDead := takeDead(path); isDead {
		removeAll(path)
		release()
	}
}

// madeFolders are folders that were made for a result, the topmost first.
type madeFolders []string

// makeFolders makes a folder with all above it.
func makeFolders(folder string) (madeFolders, error) {
	var missing madeFolders
	for path := folder; ; path = filepath.Dir(path) {
		if _, err := os.Lstat(path); !errors.Is(err, fs.ErrNotExist) || path == filepath.Dir(path) {
			break
		}
		missing = append(missing, path)
	}
	slices.Reverse(missing)
	if err := os.MkdirAll(folder, 0o777); err != nil {
		missing.remove()
		return nil, err
	}
	return missing, nil
}

// remove removes the folders that are empty.
func (m madeFolders) remove() {
	for _, folder := range slices.Backward(m) {
		os.Remove(folder)
	}
}

// placed is a result in its place.
type placed struct {
	from, to string
	// old is where what was there before is kept; fresh tells that nothing was.
	old   string
	fresh bool
}

// putInPlace renames a file to its place. With keep, what was there before is
// kept under another name, if the system can, until it is known that all
// results of the run are in their places.
func putInPlace(from, to string, keep bool) (placed, error) {
	info, err := os.Lstat(to)
	p := placed{from: from, to: to, fresh: errors.Is(err, fs.ErrNotExist)}
	if keep && err == nil && info.Mode().IsRegular() {
		if !mayRename(to, info) {
			return placed{}, &os.LinkError{Op: "rename", Old: from, New: to, Err: fs.ErrPermission} // a second name of the file could not be removed either
		}
		if exchange(from, to) == nil {
			p.old = from
			return p, nil
		}
		if old := temporaryName(to, "part"); os.Link(to, old) == nil {
			p.old = old
		}
	}
	if err := rename(from, to); err != nil {
		if p.old != "" {
			os.Remove(p.old)
		}
		return placed{}, err
	}
	return p, nil
}

// undo puts back what was there before. Where it could not be kept, the result
// stays.
func (p placed) undo() {
	switch {
	case p.to == "":
	case p.old != "":
		_ = rename(p.old, p.to)
	case p.fresh:
		_ = rename(p.to, p.from)
	}
}

// syncFolder makes the names of a folder last. Not all systems can.
func syncFolder(folder string) {
	if opened, err := os.Open(folder); err == nil {
		_ = opened.Sync()
		opened.Close()
	}
}
