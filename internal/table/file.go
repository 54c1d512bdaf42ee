package table

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"roundyear/fault"
	"roundyear/internal/nearest"
)

// File is a delimited file with a header.
type File struct {
	// Name is the file as the user named it.
	Name string
	// Columns are the names in its header.
	Columns []string
	// Delimiter stands between fields: a comma, semicolon, tab or bar,
	// whichever the header has most of.
	Delimiter byte
	// LineEnd is the line end of the header: \n or \r\n.
	LineEnd string
	// Size is the size in bytes.
	Size int64

	path string
	info fs.FileInfo
	// spooled is the copy of a stream, which has no name any more.
	spooled *os.File
	body    int64
	header  []byte
	lines   int
	// verified tells that the whole file was read once and is UTF-8.
	verified bool
	// renamed are the columns that were given a name, since theirs was not their
	// own or none.
	renamed []string
}

// Renamed returns the names of the columns that have other ones than in the
// file: the second of two of one name, and those without one.
func (f *File) Renamed() []string { return f.renamed }

// Header returns the header as it stands in the file, without a byte order
// mark and its line end.
func (f *File) Header() []byte { return f.header }

// Source is one or more files with the same columns, read one after the other.
type Source struct {
	Files []*File
	// Progress, when set, is called with the number of bytes read each time.
	Progress func(bytes int)
	// ChunkSize is how many bytes are read at a time; 0 is what is fast.
	ChunkSize int

	// places are the places of the columns by their names, once they are asked for.
	places map[string][]int
	input  bool
}

// Open finds the files of one or more inputs: paths, quoted globs, or - for
// standard input. Standard input, pipes and devices are kept in a temporary
// file since columns are read twice. All files must have the same columns.
// Close takes the temporary file away.
func Open(ctx context.Context, inputs []string, stdin io.Reader, form Form) (_ *Source, err error) {
	s := &Source{}
	defer func() {
		if err != nil {
			s.Close()
		}
	}()
	for _, input := range inputs {
		if input == "-" {
			if s.input {
				return nil, &fault.Fault{What: "standard input is given twice"}
			}
			s.input = true
			file, err := openStream(ctx, "standard input", stdin, form)
			if err != nil {
				return nil, err
			}
			if err := s.add(file); err != nil {
				return nil, err
			}
			continue
		}
		paths, err := Paths(input)
		if err != nil {
			return nil, err
		}
		for _, path := range paths {
			file, err := openFile(ctx, path, form)
			if err != nil {
				return nil, err
			}
			if err := s.add(file); err != nil {
				return nil, err
			}
		}
	}
	return s, nil
}

// OpenContent returns a source of what was read already.
func OpenContent(ctx context.Context, name string, content []byte) (*Source, error) {
	file, err := openStream(ctx, name, bytes.NewReader(content), Form{Header: HeaderIsThere})
	if err != nil {
		return nil, err
	}
	return &Source{Files: []*File{file}}, nil
}

// Close takes away what was kept of streams.
func (s *Source) Close() {
	for _, file := range s.Files {
		file.close()
	}
}

// IsInput tells whether the source is standard input.
func (s *Source) IsInput() bool { return s.input }

// Columns returns the names of the columns.
func (s *Source) Columns() []string { return s.Files[0].Columns }

// Size returns the size of all files in bytes.
func (s *Source) Size() int64 {
	var size int64
	for _, file := range s.Files {
		size += file.Size
	}
	return size
}

// Name returns the names of the files for reports.
func (s *Source) Name() string {
	if len(s.Files) > 3 {
		return fmt.Sprintf("%d files, %s to %s", len(s.Files), s.Files[0].Name, s.Files[len(s.Files)-1].Name)
	}
	var names []string
	for _, file := range s.Files {
		names = append(names, file.Name)
	}
	return strings.Join(names, ", ")
}

// Paths returns the files that an input names: itself, or those that fit it as
// a pattern of names. A path that is there as written wins over the pattern.
func Paths(input string) ([]string, error) {
	if _, err := os.Lstat(input); err == nil || !strings.ContainsAny(input, "*?[") {
		return []string{input}, nil
	}
	paths, err := filepath.Glob(input)
	if err != nil {
		return nil, &fault.Fault{File: input, What: "is not a valid file name pattern", Cause: err}
	}
	if len(paths) == 0 {
		return nil, &fault.Fault{File: input, What: "no file matches", Kind: fault.Missing}
	}
	return paths, nil
}

