package workbook

// texts are the texts that cells share, one after the other.
type texts struct {
	bytes   []byte
	offsets []uint32
}

// textsOf reads the texts that cells share. Readings of East Asian characters are left out. It is false for a part that is not
// well formed.
func textsOf(data []byte) (*texts, bool) {
	t := &texts{bytes: make([]byte, 0, len(data)/2), offsets: []uint32{0}}
	m := &markup{data: data}
	isReading := false
	for m.next() {
		switch {
		case m.is("rPh"):
			isReading = m.isStart && !m.isEnd
		case m.closes("t") && !m.isStart && !isReading:
			t.bytes = appendText(t.bytes, m.text)
		case m.closes("si"):
			t.offsets = append(t.offsets, uint32(len(t.bytes)))
		}
	}
	return t, m.isAtEnd()
}

// of returns a text by its place.
func (t *texts) of(place int) ([]byte, bool) {
	if place+1 >= len(t.offsets) {
		return nil, false
	}
	return t.bytes[t.offsets[place]:t.offsets[place+1]], true
}
