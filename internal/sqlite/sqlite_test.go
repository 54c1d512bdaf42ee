package sqlite_test

import (
	"bytes"
	"context"
	"database/sql"
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"path/filepath"
	"runtime"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/internal/input"
	"roundyear/internal/sqlite"
	"roundyear/rows"
	"roundyear/rows/rowstest"
)

// database makes a database by statements and returns its path.
func database(t *testing.T, statements ...string) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), "o'dd? name#.db")
	db, err := sql.Open("sqlite", "file:"+strings.NewReplacer("?", "%3f", "#", "%23").Replace(path))
	require.NoError(t, err)
	defer db.Close()
	for _, statement := range statements {
		_, err := db.Exec(statement)
		require.NoError(t, err, statement)
	}
	return path
}

func open(path, table string) (*rows.Source, error) {
	content, err := input.OfFile(context.Background(), path)
	if err != nil {
		return nil, err
	}
	if err := content.Enter(table); err != nil {
		return nil, err
	}
	part, err := sqlite.Open(context.Background(), content)
	if err != nil {
		return nil, err
	}
	s := &rows.Source{}
	return s, s.Add(part)
}

// The types of a large table are the same whether they are told from a sample and what differs from it, or from all values; so are faults.
func TestTypesFromSamples(t *testing.T) {
	random := rand.New(rand.NewPCG(5, 5))
	values := []string{"NULL", "7", "2.5", "'x'", "''", "'7'", "X'00'", "-1", "1e300", "9007199254740993"}
	faults := 0
	for range 60 {
		var declared, rowsOf []string
		usual := make([]string, 6)
		for i := range usual {
			usual[i] = values[random.IntN(6)]
			declared = append(declared, fmt.Sprintf("c%d %s", i, []string{"", "TEXT", "INTEGER", "NUMERIC", "REAL", "DATE", "BLOB"}[random.IntN(7)]))
		}
		for range 80 {
			row := make([]string, len(usual))
			for i := range row {
				if row[i] = usual[i]; random.IntN(150) == 0 {
					row[i] = values[random.IntN(len(values))]
				}
			}
			rowsOf = append(rowsOf, "("+strings.Join(row, ", ")+")")
		}
		path := database(t, "CREATE TABLE \"a \"\"b\"\"\" ("+strings.Join(declared, ", ")+")", "INSERT INTO \"a \"\"b\"\"\" VALUES "+strings.Join(rowsOf, ", "), "CREATE VIEW v AS SELECT * FROM \"a \"\"b\"\"\"")
		all, fault := open(path, `a "b"`)
		reset := sqlite.SetSample(0, 3)
		sampled, sampledFault := open(path, `a "b"`)
		view, viewFault := open(path, "v")
		reset()
		if fault != nil {
			faults++
			require.ErrorContains(t, sampledFault, "holds binary data")
			require.ErrorContains(t, viewFault, "holds binary data")
			continue
		}
		require.NoError(t, sampledFault)
		require.NoError(t, viewFault)
		require.Equal(t, all.Columns(), sampled.Columns(), "%v", rowsOf)
		require.Equal(t, all.Columns(), view.Columns())
		require.Equal(t, textsOf(t, all), textsOf(t, sampled))
		assert.Equal(t, 80, sampled.Parts[0].Decoder.(rows.Counted).Rows())
	}
	assert.NotZero(t, faults)
}

