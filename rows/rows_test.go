package rows_test

import (
	"context"
	"fmt"
	"math"
	"math/big"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/civil"
	"roundyear/fault"
	"roundyear/rows"
	"roundyear/rows/rowstest"
)

func all(t *testing.T, s *rows.Source) [][]string {
	t.Helper()
	var read [][]string
	err := rows.Process(context.Background(), s, func() func(*rows.Batch) ([][]string, error) {
		return func(b *rows.Batch) ([][]string, error) {
			var own [][]string
			var row rows.Row
			for b.Next(&row) {
				fields := []string{fmt.Sprint(row.Line)}
				for i := range row.Len() {
					fields = append(fields, string(row.Field(i)))
				}
				own = append(own, fields)
			}
			return own, b.Err()
		}
	}, func(own [][]string) error { read = append(read, own...); return nil })
	require.NoError(t, err)
	return read
}

func TestTypedValuesAsText(t *testing.T) {
	day := int64(civil.MustOf(2024, 2, 29))
	columns := []rows.Column{{Name: "d", Type: rows.Day}, {Name: "m", Type: rows.Moment, Scale: 3}, {Name: "i", Type: rows.Instant}, {Name: "n", Type: rows.Integer}, {Name: "x", Type: rows.Decimal, Scale: 2}, {Name: "b", Type: rows.Bool}, {Name: "t"}}
	source := rowstest.Typed(columns,
		rows.Vector{Type: rows.Day, Int: []int64{day, int64(civil.MinDay), int64(civil.MaxDay) + 1}},
		rows.Vector{Type: rows.Moment, Scale: 3, Int: []int64{day*86400000 + 33360005, -1, 0}},
		rows.Vector{Type: rows.Instant, Int: []int64{day * 86400, 86399, -86400}, Valid: []uint64{0b011}},
		rows.Vector{Type: rows.Integer, Int: []int64{math.MinInt64, 0, 7}},
		rows.Vector{Type: rows.Decimal, Scale: 2, Int: []int64{math.MinInt64, -5, 123456}},
		rows.Vector{Type: rows.Bool, Int: []int64{1, 0, 1}, Valid: []uint64{0b101}},
		rows.Vector{Type: rows.Text, Bytes: []byte("abcé"), Offsets: []uint32{0, 3, 3, 5}})
	want := [][]string{
		{"1", "2024-02-29", "2024-02-29T09:16:00.005", "2024-02-29T00:00:00Z", "-9223372036854775808", "-92233720368547758.08", "true", "abc"},
		{"2", "0001-01-01", "1969-12-31T23:59:59.999", "1970-01-01T23:59:59Z", "0", "-0.05", "", ""},
		{"3", "+10000-01-01", "1970-01-01T00:00:00", "", "7", "1234.56", "true", "é"},
	}
	for size := 1; size <= 4; size++ {
		source.BatchSize = size
		assert.Equal(t, want, all(t, source), "in batches of %d", size)
	}
}

// Days before the year 1 and after 9999 are written with a sign, which no date that is read has, and infinite ones as such.
func TestFarDaysAsText(t *testing.T) {
	const micros = int64(secondsOfDay) * 1_000_000
	for _, year := range []int{-4712, -43, -1, 0, 10000, 12000, 294276} {
		at := time.Date(year, time.March, 15, 4, 0, 54, 0, time.UTC)
		day := at.Unix() / secondsOfDay
		if at.Unix() < 0 {
			day--
		}
		sign := "+"
		if year < 0 {
			sign = "-"
		}
		want := fmt.Sprintf("%s%04d-03-15", sign, max(year, -year))
		v := rows.Vector{Type: rows.Day, Int: []int64{day}}
		assert.Equal(t, want, string(v.AppendText(nil, 0)))
		v = rows.Vector{Type: rows.Moment, Scale: 6, Int: []int64{day*micros + (4*3600+54)*1_000_000}}
		if year < 290000 {
			assert.Equal(t, want+"T04:00:54", string(v.AppendText(nil, 0)))
		}
		_, _, ok := v.Moment(0)
		assert.False(t, ok)
	}
	for _, kind := range []rows.Type{rows.Day, rows.Moment, rows.Instant} {
		v := rows.Vector{Type: kind, Scale: 6, Int: []int64{math.MaxInt64, math.MinInt64}}
		assert.Equal(t, "infinity", string(v.AppendText(nil, 0)))
		assert.Equal(t, "-infinity", string(v.AppendText(nil, 1)))
	}
}

const secondsOfDay = 24 * 60 * 60

// Moments are those of the standard library, and decimals those of big numbers.
func TestTypedValuesAgreeWithTheStandardLibrary(t *testing.T) {
	state := uint64(7)
	next := func() int64 {
		state = state*6364136223846793005 + 1442695040888963407
		return int64(state>>8) % 60_000_000_000
	}
	for range 2000 {
		for scale, unit := range map[uint8]time.Duration{0: time.Second, 3: time.Millisecond, 6: time.Microsecond, 9: time.Nanosecond} {
			value := next()
			v := rows.Vector{Type: rows.Moment, Scale: scale, Int: []int64{value}}
			day, nanos, ok := v.Moment(0)
			whole, rest := value/int64(time.Second/unit), value%int64(time.Second/unit)
			stamp := time.Unix(whole, rest*int64(unit)).UTC()
			require.True(t, ok)
			require.Equal(t, stamp.Format(time.DateOnly), day.String(), "%d at scale %d", value, scale)
			midnight := time.Date(stamp.Year(), stamp.Month(), stamp.Day(), 0, 0, 0, 0, time.UTC)
			require.Equal(t, stamp.Sub(midnight), time.Duration(nanos))
			text := string(v.AppendText(nil, 0))
			parsed, err := time.Parse("2006-01-02T15:04:05.999999999", text)
			require.NoError(t, err)
			require.True(t, stamp.Equal(parsed), text)

			v.Type = rows.Decimal
			number, valid := new(big.Rat).SetString(string(v.AppendText(nil, 0)))
			require.True(t, valid)
			power := new(big.Int).Exp(big.NewInt(10), big.NewInt(int64(scale)), nil)
			require.Zero(t, number.Cmp(new(big.Rat).SetFrac(big.NewInt(value), power)))
		}
	}
}

