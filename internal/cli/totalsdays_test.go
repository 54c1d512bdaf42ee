package cli_test

import (
	"encoding/csv"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// threeShops are sales, a budget by month and stock, of which all figures can be added up by hand.
var threeShops = map[string]string{
	"s.csv": "day,shop,dept,amount\n" +
		"2025-03-03,A,x,10\n2025-03-04,B,x,20\n2025-04-20,A,x,100\n2025-04-21,C,y,5\n" +
		"2026-03-02,A,x,30\n2026-03-03,A,y,10\n2026-03-10,B,x,7\n2026-04-05,A,x,150\n2026-04-06,C,y,1\n",
	"b.csv":     "month,shop,plan\n2026-03-01,A,62\n2026-03-01,D,31\n2026-04-01,A,300\n",
	"stock.csv": "day,shop,item,units\n2026-01-05,A,p,10\n2026-01-05,A,q,4\n2026-01-20,A,p,8\n2026-03-02,A,p,1\n2026-02-10,B,p,6\n",
}

// The same Easter stands beside the other, whatever the month it is in.
func TestTotalsAlignedByEaster(t *testing.T) {
	folder := folderWith(t, threeShops)
	totals := []string{"totals", "s.csv", "--sum", "amount", "--no-plan", "--as-of", "2026-04-30", "--recent", "2", "--against", "year-ago"}
	plain := done(t, folder, totals...)
	assert.Contains(t, plain.out, "2026-03,2026-03-01,2026-03-31,47,22,30,")
	assert.Contains(t, plain.out, "2026-04,2026-04-01,2026-04-30,151,22,105,")
	aligned := done(t, folder, append(totals, "--align", "easter")...)
	// 2026-03 is 15 days before Easter of 2025 as well: 16 March to 15 April 2025, and April from then on.
	assert.Contains(t, aligned.out, "2026-03,2026-03-01,2026-03-31,47,22,0,47,,22,true,false,false\n")
	assert.Contains(t, aligned.out, "2026-04,2026-04-01,2026-04-30,151,22,105,,,22,false,false,true\n")
	assert.Contains(t, aligned.err, "Days are matched by their distance from Easter Sunday: 2026-04-05 is beside 2025-04-20\n")
	weekday := done(t, folder, append(totals, "--against", "same-weekday-year-ago", "--grain", "iso.week", "--complete-only")...)
	assert.Contains(t, weekday.out, ",is_same_weekday_year_ago_comparable,")
	named := done(t, folder, append(totals, "--align", "saint patrick's day", "--region", "IE")...)
	assert.Contains(t, named.err, "distance from Saint Patrick's Day: 2026-03-17 is beside 2025-03-17\n")
}

// A budget is the same to the cent at every grain.
func TestTotalsAgainstABudgetAddUp(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": "day,shop,amount\n2026-01-01,A,1\n2026-12-31,B,2\n", "b.csv": "month,shop,plan\n2026-01-01,A,100.01\n2026-02-01,A,0.03\n2026-07-01,B,77.77\n2026-12-01,B,9\n"})
	for _, grain := range []string{"day", "week", "month", "quarter", "fiscal.month", "year"} {
		for _, over := range []string{"days", "workdays"} {
			budget := done(t, folder, "totals", "s.csv", "--sum", "amount", "--no-plan", "--as-of", "2027-02-01", "--by", "shop", "--budget", "b.csv:plan", "--budget-of", "month", "--budget-over", over, "--grain", grain, "--fiscal-start", "november", "--from", "2026-01-01", "--to", "2026-12-31")
			rows, err := csv.NewReader(strings.NewReader(budget.out)).ReadAll()
			require.NoError(t, err)
			cents := 0
			for _, row := range rows[1:] {
				if row[5] == "" {
					continue
				}
				amount, err := strconv.Atoi(strings.Replace(row[5], ".", "", 1))
				require.NoError(t, err)
				cents += amount
			}
			assert.Equal(t, 18681, cents, "by %s over %s", grain, over)
		}
	}
}

// A budget of months is laid over days, so that it can be compared to date, by any calendar and group.
func TestTotalsAgainstABudget(t *testing.T) {
	folder := folderWith(t, threeShops)
	totals := []string{"totals", "s.csv", "--sum", "amount", "--no-plan", "--as-of", "2026-03-10", "--recent", "1", "--by", "shop", "--budget", "b.csv:plan", "--to", "2026-03-31"}
	toDate := done(t, folder, append(totals, "--to-date")...)
	assert.Equal(t, "period,period_start,period_end,shop,amount,amount_budget,amount_budget_change,amount_budget_percent,is_budget_comparable,to_date,is_filled,is_running\n"+
		"2026-03,2026-03-01,2026-03-31,A,40.00,20.00,20.00,100.0,true,2026-03-10,false,true\n"+
		"2026-03,2026-03-01,2026-03-31,B,7.00,,,,false,2026-03-10,false,true\n"+
		"2026-03,2026-03-01,2026-03-31,C,0.00,,,,false,2026-03-10,true,true\n"+
		"2026-03,2026-03-01,2026-03-31,D,0.00,10.00,-10.00,-100.0,true,2026-03-10,true,true\n", toDate.out)
	assert.Contains(t, toDate.err, "Budget: by month, laid over its days\n")
	assert.Contains(t, toDate.err, "only in the budget: D\n")
	assert.Contains(t, toDate.err, "not in the budget: B; C\n")
	assert.Contains(t, done(t, folder, "totals", "s.csv", "--count", "--no-plan", "--as-of", "2026-03-10", "--by", "shop", "--to-date", "--recent", "1", "--to", "2026-03-31").out, ",C,0,", "a shop without sales to date has a row all the same")
	running := done(t, folder, totals...)
	assert.Contains(t, running.out, ",A,40.00,62.00,,,false,false,true\n", "a running month is not compared with a whole one")
	workdays := done(t, folder, append(totals, "--to-date", "--budget-over", "workdays")...)
	assert.Contains(t, workdays.out, ",A,40.00,19.74,", "7 of 22 workdays; 18 of them get 2.82")
	one := done(t, folder, append(totals, "--where", "shop=A", "--to-date", "--grain", "iso.week")...)
	assert.NotContains(t, one.out, ",D,", "the budget has the same rows left out")
	for message, flags := range map[string]string{
		"b.csv: the budget has no column dept. Leave it out of --by":                                                 "--by dept",
		"b.csv: the budget has no column dept, by which --where picks rows":                                          "--where dept=x",
		"--budget must be FILE:COLUMN, such as clean/budget.csv:budget, not \"b.csv\"":                               "--budget b.csv",
		"b.csv: has no column \"plans\"":                                                                             "--budget b.csv:plans",
		"--budget-over must be days":                                                                                 "",
		"trading days are those of a site":                                                                           "--budget-over trading-days",
		"unknown grain \"decade\"":                                                                                   "--budget-of decade",
		"s.csv: has no column \"sites\"":                                                                             "--by sites",
		"--against year-ago-restated is for years of whole weeks, and month is not of one":                           "--against year-ago-restated",
		"--align goes with --against year-ago or two-years-ago":                                                      "--align easter",
		"--align: \"eastre\" is neither easter, orthodox-easter nor a day off of the plan. Did you mean \"easter\"?": "--against year-ago --align eastre",
		"--future: unknown \"maybe\"; use keep, drop or apart":                                                       "--future maybe",
		"--grain names month twice":                                                                                  "--grain month,month",
		"--across year needs periods between a day and a year":                                                       "--across year --grain year",
		"--across needs a single --grain":                                                                            "--across year --grain month,year",
		"--running and --rolling need a single --grain":                                                              "--rolling 3 --grain month,year",
		"--partial-windows goes with --rolling":                                                                      "--partial-windows",
		"--top must be a number from 1, not 0":                                                                       "--top 0",
	} {
		if flags == "" {
			continue
		}
		args := slices.Clone(totals)
		if at := slices.Index(args, "--budget"); strings.HasPrefix(flags, "--budget ") {
			args = slices.Delete(args, at, at+2)
		}
		result := run(t, folder, append(args, strings.Fields(flags)...)...)
		assert.Equal(t, 2, result.code, "%s: %s", message, result.err)
		assert.Contains(t, result.err, message)
		assert.Empty(t, result.out)
	}
	bare := run(t, folder, "totals", "s.csv", "--sum", "amount", "--no-plan", "--subtotals")
	assert.Contains(t, bare.err, "--subtotals needs groups: --by COLUMN")
	assert.Contains(t, run(t, folder, "totals", "s.csv", "--count", "--no-plan", "--budget", "b.csv:plan").err, "--budget is compared with a sum: add --sum COLUMN")
	missing := run(t, folder, "totals", "s.csv", "--sum", "amount", "--no-plan", "--budget", "none.csv:plan")
	assert.Equal(t, 3, missing.code)
	assert.Contains(t, missing.err, "none.csv")
}

// Rows are grouped by attributes of their days, which sort by time and not by letter, and what is per day counts days of that kind.
func TestTotalsByAttributesOfDays(t *testing.T) {
	folder := folderWith(t, threeShops)
	weekdays := done(t, folder, "totals", "s.csv", "--sum", "amount", "--no-plan", "--as-of", "2026-04-30", "--by", "day_name,shop", "--grain", "year", "--from", "2026-01-01", "--per-day")
	var filled, rest []string
	for line := range strings.Lines(weekdays.out) {
		if strings.HasSuffix(line, ",true,true\n") {
			filled = append(filled, line)
		} else {
			rest = append(rest, line)
		}
	}
	assert.Equal(t, "period,period_start,period_end,day_name,shop,amount,amount_per_day,days,is_filled,is_running\n"+
		"2026,2026-01-01,2026-12-31,Monday,A,30,1.76,17,false,true\n2026,2026-01-01,2026-12-31,Monday,C,1,0.06,17,false,true\n"+
		"2026,2026-01-01,2026-12-31,Tuesday,A,10,0.59,17,false,true\n2026,2026-01-01,2026-12-31,Tuesday,B,7,0.41,17,false,true\n"+
		"2026,2026-01-01,2026-12-31,Sunday,A,150,8.82,17,false,true\n", strings.Join(rest, ""))
	assert.Len(t, filled, 16, "the other weekdays of the three shops")
	assert.Contains(t, filled, "2026,2026-01-01,2026-12-31,Thursday,B,0,0.00,18,true,true\n")
	workdays := done(t, folder, "totals", "s.csv", "--count", "--no-plan", "--as-of", "2026-04-30", "--by", "is_workday", "--grain", "quarter", "--recent", "1")
	assert.Contains(t, workdays.out, "2026 Q2,2026-04-01,2026-06-30,true,1,false,true\n2026 Q2,2026-04-01,2026-06-30,false,1,false,true\n")
	months := done(t, folder, "totals", "s.csv", "--sum", "amount", "--no-plan", "--as-of", "2026-04-30", "--by", "year,shop", "--from", "2025-11-01", "--subtotals", "--recent", "5")
	assert.Contains(t, months.out, "2026-03,2026-03-01,2026-03-31,2026,B,7,false,false,false\n2026-03,2026-03-01,2026-03-31,2026,C,0,false,true,false\n")
	assert.NotContains(t, months.out, "2026-03,2026-03-01,2026-03-31,2025,", "no day of the month is in that year")
	across := done(t, folder, "totals", "s.csv", "--sum", "amount", "--no-plan", "--as-of", "2026-04-30", "--across", "day_name", "--grain", "day", "--from", "2026-04-05")
	assert.Equal(t, "period,period_start,period_end,Monday,Sunday\n2026-04-05,2026-04-05,2026-04-05,,150\n2026-04-06,2026-04-06,2026-04-06,1,\n", across.out)
	both := done(t, folder, "totals", "s.csv", "--sum", "amount", "--no-plan", "--as-of", "2026-04-30", "--by", "dept", "--grain", "quarter,year", "--recent", "1")
	assert.Equal(t, "grain,period,period_start,period_end,dept,amount,is_filled,is_running\n"+
		"quarter,2026 Q2,2026-04-01,2026-06-30,x,150,false,true\nquarter,2026 Q2,2026-04-01,2026-06-30,y,1,false,true\n"+
		"year,2026,2026-01-01,2026-12-31,x,187,false,true\nyear,2026,2026-01-01,2026-12-31,y,11,false,true\n", both.out)
}

// Years and groups stand side by side; what is false everywhere is left out.
func TestTotalsAcross(t *testing.T) {
	folder := folderWith(t, threeShops)
	years := done(t, folder, "totals", "s.csv", "--sum", "amount", "--no-plan", "--as-of", "2026-04-30", "--across", "year", "--fiscal-start", "april", "--grain", "fiscal.month")
	assert.Equal(t, "period,number,FY2025,FY2026,FY2027,is_filled FY2026,is_running FY2027\n", years.out[:strings.IndexByte(years.out, '\n')+1])
	assert.Contains(t, years.out, "April,1,,105,151,false,true\nMay,2,,0,,true,\n")
	assert.Contains(t, years.out, "March,12,30,47,,false,\n")
	shops := done(t, folder, "totals", "s.csv", "--sum", "amount", "--count", "--no-plan", "--as-of", "2026-05-30", "--across", "shop", "--by", "dept", "--from", "2026-03-01")
	assert.Equal(t, "period,period_start,period_end,dept,amount A,amount B,amount C,count A,count B,count C,is_filled A,is_filled B,is_filled C\n"+
		"2026-03,2026-03-01,2026-03-31,x,30,7,,1,1,,false,false,\n2026-03,2026-03-01,2026-03-31,y,10,,0,1,,0,false,,true\n"+
		"2026-04,2026-04-01,2026-04-30,x,150,0,,1,0,,false,true,\n2026-04,2026-04-01,2026-04-30,y,0,,1,0,,1,true,,false\n", shops.out)
}

// Stock is not added up over time; the days that it is of are told.
func TestTotalsOfBalances(t *testing.T) {
	folder := folderWith(t, threeShops)
	stock := done(t, folder, "totals", "stock.csv", "--closing", "units", "--opening", "units", "--mean-over-days", "units", "--no-plan", "--as-of", "2026-03-10", "--by", "shop", "--subtotals")
	assert.Equal(t, "period,period_start,period_end,shop,units_closing,units_opening,units_mean_over_days,units_closing_day,units_opening_day,is_total,is_filled,is_running,is_carried\n"+
		"2026-01,2026-01-01,2026-01-31,A,8,,11.33,2026-01-20,,false,false,false,false\n"+
		"2026-01,2026-01-01,2026-01-31,B,,,,,,false,true,false,false\n"+
		"2026-01,2026-01-01,2026-01-31,(all),8,,11.33,2026-01-20,,true,false,false,false\n"+
		"2026-02,2026-02-01,2026-02-28,A,8,8,8.00,2026-01-20,2026-01-20,false,true,false,true\n"+
		"2026-02,2026-02-01,2026-02-28,B,6,,6.00,2026-02-10,,false,false,false,false\n"+
		"2026-02,2026-02-01,2026-02-28,(all),14,8,12.07,2026-01-20,2026-01-20,true,false,false,true\n"+
		"2026-03,2026-03-01,2026-03-31,A,1,8,1.70,2026-03-02,2026-01-20,false,false,true,true\n"+
		"2026-03,2026-03-01,2026-03-31,B,6,6,6.00,2026-02-10,2026-02-10,false,true,true,true\n"+
		"2026-03,2026-03-01,2026-03-31,(all),7,14,7.70,2026-02-10,2026-01-20,true,false,true,true\n", stock.out)
	refused := run(t, folder, "totals", "stock.csv", "--closing", "units", "--no-plan", "--by", "day_name")
	assert.Equal(t, 2, refused.code)
	assert.Contains(t, refused.err, "balances cannot be grouped by day_name, an attribute of the day")
}

// The groups with the most stay, the others are added up; windows of days and the future have columns of their own.
func TestTotalsOfTheGreatestGroups(t *testing.T) {
	folder := folderWith(t, threeShops)
	top := done(t, folder, "totals", "s.csv", "--sum", "amount", "--no-plan", "--as-of", "2026-04-30", "--by", "shop", "--top", "1", "--rank", "--subtotals", "--recent", "2", "--share", "period")
	assert.Equal(t, "period,period_start,period_end,shop,amount,amount_rank,amount_percent_of_period,is_total,is_filled,is_running\n"+
		"2026-03,2026-03-01,2026-03-31,A,40,1,85.1,false,false,false\n2026-03,2026-03-01,2026-03-31,(others),7,,14.9,false,false,false\n2026-03,2026-03-01,2026-03-31,(all),47,,100.0,true,false,false\n"+
		"2026-04,2026-04-01,2026-04-30,A,150,1,99.3,false,false,true\n2026-04,2026-04-01,2026-04-30,(others),1,,0.7,false,false,true\n2026-04,2026-04-01,2026-04-30,(all),151,,100.0,true,false,true\n", top.out)
	rolling := done(t, folder, "totals", "s.csv", "--sum", "amount", "--no-plan", "--as-of", "2026-04-05", "--rolling", "35d", "--recent", "1", "--future", "apart")
	assert.Equal(t, "period,period_start,period_end,amount,amount_future,amount_rolling_35_days,is_filled,is_running\n2026-04,2026-04-01,2026-04-30,150,1,197,false,true\n", rolling.out, "from 2 March")
	assert.Contains(t, rolling.err, "1 row after 2026-04-05 in columns of its own\n")
	dropped := done(t, folder, "totals", "s.csv", "--sum", "amount", "--no-plan", "--as-of", "2026-04-05", "--recent", "1", "--future", "drop")
	assert.Contains(t, dropped.out, "2026-04,2026-04-01,2026-04-30,150,false,true\n")
	assert.Contains(t, dropped.err, "1 row after 2026-04-05 left out\n")
	none := run(t, folder, "totals", "s.csv", "--sum", "amount", "--no-plan", "--as-of", "2024-04-05", "--future", "drop")
	assert.Equal(t, 2, none.code)
	assert.Contains(t, none.err, "all rows are after 2024-04-05, the as-of date")
	behind := run(t, folder, "totals", "s.csv", "--sum", "amount", "--no-plan", "--as-of", "2026-04-01", "--to-date")
	assert.Equal(t, 0, behind.code)
	assert.Contains(t, behind.err, "No rows up to the position of 2026-04-01 in 14 months\n14 rows filled for periods without data")
	assert.Contains(t, behind.err, "9 rows after it left out")
	early := done(t, folder, "totals", "s.csv", "--sum", "amount", "--no-plan", "--as-of", "2020-04-01", "--against", "previous")
	assert.Contains(t, early.err, "note: the as-of date is before all rows, so no period is over and none is compared\n")
	windows := done(t, folder, "totals", "s.csv", "--sum", "amount", "--no-plan", "--as-of", "2025-06-01", "--rolling", "3", "--partial-windows", "--to", "2025-04-30")
	assert.Contains(t, windows.out, "2025-03,2025-03-01,2025-03-31,30,30,")
}
