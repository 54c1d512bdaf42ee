package cli_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

// daily are facts of a row per day, from one day to another.
func daily(from, to string) string {
	first, _ := time.Parse(time.DateOnly, from)
	last, _ := time.Parse(time.DateOnly, to)
	var text strings.Builder
	text.WriteString("d,a\n")
	for day := first; !day.After(last); day = day.AddDate(0, 0, 1) {
		fmt.Fprintf(&text, "%s,1\n", day.Format(time.DateOnly))
	}
	return text.String()
}

// Facts that end before the as-of day, and by their rhythm should not, are not compared as if they were complete.
func TestDataThatEndsEarlyIsNotCompared(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": daily("2025-01-01", "2026-03-14"), "whole.csv": daily("2025-01-01", "2026-03-31"), "few.csv": daily("2026-03-01", "2026-03-14")})
	call := []string{"--sum", "a", "--against", "year-ago", "--recent", "1", "--format", "csv", "--no-plan"}
	head := "period,period_start,period_end,a,workdays,a_year_ago,a_year_ago_change,a_year_ago_percent,workdays_year_ago,is_year_ago_comparable,is_filled,is_running"
	early := attended(t, folder, append([]string{"totals", "s.csv", "--as-of", "2026-12-01"}, call...)...)
	assert.Equal(t, head+",is_loaded\n2026-03,2026-03-01,2026-03-31,14,22,31,,,21,false,false,false,false\n", early.out)
	assert.Contains(t, early.err, "! The data ends on 2026-03-14, and 2026-03 runs to 2026-03-31: its change is left out. If no rows are missing, add --loaded-through 2026-03-31; if today is 2026-03-15, add --as-of 2026-03-15\n")
	complete := done(t, folder, append([]string{"totals", "s.csv", "--as-of", "2026-12-01", "--loaded-through", "2026-03-31"}, call...)...)
	assert.Equal(t, head+",is_loaded\n2026-03,2026-03-01,2026-03-31,14,22,31,-17,-54.8,21,true,false,false,true\n", complete.out)
	assert.Equal(t, head+"\n2026-03,2026-03-01,2026-03-31,14,10,31,,,21,false,false,true\n", done(t, folder, append([]string{"totals", "s.csv", "--as-of", "2026-03-15"}, call...)...).out)
	// A whole last period is compared, and the months after it are told; said to be loaded, they are zero.
	whole := done(t, folder, append([]string{"totals", "whole.csv", "--as-of", "2026-06-15"}, call...)...)
	assert.Contains(t, whole.out, "2026-03,2026-03-01,2026-03-31,31,22,31,0,0.0,21,true,")
	assert.Contains(t, whole.err, "note: the data ends on 2026-03-31; 3 months after that, up to 2026-06-15, are not shown. --loaded-through 2026-06-15 shows them as zero\n")
	zero := done(t, folder, "totals", "whole.csv", "--sum", "a", "--as-of", "2026-06-15", "--loaded-through", "2026-06-15", "--recent", "3", "--format", "csv")
	assert.Contains(t, zero.out, "2026-05,2026-05-01,2026-05-31,0,true,false,true\n2026-06,2026-06-01,2026-06-30,0,true,true,true\n")
	// To date, and in fill, it is the same; a few rows have no rhythm.
	toDate := attended(t, folder, append([]string{"totals", "s.csv", "--to-date", "--as-of", "2026-12-20"}, call...)...)
	assert.Contains(t, toDate.out, "2026-03,2026-03-01,2026-03-31,14,15,20,,,14,false,2026-03-20,false,false,false\n")
	assert.Contains(t, attended(t, folder, "fill", "s.csv", "--sum", "a", "--as-of", "2026-12-01").err, "! The data ends on 2026-03-14, and 2026-03 runs to 2026-03-31: it is not complete.")
	done(t, folder, "totals", "few.csv", "--sum", "a", "--as-of", "2026-12-01")
}

