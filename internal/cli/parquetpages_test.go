package cli

import (
	"bytes"
	"encoding/binary"
	"io"
	"strings"
	"time"

	lib "github.com/parquet-go/parquet-go"
	"github.com/parquet-go/parquet-go/encoding/thrift"
	"github.com/parquet-go/parquet-go/format"
)

// encodedRow is a row of a Parquet file whose columns have one encoding each.
type encodedRow struct {
	Sold   time.Time `parquet:"sold,timestamp(millisecond)"`
	Day    int32     `parquet:"day,date,delta"`
	Shop   string    `parquet:"shop,dict"`
	Note   string    `parquet:"note,delta"`
	Text   string    `parquet:"text,optional"`
	N      int64     `parquet:"n,optional,delta"`
	Amount int64     `parquet:"amount,decimal(2:18),dict"`
	Rate   *float64  `parquet:"rate,optional"`
	Yes    bool      `parquet:"yes"`
}

// inEncodings is a Parquet file with pages of a version in many encodings, compressed.
func inEncodings(version int) string {
	var all []encodedRow
	for i := range int64(60) {
		one := encodedRow{Sold: time.Unix(1767225600+i*40_000, 0).UTC(), Day: int32(20454 + i), Shop: []string{"Kil", "Var", "a"}[i%3], Note: "note " + strings.Repeat("x", int(i%4)), Text: strings.Repeat("t", int(i%3)), Amount: i * 111, Yes: i%2 > 0}
		if i%7 > 0 {
			rate := float64(i) / 8
			one.N, one.Rate = i*i, &rate
		}
		all = append(all, one)
	}
	var out bytes.Buffer
	w := lib.NewGenericWriter[encodedRow](&out, lib.DataPageVersion(version), lib.Compression(&lib.Snappy), lib.PageBufferSize(300), lib.MaxRowsPerRowGroup(40))
	_, _ = w.Write(all)
	_ = w.Close()
	return out.String()
}

// betweenPages stands between the pages of a Parquet file that is unpacked. A change that removes it makes two pages one.
const betweenPages = "\x00\xfe|page|\xfe\x00"

// pagesOf returns the pages of a Parquet file as they are before they are compressed, one behind the other.
func pagesOf(file string) string {
	var pages []string
	eachPage(file, func(_ *format.PageHeader, plain []byte) []byte {
		pages = append(pages, string(plain))
		return plain
	})
	return strings.Join(pages, betweenPages)
}

// withPages returns what makes a Parquet file with other pages, whose headers tell how long they are; all else in them stays.
func withPages(file string) func(text string) string {
	return func(text string) string {
		pages := strings.Split(text, betweenPages)
		return eachPage(file, func(header *format.PageHeader, _ []byte) []byte {
			if len(pages) == 0 {
				return nil
			}
			own := []byte(pages[0])
			pages = pages[1:]
			return own
		})
	}
}

// eachPage makes a Parquet file anew, without compression, from the pages that change returns.
func eachPage(file string, change func(header *format.PageHeader, plain []byte) []byte) string {
	read, err := lib.OpenFile(strings.NewReader(file), int64(len(file)))
	if err != nil {
		panic(err)
	}
	meta := *read.Metadata()
	out := bytes.NewBufferString("PAR1")
	var protocol thrift.CompactProtocol
	for _, group := range meta.RowGroups {
		for i := range group.Columns {
			group.Columns[i].ColumnIndexOffset, group.Columns[i].ColumnIndexLength, group.Columns[i].OffsetIndexOffset, group.Columns[i].OffsetIndexLength = 0, 0, 0, 0
			m := &group.Columns[i].MetaData
			at := m.DataPageOffset
			if m.DictionaryPageOffset > 0 {
				at = min(at, m.DictionaryPageOffset)
			}
			from := strings.NewReader(file[at : at+m.TotalCompressedSize])
			begin, hasData := int64(out.Len()), false
			for from.Len() > 0 {
				var header format.PageHeader
				if err := thrift.NewDecoder(protocol.NewReader(from)).Decode(&header); err != nil {
					panic(err)
				}
				packed := make([]byte, header.CompressedPageSize)
				_, _ = io.ReadFull(from, packed)
				plain := change(&header, unpackedPage(&header, m.Codec, packed))
				header.CRC, header.CompressedPageSize, header.UncompressedPageSize = 0, int32(len(plain)), int32(len(plain))
				if v2, ok := header.DataPageHeaderV2.Get(); ok {
					v2.IsCompressed.Set(false)
					header.DataPageHeaderV2.Set(v2)
				}
				if header.Type == format.DictionaryPage {
					m.DictionaryPageOffset = int64(out.Len())
				} else if !hasData {
					m.DataPageOffset, hasData = int64(out.Len()), true
				}
				if err := thrift.NewEncoder(protocol.NewWriter(out)).Encode(&header); err != nil {
					panic(err)
				}
				out.Write(plain)
			}
			m.Codec, m.TotalCompressedSize, m.TotalUncompressedSize = format.Uncompressed, int64(out.Len())-begin, int64(out.Len())-begin
		}
	}
	before := out.Len()
	if err := thrift.NewEncoder(protocol.NewWriter(out)).Encode(&meta); err != nil {
		panic(err)
	}
	return string(append(binary.LittleEndian.AppendUint32(out.Bytes(), uint32(out.Len()-before)), "PAR1"...))
}

// unpackedPage decompresses a page; the levels of the second version are never compressed.
func unpackedPage(header *format.PageHeader, codec format.CompressionCodec, packed []byte) []byte {
	levels := 0
	if v2, ok := header.DataPageHeaderV2.Get(); ok {
		levels = int(v2.RepetitionLevelsByteLength + v2.DefinitionLevelsByteLength)
	}
	plain, err := lib.LookupCompressionCodec(codec).Decode(nil, packed[levels:])
	if err != nil {
		panic(err)
	}
	return append(bytes.Clone(packed[:levels]), plain...)
}
