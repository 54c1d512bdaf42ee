package cli_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

// Facts of months are added up only by periods made of whole months.
func TestCoarseFactsAreNotLaidOnTheirFirstDay(t *testing.T) {
	folder := folderWith(t, map[string]string{
		"budget.csv": "month,shop,amount\n2026-01-01,A,310\n2026-02-01,A,280\n2026-03-01,A,310\n",
		"text.csv":   "month,amount\n2026-01,310\n2026-02,280\n2026-03,310\n",
		"roundyear.yaml": `roundyear: 1
calendars:
  fiscal: {months: {starts: february}}
  retail: {weeks: {ends_on: saturday, nearest_to: 31 january, split: 4-5-4}}
facts:
  budget: {files: budget.csv, out: clean/budget.csv, dates: {month: {grain: month}}}
`,
	})
	assert.LessOrEqual(t, run(t, folder, "normalise", "budget.csv", "-o", "clean/budget.csv").code, 1)
	for _, file := range []string{"budget.csv", "text.csv", "clean/budget.csv"} {
		args := []string{"totals", file, "--sum", "amount", "--format", "csv", "--as-of", "2026-03-15"}
		if file == "clean/budget.csv" {
			args = append(args, "--date", "month_date")
		}
		for _, grain := range []string{"day", "week", "iso.week", "retail.month", "retail.week", "fiscal.week", "retail.year"} {
			result := run(t, folder, append(args, "--grain", grain)...)
			assert.Equal(t, 2, result.code, "%s by %s", file, grain)
			assert.Contains(t, result.err, "contains months, but ", "%s by %s", file, grain)
			assert.Contains(t, result.err, "is only partly in it")
			assert.Contains(t, result.err, "over its days first, with roundyear allocate")
			assert.Empty(t, result.out)
		}
		for _, grain := range []string{"month", "quarter", "year", "fiscal.month", "fiscal.quarter", "fiscal.year"} {
			assert.Contains(t, done(t, folder, append(args, "--grain", grain)...).out, "0,", grain)
		}
	}
	// What is laid on a day is a day.
	assert.Contains(t, done(t, folder, "totals", "budget.csv", "--no-plan", "--sum", "amount", "--grain", "week", "--format", "csv").out, "310")
}

func TestFirstAndLastOfADayGoByTheTime(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": "at,price\n2026-01-05 17:00,3\n2026-01-05 09:00,1\n2026-01-05 12:00,2\n2026-01-06 02:00,4\n"})
	args := []string{"totals", "s.csv", "--first", "price", "--last", "price", "--grain", "day", "--format", "csv"}
	assert.Equal(t, "period,period_start,period_end,price_first,price_last,is_filled,is_running\n2026-01-05,2026-01-05,2026-01-05,1,3,false,false\n2026-01-06,2026-01-06,2026-01-06,4,4,false,false\n", done(t, folder, args...).out)
	assert.Contains(t, done(t, folder, append(args, "--day-starts", "04:00")...).out, "2026-01-05,2026-01-05,2026-01-05,1,4,false,false\n")
}

func TestNoPeriodIsMissingBetweenFactsAfterTheAsOfDay(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": "day,n\n2026-01-05,1\n2027-02-05,2\n2027-05-05,3\n"})
	out := done(t, folder, "totals", "s.csv", "--sum", "n", "--as-of", "2026-03-15", "--to", "2027-12-31", "--format", "csv").out
	for month := 1; month <= 17; month++ {
		assert.Contains(t, out, fmt.Sprintf("\n%04d-%02d,", 2026+(month-1)/12, (month-1)%12+1))
	}
	assert.NotContains(t, out, "2027-06,")
}

func TestTheRowsOfAResultAreBounded(t *testing.T) {
	var text strings.Builder
	text.WriteString("day,shop\n")
	for i := range 240 {
		fmt.Fprintf(&text, "%d-%02d-%02d,S%d\n", 2021+i%5, i%12+1, i%28+1, i)
	}
	folder := folderWith(t, map[string]string{"s.csv": text.String(), "p.csv": text.String() + "9999-12-31,S1\n"})
	args := []string{"fill", "s.csv", "--by", "shop", "--count", "--grain", "day", "-o", "x.csv", "-q"}
	result := run(t, folder, append(args, "--max-rows", "200000")...)
	assert.Equal(t, 2, result.code)
	assert.Regexp(t, `the result would have 4\d{5} rows, more than 200000: \d+ periods from 2021-01-0\d to 2025-12-\d\d for 240 groups. Limit the dates with --from and --to, choose a coarser --grain or --span own, or allow more with --max-rows`, result.err)
	done(t, folder, append(args, "--max-rows", "200000", "--span", "own")...)
	done(t, folder, args...)
	args[1] = "p.csv"
	result = run(t, folder, args...)
	assert.Equal(t, 2, result.code)
	assert.Contains(t, result.err, "9999-12-31 (1 row) is a placeholder date")
}

