package parquet

import (
	"bufio"
	"encoding/binary"
	"errors"
	"fmt"
	"hash/crc32"
	"io"

	lib "github.com/parquet-go/parquet-go"
	"github.com/parquet-go/parquet-go/encoding"
	"github.com/parquet-go/parquet-go/encoding/rle"
	"github.com/parquet-go/parquet-go/encoding/thrift"
	"github.com/parquet-go/parquet-go/format"
)

// The most bytes and values of a page. Writers make pages of about a megabyte and some thousand rows.
const (
	maxPage   = 512 << 20
	maxValues = 32 << 20
)

// oldDictionary is how old writers say that a page is one of a dictionary, or of places in it.
const oldDictionary format.Encoding = 2

// pages are the pages of a chunk on their way. The library has the encodings; which page says what, and how many values there are of it, is
// looked at here, since the library makes room for whatever a page claims.
type pages struct {
	column *column
	codec  format.CompressionCodec
	in     *bufio.Reader
	// left is how many bytes are left of the chunk, and values how many values; most is how many bytes all pages have without compression.
	left, values, most int64
	entries            *entries
	// packed, plain, levels, codes and data are room that pages share.
	packed, plain, levels, data []byte
	offsets                     []uint32
	codes                       []int32
}

// page is a page of values.
type page struct {
	rows int
	// levels say which rows have a value: those with the level of the column; nil if all have.
	levels []byte
	// entries are those that codes are places in; nil for a page with values of its own.
	entries *entries
	codes   []int32
	values  encoding.Values
}

// entries are the values of a dictionary.
type entries struct {
	values encoding.Values
	count  int
}

// openPages returns the pages of the chunk of a column in a row group.
func (f *File) openPages(group int, c *column) (*pages, error) {
	m := &f.file.Metadata().RowGroups[group].Columns[c.place].MetaData
	at := m.DataPageOffset
	if m.DictionaryPageOffset > 0 && m.DictionaryPageOffset < at {
		at = m.DictionaryPageOffset
	}
	end := at + m.TotalCompressedSize
	if at < 0 || end < at || end > f.at.Size() {
		return nil, fmt.Errorf("its values would lie from byte %d to %d", at, end)
	}
	return &pages{column: c, codec: m.Codec, in: bufio.NewReaderSize(io.NewSectionReader(f.at, at, end-at), readAhead),
		left: end - at, values: m.NumValues, most: m.TotalUncompressedSize}, nil
}

// readAhead is how much is read at a time to find the header of a page.
const readAhead = 4 << 10

// next returns the next page of values, which is good until the next call. The error is io.EOF if there is none.
func (p *pages) next() (*page, error) {
	var protocol thrift.CompactProtocol
	for p.values > 0 && p.left > 0 {
		var header format.PageHeader
		counted := &countedReader{in: p.in}
		if err := thrift.NewDecoder(protocol.NewReader(counted)).Decode(&header); err != nil {
			return nil, err
		}
		p.left -= counted.count
		if err := p.read(&header); err != nil {
			return nil, err
		}
		switch header.Type {
		case format.DictionaryPage:
			if err := p.readEntries(&header); err != nil {
				return nil, err
			}
		case format.DataPage, format.DataPageV2:
			return p.readPage(&header)
		}
	}
	return nil, io.EOF
}

// countedReader counts the bytes of a header.
type countedReader struct {
	in    *bufio.Reader
	count int64
}

func (c *countedReader) Read(to []byte) (int, error) {
	n, err := c.in.Read(to)
	c.count += int64(n)
	return n, err
}

// ReadByte reads a byte.
func (c *countedReader) ReadByte() (byte, error) {
	b, err := c.in.ReadByte()
	if err == nil {
		c.count++
	}
	return b, err
}

// read reads the bytes of a page as they are stored.
func (p *pages) read(header *format.PageHeader) error {
	size := int64(header.CompressedPageSize)
	if size < 0 || size > p.left {
		return fmt.Errorf("a page would have %d bytes, and all that are left %d", size, p.left)
	}
	if plain := int64(header.UncompressedPageSize); plain < 0 || plain > maxPage || plain > p.most+size {
		return fmt.Errorf("a page would have %d bytes, and all of them %d", plain, p.most)
	}
	p.left -= size
	if int64(cap(p.packed)) < size {
		p.packed = make([]byte, size)
	}
	p.packed = p.packed[:size]
	if _, err := io.ReadFull(p.in, p.packed); err != nil {
		return err
	}
	if header.CRC != 0 && uint32(header.CRC) != crc32.ChecksumIEEE(p.packed) {
		return fmt.Errorf("a page is not the one of its checksum %08x", uint32(header.CRC))
	}
	return nil
}

// unpack decompresses bytes of a page.
func (p *pages) unpack(packed []byte, size int) (plain []byte, err error) {
	if p.codec == format.Uncompressed || len(packed) == 0 {
		return packed, nil
	}
	if cap(p.plain) < size {
		p.plain = make([]byte, 0, size+unpackedPadding)
	}
	if plain, err = lib.LookupCompressionCodec(p.codec).Decode(p.plain[:0], packed); err != nil {
		return nil, err
	}
	p.plain = plain
	return plain, nil
}

// unpackedPadding is what the library wants behind packed numbers, so as not to copy them.
const unpackedPadding = 64