// A table that is read in ranges has the same rows in the same order, with the same numbers, as one that is read at once, whatever numbers
// SQLite has given them; what has no such numbers is read at once.
func TestRangesHaveTheRowsOfTheTable(t *testing.T) {
	defer runtime.GOMAXPROCS(runtime.GOMAXPROCS(4))
	defer sqlite.SetSample(0, 10)()
	random := rand.New(rand.NewPCG(7, 7))
	for _, table := range []string{"t (a, b TEXT)", "t (rowid, b TEXT)", "t (rowid INTEGER PRIMARY KEY, b TEXT)", "t (oid, _rowid_, RowId, b TEXT)", "t (a PRIMARY KEY, b TEXT) WITHOUT ROWID"} {
		path := database(t, "CREATE TABLE "+table, "CREATE VIEW v AS SELECT * FROM t")
		change := func(statement string) {
			db, err := sql.Open("sqlite", "file:"+strings.NewReplacer("?", "%3f", "#", "%23").Replace(path))
			require.NoError(t, err)
			defer db.Close()
			_, err = db.Exec(statement)
			require.NoError(t, err, statement)
		}
		for range 2 {
			columns := strings.Count(table, ",") + 1
			var values []string
			for range 20 + random.IntN(400) {
				number := random.Int64N(1 << 62)
				values = append(values, fmt.Sprintf("(%s'n%d')", strings.Repeat(fmt.Sprintf("%d, ", number), columns-1), number))
			}
			change("INSERT OR IGNORE INTO t VALUES " + strings.Join(values, ", "))
			change("DELETE FROM t WHERE b LIKE '%3'")
			if !strings.Contains(table, "WITHOUT") && !strings.Contains(table, "PRIMARY") && !strings.Contains(table, "oid, _rowid_") {
				name := map[bool]string{true: "rowid", false: "_rowid_"}[strings.HasPrefix(table, "t (a")]
				change(fmt.Sprintf("INSERT INTO t (%s, b) VALUES (%d, 'far'), (%d, 'negative')", name, math.MaxInt64-random.Int64N(1000)-1, -1-random.Int64N(1<<62)))
				change(fmt.Sprintf("DELETE FROM t WHERE %s > %d", name, int64(math.MaxInt64-2000)))
			}
			for _, from := range []string{"t", "v"} {
				whole, err := open(path, from)
				require.NoError(t, err)
				want := textsOf(t, whole)
				for _, rangeRows := range []int{1, 7, 50, len(want) / 4} {
					reset := sqlite.SetRangeRows(rangeRows)
					ranged, err := open(path, from)
					require.NoError(t, err)
					require.Equal(t, want, textsOf(t, ranged), "%s in %s by %d", from, table, rangeRows)
					seen := 0
					require.NoError(t, ranged.Sample(t.Context(), 5, func(*rows.Row) { seen++ }))
					require.Equal(t, 5, seen)
					reset()
				}
			}
		}
	}
}

// While ranges are read nobody can write, unless the database has a write-ahead log, which is read at once.
func TestRangesSeeTheSame(t *testing.T) {
	defer runtime.GOMAXPROCS(runtime.GOMAXPROCS(4))
	defer sqlite.SetSample(0, 10)()
	defer sqlite.SetRangeRows(100)()
	for _, mode := range []string{"delete", "wal"} {
		path := database(t, "PRAGMA journal_mode = "+mode, "CREATE TABLE t AS WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 50000) SELECT i FROM n")
		s, err := open(path, "t")
		require.NoError(t, err)
		db, err := sql.Open("sqlite", "file:"+strings.NewReplacer("?", "%3f", "#", "%23").Replace(path)+"?_pragma=busy_timeout(0)")
		require.NoError(t, err)
		count, tried := 0, false
		err = rows.Process(t.Context(), s, func() func(*rows.Batch) (int, error) {
			return func(b *rows.Batch) (int, error) {
				own := 0
				for row := (rows.Row{}); b.Next(&row); own++ {
				}
				return own, b.Err()
			}
		}, func(n int) error {
			if count += n; !tried {
				tried = true
				_, err := db.Exec("UPDATE t SET i = -i")
				assert.Equal(t, mode == "delete", err != nil, "%s: %v", mode, err)
			}
			return nil
		})
		require.NoError(t, err)
		assert.Equal(t, 50000, count)
		require.NoError(t, db.Close())
	}
}

// Types are those of what the columns hold, not those that the table declares.
func TestTypesAreThoseOfTheValues(t *testing.T) {
	path := database(t, "CREATE TABLE sales (id INTEGER, day DATE, at DATETIME, amount NUMERIC, share REAL, mixed, none, note TEXT)",
		"INSERT INTO sales VALUES (1, '2026-01-31', '2026-01-31 09:00:00', 12.50, 1, 7, NULL, 'é')",
		"INSERT INTO sales VALUES (9007199254740993, '2026-02-01', 1767229200, 3, 0.1, 'x', NULL, '')",
		"INSERT INTO sales VALUES (NULL, NULL, NULL, NULL, NULL, 0.5, NULL, NULL)",
		"CREATE VIEW late AS SELECT day, day AS again FROM sales WHERE day > '2026-01-31'")
	s, err := open(path, "SALES")
	require.NoError(t, err)
	var types []rows.Type
	for _, column := range s.Columns() {
		types = append(types, column.Type)
	}
	assert.Equal(t, []rows.Type{rows.Integer, rows.Text, rows.Text, rows.Float, rows.Float, rows.Text, rows.Text, rows.Text}, types)
	assert.Equal(t, []string{
		"1|1|2026-01-31|2026-01-31 09:00:00|12.5|1|7|∅|é",
		"2|9007199254740993|2026-02-01|1767229200|3|0.1|x|∅|",
		"3|∅|∅|∅|∅|∅|0.5|∅|∅"}, textsOf(t, s))
	assert.Equal(t, 3, s.Parts[0].Decoder.(rows.Counted).Rows())

	s, err = open(path, "late")
	require.NoError(t, err)
	assert.Equal(t, []string{"1|2026-02-01|2026-02-01"}, textsOf(t, s))
	s, err = open(path, " select id, id AS id, 'a;b' AS text FROM sales WHERE id = 1; ")
	require.NoError(t, err)
	assert.Equal(t, "id", s.Names()[0])
	assert.Equal(t, []string{"1|1|1|a;b"}, textsOf(t, s))
	s, err = open(path, "WITH RECURSIVE n(i) AS (VALUES (1) UNION ALL SELECT i + 1 FROM n WHERE i < 20000) SELECT i, 'x' || i FROM n -- all")
	require.NoError(t, err)
	many := textsOf(t, s)
	require.Len(t, many, 20000)
	assert.Equal(t, "20000|20000|x20000", many[19999])
	assert.Equal(t, []string{"1|∅|∅"}, textsOf(t, s.Narrowed())[:1], "columns that nobody wants are not read")
}

