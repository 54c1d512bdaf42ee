package cli_test

import (
	"archive/zip"
	"bytes"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
)

// writeBook writes a workbook as people have them: a title above the header, real dates, a sheet of plans.
const writeBook = `
import openpyxl, datetime as d
wb = openpyxl.Workbook()
ws = wb.active
ws.title = "Receipts"
ws["A1"] = "Maple & Finch Home: receipts"
ws.merge_cells("A1:D1")
ws.append([])
ws.append(["receipt", "sold", "store", "amount"])
for i in range(100):
    ws.append([1000 + i, d.datetime(2026, 1, 1, 9) + d.timedelta(hours=11 * i), "Galway" if i % 2 else "Cork", i + 0.25])
plan = wb.create_sheet("Plan")
plan.append(["month", "amount"])
for month in range(1, 5):
    plan.append([d.date(2026, month, 1), 1000 * month])
wb.save("book.xlsx")
`

func TestWorkbooksOfAnotherProgram(t *testing.T) {
	folder := t.TempDir()
	python(t, folder, writeBook)
	out := done(t, folder, "survey", "book.xlsx#Receipts", "--no-plan")
	assert.Contains(t, out.err, "book.xlsx#Receipts: the header is in row 3; the rows above it are skipped")
	assert.Contains(t, out.err, "book.xlsx#Receipts: 100 rows, 1 date column")
	out = done(t, folder, "totals", "book.xlsx#plan", "--sum", "amount", "--no-plan", "--as-of", "2026-05-01")
	assert.Contains(t, out.out, "2026-04,2026-04-01,2026-04-30,4000,false,false")
	out = done(t, folder, "normalise", "book.xlsx#1", "-o", "clean.xlsx", "--no-plan", "--columns", "fiscal_year")
	assert.Contains(t, out.err, "100 rows read, 100 written to clean.xlsx, 0 rejected")
	assert.Equal(t, `clean ['receipt', 'sold', 'store', 'amount', 'sold_date', 'sold_time', 'sold_key', 'fiscal_year']
[1099, '2026-02-15T18:00:00', 'Galway', 99.25, '2026-02-15T00:00:00', '18:00:00', 20260215, 2026]
A2 A1:H101
`, python(t, folder, `
import openpyxl
ws = openpyxl.load_workbook("clean.xlsx").worksheets[0]
rows = [[v.isoformat() if hasattr(v, "isoformat") else v for v in row] for row in ws.values]
print(ws.title, rows[0]); print(rows[-1]); print(ws.freeze_panes, ws.tables["rows_1"].ref)`))
	done(t, folder, "normalise", "book.xlsx#Receipts", "-o", "clean.parquet", "--no-plan")
	out = done(t, folder, "totals", "clean.parquet", "--sum", "amount", "--by", "store", "--grain", "year", "--date", "sold_date", "--no-plan", "--as-of", "2027-01-01", "--loaded-through", "2026-12-31")
	assert.Contains(t, out.out, "2026,2026-01-01,2026-12-31,Cork,2462.50,false,false")
	assert.Contains(t, out.out, "2026,2026-01-01,2026-12-31,Galway,2512.50,false,false")

	done(t, folder, "build", "--cover", "book.xlsx#Plan:month", "-o", "dates.xlsx", "--no-plan")
	done(t, folder, "check", "dates.xlsx", "--cover", "book.xlsx#Plan:month", "--no-plan")

	// A workbook with other sheets is not replaced; one that was written here is.
	for _, call := range [][]string{{"build", "--from", "2026-01-01", "--to", "2026-01-31"}, {"normalise", "clean.xlsx", "--date", "sold_date"}, {"totals", "clean.parquet", "--date", "sold_date", "--count"}} {
		refused := run(t, folder, append(call, "-o", "book.xlsx", "--no-plan")...)
		assert.Equal(t, 2, refused.code, "%v", call)
		assert.Contains(t, refused.err, "book.xlsx: is a workbook with other sheets (Receipts, Plan), which would be gone. Write to a file of its own")
	}
	done(t, folder, "build", "--cover", "book.xlsx#Plan:month", "-o", "dates.xlsx", "--no-plan")

	result := run(t, folder, "totals", "book.xlsx", "--no-plan")
	assert.Equal(t, 2, result.code)
	assert.Contains(t, result.err, `book.xlsx: has 2 sheets: Receipts, Plan. Name one of them: "book.xlsx#Receipts"`)
	result = run(t, folder, "totals", "book.xlsx#Plann", "--no-plan")
	assert.Equal(t, 3, result.code)
	assert.Contains(t, result.err, `book.xlsx: has no sheet "Plann". Did you mean "book.xlsx#Plan"?`)
}