func TestPivotsAreYears(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": "day,n\n05/03/24,1\n25/03/24,1\n"})
	for _, pivot := range []string{"50", "0", "-1", "1582", "9901"} {
		result := run(t, folder, "normalise", "s.csv", "--pivot="+pivot)
		assert.Equal(t, 2, result.code)
		assert.Contains(t, result.err, "--pivot must be a four-digit year from 1583 to 9900, such as 1970, not "+pivot)
	}
	assert.Contains(t, done(t, folder, "normalise", "s.csv", "--pivot", "1583").out, "05/03/24,1,1624-03-05,16240305\n")
}

func TestSpacesAroundAmounts(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": "day,amount\n2026-01-05,\" 1 \"\n2026-01-05, 2.5\n2026-01-05,  \n"})
	assert.Contains(t, done(t, folder, "totals", "s.csv", "--sum", "amount", "--format", "csv").out, "2026-01,2026-01-01,2026-01-31,3.5,")
}

func TestWorkdaysOfAMonthAreThoseOfWorkdays(t *testing.T) {
	folder := t.TempDir()
	out := done(t, folder, "build", "--from", "2026-08-07", "--to", "2026-08-10", "--columns", "date,workday_of_month,workdays_so_far_in_month").out
	assert.Equal(t, "date,workday_of_month,workdays_so_far_in_month\n2026-08-07,5,5\n2026-08-08,,5\n2026-08-09,,5\n2026-08-10,6,6\n", out)
}

// A plan's range means the same as flags do.
func TestTheRangeOfAPlan(t *testing.T) {
	for _, c := range []struct {
		plan, want string
		args       []string
		code       int
	}{
		{"range: {from: 2026-01-05, to: 2026-02-03}", "2026-01-05 to 2026-02-03", nil, 0},
		{"range: {from: 2026-01-05, to: 2026-02-03, whole: exact}", "2026-01-05 to 2026-02-03", nil, 0},
		{"range: {from: 2026-01-05, to: 2026-02-03, whole: years}", "2026-01-01 to 2026-12-31", nil, 0},
		{"range: {from: 2026-01-05, to: 2026-02-03}", "2026-01-01 to 2026-12-31", []string{"--whole-years"}, 0},
		{"range: {cover: [s.day]}", "2025-01-01 to 2026-12-31", nil, 0},
		{"range: {cover: [s.day], whole: exact}", "2025-03-05 to 2026-05-05", nil, 0},
		{"range: {cover: [s.day], from: 2026-01-01}", "2026-01-01 to 2026-12-31", nil, 1},
		{"range: {cover: [s.day], from: 2024-01-01, to: 2026-06-30}", "2025-01-01 to 2026-06-30", nil, 0},
	} {
		folder := folderWith(t, map[string]string{"s.csv": "day,n\n2025-03-05,1\n2026-05-05,2\n", "roundyear.yaml": "roundyear: 1\n" + c.plan + "\nfacts: {s: {files: s.csv, dates: {day: {}}}}\n"})
		result := run(t, folder, append([]string{"build", "--columns", "date", "-o", "d.csv"}, c.args...)...)
		assert.Equal(t, c.code, result.code, "%s: %s", c.plan, result.err)
		assert.Contains(t, result.err, "one per day from "+c.want, c.plan)
	}
	folder := folderWith(t, map[string]string{"roundyear.yaml": "roundyear: 1\nrange: {from: 2026-01-05}\n"})
	assert.Contains(t, run(t, folder, "plan", "check").err, "a range needs from and to, or cover. Add the other one, or cover")
	// A table of another range does not take the place of the plan's.
	folder = folderWith(t, map[string]string{"roundyear.yaml": "roundyear: 1\nrange: {from: 2026-01-05, to: 2026-02-03}\nmodel: {dimension: {out: d.csv}}\n"})
	result := done(t, folder, "build", "--from", "2026-01-05", "--to", "2026-01-06", "--columns", "date")
	assert.Equal(t, "date\n2026-01-05\n2026-01-06\n", result.out)
	assert.Contains(t, result.err, "Not written to d.csv, because the range differs from the plan's; to replace it, add -o d.csv\n")
}

