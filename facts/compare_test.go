package facts_test

import (
	"database/sql"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/calendar"
	"roundyear/cell"
	"roundyear/civil"
	"roundyear/civil/civiltest"
	"roundyear/facts"
)

// retail is a grain of years of whole weeks, of which some have 53.
func retail(t testing.TB, unit calendar.Unit) calendar.Grain {
	t.Helper()
	years, err := calendar.NewFiscalWeeks(calendar.FiscalWeeks{Name: "retail", EndsOn: 6, NearestMonth: 1, NearestDay: 31, Split: []int{4, 5, 4, 4, 5, 4, 4, 5, 4, 4, 5, 4}})
	require.NoError(t, err)
	return calendar.Grain{Calendar: years, Unit: unit}
}

// text is a value as the witness has it.
func textOfCell(t testing.TB, value cell.Value) string {
	t.Helper()
	if value.IsBlank() {
		return "-"
	}
	var number float64
	_, err := fmt.Sscan(value.String(), &number)
	require.NoError(t, err)
	return fmt.Sprintf("%.2f", number+1e-9)
}

// witnessedRow is what SQL says of a period and group.
type witnessedRow struct {
	shop   string
	values []sql.NullFloat64
}

func witnessed(t testing.TB, db *sql.DB, query string) (all []witnessedRow) {
	t.Helper()
	rows, err := db.Query(query)
	require.NoError(t, err, query)
	defer rows.Close()
	for rows.Next() {
		var number int
		one := witnessedRow{values: make([]sql.NullFloat64, 16)}
		into := []any{&number, &one.shop}
		for i := range one.values {
			into = append(into, &one.values[i])
		}
		require.NoError(t, rows.Scan(into...))
		all = append(all, one)
	}
	require.NoError(t, rows.Err())
	return all
}

