package database_test

import (
	"context"
	"fmt"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/internal/database"
	"roundyear/internal/servers"
	"roundyear/rows"
)

// engine is a server with what differs between the kinds.
type engine struct {
	*servers.Server
	name string
	// address is that of the database test, by a user who may do everything, and reader by one who may only read.
	address, reader string
}

// with is the address with one more setting.
func (e *engine) with(setting string) string {
	return e.address + map[bool]string{true: "&", false: "?"}[strings.Contains(e.address, "?")] + setting
}

func postgres(t *testing.T) *engine {
	s := servers.StartPostgreSQL(t)
	e := &engine{Server: s, name: "postgres", address: fmt.Sprintf("postgres:///test?host=%s&port=%d&user=test", s.Socket, s.Port), reader: fmt.Sprintf("postgres://reader@127.0.0.1:%d/test", s.Port)}
	s.SQL(t, "CREATE ROLE reader LOGIN PASSWORD 'only reads'; ALTER DEFAULT PRIVILEGES GRANT SELECT ON TABLES TO reader;")
	return e
}

func mariaDB(t *testing.T) *engine {
	s := servers.StartMariaDB(t)
	s.SQL(t, "CREATE USER reader@'127.0.0.1' IDENTIFIED BY 'only reads'; GRANT SELECT ON test.* TO reader@'127.0.0.1';")
	return &engine{Server: s, name: "mariadb", address: "mysql://root@local/test?socket=" + s.Socket, reader: fmt.Sprintf("mysql://reader@127.0.0.1:%d/test", s.Port)}
}

// read reads a table, or the wanted columns of it, as lines.
func read(t *testing.T, source *rows.Source) (lines []string, err error) {
	t.Helper()
	work := func() func(*rows.Batch) ([]string, error) {
		return func(b *rows.Batch) (own []string, err error) {
			var row rows.Row
			for b.Next(&row) {
				var fields []string
				for i := range source.Columns() {
					if b.Wants(i) {
						fields = append(fields, string(row.Field(i)))
					}
				}
				own = append(own, strings.Join(fields, "|"))
			}
			return own, b.Err()
		}
	}
	err = rows.Process(context.Background(), source, work, func(own []string) error {
		lines = append(lines, own...)
		return nil
	})
	return lines, err
}

func open(t *testing.T, address string) *rows.Source {
	t.Helper()
	part, err := database.Open(context.Background(), address)
	require.NoError(t, err)
	s := &rows.Source{}
	require.NoError(t, s.Add(part))
	t.Cleanup(s.Close)
	return s
}

func typesOf(s *rows.Source) (types []rows.Type) {
	for _, column := range s.Columns() {
		types = append(types, column.Type)
	}
	return types
}

