package database_test

import (
	"errors"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/internal/database"
	"roundyear/internal/servers"
	"roundyear/rows"
)

// A table that is copied in ranges, several at a time, has all of its rows in their order, with their numbers, whatever has been done to it.
func TestTablesAreCopiedInRanges(t *testing.T) {
	s := servers.StartPostgreSQL(t)
	address := fmt.Sprintf("postgres:///test?host=%s&port=%d&user=test", s.Socket, s.Port)
	s.SQL(t, `CREATE TABLE big(id int, day date, name text); INSERT INTO big SELECT i, date '2026-01-01' + i % 365, 'row ' || i || repeat('x', i % 90) FROM generate_series(1, 30000) i;
		DELETE FROM big WHERE id BETWEEN 4000 AND 9000 OR id % 7 = 3; UPDATE big SET name = 'changed' WHERE id % 11 = 0; DELETE FROM big WHERE id > 29000;
		CREATE VIEW part AS SELECT * FROM big WHERE id < 20000; CREATE TABLE parent(id int); CREATE TABLE child(day date) INHERITS (parent); INSERT INTO parent SELECT generate_series(1, 20000); INSERT INTO child SELECT generate_series(1, 20000), '2026-01-01'`)
	whole, err := read(t, open(t, address+"#big"))
	require.NoError(t, err)
	assert.Len(t, whole, 30000-countDeleted(30000))
	for _, pages := range []int{1, 3, 40} {
		reset := database.SetRangePages(pages)
		got, err := read(t, open(t, address+"#big"))
		require.NoError(t, err)
		require.Equal(t, whole, got, pages)
		some, err := read(t, open(t, address+"#big").Narrowed(0))
		require.NoError(t, err)
		assert.Len(t, some, len(whole))
		// What is no plain table, or has others below it, is copied as a whole.
		for table, count := range map[string]int{"part": 0, "parent": 40000} {
			lines, err := read(t, open(t, address+"#"+table))
			require.NoError(t, err)
			if count > 0 {
				assert.Len(t, lines, count)
			}
		}
		// The rows of a scan are numbered through, and a scan that is ended early ends.
		source, lines, enough := open(t, address+"#big"), 0, errors.New("enough")
		err = rows.Process(t.Context(), source, func() func(*rows.Batch) ([]int, error) {
			return func(b *rows.Batch) (all []int, err error) {
				var row rows.Row
				for b.Next(&row) {
					all = append(all, row.Line)
				}
				return all, b.Err()
			}
		}, func(all []int) error {
			for _, line := range all {
				if lines++; line != lines {
					return fmt.Errorf("row %d is number %d", line, lines)
				}
			}
			if lines > 9000 {
				return enough
			}
			return nil
		})
		assert.ErrorIs(t, err, enough)
		reset()
	}
	// Values that no row of ours can have are the same in whichever way they are copied.
	s.SQL(t, "UPDATE big SET day = 'infinity' WHERE id = 28000")
	asWhole, wholeError := read(t, open(t, address+"#big"))
	reset := database.SetRangePages(2)
	defer reset()
	inRanges, rangesError := read(t, open(t, address+"#big"))
	assert.Equal(t, asWhole, inRanges)
	assert.Equal(t, fmt.Sprint(wholeError), fmt.Sprint(rangesError))
	// Later rows than those of the snapshot are not there.
	source := open(t, address+"#big")
	s.SQL(t, "INSERT INTO big SELECT i, '2026-01-01', repeat('late', 20) FROM generate_series(40000, 50000) i")
	late, err := read(t, source)
	require.NoError(t, err)
	assert.False(t, strings.Contains(strings.Join(late, "\n"), "late"))
	s.Stop()
	_, err = read(t, source)
	assert.Error(t, err)
}

// countDeleted is how many of so many rows the test deletes.
func countDeleted(rows int) (count int) {
	for id := 1; id <= rows; id++ {
		if id >= 4000 && id <= 9000 || id%7 == 3 || id > 29000 {
			count++
		}
	}
	return count
}