// Comparisons, running and rolling sums and shares are those of window functions and joins over the plain result.
func TestComparisonsAgainstSQL(t *testing.T) {
	db, err := sql.Open("sqlite", ":memory:")
	require.NoError(t, err)
	defer db.Close()
	db.SetMaxOpenConns(1)
	random := rand.New(rand.NewPCG(14, 1))
	compared, comparable := 0, 0
	for range 30 {
		grains := []calendar.Grain{grain(t, "month"), grain(t, "quarter"), grain(t, "iso.week"), grain(t, "year"), grain(t, "day"), fiscalGrain(t, random, calendar.Month), retail(t, calendar.Week), retail(t, calendar.Month)}
		first := civiltest.Day("2022-06-01") + civil.Day(random.IntN(400))
		o := facts.Operation{Grain: grains[random.IntN(len(grains))], Groups: []string{"shop"}, AsOf: first + civil.Day(700+random.IntN(400)),
			Measures: []facts.Measure{{Kind: facts.Sum, Name: "sum", Gap: facts.Zero}, {Kind: facts.Count, Name: "count", Gap: facts.Zero}}, Span: facts.Span(random.IntN(3))}
		tally := func(o facts.Operation) *facts.Result {
			random := rand.New(rand.NewPCG(uint64(first), 5))
			own := facts.NewTally(o)
			for n := range 300 {
				day := first + civil.Day(random.IntN(900))
				amount := fmt.Sprintf("%d.%02d", random.IntN(300)-80, random.IntN(100))
				require.NoError(t, own.Add(day, facts.Place{Day: day, Row: int64(n)}, [][]byte{{byte('a' + random.IntN(2))}}, [][]byte{[]byte(amount), nil}))
			}
			return result(t, own)
		}
		plain := tally(o)
		_, err := db.Exec(`DROP TABLE IF EXISTS plain; CREATE TABLE plain(n INT, first INT, year INT, in_year INT, longer INT, ago INT, shop TEXT, sum REAL, count INT, whole BOOL); CREATE INDEX plain_n ON plain(shop, n); CREATE INDEX plain_year ON plain(shop, year, in_year); CREATE INDEX plain_years ON plain(year, in_year)`)
		require.NoError(t, err)
		data := plain.Summary()
		rows := 0
		for row := range plain.Rows() {
			period := o.Grain.Locate(civiltest.Day(row[1].String()))
			ago := -1
			if day, ok := calendar.YearAgo(o.Grain.Calendar, period.First); ok && o.Grain.Unit == calendar.Day {
				ago = o.Grain.Locate(day).Number
			}
			whole := period.Last < o.AsOf && (period.First >= data.First || period.Days() >= 28 && data.First-period.First < 3)
			known := func(value cell.Value) any { // nothing is known of what is to come
				if value.IsBlank() {
					return nil
				}
				return value.String()
			}
			_, err := db.Exec("INSERT INTO plain VALUES(?, ?, ?, ?, ?, ?, ?, ?, ?, ?)", period.Number, int(period.First), period.Year, period.InYear, o.Grain.Calendar.Locate(calendar.Year, period.First).Number, ago, row[3].String(), known(row[4]), known(row[5]), whole)
			require.NoError(t, err)
			rows++
		}
		o.Against = []facts.Comparison{facts.Previous, facts.YearAgo, facts.TwoYearsAgo}
		o.Rolling, o.Shares = 2+random.IntN(4), []facts.Share{facts.OfPeriod, facts.OfGroup}
		isYear := o.Grain.Unit == calendar.Year
		running := "SUM(p.sum) OVER (PARTITION BY p.shop, p.longer ORDER BY p.n)"
		if isYear {
			running = "p.sum"
		} else {
			year := calendar.Year
			o.Running = &year
		}
		yearAgo := "SELECT %s FROM plain b WHERE b.shop = p.shop AND b.year = p.year - 1 AND b.in_year = p.in_year"
		twoAgo := "SELECT %s FROM plain b WHERE b.shop = p.shop AND b.year = p.year - 2 AND b.in_year = p.in_year AND EXISTS (SELECT 1 FROM plain c WHERE c.year = p.year - 1 AND c.in_year = p.in_year)"
		if o.Grain.Unit == calendar.Day {
			yearAgo = "SELECT %s FROM plain b WHERE b.shop = p.shop AND b.n = p.ago"
			twoAgo = "SELECT %s FROM plain b JOIN plain c ON c.n = p.ago AND c.shop = p.shop WHERE b.shop = p.shop AND b.n = c.ago"
		}
		against := func(base string) string {
			base += " AND b.n >= (SELECT MIN(g.n) FROM plain g WHERE g.shop = b.shop AND g.count > 0)"
			value, whole := "("+fmt.Sprintf(base, "b.sum")+")", "COALESCE(("+fmt.Sprintf(base, "b.whole")+"), 0) AND p.whole"
			return fmt.Sprintf("%s, CASE WHEN %s THEN p.sum - %s END, CASE WHEN %s THEN (p.sum - %[1]s) * 100.0 / NULLIF(ABS(%[1]s), 0) END, %[2]s", value, whole, value, whole)
		}
		query := fmt.Sprintf(`SELECT p.n, p.shop, %s, CASE WHEN COUNT(*) OVER w = %d THEN SUM(p.sum) OVER w END,
			p.sum * 100.0 / NULLIF(SUM(p.sum) OVER (PARTITION BY p.n), 0), p.sum * 100.0 / NULLIF(SUM(p.sum) OVER (PARTITION BY p.shop), 0), %s, %s, %s
			FROM plain p WINDOW w AS (PARTITION BY p.shop ORDER BY p.n ROWS %d PRECEDING) ORDER BY p.n, p.shop`, running, o.Rolling,
			against("SELECT %s FROM plain b WHERE b.shop = p.shop AND b.n = p.n - 1"), against(yearAgo), against(twoAgo), o.Rolling-1)
		found := witnessed(t, db, query)
		derived := tally(o)
		columns := map[string]int{}
		for i, column := range derived.Columns() {
			columns[column.Name] = i
		}
		var names []string
		if !isYear {
			names = append(names, "sum_running")
		}
		names = append(names, fmt.Sprintf("sum_rolling_%d", o.Rolling), "sum_percent_of_period", "sum_percent_of_group")
		for _, name := range []string{"previous", "year_ago", "two_years_ago"} {
			names = append(names, "sum_"+name, "sum_"+name+"_change", "sum_"+name+"_percent", "is_"+name+"_comparable")
		}
		// Rows from the middle on come out as they do from the start.
		split := random.IntN(derived.Len() + 1)
		all := func(yield func([]cell.Value) bool) {
			for row := range derived.RowsBetween(0, split) {
				yield(row)
			}
			for row := range derived.RowsBetween(split, derived.Len()) {
				yield(row)
			}
		}
		for row := range all {
			require.NotEmpty(t, found)
			values, shop := found[0].values, found[0].shop
			found = found[1:]
			if isYear {
				values = values[1:]
			}
			isToCome := row[1].Int() > int64(o.AsOf) && row[columns["sum"]].IsBlank()
			var want, got []string
			for i, name := range names {
				if strings.HasPrefix(name, "sum_rolling") {
					first := o.Grain.At(o.Grain.Locate(civil.Day(row[1].Int())).Number - o.Rolling + 1)
					begin := derived.Summary().First
					if o.From != nil {
						begin = min(begin, *o.From)
					}
					if isEarly := o.From == nil && first.Last-first.First >= 27 && first.Contains(begin) && begin-first.First < 3; first.First < begin && !isEarly {
						require.True(t, row[columns[name]].IsBlank(), "a window that begins before the facts")
						values[i].Valid = false
					}
				}
				if isToCome && (strings.HasPrefix(name, "sum_running") || strings.HasPrefix(name, "sum_rolling") || strings.HasPrefix(name, "sum_percent_of")) {
					require.True(t, row[columns[name]].IsBlank(), "%s of what is to come", name)
					values[i].Valid = false
				}
				text := "-"
				if strings.HasPrefix(name, "is_") {
					text = fmt.Sprint(values[i].Float64 == 1)
				} else if values[i].Valid {
					text = fmt.Sprintf("%.2f", values[i].Float64+1e-9)
				}
				want = append(want, text)
				value := row[columns[name]]
				if text = value.String(); !strings.HasPrefix(name, "is_") {
					text = textOfCell(t, value)
				}
				got = append(got, text)
			}
			require.True(t, nearBy(strings.Join(want, " "), strings.Join(got, " "), 0.06), "%s %s of %s: %v\n%v by SQL\n%v here", row[0], shop, o.Grain, names, want, got)
			compared++
			if got[len(got)-5] == "true" {
				comparable++
			}
		}
		require.Empty(t, found)
		require.Equal(t, rows, derived.Len())
	}
	assert.Greater(t, compared, 2000)
	assert.Greater(t, comparable, 500)
}

