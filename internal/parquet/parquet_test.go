package parquet_test

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"math"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	lib "github.com/parquet-go/parquet-go"
	"github.com/parquet-go/parquet-go/deprecated"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/cell"
	"roundyear/civil"
	"roundyear/internal/input"
	"roundyear/internal/parquet"
	"roundyear/rows"
	"roundyear/rows/rowstest"
)

// open opens a file that is in memory.
func open(content []byte) (*rows.Source, error) {
	stored, err := input.OfBytes("f.parquet", content)
	if err != nil {
		return nil, err
	}
	part, err := parquet.Open(context.Background(), stored)
	if err != nil {
		return nil, err
	}
	s := &rows.Source{}
	return s, s.Add(part)
}

var everyType = []rows.Column{{Name: "text"}, {Name: "code"}, {Name: "day", Type: rows.Day}, {Name: "moment", Type: rows.Moment, Scale: 6}, {Name: "instant", Type: rows.Instant, Scale: 3},
	{Name: "whole", Type: rows.Integer}, {Name: "money", Type: rows.Decimal, Scale: 2}, {Name: "wide", Type: rows.Decimal, Scale: 4, Wide: true},
	{Name: "yes", Type: rows.Bool}, {Name: "float", Type: rows.Float}, {Name: "clock", Type: rows.Clock, Scale: 3}, {Name: "fine", Type: rows.Clock, Scale: 9}, {Name: "never"}}

// someRows returns random rows of every type, and the same as text.
func someRows(r *rand.Rand, count, first int) (rows.Block, []string) {
	block, lines := rows.NewBlock(everyType, 0, 0), []string{}
	block.Count = count
	for i := range count {
		line := fmt.Sprint(first + i)
		for c, column := range everyType {
			v := &block.Vectors[c]
			if column.Name == "never" || r.IntN(10) == 0 && column.Name != "whole" {
				v.AppendMissing()
				line += "|∅"
				continue
			}
			switch {
			case column.Name == "code":
				v.AppendBytes(fmt.Appendf(nil, "S%02d", r.IntN(40)))
			case column.Wide:
				v.AppendBytes(fmt.Appendf(nil, "%s%d%015d.%04d", []string{"", "-"}[r.IntN(2)], 1+r.IntN(9), r.Uint64()%1e15, r.IntN(10000)))
			case column.Type == rows.Text:
				v.AppendBytes(fmt.Appendf(nil, "é%d", r.Uint64()>>r.IntN(64)))
			case column.Type == rows.Day:
				v.Int = append(v.Int, int64(civil.MustOf(2020, 1, 1))+r.Int64N(3000))
			case column.Type == rows.Moment || column.Type == rows.Instant:
				v.Int = append(v.Int, r.Int64N(2e15)-1e14)
				if column.Type == rows.Instant {
					v.Int[len(v.Int)-1] /= 1000
				}
			case column.Type == rows.Bool:
				v.Int = append(v.Int, r.Int64N(2))
			case column.Type == rows.Float:
				v.Int = append(v.Int, int64(math.Float64bits(float64(r.IntN(100000))/8)))
			case column.Type == rows.Clock:
				unit := int64(math.Pow10(int(column.Scale)))
				v.Int = append(v.Int, r.Int64N(86400*unit))
			default:
				v.Int = append(v.Int, int64(r.Uint64())>>r.IntN(64))
			}
			line += "|" + string(v.AppendText(nil, v.Len()-1))
		}
		lines = append(lines, line)
	}
	return block, lines
}

// What is written is read again, over pages and row groups and in batches of any size.
func TestRowsAreReadAsTheyWereWritten(t *testing.T) {
	r := rand.New(rand.NewPCG(11, 1))
	for _, count := range []int{0, 1, 7, 16<<10 + 1, parquet.GroupRows + 20_000} {
		var file bytes.Buffer
		w := parquet.NewWriter(&file, everyType)
		var want []string
		for len(want) < count {
			block, lines := someRows(r, min(1+r.IntN(9000), count-len(want)), len(want)+1)
			require.NoError(t, w.Write(block))
			want = append(want, lines...)
		}
		require.NoError(t, w.Close())
		for _, size := range []int{0, 64, 64 * 999, 64 * 20_000} {
			if size == 64 && count > 100 {
				continue
			}
			s, err := open(file.Bytes())
			require.NoError(t, err)
			assert.Equal(t, everyType, s.Columns())
			s.BatchSize = size
			got, err := rowstest.Texts(s)
			require.NoError(t, err)
			require.Len(t, got, len(want))
			for i := range want {
				require.Equal(t, want[i], got[i], "%d rows, batches of %d bytes", count, size)
			}
		}
	}
}

