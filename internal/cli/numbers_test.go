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
	enough := driveRaced(t)
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
	enough()
	assert.Contains(t, got.err, "Read with a decimal comma: amount, units")
	assert.Equal(t, want.out, done(t, folder, append([]string{"totals", "swiss.csv", "--no-plan"}, call...)...).out)
	both := done(t, folder, "totals", "plain.csv", "german.csv", "--no-plan", "--decimal", "units=comma", "--sum", "amount", "--as-of", "2027-01-01")
	double := done(t, folder, "totals", "plain.csv", "--sum", "amount", "--as-of", "2027-01-01")
	assert.NotEqual(t, double.out, both.out)
	assert.Contains(t, both.err, "80,000 rows")

	for _, c := range []struct{ args, fault string }{
		{"mixed.csv --sum amount", `mixed.csv, column amount: has decimal points and decimal commas: "`},
		{"mixed.csv --sum amount --decimal point", `mixed.csv, line 40002, column amount: "12,50" is not a number with a decimal point. Correct the value, exclude the row with --where, or set such rows apart with normalise --number amount`},
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
		"u.csv": `u.csv, line 3, column amount: "one" is not a number. Correct the value, exclude the row with --where, or set such rows apart with normalise --number amount`,
	} {
		failed := run(t, folder, "totals", name, "--sum", "amount")
		assert.Equal(t, 2, failed.code)
		assert.Equal(t, "roundyear: "+fault+"\n", failed.err)
	}
}

// Normalise adds plain numbers, in every format and in partitions; what is no number is a reject that can be corrected.
func TestNormaliseWritesNumbersPlainly(t *testing.T) {
	enough := driveRaced(t)
	var text strings.Builder
	text.WriteString("day;due;amount;rate\n")
	sum := 0
	for i := range 30_000 {
		cents := i*37%100_000 - 20_000
		sum += cents
		amount := fmt.Sprintf("%d.%03d,%02d", 7, max(cents, -cents)/100%1000, max(cents, -cents)%100)
		if sum += 700_000; cents < 0 {
			amount = "(" + amount + ")"
			sum -= 2 * 700_000
		}
		fmt.Fprintf(&text, "%02d.%02d.2026;%02d.%02d.2026;%s EUR;%d,5 %%\n", 1+i%28, 1+i%12, 1+i%28, 1+i%12, amount, i%90)
	}
	text.WriteString("31.12.2026;;none;1 %\n30.12.2026;;10.50;1 %\n29.12.2026;;;\n")
	folder := folderWith(t, map[string]string{"s.csv": text.String()})
	want := fmt.Sprintf("%d.%02d", sum/100, sum%100)
	for _, args := range []string{"-o o.csv", "-o o.jsonl", "-o o.parquet", "-o o.tsv", "--partition-by month --format parquet -o lake", "--partition-by month -o rows", "--drop-original -o p.parquet"} {
		fields := strings.Fields(args)
		out := fields[len(fields)-1]
		done := attended(t, folder, append([]string{"normalise", "s.csv", "--date", "day", "--date", "due", "--number", "amount", "--number", "rate", "--decimal", "amount=comma"}, fields...)...)
		assert.Contains(t, done.err, "! 2 rows rejected: correct them in", args)
		assert.Contains(t, done.err, "amount_number, rate_number")
		totals := run(t, folder, "totals", out, "--date", "day_date", "--sum", "amount_number", "--max", "rate_number", "--grain", "year", "--as-of", "2027-06-01", "--format", "csv")
		assert.Contains(t, totals.out, "2026,2026-01-01,2026-12-31,"+want+",0.895,false,false\n", "%s: %s", args, totals.err)
		assert.Contains(t, totals.err, "30,001 rows")
		enough()
	}
	assert.Contains(t, textOf(t, folder, "o.csv"), "01.01.2026;01.01.2026;(7.200,00) EUR;0,5 %;2026-01-01;20260101;2026-01-01;20260101;-7200.00;0.005\n")
	assert.Contains(t, textOf(t, folder, "o.csv"), "29.12.2026;;;;2026-12-29;20261229;;;;\n")
	assert.Contains(t, textOf(t, folder, "o.jsonl"), `"day_key":20260101,"due_date":"2026-01-01","due_key":20260101,"amount_number":-7200.00,"rate_number":0.005}`)
	assert.Equal(t, "day;due;amount;rate;line;column;value;reason\n31.12.2026;;none;1 %;30002;amount;none;is not a number\n30.12.2026;;10.50;1 %;30003;amount;10.50;is not a number with a decimal comma\n", textOf(t, folder, "o.rejects.csv"))

	for _, c := range []struct {
		args, fault string
		code        int
	}{
		{"s.csv --date day --number amount --decimal comma", `s.csv, line 30002, column amount: "none" is not a number with a decimal comma; nothing was written. Name a file for such rows with --rejects FILE`, 2},
		{"s.csv --date day --number amount --decimal comma --max-rejects 1 -o q.csv", "more than --max-rejects 1 allows; nothing was written", 1},
		{"s.csv --date day --number amuont -o q.csv", `s.csv: has no column "amuont". Did you mean "amount"?`, 2},
		{"s.csv --date day --number amount --decimal euro -o q.csv", `--decimal must be point or comma, or COLUMN=comma, not "euro"`, 2},
	} {
		failed := run(t, folder, append([]string{"normalise"}, strings.Fields(c.args)...)...)
		assert.Equal(t, c.code, failed.code, c.args)
		assert.Contains(t, failed.err, c.fault)
		assert.Empty(t, failed.out)
	}
	assert.NotContains(t, names(t, folder), "q.csv")
	assert.NotContains(t, names(t, folder), "q.rejects.csv")
	again := done(t, folder, "normalise", "p.parquet", "--date", "day_date", "--number", "amount_number", "-o", "again.csv")
	assert.Contains(t, again.err, "amount_number_number")
}
