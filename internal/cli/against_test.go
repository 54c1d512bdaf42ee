package cli_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var twoYears = map[string]string{"s.csv": "day,shop,amount\n2025-01-01,A,100\n2025-02-10,A,50\n2025-03-10,B,-20\n2026-01-10,A,150\n2026-02-10,B,10\n2026-03-05,A,5\n"}

func TestTotalsAgainstOtherPeriods(t *testing.T) {
	folder := folderWith(t, twoYears)
	totals := []string{"totals", "s.csv", "--sum", "amount", "--no-plan", "--as-of", "2026-03-10"}
	against := done(t, folder, append(totals, "--against", "year-ago", "--recent", "3")...)
	assert.Equal(t, "period,period_start,period_end,amount,workdays,amount_year_ago,amount_year_ago_change,amount_year_ago_percent,workdays_year_ago,is_year_ago_comparable,is_filled,is_running\n"+
		"2026-01,2026-01-01,2026-01-31,150,22,100,50,50.0,23,true,false,false\n2026-02,2026-02-01,2026-02-28,10,20,50,-40,-80.0,20,true,false,false\n2026-03,2026-03-01,2026-03-31,5,7,-20,,,21,false,false,true\n", against.out)
	assert.Contains(t, against.err, "6 rows from 2025-01-01 to 2026-03-05 in 3 months\n")
	march := done(t, folder, "totals", "s.csv", "--sum", "amount", "--no-plan", "--as-of", "2026-04-01", "--against", "year-ago,previous", "--complete-only", "--recent", "1", "--format", "jsonl")
	assert.Contains(t, march.out, `"amount":5,"workdays":22,"amount_year_ago":-20,"amount_year_ago_change":25,"amount_year_ago_percent":125.0,"workdays_year_ago":21,"is_year_ago_comparable":true,"amount_previous":10,"amount_previous_change":-5,"amount_previous_percent":-50.0`)
	toDate := done(t, folder, append(totals, "--against", "year-ago", "--recent", "3", "--to-date")...)
	assert.Equal(t, "period,period_start,period_end,amount,workdays,amount_year_ago,amount_year_ago_change,amount_year_ago_percent,workdays_year_ago,is_year_ago_comparable,to_date,is_filled,is_running\n"+
		"2026-01,2026-01-01,2026-01-31,150,7,100,50,50.0,8,true,2026-01-10,false,false\n2026-02,2026-02-01,2026-02-28,10,7,50,-40,-80.0,6,true,2026-02-10,false,false\n2026-03,2026-03-01,2026-03-31,5,7,-20,25,125.0,6,true,2026-03-10,false,true\n", toDate.out)
	assert.Contains(t, toDate.err, "To date: each month counts up to the position of 2026-03-10 in 2026-03; 0 rows after it left out\n")
	early := done(t, folder, "totals", "s.csv", "--sum", "amount", "--no-plan", "--as-of", "2026-03-05", "--to-date", "--grain", "quarter")
	assert.Contains(t, early.out, "2025 Q1,2025-01-01,2025-03-31,150,2025-03-05,false,false\n")
	assert.Contains(t, early.err, "; 1 row after it left out\n")
	first := done(t, folder, append(totals, "--against", "two-years-ago", "--grain", "year")...)
	assert.Contains(t, first.out, "2026,2026-01-01,2026-12-31,165,49,,,,,false,false,true\n", "there is no such year")
	sums := done(t, folder, append(totals, "--by", "shop", "--running", "quarter", "--rolling", "2", "--share", "period,group", "--complete-only", "--recent", "2")...)
	assert.Equal(t, "period,period_start,period_end,shop,amount,amount_running,amount_rolling_2,amount_percent_of_period,amount_percent_of_group,is_filled,is_running\n"+
		"2026-01,2026-01-01,2026-01-31,A,150,150,150,100.0,100.0,false,false\n2026-01,2026-01-01,2026-01-31,B,0,0,0,0.0,0.0,true,false\n"+
		"2026-02,2026-02-01,2026-02-28,A,0,150,150,0.0,0.0,true,false\n2026-02,2026-02-01,2026-02-28,B,10,10,10,100.0,100.0,false,false\n", sums.out)
	table := done(t, folder, append(totals, "--complete-only", "--recent", "2", "--format", "table")...)
	assert.Regexp(t, `\nall +160\n`, table.out)
	unloaded := done(t, folder, append(totals, "--running", "year", "--against", "previous", "--loaded-through", "2026-01-31", "--recent", "2")...)
	assert.Contains(t, unloaded.out, "2026-02,2026-02-01,2026-02-28,10,,20,150,,,22,false,false,false,false\n")
}

