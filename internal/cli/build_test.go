package cli_test

import (
	"encoding/csv"
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestBuildWritesADayARow(t *testing.T) {
	folder := t.TempDir()
	result := done(t, folder, "build", "--from", "2024-02-28", "--to", "2024-03-01", "--fiscal-start", "mar", "--columns", "date_key,date,fiscal_year_label,fiscal_month_name,is_workday")
	assert.Equal(t, "date_key,date,fiscal_year_label,fiscal_month_name,is_workday\n"+
		"20240228,2024-02-28,FY2024,February,true\n20240229,2024-02-29,FY2024,February,true\n20240301,2024-03-01,FY2025,March,true\n", result.out)
	assert.Contains(t, result.err, "3 rows, one per day from 2024-02-28 to 2024-03-01, with 5 attributes")
	assert.Contains(t, result.err, "Fiscal years run from 1 March and are named by the year in which they end: FY2025 runs from 2024-03-01 to 2025-02-28")
	assert.Contains(t, result.err, "Incomplete at the end: 2024, 2024 Q1, 2024-03, fiscal FY2025, fiscal FY2025 Q1, fiscal FY2025 P01; their totals lack the days after 2024-03-01")
	assert.Contains(t, result.err, "For the days from 2024-02-28 to 2024-03-01 the same day a year earlier is not in the table")
}

func TestBuildHasTheAttributesOfEveryGroup(t *testing.T) {
	result := done(t, t.TempDir(), "build", "--from", "2026-01-01", "--to", "2026-12-31", "-q")
	rows, err := csv.NewReader(strings.NewReader(result.out)).ReadAll()
	require.NoError(t, err)
	assert.Len(t, rows, 366)
	for _, name := range strings.Fields(`date_key date year half quarter quarter_name quarter_key quarter_label month month_name
		month_short month_label month_key day_of_month day_of_year day_of_quarter day_of_week day_name day_short week week_year iso_week
		iso_year week_of_month nth_weekday_of_month week_start week_end month_start month_end quarter_start quarter_end year_start year_end
		days_in_month is_leap_year is_weekend is_workday fiscal_year fiscal_year_label fiscal_half fiscal_quarter fiscal_quarter_label
		fiscal_month fiscal_month_name fiscal_month_label fiscal_week fiscal_day_of_year fiscal_week_start fiscal_week_end fiscal_month_start
		fiscal_month_end fiscal_quarter_start fiscal_quarter_end fiscal_half_start fiscal_half_end fiscal_year_start fiscal_year_end
		running_week running_month running_quarter running_year fiscal_running_week fiscal_running_month`) {
		assert.Contains(t, rows[0], name)
	}
	assert.Empty(t, result.err)
}

func TestTheRangeOfADimension(t *testing.T) {
	folder := folderWith(t, map[string]string{
		"sales.csv":  "sold,n\n2024-03-05,1\n2025-11-30,2\n9999-12-31,3\n,4\n",
		"orders.csv": "due\n26 Feb 2026\n1 Jan 2025\n",
		"blank.csv":  "due,n\n,1\n",
	})
	covers := []string{"--cover", "sales.csv:sold", "--cover", "orders.csv:due"}
	for _, c := range []struct {
		args        []string
		first, last string
	}{
		{[]string{"--from", "2025-03-05", "--to", "2026-02-03"}, "2025-03-05", "2026-02-03"},
		{[]string{"--from", "2025-03-05", "--to", "2026-02-03", "--whole-years"}, "2025-01-01", "2026-12-31"},
		{[]string{"--from", "2025-03-05", "--to", "2026-02-03", "--whole-years", "--fiscal-start", "4"}, "2024-04-01", "2026-12-31"},
		{[]string{"--from", "2025-03-05", "--to", "2026-02-28", "--pad-years", "2"}, "2023-03-05", "2028-02-29"},
		{append(covers, "--exact"), "2024-03-05", "2026-02-26"},
		{covers, "2024-01-01", "2026-12-31"},
		{append(covers, "--fiscal-end", "june"), "2023-07-01", "2026-12-31"},
		{append(covers, "--fiscal-end", "february", "--pad-years", "1"), "2023-01-01", "2027-12-31"},
	} {
		result := done(t, folder, append([]string{"build", "--columns", "date"}, c.args...)...)
		lines := strings.Split(strings.TrimSpace(result.out), "\n")
		assert.Equal(t, []string{c.first, c.last}, []string{lines[1], lines[len(lines)-1]}, "%v", c.args)
	}
	result := done(t, folder, append([]string{"build", "-o", "d.csv"}, covers...)...)
	assert.Contains(t, result.err, "Complete calendar years: 2024 to 2026\n")
	assert.Contains(t, result.err, "excluded from the range: 9999-12-31 (1 fact), a placeholder date")
	assert.Contains(t, result.err, "next: roundyear check d.csv --cover sales.csv:sold --cover orders.csv:due")
	result = run(t, folder, "build", "--cover", "blank.csv:due")
	assert.Equal(t, 2, result.code)
	assert.Contains(t, result.err, "blank.csv:due: contains no dates to cover")
}

func TestBuildWritesSeveralFormatsAtOnce(t *testing.T) {
	folder := t.TempDir()
	done(t, folder, "build", "--from", "2026-01-01", "--to", "2026-01-02", "--columns", "date,month_name,is_weekend", "-o", "a/d.csv", "-o", "d.jsonl", "-o", "d.md", "-o", "d.tsv", "-o", "d.txt", "--format", "table")
	assert.Equal(t, "date,month_name,is_weekend\n2026-01-01,January,false\n2026-01-02,January,false\n", textOf(t, folder, "a/d.csv"))
	assert.Equal(t, "date\tmonth_name\tis_weekend\n2026-01-01\tJanuary\tfalse\n2026-01-02\tJanuary\tfalse\n", textOf(t, folder, "d.tsv"))
	assert.Contains(t, textOf(t, folder, "d.jsonl"), `{"date":"2026-01-02","month_name":"January","is_weekend":false}`)
	assert.Contains(t, textOf(t, folder, "d.md"), "| 2026-01-02 | January | false |")
	assert.Contains(t, textOf(t, folder, "d.txt"), "2026-01-02  January")
	result := run(t, folder, "build", "--from", "2026-01-01", "--to", "2026-01-02", "-o", "ok.csv", "-o", "d.xml")
	assert.Equal(t, 2, result.code)
	assert.NoFileExists(t, filepath.Join(folder, "ok.csv"), "all outputs or none")
}

func TestWeeksFollowTheFlags(t *testing.T) {
	result := done(t, t.TempDir(), "build", "--from", "2026-01-03", "--to", "2026-01-04", "--week-start", "sun", "--week-min-days", "1", "--weekend", "friday,saturday",
		"--columns", "day_of_week,week_label,iso_week_label,is_workday", "-q")
	assert.Equal(t, "day_of_week,week_label,iso_week_label,is_workday\n7,2026 W01,2026-W01,false\n1,2026 W02,2026-W01,true\n", result.out)
}

func TestColumnsListsTheCatalogue(t *testing.T) {
	result := done(t, t.TempDir(), "columns", "--fiscal-start", "april", "--format", "jsonl")
	lines := strings.Split(strings.TrimSpace(result.out), "\n")
	assert.Greater(t, len(lines), 80)
	assert.Contains(t, result.out, `{"name":"fiscal_month_name","group":"fiscal","type":"text","sort_by":"fiscal_month","same_for":"fiscal.month","example":"January","meaning":"Name of the month; sorts with April first: March."}`)
	for _, line := range lines {
		assert.True(t, json.Valid([]byte(line)), line)
	}
}

func TestCheckProvesATable(t *testing.T) {
	folder := folderWith(t, map[string]string{"sales.csv": "sold,n\n2024-03-05,1\n2025-11-30,2\n,3\n"})
	done(t, folder, "build", "--cover", "sales.csv:sold", "-o", "d.csv")
	result := done(t, folder, "check", "d.csv", "--cover", "sales.csv:sold")
	assert.Contains(t, result.err, "d.csv: no faults found: 731 rows, one per day from 2024-01-01 to 2025-12-31")
	assert.Contains(t, result.err, "731 keys match their dates")
	assert.Contains(t, result.err, "sales.csv:sold: 2 of 2 dates are in the table; 1 row without a date")
}

func TestCheckSaysWhatIsWrongAndWhere(t *testing.T) {
	folder := folderWith(t, map[string]string{
		"d.csv": "date_key,date\n20260101,2026-01-01\n20260102,2026-01-02\n20260102,2026-01-02\n20260105,2026-01-05\n,\n20260107,2026-01-06\n" +
			"20260104,2026-01-04\n20260109,2026-01-09\nx,2026-13-01\n",
		"sales.csv": "sold\n2026-01-07\n2026-01-08\n2026-01-08\n2026-01-01\n",
		"timed.csv": "day\n2026-01-01 00:00\n2026-01-02 10:30\n",
	})
	result := run(t, folder, "check", "d.csv", "--cover", "sales.csv:sold")
	assert.Equal(t, 1, result.code)
	assert.Empty(t, result.out)
	for _, want := range []string{
		`d.csv: faults found: blank date, unreadable date, duplicate day, missing days, out of order, wrong key, incomplete year, facts not in the table`,
		`blank date +line 6 +add the date or delete the row`,
		`unreadable date +line 10 +"2026-13-01" is not a date in the column's format`,
		`duplicate day +2026-01-02 +lines 3, 4 +delete 1 row: facts of that day would count twice`,
		`missing days +2026-01-03 +add 1 day`,
		`missing days +2026-01-07 to 2026-01-08 +add 2 days`,
		`out of order +2026-01-04 +lines 7, 8 +comes after 2026-01-06; sort the table by date`,
		`wrong key +2026-01-06 +line 7 +the key is "20260107" but should be 20260106`,
		`facts not in the table +2026-01-07 to 2026-01-08 +sales.csv:sold +add the days: 3 facts would be lost`,
		`sales.csv:sold: 1 of 4 dates are in the table`,
	} {
		assert.Regexp(t, want, result.err)
	}
	result = run(t, folder, "check", "d.csv", "--cover", "sales.csv:sold", "--json")
	assert.Equal(t, 1, result.code)
	var report struct {
		Valid  *bool
		Rows   int
		Faults []struct {
			Kind        string
			First, Last string
			Lines       []int
			Count       int
		}
		Facts []struct{ Facts, Placed int }
	}
	require.NoError(t, json.Unmarshal([]byte(result.out), &report))
	require.NotNil(t, report.Valid)
	assert.False(t, *report.Valid)
	assert.Equal(t, 9, report.Rows)
	assert.Len(t, report.Faults, 9)
	assert.Equal(t, "facts not in the table", report.Faults[8].Kind)
	assert.Equal(t, 3, report.Faults[8].Count)
	assert.Equal(t, 1, report.Facts[0].Placed)

	result = run(t, folder, "check", "timed.csv")
	assert.Equal(t, 1, result.code)
	assert.Regexp(t, `time of day +2026-01-02 +line 3 +"2026-01-02 10:30" has a time`, result.err)
}

func TestCheckShowsTenOfAKind(t *testing.T) {
	text := "date\n"
	for range 25 {
		text += "2026-01-01\n,\n"
	}
	folder := folderWith(t, map[string]string{"d.csv": strings.ReplaceAll(text, "\n,\n", "\n\"\"\n")})
	result := run(t, folder, "check", "d.csv")
	assert.Equal(t, 1, result.code)
	assert.Contains(t, result.err, `… and 15 more faults of the kind "blank date"; --json lists them all`)
	assert.Contains(t, result.err, "lines 2, 4, 6, 8, 10, …")
}

func TestDemoRunsTheRoundTwice(t *testing.T) {
	enough := driveRaced(t)
	folder := t.TempDir()
	first := done(t, folder, "demo", "garden")
	assert.Empty(t, first.err)
	for _, want := range []string{
		"39,290 rows read, 39,288 written to clean/sales.csv, 2 rejected",
		"dates.csv: no faults found: 1,827 rows, one per day from 2023-01-29 to 2028-01-29",
		"590,121 values in 323 columns, each recalculated from its date",
		"39,288 of 39,288 dates are in the table",
		"Demo finished",
	} {
		assert.Contains(t, first.out, want)
	}
	assert.Regexp(t, `FY2025 P02 +2025-03-01 +2025-03-31 +0.00 +0 +○`, first.out, "the month of the refitting is a filled zero")
	assert.Regexp(t, `FY2026 Q1 +2026-02-01 +2026-04-30 .* …`, first.out, "the last quarter is running")
	enough()
	again := done(t, folder, "demo", "garden")
	assert.Empty(t, run(t, folder, "demo", "garden", "--quiet").out)
	before, published, found := strings.Cut(first.out, "# Publish: ")
	require.True(t, found)
	beforeAgain, publishedAgain, _ := strings.Cut(again.out, "# Publish: ")
	assert.Equal(t, before, beforeAgain, "the same every time")
	assert.Contains(t, published, "Published to model.db: 7 tables and 5 views\n")
	assert.Contains(t, publishedAgain, "Nothing to change in model.db: 7 tables and 5 views\n")

	require.NoError(t, os.WriteFile(filepath.Join(folder, "own.txt"), nil, 0o600))
	result := run(t, folder, "demo", ".")
	assert.Equal(t, 2, result.code)
	assert.Contains(t, result.err, "is not empty. Choose a new folder")
}
