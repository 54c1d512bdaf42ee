package database_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/civil"
	"roundyear/civil/civiltest"
	"roundyear/internal/database"
	"roundyear/rows"
)

// Rows that a comparison leaves out are left on the server, and counted; values that are missing or are nothing everywhere come as they would
// without it.
func TestComparisonsAreAskedOfTheServer(t *testing.T) {
	reset := database.SetRangePages(2)
	defer reset()
	day := civiltest.Day("2026-03-01")
	for name, start := range map[string]func(*testing.T) *engine{"PostgreSQL": postgres, "MariaDB": mariaDB} {
		t.Run(name, func(t *testing.T) {
			e := start(t)
			text := map[string]string{"postgres": "text", "mariadb": "varchar(60) COLLATE utf8mb4_general_ci"}[e.name]
			e.SQL(t, "CREATE TABLE facts (id int, day date, at timestamp NULL, shop "+text+", n int, amount numeric(10,2), wide numeric(30,3))")
			var values []string
			for i := 1; i <= 2000; i++ {
				row := []string{fmt.Sprint(i), "NULL", "NULL", []string{"NULL", "'Cork'", "'cork'", "'Cork '", "'O''Brien'"}[i%5], "NULL", fmt.Sprintf("%.2f", float64(i%400)/4), fmt.Sprintf("1234567890123456789%d.125", i%40)}
				if i%9 > 0 {
					row[1] = "'" + (civiltest.Day("2026-02-20") + civil.Day(i%20)).String() + "'"
				}
				if i%8 > 0 {
					row[2] = "'" + time.Date(2026, 2, 28, 23+i%40, 59, 59, 0, time.UTC).Format(time.DateTime) + "'"
				}
				if i%7 > 0 {
					row[4] = fmt.Sprint(i%7 - 3)
				}
				values = append(values, "("+strings.Join(row, ", ")+")")
			}
			e.SQL(t, "INSERT INTO facts VALUES "+strings.Join(values, ","))
			if e.name == "postgres" {
				e.SQL(t, "UPDATE facts SET day = 'infinity' WHERE id = 1; UPDATE facts SET amount = 'NaN' WHERE id = 2")
			}
			for _, c := range []struct {
				column int
				keeps  rows.Comparison
				// sql is the same, by hand, in which unknown is not kept.
				sql string
			}{
				{1, rows.Comparison{Operator: "<", Days: []civil.Day{day}}, "day < '2026-03-01'"},
				{1, rows.Comparison{Operator: "!=", Days: []civil.Day{day, day + 1}}, "day NOT IN ('2026-03-01', '2026-03-02') OR day IS NULL"},
				{2, rows.Comparison{Operator: "=", Days: []civil.Day{day}}, "at >= '2026-03-01' AND at < '2026-03-02'"},
				{2, rows.Comparison{Operator: ">=", Days: []civil.Day{day}}, "at >= '2026-03-01'"},
				{3, rows.Comparison{Operator: "=", Texts: []string{"Cork", "O'Brien"}}, "id % 5 IN (1, 4)"},
				{3, rows.Comparison{Operator: "!=", Texts: []string{"Cork"}}, "id % 5 <> 1"},
				{4, rows.Comparison{Operator: "<=", Numbers: []string{"-2"}}, "n <= -2"},
				{4, rows.Comparison{Operator: "=", Numbers: []string{"0.5", "3.00"}}, "n = 3"},
				{5, rows.Comparison{Operator: ">", Numbers: []string{"12.25"}}, "amount > 12.25"},
				{6, rows.Comparison{Operator: "=", Numbers: []string{"12345678901234567895.125", "123456789012345678930.125"}}, "id % 40 IN (5, 30)"},
				{6, rows.Comparison{Operator: ">=", Numbers: []string{"123456789012345678930"}}, "id % 40 >= 30"},
			} {
				for _, table := range []string{"#facts", "#SELECT * FROM facts WHERE id > 0"} {
					s := open(t, e.address+table)
					wanted := e.SQL(t, "SELECT count(*) FROM facts WHERE "+c.sql)
					odd := ""
					if e.name == "postgres" && (c.column == 1 && c.keeps.Operator == "<" || c.column == 5) {
						odd = e.SQL(t, "SELECT count(*) FROM facts WHERE day = 'infinity'")
					}
					left, came := 0, 0
					err := rows.Process(t.Context(), s.Narrowed(0, c.column).Excluding(rows.Exclusion{Column: c.column}, rows.Exclusion{Column: c.column, Keeps: &c.keeps}), func() func(*rows.Batch) ([2]int, error) {
						return func(b *rows.Batch) ([2]int, error) {
							if b.LeftOut > 0 && b.LeftOutBy != 1 {
								return [2]int{}, fmt.Errorf("left out by %d", b.LeftOutBy)
							}
							return [2]int{b.LeftOut, b.Len()}, nil
						}
					}, func(one [2]int) error {
						left, came = left+one[0], came+one[1]
						return nil
					})
					require.NoError(t, err, c.sql)
					assert.Equal(t, 2000, left+came, c.sql)
					if table != "#facts" {
						assert.Equal(t, 0, left, "a query is not carried out twice")
						s.Close()
						continue
					}
					assert.Greater(t, left, 150, c.sql)
					if odd != "" {
						assert.Contains(t, []string{wanted, fmt.Sprint(1 + atoi(t, wanted))}, fmt.Sprint(came), "one that is nothing everywhere comes, too")
					} else {
						assert.Equal(t, wanted, fmt.Sprint(came), c.sql)
					}
					s.Close()
				}
			}
			// What the server would take for the same, and people do not, is not asked.
			s := open(t, e.address+"#facts")
			lines, err := read(t, s.Excluding(rows.Exclusion{Column: 3, Keeps: &rows.Comparison{Operator: "=", Numbers: []string{"3"}}}, rows.Exclusion{Column: 4, Keeps: &rows.Comparison{Operator: "=", Texts: []string{"3"}}}))
			if e.name == "postgres" { // NaN is none of a decimal's values
				require.ErrorContains(t, err, "NaN")
				return
			}
			require.NoError(t, err)
			assert.Len(t, slices.Compact(lines), 2000)
		})
	}
}

func atoi(t *testing.T, text string) (number int) {
	t.Helper()
	_, err := fmt.Sscan(text, &number)
	require.NoError(t, err)
	return number
}
