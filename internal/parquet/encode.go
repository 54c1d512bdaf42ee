package parquet

import (
	"encoding/binary"
	"errors"
	"hash/crc32"
	"sync"

	"github.com/klauspost/compress/zstd"
	"github.com/parquet-go/parquet-go/encoding/thrift"
	"github.com/parquet-go/parquet-go/format"

	"roundyear/fault"
	"roundyear/rows"
)

// pageRows is how many rows a page has; the last one of a row group has fewer.
const pageRows = 16 << 10

// encodedChunk is the pages of a column of a row group. Offsets in the metadata count from its own beginning.
type encodedChunk struct {
	pages         []byte
	metadata      format.ColumnMetaData
	hasDictionary bool
}

// encoder encodes a column of a row group.
type encoder struct {
	column rows.Column
	v      rows.Vector
	count  int
	chunk  encodedChunk
	// pages are those of the chunk before they are compressed.
	pages      []rawPage
	compressor *zstd.Encoder
	// least and most are the bounds of the values as they are stored, if they have any.
	least, most []byte
}

var compressors = sync.Pool{New: func() any {
	compressor, err := zstd.NewWriter(nil, zstd.WithEncoderLevel(zstd.SpeedFastest), zstd.WithEncoderConcurrency(1), zstd.WithEncoderCRC(false))
	if err != nil {
		panic(err) // the options are right
	}
	return compressor
}}

// encodeGroup encodes the rows of a row group. The first of them has a number in the file.
func encodeGroup(columns []rows.Column, blocks []rows.Block, first int) ([]encodedChunk, error) {
	compressor := compressors.Get().(*zstd.Encoder)
	defer compressors.Put(compressor)
	e := &encoder{compressor: compressor}
	chunks := make([]encodedChunk, len(columns))
	for i, column := range columns {
		e.column, e.chunk, e.pages, e.least, e.most = column, encodedChunk{}, nil, nil, nil
		e.v, e.count = rows.Joined(blocks, i)
		if err := e.encode(); err != nil {
			var bad *badValue
			if errors.As(err, &bad) {
				return nil, &fault.Fault{Line: first + bad.row, Column: column.Name, What: bad.what, Remedy: "Write the rows in another format", Kind: fault.Malformed}
			}
			return nil, err
		}
		chunks[i] = e.chunk
	}
	return chunks, nil
}

// badValue is the error of a value that cannot be stored, by its place.
type badValue struct {
	row  int
	what string
}

func (b *badValue) Error() string { return b.what }

// encode encodes the values of the column.
func (e *encoder) encode() error {
	m := &e.chunk.metadata
	*m = format.ColumnMetaData{Type: physical(e.column), PathInSchema: []string{e.column.Name}, NumValues: int64(e.count)}
	err := e.encodeValues()
	m.Statistics = format.Statistics{NullCount: int64(missingIn(e.v.Valid, 0, e.count)), MinValue: e.least, MaxValue: e.most}
	return err
}

func (e *encoder) encodeValues() error {
	switch physical(e.column) {
	case format.Boolean:
		return e.encodeBits()
	case format.ByteArray:
		return encodeValues(e, e.texts(), textKind)
	case format.FixedLenByteArray:
		values, err := e.wide()
		if err != nil {
			return err
		}
		return encodeValues(e, values, wideKind)
	}
	values, err := e.ints()
	switch {
	case err != nil:
		return err
	case physical(e.column) == format.Int32:
		return encodeValues(e, values, int32Kind)
	case physical(e.column) == format.Double:
		return encodeValues(e, values, doubleKind)
	}
	return encodeValues(e, values, int64Kind)
}

// encodeValues encodes values that are there, with a dictionary if few of them are different.
func encodeValues[T int64 | string](e *encoder, values []T, kind kind[T]) error {
	dictionary, numbers, ok := numbered(values, kind.hash, kind.size)
	if !ok {
		e.bound(kind.bounds(values))
		if kind.deltas != nil {
			return e.writePages(format.DeltaBinaryPacked, func(page []byte, from, to int) []byte { return kind.deltas(page, values[from:to]) })
		}
		return e.writePages(format.Plain, func(page []byte, from, to int) []byte {
			for _, value := range values[from:to] {
				page = kind.append(page, value)
			}
			return page
		})
	}
	e.bound(kind.bounds(dictionary.entries))
	var page []byte
	for _, value := range dictionary.entries {
		page = kind.append(page, value)
	}
	header := format.PageHeader{Type: format.DictionaryPage, DictionaryPageHeader: thrift.New(format.DictionaryPageHeader{NumValues: int32(len(dictionary.entries)), Encoding: format.Plain})}
	e.pages = append(e.pages, rawPage{header, page})
	e.chunk.hasDictionary = true
	width := dictionary.width()
	return e.writePages(format.RLEDictionary, func(page []byte, from, to int) []byte {
		return appendPacked(append(page, byte(width)), numbers[from:to], width)
	})
}

