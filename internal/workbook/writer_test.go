package workbook_test

import (
	"bytes"
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"roundyear/civil"
	"roundyear/internal/workbook"
	"roundyear/rows"
	"roundyear/rows/rowstest"
)

func day(year int, month civil.Month, of int) int64 { return int64(civil.MustOf(year, month, of)) }

// Another library reads what is written: values, their formats, the frozen header, the table.
func TestWorkbookForAnotherLibrary(t *testing.T) {
	columns := []rows.Column{{Name: "key", Type: rows.Integer}, {Name: "day", Type: rows.Day}, {Name: "at", Type: rows.Moment, Scale: 3}, {Name: "time", Type: rows.Clock},
		{Name: "amount", Type: rows.Decimal, Scale: 2}, {Name: "rate", Type: rows.Float}, {Name: "is_open", Type: rows.Bool}, {Name: "note & <more>"}}
	block := rows.NewBlock(columns, 2, 0)
	for i := range columns {
		block.Vectors[i].AppendMissing()
	}
	for i, value := range []int64{20260101, day(2026, civil.January, 1), day(2026, civil.January, 1)*86400000 + 43200500, 3661, -123456, int64(math.Float64bits(0.1)), 1} {
		block.Vectors[i].Int = append(block.Vectors[i].Int, value)
	}
	block.Vectors[7].AppendBytes([]byte("=1+1 \x01 _x0041_ \"é\"\n end "))
	block.Count = 2
	var file bytes.Buffer
	w := workbook.NewWriter(&file, "Sales: 2026/27", columns)
	require.NoError(t, w.Write(block))
	require.NoError(t, w.Close())

	book, err := excelize.OpenReader(bytes.NewReader(file.Bytes()))
	require.NoError(t, err)
	assert.Equal(t, []string{"Sales_ 2026_27"}, book.GetSheetList())
	got, err := book.GetRows("Sales_ 2026_27")
	require.NoError(t, err)
	assert.Equal(t, [][]string{{"key", "day", "at", "time", "amount", "rate", "is_open", "note & <more>"}, nil,
		{"20260101", "2026-01-01", "2026-01-01 12:00:00", "01:01:01", "-1,234.56", "0.1", "TRUE", "=1+1 \x01 _x0041_ \"é\"\n end "}}, got)
	raw, err := book.GetRows("Sales_ 2026_27", excelize.Options{RawCellValue: true})
	require.NoError(t, err)
	assert.Equal(t, []string{"20260101", "46023", "46023.500005787035", "0.042372685185185187", "-1234.56", "0.1", "1", "=1+1 \x01 _x0041_ \"é\"\n end "}, raw[2])
	panes, err := book.GetPanes("Sales_ 2026_27")
	require.NoError(t, err)
	assert.True(t, panes.Freeze && panes.YSplit == 1)
	tables, err := book.GetTables("Sales_ 2026_27")
	require.NoError(t, err)
	require.Len(t, tables, 1)
	assert.Equal(t, "A1:H3", tables[0].Range)
	style, err := book.GetCellStyle("Sales_ 2026_27", "A1")
	require.NoError(t, err)
	header, err := book.GetStyle(style)
	require.NoError(t, err)
	assert.True(t, header.Font.Bold)
	width, err := book.GetColWidth("Sales_ 2026_27", "C")
	require.NoError(t, err)
	assert.InDelta(t, 24, width, 0.1, "as wide as 2026-01-01T12:00:00.500")
}

// What is written is read back as it was, in any order of types and with any blocks.
func TestWorkbooksComeBack(t *testing.T) {
	random := rand.New(rand.NewPCG(1, 2))
	columns := []rows.Column{{Name: "n", Type: rows.Integer}, {Name: "d", Type: rows.Day}, {Name: "m", Type: rows.Moment, Scale: 3}, {Name: "c", Type: rows.Clock, Scale: 3}, {Name: "x", Type: rows.Decimal, Scale: 4}, {Name: "b", Type: rows.Bool}, {Name: "t"}}
	letters := []rune("aé<>&\"' _x0041_\n\t\r\x01日💶")
	var file bytes.Buffer
	w := workbook.NewWriter(&file, "", columns)
	var want []string
	for range 30 {
		count := random.IntN(200)
		block := rows.NewBlock(columns, count, 0)
		for range count {
			text := make([]rune, random.IntN(12)+1)
			for i := range text {
				text[i] = letters[random.IntN(len(letters))]
			}
			date := day(1900, civil.March, 1) + random.Int64N(100000)
			for i, value := range []int64{random.Int64N(2e15) - 1e15, date, date*86400000 + random.Int64N(86400000), random.Int64N(86400000), random.Int64N(2e15) - 1e15, random.Int64N(2)} {
				if v := &block.Vectors[i]; random.IntN(9) == 0 {
					v.AppendMissing()
				} else {
					v.Int = append(v.Int, value)
				}
			}
			block.Vectors[6].AppendBytes([]byte(string(text)))
			line := fmt.Sprint(len(want) + 2)
			for i := range columns {
				v, at := &block.Vectors[i], block.Vectors[0].Len()-1
				if v.IsValid(at) {
					line += "|" + string(v.AppendText(nil, at))
				} else {
					line += "|∅"
				}
			}
			want = append(want, line)
			block.Count++
		}
		require.NoError(t, w.Write(block))
	}
	require.NoError(t, w.Close())
	for _, batch := range []int{0, 999, 20000} {
		s, err := open(file.Bytes(), "rows", workbook.Form{}, batch)
		require.NoError(t, err)
		assert.Equal(t, "n integer 0, d day 0, m moment 3, c clock 3, x decimal 4, b bool 0, t text 0", types(s))
		got, err := rowstest.Texts(s)
		require.NoError(t, err)
		require.Equal(t, want, got)
	}
}