// What is after the as-of day, and has no rows, is not known: no zero is made up.
func TestNothingIsMadeUpAfterTheAsOfDay(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": "d,a\n2026-01-05,1\n2026-06-06,4\n"})
	want := "2026-02,2026-02-01,2026-02-28,0,true,false,true\n2026-03,2026-03-01,2026-03-31,0,true,true,true\n2026-04,2026-04-01,2026-04-30,,true,false,false\n2026-05,2026-05-01,2026-05-31,,true,false,false\n2026-06,2026-06-01,2026-06-30,4,false,false,true\n"
	for _, command := range []string{"totals", "fill"} {
		said := done(t, folder, command, "s.csv", "--sum", "a", "--as-of", "2026-03-15", "--format", "csv")
		assert.Contains(t, said.out, want)
		assert.Contains(t, said.err, "2 rows filled for periods without data, 2 left blank because their data is not loaded")
	}
}

// Up to the position of the as-of day a month without rows has zero, also if it has some after that.
func TestToDateKeepsKnownZeros(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": "d,a\n2026-01-20,1\n2026-02-20,2\n2026-03-03,3\n", "late.csv": "d,a\n2026-01-20,1\n2026-02-20,2\n"})
	said := done(t, folder, "totals", "s.csv", "--sum", "a", "--to-date", "--as-of", "2026-03-05", "--format", "csv")
	assert.Contains(t, said.out, "2026-01,2026-01-01,2026-01-31,0,2026-01-05,true,false\n2026-02,2026-02-01,2026-02-28,0,2026-02-05,true,false\n2026-03,2026-03-01,2026-03-31,3,2026-03-05,false,true\n")
	late := done(t, folder, "totals", "late.csv", "--sum", "a", "--to-date", "--as-of", "2026-03-05", "--format", "csv")
	assert.Contains(t, late.out, "2026-01,2026-01-01,2026-01-31,0,2026-01-05,true,false\n2026-02,2026-02-01,2026-02-28,0,2026-02-05,true,false\n")
	assert.Contains(t, late.err, "No rows up to the position of 2026-03-05 in 2 months")
}

// Blank values are no zero in ranks and windows, and a window that begins before the data is blank.
func TestBlanksHaveNoRankAndNoSum(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": "d,a,g\n2026-01-01,1,x\n2026-02-06,,x\n2026-03-06,,x\n2026-04-06,4,y\n", "later.csv": "d,a\n2026-01-20,1\n2026-02-06,2\n2026-03-06,4\n"})
	ranked := done(t, folder, "totals", "s.csv", "--sum", "a", "--by", "g", "--rank", "--as-of", "2026-06-01", "--format", "csv").out
	assert.Contains(t, ranked, "2026-02,2026-02-01,2026-02-28,x,,,false,false\n2026-02,2026-02-01,2026-02-28,y,0,1,true,false\n")
	for _, window := range []string{"2", "59d"} {
		rolling := done(t, folder, "totals", "s.csv", "--sum", "a", "--rolling", window, "--as-of", "2026-06-01", "--format", "csv").out
		assert.Contains(t, rolling, "2026-03,2026-03-01,2026-03-31,,,false,false\n", window)
	}
	for _, window := range []string{"3", "90d"} {
		assert.Contains(t, done(t, folder, "totals", "later.csv", "--sum", "a", "--rolling", window, "--as-of", "2026-06-01", "--format", "csv").out, "2026-03,2026-03-01,2026-03-31,4,,false,false\n", window)
	}
}

// Subtotals are those of all rows: what is not among the first stands below each group as its others.
func TestSubtotalsAreOfAllRows(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": "d,a,g,h\n2026-01-05,1,x,p\n2026-01-06,20,x,q\n2026-01-07,3,y,p\n2026-01-08,400,z,q\n"})
	said := done(t, folder, "totals", "s.csv", "--sum", "a", "--by", "g,h", "--top", "2", "--subtotals", "--as-of", "2026-06-01", "--format", "csv").out
	var rows []string
	for _, line := range splitLines(said)[1:] {
		rows = append(rows, strings.Join(strings.Split(line, ",")[3:7], ","))
	}
	assert.Equal(t, []string{"x,q,20,false", "x,(others),1,false", "x,(all),21,true", "z,q,400,false", "z,(all),400,true", "(others),(others),3,false", "(all),(all),424,true"}, rows)
}

