// Command floor does the least that a program for facts must do, to compare runs of
// roundyear with: floor scan FILE reads the file in chunks on all processors and looks at
// every byte once for commas and line ends; floor copy FILE OUT also writes each line back
// with 29 bytes more, the length of three added columns.
package main

import (
	"bytes"
	"fmt"
	"os"
	"runtime"
	"sync"
)

const (
	chunkSize = 1 << 20
	added     = ",2026-01-05,10:15:00,20260105"
)

func main() {
	if len(os.Args) < 3 || os.Args[1] == "copy" && len(os.Args) != 4 {
		fmt.Fprintln(os.Stderr, "floor: scan FILE, or copy FILE OUT")
		os.Exit(2)
	}
	if err := run(os.Args[1:]); err != nil {
		fmt.Fprintln(os.Stderr, "floor:", err)
		os.Exit(3)
	}
}

// job is a chunk of whole lines, and what came of it, in the order of the file.
type job struct {
	text []byte
	out  []byte
	// commas and lines are counted, so that the bytes are looked at.
	commas, lines int
	done          chan struct{}
}

func run(args []string) error {
	in, err := os.Open(args[1])
	if err != nil {
		return err
	}
	defer in.Close()
	var out *os.File
	if args[0] == "copy" {
		if out, err = os.Create(args[2]); err != nil {
			return err
		}
		defer out.Close()
	}
	workers := runtime.GOMAXPROCS(0)
	todo, ordered := make(chan *job), make(chan *job, 2*workers)
	pool := sync.Pool{New: func() any { return &job{} }}
	var wait sync.WaitGroup
	for range workers {
		wait.Go(func() {
			for j := range todo {
				j.work(out != nil)
				close(j.done)
			}
		})
	}
	failed := make(chan error, 1)
	go func() {
		defer close(ordered)
		defer close(todo)
		var rest []byte
		for {
			j := pool.Get().(*job)
			j.done = make(chan struct{})
			j.text = append(j.text[:0], rest...)
			start := len(j.text)
			if cap(j.text) < start+chunkSize {
				j.text = append(make([]byte, 0, start+chunkSize), j.text...)
			}
			n, err := in.Read(j.text[start : start+chunkSize])
			j.text = j.text[:start+n]
			if n == 0 {
				if err != nil && err.Error() != "EOF" {
					failed <- err
				}
				return
			}
			end := bytes.LastIndexByte(j.text, '\n') + 1
			rest = append(rest[:0], j.text[end:]...)
			j.text = j.text[:end]
			ordered <- j
			todo <- j
		}
	}()
	commas, lines := 0, 0
	for j := range ordered {
		<-j.done
		commas, lines = commas+j.commas, lines+j.lines
		if out != nil {
			if _, err := out.Write(j.out); err != nil {
				return err
			}
		}
		pool.Put(j)
	}
	wait.Wait()
	fmt.Fprintln(os.Stderr, commas, "commas,", lines, "lines")
	select {
	case err := <-failed:
		return err
	default:
		return nil
	}
}

// work looks at every byte of the chunk, and writes its lines anew if asked.
func (j *job) work(copies bool) {
	j.commas, j.lines, j.out = 0, 0, j.out[:0]
	start := 0
	for i, c := range j.text {
		switch c {
		case ',':
			j.commas++
		case '\n':
			j.lines++
			if copies {
				j.out = append(append(append(j.out, j.text[start:i]...), added...), '\n')
			}
			start = i + 1
		}
	}
}