// What a workbook would change is written as text.
func TestValuesThatWorkbooksChange(t *testing.T) {
	columns := []rows.Column{{Name: "n", Type: rows.Integer}, {Name: "d", Type: rows.Day}, {Name: "w", Type: rows.Decimal, Scale: 2, Wide: true}, {Name: "f", Type: rows.Float}}
	block := rows.NewBlock(columns, 1, 0)
	block.Vectors[0].Int = append(block.Vectors[0].Int, 1234567890123456)
	block.Vectors[1].Int = append(block.Vectors[1].Int, day(1900, civil.February, 28))
	block.Vectors[2].AppendBytes([]byte("12345678901234567890.12"))
	block.Vectors[3].Int = append(block.Vectors[3].Int, int64(math.Float64bits(math.Inf(1))))
	for _, i := range []int{0, 1, 3} {
		block.Vectors[i].AppendMissing()
	}
	block.Vectors[2].AppendBytes([]byte("-0.07000000000000000000")) // of which the zeros at the end change nothing
	block.Count = 2
	var file bytes.Buffer
	w := workbook.NewWriter(&file, "'", columns)
	require.NoError(t, w.Write(block))
	require.NoError(t, w.Close())
	book, err := excelize.OpenReader(bytes.NewReader(file.Bytes()))
	require.NoError(t, err)
	for cell, want := range map[string]string{"A2": "1234567890123456", "B2": "1900-02-28", "C2": "12345678901234567890.12", "D2": "+Inf"} {
		typ, err := book.GetCellType("rows", cell)
		require.NoError(t, err)
		assert.Equal(t, excelize.CellTypeInlineString, typ, cell)
		value, err := book.GetCellValue("rows", cell)
		require.NoError(t, err)
		assert.Equal(t, want, value)
	}
	raw, err := book.GetCellValue("rows", "C3", excelize.Options{RawCellValue: true})
	require.NoError(t, err)
	assert.Equal(t, "-0.07000000000000000000", raw)
	typ, err := book.GetCellType("rows", "C3")
	require.NoError(t, err)
	assert.Equal(t, excelize.CellTypeUnset, typ, "a number")
}

// A table needs rows, and names that spreadsheets tell apart; without it there is a filter.
func TestRowsThatAreNoTable(t *testing.T) {
	for name, c := range map[string]struct {
		columns []string
		count   int
	}{"no rows": {[]string{"a"}, 0}, "names": {[]string{"a", "A"}, 1}, "line break": {[]string{"a\nb"}, 1}, "long": {[]string{strings.Repeat("a", 256)}, 1}} {
		columns := rows.Texts(c.columns)
		block := rows.NewBlock(columns, c.count, 0)
		for range c.count {
			for i := range columns {
				block.Vectors[i].AppendBytes([]byte("x"))
			}
			block.Count++
		}
		var file bytes.Buffer
		w := workbook.NewWriter(&file, "s", columns)
		require.NoError(t, w.Write(block))
		require.NoError(t, w.Close(), name)
		book, err := excelize.OpenReader(bytes.NewReader(file.Bytes()))
		require.NoError(t, err)
		tables, err := book.GetTables("s")
		require.NoError(t, err)
		assert.Empty(t, tables, name)
		got, err := book.GetRows("s")
		require.NoError(t, err)
		assert.Equal(t, c.columns, got[0])
	}
}

func TestLimitsOfWorkbooks(t *testing.T) {
	columns := rows.Texts([]string{"note"})
	w := workbook.NewWriter(&bytes.Buffer{}, "s", columns)
	long := rows.NewBlock(columns, 1, 0)
	long.Vectors[0].AppendBytes(bytes.Repeat([]byte("é"), 32768))
	long.Count = 1
	require.NoError(t, w.Write(long))
	assert.EqualError(t, w.Close(), "column note: has a text of 32768 characters; a cell of a workbook has at most 32767. Write CSV or Parquet")

	w = workbook.NewWriter(&bytes.Buffer{}, "s", columns)
	many := rows.NewBlock(columns, workbook.MaxRows, 0)
	for range workbook.MaxRows {
		many.Vectors[0].AppendMissing()
	}
	many.Count = workbook.MaxRows
	assert.EqualError(t, w.Write(many), "a sheet has at most 1048575 rows below its header. Write CSV or Parquet, or fewer rows with --from and --to")
}

func TestNamesOfSheets(t *testing.T) {
	for text, want := range map[string]string{"": "rows", "sales": "sales", "a[b]:c*?/\\": "a_b__c____", "'x'": "x", "History": "rows", strings.Repeat("é", 40): strings.Repeat("é", 31)} {
		assert.Equal(t, want, workbook.SheetName(text))
	}
}
