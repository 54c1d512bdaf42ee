// Package input is the bytes of files, pipes and streams, which can be read more than once
// whatever they come from, and are decompressed on the way.
package input

import (
	"archive/zip"
	"bytes"
	"context"
	"errors"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"sync/atomic"

	"roundyear/charset"
	"roundyear/fault"
	"roundyear/internal/compress"
	"roundyear/nearest"
)

// Content is what an input holds.
type Content struct {
	// Name is the input as the user named it.
	Name string
	// Size is its size in bytes, as it is stored.
	Size int64
	// Table is what stands behind # in the name of a file that holds several tables: the name of a sheet.
	Table string

	path string
	info fs.FileInfo
	// spooled is the copy of a stream, which has no name any more, and memory what was read
	// already.
	spooled *os.File
	memory  []byte
	packing *compress.Method
	// encoding is that of text that is not UTF-8.
	encoding *charset.Encoding
	// through changes text on the way; nil for nothing.
	through func(io.Reader) io.Reader
	// member is the file of a zip archive that the content is, and archive closes that.
	member  *zip.File
	archive io.Closer
}

// OfFile returns the content of a file, or keeps what a pipe or a device gives.
func OfFile(ctx context.Context, path string) (*Content, error) {
	opened, err := OpenFile(ctx, path, os.O_RDONLY)
	if err != nil {
		return nil, cannotOpen(path, err)
	}
	defer opened.Close()
	info, err := opened.Stat()
	if err != nil {
		return nil, cannotOpen(path, err)
	}
	if info.IsDir() {
		return nil, &fault.Fault{File: path, What: "is a folder", Remedy: "Name its files: " + fault.Quoted(filepath.Join(path, "*.csv")), Kind: fault.Unusable}
	}
	if !info.Mode().IsRegular() {
		return OfStream(ctx, path, opened)
	}
	content := &Content{Name: path, path: path, info: info, Size: info.Size()}
	return content, content.unpacked()
}

// OfStream keeps what a stream gives in a temporary file without a name. Close takes it away.
func OfStream(ctx context.Context, name string, stream io.Reader) (*Content, error) {
	kept, size, err := spool(ctx, stream)
	if err != nil {
		return nil, &fault.Fault{File: name, What: "cannot be stored in a temporary file", Cause: err, Kind: fault.Unusable}
	}
	content := &Content{Name: name, spooled: kept, Size: size}
	if err := content.unpacked(); err != nil {
		_ = content.Close()
		return nil, err
	}
	return content, nil
}

// OfBytes returns the content of what was read already.
func OfBytes(name string, content []byte) (*Content, error) {
	c := &Content{Name: name, memory: content, Size: int64(len(content))}
	return c, c.unpacked()
}

// unpacked finds out whether the content is compressed, and whether a mark says its encoding.
func (c *Content) unpacked() error {
	start, _, err := c.Start(compress.MarkSize)
	if c.packing = compress.Of(start); c.packing != nil && err == nil {
		if start, _, err = c.Start(compress.MarkSize); err != nil {
			return nil // whoever reads it is told
		}
	}
	c.encoding = charset.ByMark(start)
	return err
}

// Decode makes the content text in an encoding, unless a mark says another one.
func (c *Content) Decode(e *charset.Encoding) {
	if c.encoding == nil {
		c.encoding = e
	}
}

// HasMark tells whether a mark at its beginning says the encoding.
func (c *Content) HasMark() bool { return c.encoding != nil }

// Through makes what is read pass through something that changes it.
func (c *Content) Through(change func(io.Reader) io.Reader) { c.through = change }

// File returns the path of a file that is there to be read again, and how it was when it was
// opened; nothing for the copy of a stream.
func (c *Content) File() (path string, info fs.FileInfo) { return c.path, c.info }

// maxUnpacked bounds the memory that a content takes which is read as a whole.
const maxUnpacked = 256 << 20

