package cli_test

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var budgets = map[string]string{
	"b.csv": "month,shop,budget\n2026-01,A,100\n2026-01,B,31.01\n2026-02,A,\"1.000,00\"\n2026-01,A,-100.50\n",
	"roundyear.yaml": `roundyear: 1
calendars:
  retail: {weeks: {ends_on: saturday, nearest_to: 31 january, split: 4-5-4}, named_by: start}
days_off: [{name: New Year, when: {month: january, day: 1}}]
sites:
  A: {open: [sat], closures: {from: 2026-02-01, to: 2026-02-28}}
  B: {open: [mon, sat]}
`,
}

func allocated(t *testing.T, folder string, flags ...string) said {
	t.Helper()
	return run(t, folder, append([]string{"allocate", "b.csv", "--sum", "budget", "--decimal", "comma"}, flags...)...)
}

func TestAllocate(t *testing.T) {
	folder := folderWith(t, budgets)
	require.NoError(t, os.WriteFile(filepath.Join(folder, "b.csv"), []byte(strings.NewReplacer("31.01", "\"31,01\"", "-100.50", "\"-100,50\"").Replace(budgets["b.csv"])), 0o600))
	trading := allocated(t, folder, "--by", "shop", "--over", "trading-days", "--at-column", "shop")
	assert.Equal(t, 1, trading.code)
	assert.Equal(t, "period,period_start,period_end,shop,budget,is_unplaced\n"+
		"2026-01-03,2026-01-03,2026-01-03,A,-0.10,false\n2026-01-03,2026-01-03,2026-01-03,B,3.45,false\n2026-01-05,2026-01-05,2026-01-05,B,3.45,false\n"+
		"2026-01-10,2026-01-10,2026-01-10,A,-0.10,false\n2026-01-10,2026-01-10,2026-01-10,B,3.45,false\n2026-01-12,2026-01-12,2026-01-12,B,3.45,false\n"+
		"2026-01-17,2026-01-17,2026-01-17,A,-0.10,false\n2026-01-17,2026-01-17,2026-01-17,B,3.45,false\n2026-01-19,2026-01-19,2026-01-19,B,3.44,false\n"+
		"2026-01-24,2026-01-24,2026-01-24,A,-0.10,false\n2026-01-24,2026-01-24,2026-01-24,B,3.44,false\n2026-01-26,2026-01-26,2026-01-26,B,3.44,false\n"+
		"2026-01-31,2026-01-31,2026-01-31,A,-0.10,false\n2026-01-31,2026-01-31,2026-01-31,B,3.44,false\n", trading.out[:strings.Index(trading.out, "2026-02-01")])
	assert.Equal(t, 28, strings.Count(trading.out, ",true\n"))
	assert.Contains(t, trading.out, "2026-02-28,2026-02-28,2026-02-28,A,35.71,true\n")
	for _, line := range []string{"3 amounts by month laid over 14 days: 42 rows\n", "budget: 1,030.51 before and after\n", "1 row added to others of the same period and group\n", "! 2026-02 A has no trading day: budget 1,000.00 is laid over all its days\n"} {
		assert.Contains(t, trading.err, line)
	}
	// Calendar months stand beside retail months, of which FY2026 begins on 1 February.
	retail := allocated(t, folder, "--grain", "retail.month", "--of", "month")
	assert.Equal(t, "period,period_start,period_end,budget,is_unplaced\nFY2025 P12,2026-01-04,2026-01-31,27.54,false\nFY2025 P11,2025-11-30,2026-01-03,2.97,false\n", sortedTail(retail.out, 2))
	assert.Contains(t, retail.out, "FY2026 P01,2026-02-01,2026-02-28,1000.00,false\n")
	weighted := allocated(t, folder, "--where", "shop=A", "--weights", "mon=1,sat=2.5", "--grain", "day", "--decimals", "0", "--where", "month=2026-02")
	assert.Equal(t, 9, strings.Count(weighted.out, "\n"))
	assert.Contains(t, weighted.out, "2026-02-07,2026-02-07,2026-02-07,178.57,false\n", "the measure has two decimals")
	workdays := allocated(t, folder, "--over", "workdays", "--where", "month=2026-01", "--where", "shop=B")
	assert.NotContains(t, workdays.out, "2026-01-01,")
	assert.Equal(t, 22, strings.Count(workdays.out, "\n"), "21 workdays and the header")
}

