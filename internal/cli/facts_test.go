package cli_test

import (
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const receipts = "day,shop,dept,amount,price\n" +
	"2026-01-31,Kil,a,10.10,5\n2026-04-01,Kil,a,1,8\n2026-02-03,Var,b,7.25,\n2026-02-04,Var,a,-2.50,3\n,Var,a,340.50,1\n"

func TestTotalsByFiscalQuarter(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": receipts})
	result := run(t, folder, "totals", "s.csv", "--sum", "Amount", "--mean", "price", "--count", "--grain", "fiscal.quarter", "--fiscal-start", "feb", "--fiscal-named-by", "start", "--fiscal-label", "FY{yy}", "--as-of", "2026-02-15")
	assert.Equal(t, 1, result.code, "a fact without a date is something to see to")
	assert.Equal(t, "period,period_start,period_end,amount,price,count,is_filled,is_running\n"+
		"FY25 Q4,2025-11-01,2026-01-31,10.10,5.00,1,false,false\n"+
		"FY26 Q1,2026-02-01,2026-04-30,5.75,5.50,3,false,true\n", result.out)
	assert.Contains(t, result.err, "4 rows from 2026-01-31 to 2026-04-01 in 2 fiscal quarters")
	assert.Contains(t, result.err, "! 1 row without a date, not in any period: amount 340.50")
	assert.Contains(t, result.err, "No gaps; as of 2026-02-15")
	assert.Contains(t, result.err, "Fiscal years run from 1 February and are named by the year in which they start: FY26 runs from 2026-02-01 to 2027-01-31")
}

func TestFillByShop(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": receipts})
	result := run(t, folder, "fill", "s.csv", "--by", "shop", "--sum", "amount", "--last", "price", "--gap", "price=carry", "--as-of", "2026-12-31")
	assert.Equal(t, "period,period_start,period_end,shop,amount,price,is_filled,is_running,is_carried\n"+
		"2026-01,2026-01-01,2026-01-31,Kil,10.10,5,false,false,false\n2026-01,2026-01-01,2026-01-31,Var,0.00,,true,false,false\n"+
		"2026-02,2026-02-01,2026-02-28,Kil,0.00,5,true,false,true\n2026-02,2026-02-01,2026-02-28,Var,4.75,3,false,false,false\n"+
		"2026-03,2026-03-01,2026-03-31,Kil,0.00,5,true,false,true\n2026-03,2026-03-01,2026-03-31,Var,0.00,3,true,false,true\n"+
		"2026-04,2026-04-01,2026-04-30,Kil,1.00,8,false,false,false\n2026-04,2026-04-01,2026-04-30,Var,0.00,3,true,false,true\n", result.out)
	assert.Contains(t, result.err, "5 rows filled for periods without data; as of 2026-12-31")
	for span, rows := range map[string]int{"all": 8, "since-first": 7, "own": 5, "2025-12-01/2026-02-28": 6} {
		result := run(t, folder, "fill", "s.csv", "--by", "shop", "--count", "--span", span, "--as-of", "2026-12-31", "--format", "jsonl", "-q")
		assert.Len(t, splitLines(result.out), rows, span)
	}
}

func TestRangesFiltersAndSeveralMeasuresOfAColumn(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": receipts})
	result := run(t, folder, "totals", "s.csv", "--sum", "amount", "--min", "amount", "--max", "amount", "--first", "amount", "--grain", "year",
		"--from", "2026-02-01", "--to", "2026-03-15", "--where", "shop=Var,Nowhere", "--where", "dept=a", "--as-of", "2027-01-01", "--format", "md", "-o", "-")
	assert.Equal(t, "| period | period_start | period_end | amount_sum | amount_min | amount_max | amount_first | is_filled | is_running |\n"+
		"| --- | --- | --- | ---: | ---: | ---: | ---: | --- | --- |\n"+
		"| 2026 | 2026-01-01 | 2026-12-31 | -2.50 | -2.50 | -2.50 | -2.50 | false | false |\n", result.out)
	assert.Contains(t, result.err, "2026 is incomplete: it runs from 2026-01-01 to 2026-12-31, and --from or --to cuts it off")
	assert.Contains(t, result.err, "Excluded: 1 row without a date, 3 rows by --where")
	result = run(t, folder, "totals", "s.csv", "--count", "--where", "shop=Nowhere")
	assert.Equal(t, 2, result.code)
	assert.Contains(t, result.err, `s.csv: no row has shop = "Nowhere"`)
}

func TestASentinelDayIsPointedOut(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": "day,n\n2026-01-05,1\n1900-01-01,2\n"})
	result := run(t, folder, "totals", "s.csv", "--sum", "n", "--grain", "year", "--as-of", "2026-02-01")
	assert.Equal(t, 1, result.code)
	assert.Contains(t, result.err, "! 1 row on 1900-01-01, a placeholder date; --placeholder 1900-01-01 counts it as no date")
	done(t, folder, "totals", "s.csv", "--sum", "n", "--grain", "year", "--as-of", "2026-02-01", "--from", "2026-01-01")
}

func TestACleanedFileNeedsNoDateFlag(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": "date,n\n13/01/2026 10:00,1\n14/01/2026 11:00,2\n"})
	done(t, folder, "normalise", "s.csv", "-o", "clean.csv")
	result := done(t, folder, "totals", "clean.csv", "--sum", "n", "--as-of", "2026-02-01", "-q")
	assert.Equal(t, "period,period_start,period_end,n,is_filled,is_running\n2026-01,2026-01-01,2026-01-31,3,false,false\n", result.out)
	// The facts can also be read as they were.
	assert.Equal(t, result.out, done(t, folder, "totals", "s.csv", "--sum", "n", "--as-of", "2026-02-01", "-q").out)
	parts := folderWith(t, map[string]string{"b.csv": "y,m,d,n\n2026,1,1,3\n"})
	assert.Equal(t, result.out, done(t, parts, "totals", "b.csv", "--parts", "x=y,m,d", "--sum", "n", "--as-of", "2026-02-01", "-q").out)
}

func TestCallsThatDoNotFitTheFacts(t *testing.T) {
	folder := folderWith(t, map[string]string{
		"s.csv":   receipts,
		"bad.csv": "day,amount,period\n2026-01-01,10.5,x\n2026-01-02,\"1,5\",y\n", "unread.csv": "day,n\n2026-01-01,1\n2026-01-32,2\n",
	})
	for _, c := range []struct {
		args  []string
		fault string
	}{
		{[]string{"totals", "s.csv"}, "nothing to measure: add --sum COLUMN, --mean, --min, --max, --first, --last, --distinct, --median, --percentile or --count"},
		{[]string{"totals", "s.csv", "--sum", "amuont"}, `s.csv: has no column "amuont". Did you mean "amount"?`},
		{[]string{"totals", "s.csv", "--count", "--by", "shops"}, `s.csv: has no column "shops". Did you mean "shop"?`},
		{[]string{"totals", "s.csv", "--count", "--grain", "fortnight"}, `unknown grain "fortnight"; the grains are year, half, quarter, month, day, week.year, week, iso.year, iso.week, fiscal.year, fiscal.half, fiscal.quarter, fiscal.month, fiscal.week`},
		{[]string{"totals", "bad.csv", "--sum", "amount"}, `bad.csv, column amount: has decimal points and decimal commas: "10.5" in line 2, "1,5" in line 3. Correct the values; if only one of the two is wrong, --decimal amount=point or --decimal amount=comma finds them`},
		{[]string{"totals", "bad.csv", "--count", "--by", "period"}, "bad.csv, column period: would be in the result twice"},
		{[]string{"totals", "unread.csv", "--sum", "n"}, `unread.csv, line 3, column day: "2026-01-32" cannot be read as a date. Run roundyear normalise on the file first`},
		{[]string{"fill", "s.csv", "--count", "--gap", "count=guess"}, `--gap: unknown gap value "guess"; use zero, blank, carry, carry:N, linear or a number`},
		{[]string{"fill", "s.csv", "--count", "--gap", "amount=zero"}, `--gap: "amount" is not a measure; the measures are count`},
		{[]string{"fill", "s.csv", "--count", "--gap", "zero"}, `--gap must be COLUMN=zero, blank, carry, carry:N, linear or a number, not "zero"`},
		{[]string{"fill", "s.csv", "--count", "--span", "some"}, `--span must be all, since-first, own, plan or FROM/TO such as 2026-01-01/2026-12-31, not "some"`},
		{[]string{"fill", "s.csv", "--count", "--span", "2026-02-01/2026-01-01"}, "the range ends on 2026-01-01, before it starts on 2026-02-01"},
		{[]string{"fill", "s.csv", "--count", "--span", "2026-02-01/2026-03-01", "--from", "2026-01-01"}, "--span FROM/TO cannot be combined with --from or --to"},
		{[]string{"totals", "s.csv", "--count", "--as-of", "today"}, `--as-of: "today" is not a date such as 2026-03-01`},
		{[]string{"totals", "s.csv", "--count", "--where", "shop"}, `--where "shop" is not a condition; write COLUMN=VALUE, with = or != < <= > >=, or COLUMN is blank`},
		{[]string{"totals", "s.csv", "--count", "--format", "xml"}, `unknown format "xml"; use csv, tsv, jsonl, json, parquet, xlsx, sqlite, md, html or table`},
		{[]string{"totals", "s.csv", "--count", "-o", "s.csv"}, "s.csv: is read by this run and would be overwritten"},
	} {
		result := run(t, folder, c.args...)
		assert.Equal(t, 2, result.code, c.fault)
		assert.Contains(t, result.err, c.fault)
		assert.Empty(t, result.out)
	}
}

// Conditions name the value that was meant, and never drop a row that they cannot
// compare.
func TestConditionsOnRows(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": "sold,shop,n,note\n2026-01-05,Ballyfern,1,\n2026-02-06,Kil,20,x\n2026-02-07,Kil,-3.5,7\n2026-02-08,\"Kil, North\",4,\n"})
	count := func(conditions ...string) said {
		args := []string{"totals", "s.csv", "--sum", "n", "--grain", "year", "--as-of", "2026-03-01", "--format", "csv"}
		for _, condition := range conditions {
			args = append(args, "--where", condition)
		}
		return run(t, folder, args...)
	}
	for conditions, sum := range map[string]string{
		"shop!=Kil": "5.0", "shop=Kil": "16.5", `shop="Kil, North"`: "4", `shop="Kil, North",Ballyfern`: "5", "n>=1": "25", "n < 4": "-2.5", "n=20.00": "20", "sold<2026-02-07": "21", "sold = 2026-02-07": "-3.5",
		"note is blank": "5", "note is not blank": "16.5", "shop=Kil|n>0": "20", "note>1|note!=x": "-3.5", "note!=x|note>1": "-3.5", "n<=1|n>=-5|shop!=Ballyfern": "-3.5",
	} {
		result := count(strings.Split(conditions, "|")...)
		require.Zero(t, result.code, "%s: %s", conditions, result.err)
		want, err := strconv.ParseFloat(sum, 64)
		require.NoError(t, err)
		is, err := strconv.ParseFloat(strings.Split(splitLines(result.out)[1], ",")[3], 64)
		require.NoError(t, err)
		assert.InDelta(t, want, is, 1e-9, conditions)
	}
	for conditions, fault := range map[string]string{
		"shop=ballyfern":          `s.csv: no row has shop = "ballyfern". Did you mean "Ballyfern"?`,
		"shop=kill,quite another": `s.csv: no row has shop = "kill". Did you mean "Kil"?; no row has shop = "quite another"`,
		"shp!=Kil":                `s.csv: has no column "shp". Did you mean "shop"?`,
		"note>1":                  `s.csv, line 3, column note: "x" is not a number, which note>1 needs. Correct the value, or exclude it with --where 'note!=x'`,
		"n>100":                   `s.csv, column sold: no rows are left: 4 rows by --where are excluded. Widen --where`,
		"n>=":                     `--where "n>=" needs one value behind >=`,
	} {
		result := count(conditions)
		assert.Equal(t, 2, result.code, conditions)
		assert.Contains(t, result.err, fault+"\n", conditions)
		assert.Empty(t, result.out)
	}
	// What no row has is said beside a result, too.
	result := count("shop=Kil,Ballyferm")
	assert.Zero(t, result.code)
	assert.Contains(t, result.err, `--where: no row has shop = "Ballyferm". Did you mean "Ballyfern"?`)
}

