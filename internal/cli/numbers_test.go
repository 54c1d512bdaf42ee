package cli_test

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

// Amounts give the same sums however they are written, in files of many chunks.
func TestAmountsAreReadAsTheyAreWritten(t *testing.T) {
	t.Setenv("GOMAXPROCS", "4")
	r := rand.New(rand.NewPCG(9, 9))
	var plain, german, swiss, mixed strings.Builder
	for _, text := range []*strings.Builder{&plain, &german, &swiss, &mixed} {
		text.WriteString("day;shop;amount;units\n")
	}
	grouped := func(number int, separator string) string {
		if number < 1000 {
			return fmt.Sprint(number)
		}
		return fmt.Sprintf("%d%s%03d", number/1000, separator, number%1000)
	}
	for i := range 40_000 {
		head := fmt.Sprintf("2026-%02d-%02d;S%d;", 1+i%12, 1+i%28, i%3)
		whole, cents, units, minus := r.IntN(900_000), r.IntN(100), 1000*(1+i%9)+i%1000, ""
		if i%7 == 0 {
			minus = "-"
		}
		fmt.Fprintf(&plain, "%s%s%d.%02d;%d\n", head, minus, whole, cents, units)
		fmt.Fprintf(&german, "%s%s%s,%02d €;%s\n", head, minus, grouped(whole, "."), cents, grouped(units, "."))
		amount := fmt.Sprintf("CHF %s.%02d", grouped(whole, "’"), cents)
		if minus != "" {
			amount = "(" + amount + ")"
		}
		fmt.Fprintf(&swiss, "%s%s;%s\n", head, amount, grouped(units, "'"))
		fmt.Fprintf(&mixed, "%s%s%d.%02d;%d\n", head, minus, whole, cents, units)
	}
	mixed.WriteString("2026-12-28;S0;12,50;1\n")
	folder := folderWith(t, map[string]string{"plain.csv": plain.String(), "german.csv": german.String(), "swiss.csv": swiss.String(), "mixed.csv": mixed.String(),
		"roundyear.yaml": "roundyear: 1\nfacts: {g: {files: german.csv, dates: {day: }, decimal: {units: comma}}}\n"})
	call := []string{"--sum", "amount", "--max", "units", "--by", "shop", "--where", "amount>=-5000.5", "--as-of", "2027-01-01", "--format", "csv"}
	want := done(t, folder, append([]string{"totals", "plain.csv"}, call...)...)
	got := done(t, folder, append([]string{"totals", "german.csv"}, call...)...)
	assert.Equal(t, want.out, got.out)
	assert.Contains(t, got.err, "Read with a decimal comma: amount, units")
	assert.Equal(t, want.out, done(t, folder, append([]string{"totals", "swiss.csv", "--no-plan"}, call...)...).out)
	both := done(t, folder, "totals", "plain.csv", "german.csv", "--no-plan", "--decimal", "units=comma", "--sum", "amount", "--as-of", "2027-01-01")
	double := done(t, folder, "totals", "plain.csv", "--sum", "amount", "--as-of", "2027-01-01")
	assert.NotEqual(t, double.out, both.out)
	assert.Contains(t, both.err, "80,000 rows")

	for _, c := range []struct{ args, fault string }{
		{"mixed.csv --sum amount", `mixed.csv, column amount: has decimal points and decimal commas: "`},
		{"mixed.csv --sum amount --decimal point", `mixed.csv, line 40002, column amount: "12,50" is not a number with a decimal point. Correct the value, or exclude the row with --where`},
		{"german.csv --no-plan --sum units", `german.csv, column units: does not show whether the point or the comma marks the decimals (40000 values could be either, and none settles it): "1.000" in line 2. Add --decimal units=point or --decimal units=comma`},
		{"german.csv --sum amount --decimal amount", `--decimal must be point or comma, or COLUMN=comma, not "amount"`},
		{"german.csv --sum amount --decimal amuont=comma", `german.csv: has no column "amuont". Did you mean "amount"?`},
	} {
		failed := run(t, folder, append(append([]string{"totals"}, strings.Fields(c.args)...), "-o", "t.csv")...)
		assert.Equal(t, 2, failed.code, c.args)
		assert.Contains(t, failed.err, c.fault)
	}
	assert.NotContains(t, names(t, folder), "t.csv")
	assert.Contains(t, run(t, folder, "totals", "german.csv", "--no-plan", "--max", "units", "--decimal", "units=point", "--by", "shop", "--as-of", "2027-01-01").out, ",9.999,")
	assert.Contains(t, run(t, folder, "totals", "german.csv", "--no-plan", "--max", "units", "--decimal", "comma", "--by", "shop", "--as-of", "2027-01-01").out, ",9999,")
}

func TestCurrenciesAreNotAddedUp(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": "day,amount\n2026-01-05,5 €\n2026-01-06,EUR 7\n2026-02-06,12.5%\n", "t.csv": "day,amount\n2026-01-05,5 €\n2026-01-06,$7.50\n", "u.csv": "day,amount\n2026-01-05,5\n2026-01-06,one\n"})
	assert.Contains(t, done(t, folder, "totals", "s.csv", "--sum", "amount", "--as-of", "2027-01-01").out, "2026-01-31,12.000,")
	for name, fault := range map[string]string{
		"t.csv": `t.csv, column amount: has amounts in different currencies: "5 €" in line 2, "$7.50" in line 3. Convert them to one currency first`,
		"u.csv": `u.csv, line 3, column amount: "one" is not a number. Correct the value, or exclude the row with --where`,
	} {
		failed := run(t, folder, "totals", name, "--sum", "amount")
		assert.Equal(t, 2, failed.code)
		assert.Equal(t, "roundyear: "+fault+"\n", failed.err)
	}
}
