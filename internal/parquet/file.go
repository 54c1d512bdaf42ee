// Package parquet reads and writes Parquet files, whose columns have types. Only the columns that
// are wanted are read, and row groups whose statistics tell that no row in them is wanted are left
// out.
package parquet

import (
	"bytes"
	"context"
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"runtime"
	"strings"

	lib "github.com/parquet-go/parquet-go"
	"github.com/parquet-go/parquet-go/format"

	"roundyear/fault"
	"roundyear/internal/input"
	"roundyear/rows"
)

// File is a Parquet file. It decodes the rows of its part.
type File struct {
	*input.Content
	at      *input.Anywhere
	file    *lib.File
	columns []column
}

var (
	mark          = []byte("PAR1")
	encryptedMark = []byte("PARE")
)

// Fits tells whether a content is Parquet, by its beginning. A header of text may begin with
// the same letters.
func Fits(start []byte) bool {
	return (bytes.HasPrefix(start, mark) || bytes.HasPrefix(start, encryptedMark)) && bytes.IndexByte(start, 0) >= 0
}

// tailSize is how long the end of a file is that says where its description begins.
const tailSize = 8

// Open opens a content. It returns the part of its rows.
func Open(ctx context.Context, content *input.Content) (_ *rows.Part, err error) {
	f := &File{Content: content}
	if f.at, err = content.OpenAnywhere(ctx); err != nil {
		return nil, err
	}
	defer func() {
		if err != nil {
			_ = f.at.Close()
		}
	}()
	if err := f.isWhole(); err != nil {
		return nil, err
	}
	err = f.guarded(func() (err error) {
		if f.file, err = lib.OpenFile(f.at, f.at.Size(), lib.SkipPageIndex(true), lib.SkipBloomFilters(true)); err != nil {
			return err
		}
		if err := f.hasKnownCodecs(); err != nil {
			return err
		}
		f.columns, err = columnsOf(f.Name, f.file.Root())
		return err
	})
	var notes []string
	if err == nil {
		notes = f.findZones()
	}
	if err != nil {
		return nil, err
	}
	part := &rows.Part{Name: f.Name, Notes: notes, Size: content.Size, Decoder: f}
	for _, c := range f.columns {
		part.Columns = append(part.Columns, c.Column)
	}
	return part, nil
}

// isWhole returns a fault for a file that has no description at its end or is encrypted.
func (f *File) isWhole() error {
	size := f.at.Size()
	tail := make([]byte, min(size, tailSize))
	if _, err := f.at.ReadAt(tail, size-int64(len(tail))); err != nil && !errors.Is(err, io.EOF) {
		return f.CannotRead(err)
	}
	switch {
	case bytes.HasSuffix(tail, encryptedMark):
		return &fault.Fault{File: f.Name, What: "is encrypted", Remedy: "Write it without encryption", Kind: fault.Malformed}
	case len(tail) < tailSize || !bytes.HasSuffix(tail, mark):
		return &fault.Fault{File: f.Name, What: "is incomplete: a Parquet file ends with a description of its columns, and this one does not", Remedy: "Copy or write it again", Kind: fault.Malformed}
	}
	if described := int64(binary.LittleEndian.Uint32(tail)); described > size-tailSize-int64(len(mark)) {
		return f.damaged(fmt.Errorf("its description would have %d bytes", described))
	}
	return nil
}

// codecs are the ways of compressing that are read. LZ4 is not among them: the library that reads it does
// not end on damaged pages.
var codecs = map[format.CompressionCodec]bool{format.Uncompressed: true, format.Snappy: true, format.Gzip: true, format.Brotli: true, format.Zstd: true}

func (f *File) hasKnownCodecs() error {
	for _, group := range f.file.Metadata().RowGroups {
		for _, chunk := range group.Columns {
			if codec := chunk.MetaData.Codec; !codecs[codec] {
				return &fault.Fault{File: f.Name, Column: strings.Join(chunk.MetaData.PathInSchema, "."), What: fmt.Sprintf("is compressed with %s, which is not read", codec),
					Remedy: "Write the file with Zstandard, Snappy or gzip", Kind: fault.Malformed}
			}
		}
	}
	return nil
}

var errContradiction = errors.New("its parts contradict each other")

// guarded reads something of the file. Whatever goes wrong with what it holds is its fault.
func (f *File) guarded(read func() error) (err error) {
	defer func() {
		switch recovered := recover().(type) {
		case nil:
		case runtime.Error:
			err = f.damaged(errContradiction) // such as an index beyond a page
		default:
			err = f.damaged(fmt.Errorf("%v", recovered))
		}
	}()
	err = read()
	if err == nil {
		return nil
	}
	var problem *fault.Fault
	if !errors.As(err, &problem) {
		return f.damaged(err)
	}
	problem.File = f.Name
	return problem
}

func (f *File) damaged(cause error) error {
	return &fault.Fault{File: f.Name, What: "is damaged", Remedy: "Copy or write it again", Cause: cause, Kind: fault.Malformed}
}

// Rows returns how many rows the file has.
func (f *File) Rows() int { return int(f.file.NumRows()) }

// Close closes the file.
func (f *File) Close() error {
	return errors.Join(f.at.Close(), f.Content.Close())
}
