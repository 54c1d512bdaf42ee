package input

import (
	"errors"
	"io"
	"unicode/utf8"
)

// IsUTF8 tells whether the content is text in UTF-8 that has characters beyond ASCII, so that it can be in no other encoding of bytes but by
// a very rare chance. It reads up to the first byte that is none.
func (c *Content) IsUTF8() (bool, error) {
	opened, err := c.Open()
	if err != nil {
		return false, err
	}
	defer func() { _ = opened.Close() }()
	buffer, held, isBeyond := make([]byte, 256<<10), 0, false
	for {
		n, err := opened.Read(buffer[held:])
		if err != nil && !errors.Is(err, io.EOF) {
			return false, c.CannotRead(err)
		}
		isOver := err != nil
		text := buffer[:held+n]
		whole := len(text)
		for back := 1; !isOver && back < utf8.UTFMax && back <= len(text); back++ {
			if start := len(text) - back; utf8.RuneStart(text[start]) {
				if !utf8.FullRune(text[start:]) {
					whole = start
				}
				break
			}
		}
		if !utf8.Valid(text[:whole]) {
			return false, nil
		}
		isBeyond = isBeyond || utf8.RuneCount(text[:whole]) < whole
		if isOver {
			return isBeyond, nil
		}
		held = copy(buffer, text[whole:])
	}
}
