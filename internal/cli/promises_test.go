package cli_test

import (
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
)

// Columns of the year, the month and the day are found though a row of few has none.
func TestSurveyFindsPartsBesideBadRows(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": "sold_year,sold_month,sold_day,n\n2026,1,5,1\n2026,1,6,1\n2026,2,30,1\n2026,2,7,1\n2026,3,8,1\n2026,3,9,1\n"})
	said := run(t, folder, "survey", "s.csv", "--no-plan")
	assert.Contains(t, said.err, "next: roundyear normalise s.csv --parts sold=sold_year,sold_month,sold_day --no-plan -o clean.csv")
}

// Ordinal dates without a hyphen are numbers: the survey proposes their pattern, which reads them.
func TestOrdinalDatesAreProposed(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": "sold_date,n\n2026059,1\n2024366,2\n"})
	assert.Contains(t, done(t, folder, "survey", "s.csv", "--no-plan").err, "sold_date contains numbers that may be dates: 2026059 would be 2026-02-28; if so, add --pattern sold_date=yyyyDDD")
	assert.Contains(t, done(t, folder, "normalise", "s.csv", "--pattern", "sold_date=yyyyDDD", "--no-plan").out, "2024366,2,2024-12-31,20241231\n")
}

// Rows are read from their database: what was to be done inside it is refused, and not done here without a word.
func TestFillOfRowsIsNotInside(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": "d,n\n2026-01-05,1\n2026-03-05,2\n"})
	done(t, folder, "normalise", "s.csv", "--no-plan", "-o", "s.db#s")
	refused := run(t, folder, "fill", "s.db#s", "--date", "d_date", "--no-plan", "--run", "inside")
	assert.Equal(t, 2, refused.code)
	assert.Contains(t, refused.err, "without a measure fill writes rows, which are read from the database; add one such as --sum, or omit --run inside")
	assert.Contains(t, done(t, folder, "fill", "s.db#s", "--date", "d_date", "--no-plan", "--sum", "n", "--run", "inside", "--format", "csv").out, "\n2026-02,2026-02-01,2026-02-28,0,true,false\n")
}

// A list of days off in a table of a page whose first row is a day, without a header, has that day.
func TestADayOffInTheFirstRowOfAPage(t *testing.T) {
	folder := folderWith(t, map[string]string{
		"days.html": "<table><tr><td>1 January 2026</td><td>New Year</td></tr><tr><td>5 May 2026</td><td>Fair</td></tr></table>",
		"p.yaml":    "roundyear: 1\ndays_off:\n  - {file: days.html, columns: {date: column_1, name: column_2}}\n",
	})
	assert.Contains(t, done(t, folder, "days-off", "--plan", "p.yaml", "--from", "2026-01-01", "--to", "2026-12-31", "--format", "csv").out, "2026-01-01,")
}

// What is wrong in the data and what is wrong with its file have exit codes of their own, the same in every command.
func TestExitCodesOfWhatIsWrong(t *testing.T) {
	folder := folderWith(t, map[string]string{
		"ragged.csv": "d,n\n2026-01-01,1,2\n", "encoding.csv": "d,n\n2026-01-01,a\xe9\n", "quote.csv": "d,n\n2026-01-01,\"1\n", "old.xls": "\xD0\xCF\x11\xE0\xA1\xB1\x1A\xE1 and more",
		"date.csv": "d,n\n2026-01-02,1\nsoon,1\n", "number.csv": "d,n\n2026-01-01,x\n", "right.csv": "d,n\n2026-01-01,1\n",
	})
	sheetOf(t, filepath.Join(folder, "book.xlsx"), []any{"d", "n"}, []any{"2026-01-31", 10})
	done(t, folder, "normalise", "right.csv", "-o", "s.db#right", "--no-plan")
	for _, command := range []string{"totals", "fill", "latest"} {
		for file, want := range map[string]int{
			"ragged.csv": 3, "encoding.csv": 3, "quote.csv": 3, "old.xls": 3, "none.csv": 3, "book.xlsx#Nope": 3, "s.db#nope": 3, "none.db#x": 3, "none/*.csv": 3,
			"date.csv": 2, "number.csv": 2,
		} {
			failed := run(t, folder, command, file, "--date", "d", "--sum", "n", "--no-plan")
			assert.Equal(t, want, failed.code, "%s %s: %s", command, file, failed.err)
			assert.Empty(t, failed.out)
		}
		assert.Equal(t, 2, run(t, folder, command, "right.csv", "--date", "day", "--sum", "n", "--no-plan").code)
	}
}

// The plan's numbers are those of --number.
func TestNumbersOfThePlan(t *testing.T) {
	folder := folderWith(t, map[string]string{
		"s.csv":          "day;Betrag\n2026-03-02;1.234,50 €\n2026-03-03;zwölf\n",
		"roundyear.yaml": "roundyear: 1\nfacts:\n  s: {files: s.csv, numbers: Betrag, dates: {day: {}}}\n",
	})
	said := run(t, folder, "normalise", "s.csv", "-o", "o.csv", "--rejects", "r.csv")
	assert.Equal(t, 1, said.code, said.err)
	assert.Contains(t, textOf(t, folder, "o.csv"), "2026-03-02;1.234,50 €;2026-03-02;20260302;1234.50\n")
	assert.Contains(t, textOf(t, folder, "r.csv"), "zwölf")
}

// A key that rows are grouped by stays what it is, and so joins on.
func TestKeysOfACensusKeepTheirTypes(t *testing.T) {
	folder := folderWith(t, map[string]string{"c.csv": "id,site,open,closed\n1,4,2026-01-05,2026-02-01\n2,7,2026-01-09,\n"})
	done(t, folder, "normalise", "c.csv", "--date", "open", "--no-plan", "-o", "c.parquet")
	call := []string{"census", "c.parquet", "--opened", "open", "--closed", "closed", "--by", "site", "--as-of", "2026-02-15", "--no-plan"}
	assert.Contains(t, done(t, folder, append(call, "--format", "jsonl")...).out, `"site":4,"open":1,`)
	assert.Contains(t, done(t, folder, append(call, "--cohort", "--format", "jsonl")...).out, `"site":7,"opened":1,`)
	done(t, folder, append(call, "-o", "o.parquet")...)
	assert.Contains(t, done(t, folder, "normalise", "o.parquet", "--date", "period_start", "--no-plan", "--format", "jsonl").out, `"site":4,`)
}