func TestTablesThatCannotBeRead(t *testing.T) {
	path := database(t, "CREATE TABLE sales (day, photo)", "INSERT INTO sales VALUES ('2026-01-01', x'00ff')", "CREATE TABLE budget (month)")
	for table, want := range map[string]string{
		"":                         `has 2 tables: budget, sales. Name one of them: `,
		"sale":                     `has no table "sale". Did you mean `,
		"zebra crossing":           `has no table "zebra crossing". Its tables: budget, sales`,
		"sales":                    `column photo: holds binary data. Choose other columns with a query: `,
		"SELECT a FROM day":        `the database cannot carry that out: no such table: day. Correct the query, or name a table`,
		"SELECT 1; DROP TABLE a":   `the query has more than one statement. Write one query: SELECT …`,
		"SELECT 1) FROM x; DELETE": `the query has parentheses that do not match. Write one query: SELECT …`,
	} {
		_, err := open(path, table)
		assert.ErrorContains(t, err, want, table)
	}
	empty := database(t, "CREATE TABLE a (b)", "DROP TABLE a")
	_, err := open(empty, "")
	assert.ErrorContains(t, err, "has no tables")

	whole, err := os.ReadFile(path)
	require.NoError(t, err)
	cut := filepath.Join(t.TempDir(), "cut.db")
	require.NoError(t, os.WriteFile(cut, whole[:len(whole)/2], 0o600))
	_, err = open(cut, "budget")
	assert.ErrorContains(t, err, "is a database that is damaged or encrypted")
	require.NoError(t, os.WriteFile(cut, append([]byte("SQLite format 3\x00"), bytes.Repeat([]byte{7}, 5000)...), 0o600))
	_, err = open(cut, "budget")
	assert.ErrorContains(t, err, "is a database that is damaged or encrypted")

	content, err := input.OfBytes("in.db", whole)
	require.NoError(t, err)
	_, err = sqlite.Open(context.Background(), content)
	assert.ErrorContains(t, err, "in.db: is an SQLite database within something else. Unpack it to a file first")
}

func TestTableIsWrittenWithTypesAndKey(t *testing.T) {
	columns := []rows.Column{{Name: "key", Type: rows.Integer, Key: true}, {Name: "a \"day\"", Type: rows.Day}, {Name: "at", Type: rows.Moment}, {Name: "time", Type: rows.Clock},
		{Name: "amount", Type: rows.Decimal, Scale: 2}, {Name: "rate", Type: rows.Float}, {Name: "is_open", Type: rows.Bool}, {Name: "note"}}
	block := rows.NewBlock(columns, 2, 0)
	for i, value := range []int64{20260101, 20454, 20454*86400 + 43200, 3661, -123456, int64(math.Float64bits(0.1)), 1} {
		block.Vectors[i].Int = append(block.Vectors[i].Int, value)
	}
	block.Vectors[7].AppendBytes([]byte("00123"))
	block.Vectors[0].Int = append(block.Vectors[0].Int, -1)
	for i := range columns[1:] {
		block.Vectors[i+1].AppendMissing()
	}
	block.Count = 2
	path := filepath.Join(t.TempDir(), "dates.db")
	file, err := os.Create(path)
	require.NoError(t, err)
	w := sqlite.NewWriter(file, "dates", columns)
	require.NoError(t, w.Write(block))
	require.NoError(t, w.Close())
	require.NoError(t, file.Close())

	db, err := sql.Open("sqlite", path)
	require.NoError(t, err)
	defer db.Close()
	var schema string
	require.NoError(t, db.QueryRow("SELECT sql FROM sqlite_schema").Scan(&schema))
	assert.Equal(t, `CREATE TABLE "dates" ("key" INTEGER PRIMARY KEY NOT NULL, "a ""day""" DATE, "at" DATETIME, "time" TIME, "amount" NUMERIC, "rate" REAL, "is_open" BOOLEAN, "note" TEXT)`, schema)
	s, err := open(path, "")
	require.NoError(t, err)
	assert.Equal(t, []string{"1|-1|∅|∅|∅|∅|∅|∅|∅", "2|20260101|2026-01-01|2026-01-01 12:00:00|01:01:01|-1234.56|0.1|1|00123"}, textsOf(t, s))
	assert.NoError(t, sqlite.Replaces(path))

	block.Vectors[0].Int[1] = 20260101
	w = sqlite.NewWriter(&bytes.Buffer{}, "", columns)
	assert.ErrorContains(t, w.Write(block), "the rows cannot be a table of SQLite: constraint failed: UNIQUE constraint failed: rows.key")
	w = sqlite.NewWriter(&bytes.Buffer{}, "", rows.Texts([]string{"a", "A"}))
	assert.ErrorContains(t, w.Close(), "duplicate column name: A")
}

