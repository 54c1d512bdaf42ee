package dialect_test

import (
	"bytes"
	"context"
	"database/sql"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	_ "modernc.org/sqlite"

	"roundyear/cell"
	"roundyear/civil"
	"roundyear/internal/dialect"
	"roundyear/rows"
)

// made are rows that are there already.
type made []rows.Block

func (m made) Each(_ context.Context, work func(rows.Block) ([]byte, error), collect func(rows.Block, []byte) error) error {
	for _, block := range m {
		var text []byte
		if work != nil {
			var err error
			if text, err = work(block); err != nil {
				return err
			}
		}
		if err := collect(block, text); err != nil {
			return err
		}
	}
	return nil
}

// columns are one of each type.
var columns = []rows.Column{{Name: "key", Type: rows.Integer, Key: true}, {Name: "day", Type: rows.Day}, {Name: "is_open", Type: rows.Bool}, {Name: "price", Type: rows.Decimal, Scale: 2},
	{Name: "text"}, {Name: "at", Type: rows.Clock}, {Name: "moment", Type: rows.Moment}}

// block is rows of them: one without gaps, and one with nothing but its key.
func block() rows.Block {
	b := rows.NewBlock(columns, 2, 64)
	b.Vectors[0].AppendCell(cell.OfInteger(-1))
	b.Vectors[1].AppendCell(cell.OfDay(civil.MustOf(2026, civil.March, 1)))
	b.Vectors[2].AppendCell(cell.OfBool(true))
	b.Vectors[3].Int = append(b.Vectors[3].Int, 1250)
	b.Vectors[4].AppendCell(cell.OfText(`O'Brien \ "x"`))
	b.Vectors[5].Int = append(b.Vectors[5].Int, 9*3600)
	b.Vectors[6].Int = append(b.Vectors[6].Int, int64(civil.MustOf(2026, civil.March, 1))*86400+61)
	b.Vectors[0].AppendCell(cell.OfInteger(2))
	for i := range b.Vectors[1:] {
		b.Vectors[i+1].AppendMissing()
	}
	b.Count = 2
	return b
}

func table() *dialect.Table {
	t := &dialect.Table{Name: `the "days"`, Comment: "One row per day\nof the year", Key: []int{0}, Unique: []int{1}, Indexes: []int{1}}
	for _, c := range columns {
		t.Columns = append(t.Columns, dialect.Column{Column: c, Comment: "What the " + c.Name + " is; it's", Required: c.Key, Small: true, Length: 20})
	}
	return t
}

func scriptOf(t *testing.T, d *dialect.Dialect, replace bool) string {
	t.Helper()
	var out bytes.Buffer
	m := &dialect.Model{Tables: []dialect.Filled{{Table: table(), Rows: made{block()}}},
		Views: []*dialect.View{{Name: "with days", Comment: "Each row", From: `the "days"`, As: "f", Columns: []dialect.ViewColumn{{Of: "f", Name: "text"}, {Of: "d", Name: "day", As: "other"}},
			Joins: []dialect.Join{{Table: `the "days"`, As: "d", Column: "day", From: "moment", IsMoment: true}}}}}
	require.NoError(t, d.Script(t.Context(), &out, m, []string{"A heading"}, replace))
	return out.String()
}

func TestScriptsOfDialects(t *testing.T) {
	for _, c := range []struct {
		name  string
		lines []string
	}{
		{"postgres", []string{
			`BEGIN;`, `CREATE TABLE "the ""days""" (`, `  "key" integer NOT NULL,`, `  "price" numeric(18,2),`, `  PRIMARY KEY ("key"),`, `  UNIQUE ("day")`,
			`COMMENT ON TABLE "the ""days""" IS 'One row per day of the year';`, `COMMENT ON COLUMN "the ""days"""."day" IS 'What the day is; it''s';`,
			`  (-1, DATE '2026-03-01', true, 12.50, 'O''Brien \ "x"', TIME '09:00:00', TIMESTAMP '2026-03-01 00:01:01'),`, `  (2, NULL, NULL, NULL, NULL, NULL, NULL);`,
			`CREATE INDEX "the ""days""_day_idx" ON "the ""days""" ("day");`, `LEFT JOIN "the ""days""" d ON d."day" = CAST(f."moment" AS date);`, `COMMIT;`}},
		{"mysql", []string{
			"  `text` text COMMENT 'What the text is; it''s',", "  (-1, '2026-03-01', TRUE, 12.50, 'O''Brien \\\\ \"x\"', '09:00:00', '2026-03-01 00:01:01'),", "  PRIMARY KEY (`key`),"}},
		{"sqlite", []string{
			`CREATE TABLE "the ""days""" ( -- One row per day of the year`, `  "day" DATE, -- What the day is; it's`, `  (-1, '2026-03-01', 1, 12.50, 'O''Brien \ "x"', '09:00:00', '2026-03-01 00:01:01'),`,
			`LEFT JOIN "the ""days""" d ON d."day" = date(f."moment");`}},
		{"sqlserver", []string{
			`  [is_open] bit,`, `  [text] nvarchar(32),`, `  (-1, '2026-03-01', 1, 12.50, N'O''Brien \ "x"', '09:00:00', '2026-03-01 00:01:01'),`,
			`EXEC sys.sp_addextendedproperty N'MS_Description', N'What the key is; it''s', N'SCHEMA', N'dbo', N'TABLE', N'the "days"', N'COLUMN', N'key';`, "GO\nIF @@TRANCOUNT = 0 SET NOEXEC ON;\nGO\nCREATE VIEW [with days] AS", "COMMIT TRANSACTION;\nGO\nSET NOEXEC OFF;", `BEGIN TRANSACTION;`}},
		{"oracle", []string{
			`  key NUMBER(10) NOT NULL,`, `  text VARCHAR2(32 CHAR),`, `  SELECT -1, DATE '2026-03-01', 1, 12.50, 'O''Brien \ "x"', '09:00:00', TIMESTAMP '2026-03-01 00:01:01' FROM dual`,
			`  UNION ALL SELECT 2, NULL, NULL, NULL, NULL, NULL, NULL FROM dual;`, `WHENEVER SQLERROR EXIT FAILURE ROLLBACK;`, `SET DEFINE OFF;`}},
	} {
		script := scriptOf(t, dialect.Named(c.name), false)
		for _, line := range c.lines {
			assert.Contains(t, script, line+"\n", c.name)
		}
		assert.NotContains(t, script, "DROP TABLE IF EXISTS `the \"days\"`", c.name)
		if c.name != "mysql" { // which drops what an earlier run has left under other names
			assert.NotContains(t, script, "DROP", c.name)
		}
		assert.Contains(t, scriptOf(t, dialect.Named(c.name), true), "DROP TABLE ", c.name)
	}
}