// Values of all types come as they are, whatever is in them.
func TestTypesOfPostgreSQL(t *testing.T) {
	e := postgres(t)
	e.SQL(t, `CREATE TABLE v(i int, b bigint, d numeric(10,2), n numeric, f double precision, o boolean, x text, y varchar(9), a date, s timestamp, z timestamptz, c time, u uuid, j jsonb);
		INSERT INTO v VALUES(1, -9223372036854775808, -1234.5, 12345678901234567890.125, 0.1, true, E'tab\there\\ back\nline "q" \\N', 'żółw', '2026-02-28', '2026-03-29 02:30:00.25', '2026-03-29 02:30:00+02', '23:59:59.5', 'c0ffee00-0000-0000-0000-000000000000', '{"a": 1}');
		INSERT INTO v VALUES(NULL, NULL, NULL, NULL, NULL, NULL, NULL, NULL, NULL, NULL, NULL, NULL, NULL, NULL);
		INSERT INTO v(i, x, a, s) VALUES(0, '', '0001-01-01', '9999-12-31 23:59:59.999999');`)
	s := open(t, e.address+"#v")
	assert.Equal(t, []rows.Type{rows.Integer, rows.Integer, rows.Decimal, rows.Text, rows.Float, rows.Bool, rows.Text, rows.Text, rows.Day, rows.Moment, rows.Instant, rows.Clock, rows.Text, rows.Text}, typesOf(s))
	lines, err := read(t, s)
	require.NoError(t, err)
	assert.Equal(t, []string{
		"1|-9223372036854775808|-1234.50|12345678901234567890.125|0.1|true|tab\there\\ back\nline \"q\" \\N|żółw|2026-02-28|2026-03-29T02:30:00.250000|2026-03-29T00:30:00Z|23:59:59.500000|c0ffee00-0000-0000-0000-000000000000|{\"a\": 1}",
		"|||||||||||||", "0|||||||" + "|0001-01-01|9999-12-31T23:59:59.999999||||",
	}, lines)
	// Days outside of the years 1 to 9999 are there and no days, so that whoever wants one rejects them.
	e.SQL(t, "CREATE TABLE far(a date); INSERT INTO far VALUES('infinity'), ('10000-01-01'), ('0044-03-15 BC'), ('-infinity');")
	far := open(t, e.address+"#far")
	lines, err = read(t, far)
	require.NoError(t, err)
	assert.Equal(t, []string{"infinity", "+10000-01-01", "-0043-03-15", "-infinity"}, lines)
	e.SQL(t, "CREATE TABLE nan(d numeric(5,1)); INSERT INTO nan VALUES(1), ('NaN');")
	lines, err = read(t, open(t, e.address+"#nan"))
	require.ErrorContains(t, err, `#nan, line 2, column d: holds "NaN", which cannot be used`)
	assert.Empty(t, lines)
	_, err = database.Open(context.Background(), e.address+"#SELECT 'x'::bytea AS picture")
	assert.ErrorContains(t, err, "column picture: holds binary data")
}

func TestTypesOfMariaDB(t *testing.T) {
	e := mariaDB(t)
	e.SQL(t, `CREATE TABLE v(i int, b bigint unsigned, d decimal(10,2), n decimal(30,3), f double, o boolean, x text, y varchar(9), a date, s datetime(6), z timestamp(3) NULL, c time, e enum('p', 'q'));
		SET time_zone = '+02:00'; SET sql_mode = '';
		INSERT INTO v VALUES(1, 18446744073709551615, -1234.5, 12345678901234567890.125, 0.1, true, 'tab\there\\ back\nline "q" \\N', 'żółw', '2026-02-28', '2026-03-29 02:30:00.25', '2026-03-29 02:30:00', '23:59:59', 'q');
		INSERT INTO v VALUES(NULL, NULL, NULL, NULL, NULL, NULL, NULL, NULL, NULL, NULL, NULL, NULL, NULL);
		INSERT INTO v(i, x, a, s) VALUES(0, '', '0000-00-00', '0000-00-00 00:00:00');`)
	s := open(t, e.address+"#v")
	assert.Equal(t, []rows.Type{rows.Integer, rows.Text, rows.Decimal, rows.Text, rows.Float, rows.Integer, rows.Text, rows.Text, rows.Day, rows.Moment, rows.Instant, rows.Text, rows.Text}, typesOf(s))
	lines, err := read(t, s)
	require.NoError(t, err)
	assert.Equal(t, []string{
		"1|18446744073709551615|-1234.50|12345678901234567890.125|0.1|1|tab\there\\ back\nline \"q\" \\N|żółw|2026-02-28|2026-03-29T02:30:00.250000|2026-03-29T00:30:00Z|23:59:59|q",
		"||||||||||||", "0||||||||||||",
	}, lines, "a zero date is none")
	_, err = database.Open(context.Background(), e.address+"#SELECT x'00' AS picture")
	assert.ErrorContains(t, err, "column picture: holds binary data")
}

