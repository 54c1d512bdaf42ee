// Package parallel works on many jobs side by side and collects what comes of them in their
// order, so that neither results nor the first error depend on timing.
package parallel

import (
	"context"
	"runtime"
	"sync"
)

// inFlight is how many jobs may be at work or waiting for each processor.
const inFlight = 3

// Ordered works on jobs side by side and collects what comes of them in the
// order of the jobs. The jobs come from produce, which ends when give is false.
// Each worker is made by newWorker and used by one goroutine. The first error
// by order of the jobs ends it, and so does the end of the context.
func Ordered[J, T any](ctx context.Context, produce func(ctx context.Context, give func(J) bool) error, newWorker func() func(J) (T, error), collect func(T) error) error {
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	type outcome struct {
		value T
		err   error
	}
	type job struct {
		work J
		done chan outcome
	}
	workers := runtime.GOMAXPROCS(0)
	jobs := make(chan job)
	queue := make(chan chan outcome, workers*inFlight)

	var running sync.WaitGroup
	for range workers {
		work := newWorker()
		running.Go(func() {
			for j := range jobs {
				var one outcome
				one.err = Guarded(func() (err error) {
					one.value, err = work(j.work)
					return err
				})
				j.done <- one
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
		err := Guarded(func() error {
			return produce(ctx, func(work J) bool {
				done := make(chan outcome, 1)
				if !give(done) {
					return false
				}
				jobs <- job{work, done}
				return true
			})
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