// Only columns that are wanted are read.
func TestColumnsThatAreNotWantedAreMissing(t *testing.T) {
	var file bytes.Buffer
	w := parquet.NewWriter(&file, everyType)
	block, lines := someRows(rand.New(rand.NewPCG(1, 2)), 50, 1)
	require.NoError(t, w.Write(block))
	require.NoError(t, w.Close())
	s, err := open(file.Bytes())
	require.NoError(t, err)
	got, err := rowstest.Texts(s.Narrowed(0, 5))
	require.NoError(t, err)
	for i, line := range lines {
		fields := strings.Split(line, "|")
		for c := range fields[1:] {
			if c != 0 && c != 5 {
				fields[c+1] = "∅"
			}
		}
		assert.Equal(t, strings.Join(fields, "|"), got[i])
	}
}

// Row groups whose bounds an exclusion rules out are counted and not read; those whose bounds are not known are read.
func TestRowGroupsAreLeftOutByTheirBounds(t *testing.T) {
	columns := []rows.Column{{Name: "day", Type: rows.Day}, {Name: "shop"}, {Name: "n", Type: rows.Decimal, Scale: 1}, {Name: "wide", Type: rows.Decimal, Scale: 1, Wide: true}, {Name: "f", Type: rows.Float}}
	var file bytes.Buffer
	w := parquet.NewWriter(&file, columns)
	for group := range 3 {
		block := rows.NewBlock(columns, 0, 0)
		block.Count = 100
		for i := range 100 {
			block.Vectors[0].Int = append(block.Vectors[0].Int, int64(100*group+i))
			block.Vectors[1].AppendBytes(fmt.Appendf(nil, "%c%d", 'A'+group, i))
			block.Vectors[2].Int = append(block.Vectors[2].Int, int64(-1000*group-i))
			block.Vectors[3].AppendBytes(fmt.Appendf(nil, "-%d.5", 1000*group+i))
			block.Vectors[4].AppendMissing()
		}
		if group == 1 {
			block.Vectors[2].Invalidate(5)
		}
		require.NoError(t, w.Write(block))
		require.NoError(t, w.Flush())
	}
	require.NoError(t, w.Close())
	s, err := open(file.Bytes())
	require.NoError(t, err)
	var seen [][]rows.Bounds
	for column := range columns {
		var bounds []rows.Bounds
		_, err := rowstest.Texts(s.Excluding(rows.Exclusion{Column: column, Excludes: func(b rows.Bounds) bool {
			bounds = append(bounds, b)
			return false
		}}))
		require.NoError(t, err)
		seen = append(seen, bounds)
	}
	assert.Equal(t, []rows.Bounds{{Type: rows.Day, Least: 0, Most: 99}, {Type: rows.Day, Least: 100, Most: 199}, {Type: rows.Day, Least: 200, Most: 299}}, seen[0])
	assert.Equal(t, rows.Bounds{LeastText: "B0", MostText: "B99"}, seen[1][1])
	assert.Equal(t, rows.Bounds{Type: rows.Decimal, Scale: 1, Least: -1099, Most: -1000, HasMissing: true}, seen[2][1])
	assert.Equal(t, rows.Bounds{Type: rows.Decimal, Scale: 1, Least: -20995, Most: -20005}, seen[3][2])
	assert.Empty(t, seen[4], "nothing is known of values that are missing")

	var left, by []int
	narrowed := s.Narrowed(1).Excluding(
		rows.Exclusion{Column: 4, Excludes: func(rows.Bounds) bool { return true }},
		rows.Exclusion{Column: 0, Excludes: func(b rows.Bounds) bool { return b.Most < 100 }},
		rows.Exclusion{Column: 1, Excludes: func(b rows.Bounds) bool { return b.LeastText > "B" }})
	work := func() func(*rows.Batch) ([3]int, error) {
		return func(b *rows.Batch) ([3]int, error) {
			return [3]int{b.LeftOut, b.LeftOutBy, b.Line + 1000*b.Len()}, b.Err()
		}
	}
	require.NoError(t, rows.Process(context.Background(), narrowed, work, func(one [3]int) error {
		left, by = append(left, one[0]), append(by, one[1])
		return nil
	}))
	assert.Equal(t, []int{100, 100, 100}, left)
	assert.Equal(t, []int{1, 2, 2}, by)
}

// 12:30 in nanoseconds, as older systems store it.
const (
	lowHalf  = 45_000_000_000_000 % (1 << 32)
	highHalf = 45_000_000_000_000 >> 32
)

