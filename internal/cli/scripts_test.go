package cli_test

import (
	"cmp"
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A script makes what publish makes, and is run as it is.
func TestScriptsMakeTheModel(t *testing.T) {
	onTargets(t, publishFiles(), func(t *testing.T, folder string, d target) {
		script := done(t, folder, "publish", "-o", "model.sql", "--dialect", d.name, "--foreign-keys", "--indexes")
		assert.Contains(t, script.err, "model.sql: 6 tables and 4 views as SQL for ")
		d.sql(textOf(t, folder, "model.sql"))
		queries := []string{
			"SELECT count(*), sum(date_key), count(date), min(fiscal_quarter_label), max(month_end), count(holiday_name) FROM dates", "SELECT count(*), sum(amount), sum(rate), count(delivered), max(note), min(code) FROM sales_with_dates",
			"SELECT fiscal_month_label, count(*), round(sum(amount), 2) FROM sales_with_dates GROUP BY fiscal_month_label, fiscal_month_key ORDER BY fiscal_month_key", "SELECT * FROM trading ORDER BY date_key", "SELECT * FROM times ORDER BY time_key",
			"SELECT * FROM budget_with_dates ORDER BY budget", "SELECT * FROM dates_fiscal_quarter ORDER BY fiscal_quarter_key",
		}
		var made []string
		for _, query := range queries {
			made = append(made, d.sql(query))
		}
		columns := columnsOf(d, "sales_with_dates")
		_, err := d.try("DELETE FROM dates WHERE date_key = 20260501")
		if d.name != "sqlite" { // where foreign keys are off by default
			require.Error(t, err)
		}
		_, err = d.try(textOf(t, folder, "model.sql"))
		require.Error(t, err, "it stops where a table is there already")
		done(t, folder, "publish", "-o", "again.sql", "--dialect", d.name, "--foreign-keys", "--indexes", "--force")
		d.sql(textOf(t, folder, "again.sql"))
		for i, query := range queries {
			assert.Equal(t, made[i], d.sql(query), query)
		}
		// What a script has made is known to publish.
		later := done(t, folder, "publish", "-o", d.out, "--foreign-keys", "--indexes")
		assert.Regexp(t, `dates +366  unchanged\n`, later.err)
		assert.Regexp(t, `sales_with_dates +view  unchanged\n`, later.err)
		assert.Contains(t, done(t, folder, "publish", "-o", d.out, "--foreign-keys", "--indexes").err, "Nothing to change")
		d.sql("UPDATE dates SET day_name = 'Dinsdag' WHERE date_key = 20260317")
		assert.Contains(t, attended(t, folder, "publish", "-o", d.out, "--foreign-keys", "--indexes").err, `20260317: day_name is "Dinsdag" instead of "Tuesday"`)
		done(t, folder, "publish", "-o", d.out, "--foreign-keys", "--indexes", "--force")
		for i, query := range queries {
			assert.Equal(t, made[i], d.sql(query), query)
		}
		assert.Equal(t, columns, columnsOf(d, "sales_with_dates"))
	})
}

// A script is carried out whole or not at all by the client of the database, with the settings that this has by itself.
func TestScriptsAreWholeInTheirClients(t *testing.T) {
	onTargets(t, publishFiles(), func(t *testing.T, folder string, d target) {
		done(t, folder, "publish", "-o", "model.sql", "--dialect", d.name, "--foreign-keys", "--indexes", "-q")
		model := textOf(t, folder, "model.sql")
		client := func(script string) (string, error) {
			if d.name != "sqlite" {
				return d.try(script)
			}
			command := exec.Command("sqlite3", "model.db") // which goes on after errors
			command.Dir, command.Stdin = folder, strings.NewReader(script)
			out, err := command.CombinedOutput()
			return string(out), err
		}
		_, err := client(model)
		require.NoError(t, err)
		require.Equal(t, "300", d.sql("SELECT count(*) FROM sales"))
		before := tablesOf(d)
		_, err = client(model)
		require.Error(t, err)
		assert.Equal(t, "300", d.sql("SELECT count(*) FROM sales"), "run twice it changes nothing")
		assert.Equal(t, "366", d.sql("SELECT count(*) FROM dates"))
		assert.ElementsMatch(t, before, tablesOf(d))
		// A name that is taken, of the last table or view.
		for _, view := range []string{"sales_with_dates", "budget_with_dates"} {
			d.sql("DROP VIEW " + view)
		}
		for _, name := range tablesOf(d) {
			if strings.HasPrefix(name, "dates_") && (strings.HasSuffix(name, "delivered") || strings.HasSuffix(name, "moving")) {
				d.sql("DROP VIEW " + name)
			}
		}
		for _, table := range []string{"sales", "budget", "trading", "times", "dates_fiscal_quarter", "dates", "roundyear_tables"} {
			d.sql("DROP TABLE " + table)
		}
		d.sql("CREATE TABLE budget_with_dates (mine integer)")
		out, err := client(model)
		require.Error(t, err, out)
		assert.Equal(t, []string{"budget_with_dates"}, tablesOf(d), out)
		assert.Contains(t, columnsOf(d, "budget_with_dates"), "mine")
	})
}

// No value of data makes a client carry out a command, and each comes out as it went in.
func TestScriptsCarryHostileValues(t *testing.T) {
	values := []string{"plain", "two\nlines", "\n.shell touch hacked\n", "x\n\\! touch hacked\n", "\r\n!! touch hacked", "a\nGO\nb", "a\n/\nb", "$(hacked)", ":name &amp :'x'", "it's \\' x", "\\", "tab\there", "a\x1ab", "; DROP TABLE sales; --", "/* open", "-- ", "日\x7f", "a\\nb", "delimiter $$\nx$$"}
	text := func(values []string) string {
		var b strings.Builder
		b.WriteString("receipt,sold,note\n")
		for i, value := range values {
			fmt.Fprintf(&b, "%d,2026-03-0%d,\"%s\"\n", i+1, i%9+1, strings.ReplaceAll(value, `"`, `""`))
		}
		return b.String()
	}
	plan := "roundyear: 1\nrange: {from: 2026-01-01, to: 2026-12-31}\nfacts: {sales: {files: sales.csv, dates: {sold: {}}}}\nmodel: {dimension: {name: dates, columns: [core]}, joins: [sales.sold]}\n"
	onTargets(t, map[string]string{"roundyear.yaml": plan, "sales.csv": text(values)}, func(t *testing.T, folder string, d target) {
		done(t, folder, "publish", "-o", "model.sql", "--dialect", d.name, "-q")
		assert.NotContains(t, textOf(t, folder, "model.sql"), "\x00")
		if d.name == "sqlite" {
			assert.Zero(t, inShell(t, folder, "sqlite3 model.db < model.sql").code)
		} else {
			d.sql(textOf(t, folder, "model.sql"))
		}
		assert.NoFileExists(t, filepath.Join(folder, "hacked"))
		hex := map[string]string{"postgres": "encode(convert_to(note, 'UTF8'), 'hex')", "mysql": "lower(hex(note))", "sqlite": "lower(hex(note))"}[d.name]
		for i, value := range values {
			assert.Equal(t, fmt.Sprintf("%x", value), d.sql(fmt.Sprintf("SELECT %s FROM sales WHERE receipt = %d", hex, i+1)), "%q", value)
		}
		for _, other := range []string{"sqlserver", "oracle"} {
			done(t, folder, "publish", "-o", other+".sql", "--dialect", other, "-q")
			script := textOf(t, folder, other+".sql")
			for _, line := range strings.Split(script, "\n") {
				assert.NotContains(t, []string{".shell touch hacked", "\\! touch hacked", "!! touch hacked", "x$$"}, strings.TrimSpace(line))
			}
			if other == "sqlserver" {
				assert.NotContains(t, script, "$(")
			}
		}
		// NUL is carried by those that can store it, and refused by the other.
		require.NoError(t, os.WriteFile(filepath.Join(folder, "sales.csv"), []byte(text([]string{"before", "a\x00b\n.shell touch hacked\n"})), 0o600))
		said := run(t, folder, "publish", "-o", "nul.sql", "--dialect", d.name, "--force")
		if d.name == "postgres" {
			assert.NotEqual(t, 0, said.code)
			assert.Contains(t, said.err, "has a NUL character, which PostgreSQL cannot store")
			assert.NoFileExists(t, filepath.Join(folder, "nul.sql"))
			return
		}
		require.Zero(t, said.code, said.err)
		assert.NotContains(t, textOf(t, folder, "nul.sql"), "\x00")
		d.sql(textOf(t, folder, "nul.sql"))
		assert.Equal(t, fmt.Sprintf("%x", "a\x00b\n.shell touch hacked\n"), d.sql("SELECT "+hex+" FROM sales WHERE receipt = 2"))
		assert.NoFileExists(t, filepath.Join(folder, "hacked"))
	})
}

// readScript reads a script with a parser of SQL, and says what is in it.
const readScript = `
import json, logging, sys, sqlglot
from sqlglot import exp
logging.disable(logging.CRITICAL)
text = open(sys.argv[1], encoding="utf-8").read().replace("\nGO\n", "\n;\n").replace("SET DEFINE OFF;", "").replace("WHENEVER SQLERROR EXIT FAILURE ROLLBACK;", "").replace("IF @@TRANCOUNT = 0 SET NOEXEC ON;", "")
said = {"tables": {}, "views": [], "rows": {}, "unread": [], "keys": 0}
for one in sqlglot.parse(text, read=sys.argv[2], error_level=sqlglot.ErrorLevel.RAISE):
    if isinstance(one, exp.Create) and one.kind == "TABLE":
        said["tables"][one.this.this.name.lower()] = len(list(one.find_all(exp.ColumnDef)))
        said["keys"] += len(list(one.find_all(exp.PrimaryKey)))
    elif isinstance(one, exp.Create) and one.kind == "VIEW":
        said["views"].append(one.this.name.lower())
    elif isinstance(one, exp.Insert):
        name = one.this.this.name.lower()
        values = one.expression
        count = len(values.expressions) if isinstance(values, exp.Values) else len(list(values.find_all(exp.Select)))
        said["rows"][name] = said["rows"].get(name, 0) + count
    elif isinstance(one, exp.Command):
        said["unread"].append(one.sql()[:40].split("(")[0].strip())
print(json.dumps(said))
`

// Scripts for the databases that are not here are held against a parser of SQL that knows their grammar: it reads every statement, and finds
// all tables, columns, rows and views. The others are run; one of them shows that the reader reads.
func TestScriptsAreReadByAParser(t *testing.T) {
	interpreter := cmp.Or(os.Getenv("WITNESS_PYTHON"), "python3")
	if exec.Command(interpreter, "-c", "import sqlglot").Run() != nil {
		t.Skip("Python with sqlglot is not installed")
	}
	folder := folderWith(t, publishFiles())
	for dialect, grammar := range map[string]string{"sqlserver": "tsql", "oracle": "oracle", "postgres": "postgres"} {
		done(t, folder, "publish", "-o", "model.sql", "--dialect", dialect, "--indexes", "--foreign-keys", "--columns", "core")
		command := exec.Command(interpreter, "-c", readScript, filepath.Join(folder, "model.sql"), grammar)
		out, err := command.Output()
		require.NoError(t, err, "%s: %s", dialect, out)
		var said struct {
			Tables, Rows  map[string]int
			Views, Unread []string
			Keys          int
		}
		require.NoError(t, json.Unmarshal(out, &said))
		if dialect == "postgres" {
			assert.Equal(t, 10, said.Rows["roundyear_tables"])
			delete(said.Tables, "roundyear_tables")
			delete(said.Rows, "roundyear_tables")
		}
		assert.Equal(t, map[string]int{"dates": 366, "dates_fiscal_quarter": 5, "times": 25, "trading": 365, "sales": 300, "budget": 12}, said.Rows, dialect)
		assert.Len(t, said.Tables, 6, dialect)
		assert.Equal(t, 42, said.Tables["dates"], dialect)
		assert.Equal(t, 8, said.Tables["sales"], dialect)
		assert.Equal(t, 4, said.Keys, dialect)
		assert.ElementsMatch(t, []string{"sales_with_dates", "budget_with_dates", "dates_delivered", "dates_moving"}, said.Views, dialect)
		for _, unread := range said.Unread {
			assert.Regexp(t, `^(BEGIN|SET|EXEC|COMMIT)`, unread, dialect)
		}
	}
}
