package cli_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Row-level security, triggers, checks, indexes and options that somebody has put on a table of facts outlive new rows; what cannot be kept
// stops the run.
func TestWhatOthersHaveAddedToATableStays(t *testing.T) {
	onTargets(t, publishFiles(), func(t *testing.T, folder string, d target) {
		publish := []string{"publish", "-o", d.out, "--indexes"}
		done(t, folder, publish...)
		added := map[string][]string{
			"postgres": {"CREATE ROLE galway_reader LOGIN", "GRANT SELECT ON sales TO galway_reader", "ALTER TABLE sales ENABLE ROW LEVEL SECURITY", "CREATE POLICY few ON sales FOR SELECT TO galway_reader USING (receipt <= 10)",
				"CREATE FUNCTION seen() RETURNS trigger LANGUAGE plpgsql AS 'BEGIN RETURN NEW; END'", "CREATE TRIGGER audit BEFORE INSERT ON sales FOR EACH ROW EXECUTE FUNCTION seen()",
				"ALTER TABLE sales ADD CONSTRAINT positive CHECK (amount > -1000000)", "CREATE INDEX by_amount ON sales (amount)", "ALTER TABLE sales SET (fillfactor = 70)"},
			"mysql":  {"CREATE TRIGGER audit BEFORE INSERT ON sales FOR EACH ROW SET @seen = 1", "ALTER TABLE sales ADD CONSTRAINT positive CHECK (amount > -1000000)", "CREATE INDEX by_amount ON sales (amount)"},
			"sqlite": {"CREATE TABLE log (n INTEGER)", "CREATE TRIGGER audit AFTER INSERT ON sales BEGIN INSERT INTO log VALUES (1); END", "CREATE INDEX by_amount ON sales (amount)"},
		}[d.name]
		for _, statement := range added {
			d.sql(statement)
		}
		if d.name == "postgres" {
			defer d.sql("DROP OWNED BY galway_reader; DROP ROLE galway_reader")
		}
		catalogue := map[string]string{
			"postgres": `SELECT c.oid::text || c.relrowsecurity::text || array_to_string(c.reloptions, ',') || (SELECT string_agg(tgname, ',') FROM pg_trigger WHERE tgrelid = c.oid) || (SELECT string_agg(polname, ',') FROM pg_policy WHERE polrelid = c.oid)
				|| (SELECT string_agg(conname, ',') FROM pg_constraint WHERE conrelid = c.oid) || (SELECT string_agg(indexrelid::regclass::text, ',' ORDER BY 1) FROM pg_index WHERE indrelid = c.oid) || c.relacl::text FROM pg_class c WHERE relname = 'sales'`,
			"mysql":  "SELECT CONCAT((SELECT GROUP_CONCAT(trigger_name) FROM information_schema.triggers WHERE event_object_table = 'sales'), (SELECT GROUP_CONCAT(DISTINCT index_name ORDER BY 1) FROM information_schema.statistics WHERE table_name = 'sales' AND table_schema = DATABASE()), (SELECT GROUP_CONCAT(constraint_name ORDER BY 1) FROM information_schema.table_constraints WHERE table_name = 'sales' AND table_schema = DATABASE()))",
			"sqlite": "SELECT group_concat(name) FROM (SELECT name FROM sqlite_schema WHERE tbl_name = 'sales' ORDER BY 1)",
		}[d.name]
		before := d.sql(catalogue)
		require.NotEmpty(t, before)
		require.Contains(t, before, "by_amount")
		sales := textOf(t, folder, "sales.csv")
		require.NoError(t, os.WriteFile(filepath.Join(folder, "sales.csv"), []byte(sales+"301,0001,2026-05-05,,7.00,0.001,10:00,\n"), 0o600))
		again := done(t, folder, publish...)
		assert.Regexp(t, `sales +301  1 row added\n`, again.err)
		assert.Equal(t, before, d.sql(catalogue))
		assert.Equal(t, "301", d.sql("SELECT count(*) FROM sales"))
		// Rows that are gone or other change one by one.
		require.NoError(t, os.WriteFile(filepath.Join(folder, "sales.csv"), []byte(strings.Replace(sales, "\n2,", "\n302,", 1)+"301,0001,2026-05-05,,7.00,0.001,10:00,\n"), 0o600))
		other := done(t, folder, publish...)
		assert.Regexp(t, `sales +301  1 row added, 1 removed\n`, other.err)
		assert.Equal(t, before, d.sql(catalogue))
		assert.Equal(t, "1", d.sql("SELECT count(*) FROM sales WHERE receipt = 302"))
		if d.name == "postgres" {
			assert.Equal(t, "9", d.sql("SET ROLE galway_reader; SELECT count(*) FROM sales"))
		}
		// If most rows are other, all are written anew, in the same table.
		require.NoError(t, os.WriteFile(filepath.Join(folder, "sales.csv"), []byte(strings.ReplaceAll(sales, ":30,", ":31,")), 0o600))
		other = done(t, folder, publish...)
		assert.Regexp(t, `sales +300  rows replaced in place\n`, other.err)
		assert.Equal(t, before, d.sql(catalogue))
		// Other columns take a new table, which would not have what was added.
		require.NoError(t, os.WriteFile(filepath.Join(folder, "sales.csv"), []byte(sales+"301,0001,2026-05-05,,7.005,0.001,10:00,\n"), 0o600))
		refused := run(t, folder, publish...)
		assert.Equal(t, 2, refused.code)
		assert.Contains(t, refused.err, "sales: would be made anew and lose what was added to it: ")
		assert.Contains(t, refused.err, "trigger audit")
		assert.Contains(t, refused.err, "index by_amount")
		assert.NotContains(t, refused.err, "order_date_idx", "our own indexes are made again")
		assert.Equal(t, before, d.sql(catalogue))
		forced := attended(t, folder, append(publish, "--force")...)
		assert.Contains(t, forced.err, "! sales was made anew and lost what was added to it: ")
		assert.NotEqual(t, before, d.sql(catalogue))
	})
}

