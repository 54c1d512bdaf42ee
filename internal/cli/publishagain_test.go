package cli_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Published again, only rows that differ change, with keys as they were, whether or not foreign keys lean on the tables.
func TestOnlyWhatDiffersChanges(t *testing.T) {
	for _, flags := range [][]string{{"--foreign-keys"}, nil} {
		onTargets(t, publishFiles(), func(t *testing.T, folder string, d target) {
			publish := append([]string{"publish", "-o", d.out}, flags...)
			done(t, folder, publish...)
			if d.name == "postgres" {
				d.sql("CREATE TABLE kept AS SELECT date_key, xmin::text AS x FROM dates")
			}
			// Another holiday: its day, the workdays after it, and those that look ahead to it.
			change(t, folder, "day: 24", "day: 25")
			again := done(t, folder, publish...)
			assert.Regexp(t, `dates +366  \d+ rows changed\n`, again.err)
			assert.Regexp(t, `times +25  unchanged\n`, again.err)
			assert.Regexp(t, `sales +300  unchanged\n`, again.err)
			assert.Equal(t, "20260625", d.sql("SELECT date_key FROM dates WHERE holiday_name = 'Founders'"))
			if d.name == "postgres" {
				assert.Equal(t, "0", d.sql("SELECT count(*) FROM dates d JOIN kept k ON k.date_key = d.date_key AND k.x <> d.xmin::text WHERE d.date_key < 20260301"), "rows that are as they were are not written")
			}
			done(t, folder, "check", d.out+"#dates")
			// A longer range: days come, and none goes.
			change(t, folder, "to: 2026-12-31", "to: 2027-01-31")
			longer := done(t, folder, publish...)
			assert.Regexp(t, `dates +397  31 rows added\n`, longer.err)
			// A shorter one: days go.
			change(t, folder, "to: 2027-01-31", "to: 2026-12-31")
			assert.Regexp(t, `dates +366  31 rows removed\n`, done(t, folder, publish...).err)
			// Other facts: theirs only.
			sales := textOf(t, folder, "sales.csv")
			require.NoError(t, os.WriteFile(filepath.Join(folder, "sales.csv"), []byte(sales+"301,0001,2026-05-05,,7.00,0.001,10:00,\n"), 0o600))
			more := done(t, folder, publish...)
			assert.Regexp(t, `sales +301  1 row added\n`, more.err)
			assert.Regexp(t, `dates +366  unchanged\n`, more.err)
			assert.Equal(t, "301", d.sql("SELECT count(*) FROM sales_with_dates"))
			// Another column, and one less; views follow.
			change(t, folder, "columns: [core, workdays, fiscal]", "columns: [core, iso_week, fiscal]")
			columns := done(t, folder, publish...)
			assert.Regexp(t, `dates +366  (replaced|altered in place): .*columns \+iso_week -`, columns.err)
			has := columnsOf(d, "sales_with_dates")
			assert.Contains(t, has, "iso_week")
			assert.NotContains(t, has, "is_workday")
			assert.Equal(t, "301", d.sql("SELECT count(iso_week) FROM sales_with_dates"))
			done(t, folder, "check", d.out+"#dates")
			assert.Contains(t, done(t, folder, publish...).err, "Nothing to change")
			if flags != nil && d.name != "sqlite" {
				_, err := d.try("DELETE FROM dates WHERE date_key = 20260505")
				assert.Error(t, err, "the foreign keys are still there")
			}
			// Nothing is left of how it was done.
			assert.NotContains(t, strings.Join(tablesOf(d), " "), "(")
			assert.Equal(t, "1", d.sql("SELECT count(*) FROM roundyear_tables WHERE name = 'dates'"))
		})
	}
}

// tablesOf returns the names of the tables and views.
func tablesOf(d target) []string {
	query := map[string]string{"postgres": "SELECT relname FROM pg_class c JOIN pg_namespace n ON n.oid = relnamespace WHERE nspname = 'public' AND relkind IN ('r', 'v')",
		"mysql": "SELECT table_name FROM information_schema.tables WHERE table_schema = DATABASE()", "sqlite": "SELECT name FROM sqlite_schema WHERE type IN ('table', 'view')"}[d.name]
	return strings.Split(d.sql(query), "\n")
}