// To date counts what is left if each fact behind the position of the as-of day is taken out beforehand: the same day of the month, or the
// last one if that is shorter, and the same number of the day in calendars of weeks.
func TestToDate(t *testing.T) {
	for _, c := range []struct {
		grain                   calendar.Grain
		asOf, counts, leavesOut string
	}{
		{grain(t, "month"), "2026-03-31", "2026-02-28", ""}, {grain(t, "month"), "2026-02-28", "2026-01-28", "2026-01-29"}, {grain(t, "month"), "2024-02-29", "2023-02-28", ""},
		{grain(t, "quarter"), "2026-05-15", "2026-02-15", "2026-02-16"}, {grain(t, "year"), "2026-03-01", "2024-03-01", "2024-03-02"}, {grain(t, "iso.week"), "2026-03-11", "2026-03-04", "2026-03-05"},
		{grain(t, "month"), "2026-03-01", "2026-02-01", "2026-02-02"}, {retail(t, calendar.Month), "2026-02-10", "2026-01-13", "2026-01-14"},
	} {
		o := facts.Operation{Grain: c.grain, AsOf: civiltest.Day(c.asOf), ToDate: true, Measures: []facts.Measure{{Kind: facts.Count, Name: "n", Gap: facts.Zero}}}
		own := facts.NewTally(o)
		days := []string{c.counts, c.leavesOut, c.asOf}
		left := 0
		for i, text := range days {
			if text == "" {
				continue
			}
			day := civiltest.Day(text)
			if i == 1 {
				left++
			}
			row, err := own.AddRows(&facts.Rows{Days: []civil.Day{day}, Values: [][][]byte{nil}})
			require.NoError(t, err, row)
			require.NoError(t, own.Add(day, facts.Place{Day: day, Row: int64(i)}, nil, [][]byte{nil}))
		}
		summary := own.Summary()
		assert.Equal(t, [2]int{4, 2 * left}, [2]int{summary.Rows, summary.NotToDate}, "%s as of %s", c.grain, c.asOf)
		for row := range result(t, own).Rows() {
			period := c.grain.Locate(civiltest.Day(row[1].String()))
			if period.Contains(civiltest.Day(c.counts)) && !period.Contains(o.AsOf) {
				assert.Equal(t, c.counts, row[4].String(), "%s as of %s", c.grain, c.asOf)
			}
		}
	}
}