// The same holds for tables that results are written into.
func TestAResultDoesNotReplaceWhatOthersHaveAdded(t *testing.T) {
	onTargets(t, map[string]string{"in.csv": twoSales}, func(t *testing.T, folder string, d target) {
		write := []string{"totals", "in.csv", "--sum", "a", "--as-of", "2026-03-01", "--no-plan", "-o", d.out + "#months"}
		done(t, folder, write...)
		done(t, folder, write...)
		if d.name == "postgres" {
			d.sql("CREATE ROLE month_reader")
			defer d.sql("DROP OWNED BY month_reader; DROP ROLE month_reader")
			d.sql("GRANT SELECT ON months TO month_reader")
			done(t, folder, write...)
			assert.Equal(t, "t", d.sql("SELECT has_table_privilege('month_reader', 'months', 'SELECT')"))
		}
		d.sql("CREATE INDEX by_a ON months (a)")
		refused := run(t, folder, write...)
		assert.Equal(t, 2, refused.code)
		assert.Contains(t, refused.err, "#months: would be made anew and lose what was added to it: index by_a")
		done(t, folder, append(write, "--force")...)
	})
}

// A table without a key gains and loses rows one by one, however often a row comes.
func TestRowsOfATableWithoutAKey(t *testing.T) {
	onTargets(t, publishFiles(), func(t *testing.T, folder string, d target) {
		publish := []string{"publish", "-o", d.out}
		done(t, folder, publish...)
		sales := textOf(t, folder, "sales.csv")
		twice := sales + strings.Repeat("301,0001,2026-05-05,,7.00,0.001,10:00,\n", 3)
		_, rows, _ := strings.Cut(sales, "\n")
		fifth := strings.Split(rows, "\n")[4] + "\n"
		require.NoError(t, os.WriteFile(filepath.Join(folder, "sales.csv"), []byte(twice+fifth), 0o600))
		assert.Regexp(t, `sales +304  4 rows added\n`, done(t, folder, publish...).err)
		assert.Equal(t, "3", d.sql("SELECT count(*) FROM sales WHERE receipt = 301"))
		assert.Equal(t, "2", d.sql("SELECT count(*) FROM sales WHERE receipt = 5"))
		assert.Regexp(t, `sales +304  unchanged\n`, done(t, folder, publish...).err)
		// One of three alike goes, and one of two.
		require.NoError(t, os.WriteFile(filepath.Join(folder, "sales.csv"), []byte(sales+strings.Repeat("301,0001,2026-05-05,,7.00,0.001,10:00,\n", 2)), 0o600))
		assert.Regexp(t, `sales +302  2 rows removed\n`, done(t, folder, publish...).err)
		assert.Equal(t, "2", d.sql("SELECT count(*) FROM sales WHERE receipt = 301"))
		assert.Equal(t, "1", d.sql("SELECT count(*) FROM sales WHERE receipt = 5"))
		assert.Contains(t, done(t, folder, publish...).err, "Nothing to change")
		// All of a kind go, and what was changed by hand comes back.
		d.sql("UPDATE sales SET amount = amount + 1 WHERE receipt IN (7, 8)")
		require.NoError(t, os.WriteFile(filepath.Join(folder, "sales.csv"), []byte(sales), 0o600))
		assert.Regexp(t, `sales +300  2 rows added, 4 removed\n`, done(t, folder, append(publish, "--force")...).err)
		assert.Equal(t, "0", d.sql("SELECT count(*) FROM sales WHERE receipt = 301"))
		assert.Contains(t, done(t, folder, publish...).err, "Nothing to change")
		// Texts are told apart by their bytes, whatever the database takes for the same.
		alike := []string{"ähre", "Ähre", "ahre", "ahre ", `"a\'"`}
		all := sales
		for _, note := range alike {
			all += "301,0001,2026-05-05,,7.00,0.001,10:00," + note + "\n"
		}
		require.NoError(t, os.WriteFile(filepath.Join(folder, "sales.csv"), []byte(all), 0o600))
		assert.Regexp(t, `sales +305  5 rows added\n`, done(t, folder, publish...).err)
		require.NoError(t, os.WriteFile(filepath.Join(folder, "sales.csv"), []byte(strings.NewReplacer("ähre\n", "x\n", "\"a\\'\"", "x").Replace(all)), 0o600))
		assert.Regexp(t, `sales +305  2 rows added, 2 removed\n`, done(t, folder, publish...).err)
		assert.Equal(t, "2", d.sql("SELECT count(*) FROM sales WHERE note = 'x'"))
	})
}

// Rows that the database does not find by their values, such as texts that somebody keeps as bytes, are no reason to keep them: the table is
// filled anew.
func TestRowsThatAreNotFoundByTheirValues(t *testing.T) {
	onSQLite(t, publishFiles(), func(t *testing.T, folder string, d target) { // the others have one type for each column
		sales := textOf(t, folder, "sales.csv")
		require.NoError(t, os.WriteFile(filepath.Join(folder, "sales.csv"), []byte(sales+"301,0001,2026-05-05,,7.00,0.001,10:00,kept\n"), 0o600))
		publish := []string{"publish", "-o", d.out}
		done(t, folder, publish...)
		d.sql("UPDATE sales SET note = CAST(note AS BLOB) WHERE receipt = 301")
		require.NoError(t, os.WriteFile(filepath.Join(folder, "sales.csv"), []byte(sales), 0o600))
		assert.Regexp(t, `sales +300  rows replaced in place\n`, done(t, folder, publish...).err)
		assert.Equal(t, "0", d.sql("SELECT count(*) FROM sales WHERE receipt = 301"))
		assert.Contains(t, done(t, folder, publish...).err, "Nothing to change")
	})
}
