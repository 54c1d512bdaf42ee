package database_test

import (
	"context"
	"fmt"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/internal/database"
	"roundyear/rows"
)

var writtenColumns = []rows.Column{{Name: "key", Type: rows.Integer, Key: true}, {Name: "select \"x\"`", Type: rows.Text}, {Name: "d", Type: rows.Day}, {Name: "n", Type: rows.Decimal, Scale: 2, Wide: true}, {Name: "b", Type: rows.Bool}, {Name: "m", Type: rows.Moment, Scale: 3}}

// blockOf is rows with odd texts, from one key to before another; each third has nothing but its key.
func blockOf(from, to int) rows.Block {
	b := rows.NewBlock(writtenColumns, to-from, 0)
	for k := from; k < to; k++ {
		b.Vectors[0].Int = append(b.Vectors[0].Int, int64(k))
		b.Count++
		if k%3 == 0 {
			for i := 1; i < len(b.Vectors); i++ {
				b.Vectors[i].AppendMissing()
			}
			continue
		}
		b.Vectors[1].AppendBytes([]byte(fmt.Sprintf("tab\t \\N 'q' \"%d\" `b`\r\nżółw ☃ %s", k, strings.Repeat("x", k%40))))
		b.Vectors[2].Int = append(b.Vectors[2].Int, int64(20000+k%5000))
		b.Vectors[3].AppendBytes([]byte(fmt.Sprintf("-%d.%02d", k*7, k%100)))
		b.Vectors[4].Int = append(b.Vectors[4].Int, int64(k%2))
		b.Vectors[5].Int = append(b.Vectors[5].Int, int64(k)*86400*1000+250)
	}
	return b
}

// write writes rows, and commits them unless that is to be left out.
func write(e *engine, table string, blocks ...rows.Block) (*database.Writer, error) {
	w, err := database.NewWriter(context.Background(), e.address+"#"+table, writtenColumns, false)
	if err != nil {
		return nil, err
	}
	for _, block := range blocks {
		if err := w.Write(block); err != nil {
			w.Abort()
			return nil, err
		}
	}
	if err := w.Close(); err != nil {
		w.Abort()
		return nil, err
	}
	return w, nil
}

