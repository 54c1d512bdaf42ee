package parquet

import (
	"encoding/binary"
	"math/bits"
)

// Blocks of differences, and the parts of them whose numbers have the same width, as most writers have them.
const (
	deltaBlock = 128
	deltaParts = 4
	deltaPart  = deltaBlock / deltaParts
)

// appendDeltas appends numbers as differences in the fewest bits for each few of them
// (DELTA_BINARY_PACKED).
func appendDeltas(to []byte, values []int64) []byte {
	to = binary.AppendUvarint(to, deltaBlock)
	to = binary.AppendUvarint(to, deltaParts)
	to = binary.AppendUvarint(to, uint64(len(values)))
	if len(values) == 0 {
		return binary.AppendVarint(to, 0)
	}
	to = binary.AppendVarint(to, values[0])
	var deltas [deltaBlock]int64
	for from := 1; from < len(values); from += deltaBlock {
		count := min(deltaBlock, len(values)-from)
		least := values[from] - values[from-1]
		for i := range count {
			deltas[i] = values[from+i] - values[from+i-1] // what does not fit wraps around, and back
			least = min(least, deltas[i])
		}
		to = binary.AppendVarint(to, least)
		widths := len(to)
		to = append(to, 0, 0, 0, 0)
		for part := range deltaParts {
			if part*deltaPart >= count {
				break
			}
			own := deltas[part*deltaPart : (part+1)*deltaPart]
			used := min(deltaPart, count-part*deltaPart)
			var all uint64
			for i := range own {
				if i < used {
					own[i] -= least
				} else {
					own[i] = 0
				}
				all |= uint64(own[i])
			}
			to[widths+part] = byte(bits.Len64(all))
			to = appendBits(to, own, bits.Len64(all))
		}
	}
	return to
}

// appendBits appends numbers of so many bits, of which there are a multiple of eight.
func appendBits(to []byte, numbers []int64, width int) []byte {
	var word uint64
	filled := 0
	for _, number := range numbers {
		word |= uint64(number) << filled
		if filled+width < 64 {
			filled += width
			continue
		}
		to = binary.LittleEndian.AppendUint64(to, word)
		word = uint64(number) >> (64 - filled) // nothing if it was full to the last bit
		filled += width - 64
	}
	for ; filled > 0; filled -= 8 {
		to = append(to, byte(word))
		word >>= 8
	}
	return to
}
