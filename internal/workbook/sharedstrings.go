package workbook

import (
	"errors"
	"fmt"
)

// texts are the texts that cells share, one after the other.
type texts struct {
	bytes   []byte
	offsets []uint32
}

// textsOf reads the texts that cells share. Readings of East Asian characters are left out. A part that is not well
// formed is an error, as is a text that no cell can hold.
func textsOf(data []byte) (*texts, error) {
	t := &texts{bytes: make([]byte, 0, len(data)/2), offsets: []uint32{0}}
	m := &markup{data: data}
	isReading, size := false, 0
	for m.next() {
		if size += len(m.text); size > maxCell {
			return nil, fmt.Errorf("one of its texts is longer than %d KB", maxCell>>10)
		}
		switch {
		case m.is("rPh"):
			isReading = m.isStart && !m.isEnd
		case m.closes("t") && !m.isStart && !isReading:
			t.bytes = appendText(t.bytes, m.text)
		case m.closes("si"):
			size = 0
			t.offsets = append(t.offsets, uint32(len(t.bytes)))
		}
	}
	if !m.isAtEnd() {
		return nil, errors.New("a tag of its texts does not end")
	}
	return t, nil
}

// of returns a text by its place.
func (t *texts) of(place int) ([]byte, bool) {
	if place+1 >= len(t.offsets) {
		return nil, false
	}
	return t.bytes[t.offsets[place]:t.offsets[place+1]], true
}
