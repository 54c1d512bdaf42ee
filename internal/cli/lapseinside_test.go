package cli_test

import (
	"flag"
	"math/rand/v2"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// lapsePlan has sites whose names are values of a column, with others that differ by case and spaces only.
const lapsePlan = insidePlan + `sites:
  Cork: {open: [mon, tue, wed, thu, fri, sat]}
  O'Brien: {open: [wed], shuts: [{when: {date: 2025-07-09}}]}
`

// lapseCall is a call of lapse that writes rows, with whatever flags.
func lapseCall(random *rand.Rand, facts string) []string {
	one := func(texts ...string) string { return texts[random.IntN(len(texts))] }
	call := []string{"lapse", facts, "--start", one("opened", "day", "at"), "--as-of", "2026-03-15"}
	maybe := func(words ...string) {
		if random.IntN(3) == 0 {
			call = append(call, words...)
		}
	}
	if random.IntN(4) > 0 {
		call = append(call, "--end", one("closed", "at", "day"))
	}
	isOfPlace := random.IntN(2) == 0
	switch unit := one("days", "workdays", "trading-days", "weeks", "months", "years"); {
	case unit == "trading-days":
		call, isOfPlace = append(call, "--in", unit), true
	default:
		call = append(call, "--in", unit)
		maybe("--at", "IE")
		isOfPlace = isOfPlace && !slices.Contains(call, "--at")
	}
	if isOfPlace {
		call = append(call, "--at-column", "shop")
	}
	if random.IntN(2) == 0 {
		call = append(call, "--bands", "10,30,200", "--by", one("shop", "kind", "shop,kind", "pieces"))
	}
	maybe(one("--add-workdays", "--add-days", "--add-months"), one("1", "-3", "40"))
	maybe("--name", "took")
	maybe("--where", one("shop=Cork", "shop=cork,O'Brien", "shop!=Cork", "shop is blank", "kind is not blank", "kind=z", "shop > D", "shop <= Cork", "shop!=N/A,''"))
	maybe("--where", one("pieces > 3", "amount >= 10.5", "amount=12.25,13", "pieces != 2", "amount < -5", "pieces is blank", "wide is not blank"))
	maybe("--where", one("day >= 2025-02-01", "at < 2026-01-01", "day=2025-03-05,2025-03-06", "opened != 2025-03-05", "closed < 2025-06-01"))
	return call
}

// How many calls are tried on each database.
var lapseCalls = flag.Int("lapse-inside", 8, "calls of lapse to carry out inside each database")

// Rows with their lapses that a database writes by itself are those that are written of what is read, and so is what is told of them.
func TestLapsesInsideAreAsLocal(t *testing.T) {
	onTargets(t, map[string]string{"roundyear.yaml": lapsePlan}, func(t *testing.T, folder string, d target) {
		random := rand.New(rand.NewPCG(*insideSeed, uint64(len(d.name))))
		d.sql(insideTable(d, random))
		areWrittenAlike(t, folder, d, random, *lapseCalls, "pieces > 1 OR pieces IS NULL", "measured", func(facts string) []string { return lapseCall(random, facts) })
	})
}

// What cannot be measured inside with the same answer is refused with the reason, and the statements alone do the same, unless rows have come
// with days of which nothing was worked out.
func TestLapsesRefusedInside(t *testing.T) {
	onTargets(t, map[string]string{"roundyear.yaml": lapsePlan, "s.csv": "day,amount\n2026-01-05,1\n"}, func(t *testing.T, folder string, d target) {
		d.sql(insideTable(d, rand.New(rand.NewPCG(1, 1))))
		facts, out := d.out+"#facts", d.out+"#written"
		refused := func(why string, call ...string) {
			t.Helper()
			got := run(t, folder, append([]string{"lapse"}, append(call, "--as-of", "2026-03-15", "--run", "inside")...)...)
			assert.Equal(t, 2, got.code, call)
			assert.Contains(t, got.err, " cannot be measured inside its database: "+why+"; use --run local", call)
			assert.NotContains(t, namesOfTables(d), "written")
		}
		refused("the facts are not a plain table or query of a database", "s.csv", "--start", "day", "-o", out)
		refused("the output is not a table of the same database", facts, "--start", "opened", "-o", "out.csv")
		refused("the output is not a table of the same database", facts, "--start", "opened", "-o", out, "-o", "out.csv")
		refused("the output is not a table of the same database", facts, "--start", "opened")
		refused("the output is not a table of the same database", facts, "--start", "opened", "-o", "other.db#written")
		refused("hours are measured row by row", facts, "--start", "at", "--in", "hours", "-o", out)
		refused("the row before is found row by row", facts, "--start", "opened", "--previous", "-o", out)
		refused("time zones and days that do not start at midnight are converted locally", facts, "--start", "at", "--day-starts", "04:00", "-o", out)
		missing := run(t, folder, "lapse", facts, "--start", "opend", "-o", out, "--run", "inside")
		assert.Contains(t, missing.err, `#facts: has no column "opend". Did you mean "opened"?`)
		taken := run(t, folder, "lapse", d.out+"#SELECT opened, 1 AS days FROM facts", "--start", "opened", "-o", out, "--dry-run")
		assert.Equal(t, 2, taken.code)
		assert.Contains(t, taken.err, `already has a column "days"`)

		call := []string{"lapse", facts, "--start", "opened", "--end", "closed", "--in", "workdays", "--at-column", "shop", "--bands", "10,20", "--where", "kind=x", "--as-of", "2026-03-15", "-o", out}
		told := done(t, folder, append(call, "--dry-run")...)
		assert.Empty(t, told.err)
		assert.NotContains(t, namesOfTables(d), "written")
		d.sql(told.out)
		byHand := written(d)
		d.sql("DROP TABLE written")
		attended(t, folder, append(call, "--run", "inside")...)
		if d.name != "sqlite" { // where the comment is part of the definition
			assert.Equal(t, byHand, written(d))
		}
		d.sql("DROP TABLE written")
		pair := regexp.MustCompile(`(?m)^  \((DATE )?'2025-\d\d-\d\d', (DATE )?'2025.*\),\n`)
		require.Regexp(t, pair, told.out)
		isFirst := true
		_, err := d.try(pair.ReplaceAllStringFunc(told.out, func(line string) string {
			if isFirst {
				isFirst = false
				return ""
			}
			return line
		}))
		assert.Error(t, err, "days of which nothing was worked out")
		d.sql("DROP TABLE IF EXISTS written")
		if d.name != "sqlite" {
			assert.Equal(t, "7", d.sql("SELECT count(*) FROM (SELECT 1 FROM facts LIMIT 7) q"), "the session goes on")
		}

		// Rows that are others each time that they are read: other days, and more of the same.
		if d.name == "postgres" {
			micros := "(extract(epoch FROM clock_timestamp()) * 1000000)::bigint"
			d.sql("CREATE VIEW days_move AS SELECT date '2001-01-01' + (" + micros + " % 1000000)::int AS opened FROM generate_series(1, 3); CREATE VIEW more_come AS SELECT date '2025-01-01' AS opened FROM generate_series(1, (" + micros + " / 1000 % 100000)::int)")
			for _, view := range []string{"#days_move", "#more_come"} {
				refused("its rows have changed meanwhile", d.out+view, "--start", "opened", "-o", out)
			}
		}

		// A text with as many values as rows.
		many := map[string]string{"postgres": "generate_series(1, 4000) n(v)", "mysql": "(SELECT seq AS v FROM seq_1_to_4000) n", "sqlite": "(SELECT value AS v FROM generate_series(1, 4000)) n"}[d.name]
		text := map[string]string{"postgres": "CAST(v AS text)", "mysql": "CAST(v AS char)", "sqlite": "CAST(v AS TEXT)"}[d.name]
		d.sql("CREATE TABLE many AS SELECT " + text + " AS code, opened FROM " + many + ", (SELECT max(opened) AS opened FROM facts) m")
		refused("more than 1000 values of code meet a condition, and as many do not", d.out+"#many", "--start", "opened", "--where", "code > 2000", "-o", out)
		few := []string{"lapse", d.out + "#many", "--start", "opened", "--where", "code < 999", "--as-of", "2027-01-01", "-o", out}
		local := done(t, folder, append(few, "--run", "local")...)
		before := written(d)
		assert.Equal(t, local, done(t, folder, append(few, "--run", "inside")...))
		assert.Equal(t, before, written(d))
		assert.Equal(t, "998", d.sql("SELECT count(*) FROM written"))
	})
}

// A user who may make tables, but none that are temporary, has rows written of what is read, and is told why when it was to be done inside.
func TestNoTemporaryTables(t *testing.T) {
	onTargets(t, map[string]string{"s.csv": "a\n1\n"}, func(t *testing.T, folder string, d target) {
		if d.name == "sqlite" {
			t.Skip("SQLite has no users")
		}
		d.sql("CREATE TABLE facts (opened date); INSERT INTO facts VALUES ('2026-01-05'), (NULL), ('2026-01-07')")
		if d.name == "postgres" {
			d.sql("DROP ROLE IF EXISTS little; CREATE ROLE little LOGIN; GRANT SELECT ON facts TO little; GRANT CREATE ON SCHEMA public TO little")
			d.sql("REVOKE TEMP ON DATABASE " + d.sql("SELECT current_database()") + " FROM public")
		} else {
			d.sql("CREATE OR REPLACE USER little@localhost; GRANT SELECT, INSERT, CREATE, DROP, ALTER ON `" + d.sql("SELECT DATABASE()") + "`.* TO little@localhost")
		}
		database := strings.NewReplacer("user=test", "user=little", "root@local", "little@local").Replace(d.out)
		require.NotEqual(t, d.out, database)
		lapse := []string{"lapse", database + "#facts", "--start", "opened", "--as-of", "2026-01-10", "--no-plan", "-o", database + "#written"}
		normalise := []string{"normalise", database + "#facts", "--columns", "month", "--no-plan", "-o", database + "#written"}
		for _, call := range [][]string{lapse, normalise} {
			refused := run(t, folder, append(call, "--run", "inside")...)
			assert.Equal(t, 2, refused.code)
			assert.Contains(t, refused.err, " inside its database: the user may not create temporary tables; use --run local")
			assert.NotContains(t, namesOfTables(d), "written")
			done(t, folder, call...)
			assert.Equal(t, "3", d.sql("SELECT count(*) FROM written"))
			d.sql("DROP TABLE written")
		}
		done(t, folder, append(lapse, "--run", "local")...)
		assert.Equal(t, "5\n3", d.sql("SELECT days FROM written WHERE days IS NOT NULL ORDER BY 1 DESC"))
	})
}
