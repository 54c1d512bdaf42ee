package cli_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// Labels of periods are read through the plan's calendars, with the grain that they have.
func TestLabelsOfPeriods(t *testing.T) {
	folder := folderWith(t, map[string]string{
		"budget.csv": "period,amount\nFY26 P03,100\nFY2026 P04,50\nfy26-p5,7\nFY26 P13,1\n", "weeks.csv": "w,n\nR2025 W07,1\nR2025 W08,4\n", "quarters.csv": "q,n\n2026 Q1,1\n2026-q2,4\n",
		"roundyear.yaml": "roundyear: 1\ncalendars:\n  fiscal: {months: {starts: april}, year_label: \"FY{yy}\"}\n  retail: {weeks: {ends_on: saturday, nearest_to: 31 january, split: 4-5-4, leap_week: last}, named_by: start, year_label: \"R{year}\"}\n" +
			"facts:\n  budget: {files: budget.csv, dates: {period: {pattern: fiscal.month}}}\n",
	})
	april := []string{"--fiscal-start", "april", "--no-plan", "--date", "period", "--pattern", "period=fiscal.month"}
	for _, label := range []string{"FY{yy}", "FY{year}"} {
		attended(t, folder, append([]string{"normalise", "budget.csv", "--fiscal-label", label, "-o", "clean.csv"}, april...)...)
		assert.Equal(t, "period,amount,period_date,period_key,period_grain\nFY26 P03,100,2025-06-01,20250601,fiscal.month\nFY2026 P04,50,2025-07-01,20250701,fiscal.month\nfy26-p5,7,2025-08-01,20250801,fiscal.month\n", textOf(t, folder, "clean.csv"))
		assert.Equal(t, "period,amount,line,column,value,reason\nFY26 P13,1,5,period,FY26 P13,is not the label of a fiscal.month of the calendars\n", textOf(t, folder, "clean.rejects.csv"))
	}
	totals := func(grain string) said {
		return run(t, folder, append([]string{"totals", "budget.csv", "--sum", "amount", "--grain", grain, "--where", "amount>1", "--as-of", "2027-01-01"}, april...)...)
	}
	stops := totals("fiscal.quarter")
	assert.Contains(t, stops.err, `budget.csv, line 5, column period: "FY26 P13" cannot be read as a date`)
	quarters := done(t, folder, "totals", "quarters.csv", "--date", "q", "--pattern", "q=quarter", "--sum", "n", "--grain", "half", "--no-plan", "--as-of", "2027-01-01")
	assert.Contains(t, quarters.out, "2026 H1,2026-01-01,2026-06-30,5,false,false")
	weeks := done(t, folder, "totals", "weeks.csv", "--date", "w", "--pattern", "w=retail.week", "--sum", "n", "--grain", "retail.month", "--as-of", "2027-01-01")
	assert.Contains(t, weeks.out, "R2025 P02,2025-03-02,2025-04-05,5,false,false")
	split := run(t, folder, "totals", "weeks.csv", "--date", "w", "--pattern", "w=retail.week", "--sum", "n", "--as-of", "2027-01-01")
	assert.Contains(t, split.err, "R2025 W04 is only partly in it. Choose a --grain that consists of whole weeks, such as retail.week")
	months := run(t, folder, "totals", "quarters.csv", "--date", "q", "--pattern", "q=quarter", "--sum", "n", "--no-plan", "--as-of", "2027-01-01")
	assert.Equal(t, 2, months.code)
	assert.Contains(t, months.err, "contains quarters, but 2026-01 (2026-01-01 to 2026-01-31) does not consist of whole ones")
	assert.Contains(t, run(t, folder, "normalise", "quarters.csv", "--pattern", "q=quarterly", "--no-plan").err, `pattern "quarterly": r is not supported`)
	attended(t, folder, "normalise", "budget", "-o", "planned.csv")
	assert.Contains(t, textOf(t, folder, "planned.csv"), "FY26 P03,100,2025-06-01,20250601,fiscal.month\n")
	assert.Contains(t, run(t, folder, "survey", "budget.csv", "--no-plan").err, "period contains fiscal periods such as FY26 P13; if the plan's calendars have such labels, add --pattern period=GRAIN")
}
