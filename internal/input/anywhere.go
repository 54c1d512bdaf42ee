package input

import (
	"context"
	"io"
)

// Anywhere reads a content at any place of it. Its methods may be called from several goroutines.
type Anywhere struct {
	io.ReaderAt
	size   int64
	closer io.Closer
}

// Size returns the size of the content in bytes.
func (a *Anywhere) Size() int64 { return a.size }

// Close closes what was opened.
func (a *Anywhere) Close() error {
	if a.closer == nil {
		return nil
	}
	return a.closer.Close()
}

// OpenAnywhere opens the content for reading at any place. One that is compressed is kept
// decompressed in a temporary file without a name until it is closed.
func (c *Content) OpenAnywhere(ctx context.Context) (*Anywhere, error) {
	if c.packing == nil && c.encoding == nil && c.member == nil {
		return c.anywhere()
	}
	opened, err := c.Open()
	if err != nil {
		return nil, err
	}
	defer func() { _ = opened.Close() }()
	file, size, err := spool(ctx, opened)
	if err != nil {
		return nil, c.CannotRead(err)
	}
	return &Anywhere{file, size, file}, nil
}