// sortedTail is the header and the rows of January of the retail calendar, the last one first.
func sortedTail(text string, rows int) string {
	lines := strings.SplitAfter(text, "\n")
	return lines[0] + lines[2] + lines[1]
}

// The weights of another series are those of the same weekdays 52 weeks before; where it has none the days get the same.
func TestAllocateLikeOthers(t *testing.T) {
	folder := folderWith(t, map[string]string{
		"b.csv":     "month,shop,budget\n2026-01,A,90\n2026-02,A,280\n2026-01,C,31\n",
		"sales.csv": "day,shop,amount\n2025-01-06,A,10\n2025-01-11,A,20\n2025-01-11,A,60\n2024-06-01,A,5\n2025-01-12,A,-50\n",
	})
	like := run(t, folder, "allocate", "b.csv", "--sum", "budget", "--by", "shop", "--no-plan", "--like", "sales.csv:day,amount", "-o", "out.csv")
	assert.Equal(t, 0, like.code, like.err)
	out := textOf(t, folder, "out.csv")
	assert.Contains(t, out, "2026-01-05,2026-01-05,2026-01-05,A,10.00,false\n")
	assert.Contains(t, out, "2026-01-10,2026-01-10,2026-01-10,A,80.00,false\n", "6 January 2025 and 5 January 2026 are Mondays")
	assert.Equal(t, 1+2+28+31, strings.Count(out, "\n"))
	assert.Contains(t, like.err, "note: 2 amounts had nothing to follow in sales.csv:day,amount, and were laid evenly\n")
	shared := run(t, folder, "allocate", "b.csv", "--sum", "budget", "--no-plan", "--like", "sales.csv:day,amount", "--like-days", "365", "--where", "month=2026-01")
	assert.Contains(t, shared.out, "2026-01-06,2026-01-06,2026-01-06,13.44,false\n")
}

