package rows_test

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/rows"
	"roundyear/rows/rowstest"
)

// doubled computes the first column twice over, and how many bytes it has.
func doubled(row *rows.Row, text []byte, ends []int) ([]byte, []int, error) {
	value := row.Field(0)
	if string(value) == "bad" {
		return text, ends, errors.New("cannot be computed")
	}
	text = append(append(text, value...), value...)
	ends = append(ends, len(text))
	if len(value) > 0 {
		text = fmt.Append(text, len(value))
	}
	return text, append(ends, len(text)), nil
}

var doubling = rows.Computation{Columns: rows.Texts([]string{"twice", "length"}), Needs: []int{0}, Compute: doubled}

// read returns the rows of a source, in batches of so many bytes, and the error that ends them.
func read(s *rows.Source, size int) (lines []string, err error) {
	s.BatchSize, s.KeepsRagged = size, true
	work := func() func(*rows.Batch) ([]string, error) {
		return func(b *rows.Batch) (some []string, _ error) {
			var row rows.Row
			for b.Next(&row) {
				line := fmt.Sprint(row.Line)
				for i := range row.Len() {
					line += "|" + string(row.Field(i))
				}
				if row.Ragged() > 0 {
					line += fmt.Sprintf(" ragged %d of %d", row.Ragged(), row.Part().OwnColumns())
				}
				some = append(some, line)
			}
			return some, b.Err()
		}
	}
	err = rows.Process(context.Background(), s, work, func(some []string) error {
		lines = append(lines, some...)
		return nil
	})
	return lines, err
}

func TestColumnsThatAreComputed(t *testing.T) {
	text := &rows.Part{Name: "t", Columns: rows.Texts([]string{"a", "b"}), Decoder: lines{"x,1\n,2\nabc,3,4\nyz,5"}}
	s := &rows.Source{}
	require.NoError(t, s.Add(text))
	again := rows.Computation{Columns: rows.Texts([]string{"joined"}), Needs: []int{2}, Compute: func(row *rows.Row, to []byte, ends []int) ([]byte, []int, error) {
		to = append(append(to, row.Field(2)...), row.Field(1)...)
		return to, append(ends, len(to)), nil
	}}
	got, err := read(s.Computing(doubling).Computing(again), 0)
	require.NoError(t, err)
	assert.Equal(t, []string{"1|x|1|xx|1|xx1", "2||2|||2", "3|abc|3||| ragged 3 of 2", "4|yz|5|yzyz|2|yzyz5"}, got)

	vectors := rowstest.Typed([]rows.Column{{Name: "n", Type: rows.Integer}, {Name: "t"}},
		rows.Vector{Type: rows.Integer, Int: []int64{12, 0, 7}, Valid: []uint64{0b101}}, rows.Vector{Offsets: []uint32{0, 1, 2, 3}, Bytes: []byte("abc")})
	got, err = read(vectors.Computing(doubling), 0)
	require.NoError(t, err)
	assert.Equal(t, []string{"1|12|a|1212|2", "2||b||", "3|7|c|77|1"}, got)
	narrowed := vectors.Computing(doubling).Narrowed(2)
	got, err = read(narrowed, 0)
	require.NoError(t, err)
	assert.Contains(t, got[0], "|1212|", "what is computed from is read")
	assert.Equal(t, []string{"n", "t", "twice", "length"}, narrowed.Names())
}

// Rows end before the first that cannot be computed, with its line.
func TestRowsEndWhereTheyCannotBeComputed(t *testing.T) {
	s := &rows.Source{}
	require.NoError(t, s.Add(&rows.Part{Name: "t", Columns: rows.Texts([]string{"a", "b"}), Decoder: lines{"x,1\ny,2\nbad,3\nz,4"}}))
	got, err := read(s.Computing(doubling), 0)
	assert.EqualError(t, err, "t, line 3: cannot be computed")
	assert.Empty(t, got)
	b := &rows.Batch{}
	part := s.Computing(doubling).Parts[0]
	require.NoError(t, part.Decoder.Scan(context.Background(), &rows.Scan{Spare: func() *rows.Batch { b.Part = part; return b }, Give: func(*rows.Batch) bool { return true }}))
	part.Decoder.Decode(b)
	assert.Equal(t, 2, b.Len())
}

