package charset

import (
	"bytes"
	"fmt"
	"unicode/utf8"

	"roundyear/fault"
)

// looked is how much of a text is looked at to tell its encoding.
const looked = 64 << 10

// NotUTF8 returns the fault of text that is not UTF-8, which starts in a line; nil if it is. It proposes the
// likely encoding.
func NotUTF8(name string, text []byte, line int) *fault.Fault {
	if utf8.Valid(text) {
		return nil
	}
	at, begin := 0, 0
	for at < len(text) {
		r, width := utf8.DecodeRune(text[at:])
		if r == utf8.RuneError && width == 1 {
			break
		}
		if at += width; r == '\n' {
			line, begin = line+1, at
		}
	}
	problem := &fault.Fault{File: name, Line: line, What: "is not UTF-8 text", Remedy: "Save the file as UTF-8", Kind: fault.Malformed}
	sample := text[begin:min(len(text), begin+looked)]
	if end := bytes.LastIndexByte(sample, '\n'); end > at-begin {
		sample = sample[:end]
	}
	if utf8.Valid(text[:at]) && hasLetters(text[:at]) {
		problem.Remedy = "The lines above it are UTF-8: were files of two encodings joined?"
		return problem
	}
	switch likely, word := Likely(sample); {
	case likely == "":
	case word == "":
		problem.Remedy = fmt.Sprintf("It may be %s: add --encoding %s", likely, likely)
	default:
		problem.Remedy = fmt.Sprintf("As %s it reads %q; if that is right, add --encoding %s", likely, word, likely)
	}
	return problem
}

// hasLetters tells whether UTF-8 text has letters beyond ASCII.
func hasLetters(text []byte) bool {
	return bytes.IndexFunc(text, func(r rune) bool { return r >= 0x80 && r != '\uFEFF' }) >= 0
}