func TestWordsOfOracleAreQuoted(t *testing.T) {
	for name, quoted := range map[string]string{"date_key": "date_key", "date": `"DATE"`, "Level": `"LEVEL"`, "the year": `"the year"`, "1st": `"1st"`, `a"b`: `"a""b"`} {
		assert.Equal(t, quoted, dialect.Oracle.Quote(name))
	}
}

// Any text comes back from a database as it was, whatever is in it, and so does any name.
func TestLiteralsAndNamesComeBack(t *testing.T) {
	db, err := sql.Open("sqlite", ":memory:")
	require.NoError(t, err)
	defer func() { _ = db.Close() }()
	random := rand.New(rand.NewPCG(1, 2))
	pieces := []string{"'", "''", `"`, `\`, "--", "/*", ";", "\n", "é", "日", "%", "x", "DROP TABLE", " ", "`", "]"}
	for range 500 {
		var text string
		for range random.IntN(8) {
			text += pieces[random.IntN(len(pieces))]
		}
		var back string
		require.NoError(t, db.QueryRow("SELECT v FROM (SELECT "+dialect.SQLite.Text(text)+" AS v)").Scan(&back))
		require.Equal(t, text, back)
		if name := strings.TrimSpace(text); name != "" {
			_, err := db.Exec("DROP TABLE IF EXISTS named; CREATE TABLE named (" + dialect.SQLite.Quote(name) + ")")
			require.NoError(t, err, name)
			require.NoError(t, db.QueryRow("SELECT name FROM pragma_table_info('named')").Scan(&back), name)
			assert.Equal(t, name, back)
		}
	}
}

// What a script makes is what the rows were.
func TestScriptRunsInSQLite(t *testing.T) {
	db, err := sql.Open("sqlite", ":memory:")
	require.NoError(t, err)
	defer func() { _ = db.Close() }()
	for range 2 {
		_, err = db.Exec(scriptOf(t, dialect.SQLite, true))
		require.NoError(t, err)
	}
	var text, day string
	require.NoError(t, db.QueryRow(`SELECT "text", "other" FROM "with days" WHERE "text" IS NOT NULL`).Scan(&text, &day))
	assert.Equal(t, `O'Brien \ "x"`, text)
	assert.Equal(t, "2026-03-01", day[:10])
	_, err = db.Exec(`INSERT INTO "the ""days""" ("key") VALUES (2)`)
	assert.ErrorContains(t, err, "UNIQUE")
}

// Statements of many rows are cut so that no server refuses them, and no row is lost at a cut.
func TestInsertsAreCut(t *testing.T) {
	one := []rows.Column{{Name: "n", Type: rows.Integer}}
	b := rows.NewBlock(one, 1203, 0)
	for i := range 1203 {
		b.Vectors[0].AppendCell(cell.OfInteger(i))
	}
	b.Count = 1203
	var statements, values int
	inserts := dialect.Postgres.NewInserts(&dialect.Table{Columns: []dialect.Column{{Column: one[0]}}}, "t", func(statement []byte) error {
		statements++
		values += bytes.Count(statement, []byte("\n  ("))
		return nil
	})
	require.NoError(t, inserts.Write(b))
	require.NoError(t, inserts.Flush())
	require.NoError(t, inserts.Flush())
	assert.Equal(t, 3, statements)
	assert.Equal(t, 1203, values)
}
