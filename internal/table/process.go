package table

import (
	"context"
	"errors"
	"io"
	"os"
	"runtime"
	"sync"
)

// inFlight is how many chunks may be at work or waiting for each processor.
const inFlight = 3

// Process reads all files of a source in chunks, works on them side by side
// and collects what comes of them in the order of the files. Each worker is
// made by newWorker and used by one goroutine; what it returns must not point
// into its chunk. The first error by order of the files ends it, and so does
// the end of the context.
func Process[T any](ctx context.Context, s *Source, newWorker func() func(*Chunk) (T, error), collect func(T) error) error {
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	type outcome struct {
		value T
		err   error
	}
	type job struct {
		chunk *Chunk
		done  chan outcome
	}
	workers := runtime.GOMAXPROCS(0)
	jobs := make(chan job)
	queue := make(chan chan outcome, workers*inFlight)
	spare := sync.Pool{New: func() any { return &Chunk{} }}

	var running sync.WaitGroup
	for range workers {
		work := newWorker()
		running.Go(func() {
			for j := range jobs {
				value, err := work(j.chunk)
				j.done <- outcome{value, err}
				spare.Put(j.chunk)
			}
		})
	}
	running.Go(func() {
		defer close(queue)
		defer close(jobs)
		give := func(done chan outcome) bool {
			select {
			case queue <- done:
				return true
			case <-ctx.Done():
				return false
			}
		}
		err := s.chunks(ctx, func() *Chunk { return spare.Get().(*Chunk) }, func(chunk *Chunk) bool {
			done := make(chan outcome, 1)
			if !give(done) {
				return false
			}
			jobs <- job{chunk, done}
			return true
		})
		if err != nil {
			done := make(chan outcome, 1)
			done <- outcome{err: err}
			give(done)
		}
	})
	var failed error
	for done := range queue {
		result := <-done
		if failed != nil {
			continue
		}
		if result.err == nil {
			result.err = collect(result.value)
		}
		if result.err != nil {
			failed = result.err
			cancel()
		}
	}
	running.Wait()
	if failed == nil {
		failed = ctx.Err()
	}
	return failed
}

// chunks gives the chunks of all files in order until give is false.
func (s *Source) chunks(ctx context.Context, spare func() *Chunk, give func(*Chunk) bool) error {
	for _, file := range s.Files {
		opened, err := os.Open(file.path)
		if err != nil {
			return cannotOpen(file.Name, err)
		}
		if _, err := opened.Seek(file.body, io.SeekStart); err != nil {
			opened.Close()
			return &Fault{File: file.Name, What: "cannot be read", Cause: err, Outside: true}
		}
		split := &splitter{file: file, reader: opened, offset: file.body, line: file.lines + 1}
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
		one := &Source{Files: []*File{file}}
		seen := 0
		var fault error
		err := one.chunks(ctx, func() *Chunk { return &Chunk{} }, func(chunk *Chunk) bool {
			var record Record
			all := chunk.Records()
			for seen < records && all.Next(&record) {
				see(file, &record)
				seen++
			}
			fault = all.Err()
			return fault == nil && seen < records
		})
		if fault != nil {
			return fault
		}
		if err != nil {
			return err
		}
	}
	return nil
}
