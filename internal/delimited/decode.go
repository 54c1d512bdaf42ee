package delimited

import (
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"math/bits"

	"roundyear/charset"
	"roundyear/fault"
	"roundyear/rows"
)

// Decode finds the records of a batch. Empty lines are no rows, unless there is only one column.
func (f *File) Decode(b *rows.Batch) {
	data, columns := b.Input, len(b.Part.Columns)
	b.Text = data
	if _, isUnchecked := b.Task.(unchecked); isUnchecked {
		if problem := charset.NotUTF8(f.Name, data, b.Line); problem != nil {
			b.Fault = problem
			return
		}
	}
	p := parser{delimiter: f.Delimiter, ends: b.Ends}
	line := uint32(0)
	for at := 0; at < len(data); {
		before := len(p.ends)
		end, next, err := p.record(data, at)
		if err != nil {
			b.Fault = &fault.Fault{File: f.Name, Line: b.Line + int(line) + bytes.Count(data[at:end], []byte{'\n'}), What: err.Error(),
				Remedy: `Put quotes around the whole field and double the quotes in it: "a 5"" pot"`, Kind: fault.Malformed}
			p.ends = p.ends[:before]
			break
		}
		place := rows.Place{Start: uint32(at), Line: line, RawStart: uint32(at), RawEnd: uint32(end), MayHaveBreak: p.quoted}
		line++
		if p.quoted {
			line += uint32(bytes.Count(data[at:end], []byte{'\n'}))
		}
		fields := len(p.ends) - before
		switch {
		case fields == columns && (end > at || columns == 1):
			b.Places = append(b.Places, place)
		case end == at:
			p.ends = p.ends[:before]
		default:
			b.Ends = p.ends[:before]
			if !b.AddRagged(place, p.ends[before:]) {
				b.Fault = &fault.Fault{File: f.Name, Line: b.Line + int(place.Line), What: rows.RaggedReason(fields, columns),
					Remedy: fmt.Sprintf("Correct the line; a field that contains %q needs quotes around it", f.Delimiter), Kind: fault.Malformed}
				return
			}
			p.ends = b.Ends
		}
		at = next
	}
	b.Ends = p.ends
}

// parser finds the fields of records.
type parser struct {
	delimiter byte
	// ends are where fields end, in the text; those in quotes have rows.QuotedField set.
	ends []uint32
	// quoted tells whether a field of the last record is quoted, and so may hold line ends.
	quoted bool
}

// record finds the fields of the record that begins at a place of the text. It returns where
// the record ends and where the next one begins; on an error the end is the place of it. It looks
// at eight bytes at a time for delimiters and line ends, and skips over quoted fields.
func (p *parser) record(data []byte, from int) (end, next int, err error) {
	p.quoted = false
	ends, delimiter := p.ends, p.delimiter
	delimiters := uint64(delimiter) * everyByte
	start := from
	var at int
quotes:
	for {
		// A field that begins with a quote ends behind the quote that closes it.
		for start < len(data) && data[start] == '"' {
			end, err := closingQuote(data, start, delimiter)
			if err != nil {
				return end, end, err
			}
			p.quoted = true
			ends = append(ends, uint32(end)|rows.QuotedField)
			if end == len(data) || data[end] != delimiter {
				p.ends = ends
				return end, min(end+1+lineEndWidth(data, end), len(data)), nil
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
					p.ends = ends
					end, next := p.end(data, start, end)
					return end, next, nil
				}
				ends = append(ends, uint32(end))
				start = end + 1
				if start < len(data) && data[start] == '"' {
					continue quotes
				}
			}
		}
		for ; at < len(data); at++ {
			if data[at] == '\n' {
				break
			}
			if data[at] == delimiter {
				ends = append(ends, uint32(at))
				start = at + 1
				continue quotes
			}
		}
		p.ends = ends
		end, next := p.end(data, start, at)
		return end, next, nil
	}
}

// end ends a record with a field that is not quoted.
func (p *parser) end(data []byte, start, end int) (int, int) {
	next := min(end+1, len(data))
	if end > start && data[end-1] == '\r' {
		end--
	}
	p.ends = append(p.ends, uint32(end))
	return end, next
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