// What holds for every kind of server.
func TestServers(t *testing.T) {
	for name, start := range map[string]func(*testing.T) *engine{"PostgreSQL": postgres, "MariaDB": mariaDB} {
		t.Run(name, func(t *testing.T) {
			e := start(t)
			number := map[string]string{"postgres": "INSERT INTO n SELECT g, g * 7 % 1000, 'row ' || g FROM generate_series(1, 60000) g", "mariadb": "INSERT INTO n SELECT seq, seq * 7 % 1000, CONCAT('row ', seq) FROM seq_1_to_60000"}[e.name]
			e.SQL(t, "CREATE TABLE n(k int PRIMARY KEY, v int, x varchar(20)); "+number+"; CREATE TABLE empty(k int); CREATE VIEW seven AS SELECT * FROM n WHERE k = 7;")
			t.Run("many batches", func(t *testing.T) {
				s := open(t, e.address+"#n")
				s.BatchSize = 20000
				lines, err := read(t, s)
				require.NoError(t, err)
				require.Len(t, lines, 60000)
				for i, line := range lines {
					require.Equal(t, fmt.Sprintf("%d|%d|row %[1]d", i+1, (i+1)*7%1000), line)
				}
				narrow := s.Narrowed(1)
				lines, err = read(t, narrow)
				require.NoError(t, err)
				assert.Equal(t, []string{"7", "14"}, lines[:2])
				none, err := read(t, s.Narrowed())
				require.NoError(t, err)
				assert.Len(t, none, 60000, "rows are counted without a column")
				seen := 0
				require.NoError(t, s.Sample(context.Background(), 3, func(*rows.Row) { seen++ }))
				assert.Equal(t, 3, seen)
				lines, err = read(t, s)
				require.NoError(t, err)
				assert.Len(t, lines, 60000, "after a scan that ended early")
			})
			t.Run("all scans see the same rows", func(t *testing.T) {
				s := open(t, e.address+"#n")
				e.SQL(t, "INSERT INTO n VALUES(-1, 1, 'new'); DELETE FROM n WHERE k = 5;")
				defer e.SQL(t, "DELETE FROM n WHERE k = -1; INSERT INTO n VALUES(5, 35, 'row 5');")
				lines, err := read(t, s)
				require.NoError(t, err)
				assert.Len(t, lines, 60000)
				assert.Contains(t, lines, "5|35|row 5")
			})
			t.Run("queries and names", func(t *testing.T) {
				quote := map[string]string{"postgres": `"`, "mariadb": "`"}[e.name]
				odd := map[string]string{"postgres": `"sel""lect"`, "mariadb": "`sel\"lect`"}[e.name]
				e.SQL(t, fmt.Sprintf("CREATE TABLE %s(%[1]s int); INSERT INTO %[1]s VALUES(4); CREATE TABLE %[2]sselect%[2]s(%[2]sfrom%[2]s int); INSERT INTO %[2]sselect%[2]s VALUES(5);", odd, quote))
				for query, want := range map[string]string{`sel"lect`: "4", "select": "5", "seven": "7|49|row 7", "SEVEN": "7|49|row 7", "SELECT k, k AS k2, x FROM n WHERE k < 2;": "1|1|row 1", "with a as (select 1 as b) select b from a -- end": "1", "empty": ""} {
					s := open(t, e.address+"#"+query)
					lines, err := read(t, s)
					require.NoError(t, err, query)
					assert.Equal(t, want, strings.Join(lines, ";"), query)
				}
			})
			t.Run("nothing is changed, and reading is enough", func(t *testing.T) {
				variable := map[string]string{"postgres": "PGPASSWORD", "mariadb": "MYSQL_PWD"}[e.name]
				t.Setenv(variable, "only reads")
				lines, err := read(t, open(t, e.reader+"#seven"))
				require.NoError(t, err)
				assert.Len(t, lines, 1)
				for _, change := range []string{"SELECT * FROM n; DELETE FROM n", "WITH a AS (DELETE FROM n RETURNING k) SELECT k FROM a"} {
					_, err := database.Open(context.Background(), e.address+"#"+change)
					if err == nil {
						_, err = read(t, open(t, e.address+"#"+change))
					}
					assert.Error(t, err, change)
					assert.Equal(t, "60000", e.SQL(t, "SELECT count(*) FROM n"))
				}
				if e.name == "postgres" {
					e.SQL(t, "REVOKE SELECT ON empty FROM reader")
					_, err := database.Open(context.Background(), e.reader+"#SELECT * FROM empty")
					assert.ErrorContains(t, err, "permission denied for table empty. Ask for the right to read: GRANT SELECT")
				}
				t.Setenv(variable, "wrong")
				_, err = database.Open(context.Background(), e.reader+"#n")
				require.ErrorContains(t, err, "the server refuses the user or the password")
				assert.NotContains(t, err.Error(), "wrong.")
				shown, had, err := database.Conceal(strings.Replace(e.reader, "reader@", "reader:only%20reads@", 1) + "#n")
				require.NoError(t, err)
				assert.True(t, had)
				assert.Equal(t, e.reader+"#n", shown)
				lines, err = read(t, open(t, shown))
				require.NoError(t, err)
				assert.Len(t, lines, 60000)
			})
			t.Run("what is not there", func(t *testing.T) {
				for address, message := range map[string]string{
					e.address + "#sevn":                  `has no table "sevn". Did you mean "` + e.address + `#seven"?`,
					e.address:                            "tables: ",
					e.address + "#SELECT nothing FROM n": "the server cannot carry that out: ",
					strings.Replace(e.address, "/test", "/tests", 1) + "#n":                                                    "tests",
					map[string]string{"postgres": "postgres", "mariadb": "mysql"}[e.name] + "://a@127.0.0.1:1/test#n":          "no server answers at 127.0.0.1:1. Check the host and the port",
					map[string]string{"postgres": "postgres", "mariadb": "mysql"}[e.name] + "://a@no.such.host.invalid/test#n": "host",
				} {
					_, err := database.Open(context.Background(), address)
					require.ErrorContains(t, err, message, address)
				}
			})
			t.Run("a table that is locked", func(t *testing.T) {
				lock := map[string]string{"postgres": "BEGIN; LOCK TABLE n; SELECT pg_sleep(4);", "mariadb": "LOCK TABLES n WRITE; SELECT SLEEP(4);"}[e.name]
				done := make(chan bool)
				go func() {
					e.SQL(t, lock)
					close(done)
				}()
				time.Sleep(700 * time.Millisecond)
				part, err := database.Open(context.Background(), e.with("lock_timeout=1s")+"#n")
				if err == nil {
					s := &rows.Source{}
					require.NoError(t, s.Add(part))
					_, err = read(t, s)
					s.Close()
				}
				require.ErrorContains(t, err, "is locked by another session. Try again when that has finished, or wait longer with lock_timeout in the address")
				<-done
			})
			t.Run("a run that is interrupted", func(t *testing.T) {
				ctx, cancel := context.WithCancel(context.Background())
				wait := map[string]string{"postgres": "pg_sleep(60)::text", "mariadb": "SLEEP(60)"}[e.name]
				part, err := database.Open(ctx, e.address+"#SELECT k, "+wait+" AS s FROM n")
				require.NoError(t, err)
				s := &rows.Source{}
				require.NoError(t, s.Add(part))
				defer s.Close()
				time.AfterFunc(300*time.Millisecond, cancel)
				started := time.Now()
				err = rows.Process(ctx, s, func() func(*rows.Batch) (int, error) {
					return func(b *rows.Batch) (int, error) { return b.Len(), b.Err() }
				}, func(int) error { return nil })
				require.ErrorIs(t, err, context.Canceled)
				assert.Less(t, time.Since(started), 20*time.Second, "it does not wait for the query")
				running := map[string]string{"postgres": "SELECT count(*) FROM pg_stat_activity WHERE query LIKE '%sleep(60)%' AND state = 'active' AND pid <> pg_backend_pid()", "mariadb": "SELECT count(*) FROM information_schema.processlist WHERE info LIKE '%SLEEP(60)%' AND id <> CONNECTION_ID()"}[e.name]
				assert.Eventually(t, func() bool { return e.SQL(t, running) == "0" }, 5*time.Second, 100*time.Millisecond, "the server goes on")
			})
			t.Run("a server that goes away", func(t *testing.T) {
				s := open(t, e.address+"#n")
				s.BatchSize = 1000
				stopped := false
				work := func() func(*rows.Batch) (int, error) {
					return func(b *rows.Batch) (int, error) { return b.Len(), b.Err() }
				}
				err := rows.Process(context.Background(), s, work, func(int) error {
					if !stopped {
						stopped = true
						e.Stop()
					}
					return nil
				})
				if err == nil { // all rows were on their way already
					_, err = read(t, s)
				}
				require.Error(t, err)
				assert.Regexp(t, "the server has gone away|no server answers|cannot be read", err.Error())
				assert.NotContains(t, err.Error(), os.Getenv("HOME")+"/.pgpass ")
			})
		})
	}
}

