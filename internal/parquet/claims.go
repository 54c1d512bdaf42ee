package parquet

import (
	"encoding/binary"
	"errors"
	"fmt"

	"github.com/parquet-go/parquet-go/encoding/delta"
	"github.com/parquet-go/parquet-go/format"
)

// errCut is a page that ends early.
var errCut = errors.New("a page ends early")

// checkDeltas makes sure that values that are differences are as many at most as are wanted, and texts as long as there are bytes: the library
// makes room for whatever number stands before the differences, and for whatever length they come to.
func checkDeltas(page []byte, encoded format.Encoding, count int) error {
	streams, isDelta := 0, true
	switch encoded {
	case format.DeltaBinaryPacked:
	case format.DeltaLengthByteArray:
		streams = 1
	case format.DeltaByteArray:
		streams = 2
	default:
		isDelta = false
	}
	if !isDelta {
		return nil
	}
	rest, err := skipDeltas(page, count, streams > 0)
	if err != nil || streams == 0 {
		return err
	}
	prefixes := []int32(nil)
	if streams == 2 {
		if prefixes, err = lengthsOf(page[:len(page)-len(rest)]); err != nil {
			return err
		}
		page = rest
		if rest, err = skipDeltas(page, count, true); err != nil {
			return err
		}
	}
	lengths, err := lengthsOf(page[:len(page)-len(rest)])
	if err != nil {
		return err
	}
	return checkLengths(prefixes, lengths, len(rest))
}

// lengthsOf decodes differences that are lengths.
func lengthsOf(page []byte) ([]int32, error) {
	decoded, err := new(delta.BinaryPackedEncoding).DecodeInt32(nil, page)
	return decoded, err
}

// checkLengths makes sure of how long texts are that lie in so many bytes, each without what it shares with the one before.
func checkLengths(prefixes, lengths []int32, size int) error {
	var before, all int64
	for i, length := range lengths {
		prefix := int64(0)
		if i < len(prefixes) {
			prefix = int64(prefixes[i])
		}
		if length < 0 || prefix < 0 || prefix > before || int64(length) > int64(size) {
			return fmt.Errorf("a text would begin with %d bytes of the one before and have %d more", prefix, length)
		}
		size -= int(length)
		before = prefix + int64(length)
		if all += before; all > maxPage {
			return fmt.Errorf("the texts of a page would have more than %d MB", maxPage>>20)
		}
	}
	return nil
}

// skipDeltas reads how many differences follow, and what is behind them if that is wanted.
func skipDeltas(page []byte, count int, isWanted bool) ([]byte, error) {
	var head [3]uint64 // values of a block, parts of a block, values
	var size int
	for i := range head {
		if head[i], size = binary.Uvarint(page); size <= 0 {
			return nil, errCut
		}
		page = page[size:]
	}
	if head[2] > uint64(count) {
		return nil, fmt.Errorf("a page of %d values would have %d differences", count, head[2])
	}
	if _, size = binary.Varint(page); size <= 0 {
		return nil, errCut
	}
	page = page[size:]
	if !isWanted {
		return page, nil
	}
	parts := head[1]
	if parts == 0 || head[0] < parts || head[0] > maxValues {
		return nil, errCut
	}
	for left := int64(head[2]) - 1; left > 0; {
		if _, size = binary.Varint(page); size <= 0 || uint64(len(page)-size) < parts {
			return nil, errCut
		}
		widths := page[size : size+int(parts)]
		page = page[size+int(parts):]
		for _, width := range widths {
			bytes := head[0] / parts * uint64(width) / 8
			if bytes > uint64(len(page)) {
				return nil, errCut
			}
			page = page[bytes:]
			if left -= int64(head[0] / parts); left <= 0 {
				break
			}
		}
	}
	return page, nil
}
