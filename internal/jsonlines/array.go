package jsonlines

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"regexp"

	"github.com/go-json-experiment/json/jsontext"

	"roundyear/fault"
)

var arrayBeginning = regexp.MustCompile(`^\[\s*[{\]]`)

// FitsArray tells whether a content is a JSON array of objects, by its beginning.
func FitsArray(start []byte) bool {
	return arrayBeginning.Match(bytes.TrimLeft(bytes.TrimPrefix(start, utf8Mark), " \t\r\n"))
}

// arrayReader reads a JSON array as JSON Lines.
type arrayReader struct {
	decoder *jsontext.Decoder
	// rest is what of a line was not read yet, and count how many objects there were.
	rest    []byte
	count   int
	isBegun bool
	err     error
}

// OfArray returns the objects of a JSON array as lines, in the order of the array. The error is a fault with the number
// of the object that it is in.
func OfArray(from io.Reader) io.Reader {
	return &arrayReader{decoder: jsontext.NewDecoder(&unmarked{from: from}, jsontext.AllowDuplicateNames(true))}
}

// Read reads lines.
func (a *arrayReader) Read(to []byte) (int, error) {
	for len(a.rest) == 0 {
		if a.err != nil {
			return 0, a.err
		}
		a.err = a.next()
	}
	n := copy(to, a.rest)
	a.rest = a.rest[n:]
	return n, nil
}

// next reads the next object. The error is io.EOF behind the last one.
func (a *arrayReader) next() error {
	if !a.isBegun {
		if _, err := a.decoder.ReadToken(); err != nil {
			return a.fault(err)
		}
		a.isBegun = true
	}
	switch kind := a.decoder.PeekKind(); kind {
	case ']':
		if _, err := a.decoder.ReadToken(); err != nil {
			return a.fault(err)
		}
		if _, err := a.decoder.ReadToken(); !errors.Is(err, io.EOF) {
			return &fault.Fault{What: "has more behind the end of its array", Remedy: "A JSON file must hold one array of objects", Kind: fault.Malformed}
		}
		return io.EOF
	case '{', 0:
	default:
		return &fault.Fault{Line: a.count + 1, What: "the array has a value that is not an object", Remedy: "A JSON file must hold one array of objects", Kind: fault.Malformed}
	}
	value, err := a.decoder.ReadValue()
	if err != nil {
		return a.fault(err)
	}
	a.count++
	if err := value.Compact(jsontext.AllowDuplicateNames(true), jsontext.PreserveRawStrings(true)); err != nil {
		return a.fault(err)
	}
	a.rest = append(append(a.rest[:0], value...), '\n')
	return nil
}

func (a *arrayReader) fault(err error) error {
	if errors.Is(err, io.ErrUnexpectedEOF) {
		return &fault.Fault{Line: a.count + 1, What: "the JSON ends before its array does", Remedy: "Is the export complete?", Kind: fault.Malformed}
	}
	var syntax *jsontext.SyntacticError
	if !errors.As(err, &syntax) {
		return err
	}
	return &fault.Fault{Line: a.count + 1, What: fmt.Sprintf("is not valid JSON at byte %d: %s", syntax.ByteOffset+1, syntax.Err), Remedy: "Correct the file, or export it again", Kind: fault.Malformed}
}

// unmarked reads without a byte order mark.
type unmarked struct {
	from    io.Reader
	isBegun bool
	rest    []byte
}

// Read reads bytes behind the mark.
func (u *unmarked) Read(to []byte) (int, error) {
	if !u.isBegun {
		u.isBegun = true
		start := make([]byte, len(utf8Mark))
		n, err := io.ReadFull(u.from, start)
		if err != nil && !errors.Is(err, io.EOF) && !errors.Is(err, io.ErrUnexpectedEOF) {
			return 0, err
		}
		u.rest = bytes.TrimPrefix(start[:n], utf8Mark)
	}
	if len(u.rest) > 0 {
		n := copy(to, u.rest)
		u.rest = u.rest[n:]
		return n, nil
	}
	return u.from.Read(to)
}