// sheetOf writes a workbook with the cells of rows.
func sheetOf(t *testing.T, path string, lines ...[]any) {
	t.Helper()
	book := excelize.NewFile()
	for i, line := range lines {
		require.NoError(t, book.SetSheetRow("Sheet1", fmt.Sprintf("A%d", i+1), &line))
	}
	require.NoError(t, book.SaveAs(path))
}

// Workbooks of several months are read together, though a column has decimals in one and none in another.
func TestSeveralWorkbooks(t *testing.T) {
	folder := t.TempDir()
	sheetOf(t, filepath.Join(folder, "till-1.xlsx"), []any{"sold", "amount"}, []any{"2026-01-31", 10})
	sheetOf(t, filepath.Join(folder, "till-2.xlsx"), []any{"sold", "amount"}, []any{"2026-02-01", 0.1}, []any{"2026-02-01", 0.2})
	out := done(t, folder, "totals", "till-*.xlsx", "--sum", "amount", "--no-plan", "--as-of", "2026-03-01")
	assert.Contains(t, out.out, "2026-01,2026-01-01,2026-01-31,10.0,false,false")
	assert.Contains(t, out.out, "2026-02,2026-02-01,2026-02-28,0.3,false,false")
	out = done(t, folder, "totals", "till-*.xlsx#1", "--sum", "amount", "--no-plan", "--as-of", "2026-03-01")
	assert.Contains(t, out.out, "0.3")
}

// Rejected rows of a workbook can be corrected as text.
func TestRejectsOfWorkbooks(t *testing.T) {
	folder := t.TempDir()
	sheetOf(t, filepath.Join(folder, "in.xlsx"), []any{"sold", "amount"}, []any{"2026-01-31", 10}, []any{"2026-02-30", 11}, []any{"2026-02-01", 12})
	attended(t, folder, "normalise", "in.xlsx", "-o", "out.xlsx", "--no-plan")
	assert.Equal(t, "sold,amount,line,column,value,reason\n2026-02-30,11,3,sold,2026-02-30,\"read as yyyy-MM-dd, but February 2026 has 28 days\"\n", textOf(t, folder, "out.rejects.csv"))
}

