package datetext

import (
	"encoding/binary"

	"roundyear/civil"
)

// knownDates are dates that a reader has read before, by their texts: a column mostly has few different ones. It is a table without
// chains, of which each date has two places.
type knownDates struct {
	entries []knownDate
	// generation counts the layouts that the dates were read by; those of others do not hold.
	generation uint32
}

const (
	// knownBits is how many places there are, of two dates each, by the bits of their number.
	knownBits = 11
	// shortestKnown and longestKnown are how long the texts are that are kept, in two words that may overlap.
	shortestKnown, longestKnown = 8, 16
)

// knownDate is a date from 1900 to 2100.
type knownDate struct {
	low, high  uint64
	generation uint32
	day        civil.Day
	// outcome is how a tally counts it.
	outcome outcome
	length  uint8
}

// outcome is what a value shows: bit 0 and 1 for which of two candidates can read it, bit 2 that it is the same day for both.
type outcome uint8

// notCounted is the outcome of a date that no tally has counted.
const notCounted outcome = 8

func outcomeOf(read [2]bool, differ bool) outcome {
	var o outcome
	if read[0] {
		o |= 1
	}
	if read[1] {
		o |= 2
	}
	if !differ {
		o |= 4
	}
	return o
}

func (o outcome) reads(candidate int) bool { return o&(1<<candidate) != 0 }

// place returns the entry where a date is, if it is known, and whether it is.
func (k *knownDates) place(text []byte) (entry *knownDate, isKnown bool) {
	if len(text) < shortestKnown || len(text) > longestKnown {
		return nil, false
	}
	if k.entries == nil {
		k.entries, k.generation = make([]knownDate, 2<<knownBits), k.generation+1
	}
	low, high := binary.LittleEndian.Uint64(text), binary.LittleEndian.Uint64(text[len(text)-8:])
	at := (low*0x9E3779B97F4A7C15 ^ high*0xC2B2AE3D27D4EB4F) >> (64 - knownBits) * 2
	entry = &k.entries[at]
	if entry.is(low, high, len(text)) && entry.generation == k.generation {
		return entry, true
	}
	other := &k.entries[at+1]
	if other.is(low, high, len(text)) && other.generation == k.generation {
		return other, true
	}
	if entry.generation == k.generation && other.generation != k.generation {
		entry = other
	}
	entry.low, entry.high, entry.length, entry.generation = low, high, uint8(len(text)), 0 // until it is known
	return entry, false
}

// find returns the entry of a date that is known; nil if it is not.
func (k *knownDates) find(text []byte) *knownDate {
	if k.entries == nil || len(text) < shortestKnown || len(text) > longestKnown {
		return nil
	}
	low, high := binary.LittleEndian.Uint64(text), binary.LittleEndian.Uint64(text[len(text)-8:])
	at := (low*0x9E3779B97F4A7C15 ^ high*0xC2B2AE3D27D4EB4F) >> (64 - knownBits) * 2
	pair := k.entries[at : at+2]
	for i := range pair {
		if pair[i].is(low, high, len(text)) && pair[i].generation == k.generation {
			return &pair[i]
		}
	}
	return nil
}

func (d *knownDate) is(low, high uint64, length int) bool {
	return d.low == low && d.high == high && int(d.length) == length
}

// know fills an entry.
func (k *knownDates) know(entry *knownDate, year int, day civil.Day, what outcome) {
	if entry != nil && year >= 1900 && year <= 2100 {
		entry.generation, entry.day, entry.outcome = k.generation, day, what
	}
}

// forget makes all dates unknown.
func (k *knownDates) forget() { k.generation++ }
