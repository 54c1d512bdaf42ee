// Package charset decodes text that is not UTF-8: by the names that the WHATWG Encoding Standard
// gives the encodings, or by a byte order mark.
package charset

import (
	"bytes"
	"fmt"
	"io"
	"slices"
	"strings"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/htmlindex"
	"golang.org/x/text/encoding/unicode"
	"golang.org/x/text/transform"

	"roundyear/nearest"
)

// Encoding is a way to write text in bytes. Nil stands for UTF-8.
type Encoding struct {
	// Name is its name in the standard.
	Name string
	how  encoding.Encoding
}

// IsWide tells whether characters take two bytes each, so that no text in it is like one in UTF-8.
func (e *Encoding) IsWide() bool { return strings.HasPrefix(e.Name, "utf-16") }

// known are names to be proposed. The standard has more, and several for each.
var known = []string{"utf-8", "utf-16le", "utf-16be", "windows-1250", "windows-1251", "windows-1252", "windows-1253", "windows-1254", "windows-1255", "windows-1256", "windows-1257", "windows-1258",
	"iso-8859-1", "iso-8859-2", "iso-8859-3", "iso-8859-4", "iso-8859-5", "iso-8859-6", "iso-8859-7", "iso-8859-8", "iso-8859-10", "iso-8859-13", "iso-8859-14", "iso-8859-15", "iso-8859-16",
	"macintosh", "x-mac-cyrillic", "ibm866", "koi8-r", "koi8-u", "windows-874", "gbk", "gb18030", "big5", "euc-jp", "iso-2022-jp", "shift_jis", "euc-kr"}

// Of returns the encoding of a name; nil for UTF-8. The error proposes the nearest name.
func Of(name string) (*Encoding, error) {
	how, err := htmlindex.Get(strings.TrimSpace(name))
	if err == nil {
		var canonical string
		if canonical, err = htmlindex.Name(how); err == nil {
			switch {
			case canonical == "utf-8":
				return nil, nil
			case slices.Contains(known, canonical):
				return &Encoding{canonical, how}, nil
			}
		}
	}
	if near := nearest.Name(name, known); near != "" {
		return nil, fmt.Errorf("unknown encoding %q. Did you mean %s?", name, near)
	}
	return nil, fmt.Errorf("unknown encoding %q; use a name such as windows-1252, iso-8859-15, shift_jis or gb18030", name)
}

// ByMark returns the encoding that a byte order mark says; nil without one, and for that of UTF-8.
func ByMark(start []byte) *Encoding {
	switch {
	case bytes.HasPrefix(start, []byte{0xFF, 0xFE, 0, 0}):
		return nil // that of UTF-32, which no standard of the web has
	case bytes.HasPrefix(start, []byte{0xFF, 0xFE}):
		return &Encoding{"utf-16le", unicode.UTF16(unicode.LittleEndian, unicode.ExpectBOM)}
	case bytes.HasPrefix(start, []byte{0xFE, 0xFF}):
		return &Encoding{"utf-16be", unicode.UTF16(unicode.BigEndian, unicode.ExpectBOM)}
	}
	return nil
}

// BadBytes is the error for bytes that an encoding does not have.
type BadBytes struct {
	Encoding string
	// Line is the line that they are in.
	Line int
}

// Error says so.
func (b *BadBytes) Error() string { return fmt.Sprintf("contains bytes that are not %s", b.Encoding) }

// Reader decodes what is read. The error for bytes that the encoding does not have is BadBytes.
func (e *Encoding) Reader(from io.Reader) io.Reader {
	return &reader{decoded: transform.NewReader(from, e.how.NewDecoder()), name: e.Name, line: 1}
}

// reader looks for what a decoder writes in the place of bytes that it cannot read.
type reader struct {
	decoded io.Reader
	name    string
	line    int
	// tail are the last bytes that were read, which may begin what is looked for.
	tail []byte
}

var replacement = []byte("\uFFFD")

// Read reads decoded bytes.
func (r *reader) Read(to []byte) (int, error) {
	n, err := r.decoded.Read(to)
	text := append(r.tail, to[:n]...)
	if at := bytes.Index(text, replacement); at >= 0 {
		line := r.line + bytes.Count(text[len(r.tail):max(at, len(r.tail))], []byte{'\n'})
		return 0, &BadBytes{r.name, line}
	}
	r.line += bytes.Count(to[:n], []byte{'\n'})
	r.tail = append([]byte(nil), text[max(len(text)-len(replacement)+1, 0):]...)
	return n, err
}