func (e *encoder) bound(least, most []byte) { e.least, e.most = least, most }

func (e *encoder) encodeBits() error {
	var numbers []uint32
	for i := range e.count {
		if e.v.IsValid(i) {
			numbers = append(numbers, uint32(e.v.Int[i]))
		}
	}
	return e.writePages(format.Plain, func(page []byte, from, to int) []byte {
		var bits byte
		for i, number := range numbers[from:to] {
			if bits |= byte(number << (i % 8)); i%8 == 7 {
				page, bits = append(page, bits), 0
			}
		}
		if (to-from)%8 > 0 {
			page = append(page, bits)
		}
		return page
	})
}

// writePages writes the rows page by page. The values that are there, from one to before another, are
// appended by values.
func (e *encoder) writePages(encoding format.Encoding, values func(page []byte, from, to int) []byte) error {
	m := &e.chunk.metadata
	m.Encoding = append(m.Encoding, format.RLE, encoding)
	if e.chunk.hasDictionary {
		m.Encoding = append(m.Encoding, format.Plain)
	}
	value := 0
	for from := 0; from < e.count; from += pageRows {
		count := min(pageRows, e.count-from)
		missing := missingIn(e.v.Valid, from, count)
		page := appendLevels(make([]byte, 0, 10*count), e.v.Valid, from, count)
		page = values(page, value, value+count-missing)
		value += count - missing
		header := format.PageHeader{Type: format.DataPage, DataPageHeader: thrift.New(format.DataPageHeader{
			NumValues: int32(count), Encoding: encoding, DefinitionLevelEncoding: format.RLE, RepetitionLevelEncoding: format.RLE,
			Statistics: format.Statistics{NullCount: int64(missing)},
		})}
		e.pages = append(e.pages, rawPage{header, page})
	}
	return e.finish()
}

// rawPage is a page that is not compressed.
type rawPage struct {
	header format.PageHeader
	body   []byte
}

// worthIt is to which share of its size compressing must bring a page down: packed bits seldom get
// smaller, and take less time to read as they are.
const worthIt = 0.9

// compressed returns a page as a Zstandard frame, and whether it became smaller: not every reader allows a
// column other ways of compressing in other row groups.
func (e *encoder) compressed(page []byte) ([]byte, bool) {
	packed := e.compressor.EncodeAll(page, make([]byte, 0, len(page)/2+64))
	if float64(len(packed)) > worthIt*float64(len(page)) {
		return frameOf(packed[:0], page), false
	}
	return packed, true
}

// maxRawBlock is how many bytes a block of a frame has at most.
const maxRawBlock = 128 << 10

// frameOf appends bytes as they are, as a Zstandard frame (RFC 8878, sections 3.1.1.1 and 3.1.1.2).
func frameOf(to, bytes []byte) []byte {
	to = append(to, 0x28, 0xB5, 0x2F, 0xFD, 0xA0) // one segment, with its size in four bytes
	to = binary.LittleEndian.AppendUint32(to, uint32(len(bytes)))
	for {
		block := bytes[:min(len(bytes), maxRawBlock)]
		bytes = bytes[len(block):]
		head := uint32(len(block)) << 3 // the type of raw blocks is 0
		if len(bytes) == 0 {
			head |= 1
		}
		to = append(to, byte(head), byte(head>>8), byte(head>>16))
		to = append(to, block...)
		if len(bytes) == 0 {
			return to
		}
	}
}

// finish writes the pages of the chunk behind their headers.
func (e *encoder) finish() error {
	m := &e.chunk.metadata
	m.Codec = format.Zstd
	isDense := false
	for i, page := range e.pages {
		if i == 0 || page.header.Type == format.DataPage && e.pages[i-1].header.Type != format.DataPage {
			m.DataPageOffset = int64(len(e.chunk.pages))
		}
		var packed []byte
		if isDense {
			packed = frameOf(nil, page.body)
		} else {
			var smaller bool
			packed, smaller = e.compressed(page.body)
			isDense = !smaller && page.header.Type == format.DataPage // and so are the pages after it
		}
		page.header.UncompressedPageSize, page.header.CompressedPageSize = int32(len(page.body)), int32(len(packed))
		page.header.CRC = int32(crc32.ChecksumIEEE(packed))
		described, err := thrift.Marshal(new(thrift.CompactProtocol), &page.header)
		if err != nil {
			return err
		}
		e.chunk.pages = append(append(e.chunk.pages, described...), packed...)
		m.TotalUncompressedSize += int64(len(described) + len(page.body))
	}
	m.TotalCompressedSize = int64(len(e.chunk.pages))
	return nil
}
