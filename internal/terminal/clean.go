// Package terminal stands between data and terminals and shells: no control
// character of data reaches a terminal, and what is printed to be pasted into a
// shell is quoted.
package terminal

import (
	"fmt"
	"io"
	"strings"
	"unicode/utf8"
)

// Clean returns a text as it may be shown: what a terminal would obey, and what
// would hide or turn around other text, is written as an escape such as \x1b, and
// so are line ends and bytes that are no text.
func Clean(text string) string { return clean(text, false) }

// CleanLines is Clean for text of several lines, whose ends and tabs are kept.
func CleanLines(text string) string { return clean(text, true) }

func clean(text string, lines bool) string {
	if isClean(text, lines) {
		return text
	}
	var out strings.Builder
	for len(text) > 0 {
		r, width := utf8.DecodeRuneInString(text)
		switch {
		case r == utf8.RuneError && width == 1:
			fmt.Fprintf(&out, `\x%02x`, text[0])
		case lines && (r == '\n' || r == '\t' || r == '\r' && strings.HasPrefix(text, "\r\n")):
			out.WriteRune(r)
		case r == '\n':
			out.WriteString(`\n`)
		case r == '\r':
			out.WriteString(`\r`)
		case r == '\t':
			out.WriteString(`\t`)
		case isUnsafe(r) && r < 0x80:
			fmt.Fprintf(&out, `\x%02x`, r)
		case isUnsafe(r) && r > 0xffff:
			fmt.Fprintf(&out, `\U%08x`, r)
		case isUnsafe(r):
			fmt.Fprintf(&out, `\u%04x`, r)
		default:
			out.WriteRune(r)
		}
		text = text[width:]
	}
	return out.String()
}

func isClean(text string, lines bool) bool {
	ascii := true
	for i := range len(text) {
		c := text[i]
		if c < ' ' && !(lines && (c == '\n' || c == '\t')) || c == 0x7f {
			return false
		}
		ascii = ascii && c < utf8.RuneSelf
	}
	return ascii || utf8.ValidString(text) && !strings.ContainsFunc(text, func(r rune) bool { return r >= utf8.RuneSelf && isUnsafe(r) })
}

// isUnsafe tells whether a terminal obeys a character, or other text looks
// different for it: C0 and C1 controls, those of Unicode that turn the direction
// of writing, break lines or fill the place of nothing, and tags.
func isUnsafe(r rune) bool {
	switch {
	case r < ' ', r >= 0x7f && r < 0xa0,
		r == 0x061c, r == 0x200b, r == 0x200e, r == 0x200f,
		r >= 0x2028 && r <= 0x202e, r >= 0x2060 && r <= 0x206f, r == 0xfeff,
		r >= 0xfff9 && r <= 0xfffb, r >= 0xe0000 && r <= 0xe007f:
		return true
	}
	return false
}

// Writer returns a writer that cleans what goes to a terminal, line ends and tabs
// kept. A character that comes in two parts is held back until it is whole.
func Writer(out io.Writer) io.Writer { return &writer{out: out} }

type writer struct {
	out  io.Writer
	held []byte
}

func (w *writer) Write(data []byte) (int, error) {
	text := append(w.held, data...)
	whole := len(text)
	for back := 1; back < utf8.UTFMax && back <= len(text); back++ {
		if c := text[len(text)-back]; utf8.RuneStart(c) {
			if !utf8.FullRune(text[len(text)-back:]) {
				whole = len(text) - back
			}
			break
		}
	}
	if whole > 0 && text[whole-1] == '\r' {
		whole-- // it may be the first half of a line end
	}
	if _, err := io.WriteString(w.out, CleanLines(string(text[:whole]))); err != nil {
		return 0, err
	}
	w.held = append([]byte(nil), text[whole:]...)
	return len(data), nil
}