// Labels with a sort key beside them sort by it, in rows and across.
func TestLabelsSortByTheirKey(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": "s,e\n2026-03-05,2026-03-05\n2026-03-05,2026-03-07\n2026-03-05,2026-03-27\n2026-03-05,2026-03-01\n"})
	attended(t, folder, "lapse", "s.csv", "--start", "s", "--end", "e", "--bands", "1,10", "-o", "bands.csv")
	said := done(t, folder, "totals", "bands.csv", "--date", "s", "--count", "--by", "band", "--as-of", "2026-06-01", "--format", "csv").out
	var labels []string
	for _, line := range splitLines(said)[1:] {
		labels = append(labels, strings.Split(line, ",")[3])
	}
	assert.Equal(t, []string{"negative", "0", "1–9", "10 and over"}, labels)
	assert.Contains(t, done(t, folder, "totals", "bands.csv", "--date", "s", "--count", "--across", "band", "--as-of", "2026-06-01", "--format", "csv").out, ",negative,0,1–9,10 and over")
	byDay := done(t, folder, "totals", "bands.csv", "--date", "s", "--count", "--by", "band", "--subtotals", "--as-of", "2026-06-01", "--format", "csv").out
	assert.Less(t, strings.Index(byDay, ",1–9,"), strings.Index(byDay, ",10 and over,"))
}

// The time between moments that say their offset, or whose zone is known, is the time that has passed.
func TestHoursAreThoseThatHavePassed(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": "s,e\n2026-01-05T10:00:00+05:00,2026-01-05T10:00:00+00:00\n2026-03-28T12:00:00+00:00,2026-03-29T12:00:00+00:00\n", "local.csv": "s,e\n2026-03-28 12:00,2026-03-29 12:00\n"})
	for _, flags := range [][]string{nil, {"--zone", "UTC"}, {"--zone", "UTC", "--to-zone", "Europe/Dublin"}} {
		said := done(t, folder, append([]string{"lapse", "s.csv", "--start", "s", "--end", "e", "--in", "hours", "--format", "csv", "--no-plan"}, flags...)...)
		assert.Contains(t, said.out, "+00:00,5.00\n", flags)
		assert.Contains(t, said.out, "2026-03-29T12:00:00+00:00,24.00\n", flags)
	}
	local := []string{"lapse", "local.csv", "--start", "s", "--end", "e", "--in", "hours", "--format", "csv", "--no-plan"}
	assert.Contains(t, done(t, folder, local...).out, ",24.00\n")
	assert.Contains(t, done(t, folder, append(local, "--zone", "Europe/Dublin")...).out, ",23.00\n", "the clocks go forward in between")
	// A zone alone moves nothing.
	assert.Equal(t, "s,e,s_date,s_time,s_key\n2026-03-28 12:00,2026-03-29 12:00,2026-03-28,12:00,20260328\n", done(t, folder, "normalise", "local.csv", "--date", "s", "--zone", "Europe/Dublin", "-q").out)
}

