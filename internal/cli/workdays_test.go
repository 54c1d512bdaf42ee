package cli_test

import (
	"database/sql"
	"encoding/csv"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	_ "modernc.org/sqlite"
)

// inSQLite puts a CSV file of a folder into a table of a database in memory, all
// columns as text.
func inSQLite(t testing.TB, folder, file string) *sql.DB {
	t.Helper()
	rows, err := csv.NewReader(strings.NewReader(textOf(t, folder, file))).ReadAll()
	require.NoError(t, err)
	db, err := sql.Open("sqlite", ":memory:")
	require.NoError(t, err)
	db.SetMaxOpenConns(1)
	t.Cleanup(func() { db.Close() })
	_, err = db.Exec("CREATE TABLE days (" + strings.Join(rows[0], " TEXT, ") + " TEXT)")
	require.NoError(t, err)
	transaction, err := db.Begin()
	require.NoError(t, err)
	insert, err := transaction.Prepare("INSERT INTO days VALUES (?" + strings.Repeat(", ?", len(rows[0])-1) + ")")
	require.NoError(t, err)
	for _, row := range rows[1:] {
		values := make([]any, len(row))
		for i, value := range row {
			values[i] = value
		}
		_, err = insert.Exec(values...)
		require.NoError(t, err)
	}
	require.NoError(t, transaction.Commit())
	return db
}

// What is said of workdays follows from is_workday, is_holiday and is_observed by
// the window functions of SQL.
func TestWorkdaysBySQL(t *testing.T) {
	folder := folderWith(t, map[string]string{"roundyear.yaml": `roundyear: 1
range: {from: 2016-01-01, to: 2026-12-31}
calendars:
  fiscal: {months: {starts: february}, named_by: start}
  retail: {weeks: {ends_on: saturday, nearest_to: 31 january, split: 4-5-4}, named_by: start}
days_off:
  - {region: PL}
  - {region: CN, prefix: cn}
  - {region: JP, prefix: jp}
  - {name: Summer closure, when: {month: july, day: 13, lasts: 9}}
`})
	done(t, folder, "build", "--columns", "date,month_start,quarter_start,year_start,fiscal_month_start,fiscal_quarter_start,fiscal_year_start,"+
		"retail_month_start,retail_quarter_start,retail_year_start,workdays,cn,jp", "-o", "days.csv")
	db := inSQLite(t, folder, "days.csv")
	for _, prefix := range []string{"", "cn_", "jp_"} {
		is := func(name string) string { return "is_" + prefix + name }
		wanted := map[string]string{
			prefix + "next_workday":         "min(CASE WHEN " + is("workday") + " = 'true' THEN date END) OVER (ORDER BY date ROWS BETWEEN 1 FOLLOWING AND UNBOUNDED FOLLOWING)",
			prefix + "previous_workday":     "max(CASE WHEN " + is("workday") + " = 'true' THEN date END) OVER (ORDER BY date ROWS BETWEEN UNBOUNDED PRECEDING AND 1 PRECEDING)",
			prefix + "days_to_next_holiday": "CAST(julianday(min(CASE WHEN " + is("holiday") + " = 'true' OR " + is("observed") + " = 'true' THEN date END) OVER (ORDER BY date ROWS BETWEEN CURRENT ROW AND UNBOUNDED FOLLOWING)) - julianday(date) AS INTEGER)",
			prefix + "running_workday":      "sum(" + is("workday") + " = 'true') OVER (ORDER BY date) + (SELECT " + prefix + "running_workday - (" + is("workday") + " = 'true') FROM days ORDER BY date LIMIT 1)",
			// A run without work is three days or more, not all of them weekend.
			is("long_weekend"):           "CASE WHEN run >= 3 AND offs > 0 AND " + is("workday") + " = 'false' THEN 'true' ELSE 'false' END",
			prefix + "long_weekend_days": "CASE WHEN run >= 3 AND offs > 0 AND " + is("workday") + " = 'false' THEN run ELSE 0 END",
			is("eve_of_day_off"):         "CASE WHEN " + is("workday") + " = 'true' AND lead(" + is("workday") + ") OVER (ORDER BY date) = 'false' AND lead(" + is("weekend") + ") OVER (ORDER BY date) = 'false' THEN 'true' ELSE 'false' END",
			is("day_after_day_off"):      "CASE WHEN " + is("workday") + " = 'true' AND lag(" + is("workday") + ") OVER (ORDER BY date) = 'false' AND lag(" + is("weekend") + ") OVER (ORDER BY date) = 'false' THEN 'true' ELSE 'false' END",
		}
		for _, calendar := range []string{"", "fiscal_", "retail_"} {
			for _, unit := range []string{"month", "quarter", "year"} {
				period := calendar + unit + "_start"
				counted := "sum(" + is("workday") + " = 'true') OVER (PARTITION BY " + period + " ORDER BY date ROWS BETWEEN "
				wanted[prefix+calendar+"workday_of_"+unit] = counted + "UNBOUNDED PRECEDING AND CURRENT ROW)"
				wanted[prefix+calendar+"workdays_in_"+unit] = counted + "UNBOUNDED PRECEDING AND UNBOUNDED FOLLOWING)"
				wanted[prefix+calendar+"workdays_left_in_"+unit] = "coalesce(" + counted + "1 FOLLOWING AND UNBOUNDED FOLLOWING), 0)"
			}
		}
		var names, columns, results []string
		for name, expression := range wanted {
			i := len(names)
			names = append(names, name)
			columns = append(columns, fmt.Sprintf("%s AS said%d, CAST(%s AS TEXT) AS wanted%d", name, i, expression, i))
			results = append(results, fmt.Sprintf("min(CASE WHEN said%[1]d IS NOT wanted%[1]d THEN date || ': ' || said%[1]d || ' and not ' || coalesce(wanted%[1]d, 'null') END)", i))
		}
		// Runs of days without work end where the running number goes on.
		query := fmt.Sprintf(`WITH runs AS (SELECT *,
			sum(%[1]s = 'false') OVER (PARTITION BY %[2]srunning_workday) AS run,
			sum(%[1]s = 'false' AND %[3]s = 'false') OVER (PARTITION BY %[2]srunning_workday) AS offs FROM days),
			both AS (SELECT date, %[4]s FROM runs)
			SELECT count(*), %[5]s FROM both WHERE date BETWEEN '2018-03-01' AND '2024-12-31'`,
			is("workday"), prefix, is("weekend"), strings.Join(columns, ", "), strings.Join(results, ", "))
		var days int
		wrong := make([]sql.NullString, len(names))
		into := []any{&days}
		for i := range wrong {
			into = append(into, &wrong[i])
		}
		require.NoError(t, db.QueryRow(query).Scan(into...), query)
		for i, name := range names {
			assert.Empty(t, wrong[i].String, name)
		}
		assert.Equal(t, 2498, days)
		assert.Len(t, names, 35)
	}
}

