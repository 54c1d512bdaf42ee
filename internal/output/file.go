package output

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strings"

	"golang.org/x/term"

	"roundyear/fault"
	"roundyear/internal/compress"
	"roundyear/internal/input"
	"roundyear/internal/terminal"
)

// File is where a result goes that is one file, or a stream. Of a regular file
// nothing is seen until the run commits.
type File struct {
	run       *Run
	name      string
	target    string
	temporary string
	file      *os.File
	buffer    *bufio.Writer
	// packed compresses what goes to the buffer, where the ending of the path asks for it.
	packed io.WriteCloser
	made   madeFolders
	placed placed
	// unsynced counts the bytes since the last sync began; syncing gives the
	// end of the one under way.
	unsynced int
	syncing  chan error
	// readerGone tells that the reader of a stream is gone.
	readerGone bool
}

const (
	bufferSize = 256 << 10
	// syncEach is after how many bytes what is written so far goes to the disk,
	// while more is being made. At the end there is then little left to wait for.
	syncEach = 32 << 20
)

// Create opens the output of a path. Folders above it are made, links are
// followed, and devices and pipes are written straight. A path that ends in .gz or .zst is
// compressed. The error is a Fault:
// the path is a folder, may not be written, or is a file that the run reads.
func (r *Run) Create(path string) (*File, error) {
	f := &File{run: r, name: path}
	info, err := os.Stat(path)
	if err := checkName(path); err != nil {
		return nil, err
	}
	switch {
	case err != nil && strings.Contains(path, "://"):
		return nil, &fault.Fault{File: hostOf(path), What: "is an address and not a path", Remedy: "Name a file"}
	case err == nil && info.IsDir():
		return nil, &fault.Fault{File: path, What: "is a folder", Remedy: "Name a file in it"}
	case err == nil && IsStream(path):
		return r.straight(f)
	case err != nil && !errors.Is(err, fs.ErrNotExist):
		return nil, cannotWrite(path, err)
	case err == nil && !r.Force && !writable(path, info):
		return nil, &fault.Fault{File: path, What: "is write-protected", Remedy: "Make it writable, write to another file, or replace it with --force"}
	}
	if f.target, err = behindLinks(path); err != nil {
		return nil, cannotWrite(path, err)
	}
	if isOpenElsewhere(f.target) {
		if err := r.Check(path); err != nil { // which may be because the run reads it
			return nil, err
		}
		return nil, openElsewhere(path)
	}
	if f.made, err = makeFolders(filepath.Dir(f.target)); err != nil {
		return nil, cannotWrite(path, err)
	}
	clearLeft(f.target)
	f.temporary, f.file, err = createBeside(f.target)
	if err != nil {
		f.made.remove()
		return nil, cannotWrite(path, err)
	}
	if info != nil {
		// A file that is replaced keeps its permissions.
		if err := f.file.Chmod(info.Mode().Perm()); err != nil {
			f.abort()
			return nil, cannotWrite(path, err)
		}
	}
	f.buffer = bufio.NewWriterSize(f.file, bufferSize)
	if method, _ := compress.ByEnding(path); method != nil {
		if f.packed, err = method.Writer(f.buffer); err != nil {
			f.abort()
			return nil, cannotWrite(path, err)
		}
	}
	if err := r.add(f); err != nil {
		f.abort()
		return nil, err
	}
	return f, nil
}

// checkName returns the fault of a path that cannot be that of a file on the system.
func checkName(path string) error {
	if why := wrongName(path); why != "" && !strings.Contains(path, "://") {
		return &fault.Fault{File: path, What: "cannot be written: " + why, Remedy: "Choose another name"}
	}
	return nil
}

// hostOf is an address without the user, the password and the settings that may be in it.
func hostOf(address string) string {
	scheme, rest, _ := strings.Cut(address, "://")
	rest = rest[strings.LastIndexByte(rest, '@')+1:]
	if end := strings.IndexAny(rest, "/?#"); end >= 0 {
		rest = rest[:end]
	}
	return scheme + "://" + rest
}

