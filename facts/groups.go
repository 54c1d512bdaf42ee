package facts

import (
	"bytes"
	"encoding/binary"
	"hash/maphash"
	"math/bits"
)

// groupTable numbers the combinations of group values, from 0 in the order in which they
// come. It is an open table of hashed bytes: a combination that is known costs a hash and
// a comparison.
type groupTable struct {
	seed maphash.Seed
	// slots are numbers of groups plus 1, by hash; 0 is free.
	slots []uint32
	// keys are the combinations one after the other, each value behind its length; ends
	// are their ends.
	keys   []byte
	ends   []int
	hashes []uint64
	// key is the combination that is looked up.
	key []byte
	// recent are combinations of short values that were looked up, by a cheap hash.
	recent [1 << recentBits]recentGroup
}

// recentBits is how many combinations are found again without the table: so many that
// those of a few shops and departments fit, so few that they stay in the cache.
const recentBits = 12

// recentGroup is a combination in two words, and its number plus 1; 0 for none.
type recentGroup struct {
	low, high uint64
	number    uint32
}

func newGroupTable() *groupTable {
	return &groupTable{seed: maphash.MakeSeed(), slots: make([]uint32, 64)}
}

// number returns the number of a combination of values, which is new if it was not
// there before.
func (t *groupTable) number(values [][]byte) (group int, isNew bool) {
	low, high, fits := inWords(values)
	if !fits {
		return t.numberOf(t.encode(values))
	}
	recent := &t.recent[(low*0x9E3779B97F4A7C15^high*0xC2B2AE3D27D4EB4F)>>(64-recentBits)]
	if recent.number > 0 && recent.low == low && recent.high == high {
		return int(recent.number - 1), false
	}
	group, isNew = t.numberOf(t.encode(values))
	*recent = recentGroup{low, high, uint32(group + 1)}
	return group, isNew
}

// encode returns a combination as the table keeps it.
func (t *groupTable) encode(values [][]byte) []byte {
	t.key = t.key[:0]
	for _, value := range values {
		t.key = binary.AppendUvarint(t.key, uint64(len(value)))
		t.key = append(t.key, value...)
	}
	return t.key
}

// inWords packs up to two values of up to seven bytes, each with its length in the last
// byte of its word. It is false for other combinations.
func inWords(values [][]byte) (low, high uint64, fits bool) {
	switch len(values) {
	case 0:
		return 0, 0, true
	case 1:
		low, fits = inWord(values[0])
		return low, 0, fits
	case 2:
		var also bool
		low, fits = inWord(values[0])
		high, also = inWord(values[1])
		return low, high, fits && also
	}
	return 0, 0, false
}

func inWord(value []byte) (uint64, bool) {
	length := len(value)
	if length > 7 {
		return 0, false
	}
	length8 := uint64(length) << 56
	if cap(value) >= 8 {
		// The bytes behind the value, which are those of the line, are cut off.
		return binary.LittleEndian.Uint64(value[:8])&(1<<(8*length)-1) | length8, true
	}
	word := length8
	for i, c := range value {
		word |= uint64(c) << (8 * i)
	}
	return word, true
}

func (t *groupTable) numberOf(key []byte) (group int, isNew bool) {
	hash := maphash.Bytes(t.seed, key)
	slot := t.find(hash, key)
	if known := t.slots[slot]; known > 0 {
		return int(known - 1), false
	}
	if len(t.ends) >= len(t.slots)/2 {
		t.double()
		slot = t.find(hash, key)
	}
	t.keys = append(t.keys, key...)
	t.ends, t.hashes = append(t.ends, len(t.keys)), append(t.hashes, hash)
	t.slots[slot] = uint32(len(t.ends))
	return len(t.ends) - 1, true
}

// find returns the slot of a key, or the free one where it belongs.
func (t *groupTable) find(hash uint64, key []byte) int {
	mask := len(t.slots) - 1
	for slot := int(hash) & mask; ; slot = (slot + 1) & mask {
		known := t.slots[slot]
		if known == 0 || t.hashes[known-1] == hash && bytes.Equal(t.keyOf(int(known-1)), key) {
			return slot
		}
	}
}

func (t *groupTable) double() {
	t.slots = make([]uint32, 2*len(t.slots))
	mask := len(t.slots) - 1
	for group, hash := range t.hashes {
		slot := int(hash) & mask
		for t.slots[slot] != 0 {
			slot = (slot + 1) & mask
		}
		t.slots[slot] = uint32(group + 1)
	}
}

func (t *groupTable) len() int { return len(t.ends) }

func (t *groupTable) keyOf(group int) []byte {
	start := 0
	if group > 0 {
		start = t.ends[group-1]
	}
	return t.keys[start:t.ends[group]]
}

// values returns the values of a group.
func (t *groupTable) values(group int) (values []string) {
	for key := t.keyOf(group); len(key) > 0; {
		length, width := binary.Uvarint(key)
		values = append(values, string(key[width:width+int(length)]))
		key = key[width+int(length):]
	}
	return values
}

// all returns the values of all groups, of so many columns, in memory that they share.
func (t *groupTable) all(columns int) [][]string {
	keys := string(t.keys)
	shared := make([]string, 0, len(t.ends)*columns)
	groups := make([][]string, len(t.ends))
	at := 0
	for group, end := range t.ends {
		from := len(shared)
		for at < end {
			length, width := binary.Uvarint(t.keys[at:end])
			at += width
			shared = append(shared, keys[at:at+int(length)])
			at += int(length)
		}
		groups[group] = shared[from:len(shared):len(shared)]
	}
	return groups
}

// noPage is a page without a fact.
const noPage = ^uint32(0)

// pageList is the pages of one group: the first cell of each run of periods.
type pageList struct {
	// base is the number of the first page; pages are noPage where there are no facts.
	base  int
	pages []uint32
}

// page returns the first cell of a page, or noPage.
func (l *pageList) page(number int) uint32 {
	if at := number - l.base; at >= 0 && at < len(l.pages) {
		return l.pages[at]
	}
	return noPage
}

// set notes the first cell of a page.
func (l *pageList) set(number int, cell uint32) {
	if len(l.pages) == 0 {
		l.base = number
	}
	if missing := l.base - number; missing > 0 {
		// Facts that go back in time should not move the list at each of them.
		missing = max(missing, min(len(l.pages), 1<<bits.Len(uint(missing))))
		l.pages = append(make([]uint32, missing, missing+len(l.pages)), l.pages...)
		for i := range missing {
			l.pages[i] = noPage
		}
		l.base -= missing
	}
	for len(l.pages) <= number-l.base {
		l.pages = append(l.pages, noPage)
	}
	l.pages[number-l.base] = cell
}
