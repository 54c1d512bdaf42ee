package table

import (
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"math/bits"

	"roundyear/fault"
)

// Record is one row of a delimited file. Its bytes are those of the file.
type Record struct {
	// Line is the line of the file in which the record begins, from 1.
	Line int
	// Raw is the whole record as it stands in the file, without its line end.
	Raw []byte

	// ends are the places where the fields end; quotedField marks those that
	// are quoted. A field starts behind the delimiter of the one before.
	ends    []uint32
	scratch []byte
	// quoted tells whether any field is quoted and may hold line ends.
	quoted bool
}

const quotedField = 1 << 31

// Len returns the number of fields.
func (r *Record) Len() int { return len(r.ends) }

// IsQuoted tells whether any of the fields is quoted, and so may hold line ends.
func (r *Record) IsQuoted() bool { return r.quoted }

func (r *Record) start(i int) int {
	if i == 0 {
		return 0
	}
	return int(r.ends[i-1]&^quotedField) + 1
}

// RawField returns a field as it stands in the file, quotes included.
func (r *Record) RawField(i int) []byte {
	return r.Raw[r.start(i) : r.ends[i]&^quotedField]
}

// Field returns the value of a field, without quotes. It is good until the
// next record is read into r.
func (r *Record) Field(i int) []byte {
	raw := r.RawField(i)
	if r.ends[i]&quotedField == 0 {
		return raw
	}
	inner := raw[1 : len(raw)-1]
	if bytes.IndexByte(inner, '"') < 0 {
		return inner
	}
	start := len(r.scratch)
	for {
		quote := bytes.IndexByte(inner, '"')
		if quote < 0 {
			r.scratch = append(r.scratch, inner...)
			return r.scratch[start:]
		}
		r.scratch = append(r.scratch, inner[:quote+1]...)
		inner = inner[quote+2:]
	}
}

// Chunk is some whole records of one file, in the order of the file.
type Chunk struct {
	// File is the file the records come from.
	File *File
	// Offset is the chunk's place in the file in bytes; chunks that follow
	// have larger ones.
	Offset int64

	data []byte
	line int
}

// Size returns the number of bytes of the chunk.
func (c *Chunk) Size() int { return len(c.data) }

// Records returns the chunk's records, one after the other.
func (c *Chunk) Records() *Records {
	return &Records{chunk: c, rest: c.data, line: c.line}
}

// Records walks through the records of a chunk.
type Records struct {
	chunk *Chunk
	rest  []byte
	line  int
	err   error
}

// Next reads the next record into r. It is false at the end and on a fault,
// which Err returns.
func (s *Records) Next(r *Record) bool {
	for len(s.rest) > 0 && s.err == nil {
		used, err := r.parse(s.rest, s.chunk.File.Delimiter)
		if err != nil {
			s.err = &fault.Fault{File: s.chunk.File.Name, Line: s.line + bytes.Count(s.rest[:used], []byte{'\n'}), What: err.Error(),
				Remedy: `Put quotes around the whole field and double the quotes in it: "a 5"" pot"`, Kind: fault.Malformed}
			return false
		}
		r.Line = s.line
		s.line++
		if r.quoted {
			s.line += bytes.Count(r.Raw, []byte{'\n'})
		}
		s.rest = s.rest[used:]
		columns := len(s.chunk.File.Columns)
		if len(r.Raw) == 0 && columns > 1 {
			continue
		}
		if len(r.ends) != columns {
			s.err = &fault.Fault{File: s.chunk.File.Name, Line: r.Line,
				What:   fmt.Sprintf("%s, but the header has %d", fieldCount(len(r.ends)), columns),
				Remedy: fmt.Sprintf("Correct the line; a field that contains %q needs quotes around it", s.chunk.File.Delimiter), Kind: fault.Malformed}
			return false
		}
		return true
	}
	return false
}

func fieldCount(count int) string {
	if count == 1 {
		return "1 field"
	}
	return fmt.Sprintf("%d fields", count)
}

// Err returns the fault that ended the records early.
func (s *Records) Err() error { return s.err }

// parse reads one record and returns the bytes used, its line end included; on
// an error, the bytes up to it. It looks at eight bytes at a time for delimiters
// and line ends, and skips over quoted fields.
func (r *Record) parse(data []byte, delimiter byte) (used int, err error) {
	r.ends, r.scratch, r.quoted = r.ends[:0], r.scratch[:0], false
	delimiters := uint64(delimiter) * everyByte
	start := 0
	var at int
quotes:
	for {
		// A field that begins with a quote ends behind the quote that closes it.
		for start < len(data) && data[start] == '"' {
			end, err := closingQuote(data, start, delimiter)
			if err != nil {
				return end, err
			}
			r.quoted = true
			r.ends = append(r.ends, uint32(end)|quotedField)
			if end == len(data) || data[end] != delimiter {
				r.Raw = data[:end]
				return min(end+1+lineEndWidth(data, end), len(data)), nil
			}
			start = end + 1
		}
		for at = start; at+8 <= len(data); at += 8 {
			word := binary.LittleEndian.Uint64(data[at:])
			// A byte of these is 0x80 exactly where that of the word is the wanted one.
			a, b := word^delimiters, word^('\n'*everyByte)
			a, b = ^((a&lowBits + lowBits) | a | lowBits), ^((b&lowBits + lowBits) | b | lowBits)
			for found := a | b; found != 0; found &= found - 1 {
				end := at + bits.TrailingZeros64(found)>>3
				if data[end] != delimiter {
					return r.end(data, start, end)
				}
				r.ends = append(r.ends, uint32(end))
				start = end + 1
				if start < len(data) && data[start] == '"' {
					continue quotes
				}
			}
		}
		for ; at < len(data); at++ {
			if data[at] == '\n' {
				return r.end(data, start, at)
			}
			if data[at] == delimiter {
				r.ends = append(r.ends, uint32(at))
				start = at + 1
				continue quotes
			}
		}
		return r.end(data, start, len(data))
	}
}

// end ends a record with a field that is not quoted.
func (r *Record) end(data []byte, start, end int) (int, error) {
	used := min(end+1, len(data))
	if end > start && data[end-1] == '\r' {
		end--
	}
	r.ends = append(r.ends, uint32(end))
	r.Raw = data[:end]
	return used, nil
}

// closingQuote returns the end of the quoted field that starts at a place.
func closingQuote(data []byte, start int, delimiter byte) (int, error) {
	at := start + 1
	for {
		quote := bytes.IndexByte(data[at:], '"')
		if quote < 0 {
			return start, errors.New("a quote is not closed")
		}
		at += quote + 1
		if at == len(data) || data[at] != '"' {
			break
		}
		at++
	}
	if at < len(data) && data[at] != delimiter && data[at] != '\n' && !bytes.HasPrefix(data[at:], []byte("\r\n")) {
		return at, errors.New("a quote inside a quoted field is not doubled")
	}
	return at, nil
}

// lineEndWidth is 1 where a line end has a carriage return before it.
func lineEndWidth(data []byte, at int) int {
	if at < len(data) && data[at] == '\r' {
		return 1
	}
	return 0
}

const (
	everyByte = 0x0101010101010101
	lowBits   = 0x7f7f7f7f7f7f7f7f
)

// ParseRecord reads a single record, such as a header.
func ParseRecord(line []byte, delimiter byte) *Record {
	record := &Record{Line: 1}
	// A header was parsed before it was kept, so this cannot fail.
	_, _ = record.parse(line, delimiter)
	return record
}