// Other programs store the same in other ways.
func TestTypesOfOtherWriters(t *testing.T) {
	type inner struct {
		X int64   `parquet:"x"`
		Y *string `parquet:"y,optional"`
	}
	type row struct {
		Day      int32            `parquet:"day,date"`
		Moment   time.Time        `parquet:"moment,timestamp(microsecond:local)"`
		Instant  time.Time        `parquet:"instant,timestamp(nanosecond)"`
		Old      deprecated.Int96 `parquet:"old"`
		Small    int8             `parquet:"small"`
		Unsigned uint32           `parquet:"unsigned"`
		Huge     uint64           `parquet:"huge"`
		Float    float32          `parquet:"float"`
		Price    int32            `parquet:"price,decimal(2:9)"`
		ID       [16]byte         `parquet:"id,uuid"`
		Raw      []byte           `parquet:"raw"`
		Kind     string           `parquet:"kind,dict,enum"`
		Inner    *inner           `parquet:"inner,optional"`
	}
	at := time.Date(2026, 2, 28, 23, 59, 59, 987654321, time.UTC)
	y := "why"
	var file bytes.Buffer
	for _, options := range [][]lib.WriterOption{{lib.DataPageVersion(1)}, {lib.DataPageVersion(2), lib.Compression(&lib.Snappy)}, {lib.Compression(&lib.Gzip)}} {
		file.Reset()
		require.NoError(t, lib.Write(&file, []row{
			{Day: 20512, Moment: at, Instant: at, Old: deprecated.Int96{0: lowHalf, 1: highHalf, 2: 2461100}, Small: -5, Unsigned: 4e9, Huge: 18e18, Float: 12.3, Price: -5, ID: [16]byte{0: 0xab, 15: 1}, Raw: []byte("é"), Kind: "a", Inner: &inner{7, &y}},
			{Day: -1, Moment: at.AddDate(-100, 0, 0), Instant: at, Kind: "b", Inner: &inner{X: 8}},
			{Kind: "a"},
		}, options...))
		s, err := open(file.Bytes())
		require.NoError(t, err)
		got, err := rowstest.Texts(s)
		require.NoError(t, err)
		assert.Equal(t, []string{"day", "moment", "instant", "old", "small", "unsigned", "huge", "float", "price", "id", "raw", "kind", "inner.x", "inner.y"}, s.Names())
		assert.Equal(t, "1|2026-02-28|2026-02-28T23:59:59.987654|2026-02-28T23:59:59.987654321Z|2026-02-28T12:30:00|-5|4000000000|18000000000000000000|12.3|-0.05|ab000000-0000-0000-0000-000000000001|é|a|7|why", got[0])
		assert.True(t, strings.HasPrefix(got[1], "2|1969-12-31|1926-02-28T23:59:59.987654|"), got[1])
		assert.True(t, strings.HasSuffix(got[1], "|b|8|∅"), got[1])
		assert.True(t, strings.HasSuffix(got[2], "|a|∅|∅"), got[2])
	}
}

// cells writes the cells of a table.
type cells struct {
	*parquet.Writer
	columns []rows.Column
}

func newCells(out io.Writer, columns []cell.Column) cells {
	of := rows.OfCells(columns)
	return cells{parquet.NewWriter(out, of), of}
}

func (c cells) Write(row []cell.Value) error {
	block := rows.NewBlock(c.columns, 1, 0)
	for i, value := range row {
		block.Vectors[i].AppendCell(value)
	}
	block.Count = 1
	return c.Writer.Write(block)
}

// Cells of a table keep their types, and decimals their digits.
func TestCells(t *testing.T) {
	var file bytes.Buffer
	w := newCells(&file, []cell.Column{{Name: "t"}, {Name: "n", Type: cell.Integer}, {Name: "m", Type: cell.Decimal, Scale: 3}, {Name: "d", Type: cell.Date}, {Name: "b", Type: cell.Boolean}, {Name: "c", Type: cell.Time}})
	for _, digits := range []string{"-1234567890123456789012345678901.5", "0.001", "7", "0.0025", "0.0035"} {
		require.NoError(t, w.Write([]cell.Value{cell.OfText("x"), cell.OfInteger(-3), cell.OfDecimal(digits), cell.OfDay(civil.MustOf(2026, 3, 1)), cell.OfBool(true), cell.OfTime(3661)}))
	}
	require.NoError(t, w.Write(make([]cell.Value, 6)))
	require.NoError(t, w.Close())
	s, err := open(file.Bytes())
	require.NoError(t, err)
	got, err := rowstest.Texts(s)
	require.NoError(t, err)
	assert.Equal(t, []string{
		"1|x|-3|-1234567890123456789012345678901.500|2026-03-01|true|01:01:01", "2|x|-3|0.001|2026-03-01|true|01:01:01", "3|x|-3|7.000|2026-03-01|true|01:01:01",
		"4|x|-3|0.002|2026-03-01|true|01:01:01", "5|x|-3|0.004|2026-03-01|true|01:01:01", "6|∅|∅|∅|∅|∅|∅"}, got)

	w = newCells(&file, []cell.Column{{Name: "m", Type: cell.Decimal, Scale: 2}})
	require.NoError(t, w.Write([]cell.Value{cell.OfDecimal("1")}))
	require.NoError(t, w.Write([]cell.Value{cell.OfDecimal("1" + strings.Repeat("0", 36))}))
	require.EqualError(t, w.Close(), "line 2, column m: 1"+strings.Repeat("0", 36)+" has more than the 38 digits of a decimal number in Parquet. Write the rows in another format")
}