// A small file that claims to be enormous is refused before it is unpacked; a million empty rows are not enormous.
func TestEnormousWorkbooks(t *testing.T) {
	folder := t.TempDir()
	sheetOf(t, filepath.Join(folder, "in.xlsx"), []any{"sold"}, []any{"2026-01-31"})
	original, err := zip.OpenReader(filepath.Join(folder, "in.xlsx"))
	require.NoError(t, err)
	defer original.Close()
	repack := func(name string, change func(*zip.Writer, *zip.File)) {
		var file bytes.Buffer
		archive := zip.NewWriter(&file)
		for _, part := range original.File {
			if part.Name == "xl/worksheets/sheet1.xml" {
				change(archive, part)
				continue
			}
			require.NoError(t, archive.Copy(part))
		}
		require.NoError(t, archive.Close())
		require.NoError(t, os.WriteFile(filepath.Join(folder, name), file.Bytes(), 0o600))
	}
	repack("bomb.xlsx", func(archive *zip.Writer, part *zip.File) {
		header := part.FileHeader
		header.UncompressedSize64 = 9 << 30
		out, err := archive.CreateRaw(&header)
		require.NoError(t, err)
		in, err := part.OpenRaw()
		require.NoError(t, err)
		var raw bytes.Buffer
		_, err = raw.ReadFrom(in)
		require.NoError(t, err)
		_, err = out.Write(raw.Bytes())
		require.NoError(t, err)
	})
	result := run(t, folder, "survey", "bomb.xlsx", "--no-plan")
	assert.Equal(t, 3, result.code)
	assert.Contains(t, result.err, "bomb.xlsx: the sheet Sheet1 unpacks to 9 GB; at most 8 GB are read")

	repack("blank.xlsx", func(archive *zip.Writer, part *zip.File) {
		out, err := archive.Create(part.Name)
		require.NoError(t, err)
		_, err = out.Write([]byte(`<worksheet><sheetData><row r="1"><c t="str"><v>sold</v></c></row><row r="2"><c t="str"><v>2026-01-31</v></c></row>` +
			strings.Repeat(`<row ht="15"><c s="0"/></row>`, 1_000_000) + `<row><c t="str"><v>2026-02-01</v></c></row></sheetData></worksheet>`))
		require.NoError(t, err)
	})
	out := done(t, folder, "normalise", "blank.xlsx", "--format", "csv", "--no-plan")
	assert.Contains(t, out.out, "2026-02-01,2026-02-01,20260201\n")
	result = run(t, folder, "survey", "blank.xlsx#Sheet 9", "--no-plan")
	assert.Equal(t, 3, result.code)
	assert.Contains(t, result.err, `has no sheet "Sheet 9"`)
}

// A workbook of the date table describes its columns in a second sheet, and is still read and replaced like any other.
func TestWorkbookWithItsColumns(t *testing.T) {
	folder := t.TempDir()
	build := []string{"build", "--from", "2026-01-01", "--to", "2026-12-31", "--columns", "core", "--model", "--no-plan", "-o", "Dates.xlsx"}
	done(t, folder, build...)
	done(t, folder, build...)
	out := python(t, folder, `
import openpyxl
book = openpyxl.load_workbook("Dates.xlsx")
print(book.sheetnames, [list(s.tables) for s in book], book["Dates"].max_row)
rows = list(book["columns"].values)
print(rows[0], len(rows) - 1 == book["Dates"].max_column, [r[0] for r in rows[1:]] == [c.value for c in book["Dates"][1]])
print([r[:4] for r in rows if r[0] == "month_name"])
`)
	assert.Equal(t, "['Dates', 'columns'] [['rows_1'], ['rows_2']] 366\n('name', 'type', 'group', 'sort_by', 'meaning') True True\n[('month_name', 'text', 'core', 'month')]\n", out)
	assert.Contains(t, done(t, folder, "check", "Dates.xlsx", "--no-plan").err, "365 rows, one per day from 2026-01-01 to 2026-12-31")
	assert.Contains(t, done(t, folder, "totals", "Dates.xlsx", "--date", "date", "--count", "--grain", "year", "--no-plan", "--as-of", "2027-01-01").out, "365")
	// A sheet of another name is not passed over.
	book := excelize.NewFile()
	require.NoError(t, book.SetCellValue("Sheet1", "A1", "day"))
	for _, name := range []string{"columns", "more"} {
		_, err := book.NewSheet(name)
		require.NoError(t, err)
	}
	require.NoError(t, book.SaveAs(filepath.Join(folder, "own.xlsx")))
	refused := run(t, folder, append(build[:len(build)-1:len(build)-1], "own.xlsx")...)
	assert.Equal(t, 2, refused.code)
	assert.Contains(t, refused.err, "own.xlsx: is a workbook with other sheets (Sheet1, columns, more), which would be gone")
	assert.Contains(t, run(t, folder, "survey", "own.xlsx").err, "has 3 sheets: Sheet1, columns, more")
}

