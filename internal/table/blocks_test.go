package table_test

import (
	"bytes"
	"context"
	"errors"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/cell"
	"roundyear/internal/delimited"
	"roundyear/internal/table"
)

// Blocks of any size have the same lines in the same order, in all formats at once.
func TestBlocksAreTheRows(t *testing.T) {
	t.Setenv("GOMAXPROCS", "4")
	columns := []cell.Column{{Name: "n", Type: cell.Integer}, {Name: "same"}}
	newLines := func() []table.RowLines {
		var all []table.RowLines
		for _, format := range []string{"csv", "jsonl"} {
			lines, ok := table.NewRowLines(format, delimited.KeepFormulas, columns)
			require.True(t, ok)
			all = append(all, lines)
		}
		return all
	}
	rowOf := func(i int) []cell.Value {
		return []cell.Value{cell.OfInteger(i), cell.OfText([]string{"a", "b, c"}[i/100%2])}
	}
	var want [2][]byte
	single := newLines()
	for i := range 1000 {
		for f := range want {
			want[f] = single[f].Append(want[f], rowOf(i), nil)
		}
	}
	rows := func(from, to int, write func([]cell.Value, []bool)) {
		for i := from; i < to; i++ {
			write(rowOf(i), []bool{true, i == from || i%100 == 0})
		}
	}
	for _, size := range []int{1, 3, 99, 1000, 5000} {
		var got [2]bytes.Buffer
		err := table.Blocks{Count: 1000, Size: size, Rows: rows}.Encode(context.Background(), newLines, func(texts [][]byte) error {
			for f := range got {
				got[f].Write(texts[f])
			}
			return nil
		})
		require.NoError(t, err)
		for f := range got {
			assert.True(t, bytes.Equal(want[f], got[f].Bytes()), "format %d in blocks of %d", f, size)
		}
	}
	full := errors.New("disk full")
	err := table.Blocks{Count: 1000, Size: 10, Rows: rows}.Encode(context.Background(), newLines, func([][]byte) error { return full })
	assert.ErrorIs(t, err, full)
}
