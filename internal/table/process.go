package table

import (
	"cmp"
	"context"
	"errors"
	"io"
	"sync"

	"roundyear/fault"
)

// Process reads all files of a source in chunks, works on them side by side
// and collects what comes of them in the order of the files. Each worker is
// made by newWorker and used by one goroutine; what it returns must not point
// into its chunk. The first error by order of the files ends it, and so does
// the end of the context.
func Process[T any](ctx context.Context, s *Source, newWorker func() func(*Chunk) (T, error), collect func(T) error) error {
	spare := sync.Pool{New: func() any { return &Chunk{} }}
	produce := func(ctx context.Context, give func(*Chunk) bool) error {
		return s.chunks(ctx, func() *Chunk { return spare.Get().(*Chunk) }, give)
	}
	return Ordered(ctx, produce, func() func(*Chunk) (T, error) {
		work := newWorker()
		return func(chunk *Chunk) (value T, err error) {
			defer spare.Put(chunk)
			defer func() {
				if recovered := recover(); recovered != nil {
					err = fault.Panicked(recovered, chunk.File.Name, chunk.line)
				}
			}()
			return work(chunk)
		}
	}, collect)
}

// chunks gives the chunks of all files in order until give is false.
func (s *Source) chunks(ctx context.Context, spare func() *Chunk, give func(*Chunk) bool) error {
	for _, file := range s.Files {
		opened, err := file.rows()
		if err != nil {
			return err
		}
		split := &splitter{file: file, reader: opened, offset: file.body, line: file.lines + 1, size: cmp.Or(s.ChunkSize, defaultChunkSize)}
		for {
			chunk := spare()
			err := split.next(chunk)
			if errors.Is(err, io.EOF) {
				file.verified = true
				break
			}
			if err != nil {
				opened.Close()
				return err
			}
			if s.Progress != nil {
				s.Progress(len(chunk.data))
			}
			if ctx.Err() != nil || !give(chunk) {
				opened.Close()
				return ctx.Err()
			}
		}
		opened.Close()
	}
	return nil
}

// Sample calls see with the first records of each file, at most so many.
func (s *Source) Sample(ctx context.Context, records int, see func(*File, *Record)) error {
	for _, file := range s.Files {
		one := &Source{Files: []*File{file}, ChunkSize: s.ChunkSize}
		seen := 0
		var problem error
		err := one.chunks(ctx, func() *Chunk { return &Chunk{} }, func(chunk *Chunk) bool {
			var record Record
			all := chunk.Records()
			for seen < records && all.Next(&record) {
				see(file, &record)
				seen++
			}
			problem = all.Err()
			return problem == nil && seen < records
		})
		if problem != nil {
			return problem
		}
		if err != nil {
			return err
		}
	}
	return nil
}
