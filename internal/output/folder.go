package output

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"roundyear/fault"
)

// Folder is where a result goes that is a folder of files. It is built beside
// its place, and a folder that is there is replaced only if all in it was
// written by an earlier run of the same output.
type Folder struct {
	run            *Run
	name, target   string
	building, kind string
	lock           *os.File
	made           madeFolders
	placed         placed
	oldLock        *os.File
	// before is the manifest of the folder that is replaced, and taken the files of it that stay.
	before []byte
	taken  []string
}

// manifestName is the file of a folder that lists the files which were written
// there, itself left out.
const manifestName = ".roundyear-output.json"

// manifest is what it says.
type manifest struct {
	// Output is the kind of output, such as "normalise --partition-by".
	Output string         `json:"output"`
	Files  []manifestFile `json:"files"`
}

type manifestFile struct {
	// Path is the path in the folder, with slashes.
	Path  string `json:"path"`
	Bytes int64  `json:"bytes"`
	// Digest is the SHA-256 of the content.
	Digest string `json:"sha256,omitempty"`
}

// isOf tells whether a file is the one that the manifest means. Only one that was written after the manifest is read for that.
func (m manifestFile) isOf(path string, info fs.FileInfo, written time.Time) bool {
	switch {
	case !info.Mode().IsRegular() || info.Size() != m.Bytes:
		return false
	case m.Digest == "" || !info.ModTime().After(written):
		return true
	}
	digest, err := digestOf(path)
	return err == nil && digest == m.Digest
}

func digestOf(path string) (string, error) {
	file, err := os.Open(path)
	if err != nil {
		return "", err
	}
	defer file.Close()
	hash := sha256.New()
	if _, err := io.Copy(hash, file); err != nil {
		return "", err
	}
	return hex.EncodeToString(hash.Sum(nil)), nil
}

// CreateFolder begins an output that is a folder, of a kind such as "normalise
// --partition-by". The error is a Fault: the path is not a folder, holds files
// that no earlier run of the kind wrote, or holds an input of the run.
func (r *Run) CreateFolder(path, kind string) (*Folder, error) {
	f := &Folder{run: r, name: path, kind: kind}
	err := checkName(path)
	if err != nil {
		return nil, err
	}
	if f.target, err = behindLinks(filepath.Clean(path)); err != nil {
		return nil, cannotWrite(path, err)
	}
	r.recover(f.target)
	info, err := os.Stat(f.target)
	switch {
	case errors.Is(err, fs.ErrNotExist):
	case err != nil:
		return nil, cannotWrite(path, err)
	case !info.IsDir():
		return nil, &fault.Fault{File: path, What: "is a file, but the output must be a folder", Remedy: "Choose a new folder"}
	case !r.Force && !writable(f.target, info):
		return nil, &fault.Fault{File: path, What: "is write-protected", Remedy: "Make it writable, write to another folder, or replace it with --force"}
	default:
		if err := f.checkOurs(f.target); err != nil {
			return nil, err
		}
		f.before, _ = os.ReadFile(filepath.Join(f.target, manifestName))
	}
	if f.made, err = makeFolders(filepath.Dir(f.target)); err != nil {
		return nil, cannotWrite(path, err)
	}
	clearLeft(f.target)
	if f.building, f.lock, err = makeBeside(f.target); err != nil {
		f.made.remove()
		return nil, cannotWrite(path, err)
	}
	if err := r.add(f); err != nil {
		f.abort()
		return nil, err
	}
	return f, nil
}

// recover puts back a folder that a run was about to replace when it was killed,
// on a system that cannot exchange two folders in one step.
func (r *Run) recover(target string) {
	for _, path := range leftOf(target, "old") {
		release, isDead := takeDead(path)
		if !isDead {
			continue
		}
		if _, err := os.Lstat(target); errors.Is(err, fs.ErrNotExist) {
			if rename(path, target) == nil {
				r.notes = append(r.notes, fmt.Sprintf("%s was restored: an earlier run was killed while replacing it", target))
			}
		} else {
			removeAll(path)
		}
		release()
	}
}

// Path is the folder in which the files are to be made; they come to their
// place when the run commits.
func (f *Folder) Path() string { return f.building }

// Existing lists the files of the folder that would be replaced, by their paths in it with slashes.
func (f *Folder) Existing() []string {
	var written manifest
	if json.Unmarshal(f.before, &written) != nil {
		return nil
	}
	var paths []string
	for _, file := range written.Files {
		paths = append(paths, file.Path)
	}
	return paths
}