func TestColumnsWithOtherNames(t *testing.T) {
	s := &rows.Source{}
	require.NoError(t, s.Add(&rows.Part{Name: "t", Columns: rows.Texts([]string{"a", "b"}), Decoder: lines{"x,1"}}))
	renamed := s.Renaming([]string{"c", "d"})
	assert.Equal(t, "c d a b", strings.Join(append(renamed.Names(), s.Names()...), " "))
	_, err := renamed.Find("a")
	assert.Error(t, err)
	got, err := read(renamed, 0)
	require.NoError(t, err)
	assert.Equal(t, []string{"1|x|1"}, got)
}

// Parts whose columns have different types are read as what holds the values of both.
func TestTypesThatDiffer(t *testing.T) {
	part := func(column rows.Column, v rows.Vector) *rows.Source {
		column.Name = "a"
		return rowstest.Typed([]rows.Column{column}, v)
	}
	integer := func() *rows.Source {
		return part(rows.Column{Type: rows.Integer}, rows.Vector{Type: rows.Integer, Int: []int64{7, 1}, Valid: []uint64{0b01}})
	}
	for _, c := range []struct {
		a, b *rows.Source
		typ  rows.Type
		want string
	}{
		{integer(), part(rows.Column{Type: rows.Decimal, Scale: 2}, rows.Vector{Type: rows.Decimal, Scale: 2, Int: []int64{125}}), rows.Decimal, "1|7.00 2| 1|1.25"},
		{part(rows.Column{Type: rows.Decimal, Scale: 3}, rows.Vector{Type: rows.Decimal, Scale: 3, Int: []int64{1}}), part(rows.Column{Type: rows.Decimal, Scale: 1}, rows.Vector{Type: rows.Decimal, Scale: 1, Int: []int64{15}}), rows.Decimal, "1|0.001 1|1.500"},
		{integer(), part(rows.Column{Type: rows.Float}, rows.Vector{Type: rows.Float, Int: []int64{0x3fe0000000000000}}), rows.Float, "1|7 2| 1|0.5"},
		{part(rows.Column{Type: rows.Day}, rows.Vector{Type: rows.Day, Int: []int64{20454}}), part(rows.Column{Type: rows.Moment}, rows.Vector{Type: rows.Moment, Int: []int64{60}}), rows.Moment, "1|2026-01-01T00:00:00 1|1970-01-01T00:01:00"},
		{part(rows.Column{Type: rows.Day}, rows.Vector{Type: rows.Day, Int: []int64{20454}}), part(rows.Column{}, rows.Vector{Offsets: []uint32{0, 4}, Bytes: []byte("soon")}), rows.Text, "1|2026-01-01 1|soon"},
	} {
		require.NoError(t, c.a.Add(c.b.Parts[0]))
		assert.Equal(t, c.typ, c.a.Columns()[0].Type)
		got, err := read(c.a, 0)
		require.NoError(t, err)
		assert.Equal(t, c.want, strings.Join(got, " "))
	}
	s := part(rows.Column{Type: rows.Instant}, rows.Vector{Type: rows.Instant, Int: []int64{0}})
	assert.ErrorContains(t, s.Add(part(rows.Column{Type: rows.Moment}, rows.Vector{Type: rows.Moment, Int: []int64{0}}).Parts[0]), `has "a" in another type`)
	// What does not fit into 64 bits with more decimals becomes text.
	large := part(rows.Column{Type: rows.Integer}, rows.Vector{Type: rows.Integer, Int: []int64{9e18}})
	require.NoError(t, large.Add(part(rows.Column{Type: rows.Decimal, Scale: 2}, rows.Vector{Type: rows.Decimal, Scale: 2, Int: []int64{1}}).Parts[0]))
	got, err := read(large, 0)
	require.NoError(t, err)
	assert.Equal(t, []string{"1|9000000000000000000", "1|0.01"}, got)
}
