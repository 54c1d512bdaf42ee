package parquet

import (
	"encoding/binary"
	"errors"
	"fmt"

	lib "github.com/parquet-go/parquet-go"
	"github.com/parquet-go/parquet-go/encoding/delta"
	"github.com/parquet-go/parquet-go/format"
)

// errCut is a page of differences that ends early.
var errCut = errors.New("a page of differences ends early")

// checkDeltas makes sure that a page of differences holds as many values at most as its header says, and texts as long as there are bytes:
// the library makes room for whatever number stands before the differences, and for whatever length they come to.
func (f *File) checkDeltas(header *format.PageHeader, c *column, codec format.CompressionCodec, at, count int64) error {
	encoding, levels := format.Plain, 0
	if data, ok := header.DataPageHeader.Get(); ok {
		encoding = data.Encoding
	}
	v2, isSecond := header.DataPageHeaderV2.Get()
	if isSecond {
		encoding, levels = v2.Encoding, int(v2.RepetitionLevelsByteLength+v2.DefinitionLevelsByteLength)
	}
	streams, isDelta := map[format.Encoding]int{format.DeltaBinaryPacked: 0, format.DeltaLengthByteArray: 1, format.DeltaByteArray: 2}[encoding]
	if !isDelta {
		return nil
	}
	page := make([]byte, header.CompressedPageSize)
	if _, err := f.at.ReadAt(page, at); err != nil {
		return err
	}
	if levels < 0 || levels > len(page) {
		return errCut
	}
	if page = page[levels:]; len(page) == 0 { // all of its values are missing
		return nil
	}
	if isPacked, isKnown := v2.IsCompressed.Get(); (!isSecond || isPacked || !isKnown) && codec != format.Uncompressed {
		var err error
		if page, err = lib.LookupCompressionCodec(codec).Decode(make([]byte, 0, header.UncompressedPageSize), page); err != nil {
			return err
		}
	}
	if !isSecond && c.present > 0 { // levels stand before the values, and before them how many bytes they take
		if len(page) < 4 {
			return errCut
		}
		size := binary.LittleEndian.Uint32(page)
		if page = page[4:]; int64(size) > int64(len(page)) {
			return errCut
		}
		if page = page[size:]; len(page) == 0 {
			return nil
		}
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
func skipDeltas(page []byte, count int64, isWanted bool) ([]byte, error) {
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
	if parts == 0 || head[0] < parts || head[0] > mostValues {
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