func TestCallsOfAllocateThatDoNotFit(t *testing.T) {
	folder := folderWith(t, budgets)
	require.NoError(t, os.WriteFile(filepath.Join(folder, "d.csv"), []byte("day,n\n2026-01-05,1\n2026-01-09,2\n"), 0o600))
	require.NoError(t, os.WriteFile(filepath.Join(folder, "b.csv"), []byte("month,shop,budget\n2026-01,A,100\n2026-02,B,5\n"), 0o600))
	for message, flags := range map[string][]string{
		"nothing to lay over days: add --sum COLUMN":                                    {},
		`--over must be days, workdays or trading-days, not "nights"`:                   {"--sum", "budget", "--over", "nights"},
		"trading days are those of a site: --at SITE, or --at-column COLUMN":            {"--sum", "budget", "--over", "trading-days"},
		"--at-column shop must be a column of --by":                                     {"--sum", "budget", "--over", "workdays", "--at-column", "shop"},
		"--at and --at-column go with --over workdays or trading-days":                  {"--sum", "budget", "--at", "A"},
		`"Dublin" is not a site of the plan; there are A, B`:                            {"--sum", "budget", "--over", "trading-days", "--at", "Dublin"},
		`--weights must be WEEKDAY=NUMBER, such as mon=1,sat=2.5, not "mon"`:            {"--sum", "budget", "--weights", "mon"},
		"--weights names Monday twice":                                                  {"--sum", "budget", "--weights", "mon=1,monday=2"},
		"--weights leaves no weekday that weighs anything":                              {"--sum", "budget", "--weights", "mon=0"},
		"--like must be FILE:DATE,MEASURE, such as clean/sales.csv:sold_at_date,amount": {"--sum", "budget", "--like", "d.csv"},
		`d.csv: has no column "m"`:                                                      {"--sum", "budget", "--like", "d.csv:day,m"},
		"--like-days must be a number from 0 to 36600, not -1":                          {"--sum", "budget", "--like", "d.csv:day,n", "--like-days", "-1"},
		"--decimals must be a number from 0 to 12, not 13":                              {"--sum", "budget", "--decimals", "13"},
		"the result would have more than 5 rows":                                        {"--sum", "budget", "--max-rows", "5"},
		"column budget: would be in the result twice":                                   {"--sum", "budget,budget"},
		`no row has shop = "Z"`:                                                         {"--sum", "budget", "--where", "shop=Z"},
	} {
		result := run(t, folder, append([]string{"allocate", "b.csv"}, flags...)...)
		assert.Equal(t, 2, result.code, message)
		assert.Contains(t, result.err, message)
		assert.Empty(t, result.out)
	}
	daily := run(t, folder, "allocate", "d.csv", "--sum", "n")
	assert.Equal(t, 2, daily.code)
	assert.Contains(t, daily.err, "d.csv, column day: does not show which periods the rows stand for. Add --of month, or another grain; in the plan it is grain")
	assert.Equal(t, 8, strings.Count(run(t, folder, "allocate", "d.csv", "--sum", "n", "--of", "week").out, "\n"))
	// A calendar that has no such period refuses it.
	declared := "roundyear: 1\ncalendars:\n  fiscal: {years: [{year: 2026, starts: [2026-02-01, 2026-03-01, 2026-04-01], ends: 2026-12-31}]}\n"
	require.NoError(t, os.WriteFile(filepath.Join(folder, "roundyear.yaml"), []byte(declared), 0o600))
	for _, call := range [][]string{{"allocate", "b.csv", "--sum", "budget", "--grain", "fiscal.year"}, {"allocate", "d.csv", "--sum", "n", "--of", "fiscal.year"},
		{"census", "d.csv", "--opened", "day", "--closed", "day", "--grain", "fiscal.year", "--as-of", "2026-06-01"}} {
		unknown := run(t, folder, call...)
		assert.Equal(t, 2, unknown.code)
		assert.Contains(t, unknown.err, "roundyear.yaml: the calendar fiscal covers 2026-02-01 to 2026-12-31, but the range is 2026-01-0")
		assert.Empty(t, unknown.out)
	}
}

// A budget of months stands beside the sales by retail month of the plan.
func TestBudgetBesideSales(t *testing.T) {
	var text strings.Builder
	text.WriteString("month,shop,budget\n")
	for month := 1; month <= 12; month++ {
		fmt.Fprintf(&text, "2026-%02d-01,A,%d.%02d\n2026-%02d-01,B,%d\n", month, 1000*month, month, month, 77*month)
	}
	folder := folderWith(t, budgets)
	require.NoError(t, os.WriteFile(filepath.Join(folder, "b.csv"), []byte(text.String()), 0o600))
	done(t, folder, "allocate", "b.csv", "--sum", "budget", "--by", "shop", "--of", "month", "-o", "days.csv", "--describe")
	byDay := attended(t, folder, "totals", "days.csv", "--date", "period_start", "--sum", "budget", "--by", "shop", "--grain", "retail.month", "--as-of", "2027-06-01").out
	direct := done(t, folder, "allocate", "b.csv", "--sum", "budget", "--by", "shop", "--grain", "retail.month").out
	short := func(text string) (lines []string) {
		for line := range strings.Lines(text) {
			lines = append(lines, strings.Join(strings.Split(line, ",")[:5], ","))
		}
		return lines
	}
	assert.Equal(t, short(byDay), short(direct))
	assert.Len(t, short(direct), 1+2*13)
}
