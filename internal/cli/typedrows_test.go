package cli_test

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/internal/servers"
)

// Values of columns with types are numbers and truth values in JSON, and NaN, which it has not, is text.
func TestTypedValuesInJSON(t *testing.T) {
	create := map[string]string{
		"postgres": "CREATE TABLE facts (day date, i int, n numeric(12,2), f float8, yes boolean, code text, wide numeric, at timestamp); INSERT INTO facts VALUES ('2026-01-05', 7, -1.50, 2.5, true, '007', 'NaN', '2026-01-05 10:00'), ('2026-01-06', NULL, NULL, 'NaN', NULL, NULL, 12345678901234567890.5, NULL)",
		"mysql":    "CREATE TABLE facts (day date, i int, n decimal(12,2), f double, yes boolean, code varchar(9), wide decimal(22,1), at datetime); INSERT INTO facts VALUES ('2026-01-05', 7, -1.50, 2.5, true, '007', NULL, '2026-01-05 10:00'), ('2026-01-06', NULL, NULL, NULL, NULL, NULL, 12345678901234567890.5, NULL)",
		"sqlite":   "CREATE TABLE facts (day date, i int, n numeric, f double, yes boolean, code text, at datetime); INSERT INTO facts VALUES ('2026-01-05', 7, -1.50, 2.5, 1, '007', '2026-01-05 10:00:00'), ('2026-01-06', NULL, NULL, NULL, NULL, NULL, NULL)",
	}
	want := map[string][2]string{
		"postgres": {`"i":7,"n":-1.50,"f":2.5,"yes":true,"code":"007","wide":"NaN","at":"2026-01-05T10:00:00"`, `"i":null,"n":null,"f":"NaN","yes":null,"code":null,"wide":12345678901234567890.5,"at":null`},
		"mysql":    {`"i":7,"n":-1.50,"f":2.5,"yes":1,"code":"007","wide":null,"at":"2026-01-05T10:00:00"`, `"i":null,"n":null,"f":null,"yes":null,"code":null,"wide":12345678901234567890.5,"at":null`},
		"sqlite":   {`"i":7,"n":-1.5,"f":2.5,"yes":1,"code":"007","at":"2026-01-05 10:00:00"`, `"i":null,"n":null,"f":null,"yes":null,"code":null,"at":null`},
	}
	onTargets(t, nil, func(t *testing.T, folder string, d target) {
		d.sql(create[d.name])
		done(t, folder, "normalise", d.out+"#facts", "--date", "day", "-o", "o.jsonl", "--no-plan", "-q")
		lines := strings.Split(strings.TrimSpace(textOf(t, folder, "o.jsonl")), "\n")
		require.Len(t, lines, 2)
		for i, line := range lines {
			assert.True(t, json.Valid([]byte(line)), line)
			assert.Equal(t, `{"day":"2026-01-0`+string(rune('5'+i))+`",`+want[d.name][i]+`,"day_date":"2026-01-0`+string(rune('5'+i))+`","day_key":2026010`+string(rune('5'+i))+"}", line)
		}
		// What was written is read as the same numbers, by files with types as well.
		done(t, folder, "normalise", d.out+"#facts", "--date", "day", "-o", "o.parquet", "--no-plan", "-q", "--drop-original", "--keep", "i,n,f,yes,code")
		done(t, folder, "normalise", "o.parquet", "--date", "day_date", "-o", "p.jsonl", "--no-plan", "-q", "--keep", "i,n,f,yes,code")
		first, _, _ := strings.Cut(textOf(t, folder, "p.jsonl"), "\n")
		assert.True(t, strings.HasPrefix(first, `{`+want[d.name][0][:strings.Index(want[d.name][0], `"code"`)]), first)
	})
}