// Of a query of which only the first rows are looked at, the server works out no others, and those only once.
func TestSamplesEndTheQuery(t *testing.T) {
	for name, start := range map[string]func(*testing.T) *engine{"PostgreSQL": postgres, "MariaDB": mariaDB} {
		t.Run(name, func(t *testing.T) {
			e := start(t)
			numbers := map[string]string{"postgres": "generate_series(1, 30000) i", "mariadb": "(SELECT seq AS i FROM seq_1_to_30000) s"}[e.name]
			e.SQL(t, "CREATE TABLE n AS SELECT i FROM "+numbers)
			part, err := database.Open(t.Context(), e.address+"#SELECT i, CASE WHEN i = 12000 THEN (SELECT i FROM n) ELSE i END AS fails FROM n")
			require.NoError(t, err)
			s := &rows.Source{}
			require.NoError(t, s.Add(part))
			defer s.Close()
			for _, most := range []int{1, 5000, 1000, 7000} {
				var seen []string
				require.NoError(t, s.Sample(t.Context(), most, func(row *rows.Row) { seen = append(seen, string(row.Field(0))+string(row.Field(1))) }))
				require.Len(t, seen, most)
				assert.Equal(t, "11", seen[0])
				assert.Equal(t, strings.Repeat(fmt.Sprint(most), 2), seen[most-1])
			}
			_, err = read(t, s)
			require.Error(t, err, "the row that fails is there")
			// Rows that are too long to be kept are asked for anew.
			wide, err := database.Open(t.Context(), e.address+"#SELECT i, repeat('x', 2000) AS t FROM n")
			require.NoError(t, err)
			s = &rows.Source{}
			require.NoError(t, s.Add(wide))
			defer s.Close()
			for _, most := range []int{1000, 4999, 5000, 6000} {
				count := 0
				require.NoError(t, s.Sample(t.Context(), most, func(row *rows.Row) { count += len(row.Field(1)) }))
				assert.Equal(t, most*2000, count)
			}
		})
	}
}