// ReadExisting reads a file of the folder that would be replaced.
func (f *Folder) ReadExisting(path string) ([]byte, error) {
	return os.ReadFile(filepath.Join(f.target, filepath.FromSlash(path)))
}

// Take makes a file of the folder that would be replaced one of the new folder.
func (f *Folder) Take(path string) error {
	from, to := filepath.Join(f.target, filepath.FromSlash(path)), filepath.Join(f.building, filepath.FromSlash(path))
	if err := os.MkdirAll(filepath.Dir(to), 0o777); err != nil {
		return cannotWrite(f.name, err)
	}
	f.taken = append(f.taken, path)
	if os.Link(from, to) == nil {
		return nil
	}
	if err := copyFile(from, to); err != nil {
		return cannotWrite(f.name, err)
	}
	return nil
}

// copyFile copies a file with its permissions and times.
func copyFile(from, to string) error {
	source, err := os.Open(from)
	if err != nil {
		return err
	}
	defer source.Close()
	info, err := source.Stat()
	if err != nil {
		return err
	}
	target, err := os.OpenFile(to, os.O_WRONLY|os.O_CREATE|os.O_EXCL, info.Mode().Perm())
	if err != nil {
		return err
	}
	if _, err = io.Copy(target, source); err != nil {
		_ = target.Close()
		return err
	}
	if err := target.Close(); err != nil {
		return err
	}
	return os.Chtimes(to, info.ModTime(), info.ModTime())
}

// Name returns the output's name as the user gave it.
func (f *Folder) Name() string { return f.name }

func (f *Folder) title() string { return f.name }
func (f *Folder) place() string { return f.target }

// holds tells whether a file lies in the folder that would be replaced. The
// path has no links.
func (f *Folder) holds(path string) bool {
	info, err := os.Stat(f.target)
	if err != nil {
		return false
	}
	for folder := filepath.Dir(path); ; folder = filepath.Dir(folder) {
		if above, err := os.Stat(folder); err == nil && os.SameFile(info, above) {
			return true
		}
		if folder == filepath.Dir(folder) {
			return false
		}
	}
}

// maxForeign is how many files are named that are not the output's own.
const maxForeign = 5

// checkOurs returns a Fault when a folder holds anything that no earlier run of
// this kind of output wrote.
func (f *Folder) checkOurs(folder string) error {
	written, err := readManifest(folder)
	if err != nil && !errors.Is(err, fs.ErrNotExist) {
		return &fault.Fault{File: filepath.Join(f.name, manifestName), What: "cannot be read", Cause: err, Remedy: "Move the folder, or write to another one", Kind: fault.Unusable}
	}
	var at time.Time
	if info, err := os.Stat(filepath.Join(folder, manifestName)); err == nil {
		at = info.ModTime()
	}
	ours := map[string]manifestFile{}
	if written.Output == f.kind {
		for _, file := range written.Files {
			ours[file.Path] = file
		}
	}
	var foreign []string
	err = filepath.WalkDir(folder, func(path string, entry fs.DirEntry, err error) error {
		if err != nil || path == folder {
			return err
		}
		relative, err := filepath.Rel(folder, path)
		if err != nil {
			return err
		}
		relative = filepath.ToSlash(relative)
		if entry.IsDir() {
			if !slices.ContainsFunc(written.Files, func(file manifestFile) bool { return strings.HasPrefix(file.Path, relative+"/") }) {
				foreign = append(foreign, relative+"/")
				return fs.SkipDir
			}
			return nil
		}
		info, err := entry.Info()
		if err != nil {
			return err
		}
		own, known := ours[relative]
		switch {
		case relative == manifestName && written.Output == f.kind:
		case !known:
			foreign = append(foreign, relative)
		case !own.isOf(path, info, at):
			foreign = append(foreign, relative+" (changed since)")
		}
		return nil
	})
	if err != nil {
		return cannotWrite(f.name, err)
	}
	if len(foreign) == 0 {
		return nil
	}
	what := "holds " + strings.Join(foreign[:min(len(foreign), maxForeign)], ", ")
	if more := len(foreign) - maxForeign; more > 0 {
		what += fmt.Sprintf(" and %d more", more)
	}
	return &fault.Fault{File: f.name, What: what + fmt.Sprintf(", which no earlier %s wrote, and the whole folder would be replaced", f.kind), Remedy: "Write to another folder, or move these files"}
}

func readManifest(folder string) (manifest, error) {
	var written manifest
	text, err := os.ReadFile(filepath.Join(folder, manifestName))
	if err != nil {
		return written, err
	}
	return written, json.Unmarshal(text, &written)
}