// A calendar and a list of days off that were written are read again as the same
// workdays.
func TestListsOfAllRegionsComeBack(t *testing.T) {
	folder := t.TempDir()
	regions := strings.Split(strings.TrimSpace(done(t, folder, "days-off", "--regions").out), "\n")[1:]
	plan := "roundyear: 1\nweekend: [saturday, sunday]\nrange: {from: 2024-01-01, to: 2025-12-31}\ndays_off:\n"
	var columns []string
	for _, region := range regions {
		code, _, _ := strings.Cut(region, ",")
		if code == "UA" {
			continue // no days off are known of these years
		}
		name := strings.ToLower(code)
		done(t, folder, "days-off", code, "--from", "2023-06-01", "--to", "2026-06-30", "--weekend", "saturday,sunday", "-o", name+".ics", "-o", name+".csv")
		plan += fmt.Sprintf("  - {region: %s, prefix: by_rule_%s}\n  - {file: %s.ics, prefix: by_calendar_%s}\n  - {file: %s.csv, prefix: by_list_%s}\n", code, name, name, name, name, name)
		columns = append(columns, "is_by_rule_"+name+"_workday", "is_by_calendar_"+name+"_workday", "is_by_list_"+name+"_workday")
	}
	require.NoError(t, os.WriteFile(filepath.Join(folder, "roundyear.yaml"), []byte(plan), 0o666))
	done(t, folder, "build", "--columns", strings.Join(columns, ","), "-o", "both.csv")
	rows, err := csv.NewReader(strings.NewReader(textOf(t, folder, "both.csv"))).ReadAll()
	require.NoError(t, err)
	off := 0
	for _, row := range rows[1:] {
		for i := 0; i < len(columns); i += 3 {
			if row[i] == "false" {
				off++
			}
			if row[i] != row[i+1] || row[i] != row[i+2] {
				t.Fatalf("%s: %v", columns[i], row[i:i+3])
			}
		}
	}
	assert.Greater(t, off, len(regions)*2*107, "holidays and not only weekends")
}