// readEntries reads a dictionary.
func (p *pages) readEntries(header *format.PageHeader) error {
	own, ok := header.DictionaryPageHeader.Get()
	if p.entries != nil {
		return errors.New("a column has two dictionaries")
	}
	if !ok || own.NumValues < 0 || own.NumValues > maxValues {
		return fmt.Errorf("a dictionary would have %d values", own.NumValues)
	}
	plain, err := p.unpack(p.packed, int(header.UncompressedPageSize))
	if err != nil {
		return err
	}
	if own.Encoding == oldDictionary {
		own.Encoding = format.Plain
	}
	values, err := p.decode(nil, nil, plain, own.Encoding, int(own.NumValues))
	if err != nil {
		return err
	}
	p.entries = &entries{values, int(own.NumValues)}
	return nil
}

// readPage reads a page of values.
func (p *pages) readPage(header *format.PageHeader) (*page, error) {
	var count int32
	var encoded format.Encoding
	var levels, plain []byte
	first, isFirst := header.DataPageHeader.Get()
	second, isSecond := header.DataPageHeaderV2.Get()
	var err error
	switch {
	case isSecond:
		count, encoded = second.NumValues, second.Encoding
		before, size := int64(second.RepetitionLevelsByteLength), int64(second.DefinitionLevelsByteLength)
		if before < 0 || size < 0 || before+size > int64(len(p.packed)) {
			return nil, errCut
		}
		levels, plain = p.packed[before:before+size], p.packed[before+size:]
		if isPacked, isKnown := second.IsCompressed.Get(); isPacked || !isKnown {
			plain, err = p.unpack(plain, max(int(int64(header.UncompressedPageSize)-before-size), 0))
		}
	case isFirst:
		count, encoded = first.NumValues, first.Encoding
		if plain, err = p.unpack(p.packed, int(header.UncompressedPageSize)); err != nil || p.column.present == 0 {
			break
		}
		if first.DefinitionLevelEncoding != format.RLE {
			return nil, fmt.Errorf("its levels are encoded with %s, which is not read", first.DefinitionLevelEncoding)
		}
		if len(plain) < 4 || uint64(binary.LittleEndian.Uint32(plain)) > uint64(len(plain)-4) {
			return nil, errCut
		}
		size := binary.LittleEndian.Uint32(plain)
		levels, plain = plain[4:4+size], plain[4+size:]
	default:
		return nil, errors.New("a page has no header of its values")
	}
	switch {
	case err != nil:
		return nil, err
	case count < 0 || count > maxValues:
		return nil, fmt.Errorf("a page would have %d values; at most %d are read", count, maxValues)
	case int64(count) > p.values:
		return nil, errors.New("its pages have more than the values of the column")
	}
	p.values -= int64(count)
	own := &page{rows: int(count)}
	present := own.rows
	if p.column.present > 0 {
		if own.levels, present, err = p.readLevels(levels, own.rows); err != nil {
			return nil, err
		}
	}
	if encoded == format.RLEDictionary || encoded == oldDictionary {
		if p.entries == nil {
			return nil, errors.New("a page has no dictionary")
		}
		own.entries = p.entries
		own.codes, err = p.readCodes(plain, present)
		return own, err
	}
	if own.values, err = p.decode(p.data, p.offsets, plain, encoded, present); err != nil {
		return nil, err
	}
	if encoded == format.Plain || encoded == format.DeltaBinaryPacked {
		p.data, p.offsets = own.values.Data() // room for the next page; other encodings may share the bytes of this one
	}
	return own, nil
}

// readCodes reads places in the dictionary.
func (p *pages) readCodes(plain []byte, count int) ([]int32, error) {
	if count == 0 {
		return nil, nil
	}
	if len(plain) == 0 || plain[0] > 32 {
		return nil, errCut
	}
	end, err := runsEnd(plain[1:], int(plain[0]), count)
	if err != nil {
		return nil, err
	}
	if p.codes, err = new(rle.DictionaryEncoding).DecodeInt32(p.codes[:0], plain[:1+end]); err != nil {
		return nil, err
	}
	if len(p.codes) < count {
		return nil, errCut
	}
	return p.codes[:count], nil
}

// decode decodes so many values into room that there may be for them.
func (p *pages) decode(room []byte, offsets []uint32, plain []byte, encoded format.Encoding, count int) (encoding.Values, error) {
	typ := p.column.typ
	if count == 0 {
		return typ.NewValues(nil, []uint32{0}), nil
	}
	if err := checkDeltas(plain, encoded, count); err != nil {
		return encoding.Values{}, err
	}
	if typ.Kind() == lib.Boolean && encoded == format.RLE {
		packed, err := p.truths(plain, count)
		return encoding.BooleanValues(packed), err
	}
	values, err := typ.Decode(typ.NewValues(room[:0], offsets[:0]), plain, lib.LookupEncoding(encoded))
	if err != nil {
		return values, err
	}
	if has := countOf(values, count); has != count {
		return values, fmt.Errorf("a page has %d values in place of %d", has, count)
	}
	return values, nil
}

// countOf returns how many values there are; truth values, of which eight share a byte, are as many as wanted if they can be.
func countOf(values encoding.Values, wanted int) int {
	data, offsets := values.Data()
	switch values.Kind() {
	case encoding.Boolean:
		if wanted <= 8*len(data) {
			return wanted
		}
		return 8 * len(data)
	case encoding.ByteArray:
		return len(offsets) - 1
	case encoding.FixedLenByteArray:
		_, size := values.FixedLenByteArray()
		return len(data) / max(size, 1)
	case encoding.Int32, encoding.Float:
		return len(data) / 4
	case encoding.Int96:
		return len(data) / 12
	}
	return len(data) / 8
}
