package jsonlines

import (
	"bytes"
	"errors"
	"fmt"

	"github.com/go-json-experiment/json/jsontext"
)

// objects reads objects one after the other. It serves one goroutine.
type objects struct {
	decoder *jsontext.Decoder
	buffer  *bytes.Buffer
	text    []byte
}

func newObjects() *objects { return &objects{decoder: &jsontext.Decoder{}, buffer: &bytes.Buffer{}} }

// read calls see with the name and the value of each member of the object that is the line.
func (o *objects) read(line []byte, see func(name, value []byte) error) error {
	if line[0] != '{' {
		return fmt.Errorf("%.20q is not a JSON object", line)
	}
	*o.buffer = *bytes.NewBuffer(line)
	o.decoder.Reset(o.buffer, jsontext.AllowDuplicateNames(true)) // the caller looks for them
	if _, err := o.decoder.ReadToken(); err != nil {
		return plain(err)
	}
	for o.decoder.PeekKind() != '}' {
		name, err := o.decoder.ReadValue()
		if err != nil {
			return plain(err)
		}
		// The name is gone once the value is read, but for where it stands in the line.
		end := int(o.decoder.InputOffset())
		name = jsontext.Value(line[end-len(name) : end])
		value, err := o.decoder.ReadValue()
		if err != nil {
			return plain(err)
		}
		end = int(o.decoder.InputOffset())
		value = jsontext.Value(line[end-len(value) : end])
		if err := see(name, value); err != nil {
			return err
		}
	}
	if _, err := o.decoder.ReadToken(); err != nil {
		return plain(err)
	}
	if rest := bytes.Trim(line[o.decoder.InputOffset():], jsonSpace); len(rest) > 0 {
		return fmt.Errorf("%.20q stands behind the JSON object", rest)
	}
	return nil
}

// jsonSpace is what may stand around JSON (RFC 8259), which a form feed may not.
const jsonSpace = " \t\r\n"

// plain is a mistake in JSON in words, with its place in the line.
func plain(err error) error {
	var syntax *jsontext.SyntacticError
	if !errors.As(err, &syntax) {
		return err
	}
	return fmt.Errorf("is not valid JSON at character %d: %w", syntax.ByteOffset+1, syntax.Err)
}

// isName tells whether a name of an object is that of a column.
func (o *objects) isName(quoted []byte, name string) bool {
	return len(quoted) == len(name)+2 && string(quoted[1:len(quoted)-1]) == name && bytes.IndexByte(quoted, '\\') < 0
}

// unquoted returns the text of a JSON string.
func (o *objects) unquoted(quoted []byte) string {
	o.text = appendUnquoted(o.text[:0], quoted)
	return string(o.text)
}

// appendValue appends a value as text: a string as what it says, nothing for null and for a
// value that is missing, and all others as they are written.
func (o *objects) appendValue(text, value []byte) []byte {
	switch {
	case len(value) == 0 || value[0] == 'n':
		return text
	case value[0] == '"':
		return appendUnquoted(text, value)
	}
	return append(text, value...)
}

func appendUnquoted(text, quoted []byte) []byte {
	if bytes.IndexByte(quoted, '\\') < 0 {
		return append(text, quoted[1:len(quoted)-1]...)
	}
	text, err := jsontext.AppendUnquote(text, quoted)
	if err != nil {
		panic(err) // it was read as JSON before
	}
	return text
}
