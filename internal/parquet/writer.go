package parquet

import (
	"encoding/binary"
	"io"
	"runtime"

	"github.com/parquet-go/parquet-go/encoding/thrift"
	"github.com/parquet-go/parquet-go/format"

	"roundyear/parallel"
	"roundyear/rows"
)

// GroupRows is how many rows a row group has; the last one of a file has fewer.
const GroupRows = 128 << 10

// groupBytes is how many bytes of memory rows take at most that make a row group, and one block more.
const groupBytes = 256 << 20

// Writer writes rows as a Parquet file, whose row groups are encoded side by side. Pages and their
// headers are put together here, since that is several times as fast as value by value through
// the library that reads them.
type Writer struct {
	out     io.Writer
	columns []rows.Column
	// offset is how many bytes are written, and groups describe the row groups in them.
	offset int64
	groups []format.RowGroup
	// pending are rows that do not make a row group yet; rows and bytes say how many.
	pending     []rows.Block
	rows, bytes int
	// encoding are the row groups at work, in their order, and taken counts their rows and those before.
	encoding []chan encoded
	taken    int
}

// encoded is a row group, with what there is to say of it.
type encoded struct {
	chunks []encodedChunk
	rows   int
	err    error
}

// slots bound how many row groups of all files are encoded at a time.
var slots = make(chan struct{}, runtime.GOMAXPROCS(0))

// NewWriter returns a writer of rows with columns.
func NewWriter(out io.Writer, columns []rows.Column) *Writer {
	return &Writer{out: out, columns: columns}
}

// Write takes rows, which must not change any more.
func (w *Writer) Write(block rows.Block) error {
	for block.Count > 0 {
		var head rows.Block
		head, block = block.Cut(GroupRows - w.rows)
		w.pending = append(w.pending, head)
		w.rows += head.Count
		w.bytes += head.Size()
		if w.rows == GroupRows || w.bytes > groupBytes {
			if err := w.Flush(); err != nil {
				return err
			}
		}
	}
	return nil
}

// Pending returns about how many bytes of memory the rows take that do not make a row group yet.
func (w *Writer) Pending() int { return w.bytes }

// Flush makes a row group of the rows that are pending.
func (w *Writer) Flush() error {
	if w.rows == 0 {
		return nil
	}
	done := make(chan encoded, 1)
	blocks, group, first := w.pending, encoded{rows: w.rows}, w.taken+1
	w.taken += w.rows
	w.pending, w.rows, w.bytes = nil, 0, 0
	slots <- struct{}{}
	go func() {
		defer func() { <-slots }()
		group.err = parallel.Guarded(func() (err error) {
			group.chunks, err = encodeGroup(w.columns, blocks, first)
			return err
		})
		done <- group
	}()
	w.encoding = append(w.encoding, done)
	return w.writeGroups(max(cap(slots)-1, 1))
}

// writeGroups writes row groups that are encoded, until no more than so many are left.
func (w *Writer) writeGroups(most int) error {
	for len(w.encoding) > most {
		group := <-w.encoding[0]
		w.encoding = w.encoding[1:]
		if group.err != nil {
			return group.err
		}
		if err := w.begin(); err != nil {
			return err
		}
		described := format.RowGroup{NumRows: int64(group.rows), FileOffset: w.offset, Ordinal: int16(len(w.groups))}
		for _, chunk := range group.chunks {
			m := &chunk.metadata
			m.DataPageOffset += w.offset
			if chunk.hasDictionary {
				m.DictionaryPageOffset = w.offset
			}
			described.Columns = append(described.Columns, format.ColumnChunk{FileOffset: w.offset, MetaData: *m})
			described.TotalByteSize += m.TotalUncompressedSize
			described.TotalCompressedSize += m.TotalCompressedSize
			if err := w.write(chunk.pages); err != nil {
				return err
			}
		}
		w.groups = append(w.groups, described)
	}
	return nil
}

func (w *Writer) write(bytes []byte) error {
	n, err := w.out.Write(bytes)
	w.offset += int64(n)
	return err
}

// begin writes the mark before everything else.
func (w *Writer) begin() error {
	if w.offset > 0 {
		return nil
	}
	return w.write(mark)
}

// Close writes the rest of the file. It does not close what the file is written to.
func (w *Writer) Close() error {
	if err := w.Flush(); err != nil {
		return err
	}
	if err := w.writeGroups(0); err != nil {
		return err
	}
	if err := w.begin(); err != nil {
		return err
	}
	footer, err := thrift.Marshal(new(thrift.CompactProtocol), &format.FileMetaData{
		Version: 2, Schema: schemaOf(w.columns), NumRows: int64(w.taken), RowGroups: w.groups, CreatedBy: "roundyear", ColumnOrders: orders(len(w.columns)),
	})
	if err != nil {
		return err
	}
	footer = binary.LittleEndian.AppendUint32(footer, uint32(len(footer)))
	return w.write(append(footer, mark...))
}

// orders say of each column that its smallest and largest values are those by its type.
func orders(count int) []format.ColumnOrder {
	all := make([]format.ColumnOrder, count)
	for i := range all {
		all[i].Value = &format.TypeDefinedOrder{}
	}
	return all
}