// What somebody has changed in the database is told and left alone, until it is asked for.
func TestEditsAreToldAndLeftAlone(t *testing.T) {
	onTargets(t, publishFiles(), func(t *testing.T, folder string, d target) {
		publish := []string{"publish", "-o", d.out}
		done(t, folder, publish...)
		d.sql("UPDATE dates SET day_name = 'Dinsdag' WHERE date_key = 20260317")
		edited := attended(t, folder, publish...)
		assert.Contains(t, edited.err, "! dates was changed in the database since it was published; 1 row differs\n  20260317: day_name is \"Dinsdag\" instead of \"Tuesday\"\n")
		assert.Regexp(t, `times +25  unchanged\n`, edited.err)
		assert.Equal(t, "Dinsdag", d.sql("SELECT day_name FROM dates WHERE date_key = 20260317"))
		done(t, folder, append(publish, "--force")...)
		assert.Equal(t, "Tuesday", d.sql("SELECT day_name FROM dates WHERE date_key = 20260317"))
		// Rows that are gone or too many, with another plan at the same time.
		d.sql("DELETE FROM dates WHERE date_key = 20260318")
		d.sql("INSERT INTO times (time_key, time_label, hour_label, half_of_day, part_of_day) SELECT 5, 'x', 'x', 'x', 'x'")
		change(t, folder, "day: 24", "day: 25")
		both := attended(t, folder, publish...)
		assert.Contains(t, both.err, "! dates was changed in the database since it was published, and the model has changed, too; ")
		assert.Contains(t, both.err, "  20260318: the row is missing\n")
		assert.Contains(t, both.err, "  5: a row that the model does not have\n")
		assert.Equal(t, "364", d.sql("SELECT count(date) FROM dates"))
		done(t, folder, append(publish, "--force")...)
		assert.Equal(t, "365", d.sql("SELECT count(date) FROM dates"))
		assert.Equal(t, "0", d.sql("SELECT count(*) FROM times WHERE time_key = 5"))
		// Facts.
		d.sql("UPDATE sales SET amount = 1 WHERE receipt = 5")
		assert.Contains(t, attended(t, folder, publish...).err, "! sales: its rows were changed in the database since it was published\n")
		done(t, folder, append(publish, "--force")...)
		assert.Equal(t, "1", d.sql("SELECT count(*) FROM sales WHERE receipt = 5 AND amount <> 1"))
		// A column that has another name, and one that is not ours.
		d.sql("ALTER TABLE dates_fiscal_quarter RENAME COLUMN fiscal_year TO fy")
		d.sql("ALTER TABLE trading ADD COLUMN remark varchar(9)")
		columns := attended(t, folder, publish...)
		assert.Contains(t, columns.err, "! dates_fiscal_quarter: its columns were changed in the database: fiscal_year is gone; fy is not Round Year's\n")
		assert.Contains(t, columns.err, "! trading: its columns were changed in the database: remark is not Round Year's\n")
		done(t, folder, append(publish, "--force")...)
		assert.Contains(t, done(t, folder, publish...).err, "Nothing to change")
		// A view that somebody has removed is made again.
		d.sql("DROP VIEW sales_with_dates")
		assert.Regexp(t, `sales_with_dates +view  created\n`, done(t, folder, publish...).err)
		assert.Equal(t, "300", d.sql("SELECT count(*) FROM sales_with_dates"))
	})
}

// Tables and views of others stay.
func TestTablesOfOthersStay(t *testing.T) {
	onTargets(t, publishFiles(), func(t *testing.T, folder string, d target) {
		d.sql("CREATE TABLE dates (a int)")
		refused := run(t, folder, "publish", "-o", d.out)
		assert.Equal(t, 2, refused.code)
		assert.Contains(t, refused.err, "dates is a table that Round Year has not written. Choose another name with --name, or replace it with --force")
		assert.Equal(t, []string{"dates"}, tablesOf(d))
		done(t, folder, "publish", "-o", d.out, "--name", `the "days"`)
		assert.Equal(t, "366", d.sql("SELECT count(*) FROM "+map[string]string{`"`: `"the ""days"""`, "`": "`the \"days\"`"}[d.quote]))
		d.sql("CREATE TABLE later (a int)")
		replaced := done(t, folder, "publish", "-o", d.out, "--force")
		assert.Regexp(t, `dates +366  replaced\n`, replaced.err)
		assert.Contains(t, tablesOf(d), "later")
		// Two models share a database.
		assert.Equal(t, "300", d.sql("SELECT count(*) FROM "+map[string]string{`"`: `"sales_with_the ""days"""`, "`": "`sales_with_the \"days\"`"}[d.quote]))
		d.sql("DROP VIEW sales_with_dates; CREATE TABLE sales_with_dates (a int)")
		taken := run(t, folder, "publish", "-o", d.out, "--force")
		assert.Equal(t, 2, taken.code)
		assert.Contains(t, taken.err, "sales_with_dates is there already, and Round Year has not made it")
	})
}

