package datetext

import (
	"encoding/binary"

	"roundyear/civil"
)

// knownDates are dates that a reader has read before, by their digits: a column mostly has few different ones. It is a small table without
// chains, of which each date has two places.
type knownDates struct {
	entries []knownDate
	// generation counts the layouts that the dates were read by; those of others do not hold.
	generation uint32
}

const (
	// knownBits is how many pairs of places there are, by the bits of their number.
	knownBits = 12
	// shortestKnown and longestKnown are how long the texts are that are kept: as two words that may overlap.
	shortestKnown, longestKnown = 8, 16
	// outcomeBits are those of an outcome in the mark of an entry.
	outcomeBits    = 4
	mostGeneration = 1<<(32-outcomeBits) - 1
)

// knownDate is a date from 1900 to 2100.
type knownDate struct {
	// digits are those of its text. What stands between them is the same in all texts of a layout.
	digits uint64
	// mark is the generation, and behind it how a tally counts the date.
	mark uint32
	day  civil.Day
}

func (d *knownDate) outcome() outcome { return outcome(d.mark & (1<<outcomeBits - 1)) }

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

// digitsOf packs the digits of a text that fits a layout, from its first and its last eight characters.
func digitsOf(text []byte) uint64 {
	const lowHalves = 0x0f0f0f0f0f0f0f0f
	return binary.LittleEndian.Uint64(text)&lowHalves | binary.LittleEndian.Uint64(text[len(text)-8:])&lowHalves<<4
}

// find returns the entry of a date that is known; nil if it is not.
func (k *knownDates) find(text []byte) *knownDate {
	if k.entries == nil || len(text) < shortestKnown || len(text) > longestKnown {
		return nil
	}
	digits := digitsOf(text)
	pair := k.pair(digits)
	for i := range pair {
		if pair[i].digits == digits && pair[i].mark>>outcomeBits == k.generation {
			return &pair[i]
		}
	}
	return nil
}

// pair returns the two places that a date may have.
func (k *knownDates) pair(digits uint64) []knownDate {
	at := digits * 0x9E3779B97F4A7C15 >> (64 - knownBits) * 2
	return k.entries[at : at+2]
}

// place returns the entry of a date that is known, or else one for it.
func (k *knownDates) place(text []byte) (entry *knownDate, isKnown bool) {
	if known := k.find(text); known != nil {
		return known, true
	}
	if len(text) < shortestKnown || len(text) > longestKnown {
		return nil, false
	}
	if k.entries == nil {
		k.entries, k.generation = make([]knownDate, 2<<knownBits), 1
	}
	digits := digitsOf(text)
	pair := k.pair(digits)
	if entry = &pair[0]; entry.mark>>outcomeBits == k.generation && pair[1].mark>>outcomeBits != k.generation {
		entry = &pair[1]
	}
	entry.digits, entry.mark = digits, 0 // until it is known
	return entry, false
}

// know fills an entry.
func (k *knownDates) know(entry *knownDate, year int, day civil.Day, what outcome) {
	if entry != nil && year >= 1900 && year <= 2100 {
		entry.mark, entry.day = k.generation<<outcomeBits|uint32(what), day
	}
}

// forget makes all dates unknown.
func (k *knownDates) forget() {
	if k.generation++; k.generation > mostGeneration {
		clear(k.entries)
		k.generation = 1
	}
}