// Slips of a digit are said: by totals beside the result, by build with their row.
func TestDaysFarOutsideTheOthersAreSaid(t *testing.T) {
	var text strings.Builder
	text.WriteString("day,n\n2204-01-01,1\n")
	for range 150 {
		text.WriteString("2026-01-05,1\n")
	}
	folder := folderWith(t, map[string]string{"s.csv": text.String() + "1900-01-01,1\n", "old.csv": text.String() + "1024-05-05,1\n"})
	result := run(t, folder, "totals", "s.csv", "--count", "--grain", "year", "--as-of", "2026-02-01")
	assert.Equal(t, 1, result.code, "a placeholder is something to see to")
	assert.Contains(t, result.err, "! 1 row on 1900-01-01, a placeholder date; --placeholder 1900-01-01 counts it as no date\n! 1 row on 2204-01-01, far outside the other dates; if that is wrong, exclude it with --from or --to\n")
	result = run(t, folder, "fill", "old.csv", "--count", "--grain", "day", "--max-rows", "1000", "--as-of", "2026-02-01")
	assert.Equal(t, 2, result.code)
	assert.Contains(t, result.err, "430862 periods from 1024-05-05 to 2204-01-01 for one group. 1024-05-05 (1 row) is far outside the other dates: exclude it with --from or --to, or allow more rows")
	result = run(t, folder, "build", "--cover", "old.csv:day", "-o", "d.csv")
	assert.Equal(t, 2, result.code)
	assert.Contains(t, result.err, "old.csv, line 153, column day: 1024-05-05 is outside 1583-01-01 to 9999-12-31, the range of a date table. Correct the date, or set the range with --from and --to\n")
}