func TestWriters(t *testing.T) {
	inStatements := func(t *testing.T) *engine {
		e := mariaDB(t)
		e.SQL(t, "SET GLOBAL local_infile = 0") // as MySQL has it from the start
		return e
	}
	for name, start := range map[string]func(*testing.T) *engine{"PostgreSQL": postgres, "MariaDB": mariaDB, "MariaDB in statements": inStatements} {
		t.Run(name, func(t *testing.T) {
			e := start(t)
			count := func(table string) string {
				quote := map[string]string{"postgres": `"`, "mariadb": "`"}[e.name]
				return e.SQL(t, "SELECT count(*) FROM "+quote+table+quote)
			}
			tables := func() string {
				return e.SQL(t, "SELECT table_name FROM information_schema.tables WHERE table_schema IN ('public', 'test') ORDER BY 1")
			}
			t.Run("what is written is read", func(t *testing.T) {
				w, err := write(e, "my table", blockOf(1, 3000), blockOf(3000, 20000))
				require.NoError(t, err)
				require.NoError(t, w.Commit())
				s := open(t, e.address+"#my table")
				lines, err := read(t, s)
				require.NoError(t, err)
				require.Len(t, lines, 19999)
				assert.Equal(t, "3|||||", lines[2])
				assert.Equal(t, "4|tab\t \\N 'q' \"4\" `b`\r\nżółw ☃ xxxx|2024-10-08|-28.04|"+map[string]string{"postgres": "false", "mariadb": "0"}[e.name]+"|1970-01-05T00:00:00.250000", lines[3])
				var names []string
				for _, column := range s.Columns() {
					names = append(names, column.Name)
				}
				assert.Equal(t, "key, select \"x\"`, d, n, b, m", strings.Join(names, ", "))
				s.Close()
				// Again, with fewer rows, without asking: it is ours.
				w, err = write(e, "my table", blockOf(1, 5))
				require.NoError(t, err)
				assert.Equal(t, "19999", count("my table"), "the old table until the end")
				require.NoError(t, w.Commit())
				assert.Equal(t, "4", count("my table"))
			})
			t.Run("nothing is left of what fails", func(t *testing.T) {
				before := tables()
				_, err := write(e, "my table", blockOf(1, 5000), blockOf(1, 5000))
				require.ErrorContains(t, err, "two rows have the same key")
				w, err := write(e, "my table", blockOf(1, 9000))
				require.NoError(t, err)
				w.Abort()
				w, err = write(e, "fresh", blockOf(1, 9000))
				require.NoError(t, err)
				w.Abort()
				assert.Equal(t, "4", count("my table"))
				assert.Equal(t, before, tables())
			})
			t.Run("what is not ours stays", func(t *testing.T) {
				e.SQL(t, "CREATE TABLE theirs(a int); CREATE VIEW seen AS SELECT * FROM theirs")
				_, err := write(e, "theirs")
				require.ErrorContains(t, err, "#theirs: is a table that Round Year has not written. Choose another name, or replace it with --force")
				_, err = write(e, "seen")
				require.ErrorContains(t, err, "is a view or something else that is no table")
				_, err = write(e, "")
				require.ErrorContains(t, err, "names no table")
				_, err = write(e, "SELECT 1 FROM a")
				require.ErrorContains(t, err, "is a query, and cannot be written to")
				w, err := database.NewWriter(context.Background(), e.address+"#theirs", writtenColumns[:1], true)
				require.NoError(t, err)
				require.NoError(t, w.Close())
				if e.name == "postgres" {
					require.ErrorContains(t, w.Commit(), "cannot be replaced, since views or other tables lean on it")
					w.Abort()
				} else {
					require.NoError(t, w.Commit())
				}
				assert.Equal(t, "0", count("theirs"))
			})
			t.Run("two at once take turns", func(t *testing.T) {
				var group sync.WaitGroup
				errs := make([]error, 2)
				for i := range 2 {
					group.Go(func() {
						w, err := write(e, "turns", blockOf(1, 4000+i))
						if err == nil {
							time.Sleep(200 * time.Millisecond)
							err = w.Commit()
						}
						errs[i] = err
					})
				}
				group.Wait()
				require.NoError(t, errs[0])
				require.NoError(t, errs[1])
				assert.Contains(t, []string{"3999", "4000"}, count("turns"))
				w, err := write(e, "turns", blockOf(1, 10))
				require.NoError(t, err)
				_, err = database.NewWriter(t.Context(), e.with("lock_timeout=500ms")+"#turns", writtenColumns, false)
				require.ErrorContains(t, err, "is being written by another run. Try again when that has finished, or wait longer with lock_timeout in the address")
				require.NoError(t, w.Commit())
				assert.Equal(t, "9", count("turns"))
				assert.NotContains(t, tables(), "(new)")
			})
			t.Run("rights to read are not enough", func(t *testing.T) {
				t.Setenv(map[string]string{"postgres": "PGPASSWORD", "mariadb": "MYSQL_PWD"}[e.name], "only reads")
				_, err := database.NewWriter(context.Background(), e.reader+"#new", writtenColumns, false)
				require.ErrorContains(t, err, "Ask for the right to create tables")
			})
			t.Run("a server that goes away", func(t *testing.T) {
				w, err := database.NewWriter(context.Background(), e.address+"#gone", writtenColumns, false)
				require.NoError(t, err)
				require.NoError(t, w.Write(blockOf(1, 100)))
				e.Stop()
				for k := 1; k < 50 && err == nil; k++ {
					err = w.Write(blockOf(k*1000, k*1000+1000))
				}
				if err == nil {
					err = w.Close()
				}
				require.Error(t, err)
				assert.Regexp(t, "the server has gone away|cannot be|no server answers", err.Error())
				w.Abort()
			})
		})
	}
}
