// Package output puts results in their places: files and folders that are
// complete or absent, never over what a run reads, and all of a run together.
//
// A result is written beside its place under a temporary name, .NAME.XXXXXXXX.part,
// which is locked while its run lives. Commit syncs all of them and renames
// them. What runs that were killed have left is removed by the next run with
// the same output.
package output

import (
	"context"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"sync"
	"time"

	"roundyear/fault"
	"roundyear/internal/input"
)

// Run is what one run of the program reads and writes. Its methods may be
// called from several goroutines.
type Run struct {
	// Force allows to replace files that may not be written.
	Force bool

	ctx    context.Context
	mu     sync.Mutex
	inputs []readFile
	// messages is the stream that messages go to; messagesAtRisk tells that it is one of the inputs.
	messages       *os.File
	messagesAtRisk bool
	pending        []result
	streams        []*File
	tables         []Transaction
	notes          []string
	aborted        bool
}

// Transaction is a table of a server that is going to be in place.
type Transaction interface {
	// Commit puts it in place; Abort leaves all as it was.
	Commit() error
	Abort()
}

// Join makes a table appear together with the files of the run: before them, since it is the one that may still fail.
func (r *Run) Join(table Transaction) {
	r.mu.Lock()
	defer r.mu.Unlock()
	r.tables = append(r.tables, table)
}

// Leave takes a table out of the run, and leaves it as it was.
func (r *Run) Leave(table Transaction) {
	r.mu.Lock()
	defer r.mu.Unlock()
	r.tables = slices.DeleteFunc(r.tables, func(one Transaction) bool { return one == table })
	table.Abort()
}

// readFile is a file that the run reads.
type readFile struct {
	name, path string
	info       fs.FileInfo
	// steady tells that a change of the file while it is read is a fault.
	steady bool
	// isWritten tells that the file is a database into which the run writes a table; info is nil if it is new.
	isWritten bool
}

// result is a file or folder that is going to be put in place.
type result interface {
	title() string
	place() string
	// settle makes sure that all is on the disk.
	settle() error
	// put puts it in place; undo takes that back, and done ends it for good.
	put(several bool) error
	undo()
	done() error
	abort()
}

// NewRun returns a run that ends with a context.
func NewRun(ctx context.Context) *Run { return &Run{ctx: ctx} }

// Notes returns what there is to say of what earlier runs have left.
func (r *Run) Notes() []string { return r.notes }

// Reads tells the run of a file that it reads, or would not want to lose. The
// error is a Fault when one of the outputs is that file. Files that are not
// there, devices and pipes are no matter.
func (r *Run) Reads(name, path string) error {
	info, err := os.Stat(path)
	if err != nil {
		return nil
	}
	return r.reads(readFile{name: name, path: path, info: info})
}

// ReadsSteadily is Reads for a file that must not change until the run ends;
// info is how it was when it was opened.
func (r *Run) ReadsSteadily(name, path string, info fs.FileInfo) error {
	return r.reads(readFile{name: name, path: path, info: info, steady: true})
}

// ReadsStream is Reads for a stream that is open already, such as standard input.
func (r *Run) ReadsStream(name string, stream *os.File, path string) error {
	info, err := stream.Stat()
	if err != nil {
		return nil
	}
	return r.reads(readFile{name: name, path: path, info: info})
}

// SendsMessages tells the run which stream messages go to, which must not be a file that it reads.
func (r *Run) SendsMessages(stream *os.File) { r.messages = stream }

// MessagesAtRisk tells whether a message would be written into a file that the run reads.
func (r *Run) MessagesAtRisk() bool {
	r.mu.Lock()
	defer r.mu.Unlock()
	return r.messagesAtRisk
}

// WritesInto tells the run of a database file that gets a table, and that no other output may replace.
func (r *Run) WritesInto(name, path string) error {
	target, err := behindLinks(path)
	if err != nil {
		return cannotWrite(path, err)
	}
	one := readFile{name: name, path: target, isWritten: true}
	if info, err := os.Stat(target); err == nil {
		one.info = info
	}
	r.mu.Lock()
	defer r.mu.Unlock()
	for _, p := range r.pending {
		if err := one.guard(p); err != nil {
			return err
		}
	}
	r.inputs = append(r.inputs, one)
	return nil
}