// IsStream tells whether a path is a device or a pipe, which is written
// straight. So are the names of the program's own open files, whatever they are.
func IsStream(path string) bool {
	if isOwnStream(path) || strings.Contains(path, "://") {
		return true
	}
	info, err := os.Stat(path)
	return err == nil && !info.IsDir() && !info.Mode().IsRegular()
}

func isOwnStream(path string) bool {
	for _, pattern := range []string{"/dev/stdout", "/dev/stderr", "/dev/fd/[0-9]*", "/proc/self/fd/[0-9]*"} {
		if matched, _ := filepath.Match(pattern, filepath.Clean(path)); matched {
			return true
		}
	}
	return false
}

// straight opens a device or a pipe. A pipe waits for its reader, but not
// longer than the run.
func (r *Run) straight(f *File) (*File, error) {
	var file *os.File
	switch filepath.Clean(f.name) {
	case "/dev/stdout", "/dev/fd/1", "/proc/self/fd/1":
		file = os.Stdout
	case "/dev/stderr", "/dev/fd/2", "/proc/self/fd/2":
		file = os.Stderr
	default:
		var err error
		if file, err = input.OpenFile(r.ctx, f.name, os.O_WRONLY); err != nil {
			if r.ctx.Err() != nil {
				return nil, r.ctx.Err()
			}
			return nil, cannotWrite(f.name, err)
		}
	}
	f.file = file
	if term.IsTerminal(int(file.Fd())) {
		return r.stream(f, terminal.Writer(file))
	}
	return r.stream(f, file)
}

// Stream returns an output that writes to an open stream such as standard
// output. The error is a Fault when it is a file that the run reads.
func (r *Run) Stream(name string, w io.Writer) (*File, error) {
	f := &File{run: r, name: name}
	f.file, _ = w.(*os.File)
	return r.stream(f, w)
}

func (r *Run) stream(f *File, w io.Writer) (*File, error) {
	f.buffer = bufio.NewWriterSize(w, bufferSize)
	r.mu.Lock()
	defer r.mu.Unlock()
	if f.file != nil {
		for _, in := range r.inputs {
			if err := in.guardStream(f); err != nil {
				return nil, err
			}
		}
	}
	r.streams = append(r.streams, f)
	return f, nil
}

// Name returns the output's name as the user gave it.
func (f *File) Name() string { return f.name }

// IsWhole tells whether nothing is seen of the output until the run commits.
func (f *File) IsWhole() bool { return f.temporary != "" }

// Write writes to the output. The error is a Fault. When the reader of a stream
// is gone, and the run has other outputs, what is written goes nowhere.
func (f *File) Write(data []byte) (int, error) {
	if f.readerGone {
		return len(data), nil
	}
	to := io.Writer(f.buffer)
	if f.packed != nil {
		to = f.packed
	}
	n, err := to.Write(data)
	if err != nil {
		if !f.IsWhole() && IsReaderGone(err) && !f.run.alone() {
			f.readerGone = true
			return len(data), nil
		}
		return n, cannotWrite(f.name, err)
	}
	if f.unsynced += n; f.unsynced >= syncEach && f.IsWhole() {
		if err := f.syncBehind(); err != nil {
			return n, cannotWrite(f.name, err)
		}
	}
	return n, nil
}

// syncBehind begins to sync, unless the sync before is still under way.
func (f *File) syncBehind() error {
	if f.syncing != nil {
		select {
		case err := <-f.syncing:
			f.syncing = nil
			if err != nil {
				return err
			}
		default:
			return nil
		}
	}
	f.unsynced, f.syncing = 0, make(chan error, 1)
	go func(file *os.File, done chan error) { done <- file.Sync() }(f.file, f.syncing)
	return nil
}