func TestFilesThatCannotBeRead(t *testing.T) {
	write := func(rows any, options ...lib.WriterOption) []byte {
		var file bytes.Buffer
		switch rows := rows.(type) {
		case []struct{ L []int64 }:
			require.NoError(t, lib.Write(&file, rows, options...))
		case []struct{ M map[string]int64 }:
			require.NoError(t, lib.Write(&file, rows, options...))
		case []struct{ B []byte }:
			require.NoError(t, lib.Write(&file, rows, options...))
		case []struct{ F [3]byte }:
			require.NoError(t, lib.Write(&file, rows, options...))
		case []struct{ S string }:
			require.NoError(t, lib.Write(&file, rows, options...))
		}
		return file.Bytes()
	}
	whole := write([]struct{ B []byte }{{[]byte("abc")}})
	for name, one := range map[string]struct {
		content []byte
		fault   string
	}{
		"list":      {write([]struct{ L []int64 }{{[]int64{1, 2}}}), "f.parquet, column L: is a list, but a row must have one value in each column"},
		"map":       {write([]struct{ M map[string]int64 }{{map[string]int64{"a": 1}}}), "f.parquet, column M: is a list, but a row must have one value in each column"},
		"binary":    {write([]struct{ B []byte }{{[]byte("ok")}, {[]byte{0xff, 0}}}), "f.parquet, column B: holds bytes that are not text"},
		"half":      {write([]struct{ S string }{{"a\xc3"}, {"\xa9"}}), "f.parquet, column S: is text that is not UTF-8"},
		"fixed":     {write([]struct{ F [3]byte }{{[3]byte{1}}}), "f.parquet, column F: is 3 bytes without a type, which cannot be read"},
		"cut":       {whole[:len(whole)-9], "f.parquet: is incomplete: a Parquet file ends with a description of its columns, and this one does not. Copy or write it again"},
		"begun":     {[]byte("PAR1\x00"), "f.parquet: is incomplete"},
		"encrypted": {append(bytes.Clone(whole[:len(whole)-4]), "PARE"...), "f.parquet: is encrypted. Write it without encryption"},
		"size":      {append(bytes.Clone(whole[:len(whole)-8]), "\xff\xff\xff\x7fPAR1"...), "f.parquet: is damaged: its description would have 2147483647 bytes. Copy or write it again"},
	} {
		s, err := open(one.content)
		if err == nil {
			_, err = rowstest.Texts(s)
		}
		assert.ErrorContains(t, err, one.fault, name)
	}
}

// Damage anywhere is a fault of the file, or changes nothing but values; it never is a panic.
func TestDamageIsAFaultOfTheFile(t *testing.T) {
	var file bytes.Buffer
	w := parquet.NewWriter(&file, everyType)
	r := rand.New(rand.NewPCG(5, 5))
	block, _ := someRows(r, 3000, 1)
	require.NoError(t, w.Write(block))
	require.NoError(t, w.Close())
	for round := range 300 {
		content := bytes.Clone(file.Bytes())
		for range 1 + r.IntN(4) {
			at := r.IntN(len(content))
			if round%3 == 0 {
				at = len(content) - 1 - r.IntN(min(3000, len(content))) // in the description
			}
			content[at] ^= byte(1 + r.IntN(255))
		}
		s, err := open(content)
		if err == nil {
			_, err = rowstest.Texts(s)
		}
		if err != nil {
			assert.True(t, strings.HasPrefix(err.Error(), "f.parquet"), "%v", err)
			assert.NotContains(t, err.Error(), "runtime error")
		}
	}
}
