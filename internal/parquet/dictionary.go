package parquet

import (
	"hash/maphash"
	"math/bits"
)

// A dictionary of a column has at most so many values, of at most so many bytes in all.
const (
	maxEntries = 1 << 16
	maxBytes   = 1 << 20
)

// A column gets no dictionary if so many values are looked at, and more than so many of them are
// different.
const (
	triedValues  = 4096
	triedEntries = triedValues / 2
)

// dictionary numbers the different values of a column, in the order in which they come.
type dictionary[T int64 | string] struct {
	hash func(T) uint64
	// slots are numbers of entries by their hash, plus 1. There are a power of two of them.
	slots   []uint32
	hashes  []uint64
	entries []T
	bytes   int
}

// numbered returns the numbers of values in a dictionary of them. It is false for values of which too many
// are different, or none is there.
func numbered[T int64 | string](values []T, hash func(T) uint64, size func(T) int) (*dictionary[T], []uint32, bool) {
	d := &dictionary[T]{hash: hash, slots: make([]uint32, 1024)}
	numbers := make([]uint32, len(values))
	for i, value := range values {
		if i > 0 && value == values[i-1] {
			numbers[i] = numbers[i-1]
			continue
		}
		number, isNew := d.number(value)
		if numbers[i] = number; !isNew {
			continue
		}
		d.bytes += size(value)
		if len(d.entries) > maxEntries || d.bytes > maxBytes || i < triedValues && len(d.entries) > triedEntries {
			return nil, nil, false
		}
	}
	return d, numbers, len(values) > 0
}

// number returns the number of a value, and whether it is a new one.
func (d *dictionary[T]) number(value T) (number uint32, isNew bool) {
	hash := d.hash(value)
	mask := uint64(len(d.slots) - 1)
	at := hash & mask
	for ; d.slots[at] != 0; at = (at + 1) & mask {
		if i := d.slots[at] - 1; d.hashes[i] == hash && d.entries[i] == value {
			return i, false
		}
	}
	d.entries, d.hashes = append(d.entries, value), append(d.hashes, hash)
	d.slots[at] = uint32(len(d.entries))
	if len(d.entries)*2 > len(d.slots) {
		d.grow()
	}
	return uint32(len(d.entries) - 1), true
}

func (d *dictionary[T]) grow() {
	d.slots = make([]uint32, 4*len(d.slots))
	mask := uint64(len(d.slots) - 1)
	for i, hash := range d.hashes {
		at := hash & mask
		for d.slots[at] != 0 {
			at = (at + 1) & mask
		}
		d.slots[at] = uint32(i) + 1
	}
}

// width returns how many bits the numbers of the entries take.
func (d *dictionary[T]) width() int { return max(bits.Len(uint(len(d.entries)-1)), 1) }

var seed = maphash.MakeSeed()

func hashOfText(text string) uint64 { return maphash.String(seed, text) }

// hashOfInt spreads a number over 64 bits (the finalizer of MurmurHash3, which is in the public domain).
func hashOfInt(number int64) uint64 {
	h := uint64(number)
	h = (h ^ h>>33) * 0xff51afd7ed558ccd
	h = (h ^ h>>33) * 0xc4ceb9fe1a85ec53
	return h ^ h>>33
}
