// Package compress is the ways in which files are compressed: a layer around any format that
// is text, on the way in and on the way out.
package compress

import (
	"bytes"
	"io"
	"path/filepath"
	"strings"

	"github.com/klauspost/compress/gzip"
	"github.com/klauspost/compress/zstd"
)

// Method is a way of compressing.
type Method struct {
	// Name is what people call it, Ending that of its files.
	Name, Ending string
	// mark is what compressed bytes begin with.
	mark  string
	open  func(io.Reader) (io.ReadCloser, error)
	write func(io.Writer) (io.WriteCloser, error)
}

// Methods are the ways of compressing that there are.
var Methods = []*Method{
	{"gzip", ".gz", "\x1F\x8B",
		func(r io.Reader) (io.ReadCloser, error) { return gzip.NewReader(r) },
		func(w io.Writer) (io.WriteCloser, error) { return gzip.NewWriter(w), nil }},
	{"Zstandard", ".zst", "\x28\xB5\x2F\xFD",
		func(r io.Reader) (io.ReadCloser, error) {
			decoder, err := zstd.NewReader(r, zstd.WithDecoderMaxWindow(maxWindow))
			if err != nil {
				return nil, err
			}
			return decoder.IOReadCloser(), nil
		},
		func(w io.Writer) (io.WriteCloser, error) { return zstd.NewWriter(w) }},
}

const (
	// MarkSize is how many bytes tell how a content is compressed.
	MarkSize = 4
	// maxWindow bounds the memory that decompressing can take.
	maxWindow = 128 << 20
)

// Of returns how bytes are compressed, by their beginning; nil if they are not.
func Of(start []byte) *Method {
	for _, method := range Methods {
		if bytes.HasPrefix(start, []byte(method.mark)) {
			return method
		}
	}
	return nil
}

// ByEnding returns how a file is compressed by the ending of its path, and the path without
// that ending; nil and the path if it is not.
func ByEnding(path string) (*Method, string) {
	ending := filepath.Ext(path)
	for _, method := range Methods {
		if strings.EqualFold(ending, method.Ending) {
			return method, strings.TrimSuffix(path, ending)
		}
	}
	return nil, path
}

// Reader decompresses what it reads.
func (m *Method) Reader(r io.Reader) (io.ReadCloser, error) { return m.open(r) }

// Writer compresses what is written to it. The same bytes always give the same file.
func (m *Method) Writer(w io.Writer) (io.WriteCloser, error) { return m.write(w) }
