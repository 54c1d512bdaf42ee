package table

import (
	"bufio"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"math/rand/v2"
	"os"
	"path/filepath"
)

// Output is where a result goes. A regular file is written beside its place
// and moved there as a whole by Commit, so that it is complete or absent.
type Output struct {
	name      string
	target    string
	temporary string
	file      *os.File
	buffer    *bufio.Writer
	// unsynced counts the bytes since the last sync began; syncing gives the
	// end of the one under way.
	unsynced int
	syncing  chan error
}

// syncEach is after how many bytes what is written so far goes to the disk,
// while more is being made. At the end there is then little left to wait for.
const syncEach = 32 << 20

// Create opens the output of a path. Folders above it are made, links are
// followed, and devices and pipes are written straight.
func Create(path string) (*Output, error) {
	o := &Output{name: path, target: path}
	info, err := os.Stat(path)
	switch {
	case err == nil && info.IsDir():
		return nil, &Fault{File: path, What: "is a folder", Remedy: "Name a file in it"}
	case err == nil && !info.Mode().IsRegular():
		o.file, err = os.OpenFile(path, os.O_WRONLY, 0)
		if err != nil {
			return nil, o.cannotWrite(err)
		}
		o.buffer = bufio.NewWriterSize(o.file, chunkSize)
		return o, nil
	case err == nil:
		if o.target, err = filepath.EvalSymlinks(path); err != nil {
			return nil, o.cannotWrite(err)
		}
	case errors.Is(err, fs.ErrNotExist):
		// A link to nothing is followed to where its file would be.
		if link, err := os.Readlink(path); err == nil {
			if o.target = link; !filepath.IsAbs(link) {
				o.target = filepath.Join(filepath.Dir(path), link)
			}
		}
	default:
		return nil, o.cannotWrite(err)
	}
	if err := os.MkdirAll(filepath.Dir(o.target), 0o777); err != nil {
		return nil, o.cannotWrite(err)
	}
	o.temporary = fmt.Sprintf("%s/.%s.%08x.part", filepath.Dir(o.target), filepath.Base(o.target), rand.Uint32())
	o.file, err = os.OpenFile(o.temporary, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o666)
	if err != nil {
		return nil, o.cannotWrite(err)
	}
	if info != nil {
		// A file that is replaced keeps its permissions.
		if err := o.file.Chmod(info.Mode().Perm()); err != nil {
			o.Abort()
			return nil, o.cannotWrite(err)
		}
	}
	o.buffer = bufio.NewWriterSize(o.file, chunkSize)
	return o, nil
}

// Stream returns an output that writes to an open file such as standard output.
func Stream(name string, w io.Writer) *Output {
	return &Output{name: name, buffer: bufio.NewWriterSize(w, chunkSize)}
}

// Name returns the output's name as the user gave it.
func (o *Output) Name() string { return o.name }

// IsWhole tells whether nothing is seen of the output until Commit.
func (o *Output) IsWhole() bool { return o.temporary != "" }

// Write writes to the output. The error is a Fault.
func (o *Output) Write(data []byte) (int, error) {
	n, err := o.buffer.Write(data)
	if err != nil {
		return n, o.cannotWrite(err)
	}
	if o.unsynced += n; o.unsynced >= syncEach && o.temporary != "" {
		if err := o.syncBehind(); err != nil {
			return n, o.cannotWrite(err)
		}
	}
	return n, nil
}

// syncBehind begins to sync, unless the sync before is still under way.
func (o *Output) syncBehind() error {
	if o.syncing != nil {
		select {
		case err := <-o.syncing:
			o.syncing = nil
			if err != nil {
				return err
			}
		default:
			return nil
		}
	}
	o.unsynced, o.syncing = 0, make(chan error, 1)
	go func(file *os.File, done chan error) { done <- file.Sync() }(o.file, o.syncing)
	return nil
}

// endSync waits for the sync under way.
func (o *Output) endSync() error {
	if o.syncing == nil {
		return nil
	}
	err := <-o.syncing
	o.syncing = nil
	return err
}

// Commit writes all to the disk and puts the file in its place.
func (o *Output) Commit() error {
	if err := o.buffer.Flush(); err != nil {
		o.Abort()
		return o.cannotWrite(err)
	}
	if o.file == nil {
		return nil
	}
	if o.temporary != "" {
		err := o.endSync()
		if err == nil {
			err = o.file.Sync()
		}
		if err != nil {
			o.Abort()
			return o.cannotWrite(err)
		}
	}
	file := o.file
	o.file = nil
	if err := file.Close(); err != nil {
		o.Abort()
		return o.cannotWrite(err)
	}
	if o.temporary == "" {
		return nil
	}
	if err := os.Rename(o.temporary, o.target); err != nil {
		o.Abort()
		return o.cannotWrite(err)
	}
	o.temporary = ""
	return nil
}

// Abort takes away what was written. After a Commit it does nothing.
func (o *Output) Abort() {
	_ = o.endSync()
	if o.file != nil {
		o.file.Close()
		o.file = nil
	}
	if o.temporary != "" {
		os.Remove(o.temporary)
		o.temporary = ""
	}
}

func (o *Output) cannotWrite(err error) error {
	fault := &Fault{File: o.name, What: "cannot be written", Cause: err, Outside: true}
	// The name of the file is in front already.
	var pathError *fs.PathError
	if errors.As(err, &pathError) {
		fault.Cause = pathError.Err
	}
	return fault
}