// Tables that the database has already are joined where they are.
func TestTablesAreJoinedWhereTheyAre(t *testing.T) {
	driveRaced(t)
	onTargets(t, publishFiles(), func(t *testing.T, folder string, d target) {
		moment := map[string]string{"postgres": "timestamp", "mysql": "datetime", "sqlite": "DATETIME"}[d.name]
		d.sql("CREATE TABLE receipts (id int, sold_at " + moment + ", sold date, day_key int, amount numeric(12,2), year int, note varchar(20), weight float)")
		d.sql("INSERT INTO receipts VALUES (1, '2026-03-31 23:59:00', '2026-03-31', 20260331, 5.25, 7, 'x', 1), (2, '2026-04-01 00:00:00', '2026-04-01', 20260401, 1, 7, 'x', 1), (3, NULL, NULL, NULL, 2, 7, 'x', 1)")
		publish := []string{"publish", "-o", d.out, "--without", "facts,trading,clock"}
		got := done(t, folder, append(publish, "--join", "receipts.sold_at", "--indexes")...)
		assert.Contains(t, got.err, "receipts: every sold_at matches a day; index added\n")
		assert.Equal(t, "1|FY2026 Q4|2026|7\n2|FY2027 Q1|2026|7\n3||", strings.TrimSuffix(strings.ReplaceAll(d.sql("SELECT id, fiscal_quarter_label, sold_at_year, CASE WHEN id < 3 THEN year END FROM receipts_with_dates ORDER BY id"), "NULL", ""), "|"))
		for _, column := range []string{"sold", "day_key"} {
			if d.name == "sqlite" {
				refused := run(t, folder, append(publish, "--join", "receipts."+column, "--foreign-keys")...)
				assert.Contains(t, refused.err, "SQLite cannot add a foreign key to a table that is there (receipts)")
				continue
			}
			keyed := done(t, folder, append(publish, "--join", "receipts."+column, "--foreign-keys")...)
			assert.Contains(t, keyed.err, "receipts: every "+column+" matches a day; foreign key added\n")
			assert.NotContains(t, done(t, folder, append(publish, "--join", "receipts."+column, "--foreign-keys")...).err, "added")
		}
		// Faults.
		d.sql("CREATE TABLE old (day_key int); INSERT INTO old VALUES (19990101), (20260101)")
		late := attended(t, folder, append(publish, "--join", "old.day_key", "--foreign-keys")...)
		assert.Contains(t, late.err, "! old: 1 row has a day_key that is not in the date dimension\n")
		missing := run(t, folder, append(publish, "--join", "reciepts.sold_at")...)
		assert.Equal(t, 3, missing.code)
		assert.Contains(t, missing.err, `has no table "reciepts". Did you mean "receipts"?`)
		assert.Contains(t, run(t, folder, append(publish, "--join", "receipts.sold_on")...).err, `receipts has no column "sold_on". Did you mean "sold`)
		assert.Contains(t, run(t, folder, append(publish, "--join", "receipts.weight")...).err, "which holds neither dates nor keys")
		// Types with int in their names are not all of whole numbers, and each of those is known.
		wrong := map[string]string{"postgres": "interval", "mysql": "point"}[d.name]
		for _, typ := range map[string][]string{"postgres": {"smallint", "bigint", "int"}, "mysql": {"bigint unsigned", "mediumint", "int(10)", "integer"}, "sqlite": {"BIGINT", "UNSIGNED BIG INT"}}[d.name] {
			d.sql("DROP TABLE IF EXISTS numbered; CREATE TABLE numbered (day_key " + typ + ")")
			assert.Contains(t, done(t, folder, append(publish, "--join", "numbered.day_key")...).err, "numbered", typ)
			d.sql("DROP VIEW numbered_with_dates")
		}
		if wrong != "" {
			d.sql("CREATE TABLE spans (lasts " + wrong + ")")
			refused := run(t, folder, append(publish, "--join", "spans.lasts")...)
			assert.Equal(t, 2, refused.code)
			assert.Contains(t, refused.err, "spans.lasts is of type "+wrong+", which holds neither dates nor keys")
		}
	})
}