func TestStatementsThatTakeTooLong(t *testing.T) {
	for name, start := range map[string]func(*testing.T) *engine{"PostgreSQL": postgres, "MariaDB": mariaDB} {
		t.Run(name, func(t *testing.T) {
			e := start(t)
			query := "#" + map[string]string{"postgres": "SELECT 1 AS a FROM pg_sleep(20) s", "mariadb": "SELECT sleep(20) AS a FROM (SELECT 1 AS b) s"}[e.name]
			began := time.Now()
			for _, limit := range []string{"200", "1s", "200ms"} {
				part, err := database.Open(t.Context(), e.with("statement_timeout="+limit)+query)
				require.NoError(t, err)
				s := &rows.Source{}
				require.NoError(t, s.Add(part))
				_, err = read(t, s)
				s.Close()
				require.ErrorContains(t, err, "a statement took longer than the server or statement_timeout in the address allows. Allow more time, or ask for fewer rows", limit)
			}
			assert.Less(t, time.Since(began), 15*time.Second)
			for wrong, message := range map[string]string{
				"statement_timeout=soon":   `statement_timeout is "soon", which is no length of time. Write it as 30s or 5min`,
				"lock_timeout=-5s":         `lock_timeout is "-5s", which is no length of time. Write it as 30s or 5min`,
				"lock_timeout=25d":         `lock_timeout is "25d", which is longer than servers take. Write at most 24d, or 0 for no limit`,
				"lock_timeout=99999999999": `lock_timeout is "99999999999", which is longer than servers take. Write at most 24d, or 0 for no limit`,
			} {
				_, err := database.Open(t.Context(), e.with(wrong)+"#t")
				require.ErrorContains(t, err, message)
			}
		})
	}
}
