package cli_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

// A figure is explained step by step: its days, those without rows and why, and what it is compared with.
func TestTotalsExplainAFigure(t *testing.T) {
	files := map[string]string{
		"s.csv":          "day,shop,amount\n2025-02-03,A,10\n2025-03-03,A,10\n2025-03-04,B,20\n2026-02-27,A,5\n2026-03-02,A,30\n2026-03-03,A,10\n2026-03-03,A,2.50\n2026-03-10,B,7\n",
		"roundyear.yaml": "roundyear: 1\ndays_off:\n  - name: Stocktaking\n    when: {date: 2026-03-04}\nsites:\n  A: {}\n  B: {open: [mon, tue, wed, thu, fri], closures: {from: 2026-03-05, to: 2026-03-06, reason: refitting}}\n",
	}
	folder := folderWith(t, files)
	figure := done(t, folder, "totals", "s.csv", "--sum", "amount", "--count", "--against", "year-ago,previous", "--explain", "2026-03", "--as-of", "2026-03-11", "--to-date")
	assert.Equal(t, `2026-03: amount 49.50, count 4
1. 2026-03 runs from 2026-03-01 to 2026-03-31: 31 days
   March is month 3 of the year
2. To date: it counts up to 2026-03-11, the position of 2026-03-11 in its own month
3. 4 rows on 3 of 11 days, from 2026-03-02 to 2026-03-10: amount 49.50, count 4
4. 8 days without rows
   weekend: 2026-03-01, 2026-03-07 to 2026-03-08
   Stocktaking: 2026-03-04
   a workday: 2026-03-05 to 2026-03-06, 2026-03-09, 2026-03-11
5. Against year-ago: 2025-03, 2025-03-01 to 2025-03-11, 11 days
   9 days without rows: weekend: 2025-03-01 to 2025-03-02, 2025-03-08 to 2025-03-09; a workday: 2025-03-05 to 2025-03-07, 2025-03-10 to 2025-03-11
   workdays: 7, and 7 in the other
   amount: 49.50 − 30.00 = 19.50, which is 65.0% of 30.00
   count: 4 − 2 = 2, which is 100.0% of 2
6. Against previous: 2026-02, 2026-02-01 to 2026-02-11, 11 days
   workdays: 7, and 8 in the other
   amount: 49.50 − 0.00 = 49.50; no percentage of zero
   count: 4 − 0 = 4; no percentage of zero
`, figure.out)
	shop := done(t, folder, "totals", "s.csv", "shop=B", "--sum", "amount", "--by", "shop", "--against", "year-ago", "--explain", "2026-03-05", "--as-of", "2026-03-11")
	assert.Contains(t, shop.out, "2026-03, shop B: amount 7\n")
	assert.Contains(t, shop.out, "2. It is running: as of 2026-03-11, 11 of its days have passed or begun\n3. 1 row on 1 of 11 days, from 2026-03-10 to 2026-03-10: amount 7\n")
	assert.Contains(t, shop.out, "   closed on Sundays: 2026-03-01, 2026-03-08\n", "a site goes by its own days")
	assert.Contains(t, shop.out, "   refitting: 2026-03-05 to 2026-03-06\n")
	assert.Contains(t, shop.out, "   amount: 7, and 20 in the other\n   No change is given: the period itself has not ended; the data begins after the first day of the other\n")
	empty := done(t, folder, "totals", "s.csv", "--sum", "amount", "--explain", "2025-07", "--against", "previous", "--as-of", "2026-03-11")
	assert.Contains(t, empty.out, "2. It is complete: it ended before 2026-03-11, the as-of date\n3. No rows: what adds up is filled with zero, everything else is blank\n")
	first := done(t, folder, "totals", "s.csv", "--sum", "amount", "--explain", "2025-02", "--against", "year-ago", "--as-of", "2026-03-11")
	assert.Contains(t, first.out, "Against year-ago: nothing, since there is no such data\n")
	unloaded := done(t, folder, "totals", "s.csv", "--sum", "amount", "--explain", "2026-02", "--against", "previous", "--as-of", "2026-03-11", "--loaded-through", "2026-02-10")
	assert.Contains(t, unloaded.out, "No change is given: the data of the period is not loaded to its end\n")
	for message, flags := range map[string]string{
		"--explain: \"spring\" is not a month, such as 2026-03, nor a date in one":                                    "--explain spring",
		"--explain: 2027-01, from 2027-01-01 to 2027-01-31, is not in the result, which runs from 2025-02-03 to 2026": "--explain 2027-01",
		"--explain and --format cannot be combined":                                                                   "--explain 2026-03 --format csv",
		"--explain is of a single --grain, without --across":                                                          "--explain 2026-03 --across year",
		"--explain takes columns of the facts in --by, and day_name is an attribute of the day":                       "--explain 2026-03 --by day_name",
		"s.csv: has no column \"store\"":                                                                              "--explain 2026-03 store=B",
		"no row has shop = \"Z\"":                                                                                     "--explain 2026-03 shop=Z",
	} {
		result := run(t, folder, append([]string{"totals", "s.csv", "--sum", "amount", "--as-of", "2026-03-11"}, strings.Fields(flags)...)...)
		assert.Equal(t, 2, result.code, "%s: %s", message, result.err)
		assert.Contains(t, result.err, message)
		assert.Empty(t, result.out)
	}
}