// add takes in a file, which is closed with the source from now on.
func (s *Source) add(file *File) (err error) {
	defer func() {
		if err != nil {
			file.close()
		}
	}()
	if file.info != nil && slices.ContainsFunc(s.Files, func(other *File) bool { return other.info != nil && os.SameFile(other.info, file.info) }) {
		return &fault.Fault{File: file.Name, What: "is given twice; its rows would count twice"}
	}
	if len(s.Files) > 0 && !slices.Equal(s.Files[0].Columns, file.Columns) {
		return &fault.Fault{File: file.Name, Line: 1, What: differingColumns(s.Files[0], file),
			Remedy: "Files that are read together must have the same columns in the same order"}
	}
	if len(s.Files) > 0 && s.Files[0].Delimiter != file.Delimiter {
		return &fault.Fault{File: file.Name, Line: 1, What: fmt.Sprintf("uses the delimiter %q, but %s uses %q", file.Delimiter, s.Files[0].Name, s.Files[0].Delimiter),
			Remedy: "Files that are read together must have the same format"}
	}
	s.Files = append(s.Files, file)
	return nil
}

func differingColumns(a, b *File) string {
	for i, name := range b.Columns {
		if i >= len(a.Columns) {
			return fmt.Sprintf("has a column %q, which %s does not have", name, a.Name)
		}
		if a.Columns[i] != name {
			return fmt.Sprintf("has %q as column %d, but %s has %q", name, i+1, a.Name, a.Columns[i])
		}
	}
	return fmt.Sprintf("has no column %q, which %s has", a.Columns[len(b.Columns)], a.Name)
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

// Path returns the path of a file that is there to be read again, and how it
// was when it was opened; nothing for the copy of a stream.
func (f *File) Path() (string, fs.FileInfo) { return f.path, f.info }

// openFile opens a file, or keeps what a pipe or a device gives.
func openFile(ctx context.Context, path string, form Form) (*File, error) {
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
		return nil, &fault.Fault{File: path, What: "is a folder", Remedy: fmt.Sprintf("Name its files: %q", filepath.Join(path, "*.csv")), Kind: fault.Unusable}
	}
	if !info.Mode().IsRegular() {
		return openStream(ctx, path, opened, form)
	}
	file := &File{Name: path, path: path, info: info, Size: info.Size(), lines: 1}
	return file, file.begin(opened, form)
}

// openStream keeps what a stream gives, and opens that.
func openStream(ctx context.Context, name string, stream io.Reader, form Form) (*File, error) {
	kept, size, err := spool(ctx, stream)
	if err != nil {
		return nil, &fault.Fault{File: name, What: "cannot be stored in a temporary file", Cause: err, Kind: fault.Unusable}
	}
	file := &File{Name: name, spooled: kept, Size: size, lines: 1}
	if err := file.begin(kept, form); err != nil {
		file.close()
		return nil, err
	}
	return file, nil
}

// begin reads the header of a file and looks whether there is more.
func (f *File) begin(opened io.ReaderAt, form Form) error {
	start := make([]byte, min(f.Size, maxRecord))
	if _, err := opened.ReadAt(start, 0); err != nil && len(start) > 0 {
		return &fault.Fault{File: f.Name, What: "cannot be read", Cause: err, Kind: fault.Unusable}
	}
	if err := f.readHeader(start, form); err != nil {
		return err
	}
	rest := bytes.TrimSpace(start[f.body:])
	if len(rest) == 0 && f.Size <= maxRecord && form.Header != NoHeader {
		return &fault.Fault{File: f.Name, What: "has a header but no rows", Remedy: "Is the export complete?", Kind: fault.Malformed}
	}
	return nil
}

// rows opens the file where its rows begin.
func (f *File) rows() (io.ReadCloser, error) {
	if f.spooled != nil {
		return io.NopCloser(io.NewSectionReader(f.spooled, f.body, f.Size-f.body)), nil
	}
	opened, err := os.Open(f.path)
	if err != nil {
		return nil, cannotOpen(f.Name, err)
	}
	if _, err := opened.Seek(f.body, io.SeekStart); err != nil {
		opened.Close()
		return nil, &fault.Fault{File: f.Name, What: "cannot be read", Cause: err, Kind: fault.Unusable}
	}
	return opened, nil
}

func (f *File) close() {
	if f.spooled != nil {
		f.spooled.Close()
		os.Remove(f.spooled.Name())
	}
}
