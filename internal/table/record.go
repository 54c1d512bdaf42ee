package table

import (
	"bytes"
	"fmt"
)

// Record is one row of a delimited file. Its bytes are those of the file.
type Record struct {
	// Line is the line of the file in which the record begins, from 1.
	Line int
	// Raw is the whole record as it stands in the file, without its line end.
	Raw []byte

	fields  []field
	scratch []byte
}

// field is where a field stands in the record, quotes included.
type field struct {
	start, end int
	quoted     bool
}

// Len returns the number of fields.
func (r *Record) Len() int { return len(r.fields) }

// RawField returns a field as it stands in the file, quotes included.
func (r *Record) RawField(i int) []byte {
	return r.Raw[r.fields[i].start:r.fields[i].end]
}

// Field returns the value of a field, without quotes. It is good until the
// next record is read into r.
func (r *Record) Field(i int) []byte {
	f := r.fields[i]
	if !f.quoted {
		return r.Raw[f.start:f.end]
	}
	inner := r.Raw[f.start+1 : f.end-1]
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
			s.err = &Fault{File: s.chunk.File.Name, Line: s.line + bytes.Count(s.rest[:used], []byte{'\n'}), What: err.Error(),
				Remedy: `Put quotes around the whole field and double those within: "a 5"" pot"`, Outside: true}
			return false
		}
		r.Line = s.line
		s.line += lineEnds(s.rest[:used], r)
		s.rest = s.rest[used:]
		columns := len(s.chunk.File.Columns)
		if len(r.Raw) == 0 && columns > 1 {
			continue
		}
		if len(r.fields) != columns {
			s.err = &Fault{File: s.chunk.File.Name, Line: r.Line,
				What:   fmt.Sprintf("%d fields where the header has %d", len(r.fields), columns),
				Remedy: fmt.Sprintf("Mend the line; a field that holds a %q needs quotes around it", s.chunk.File.Delimiter), Outside: true}
			return false
		}
		return true
	}
	return false
}

// lineEnds counts the line ends of a record: one, and those within quotes.
func lineEnds(record []byte, r *Record) int {
	for _, f := range r.fields {
		if f.quoted {
			return bytes.Count(record, []byte{'\n'})
		}
	}
	return 1
}

// Err returns the fault that ended the records early.
func (s *Records) Err() error { return s.err }

// parse reads one record and returns the bytes used, its line end included; on
// an error, the bytes up to it.
func (r *Record) parse(data []byte, delimiter byte) (used int, err error) {
	r.fields, r.scratch = r.fields[:0], r.scratch[:0]
	at := 0
	for {
		start, quoted := at, at < len(data) && data[at] == '"'
		if quoted {
			at++
			for {
				quote := bytes.IndexByte(data[at:], '"')
				if quote < 0 {
					return start, fmt.Errorf("a quote is opened and never closed")
				}
				at += quote + 1
				if at == len(data) || data[at] != '"' {
					break
				}
				at++
			}
			if at < len(data) && data[at] != delimiter && data[at] != '\n' && !bytes.HasPrefix(data[at:], []byte("\r\n")) {
				return at, fmt.Errorf("a quote within a quoted field is not doubled")
			}
		}
		for at < len(data) && data[at] != delimiter && data[at] != '\n' {
			at++
		}
		if at < len(data) && data[at] == delimiter {
			r.fields = append(r.fields, field{start, at, quoted})
			at++
			continue
		}
		end := at
		if end > start && data[end-1] == '\r' {
			end--
		}
		r.fields = append(r.fields, field{start, end, quoted})
		r.Raw = data[:end]
		return min(at+1, len(data)), nil
	}
}

// ParseRecord reads a single record, such as a header.
func ParseRecord(line []byte, delimiter byte) *Record {
	record := &Record{Line: 1}
	// A header was parsed before it was kept, so this cannot fail.
	_, _ = record.parse(line, delimiter)
	return record
}