// Numbers of PostgreSQL whose type says nothing of their decimals stay numbers where columns have types, with so many decimals as they have:
// in files, and in tables by reading and inside. Those that are too long for that, and NaN, stay text.
func TestNumbersWithoutDeclaredDecimals(t *testing.T) {
	s, name := shared(t, "PostgreSQL", servers.StartPostgreSQL)
	folder, address := folderWith(t, nil), "postgres:///"+name+fmt.Sprintf("?host=%s&port=%d&user=test", s.Socket, s.Port)
	s.SQL(t, `CREATE TABLE facts AS SELECT date '2026-01-01' + i % 60 AS day, i AS row, (i * 7 % 1000)::numeric / 100 AS amount, i::numeric AS whole, NULL::numeric AS none, i::numeric / 3 AS third,
		CASE i WHEN 5 THEN 'NaN' ELSE i::text END::numeric AS odd, (i || repeat('1', 40))::numeric AS long, i::numeric / 1e31 AS small FROM generate_series(1, 500) i;
		CREATE TABLE other AS SELECT * FROM facts WHERE row < 10; UPDATE other SET amount = 1.2345, row = row + 1000`)
	typesOf := func(table string) string {
		return s.SQL(t, "SELECT string_agg(column_name || ' ' || data_type, ', ' ORDER BY ordinal_position) FROM information_schema.columns WHERE table_name = '"+table+"'")
	}
	const columns = "day date, row bigint, amount numeric, whole numeric, none numeric, third numeric, odd text, long text, small text, day_date date, day_key bigint"
	normalise := func(facts, out string, more ...string) {
		t.Helper()
		done(t, folder, append([]string{"normalise", facts, "--date", "day", "-o", out, "--no-plan", "-q"}, more...)...)
	}
	normalise(address+"#facts", address+"#written", "--run", "local")
	assert.Contains(t, typesOf("written"), columns)
	assert.Equal(t, "t", s.SQL(t, "SELECT (SELECT sum(amount) = (SELECT sum(amount) FROM facts) AND sum(third) = (SELECT sum(third) FROM facts) FROM written)"))
	s.SQL(t, "ALTER TABLE facts ADD good numeric; UPDATE facts SET odd = 5 WHERE row = 5")
	normalise(address+"#facts", address+"#written", "--run", "local")
	local := typesOf("written")
	assert.Contains(t, local, "odd numeric")
	normalise(address+"#facts", address+"#inside", "--run", "inside")
	assert.Equal(t, local, typesOf("inside"))
	assert.Equal(t, "500", s.SQL(t, "SELECT count(*) FROM written JOIN inside USING (row) WHERE written.amount = inside.amount AND written.third = inside.third"))

	// MariaDB takes them as well, with the zeros that quotients have at their ends; so does Parquet.
	m, other := shared(t, "MariaDB", servers.StartMariaDB)
	mysql := "mysql://root@local/" + other + "?socket=" + m.Socket
	sums := "sum(amount), sum(whole), sum(third)"
	want := strings.Split(s.SQL(t, "SELECT "+sums+" FROM facts"), "|")
	for _, mode := range []string{"1", "0"} {
		m.SQL(t, "SET GLOBAL local_infile = "+mode)
		normalise(address+"#facts", mysql+"#written")
		got := strings.Fields(m.SQL(t, "SELECT "+sums+" FROM written"))
		for i := range want {
			assert.Equal(t, strings.TrimRight(want[i], "0."), strings.TrimRight(got[i], "0."), "local_infile = %s", mode)
		}
	}
	m.SQL(t, "SET GLOBAL local_infile = 1")
	normalise(address+"#facts", "facts.parquet")
	back := done(t, folder, "totals", "facts.parquet", "--date", "day_date", "--sum", "amount", "--grain", "year", "--as-of", "2026-12-31", "--no-plan").out
	assert.Contains(t, back, ",2026-12-31,"+strings.TrimRight(want[0], "0"))

	// Two tables together have the decimals of both; a query is asked as well; rows of other commands, too.
	normalise(address+"#SELECT day, sum(amount) AS amount, avg(amount) AS mean FROM facts GROUP BY day", "q.db")
	schema := shell(t, folder, "q.db", ".schema")
	assert.Contains(t, schema, `"amount" NUMERIC, "mean" TEXT`, "SQLite keeps 15 digits of a number")
	done(t, folder, "normalise", address+"#other", address+"#SELECT day, row, amount, whole, none, third, odd, long, small FROM facts", "--date", "day", "-o", "both.db", "--no-plan", "-q")
	assert.Contains(t, shell(t, folder, "both.db", ".schema"), `"amount" NUMERIC`)
	assert.Equal(t, "1.2345\n", shell(t, folder, "both.db", "SELECT DISTINCT amount FROM both WHERE row > 1000"))
	done(t, folder, "lapse", address+"#facts", "--start", "day", "--as-of", "2026-06-01", "-o", address+"#lapsed", "--no-plan", "-q")
	assert.Contains(t, typesOf("lapsed"), "amount numeric")
	done(t, folder, "fill", address+"#other", "--date", "day", "--grain", "day", "--as-of", "2026-06-01", "-o", "filled.db", "--no-plan", "-q")
	assert.Contains(t, shell(t, folder, "filled.db", ".schema"), `"amount" NUMERIC`)
	done(t, folder, "census", address+"#SELECT *, day + 3 AS closed FROM other", "--opened", "day", "--closed", "closed", "--rows", "--as-of", "2026-02-10", "-o", "census.db", "--no-plan", "-q")
	assert.Contains(t, shell(t, folder, "census.db", ".schema"), `"amount" NUMERIC`)
}
