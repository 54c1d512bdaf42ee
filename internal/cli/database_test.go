package cli_test

import (
	"os/exec"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// shell runs statements in the shell of SQLite.
func shell(t *testing.T, folder, database, statements string) string {
	t.Helper()
	if _, err := exec.LookPath("sqlite3"); err != nil {
		t.Skip("sqlite3 is not installed")
	}
	command := exec.Command("sqlite3", database, statements)
	command.Dir = folder
	out, err := command.CombinedOutput()
	require.NoError(t, err, "%s", out)
	return string(out)
}

func TestDatabases(t *testing.T) {
	folder := t.TempDir()
	shell(t, folder, "till.db", `CREATE TABLE sales (id INTEGER PRIMARY KEY, sold TEXT, julian REAL, unix INTEGER, amount NUMERIC, shop TEXT);
		INSERT INTO sales SELECT value, datetime('2026-01-01', '+' || (value * 11) || ' hours'), julianday('2026-01-01', '+' || (value * 11) || ' hours'), unixepoch('2026-01-01', '+' || (value * 11) || ' hours'), value + 0.25, iif(value % 2, 'Galway', 'Cork') FROM generate_series(1, 100);
		CREATE TABLE budget (month TEXT, amount INTEGER); INSERT INTO budget VALUES ('2026-01-01', 1000), ('2026-02-01', 1500);`)
	want := "period,period_start,period_end,amount,is_filled,is_running\n2026-01,2026-01-01,2026-01-31,2294.75,false,false\n2026-02,2026-02-01,2026-02-28,2780.25,false,true\n"
	assert.Equal(t, want, shell(t, folder, "till.db", `SELECT 'period,period_start,period_end,amount,is_filled,is_running'; SELECT strftime('%Y-%m', sold) || ',' || date(sold, 'start of month') || ',' || date(sold, 'start of month', '+1 month', '-1 day') || ',' || sum(amount) || ',false,' || iif(strftime('%Y-%m', sold) = '2026-02', 'true', 'false') FROM sales GROUP BY strftime('%Y-%m', sold)`))
	for _, call := range [][]string{{"till.db#sales", "--date", "sold"}, {"till.db#sales", "--date", "julian", "--pattern", "julian=julian"}, {"till.db#sales", "--date", "unix", "--pattern", "unix=unix"},
		{"till.db#SELECT sold, amount * 1 AS amount FROM sales"}} {
		assert.Equal(t, want, done(t, folder, append([]string{"totals", "--sum", "amount", "--no-plan", "--as-of", "2026-02-16", "-q"}, call...)...).out)
	}
	done(t, folder, "normalise", "till.db#sales", "--date", "sold", "-o", "clean.db", "--no-plan")
	assert.Equal(t, "100|2026-01-01|2026-02-15|integer|real|text\n", shell(t, folder, "clean.db", "SELECT count(*), min(sold_date), max(sold_date), typeof(sold_key), typeof(amount), typeof(sold_date) FROM clean"))
	done(t, folder, "build", "--cover", "till.db#budget:month", "-o", "dates.sqlite", "--no-plan")
	assert.Equal(t, "365|20260101|20261231|1\n", shell(t, folder, "dates.sqlite", `SELECT count(*), min(date_key), max(date_key), (SELECT pk FROM pragma_table_info('dates') WHERE name = 'date_key') FROM dates`))
	done(t, folder, "check", "dates.sqlite", "--cover", "till.db#budget:month", "--no-plan")

	for _, c := range []struct {
		code  int
		call  []string
		fault string
	}{
		{2, []string{"totals", "till.db", "--no-plan"}, `till.db: has 2 tables: budget, sales. Name one of them: "till.db#budget"`},
		{3, []string{"totals", "till.db#sale", "--no-plan"}, `till.db: has no table "sale". Did you mean "till.db#sales"?`},
		{2, []string{"totals", "till.db#SELECT x FROM sales", "--no-plan"}, `the database cannot carry that out: no such column: x`},
		{2, []string{"build", "-o", "till.db", "--no-plan", "--from", "2026-01-01", "--to", "2026-01-31"}, "till.db: is a database with other tables (budget, sales), which would be gone. Write to a file of its own"},
		{2, []string{"normalise", "clean.db", "--date", "sold_date", "-o", "till.db", "--no-plan"}, "till.db: is a database with other tables (budget, sales), which would be gone"},
	} {
		result := run(t, folder, c.call...)
		assert.Equal(t, c.code, result.code, "%v", c.call)
		assert.Contains(t, result.err, c.fault)
	}
	assert.Equal(t, "100\n", shell(t, folder, "till.db", "SELECT count(*) FROM sales"), "nothing was changed")
}

// A small database has no byte that ends a line in text, and several that only old text ends its lines with.
func TestSmallDatabase(t *testing.T) {
	folder := t.TempDir()
	shell(t, folder, "small.db", "CREATE TABLE a (sold DATE, n INT); CREATE TABLE b (sold DATE); INSERT INTO a VALUES ('2026-01-05', 1)")
	assert.Less(t, 1, strings.Count(textOf(t, folder, "small.db"), "\r"))
	for _, flags := range [][]string{nil, {"--encoding", "windows-1252"}} {
		call := append([]string{"normalise", "small.db#a", "--no-plan"}, flags...)
		assert.Equal(t, "sold,n,sold_date,sold_key\n2026-01-05,1,2026-01-05,20260105\n", done(t, folder, call...).out)
	}
}
