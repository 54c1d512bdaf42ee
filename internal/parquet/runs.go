package parquet

import (
	"encoding/binary"
	"fmt"
	"math/bits"
	"slices"
)

// run is one of the hybrid encoding of runs and packed bits: the same number many times, or groups of eight packed numbers.
type run struct {
	count    int
	isPacked bool
	// bytes are those of the number, or of the packed ones.
	bytes []byte
}

// nextRun reads a run of numbers of so many bits, of which so many are still wanted, and returns what is behind it.
func nextRun(from []byte, width, wanted int) (run, []byte, error) {
	head, size := binary.Uvarint(from)
	if size <= 0 {
		return run{}, nil, errCut
	}
	from = from[size:]
	own := run{isPacked: head&1 == 1}
	head >>= 1
	length := uint64((width + 7) / 8)
	if own.isPacked {
		if head > maxValues/8 {
			return run{}, nil, errCut
		}
		head, length = 8*head, head*uint64(width)
	}
	if length > uint64(len(from)) {
		return run{}, nil, errCut
	}
	if !own.isPacked && head > uint64(wanted) {
		return run{}, nil, fmt.Errorf("a page would have %d values more than the %d that are left", head-uint64(wanted), wanted)
	}
	own.count, own.bytes = int(head), from[:length]
	return own, from[length:], nil
}

// runsEnd returns where the runs end that hold so many numbers.
func runsEnd(from []byte, width, count int) (end int, err error) {
	rest := from
	for left := count; left > 0; {
		var one run
		if one, rest, err = nextRun(rest, width, left); err != nil {
			return 0, err
		}
		left -= one.count
	}
	return len(from) - len(rest), nil
}

// truths returns truth values in runs as bits, eight to a byte, since the library reads runs that do not end at a byte as something else.
func (p *pages) truths(page []byte, count int) ([]byte, error) {
	if len(page) < 4 || uint64(binary.LittleEndian.Uint32(page)) > uint64(len(page)-4) {
		return nil, errCut
	}
	all, err := unpackRuns(nil, page[4:4+binary.LittleEndian.Uint32(page)], 1, count)
	if err != nil {
		return nil, err
	}
	packed := make([]byte, (count+7)/8)
	for i, one := range all {
		packed[i/8] |= one & 1 << (i % 8)
	}
	return packed, nil
}

// spread are the bits of a byte as eight bytes.
var spread = func() (all [256][8]byte) {
	for b := range all {
		for i := range 8 {
			all[b][i] = byte(b >> i & 1)
		}
	}
	return all
}()

// unpackRuns returns so many numbers of up to eight bits, each as a byte, in room that there may be for them.
func unpackRuns(room, from []byte, width, count int) (_ []byte, err error) {
	to := slices.Grow(room[:0], count+8)
	for len(to) < count {
		var one run
		if one, from, err = nextRun(from, width, count-len(to)); err != nil {
			return nil, err
		}
		begin := len(to)
		to = to[:min(begin+one.count, count)]
		own := to[begin:]
		switch {
		case !one.isPacked:
			for i := range own {
				own[i] = one.bytes[0]
			}
		case width == 1:
			for i, b := range one.bytes {
				if 8*i >= len(own) {
					break
				}
				copy(own[8*i:], spread[b][:])
			}
		default:
			for i := range own {
				at := i * width
				word := uint16(one.bytes[at/8])
				if at/8+1 < len(one.bytes) {
					word |= uint16(one.bytes[at/8+1]) << 8
				}
				own[i] = byte(word>>(at%8)) & (1<<width - 1)
			}
		}
	}
	return to, nil
}

// readLevels reads the levels of so many rows, and returns how many of these have a value. It returns none if all have.
func (p *pages) readLevels(from []byte, count int) (levels []byte, present int, err error) {
	if p.levels, err = unpackRuns(p.levels, from, bits.Len8(p.column.present), count); err != nil {
		return nil, 0, err
	}
	for _, level := range p.levels {
		switch {
		case level == p.column.present:
			present++
		case level > p.column.present:
			return nil, 0, fmt.Errorf("a page has the level %d, and the column %d", level, p.column.present)
		}
	}
	if present == count {
		return nil, present, nil
	}
	return p.levels, present, nil
}
