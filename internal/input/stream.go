package input

import (
	"context"
	"io"
	"os"

	"roundyear/parallel"
)

// OpenFile opens a file. A pipe waits for its other end, but not longer than
// the context.
func OpenFile(ctx context.Context, path string, flag int) (*os.File, error) {
	info, err := os.Stat(path)
	if err != nil {
		return nil, err
	}
	if info.Mode().IsRegular() || info.IsDir() {
		return os.OpenFile(path, flag, 0)
	}
	type opening struct {
		file *os.File
		err  error
	}
	opened := make(chan opening, 1)
	go func() {
		file, err := os.OpenFile(path, flag, 0)
		opened <- opening{file, err}
	}()
	select {
	case o := <-opened:
		return o.file, o.err
	case <-ctx.Done():
		return nil, ctx.Err()
	}
}

// ReadFile reads a whole file, and a pipe to its end, but not longer than the
// context.
func ReadFile(ctx context.Context, path string) ([]byte, error) {
	file, err := OpenFile(ctx, path, os.O_RDONLY)
	if err != nil {
		return nil, err
	}
	defer file.Close()
	var content []byte
	err = until(ctx, func() (err error) {
		content, err = io.ReadAll(file)
		return err
	})
	if err != nil {
		return nil, err
	}
	return content, nil
}

// spool copies a stream to a temporary file of which nothing is left however the run ends.
func spool(ctx context.Context, stream io.Reader) (*os.File, int64, error) {
	file, err := createNameless()
	if err != nil {
		return nil, 0, err
	}
	var size int64
	err = until(ctx, func() (err error) {
		size, err = io.Copy(file, stream)
		return err
	})
	if err != nil {
		file.Close()
		return nil, 0, err
	}
	return file, size, nil
}

// until waits for work or the end of the context. A read from a terminal or a
// pipe cannot be broken off, only left behind.
func until(ctx context.Context, work func() error) error {
	done := make(chan error, 1)
	go func() { done <- parallel.Guarded(work) }()
	select {
	case err := <-done:
		return err
	case <-ctx.Done():
		return ctx.Err()
	}
}