func (r *Run) reads(one readFile) error {
	if !one.info.Mode().IsRegular() {
		return nil
	}
	if r.messages != nil {
		if info, err := r.messages.Stat(); err == nil && os.SameFile(info, one.info) {
			r.mu.Lock()
			r.messagesAtRisk = true
			r.mu.Unlock()
			return &fault.Fault{File: one.name, What: "is read by this run, and standard error is redirected to it", Remedy: "Send messages to another file"}
		}
	}
	if resolved, err := realPath(one.path); err == nil {
		one.path = resolved
	}
	r.mu.Lock()
	defer r.mu.Unlock()
	for _, known := range r.inputs {
		if known.path == one.path && !known.isWritten && (known.steady || !one.steady) {
			return nil
		}
	}
	r.inputs = append(r.inputs, one)
	for _, p := range r.pending {
		if err := one.guard(p); err != nil {
			return err
		}
	}
	for _, stream := range r.streams {
		if err := one.guardStream(stream); err != nil {
			return err
		}
	}
	return nil
}

// Context ends with the run.
func (r *Run) Context() context.Context { return r.ctx }

// ReadFile reads a whole file, which is an input of the run from then on.
func (r *Run) ReadFile(path string) ([]byte, error) {
	if err := r.Reads(path, path); err != nil {
		return nil, err
	}
	return input.ReadFile(r.ctx, path)
}

// Check returns the Fault that Create would for a path that is one of the
// inputs known so far, so that nothing is worked out in vain.
func (r *Run) Check(paths ...string) error {
	r.mu.Lock()
	defer r.mu.Unlock()
	for _, path := range paths {
		if path == "" || path == "-" || IsStream(path) {
			continue
		}
		target, err := behindLinks(path)
		if err != nil {
			return cannotWrite(path, err)
		}
		for _, in := range r.inputs {
			if err := in.guard(&File{name: path, target: target}); err != nil {
				return err
			}
		}
	}
	return nil
}

// RemoveLeftovers removes what killed runs have left beside a path that this run may
// come not to write.
func (r *Run) RemoveLeftovers(path string) {
	if target, err := behindLinks(path); err == nil && !IsStream(path) {
		clearLeft(target)
	}
}

// guard is the error for a result that would take the input's place.
func (in readFile) guard(p result) error {
	if folder, ok := p.(*Folder); ok {
		if folder.holds(in.path) {
			return &fault.Fault{File: folder.name, What: fmt.Sprintf("would be replaced, but contains %s, which this run reads", in.name), Remedy: "Write to another folder"}
		}
		return nil
	}
	info, err := os.Stat(p.place())
	isSame := err == nil && in.info != nil && os.SameFile(info, in.info) || sameEntry(p.place(), in.path)
	switch {
	case isSame && in.isWritten:
		return &fault.Fault{File: p.title(), What: fmt.Sprintf("is the same file as %s, and both are outputs", in.name), Remedy: "Give each output its own name"}
	case isSame:
		return overInput(p.title(), in.name)
	case slices.ContainsFunc(companions, func(ending string) bool { return sameEntry(p.place(), in.path+ending) }):
		return &fault.Fault{File: p.title(), What: fmt.Sprintf("belongs to the database %s, which this run uses", in.name), Remedy: "Write to another file"}
	}
	return nil
}

// companions are the endings of files that SQLite keeps beside a database: without them, or with those of another one, it is corrupt.
var companions = []string{"-wal", "-shm", "-journal"}

func (in readFile) guardStream(stream *File) error {
	if stream.file == nil {
		return nil
	}
	if info, err := stream.file.Stat(); err == nil && in.info != nil && os.SameFile(info, in.info) {
		return overInput(stream.name, in.name)
	}
	return nil
}

func overInput(out, in string) error {
	what := fmt.Sprintf("is the same file as %s, which this run reads", in)
	if out == in {
		what = "is read by this run and would be overwritten"
	}
	return &fault.Fault{File: out, What: what, Remedy: "Write to another file"}
}

// add takes a result into the run, unless it is in the way of something.
func (r *Run) add(p result) error {
	r.mu.Lock()
	defer r.mu.Unlock()
	if err := r.conflict(p); err != nil {
		return err
	}
	r.pending = append(r.pending, p)
	return nil
}