// Only some periods are shown, and what they are compared with is what it was.
func TestShownPeriods(t *testing.T) {
	day := civiltest.Day
	o := facts.Operation{Grain: grain(t, "month"), Groups: []string{"shop"}, AsOf: day("2026-03-10"), Against: []facts.Comparison{facts.Previous},
		Measures: []facts.Measure{{Kind: facts.Sum, Name: "sum", Gap: facts.Zero}}}
	run := func(o facts.Operation) (lines []string, r *facts.Result) {
		own := facts.NewTally(o)
		for i, text := range []string{"2025-11-05 a 10", "2025-12-05 a 20", "2026-01-05 a 40", "2026-03-05 a 5", "2025-11-05 b 1"} {
			fields := strings.Fields(text)
			require.NoError(t, own.Add(day(fields[0]), facts.Place{Day: day(fields[0]), Row: int64(i)}, [][]byte{[]byte(fields[1])}, [][]byte{[]byte(fields[2])}))
		}
		r = result(t, own)
		for row := range r.Rows() {
			var texts []string
			for _, value := range row[3:] {
				texts = append(texts, value.String())
			}
			lines = append(lines, row[0].String()+" "+strings.Join(texts, " "))
		}
		require.Len(t, lines, r.Len())
		return lines, r
	}
	o.Recent = 2
	lines, r := run(o)
	assert.Equal(t, []string{"2026-02 a 0 40 -40 -100.0 true true false", "2026-02 b 0 0 0  true true false", "2026-03 a 5 0   false false true", "2026-03 b 0 0   false true true"}, lines)
	assert.Equal(t, [2]int{2, 3}, [2]int{r.Shown(), r.Filled()})
	o.CompleteOnly = true
	lines, r = run(o)
	assert.Equal(t, []string{"2026-01 a 40 20 20 100.0 true false false", "2026-01 b 0 0 0  true true false", "2026-02 a 0 40 -40 -100.0 true true false", "2026-02 b 0 0 0  true true false"}, lines)
	assert.Equal(t, "40", r.GrandTotals()[0].String())
	o.Recent, o.Span = 1, facts.SpanOwn
	lines, _ = run(o)
	assert.Equal(t, []string{"2026-02 a 0 40 -40 -100.0 true true false"}, lines, "b has no periods of its own after November")
}