func TestMediansAndPercentiles(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": "day,shop,n\n2026-01-01,x,1\n2026-01-02,x,2.50\n2026-01-03,x,10\n2026-01-09,x,99999999999999999999\n2026-01-01,y,7\n2026-03-01,y,\n2026-03-02,y,8\n"})
	result := done(t, folder, "totals", "s.csv", "--by", "shop", "--median", "n", "--percentile", "n=90", "--percentile", "n=99.9", "--as-of", "2026-04-01")
	assert.Equal(t, "period,period_start,period_end,shop,n_median,n_p90,n_p99.9,is_filled,is_running\n"+
		"2026-01,2026-01-01,2026-01-31,x,6.25,70000000000000000002.30,99699999999999999999.033,false,false\n2026-01,2026-01-01,2026-01-31,y,7.00,7.00,7.000,false,false\n"+
		"2026-02,2026-02-01,2026-02-28,x,,,,true,false\n2026-02,2026-02-01,2026-02-28,y,,,,true,false\n"+
		"2026-03,2026-03-01,2026-03-31,x,,,,true,false\n2026-03,2026-03-01,2026-03-31,y,8.00,8.00,8.000,false,false\n", result.out)
	result = done(t, folder, "fill", "s.csv", "--median", "n", "--gap", "n=linear", "--as-of", "2026-04-01", "--to", "2026-03-31")
	assert.Contains(t, result.out, "2026-01,2026-01-01,2026-01-31,7.00,false,false,false\n2026-02,2026-02-01,2026-02-28,7.50,true,false,true\n2026-03,2026-03-01,2026-03-31,8.00,false,false,false\n")
	for _, bad := range []string{"n", "n=", "=5", "n=101", "n=-1", "n=50.0001", "n=half"} {
		result := run(t, folder, "totals", "s.csv", "--percentile", bad)
		assert.Equal(t, 2, result.code, bad)
		assert.Contains(t, result.err, "--percentile must be COLUMN=PERCENT, a number from 0 to 100 with at most 3 decimals, such as amount=90, not")
	}
}

func TestDistinctValuesAreCounted(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": "sold,shop,customer\n2026-01-05,Kil,ann\n2026-01-06,Kil,ben\n2026-01-07,Kil, ann\n2026-01-08,Kil,\n2026-03-01,Kil,cid\n2026-03-02,Var,\n,Var,dan\n"})
	result := attended(t, folder, "totals", "s.csv", "--distinct", "customer", "--count", "--by", "shop", "--as-of", "2026-04-01")
	assert.Equal(t, "period,period_start,period_end,shop,customer_distinct,count,is_filled,is_running\n"+
		"2026-01,2026-01-01,2026-01-31,Kil,2,4,false,false\n2026-01,2026-01-01,2026-01-31,Var,0,0,true,false\n"+
		"2026-02,2026-02-01,2026-02-28,Kil,0,0,true,false\n2026-02,2026-02-01,2026-02-28,Var,0,0,true,false\n"+
		"2026-03,2026-03-01,2026-03-31,Kil,1,1,false,false\n2026-03,2026-03-01,2026-03-31,Var,0,1,false,false\n", result.out)
	assert.Contains(t, result.err, "! 1 row without a date, not in any period\n")
}