// A workbook that was opened with another order of day and month is not read until somebody says what to do about it.
func TestSwappedDatesOfAWorkbookStop(t *testing.T) {
	folder := t.TempDir()
	rows, months := [][]any{{"d", "n"}}, make([]int, 8)
	for i := range 60 {
		day := time.Date(2026, 1, 3, 0, 0, 0, 0, time.UTC).AddDate(0, 0, 4*i)
		months[day.Month()-1]++
		if day.Day() <= 12 {
			rows = append(rows, []any{time.Date(2026, time.Month(day.Day()), int(day.Month()), 0, 0, 0, 0, time.UTC), 1})
		} else {
			rows = append(rows, []any{day.Format("02/01/2006"), 1})
		}
	}
	sheetOf(t, filepath.Join(folder, "s.xlsx"), rows...)
	for _, call := range [][]string{{"normalise", "s.xlsx", "-o", "o.csv"}, {"totals", "s.xlsx", "--sum", "n"}, {"fill", "s.xlsx", "--sum", "n"}, {"latest", "s.xlsx", "--sum", "n"}, {"build", "--cover", "s.xlsx:d", "-o", "dates.csv"}} {
		stopped := run(t, folder, append(call, "--no-plan")...)
		assert.Equal(t, 2, stopped.code, call)
		assert.Regexp(t, `s.xlsx, column d: seems to have day and month swapped in its date cells: the days of all \d+ cells are up to 12, those of all \d+ texts beside them above. Add --swapped d to swap them back, or --swapped d=no if they are right`, stopped.err)
		assert.NoFileExists(t, filepath.Join(folder, "o.csv"))
	}
	surveyed := attended(t, folder, "survey", "s.xlsx", "--no-plan")
	assert.Contains(t, surveyed.err, "next: roundyear normalise s.xlsx --date d --swapped d --no-plan -o clean.xlsx\n      or --swapped d=no, whichever is right\n")
	mended := done(t, folder, "totals", "s.xlsx", "--count", "--grain", "month", "--swapped", "d", "--no-plan", "--as-of", "2026-08-28", "--format", "csv")
	assert.Equal(t, fmt.Sprint(months), fmt.Sprint(countsOf(mended.out)))
	done(t, folder, "totals", "s.xlsx", "--count", "--swapped", "d=no", "--no-plan", "--as-of", "2027-01-01", "--loaded-through", "2027-01-01")
	require.NoError(t, os.WriteFile(filepath.Join(folder, "roundyear.yaml"), []byte("roundyear: 1\nfacts:\n  s: {files: s.xlsx, swapped: {d: true}, dates: {d: {}}}\n"), 0o600))
	done(t, folder, "plan", "check")
	planned := done(t, folder, "totals", "s", "--count", "--grain", "month", "--as-of", "2026-08-28", "--format", "csv")
	assert.Equal(t, countsOf(mended.out), countsOf(planned.out))
	// What is asked for and cannot be done is no silence.
	require.NoError(t, os.WriteFile(filepath.Join(folder, "s.csv"), []byte("d,n\n2026-01-05,1\n"), 0o600))
	for file, want := range map[[2]string]string{
		{"postgres://127.0.0.1:1/d#t", "d"}: "postgres://127.0.0.1:1/d#t: is no workbook",
		{"s.csv", "d"}:                      "s.csv: is no workbook, of which --swapped or the plan says that dates are swapped",
		{"s.xlsx", "day"}:                   `s.xlsx: has no column "day", which --swapped or the plan names. The columns are d, n`,
		{"s.xlsx", "n"}:                     "s.xlsx, column n: has no date cells to swap day and month in",
		{"s.xlsx", "x=no"}:                  `s.xlsx: has no column "x"`,
	} {
		refused := run(t, folder, "totals", file[0], "--count", "--swapped", file[1], "--no-plan")
		assert.Equal(t, 2, refused.code, file)
		assert.Contains(t, refused.err, want)
	}
	assert.Contains(t, run(t, folder, "totals", "s.xlsx", "--count", "--swapped", "d=maybe").err, "--swapped must be COLUMN, COLUMN=yes or COLUMN=no")
}