// endSync waits for the sync under way.
func (f *File) endSync() error {
	if f.syncing == nil {
		return nil
	}
	err := <-f.syncing
	f.syncing = nil
	return err
}

func (f *File) title() string { return f.name }
func (f *File) place() string { return f.target }

func (f *File) settle() error {
	if f.readerGone {
		return nil
	}
	if f.packed != nil {
		err := f.packed.Close()
		if f.packed = nil; err != nil {
			return cannotWrite(f.name, err)
		}
	}
	if err := f.buffer.Flush(); err != nil {
		return cannotWrite(f.name, err)
	}
	if !f.IsWhole() {
		return nil
	}
	err := f.endSync()
	if err == nil {
		err = f.file.Sync()
	}
	if err != nil {
		return cannotWrite(f.name, err)
	}
	return nil
}

// put renames the file. While others of the run have yet to be put in place,
// the file that was there is kept under the temporary name.
func (f *File) put(several bool) error {
	var err error
	if f.placed, err = putInPlace(f.temporary, f.target, several); err != nil {
		if isOpenElsewhere(f.target) {
			return openElsewhere(f.name)
		}
		return cannotWrite(f.name, err)
	}
	return nil
}

func (f *File) undo() {
	f.placed.undo()
	f.placed = placed{}
}

func (f *File) done() error {
	if f.placed.old != "" {
		os.Remove(f.placed.old)
	}
	syncFolder(filepath.Dir(f.target))
	f.made = nil
	f.temporary = ""
	// The lock goes with the file: until here no other run took it for one that
	// a dead run has left.
	if err := f.file.Close(); err != nil {
		return cannotWrite(f.name, err)
	}
	f.file = nil
	return nil
}

// Abort takes away what was written. After a commit it does nothing.
func (f *File) Abort() {
	if !f.IsWhole() {
		return
	}
	f.run.mu.Lock()
	defer f.run.mu.Unlock()
	f.run.forget(f)
	f.abort()
}

func (f *File) abort() {
	if !f.IsWhole() {
		return
	}
	if f.packed != nil {
		_ = f.packed.Close() // it may have goroutines
		f.packed = nil
	}
	_ = f.endSync()
	os.Remove(f.temporary)
	if f.file != nil {
		f.file.Close()
		f.file = nil
	}
	f.made.remove()
	f.temporary = ""
}

// openElsewhere is the fault of a file that another program has open, as a spreadsheet has.
func openElsewhere(name string) error {
	return &fault.Fault{File: name, What: "is open in another program", Remedy: "Close it there, and run the command again", Kind: fault.Unusable}
}

func cannotWrite(name string, err error) error {
	if errors.Is(err, context.Canceled) {
		return err
	}
	problem := &fault.Fault{File: name, What: "cannot be written", Cause: err, Kind: fault.Unusable}
	// The name of the file is in front already.
	var pathError *fs.PathError
	var linkError *os.LinkError
	switch {
	case errors.As(err, &pathError):
		problem.Cause = pathError.Err
	case errors.As(err, &linkError):
		problem.Cause = linkError.Err
	}
	return problem
}

// behindLinks returns the path of the file that a path leads to through links,
// whether it is there or not.
func behindLinks(path string) (string, error) {
	const maxLinks = 40
	for range maxLinks {
		folder := filepath.Dir(path)
		if resolved, err := realPath(folder); err == nil {
			path = filepath.Join(resolved, filepath.Base(path))
		} else if !errors.Is(err, fs.ErrNotExist) {
			return "", err
		} else if path, err = filepath.Abs(path); err != nil {
			return "", err
		}
		link, err := os.Readlink(path)
		if err != nil {
			return path, nil // not a link, or not there
		}
		if !filepath.IsAbs(link) {
			link = filepath.Join(filepath.Dir(path), link)
		}
		path = link
	}
	return "", fmt.Errorf("more than %d symbolic links in a row", maxLinks)
}