// What the survey proposes for numbers the plan takes, and without dates it has
// no range.
func TestPlansOfNumbersAndOfNothing(t *testing.T) {
	folder := folderWith(t, map[string]string{"ms.csv": "created_at,n\n1767607200000,1\n1775000000000,2\n", "none.csv": "a,b\nx,1\ny,2\n"})
	result := done(t, folder, "plan", "new", "ms.csv", "-o", "roundyear.yaml")
	assert.Contains(t, result.err, "To decide: ms.created_at: numbers, read as unix_ms: 1767607200000 is 2026-01-05")
	done(t, folder, "plan", "check")
	assert.Contains(t, done(t, folder, "build").err, "one per day from 2026-01-01 to 2026-12-31")

	result = done(t, folder, "plan", "new", "none.csv", "-o", "none.yaml")
	assert.Contains(t, result.err, "To decide: no dates were found: enter your first and last day")
	assert.Contains(t, run(t, folder, "build", "-p", "none.yaml", "-o", "d.csv").err, "the range is missing")
}

func TestSurveyTakesParts(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": "jahr,monat,tag,n\n2026,1,5,1\n2026,2,6,2\n"})
	result := done(t, folder, "survey", "s.csv", "--parts", "sold=jahr,monat,tag")
	assert.Regexp(t, `sold +year, month and day columns +2026-01-05 +2026-02-06`, result.err)
	assert.Contains(t, result.err, "next: roundyear normalise s.csv --parts sold=jahr,monat,tag -o clean.csv")
}

// A file without a header is not read in silence as if it had one.
func TestFilesWithoutAHeader(t *testing.T) {
	folder := folderWith(t, map[string]string{
		"plain.csv": "2026-01-05,A,1\n2026-01-06,B,2\n", "above.csv": "sep=;\nday;n\n2026-01-05;1\n", "twice.csv": "date,date,n\n2026-01-05,2026-02-05,1\n",
		"plan.yaml": "roundyear: 1\nfacts: {f: {files: plain.csv, header: false, dates: {column_1: {}}}, g: {files: above.csv, skip: 1, dates: {day: {}}}}\n",
	})
	for _, args := range [][]string{{"survey", "plain.csv"}, {"normalise", "plain.csv", "-o", "x.csv"}, {"totals", "plain.csv", "--count"}, {"build", "--cover", "plain.csv:x", "-o", "x.csv"}, {"plan", "new", "plain.csv"}} {
		result := run(t, folder, args...)
		assert.NotZero(t, result.code, "%v", args)
		assert.Contains(t, result.err, `plain.csv, line 1: the first row may be data instead of a header: "2026-01-05" is a date`, "%v", args)
	}
	wanted := "column_1,column_2,column_3,column_1_date,column_1_key\n2026-01-05,A,1,2026-01-05,20260105\n2026-01-06,B,2,2026-01-06,20260106\n"
	assert.Equal(t, wanted, done(t, folder, "normalise", "plain.csv", "--no-header").out)
	assert.Equal(t, wanted, done(t, folder, "normalise", "plain.csv", "-p", "plan.yaml").out)
	assert.Contains(t, done(t, folder, "totals", "plain.csv", "--no-header", "--sum", "column_3", "--format", "csv").out, "2026-01,2026-01-01,2026-01-31,3,")
	assert.Contains(t, done(t, folder, "survey", "plain.csv", "--no-header").err, "next: roundyear normalise plain.csv --date column_1 --no-header -o clean.csv")
	assert.Equal(t, 2, run(t, folder, "survey", "plain.csv", "--no-header", "--header").code)
	assert.Contains(t, done(t, folder, "normalise", "above.csv", "--skip", "1").out, "day;n;day_date;day_key\n2026-01-05;1;2026-01-05;20260105\n")
	assert.Contains(t, done(t, folder, "normalise", "above.csv").out, "day;n;day_date;day_key\n2026-01-05;1;2026-01-05;20260105\n")
	assert.Contains(t, done(t, folder, "totals", "above.csv", "-p", "plan.yaml", "--count", "--format", "csv").out, "2026-01,")

	result := done(t, folder, "totals", "twice.csv", "--date", "date#2", "--count", "--format", "csv")
	assert.Contains(t, result.out, "2026-02,")
	assert.Contains(t, result.err, "twice.csv: columns without a unique name are called date#2\n")
	result = done(t, folder, "normalise", "twice.csv", "--date", "date", "--date", "date#2")
	assert.Equal(t, "date,date,n,date_date,date_key,date#2_date,date#2_key\n2026-01-05,2026-02-05,1,2026-01-05,20260105,2026-02-05,20260205\n", result.out)
}