// Unpacked decompresses what was read already, if it is compressed.
func Unpacked(name string, content []byte) ([]byte, error) {
	if compress.Of(content) == nil {
		return content, nil
	}
	packed, err := OfBytes(name, content)
	if err != nil {
		return nil, err
	}
	unpacked, isAll, err := packed.Start(maxUnpacked)
	if err == nil && !isAll {
		err = &fault.Fault{File: name, What: "is larger than 256 MB when decompressed", Kind: fault.Malformed}
	}
	return unpacked, err
}

// Stored returns the content itself: formats that embed it say by that where their rows are.
func (c *Content) Stored() *Content { return c }

// IsPacked tells whether what is read is not what is stored: it is compressed, or a member of an archive.
func (c *Content) IsPacked() bool { return c.packing != nil || c.member != nil }

// IsSame tells whether two contents are one file.
func (c *Content) IsSame(other *Content) bool {
	return c.info != nil && other.info != nil && os.SameFile(c.info, other.info) && (c.member == nil || other.member == nil || c.member.Name == other.member.Name) && c.Table == other.Table
}

// Start returns the first bytes of the content, at most so many, and whether that is all.
func (c *Content) Start(most int) (start []byte, whole bool, err error) {
	opened, err := c.Open()
	if err != nil {
		return nil, false, err
	}
	defer func() { _ = opened.Close() }()
	start, err = io.ReadAll(io.LimitReader(opened, int64(most)+1))
	if err != nil {
		return nil, false, c.CannotRead(err)
	}
	return start[:min(len(start), most)], len(start) <= most, nil
}

// CannotRead is the fault of an error that a read has returned.
func (c *Content) CannotRead(err error) error {
	var known *fault.Fault
	if errors.As(err, &known) {
		known.File = c.Name
		return known
	}
	var bad *charset.BadBytes
	if errors.As(err, &bad) {
		return &fault.Fault{File: c.Name, Line: bad.Line, What: bad.Error(), Remedy: "Is it in another encoding, or were files of several encodings joined?", Kind: fault.Malformed}
	}
	if c.member != nil && !errors.As(err, new(*fs.PathError)) {
		return &fault.Fault{File: c.Name, What: "cannot be decompressed; the archive is damaged", Cause: err, Kind: fault.Malformed}
	}
	if c.packing != nil && !errors.As(err, new(*fs.PathError)) {
		return &fault.Fault{File: c.Name, What: "cannot be decompressed; the file is damaged or incomplete (" + c.packing.Name + ")", Cause: err, Kind: fault.Malformed}
	}
	return &fault.Fault{File: c.Name, What: "cannot be read", Cause: err, Kind: fault.Unusable}
}

// Open opens the content at its beginning, decompressed.
func (c *Content) Open() (*Reader, error) {
	r := &Reader{}
	switch {
	case c.member != nil:
		opened, err := c.openMember()
		if err != nil {
			return nil, err
		}
		r.stored, r.closers = opened, append(r.closers, opened)
	case c.spooled != nil:
		r.stored = io.NewSectionReader(c.spooled, 0, c.Size)
	case c.path == "":
		r.stored = bytes.NewReader(c.memory)
	default:
		opened, err := os.Open(c.path)
		if err != nil {
			return nil, cannotOpen(c.Name, err)
		}
		r.stored, r.closers = opened, append(r.closers, opened)
	}
	r.content = r.stored
	if c.packing != nil {
		unpacked, err := c.packing.Reader(&counter{r})
		if err != nil {
			_ = r.Close()
			return nil, c.CannotRead(err)
		}
		r.content, r.isChanged = unpacked, true
		r.closers = append(r.closers, unpacked)
	}
	if c.encoding != nil {
		if !r.isChanged {
			r.content, r.isChanged = &counter{r}, true
		}
		r.content = c.encoding.Reader(r.content)
	}
	if c.through != nil {
		if !r.isChanged {
			r.content, r.isChanged = &counter{r}, true
		}
		r.content = c.through(r.content)
	}
	return r, nil
}

