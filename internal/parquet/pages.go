package parquet

import (
	"bufio"
	"fmt"
	"io"

	"github.com/parquet-go/parquet-go/encoding/thrift"
	"github.com/parquet-go/parquet-go/format"
)

// maxPage is how many bytes a page has at most when it is decompressed.
const maxPage = 512 << 20

// mostValues is how many values a page has at most. Writers make pages of some thousand rows.
const mostValues = 32 << 20

// checkPages walks through the headers of the pages of a chunk and returns an error for one that does not fit
// into it: the library makes room for whatever size a header says, before it looks at the page.
func (f *File) checkPages(group int, c *column) error {
	m := &f.file.Metadata().RowGroups[group].Columns[c.place].MetaData
	at := m.DataPageOffset
	if m.DictionaryPageOffset > 0 && m.DictionaryPageOffset < at {
		at = m.DictionaryPageOffset
	}
	end := at + m.TotalCompressedSize
	if at < 0 || end < at || end > f.at.Size() {
		return fmt.Errorf("its values would lie from byte %d to %d", at, end)
	}
	values := m.NumValues
	buffered := bufio.NewReaderSize(nil, 512)
	var protocol thrift.CompactProtocol
	for at < end && values > 0 {
		section := io.NewSectionReader(f.at, at, end-at)
		buffered.Reset(section)
		var header format.PageHeader
		if err := thrift.NewDecoder(protocol.NewReader(buffered)).Decode(&header); err != nil {
			return err
		}
		read, err := section.Seek(0, io.SeekCurrent)
		if err != nil {
			return err
		}
		at += read - int64(buffered.Buffered())
		if header.CompressedPageSize < 0 || at+int64(header.CompressedPageSize) > end {
			return fmt.Errorf("a page would end at byte %d, but all of them end at %d", at+int64(header.CompressedPageSize), end)
		}
		if size := int64(header.UncompressedPageSize); size < 0 || size > maxPage || size > m.TotalUncompressedSize+int64(header.CompressedPageSize) {
			return fmt.Errorf("a page would have %d bytes, and all of them %d", size, m.TotalUncompressedSize)
		}
		count := int64(0)
		if data, ok := header.DataPageHeader.Get(); ok {
			count = int64(data.NumValues)
		}
		if data, ok := header.DataPageHeaderV2.Get(); ok {
			count = int64(data.NumValues)
		}
		if count < 0 || count > mostValues {
			return fmt.Errorf("a page would have %d values; at most %d are read", count, mostValues)
		}
		if values -= count; values < 0 {
			return fmt.Errorf("its pages have more than the %d values of the column", m.NumValues)
		}
		if err := f.checkDeltas(&header, c, m.Codec, at, count); err != nil {
			return err
		}
		at += int64(header.CompressedPageSize)
	}
	return nil
}