// countsOf returns the fourth field of each row.
func countsOf(text string) (counts []string) {
	for _, line := range strings.Split(strings.TrimSpace(text), "\n")[1:] {
		counts = append(counts, strings.Split(line, ",")[3])
	}
	return counts
}

// How a workbook shows numbers stays from one to the next: percent, and hours beyond a day, which are text elsewhere.
func TestFormatsGoFromWorkbookToWorkbook(t *testing.T) {
	folder := t.TempDir()
	book := excelize.NewFile()
	shown := []string{"", "0.0%", "[h]:mm", "[h]:mm", "0%"}
	for i, line := range [][]any{{"sold", "rate", "worked", "mixed", "whole"}, {"2026-01-31", 0.125, 1.5, 0.25, 1}, {"2026-02-28", -0.5, 2.0 / 86400, "none", 2}, {"2026-02-27", nil, -0.25, 0.5, nil}} {
		require.NoError(t, book.SetSheetRow("Sheet1", fmt.Sprintf("A%d", i+1), &line))
	}
	for i, format := range shown[1:] {
		style, err := book.NewStyle(&excelize.Style{CustomNumFmt: &format})
		require.NoError(t, err)
		column := string(rune('B' + i))
		require.NoError(t, book.SetCellStyle("Sheet1", column+"2", column+"4", style))
	}
	require.NoError(t, book.SaveAs(filepath.Join(folder, "in.xlsx")))
	read := func(name string) (shown, raw [][]string) {
		written, err := excelize.OpenFile(filepath.Join(folder, name))
		require.NoError(t, err)
		defer func() { require.NoError(t, written.Close()) }()
		shown, err = written.GetRows(written.GetSheetName(0))
		require.NoError(t, err)
		raw, err = written.GetRows(written.GetSheetName(0), excelize.Options{RawCellValue: true})
		require.NoError(t, err)
		return shown, raw
	}
	for _, flags := range [][]string{nil, {"--sort", "sold"}, {"--distinct", "rate,worked"}, {"--keep", "sold,rate,worked,mixed,whole"}, {"--rename", "worked=hours"}} {
		done(t, folder, append([]string{"normalise", "in.xlsx", "-o", "out.xlsx", "--no-plan", "--columns", "month"}, flags...)...)
		values, raw := read("out.xlsx")
		at := 1
		assert.Equal(t, "12.5%", values[at][1], flags)
		assert.Equal(t, []string{"0.125", "1.5"}, raw[at][1:3], flags)
		assert.Equal(t, "36:00:00", values[at][2], flags)
		assert.Equal(t, []string{"6:00:00", "100%"}, values[at][3:5], "a column with other texts is text")
		// A workbook of ours reads as the one that it came from.
		done(t, folder, "normalise", "out.xlsx", "-o", "again.xlsx", "--date", "sold_date", "--no-plan", "--columns", "year")
		again, _ := read("again.xlsx")
		for i := range again {
			assert.Equal(t, values[i][:5], again[i][:5])
		}
	}
	text := done(t, folder, "normalise", "in.xlsx", "--format", "csv", "--no-plan", "--columns", "month").out
	assert.Contains(t, text, "2026-01-31,0.125,36:00:00,6:00:00,1,")
	assert.Contains(t, text, "2026-02-28,-0.500,0:00:02,none,2,")
	assert.Contains(t, text, "2026-02-27,,-6:00:00,12:00:00,,")
	// Sheets that show a column in two ways show it in neither.
	sheetOf(t, filepath.Join(folder, "in2.xlsx"), []any{"sold", "rate", "worked", "mixed", "whole"}, []any{"2026-03-01", 0.5, "12:00:00", "x", 3})
	done(t, folder, "normalise", "in*.xlsx", "-o", "out.xlsx", "--no-plan", "--columns", "month")
	values, _ := read("out.xlsx")
	assert.Equal(t, "0.125", values[1][1])
	assert.Equal(t, "36:00:00", values[1][2])
	assert.Equal(t, "1", values[1][4])
}