// settle writes the manifest and syncs all files and folders.
func (f *Folder) settle() error {
	written := manifest{Output: f.kind}
	var folders []string
	err := filepath.WalkDir(f.building, func(path string, entry fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if entry.IsDir() {
			folders = append(folders, path)
			return nil
		}
		info, err := entry.Info()
		if err != nil {
			return err
		}
		relative, err := filepath.Rel(f.building, path)
		if err != nil {
			return err
		}
		digest, err := digestOf(path)
		if err != nil {
			return err
		}
		written.Files = append(written.Files, manifestFile{Path: filepath.ToSlash(relative), Bytes: info.Size(), Digest: digest})
		return syncFile(path)
	})
	if err != nil {
		return cannotWrite(f.name, err)
	}
	text, err := json.MarshalIndent(written, "", " ")
	if err != nil {
		return err
	}
	path := filepath.Join(f.building, manifestName)
	if err := os.WriteFile(path, append(text, '\n'), 0o666); err != nil {
		return cannotWrite(f.name, err)
	}
	if err := syncFile(path); err != nil {
		return cannotWrite(f.name, err)
	}
	for _, folder := range slices.Backward(folders) {
		syncFolder(folder)
	}
	return nil
}

func syncFile(path string) error {
	file, err := openToSync(path)
	if err != nil {
		return err
	}
	defer file.Close()
	return file.Sync()
}

// put puts the folder in its place: in one step where the system can exchange
// two names. Where it cannot, the old one is set aside first, and the next run
// with the same output puts it back if this one is killed in between.
func (f *Folder) put(bool) error {
	f.placed = placed{from: f.building, to: f.target}
	info, err := os.Lstat(f.target)
	if err == nil && !info.IsDir() {
		return &fault.Fault{File: f.name, What: "turned into a file while the folder was being written", Remedy: "Choose a new folder", Kind: fault.Changed}
	}
	if f.placed.fresh = errors.Is(err, fs.ErrNotExist); f.placed.fresh {
		if err := rename(f.building, f.target); err != nil {
			return cannotWrite(f.name, err)
		}
		return nil
	}
	if f.oldLock, err = openFolder(f.target); err == nil {
		hold(f.oldLock)
	}
	if exchange(f.building, f.target) == nil {
		f.placed.old = f.building
	} else {
		f.placed.old = temporaryName(f.target, "old")
		if err := rename(f.target, f.placed.old); err != nil {
			f.placed = placed{}
			return cannotWrite(f.name, err)
		}
		if err := rename(f.building, f.target); err != nil {
			_ = rename(f.placed.old, f.target)
			f.placed = placed{}
			return cannotWrite(f.name, err)
		}
	}
	// Files may have come into the old folder while the new one was built.
	if err := f.checkOurs(f.placed.old); err != nil {
		f.undo()
		return err
	}
	if now, err := os.ReadFile(filepath.Join(f.placed.old, manifestName)); len(f.taken) > 0 && (err != nil || !bytes.Equal(now, f.before)) {
		f.undo()
		return &fault.Fault{File: f.name, What: "was replaced by another run while this one added to it; nothing was written", Remedy: "Run the command again", Kind: fault.Changed}
	}
	return nil
}

func (f *Folder) undo() {
	switch {
	case f.placed.to == "":
	case f.placed.fresh:
		_ = rename(f.target, f.building)
	case f.placed.old == f.building:
		_ = exchange(f.building, f.target)
	default:
		if rename(f.target, f.building) == nil {
			_ = rename(f.placed.old, f.target)
		}
	}
	f.placed = placed{}
}

func (f *Folder) done() error {
	var err error
	if f.placed.old != "" {
		err = removeAll(f.placed.old)
	}
	syncFolder(filepath.Dir(f.target))
	f.release()
	f.building, f.made = "", nil
	if err != nil {
		return cannotWrite(f.name, err)
	}
	return nil
}

func (f *Folder) release() {
	f.lock.Close()
	if f.oldLock != nil {
		f.oldLock.Close()
	}
}

// Abort takes away what was written. After a commit it does nothing.
func (f *Folder) Abort() {
	if f.building == "" {
		return
	}
	f.run.mu.Lock()
	defer f.run.mu.Unlock()
	f.run.forget(f)
	f.abort()
}

func (f *Folder) abort() {
	if f.building == "" {
		return
	}
	removeAll(f.building)
	f.release()
	f.made.remove()
	f.building = ""
}