// A database with other tables is not replaced.
func TestReplacing(t *testing.T) {
	path := database(t, "CREATE TABLE budget (month)", "CREATE TABLE \"o'dd? name#\" (a)")
	assert.EqualError(t, sqlite.Replaces(path), path+": is a database with other tables (budget), which would be gone. Write to a file of its own")
	assert.NoError(t, sqlite.Replaces(path+"x"))
	require.NoError(t, os.WriteFile(path, []byte("day\n"), 0o600))
	assert.NoError(t, sqlite.Replaces(path))
}

// A database that another program writes to is waited for, and then refused.
func TestLockedDatabase(t *testing.T) {
	path := database(t, "CREATE TABLE budget (month)")
	db, err := sql.Open("sqlite", "file:"+strings.NewReplacer("?", "%3f", "#", "%23").Replace(path))
	require.NoError(t, err)
	defer db.Close()
	db.SetMaxOpenConns(1)
	_, err = db.Exec("BEGIN EXCLUSIVE")
	require.NoError(t, err)
	_, err = open(path, "budget")
	assert.ErrorContains(t, err, "is locked by another program. Try again when that has finished")
}

func textsOf(t *testing.T, s *rows.Source) []string {
	t.Helper()
	lines, err := rowstest.Texts(s)
	require.NoError(t, err)
	return lines
}

// A number that a column of numbers would not keep to the last digit is told, and none becomes another one.
func TestNumbersKeepTheirDigits(t *testing.T) {
	columns := []rows.Column{{Name: "amount", Type: rows.Decimal, Scale: 2, Wide: true}}
	write := func(text string) (string, error) {
		path := filepath.Join(t.TempDir(), "n.db")
		file, err := os.Create(path)
		require.NoError(t, err)
		defer file.Close()
		w := sqlite.NewWriter(file, "n", columns)
		block := rows.NewBlock(columns, 0, 0)
		block.Vectors[0].AppendBytes([]byte(text))
		block.Count = 1
		if err := w.Write(block); err != nil {
			return "", err
		}
		require.NoError(t, w.Close())
		part, err := open(path, "SELECT CASE typeof(amount) WHEN 'integer' THEN CAST(amount AS TEXT) ELSE printf('%.15g', amount) END AS amount FROM n")
		require.NoError(t, err)
		defer part.Close()
		var got string
		require.NoError(t, part.Sample(t.Context(), 1, func(row *rows.Row) { got = string(row.Field(0)) }))
		return got, nil
	}
	for text, want := range map[string]string{"1234567890123.45": "1234567890123.45", "-9999999999999.99": "-9999999999999.99", "12345678901234567.00": "12345678901234567", "9223372036854775807": "9223372036854775807", "-0.50": "-0.5",
		"123456789.12345678901": "123456789.123457", "0.00000012345678": "1.2345678e-07", "123.4500000000000000": "123.45"} {
		got, err := write(text)
		require.NoError(t, err, text)
		assert.Equal(t, want, got, text)
	}
	for _, text := range []string{"12345678901234.56", "-123456789012345678901.250001", "9223372036854775808", "123456789012.123456", "1234567890123456.5"} {
		_, err := write(text)
		assert.ErrorContains(t, err, "column amount: "+text+" has more digits than SQLite keeps of a number", text)
	}
}
