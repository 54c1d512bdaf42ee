package delimited

import (
	"bytes"
	"cmp"
	"context"
	"errors"
	"io"

	"roundyear/fault"
	"roundyear/rows"
)

const (
	// defaultSize is how much of a file is read at a time.
	defaultSize = 256 << 10
	// maxRecord bounds the memory that one record can take.
	maxRecord = 4 << 20
)

// splitter cuts a file into batches of whole records.
type splitter struct {
	file   *File
	reader io.Reader
	carry  []byte
	line   int
	ended  bool
	// size is how much is read at a time.
	size int
}

// unchecked marks a batch of which it is not known that it is UTF-8.
type unchecked struct{}

// Scan cuts the file into batches of whole records.
func (f *File) Scan(ctx context.Context, scan *rows.Scan) error {
	opened, err := f.Open()
	if err != nil {
		return err
	}
	defer func() { _ = opened.Close() }()
	if err := opened.Skip(f.body); err != nil {
		return f.CannotRead(err)
	}
	split := &splitter{file: f, reader: opened, line: f.lines + 1, size: cmp.Or(scan.Size, defaultSize)}
	if !f.IsPacked() {
		split.size = min(split.size, int(f.Size)+1) // thousands of small files need not as much memory as large ones
	}
	for {
		b := scan.Spare()
		err := split.next(b)
		if errors.Is(err, io.EOF) {
			f.verified = true
			return nil
		}
		if err != nil {
			return err
		}
		if b.Read = opened.Taken(); !scan.Give(b) {
			return ctx.Err()
		}
	}
}

// next fills a batch. It is io.EOF when there are no more records, or a Fault.
func (s *splitter) next(b *rows.Batch) error {
	data := append(b.Input[:0], s.carry...)
	for {
		if !s.ended {
			var err error
			if data, err = s.fill(data); err != nil {
				return err
			}
		}
		if len(data) == 0 {
			return io.EOF
		}
		end, openQuote := lastRecordEnd(data, s.file.Delimiter)
		if s.ended {
			if openQuote >= 0 {
				return s.neverClosed(data, openQuote)
			}
			end = len(data)
		}
		if end > 0 {
			s.carry = append(s.carry[:0], data[end:]...)
			b.Input, b.Line = data[:end], s.line
			s.line += bytes.Count(b.Input, []byte{'\n'})
			if !s.file.verified {
				b.Task = unchecked{}
			}
			return nil
		}
		if len(data) >= maxRecord {
			if openQuote >= 0 {
				return s.neverClosed(data, openQuote)
			}
			return &fault.Fault{File: s.file.Name, Line: s.line, What: "the line is longer than 4 MB",
				Remedy: "Is this a text file with one row per line?", Kind: fault.Malformed}
		}
	}
}

// fill reads until there is a chunk's worth more of data.
func (s *splitter) fill(data []byte) ([]byte, error) {
	want := max(s.size, len(data)+max(s.size/2, 1))
	if cap(data) < want {
		data = append(make([]byte, 0, want), data...)
	}
	for len(data) < want {
		n, err := s.reader.Read(data[len(data):want])
		data = data[:len(data)+n]
		if errors.Is(err, io.EOF) {
			s.ended = true
			return data, nil
		}
		if err != nil {
			return nil, s.file.CannotRead(err)
		}
	}
	return data, nil
}

func (s *splitter) neverClosed(data []byte, quote int) error {
	return &fault.Fault{File: s.file.Name, Line: s.line + bytes.Count(data[:quote], []byte{'\n'}),
		What: "a quote is not closed", Remedy: "Close or remove it", Kind: fault.Malformed}
}

// lastRecordEnd returns the end of the last whole record in data, which begins
// with a record, and where a quote is open at the end of data, or -1. A quote
// opens a field only at the field's beginning.
func lastRecordEnd(data []byte, delimiter byte) (end, openQuote int) {
	// Of the stretches outside of quotes the last that holds a line end counts;
	// before that they need not be searched.
	var stretches [8]struct{ from, to int }
	count, from, openQuote := 0, 0, -1
	keep := func(to int) {
		stretches[count%len(stretches)] = struct{ from, to int }{from, to}
		if count++; count%len(stretches) == 0 {
			// The oldest are about to be forgotten: remember what they hold.
			for i := len(stretches) - 1; i >= 0; i-- {
				if newline := bytes.LastIndexByte(data[stretches[i].from:stretches[i].to], '\n'); newline >= 0 {
					end = stretches[i].from + newline + 1
					break
				}
			}
		}
	}
	for at := 0; openQuote < 0; {
		quote := bytes.IndexByte(data[at:], '"')
		if quote < 0 {
			keep(len(data))
			break
		}
		quote += at
		at = quote + 1
		if quote > 0 && data[quote-1] != delimiter && data[quote-1] != '\n' {
			continue
		}
		keep(quote)
		for {
			closing := bytes.IndexByte(data[at:], '"')
			if closing < 0 {
				openQuote = quote
				break
			}
			at += closing + 1
			if at == len(data) || data[at] != '"' {
				break
			}
			at++
		}
		// Where data ends with a quote, the next bytes tell whether it closes.
		if from = at; at == len(data) {
			break
		}
	}
	for i := count%len(stretches) - 1; i >= 0; i-- {
		if newline := bytes.LastIndexByte(data[stretches[i].from:stretches[i].to], '\n'); newline >= 0 {
			return stretches[i].from + newline + 1, openQuote
		}
	}
	return end, openQuote
}
