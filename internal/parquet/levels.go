package parquet

import "encoding/binary"

// appendPacked appends numbers of so many bits as one run of the hybrid encoding of runs and packed
// bits; numbers that are all the same as a run of that one.
func appendPacked(to []byte, numbers []uint32, width int) []byte {
	if isOne(numbers) {
		to = binary.AppendUvarint(to, uint64(len(numbers))<<1)
		for shift := 0; shift < width; shift += 8 {
			to = append(to, byte(numbers[0]>>shift))
		}
		return to
	}
	groups := (len(numbers) + 7) / 8
	to = binary.AppendUvarint(to, uint64(groups)<<1|1)
	end := len(to) + groups*width
	var word uint64
	filled := 0
	for _, number := range numbers {
		word |= uint64(number) << filled
		if filled += width; filled >= 32 {
			to = binary.LittleEndian.AppendUint32(to, uint32(word))
			word >>= 32
			filled -= 32
		}
	}
	for ; len(to) < end; word >>= 8 {
		to = append(to, byte(word))
	}
	return to
}

func isOne(numbers []uint32) bool {
	for _, number := range numbers {
		if number != numbers[0] {
			return false
		}
	}
	return len(numbers) > 0
}

// appendLevels appends which of so many values are there, from a place in the bits of a vector on, with
// the size of that before it.
func appendLevels(to []byte, valid []uint64, from, count int) []byte {
	sized := len(to)
	to = append(to, 0, 0, 0, 0)
	if missing := missingIn(valid, from, count); missing == 0 || missing == count {
		to = binary.AppendUvarint(to, uint64(count)<<1)
		level := byte(1)
		if missing > 0 {
			level = 0
		}
		to = append(to, level)
	} else {
		groups := (count + 7) / 8
		to = binary.AppendUvarint(to, uint64(groups)<<1|1)
		for at := from; at < from+8*groups; at += 8 {
			var bits byte
			for i := range 8 {
				if at+i < from+count && isSet(valid, at+i) {
					bits |= 1 << i
				}
			}
			to = append(to, bits)
		}
	}
	binary.LittleEndian.PutUint32(to[sized:], uint32(len(to)-sized-4))
	return to
}

func isSet(valid []uint64, i int) bool { return i/64 >= len(valid) || valid[i/64]>>(i%64)&1 == 1 }

func missingIn(valid []uint64, from, count int) int {
	missing := 0
	if len(valid) == 0 {
		return 0
	}
	for i := from; i < from+count; i++ {
		if !isSet(valid, i) {
			missing++
		}
	}
	return missing
}
