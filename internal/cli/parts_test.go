package cli_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// Dates that stand in several columns are read with the grain that they have.
func TestDatesInSeveralColumns(t *testing.T) {
	folder := folderWith(t, map[string]string{
		"weeks.csv":      "Jahr,KW,units\n2026,1,5\n2026,KW 12,7\n2026,54,1\n,,2\n",
		"months.csv":     "y,m,q,units\n2026,3,1,5\n2026,March,Q2,7\n2025,11,4,1\n",
		"times.csv":      "d,t,units\n05/01/2026,9:30,5\n31/01/2026,11:15 pm,7\n01/02/2026,,7\n",
		"roundyear.yaml": "roundyear: 1\nfacts:\n  weeks: {files: weeks.csv, dates: {sold: {parts: [\"year:Jahr\", \"week:KW\"]}}}\n  times: {files: times.csv, dates: {sold: {parts: [\"date:d\", \"time:t\"]}}}\n",
	})
	weeks := "Jahr,KW,units,sold_date,sold_key,sold_grain\n2026,1,5,2025-12-29,20251229,week\n2026,KW 12,7,2026-03-16,20260316,week\n,,2,,,\n"
	for _, call := range [][]string{{"weeks.csv", "--parts", "sold=week:KW,year:Jahr", "--no-plan"}, {"weeks"}} {
		attended(t, folder, append([]string{"normalise", "-o", "clean.csv"}, call...)...)
		assert.Equal(t, weeks, textOf(t, folder, "clean.csv"))
		assert.Equal(t, "Jahr,KW,units,line,column,value,reason\n2026,54,1,4,sold,2026-W54,\"read as YYYY-'W'ww, but the year 2026 has no day 1 of a week 54\"\n", textOf(t, folder, "clean.rejects.csv"))
	}
	assert.Equal(t, "y,m,q,units,sold_date,sold_key,sold_grain\n2026,3,1,5,2026-03-01,20260301,month\n2026,March,Q2,7,2026-03-01,20260301,month\n2025,11,4,1,2025-11-01,20251101,month\n",
		done(t, folder, "normalise", "months.csv", "--parts", "sold=year:y,month:m", "--no-plan").out)
	assert.Equal(t, "y,m,q,units,sold_date,sold_key,sold_grain\n2026,3,1,5,2026-01-01,20260101,quarter\n2026,March,Q2,7,2026-04-01,20260401,quarter\n2025,11,4,1,2025-10-01,20251001,quarter\n",
		done(t, folder, "normalise", "months.csv", "--parts", "sold=year:y,quarter:q", "--no-plan").out)
	assert.Equal(t, "d,t,units,sold_date,sold_time,sold_key\n05/01/2026,9:30,5,2026-01-05,09:30,20260105\n31/01/2026,11:15 pm,7,2026-01-31,23:15,20260131\n01/02/2026,,7,2026-02-01,,20260201\n", done(t, folder, "normalise", "times").out)

	// Years are years, and quarters quarters: they are not laid on their first months.
	assert.Contains(t, done(t, folder, "totals", "months.csv", "--parts", "sold=year:y", "--sum", "units", "--grain", "year", "--no-plan", "--as-of", "2027-01-01").out, "2026,2026-01-01,2026-12-31,12,false,false")
	for parts, words := range map[string]string{"sold=year:y": "contains years, but 2025-01", "sold=year:y,quarter:q": "contains quarters, but 2025-10"} {
		refused := run(t, folder, "totals", "months.csv", "--parts", parts, "--sum", "units", "--grain", "month", "--no-plan", "--as-of", "2027-01-01")
		assert.Equal(t, 2, refused.code)
		assert.Contains(t, refused.err, words)
	}
	assert.Contains(t, run(t, folder, "survey", "weeks.csv", "--parts", "sold=year:Jahr,week:KW", "--no-plan").err, "next: roundyear normalise weeks.csv --parts sold=year:Jahr,week:KW --no-plan -o clean.csv")
	for _, parts := range []string{"sold=year:y,time:m", "sold=y,m", "sold=month:m", "sold=year:y,year:m", "sold=hour:y,m,q,units"} {
		failed := run(t, folder, "normalise", "months.csv", "--parts", parts, "--no-plan")
		assert.Equal(t, 2, failed.code, parts)
		assert.Contains(t, failed.err, "the columns of a date are its year, month and day, or such with their roles")
	}
	assert.Contains(t, run(t, folder, "normalise", "months.csv", "--parts", "sold=year:y,month:mm", "--no-plan").err, `has no column "mm"`)
}

// Days that stand for no date count as none where that is said.
func TestPlaceholderDays(t *testing.T) {
	folder := folderWith(t, map[string]string{
		"s.csv":          "day,n\n2026-01-05,1\n1900-01-01,2\n9999-12-31,4\n,8\n",
		"roundyear.yaml": "roundyear: 1\nfacts: {s: {files: s.csv, placeholder: [usual, 2026-01-06], dates: {day: {}}}}\n",
	})
	want := "day,n,day_date,day_key\n2026-01-05,1,2026-01-05,20260105\n1900-01-01,2,,\n9999-12-31,4,,\n,8,,\n"
	for _, call := range [][]string{{"s.csv", "--placeholder", "1900-01-01,9999-12-31", "--no-plan"}, {"s.csv", "--placeholder", "usual", "--no-plan", "--order", "day"}, {"s"}} {
		told := done(t, folder, append([]string{"normalise", "-o", "clean.csv"}, call...)...)
		assert.Equal(t, want, textOf(t, folder, "clean.csv"))
		assert.Contains(t, told.err, "day: 2 rows on placeholder days count as no date\n")
	}
	done(t, folder, "normalise", "s.csv", "-o", "typed.parquet", "--no-plan", "--drop-original")
	for _, call := range [][]string{{"s.csv", "--date", "day"}, {"typed.parquet", "--date", "day_date"}} {
		totals := attended(t, folder, append([]string{"totals", "--sum", "n", "--placeholder", "usual", "--no-plan", "--as-of", "2026-02-01"}, call...)...)
		assert.Equal(t, "period,period_start,period_end,n,is_filled,is_running\n2026-01,2026-01-01,2026-01-31,1,false,false\n", totals.out)
		assert.Contains(t, totals.err, "! 3 rows without a date, not in any period: n 14")
	}
	assert.Contains(t, run(t, folder, "survey", "s.csv", "--no-plan").err, "! day: 1 row on 1900-01-01, a placeholder date; --placeholder 1900-01-01 counts it as no date")
	surveyed := done(t, folder, "survey", "s.csv", "--no-plan", "--placeholder", "usual")
	assert.NotContains(t, surveyed.err, "a placeholder date")
	assert.Contains(t, surveyed.err, "normalise s.csv --date day --no-plan --placeholder usual -o clean.csv")
	failed := run(t, folder, "normalise", "s.csv", "--placeholder", "1900-1-1", "--no-plan")
	assert.Equal(t, 2, failed.code)
	assert.Contains(t, failed.err, `--placeholder: "1900-1-1" is not a date such as 2026-03-01`)
}