// Close takes away what was kept of a stream.
func (c *Content) Close() error {
	if c.archive != nil {
		_ = c.archive.Close()
	}
	if c.spooled == nil {
		return nil
	}
	return c.spooled.Close()
}

// Reader reads a content.
type Reader struct {
	stored, content io.Reader
	closers         []io.Closer
	// isChanged tells that what is read are not the bytes that are stored.
	isChanged bool
	// taken is counted by whoever reads what is stored: decompressing may read ahead.
	taken atomic.Int64
}

// Read reads decompressed bytes.
func (r *Reader) Read(to []byte) (int, error) {
	n, err := r.content.Read(to)
	if !r.isChanged {
		r.taken.Add(int64(n))
	}
	return n, err
}

// Taken returns how many bytes of what is stored were read since it was asked last.
func (r *Reader) Taken() int {
	return int(r.taken.Swap(0))
}

// Skip passes over the first bytes of the content.
func (r *Reader) Skip(bytes int64) error {
	if seeker, ok := r.content.(io.Seeker); ok {
		_, err := seeker.Seek(bytes, io.SeekStart)
		return err
	}
	_, err := io.CopyN(io.Discard, r, bytes)
	return err
}

// Close closes what was opened for reading.
func (r *Reader) Close() error {
	var err error
	for i := len(r.closers) - 1; i >= 0; i-- {
		err = errors.Join(err, r.closers[i].Close())
	}
	return err
}

// counter counts the bytes that are stored as they are read.
type counter struct{ r *Reader }

func (c *counter) Read(to []byte) (int, error) {
	n, err := c.r.stored.Read(to)
	c.r.taken.Add(int64(n))
	return n, err
}

// Paths returns the files that an input names: itself, those in it and below it if it is a folder, or
// those that fit it as a pattern of names. A path that is there as written wins over the pattern.
func Paths(input string) ([]string, error) {
	if IsFolder(input) {
		return filesIn(input)
	}
	if _, err := os.Lstat(input); err == nil || !strings.ContainsAny(input, "*?[") || strings.Contains(input, "://") { // the last is an address
		return []string{input}, nil
	}
	paths, err := filepath.Glob(input)
	if err != nil {
		return nil, &fault.Fault{File: input, What: "is not a valid file name pattern", Cause: err}
	}
	if len(paths) == 0 {
		return nil, &fault.Fault{File: input, What: "no file matches", Kind: fault.Missing}
	}
	checked := map[string]bool{}
	for _, path := range paths {
		for folder := filepath.Dir(path); !checked[folder]; folder = filepath.Dir(folder) {
			checked[folder] = true
			if err := hasLog(folder); err != nil {
				return nil, err
			}
			if !strings.Contains(filepath.Base(folder), "=") {
				break // only the folders of partitions are part of a table above them
			}
		}
	}
	return paths, nil
}

func cannotOpen(name string, err error) error {
	switch {
	case errors.Is(err, fs.ErrNotExist):
		problem := &fault.Fault{File: name, What: "there is no such file", Kind: fault.Missing}
		if near := nearestFile(name); near != "" {
			problem.Remedy = "Did you mean " + near + "?"
		}
		return problem
	case errors.Is(err, fs.ErrPermission):
		return &fault.Fault{File: name, What: "cannot be read: permission denied", Kind: fault.Unusable}
	}
	return &fault.Fault{File: name, What: "cannot be read", Cause: err, Kind: fault.Unusable}
}

func nearestFile(name string) string {
	entries, err := os.ReadDir(filepath.Dir(name))
	if err != nil {
		return ""
	}
	var names []string
	for _, entry := range entries {
		names = append(names, entry.Name())
	}
	if near := nearest.Name(filepath.Base(name), names); near != "" {
		return filepath.Join(filepath.Dir(name), near)
	}
	return ""
}