func TestPartsHaveTheSameColumns(t *testing.T) {
	s := rowstest.Typed([]rows.Column{{Name: "a", Type: rows.Integer}}, rows.Vector{Type: rows.Integer, Int: []int64{1}})
	for want, columns := range map[string][]rows.Column{
		`u: has "a" in another type than t`:          {{Name: "a", Type: rows.Day}},
		`u: has "b" as column 1, but t has "a"`:      {{Name: "b", Type: rows.Integer}},
		`u: has a column "b", which t does not have`: {{Name: "a", Type: rows.Integer}, {Name: "b"}},
		`u: has no column "a", which t has`:          {},
	} {
		want = strings.Replace(want, "u:", "u, line 1:", 1)
		assert.ErrorContains(t, s.Add(&rows.Part{Name: "u", Columns: columns}), want)
	}
	require.Len(t, s.Parts, 1)
	require.NoError(t, s.Add(&rows.Part{Name: "u", Columns: s.Columns(), Decoder: s.Parts[0].Decoder}))
	assert.Equal(t, 1, s.Parts[1].Index)
	assert.Equal(t, "t, u", s.Name())
	assert.Equal(t, [][]string{{"1", "1"}, {"1", "1"}}, all(t, s))
}

// lines is a part of ragged text: each line has as many fields as it has commas and one.
type lines struct{ text string }

func (d lines) Scan(_ context.Context, scan *rows.Scan) error {
	b := scan.Spare()
	b.Input, b.Line = append(b.Input, d.text...), 1
	scan.Give(b)
	return nil
}

func (d lines) Decode(b *rows.Batch) {
	b.Text = b.Input
	at := 0
	for i, line := range strings.Split(d.text, "\n") {
		place := rows.Place{Start: uint32(at), Line: uint32(i), RawStart: uint32(at), RawEnd: uint32(at + len(line))}
		var ends []uint32
		for j, c := range line + "," {
			if c == ',' {
				ends = append(ends, uint32(at+j))
			}
		}
		at += len(line) + 1
		if len(ends) == len(b.Part.Columns) {
			b.Ends, b.Places = append(b.Ends, ends...), append(b.Places, place)
		} else if !b.AddRagged(place, ends) {
			b.Fault = &fault.Fault{File: b.Part.Name, Line: i + 1, What: rows.RaggedReason(len(ends), len(b.Part.Columns))}
			return
		}
	}
}

func TestRaggedRowsAreAskedForOrAreFaults(t *testing.T) {
	s := &rows.Source{}
	require.NoError(t, s.Add(&rows.Part{Name: "r", Columns: rows.Texts([]string{"a", "b", "c"}), Decoder: lines{"1,2,3\n4,5\n6,7,8,9\n,,"}}))
	var seen []string
	see := func(row *rows.Row) { seen = append(seen, string(row.Raw())) }
	assert.EqualError(t, s.Sample(context.Background(), 10, see), "r, line 2: 2 fields, but the header has 3")
	assert.Equal(t, []string{"1,2,3"}, seen, "rows before the fault are rows")
	seen = nil
	require.NoError(t, s.Sample(context.Background(), 1, see), "what stands behind the rows asked for does not matter")

	s.KeepsRagged, seen = true, nil
	require.NoError(t, s.Sample(context.Background(), 10, see))
	assert.Equal(t, []string{"1,2,3", ",,"}, seen)
	assert.Equal(t, [][]string{{"1", "1", "2", "3"}, {"2", "4", "5", ""}, {"3", "6", "7", "8"}, {"4", "", "", ""}}, all(t, s))

	only := &rows.Source{KeepsRagged: true}
	require.NoError(t, only.Add(&rows.Part{Name: "o", Columns: rows.Texts([]string{"a", "b"}), Decoder: lines{"1\n2"}}))
	assert.ErrorContains(t, only.Sample(context.Background(), 10, see), "o, line 1: 1 field, but the header has 2. No row has as many fields as the header")
}

// A format is told which columns are wanted, and the source itself still wants all.
func TestNarrowedSources(t *testing.T) {
	s := &rows.Source{BatchSize: 7}
	require.NoError(t, s.Add(&rows.Part{Name: "r", Columns: rows.Texts([]string{"a", "b", "c"}), Decoder: lines{"1,2,3"}}))
	for want, source := range map[[3]bool]*rows.Source{{true, true, true}: s, {false, true, false}: s.Narrowed(1), {true, false, true}: s.Narrowed(2, 0, 2), {}: s.Narrowed()} {
		err := rows.Process(context.Background(), source, func() func(*rows.Batch) ([3]bool, error) {
			return func(b *rows.Batch) ([3]bool, error) { return [3]bool{b.Wants(0), b.Wants(1), b.Wants(2)}, nil }
		}, func(got [3]bool) error {
			assert.Equal(t, want, got)
			return nil
		})
		require.NoError(t, err)
		assert.Equal(t, 7, source.BatchSize)
	}
}