// A dry run changes nothing, and prints statements that do the same by hand.
func TestDryRunPrintsStatements(t *testing.T) {
	onTargets(t, publishFiles(), func(t *testing.T, folder string, d target) {
		publish := []string{"publish", "-o", d.out}
		first := done(t, folder, append(publish, "--dry-run")...)
		assert.Contains(t, first.err, "Dry run, nothing changed: would publish to ")
		assert.Contains(t, first.out, "-- 366 rows are loaded into ")
		if d.name == "sqlite" {
			assert.NoFileExists(t, filepath.Join(folder, "model.db"))
		} else {
			assert.Equal(t, []string{""}, tablesOf(d))
		}
		done(t, folder, publish...)
		assert.Empty(t, done(t, folder, append(publish, "--dry-run")...).out)
		change(t, folder, "day: 24", "day: 25")
		statements := done(t, folder, append(publish, "--dry-run")...).out
		assert.Contains(t, statements, "UPDATE "+d.quote+"dates"+d.quote+" SET ")
		assert.Equal(t, "20260624", d.sql("SELECT date_key FROM dates WHERE holiday_name = 'Founders'"))
		d.sql(statements)
		assert.Equal(t, "20260625", d.sql("SELECT date_key FROM dates WHERE holiday_name = 'Founders'"))
		assert.Contains(t, done(t, folder, publish...).err, "Nothing to change")
	})
}

// Whoever may read a table or view still may when it is made anew, and views of others still show what they did.
func TestGrantsAndViewsOfOthersStay(t *testing.T) {
	onTargets(t, publishFiles(), func(t *testing.T, folder string, d target) {
		if d.name == "sqlite" {
			t.Skip("SQLite has no roles")
		}
		publish := []string{"publish", "-o", d.out}
		done(t, folder, publish...)
		may := func(table string) string {
			if d.name == "mysql" {
				return d.sql("SELECT count(*) FROM mysql.tables_priv WHERE User = 'reader' AND Db = DATABASE() AND Table_name = '" + table + "' AND Table_priv = 'Select'")
			}
			return d.sql("SELECT has_table_privilege('reader', '" + table + "', 'SELECT')::int")
		}
		d.sql(map[string]string{"postgres": "CREATE ROLE reader", "mysql": "CREATE USER reader"}[d.name] + "; GRANT SELECT ON dates TO reader; GRANT SELECT ON sales TO reader; GRANT SELECT ON sales_with_dates TO reader")
		change(t, folder, "columns: [core, workdays, fiscal]", "columns: [core, iso_week, fiscal]")
		done(t, folder, publish...)
		for _, table := range []string{"dates", "sales", "sales_with_dates"} {
			assert.Equal(t, "1", may(table), table)
		}
		assert.Equal(t, "0", may("times"))
		// Views of others.
		d.sql("CREATE VIEW months AS SELECT DISTINCT year, month FROM dates; CREATE VIEW receipts AS SELECT count(*) AS n FROM sales")
		sales := textOf(t, folder, "sales.csv")
		require.NoError(t, os.WriteFile(filepath.Join(folder, "sales.csv"), []byte(sales+"301,0001,2026-05-05,,7.00,0.001,10:00,\n"), 0o600))
		change(t, folder, "columns: [core, iso_week, fiscal]", "columns: [core, week, workdays, fiscal]")
		done(t, folder, publish...)
		assert.Equal(t, "12", d.sql("SELECT count(*) FROM months WHERE year > 0"))
		assert.Equal(t, "301", d.sql("SELECT n FROM receipts"))
		assert.Equal(t, "301", d.sql("SELECT count(*) FROM sales_with_dates"))
		assert.Contains(t, columnsOf(d, "dates"), "is_workday")
		assert.Contains(t, done(t, folder, publish...).err, "Nothing to change")
		// A table that is left alone keeps its views while another one is made anew.
		d.sql("UPDATE dates SET day_name = 'Dinsdag' WHERE date_key = 20260317")
		d.sql("DROP VIEW receipts")
		require.NoError(t, os.WriteFile(filepath.Join(folder, "sales.csv"), []byte(sales), 0o600))
		attended(t, folder, publish...)
		assert.Equal(t, "300", d.sql("SELECT count(*) FROM sales_with_dates"))
		assert.Equal(t, "1", may("sales_with_dates"))
		assert.Equal(t, "Dinsdag", d.sql("SELECT day_name FROM dates WHERE date_key = 20260317"))
	})
}
