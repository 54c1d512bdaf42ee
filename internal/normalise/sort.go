package normalise

import (
	"bytes"
	"cmp"
	"fmt"
	"io"
	"slices"
	"strings"

	"roundyear/facts/decimal"
	"roundyear/fault"
	"roundyear/rows"
)

// SortKey is a column that the rows are sorted by: one of the source by its place, or one that is added by its.
type SortKey struct {
	Place        int
	IsAdded      bool
	IsDescending bool
}

// ReadSort reads names of columns, each with desc behind it for the largest first. Those that are added come before those of the source.
func (o Options) ReadSort(source *rows.Source, names []string) ([]SortKey, error) {
	var keys []SortKey
	for _, name := range names {
		name, isDescending := strings.CutSuffix(strings.TrimSpace(name), " desc")
		key := SortKey{Place: slices.Index(o.Columns(), strings.TrimSpace(name)), IsAdded: true, IsDescending: isDescending}
		if key.Place < 0 {
			place, err := source.Find(strings.TrimSpace(name))
			if err != nil {
				return nil, err
			}
			key.Place, key.IsAdded = place, false
		}
		keys = append(keys, key)
	}
	return keys, nil
}

// maxSorted is how many bytes of rows are sorted, which are held in memory.
const maxSorted = 4 << 30

// sortValue is a value to sort by: numbers come before texts, and blanks last.
type sortValue struct {
	kind   uint8
	number decimal.Decimal
	text   string
}

const (
	sortNumber = iota
	sortText
	sortBlank
)

func sortValueOf(text []byte) sortValue {
	text = bytes.TrimSpace(text)
	if len(text) == 0 {
		return sortValue{kind: sortBlank}
	}
	if number, err := decimal.Parse(text); err == nil {
		return sortValue{kind: sortNumber, number: number}
	}
	return sortValue{kind: sortText, text: string(text)}
}

func (v sortValue) compare(other sortValue, isDescending bool) int {
	if v.kind != other.kind || v.kind == sortBlank {
		if isDescending && v.kind != sortBlank && other.kind != sortBlank {
			return cmp.Compare(other.kind, v.kind)
		}
		return cmp.Compare(v.kind, other.kind) // blanks last in either case
	}
	order := strings.Compare(v.text, other.text)
	if v.kind == sortNumber {
		order = v.number.Cmp(other.number)
	}
	if isDescending {
		return -order
	}
	return order
}

// sortedRow is a row to sort: its line, or its place in a block.
type sortedRow struct {
	values []sortValue
	line   []byte
	block  int
	at     int
}

// keep remembers the row that was just written for sorting. Its line begins at a place of the output of the batch.
func (w *worker) keep(b *batch, row *rows.Row, start int) {
	if w.options.Sort == nil {
		return
	}
	one := sortedRow{at: b.block.Count - 1}
	if w.out != nil {
		one.line = bytes.Clone(b.out[start:])
	}
	var added map[int]string
	if slices.ContainsFunc(w.options.Sort, func(key SortKey) bool { return key.IsAdded }) {
		added = map[int]string{}
		for i := range w.readers {
			w.fields(i, func(column int, text []byte) { added[column] = string(text) })
		}
		for i, number := range w.numbers {
			added[w.firstNumber+i] = string(number)
		}
	}
	for _, key := range w.options.Sort {
		if key.IsAdded {
			one.values = append(one.values, sortValueOf([]byte(added[key.Place])))
		} else {
			one.values = append(one.values, sortValueOf(row.Field(key.Place)))
		}
	}
	b.sorted = append(b.sorted, one)
}

// sorter holds the rows of all batches until they are sorted.
type sorter struct {
	keys   []SortKey
	rows   []sortedRow
	blocks []rows.Block
	size   int
}

// take takes the rows of a batch.
func (s *sorter) take(b *batch) error {
	for _, one := range b.sorted {
		one.block = len(s.blocks)
		s.rows = append(s.rows, one)
		s.size += len(one.line)
	}
	if b.block.Vectors != nil {
		s.blocks = append(s.blocks, b.block)
		s.size += b.block.Size()
	}
	if s.size > maxSorted {
		return &fault.Fault{What: fmt.Sprintf("has more than %d GB of rows, which is too much to sort", maxSorted>>30), Remedy: "Leave out --sort, or sort in a database"}
	}
	return nil
}

// write sorts the rows and writes them, to a sink if there is one. Rows with equal values stay in the order in which they came.
func (s *sorter) write(out io.Writer, sink rows.Sink, columns []rows.Column) (written int, err error) {
	slices.SortStableFunc(s.rows, func(a, b sortedRow) int {
		for i, key := range s.keys {
			if order := a.values[i].compare(b.values[i], key.IsDescending); order != 0 {
				return order
			}
		}
		return 0
	})
	if sink == nil {
		for _, one := range s.rows {
			if _, err := out.Write(one.line); err != nil {
				return written, err
			}
			written++
		}
		return written, nil
	}
	const most = 8 << 10
	for chunk := range slices.Chunk(s.rows, most) {
		block := rows.NewBlock(columns, len(chunk), 0)
		for _, one := range chunk {
			for i := range block.Vectors {
				block.Vectors[i].AppendFrom(&s.blocks[one.block].Vectors[i], one.at)
			}
			block.Count++
		}
		if err := sink.Write(block); err != nil {
			return written, err
		}
		written += block.Count
	}
	return written, nil
}