func (r *Run) conflict(p result) error {
	if r.aborted {
		return context.Canceled
	}
	for _, in := range r.inputs {
		if err := in.guard(p); err != nil {
			return err
		}
	}
	for _, other := range r.pending {
		switch {
		case other == p:
		case samePlace(other.place(), p.place()):
			return &fault.Fault{File: p.title(), What: fmt.Sprintf("is the same file as %s, and both are outputs", other.title()), Remedy: "Give each output its own name"}
		case within(other.place(), p.place()) || within(p.place(), other.place()):
			if _, ok := other.(*Folder); ok || isFolder(p) {
				return &fault.Fault{File: p.title(), What: fmt.Sprintf("is inside the folder of another output, %s", other.title()), Remedy: "Write it to another folder"}
			}
		}
	}
	return nil
}

func isFolder(p result) bool {
	_, ok := p.(*Folder)
	return ok
}

// forget takes a result out of the run.
func (r *Run) forget(p result) {
	r.pending = slices.DeleteFunc(r.pending, func(other result) bool { return other == p })
}

// alone tells whether a stream is the only output.
func (r *Run) alone() bool {
	r.mu.Lock()
	defer r.mu.Unlock()
	return len(r.pending) == 0
}

// Changed returns a Fault when a file has changed since the run began to read it.
func (r *Run) Changed() error {
	r.mu.Lock()
	defer r.mu.Unlock()
	return r.changed()
}

func (r *Run) changed() error {
	for _, in := range r.inputs {
		if !in.steady {
			continue
		}
		now, err := os.Stat(in.path)
		if err != nil {
			return &fault.Fault{File: in.name, What: "disappeared while it was being read; no output was written", Remedy: "Run the command again when the file is complete", Kind: fault.Changed}
		}
		if !os.SameFile(now, in.info) || now.Size() != in.info.Size() || !now.ModTime().Equal(in.info.ModTime()) {
			return &fault.Fault{File: in.name, What: fmt.Sprintf("changed while it was being read (%d bytes of %s before, %d of %s now); no output was written",
				in.info.Size(), clock(in.info.ModTime()), now.Size(), clock(now.ModTime())), Remedy: "Run the command again when nothing is writing to the file", Kind: fault.Changed}
		}
	}
	return nil
}

func clock(at time.Time) string { return at.Format("15:04:05.000") }

// Commit puts all files and folders of the run in their places: first all of
// them are made complete on the disk, then they are renamed, the first last.
// Where one of them cannot be put in place, none is.
func (r *Run) Commit() error {
	r.mu.Lock()
	defer r.mu.Unlock()
	if r.aborted {
		return context.Canceled
	}
	if err := r.commit(); err != nil {
		r.abort()
		return err
	}
	return nil
}

func (r *Run) commit() error {
	for _, stream := range r.streams {
		if err := stream.settle(); err != nil && !(IsReaderGone(err) && len(r.pending) > 0) {
			return err
		}
	}
	for _, p := range r.pending {
		if err := p.settle(); err != nil {
			return err
		}
	}
	if err := r.changed(); err != nil {
		return err
	}
	for _, p := range r.pending {
		// A file may have become an output's since: a link, or a new name.
		if err := r.conflict(p); err != nil {
			return err
		}
	}
	if r.ctx.Err() != nil {
		return r.ctx.Err()
	}
	for i := range r.inputs {
		r.inputs[i].steady = false // what changes from here on may be the run's own doing
	}
	for len(r.tables) > 0 {
		table := r.tables[0]
		r.tables = r.tables[1:]
		if err := table.Commit(); err != nil {
			return err
		}
	}
	for i := len(r.pending) - 1; i >= 0; i-- {
		if err := r.pending[i].put(len(r.pending) > 1); err != nil {
			for _, placed := range r.pending[i+1:] {
				placed.undo()
			}
			return err
		}
	}
	var failed error
	for _, p := range r.pending {
		if err := p.done(); err != nil && failed == nil {
			failed = err
		}
	}
	r.pending = nil
	return failed
}

// Abort takes away all that was written and not put in place, and lets the run
// write nothing more.
func (r *Run) Abort() {
	r.mu.Lock()
	defer r.mu.Unlock()
	r.aborted = true
	r.abort()
}

func (r *Run) abort() {
	for _, p := range slices.Backward(r.pending) {
		p.abort()
	}
	r.pending = nil
	for _, table := range r.tables {
		table.Abort()
	}
	r.tables = nil
}

// realPath is a path without links, from the root.
func realPath(path string) (string, error) {
	absolute, err := filepath.Abs(path)
	if err != nil {
		return "", err
	}
	return filepath.EvalSymlinks(absolute)
}
