package cli_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

// Conditions on numbers and days find the same rows inside a database as the database's own comparison, on values beside, on and far from
// the limit. Each condition holds for some rows and not for others.
func TestConditionsInsideFindWhatTheDatabaseFinds(t *testing.T) {
	onTargets(t, nil, func(t *testing.T, folder string, d target) {
		var values []string
		for i := range 120 {
			amount := fmt.Sprint(i - 20)
			if i%7 == 0 {
				amount = "NULL"
			}
			values = append(values, fmt.Sprintf("('2026-%02d-%02d', %s, %d)", 1+i%3, 1+i%28, amount, i%5))
		}
		d.sql("CREATE TABLE facts (sold date, amount bigint, n int); INSERT INTO facts VALUES " + strings.Join(values, ", "))
		for where, own := range map[string]string{
			"amount=40": "amount = 40", "amount!=40": "amount IS NULL OR amount <> 40", "amount<40": "amount < 40", "amount<=40": "amount <= 40",
			"amount>40": "amount > 40", "amount>=40": "amount >= 40", "amount<-9": "amount < -9", "amount>=100000": "amount >= 100000",
			"amount=9,10,-10": "amount IN (9, 10, -10)", "amount is blank": "amount IS NULL", "amount is not blank": "amount IS NOT NULL",
			"sold>=2026-02-10": "sold >= '2026-02-10'", "sold<2026-02-10": "sold < '2026-02-10'", "sold=2026-01-01": "sold = '2026-01-01'", "sold!=2026-01-01": "sold <> '2026-01-01'",
		} {
			call := []string{"totals", d.out + "#facts", "--date", "sold", "--count", "--sum", "n", "--grain", "year", "--where", where, "--from", "2026-01-01", "--to", "2026-12-31", "--as-of", "2027-01-01", "--no-plan"}
			// The columns of the period, its count and its sum.
			want := strings.Split(d.sql("SELECT count(*), coalesce(sum(n), 0) FROM facts WHERE "+own), "|")
			for _, place := range []string{"inside", "local"} {
				lines := strings.Split(run(t, folder, append(call, "--run", place)...).out, "\n")
				if want[0] == "0" {
					assert.NotContains(t, strings.Join(lines, "\n"), ",120,", "%s %s", where, place)
					continue
				}
				if assert.GreaterOrEqual(t, len(lines), 2, "%s %s", where, place) {
					fields := strings.Split(lines[1], ",")
					header := strings.Split(lines[0], ",")
					for i, name := range header {
						switch name {
						case "count":
							assert.Equal(t, want[0], fields[i], "%s %s", where, place)
						case "n":
							assert.Equal(t, want[1], fields[i], "%s %s", where, place)
						}
					}
					assert.Subset(t, header, []string{"count", "n"})
				}
			}
		}
	})
}

// That no row has a value is only said where none has: not where other conditions leave out the rows that have it, which are then not read.
func TestAValueOfARowThatIsLeftOutIsThere(t *testing.T) {
	onTargets(t, nil, func(t *testing.T, folder string, d target) {
		d.sql("CREATE TABLE facts (sold date, kind varchar(9), amount decimal(9,2)); INSERT INTO facts VALUES ('2026-01-05', 'x', 13), ('2026-01-06', 'y', 12.25)")
		for _, other := range []string{"kind=y", "sold!=2026-01-05", "sold > 2026-01-05", "amount < 13"} {
			call := []string{"totals", d.out + "#facts", "--date", "sold", "--count", "--no-plan", "--as-of", "2026-02-01", "--run", "local", "--where", other, "--where"}
			refused := run(t, folder, append(call, "amount=13")...)
			assert.Equal(t, 2, refused.code)
			assert.Contains(t, refused.err, "no rows are left", other)
			assert.Contains(t, run(t, folder, append(call, "amount=14")...).err, `no row has amount = "14"`, other)
		}
	})
}