// An end before its start is negative, however small, and is neither in time nor in the figures; zero workdays do not move.
func TestEndsBeforeTheirStart(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": "s,e\n2026-03-05,2026-01-29\n2024-03-05,2026-01-29\n", "d.csv": "s\n2026-03-07\n2026-03-06\n", "p.yaml": "roundyear: 1\nweekend: [mon, tue, wed, thu, fri, sat, sun]\n"})
	for _, call := range [][]string{{"--in", "years"}, {"--in", "months"}, {"--in", "weeks"}, {"--in", "days"}, {"--in", "years", "--band", "in time=..5"}} {
		said := attended(t, folder, append([]string{"lapse", "s.csv", "--start", "s", "--end", "e", "--no-plan", "--format", "csv"}, call...)...)
		assert.Contains(t, said.err, "! 1 row negative: the end comes before the start; not in the figures\n", call)
		assert.Contains(t, said.err, "1 row in "+call[1]+": from ", call)
	}
	banded := attended(t, folder, "lapse", "s.csv", "--start", "s", "--end", "e", "--in", "years", "--no-plan", "--format", "csv", "--band", "in time=..5")
	assert.Contains(t, banded.out, "2026-03-05,2026-01-29,0,negative,-1\n2024-03-05,2026-01-29,1,in time,1\n")
	asked := done(t, folder, "lapse", "s.csv", "--start", "s", "--end", "e", "--in", "days", "--no-plan", "--format", "csv", "--band", "early=..-1", "--band", "late=0..")
	assert.Contains(t, asked.out, ",-35,early,1\n")
	assert.Equal(t, "s,due_date\n2026-03-07,2026-03-07\n2026-03-06,2026-03-06\n", done(t, folder, "lapse", "d.csv", "--start", "s", "--add-workdays", "0", "--no-plan", "--format", "csv").out)
	began := time.Now()
	never := attended(t, folder, "lapse", "d.csv", "--start", "s", "--add-workdays", "3", "-p", "p.yaml", "--format", "csv")
	assert.Contains(t, never.err, "! 2 rows never due: too few days count to reach the due date\n")
	assert.Less(t, time.Since(began), 5*time.Second)
}

// A group that began later has no zero before that to be compared with, in the table as in its explanation.
func TestAGroupHasNoBaseBeforeItBegan(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": "d,a,g\n2025-01-01,1,x\n2025-02-03,2,x\n2026-01-05,3,x\n2026-01-05,4,y\n2026-02-05,5,y\n2026-02-06,5,x\n"})
	for _, more := range [][]string{nil, {"--rolling", "30d"}} {
		said := done(t, folder, append([]string{"totals", "s.csv", "--sum", "a", "--by", "g", "--against", "year-ago,previous", "--recent", "2", "--as-of", "2026-03-01", "--format", "jsonl"}, more...)...).out
		lines := splitLines(said)
		assert.Contains(t, lines[1], `"g":"y","a":4,`)
		assert.Contains(t, lines[1], `"a_year_ago":null,"a_year_ago_change":null,"a_year_ago_percent":null,`)
		assert.Contains(t, lines[1], `"is_year_ago_comparable":false,"a_previous":null,`)
		assert.Contains(t, lines[3], `"g":"y","a":5,`)
		assert.Contains(t, lines[3], `"a_previous":4,"a_previous_change":1,`)
		assert.Contains(t, lines[0], `"a_year_ago":1,"a_year_ago_change":2,`)
	}
	told := done(t, folder, "totals", "s.csv", "--sum", "a", "--by", "g", "--against", "year-ago", "--as-of", "2026-03-01", "--explain", "2026-01", "g=y")
	assert.Contains(t, told.out, "Against year-ago: nothing, since there is no such data")
}