// Sums per day are those of the days up to the as-of date, with the number of days of both sides.
func TestTotalsPerDay(t *testing.T) {
	folder := folderWith(t, twoYears)
	totals := []string{"totals", "s.csv", "--sum", "amount", "--as-of", "2026-03-10", "--recent", "2"}
	days := done(t, folder, append(totals, "--no-plan", "--per-workday", "--per-day", "--against", "year-ago")...)
	assert.Equal(t, "period,period_start,period_end,amount,amount_per_day,amount_per_workday,days,workdays,amount_year_ago,amount_year_ago_change,amount_year_ago_percent,amount_year_ago_per_day,amount_year_ago_per_day_percent,amount_year_ago_per_workday,amount_year_ago_per_workday_percent,days_year_ago,workdays_year_ago,is_year_ago_comparable,is_filled,is_running\n"+
		"2026-02,2026-02-01,2026-02-28,10,0.36,0.50,28,20,50,-40,-80.0,1.79,-80.0,2.50,-80.0,28,20,true,false,false\n2026-03,2026-03-01,2026-03-31,5,0.50,0.71,10,7,-20,,,-0.65,177.5,-0.95,175.0,31,21,false,false,true\n", days.out)
	bounded := done(t, folder, "totals", "s.csv", "--sum", "amount", "--no-plan", "--as-of", "2026-03-10", "--per-day", "--from", "2026-02-08", "--to", "2026-03-05")
	assert.Contains(t, bounded.out, ",10,0.48,21,false,false\n")
	assert.Contains(t, bounded.out, ",5,1.00,5,false,true\n")
	require.NoError(t, os.WriteFile(filepath.Join(folder, "roundyear.yaml"), []byte("roundyear: 1\nsites:\n  A: {open: sat}\n  B: {opened: 2026-02-27}\n"), 0o600))
	sites := done(t, folder, append(totals, "--by", "shop", "--per-trading-day", "--at-column", "shop", "--where", "shop=A,B")...)
	assert.Contains(t, sites.out, "2026-02,2026-02-01,2026-02-28,A,0,0.00,4,true,false\n")
	assert.Contains(t, sites.out, "2026-02,2026-02-01,2026-02-28,B,10,5.00,2,false,false\n")
	assert.Contains(t, sites.out, "2026-03,2026-03-01,2026-03-31,A,5,5.00,1,false,true\n")
	for message, flags := range map[string]string{
		"trading days are those of a site: --at SITE, or --at-column COLUMN":                        "--per-trading-day",
		"--at-column shop must be a column of --by":                                                 "--per-trading-day --at-column shop",
		`"C" is not a site of the plan`:                                                             "--per-trading-day --at C",
		"--at and --at-column go with --per-workday, --per-trading-day, --against or --budget-over": "--per-day --at A",
	} {
		failed := run(t, folder, append(totals, strings.Fields(flags)...)...)
		assert.Equal(t, 2, failed.code)
		assert.Contains(t, failed.err, message)
	}
}

func TestCallsOfTotalsThatDoNotFit(t *testing.T) {
	folder := folderWith(t, twoYears)
	for message, flags := range map[string]string{
		`--against: unknown comparison "budget"; use previous, year-ago, two-years-ago`:            "--against budget",
		"--against names previous twice":                                                           "--against previous,previous",
		`--share: unknown whole "shop"; use period or group`:                                       "--share shop",
		"--share names group twice":                                                                "--share group,group",
		"--recent must be a number from 1, not 0":                                                  "--recent 0",
		"--rolling must be a number of periods from 2 to 10000, or of days such as 28d, not \"1\"": "--rolling 1",
		`--running must be month, quarter, half or year, not "week"`:                               "--running week",
		"--running month needs a --grain that is finer than that, not month":                       "--running month",
		"--running half: the calendar of iso.week has no such periods":                             "--running half --grain iso.week",
		"--to-date needs periods longer than a day":                                                "--to-date --grain day",
		"--to-date and --running cannot be combined":                                               "--to-date --running year",
		"unknown flag --gap": "--gap amount=zero",
	} {
		result := run(t, folder, append([]string{"totals", "s.csv", "--sum", "amount", "--no-plan"}, strings.Fields(flags)...)...)
		assert.Equal(t, 2, result.code, message)
		assert.Contains(t, result.err, message)
		assert.Empty(t, result.out)
	}
	assert.Contains(t, run(t, folder, "totals", "s.csv", "--mean", "amount", "--no-plan", "--share", "period").err, "--running, --rolling, --share and --per-… are of sums and counts")
	assert.Contains(t, run(t, folder, "totals", "s.csv", "--sum", "amount", "--mean", "amount_previous", "--against", "previous", "--no-plan", "--let", "amount_previous = amount").err, "would be in the result twice")
	empty := run(t, folder, "totals", "s.csv", "--sum", "amount", "--no-plan", "--as-of", "2025-01-15", "--complete-only", "--to", "2025-01-20")
	assert.Equal(t, 2, empty.code)
	assert.Contains(t, empty.err, "no complete period is left")
}