// Definitions that the guide states: weeks that are cut, ISO years of 53 weeks, a period that ends today, 28 and 29 February, balances.
func TestWhatIsComparedAndWhatIsNot(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": daily("2019-01-01", "2026-06-30"), "balances.csv": "d,g,n\n2026-01-01,A,1\n2026-01-03,A,2\n2026-01-01,B,5\n2026-01-02,B,7\n", "loss.csv": "d,g,n\n2026-01-01,A,-10\n2026-01-01,B,4\n"})
	totals := func(args ...string) said {
		return run(t, folder, append(append([]string{"totals"}, args...), "--no-plan", "--format", "csv")...)
	}
	weeks := totals("s.csv", "--sum", "a", "--grain", "fiscal.week", "--fiscal-start", "4", "--against", "year-ago", "--as-of", "2026-07-02").out
	assert.Contains(t, weeks, "\nFY2025 W53,2025-03-31,2025-03-31,1,1,7,,,5,false,false,false\nFY2026 W01,2025-04-01,2025-04-06,6,4,7,,,5,false,false,false\nFY2026 W02,2025-04-07,2025-04-13,7,5,7,0,0.0,5,true,false,false\n")
	why := done(t, folder, "totals", "s.csv", "--sum", "a", "--grain", "fiscal.week", "--fiscal-start", "4", "--against", "year-ago", "--as-of", "2026-07-02", "--no-plan", "--explain", "FY2026 W01")
	assert.Contains(t, why.out, "one of the two weeks is cut by the beginning of a fiscal year, and has fewer days")
	years := totals("s.csv", "--sum", "a", "--grain", "iso.year", "--against", "year-ago", "--as-of", "2026-07-02").out
	assert.Contains(t, years, ",is_year_ago_comparable,is_year_ago_leap_week,")
	assert.Contains(t, years, "\n2020,2019-12-30,2021-01-03,371,265,363,8,2.2,260,true,true,false,false\n")
	assert.Contains(t, years, "\n2025,2024-12-30,2025-12-28,364,260,364,0,0.0,260,true,false,false,false\n")
	ends := totals("s.csv", "--sum", "a", "--as-of", "2026-06-30", "--recent", "1")
	assert.Contains(t, ends.out, "2026-06,2026-06-01,2026-06-30,30,false,true\n")
	assert.Contains(t, ends.err, "note: 2026-06 ends on the as-of day and counts as running; if that day is over, --as-of 2026-07-01 counts it as complete\n")
	assert.NotContains(t, totals("s.csv", "--sum", "a", "--as-of", "2026-07-01", "--recent", "1").err, "counts as running")
	days := totals("s.csv", "--sum", "a", "--grain", "day", "--against", "year-ago", "--as-of", "2026-07-01").out
	assert.Regexp(t, `\n2024-02-28,2024-02-28,2024-02-28,1,1,1,0,0.0,1,true,false,false\n2024-02-29,2024-02-29,2024-02-29,1,1,1,0,0.0,1,true,false,false\n`, days)
	assert.Contains(t, totals("balances.csv", "--closing", "n", "--as-of", "2026-03-01").out, "2026-01,2026-01-01,2026-01-31,2,2026-01-03,false,false,false\n")
	assert.Contains(t, totals("balances.csv", "--closing", "n", "--by", "g", "--subtotals", "--as-of", "2026-03-01").out, ",(all),9,2026-01-02,true,")
	assert.Contains(t, totals("loss.csv", "--sum", "n", "--by", "g", "--share", "period", "--as-of", "2026-03-01").out, ",A,-10,166.7,false,false\n2026-01,2026-01-01,2026-01-31,B,4,-66.7,")
}

// Rows after the as-of day count, but the days up to which a running period is divided do not: nothing is given then.
func TestPerWorkdayOfARunningPeriodWithRowsToCome(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": "d,n\n2026-02-10,20\n2026-03-02,10\n2026-03-10,10\n2026-03-30,100\n"})
	call := []string{"totals", "s.csv", "--sum", "n", "--per-workday", "--as-of", "2026-03-10", "--no-plan", "--format", "csv"}
	kept := done(t, folder, call...)
	assert.Contains(t, kept.out, "2026-02,2026-02-01,2026-02-28,20,1.00,20,false,false\n2026-03,2026-03-01,2026-03-31,120,,7,false,true\n")
	assert.Contains(t, kept.err, "note: some rows are after 2026-03-10; what 2026-03 has per day is left out")
	dropped := done(t, folder, append(call, "--future", "drop")...)
	assert.Contains(t, dropped.out, "2026-03,2026-03-01,2026-03-31,20,2.86,7,false,true\n")
	assert.NotContains(t, dropped.err, "per day")
	assert.Contains(t, done(t, folder, append(call, "--future", "apart")...).out, ",20,100,2.86,7,")
	assert.Contains(t, done(t, folder, append(call[:len(call):len(call)], "--to-date")...).out, "2026-03,2026-03-01,2026-03-31,20,2.86,7,")
}

// Of a period to come the days held against it end with the as-of day, whatever the comparison.
func TestWorkdaysOfAPeriodToCome(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": daily("2025-01-01", "2027-12-31")})
	years := done(t, folder, "totals", "s.csv", "--sum", "a", "--grain", "year", "--against", "previous,same-weekday-year-ago", "--as-of", "2026-03-10", "--no-plan", "--format", "csv").out
	assert.Contains(t, years, "\n2027,2027-01-01,2027-12-31,365,261,365,,,49,false,365,,,48,false,")
}
