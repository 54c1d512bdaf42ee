package facts_test

import (
	"database/sql"
	"fmt"
	"math/rand/v2"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/calendar"
	"roundyear/civil"
	"roundyear/civil/civiltest"
	"roundyear/daysoff"
	"roundyear/facts"
	"roundyear/facts/decimal"
)

// dayWorld is random facts, in SQL and for tallies.
type dayWorld struct {
	db    *sql.DB
	first civil.Day
	rows  []dayFact
}

type dayFact struct {
	day              civil.Day
	shop, dept, item string
	amount           int
}

func newDayWorld(t *testing.T, random *rand.Rand) *dayWorld {
	db, err := sql.Open("sqlite", ":memory:")
	require.NoError(t, err)
	t.Cleanup(func() { db.Close() })
	db.SetMaxOpenConns(1)
	w := &dayWorld{db: db, first: civiltest.Day("2021-06-01") + civil.Day(random.IntN(500))}
	_, err = db.Exec("CREATE TABLE facts(day INT, shop TEXT, dept TEXT, item TEXT, amount INT); CREATE INDEX by_day ON facts(shop, day)")
	require.NoError(t, err)
	for range 500 {
		f := dayFact{w.first + civil.Day(random.IntN(1000)), string(rune('a' + random.IntN(4))), string(rune('x' + random.IntN(2))), strconv.Itoa(random.IntN(9)), random.IntN(900) - 100}
		w.rows = append(w.rows, f)
		_, err := db.Exec("INSERT INTO facts VALUES(?, ?, ?, ?, ?)", int(f.day), f.shop, f.dept, f.item, f.amount)
		require.NoError(t, err)
	}
	return w
}

// tally adds the facts up. Groups are shop and dept, measures of the item where they are distinct.
func (w *dayWorld) tally(t *testing.T, o facts.Operation) *facts.Tally {
	// In two parts, as workers have them.
	parts := []*facts.Tally{facts.NewTally(o), facts.NewTally(o)}
	for i, f := range w.rows {
		var groups, values [][]byte
		for _, name := range o.SourceGroups() {
			groups = append(groups, []byte(map[string]string{"shop": f.shop, "dept": f.dept}[name]))
		}
		for _, measure := range o.Measures {
			value := strconv.Itoa(f.amount)
			if measure.Kind == facts.Distinct {
				value = f.item
			}
			values = append(values, []byte(value))
		}
		require.NoError(t, parts[i%2].Add(f.day, facts.Place{Day: f.day, Row: int64(i)}, groups, values))
	}
	parts[0].Join(parts[1])
	return parts[0]
}

// days makes a table of the days of periods, up to the day that counts in each.
func (w *dayWorld) days(t *testing.T, r *facts.Result, o facts.Operation) {
	_, err := w.db.Exec("DROP TABLE IF EXISTS days; CREATE TABLE days(day INT PRIMARY KEY, n INT, base INT, year INT, last INT, near INT); CREATE INDEX days_n ON days(n, base); CREATE INDEX days_base ON days(base)")
	require.NoError(t, err)
	summary := r.Summary()
	low, high := o.Grain.Locate(summary.First).Number, o.Grain.Locate(summary.Last).Number
	for row := range r.Rows() { // to date, periods may have nothing but rows behind the position
		number := o.Grain.Locate(civil.Day(row[1].Int())).Number
		low, high = min(low, number), max(high, number)
	}
	_, err = w.db.Exec("BEGIN")
	require.NoError(t, err)
	defer func() {
		_, err := w.db.Exec("COMMIT")
		require.NoError(t, err)
	}()
	for number := low; number <= high; number++ {
		period := o.Grain.At(number)
		for day := period.First; day <= o.ThroughOf(period); day++ {
			_, err := w.db.Exec("INSERT INTO days VALUES(?, ?, NULL, ?, ?, NULL)", int(day), number, o.Grain.Calendar.Locate(calendar.Year, day).Number, int(period.Last))
			require.NoError(t, err)
		}
	}
}

func (w *dayWorld) ask(t *testing.T, query string, args ...any) map[string][]string {
	rows, err := w.db.Query(query, args...)
	require.NoError(t, err, query)
	defer rows.Close()
	columns, err := rows.Columns()
	require.NoError(t, err)
	all := map[string][]string{}
	for rows.Next() {
		values, into := make([]sql.NullString, len(columns)), make([]any, len(columns))
		for i := range values {
			into[i] = &values[i]
		}
		require.NoError(t, rows.Scan(into...))
		var texts []string
		for _, value := range values[1:] {
			texts = append(texts, value.String)
		}
		all[values[0].String] = texts
	}
	require.NoError(t, rows.Err())
	return all
}

// byKey returns some columns of a result by the number of the period and the groups.
func byKey(t *testing.T, r *facts.Result, o facts.Operation, names ...string) map[string][]string {
	places := map[string]int{}
	for i, column := range r.Columns() {
		places[column.Name] = i
	}
	all := map[string][]string{}
	for row := range r.Rows() {
		key := strconv.Itoa(o.Grain.Locate(civiltest.Day(row[1].String())).Number)
		for i := range o.Groups {
			key += "|" + row[3+i].String()
		}
		var texts []string
		for _, name := range names {
			require.Contains(t, places, name)
			texts = append(texts, row[places[name]].String())
		}
		require.NotContains(t, all, key)
		all[key] = texts
	}
	return all
}

// What is compared by days is what a join of each day with the day that it is held against makes.
func TestShiftedComparisonsAgainstSQL(t *testing.T) {
	random := rand.New(rand.NewPCG(14, 2))
	var easter facts.Event
	for year := 2015; year < 2030; year++ {
		easter.Days = append(easter.Days, daysoff.Easter(year))
	}
	seen, comparable := 0, 0
	for round := range 16 {
		w := newDayWorld(t, random)
		grains := []calendar.Grain{grain(t, "month"), grain(t, "iso.week"), grain(t, "quarter"), grain(t, "day"), fiscalGrain(t, random, calendar.Month), retail(t, calendar.Week), retail(t, calendar.Month), retail(t, calendar.Quarter)}
		o := facts.Operation{Grain: grains[round%len(grains)], Groups: []string{"shop"}, AsOf: w.first + civil.Day(600+random.IntN(450)), ToDate: o1(random) && round%len(grains) != 3,
			Measures: []facts.Measure{{Kind: facts.Sum, Name: "sum", Gap: facts.Zero}, {Kind: facts.Distinct, Name: "items", Gap: facts.Zero}}}
		o.Against = []facts.Comparison{facts.SameWeekday, facts.Restated}
		easterOnly := o
		easterOnly.Against, easterOnly.Align = []facts.Comparison{facts.YearAgo}, &easter
		for _, o := range []facts.Operation{o, easterOnly} {
			own := w.tally(t, o)
			r := result(t, own)
			w.days(t, r, o)
			for _, comparison := range o.Against {
				update := "UPDATE days SET base = day - 364"
				switch comparison {
				case facts.Restated:
					update = "UPDATE days SET base = day - 364 WHERE (SELECT year FROM days b WHERE b.day = days.day - 364) = year - 1"
					// Days before the first period have a year, too.
					_, err := w.db.Exec("BEGIN")
					require.NoError(t, err)
					for day := w.first - 800; day < w.first+1100; day++ {
						_, err := w.db.Exec("INSERT OR IGNORE INTO days VALUES(?, -1, NULL, ?, 0, NULL)", int(day), o.Grain.Calendar.Locate(calendar.Year, day).Number)
						require.NoError(t, err)
					}
					_, err = w.db.Exec("COMMIT")
					require.NoError(t, err)
				case facts.YearAgo:
					_, err := w.db.Exec("DROP TABLE IF EXISTS easter; CREATE TABLE easter(y INT, day INT)")
					require.NoError(t, err)
					for i, day := range easter.Days {
						_, err := w.db.Exec("INSERT INTO easter VALUES(?, ?)", i, int(day))
						require.NoError(t, err)
					}
					near := "(SELECT y FROM easter ORDER BY ABS(easter.day - %s), easter.day DESC LIMIT 1)"
					update = "UPDATE days SET near = " + fmt.Sprintf(near, "days.day") + "; UPDATE days SET base = day - (SELECT day FROM easter WHERE y = near) + (SELECT day FROM easter WHERE y = near - 1)" +
						"; UPDATE days SET base = NULL WHERE near - 1 <> " + fmt.Sprintf(near, "days.base")
				}
				_, err := w.db.Exec("UPDATE days SET base = NULL; " + update)
				require.NoError(t, err, update)
				summary := own.Summary()
				begin := func(first, last string) string {
					return fmt.Sprintf("(%[1]s >= %[3]d OR %[2]s >= %[3]d AND %[2]s - %[1]s >= 27 AND %[3]d - %[1]s < 3)", first, last, int(summary.First))
				}
				running := "MAX(d.last) < " + strconv.Itoa(int(o.AsOf))
				if o.ToDate {
					running = "MIN(d.day) <= " + strconv.Itoa(int(o.AsOf))
				}
				// The whole period counts, of which the days behind its position are not in the table.
				want := w.ask(t, fmt.Sprintf(`WITH v AS MATERIALIZED (SELECT b.n, f.shop, SUM(amount) AS sum, COUNT(DISTINCT item) AS items FROM facts f JOIN days b ON f.day = b.base WHERE b.n >= 0 GROUP BY 1, 2),
					c AS MATERIALIZED (SELECT d.n, COUNT(d.base) = COUNT(*) AND MAX(d.base) < %d AND %s AND %s AND %s AS whole, MAX(d.base) AS most FROM days d WHERE d.n >= 0 GROUP BY d.n)
					SELECT c.n || '|' || s.shop, COALESCE(sum, 0), COALESCE(items, 0), whole, COALESCE(most, 0) FROM c, (SELECT DISTINCT shop FROM facts) s LEFT JOIN v ON v.n = c.n AND v.shop = s.shop`,
					int(o.AsOf), running, begin("MIN(d.base)", "MAX(d.base)"), begin("MIN(d.day)", "MAX(d.last)")))
				begins := w.ask(t, "SELECT shop, MIN(day) FROM facts GROUP BY 1")
				for key, values := range want { // before its first facts there is nothing of a group
					if begin := begins[key[strings.Index(key, "|")+1:]][0]; number(t, values[3]) < number(t, begin) {
						values[2] = "0"
					}
				}
				name := strings.ReplaceAll(comparison.String(), "-", "_")
				got := byKey(t, r, o, "sum_"+name, "items_"+name, "is_"+name+"_comparable", "sum", "sum_"+name+"_change")
				require.Len(t, got, len(want))
				for key, values := range got {
					about := fmt.Sprintf("%s of %s %s, as of %s, to date %t, from %s", key, o.Grain, comparison, o.AsOf, o.ToDate, summary.First)
					require.Equal(t, want[key][2] == "1", values[2] == "true", "%s: %v %v", about, want[key], values)
					seen++
					if values[0] == "" {
						require.Equal(t, "0", want[key][0], about)
						continue
					}
					require.Equal(t, want[key][:2], values[:2], about)
					if values[2] == "true" {
						comparable++
						require.Equal(t, number(t, values[3])-number(t, values[0]), number(t, values[4]), about)
					}
				}
			}
		}
	}
	assert.Greater(t, seen, 4000)
	assert.Greater(t, comparable, 1000)
}

func o1(random *rand.Rand) bool { return random.IntN(2) == 0 }

func number(t *testing.T, text string) int {
	found, err := strconv.Atoi(text)
	require.NoError(t, err)
	return found
}

// Subtotals, the greatest groups with the rest, ranks, rolling days and facts of the future are those of GROUP BY and windows.
func TestGroupsByDayAgainstSQL(t *testing.T) {
	random := rand.New(rand.NewPCG(14, 3))
	for round := range 12 {
		w := newDayWorld(t, random)
		grains := []calendar.Grain{grain(t, "month"), grain(t, "iso.week"), grain(t, "quarter"), retail(t, calendar.Month)}
		o := facts.Operation{Grain: grains[round%len(grains)], Groups: []string{"shop", "dept"}, AsOf: w.first + civil.Day(700+random.IntN(500)), Subtotals: true, Ranked: true, RollingDays: 1 + random.IntN(90),
			Measures: []facts.Measure{{Kind: facts.Sum, Name: "sum", Gap: facts.Zero}, {Kind: facts.Mean, Name: "mean"}, {Kind: facts.Distinct, Name: "items", Gap: facts.Zero}, {Kind: facts.Percentile, Percent: decimal.OfInt(50), Name: "median"}}}
		o.Future = facts.Future(round % 3)
		if o.Future == facts.FutureApart {
			o.Measures = o.Measures[:3]
		}
		r := result(t, w.tally(t, o))
		w.days(t, r, o)
		until := int(o.AsOf)
		if o.Future == facts.KeepFuture {
			until = int(civil.MaxDay)
		}
		names := []string{"sum", "mean", "items", "is_total"}
		got := byKey(t, r, o, names...)
		query := func(shop, dept, total string) string {
			return fmt.Sprintf("SELECT d.n || '|' || %s || '|' || %s, SUM(amount), printf('%%.2f', AVG(amount)), COUNT(DISTINCT item), %s FROM facts f JOIN days d ON d.day = f.day WHERE f.day <= %d GROUP BY 1", shop, dept, total, until)
		}
		counted := 0
		for _, q := range []string{query("shop", "dept", "'false'"), query("shop", "'(all)'", "'true'"), query("'(all)'", "'(all)'", "'true'")} {
			for key, values := range w.ask(t, q) {
				counted++
				require.Contains(t, got, key)
				require.True(t, nearBy(strings.Join(values, " "), strings.Join(got[key], " "), 0.011), "%s: %v by SQL, %v here", key, values, got[key])
			}
		}
		assert.Greater(t, counted, 40)
		for key, values := range got {
			if values[2] == "0" {
				assert.Equal(t, []string{"0", ""}, values[:2], key)
			}
		}
		// The grand total is that of all facts of the periods that are shown.
		for _, recent := range []int{0, 3} {
			shown := o
			shown.Recent = recent
			var texts []string
			for _, value := range result(t, w.tally(t, shown)).GrandTotals()[:3] {
				texts = append(texts, value.String())
			}
			total := w.ask(t, fmt.Sprintf("SELECT 'all', SUM(amount), printf('%%.2f', AVG(amount)), COUNT(DISTINCT item) FROM facts f JOIN days d ON d.day = f.day WHERE f.day <= %d AND n > (SELECT MAX(n) FROM days) - %d",
				until, map[int]int{0: 1 << 30, 3: 3}[recent]))
			require.True(t, nearBy(strings.Join(total["all"], " "), strings.Join(texts, " "), 0.011), "%v by SQL, %v here", total["all"], texts)
		}
		// Ranks are of rows that have their own groups.
		ranks := w.ask(t, fmt.Sprintf(`WITH g AS (SELECT DISTINCT shop, dept FROM facts), p AS (SELECT DISTINCT n FROM days),
			s AS (SELECT n, shop, dept, COALESCE((SELECT SUM(amount) FROM facts f JOIN days d ON d.day = f.day WHERE d.n = p.n AND f.shop = g.shop AND f.dept = g.dept AND f.day <= %d), 0) AS sum FROM g, p)
			SELECT n || '|' || shop || '|' || dept, RANK() OVER (PARTITION BY n ORDER BY sum DESC) FROM s`, until))
		for key, values := range byKey(t, r, o, "sum_rank", "is_total") {
			if values[1] == "true" {
				assert.Empty(t, values[0])
				continue
			}
			require.Equal(t, ranks[key][0], values[0], key)
		}
		// Rolling days end with the period, or the as-of day in it.
		rolling := byKey(t, r, o, fmt.Sprintf("sum_rolling_%d_days", o.RollingDays))
		windows := w.ask(t, fmt.Sprintf(`WITH g AS (SELECT DISTINCT shop, dept FROM facts UNION SELECT DISTINCT shop, '(all)' FROM facts UNION SELECT '(all)', '(all)'),
			p AS (SELECT n, CASE WHEN MIN(day) <= %[1]d AND MAX(day) > %[1]d THEN %[1]d ELSE MAX(day) END AS last FROM days GROUP BY n)
			SELECT n || '|' || shop || '|' || dept, CASE WHEN last - %[2]d + 1 >= (SELECT MIN(day) FROM facts) THEN COALESCE((SELECT SUM(amount) FROM facts f WHERE f.day BETWEEN last - %[2]d + 1 AND last
			AND f.day <= %[3]d AND (g.shop = '(all)' OR f.shop = g.shop) AND (g.dept = '(all)' OR f.dept = g.dept)), 0) END FROM g, p`, int(o.AsOf), o.RollingDays, until))
		for key, values := range rolling {
			require.Equal(t, windows[key], values, "%s of %d days as of %s", key, o.RollingDays, o.AsOf)
		}
		if o.Future == facts.FutureApart {
			future := w.ask(t, fmt.Sprintf("SELECT d.n || '|' || shop || '|' || dept, SUM(amount) FROM facts f JOIN days d ON d.day = f.day WHERE f.day > %d GROUP BY 1", until))
			for key, values := range byKey(t, r, o, "sum_future", "is_total") {
				if want, ok := future[key]; ok {
					require.Equal(t, want[0], values[0], key)
				} else if values[1] == "false" {
					require.Equal(t, "0", values[0], key)
				}
			}
		}
		// The greatest groups over all periods, and the others together.
		o.Top, o.Subtotals, o.RollingDays, o.Ranked, o.Measures, o.Future = 1+random.IntN(6), false, 0, false, o.Measures[:3], facts.KeepFuture
		top := byKey(t, result(t, w.tally(t, o)), o, "sum", "mean", "items")
		want := w.ask(t, fmt.Sprintf(`WITH t AS (SELECT shop, dept FROM facts GROUP BY 1, 2 ORDER BY SUM(amount) DESC, shop, dept LIMIT %d), f AS (SELECT f.*, t.shop IS NOT NULL AS in_top FROM facts f LEFT JOIN t ON t.shop = f.shop AND t.dept = f.dept)
			SELECT d.n || '|' || CASE WHEN in_top THEN shop ELSE '(others)' END || '|' || CASE WHEN in_top THEN dept ELSE '(others)' END, SUM(amount), printf('%%.2f', AVG(amount)), COUNT(DISTINCT item) FROM f JOIN days d ON d.day = f.day GROUP BY 1`, o.Top))
		for key, values := range want {
			require.Contains(t, top, key)
			require.True(t, nearBy(strings.Join(values, " "), strings.Join(top[key], " "), 0.011), "%s: %v by SQL, %v here", key, values, top[key])
		}
		groups := map[string]bool{}
		for key := range top {
			groups[key[strings.Index(key, "|"):]] = true
		}
		assert.Len(t, groups, o.Top+1)
	}
}

// A balance is the sum of the last day with values, of each group for itself; its mean is that of all days.
func TestBalancesAgainstSQL(t *testing.T) {
	random := rand.New(rand.NewPCG(14, 4))
	for round := range 6 {
		w := newDayWorld(t, random)
		o := facts.Operation{Grain: []calendar.Grain{grain(t, "month"), grain(t, "iso.week"), retail(t, calendar.Month)}[round%3], Groups: []string{"shop"}, Subtotals: true, AsOf: w.first + civil.Day(850),
			Measures: []facts.Measure{{Kind: facts.Closing, Name: "closing"}, {Kind: facts.Opening, Name: "opening"}, {Kind: facts.MeanOverDays, Name: "mean"}, {Kind: facts.Sum, Name: "sum", Gap: facts.Zero}}}
		r := result(t, w.tally(t, o))
		w.days(t, r, o)
		_, err := w.db.Exec(fmt.Sprintf(`DROP TABLE IF EXISTS balances; CREATE TABLE balances AS WITH s AS (SELECT DISTINCT shop FROM facts), by_day AS (SELECT day, shop, SUM(amount) AS sum FROM facts GROUP BY 1, 2), known AS (
			SELECT d.day, d.n, s.shop, (SELECT MAX(b.day) FROM by_day b WHERE b.shop = s.shop AND b.day <= d.day) AS on_day, (SELECT MAX(b.day) FROM by_day b WHERE b.shop = s.shop AND b.day < d.day) AS before FROM days d, s)
			SELECT k.*, (SELECT sum FROM by_day b WHERE b.shop = k.shop AND b.day = k.on_day) AS balance, (SELECT sum FROM by_day b WHERE b.shop = k.shop AND b.day = k.before) AS before_balance,
			CASE WHEN MIN(day) OVER w <= %[1]d AND MAX(day) OVER w > %[1]d THEN %[1]d ELSE MAX(day) OVER w END AS last, MIN(day) OVER w AS first FROM known k WINDOW w AS (PARTITION BY n)`, int(o.AsOf)))
		require.NoError(t, err)
		day := func(expression string) string { return fmt.Sprintf("date('1970-01-01', (%s) || ' days')", expression) }
		for _, group := range []string{"shop", "'(all)'"} {
			want := w.ask(t, fmt.Sprintf(`SELECT n || '|' || %s, SUM(CASE WHEN day = last THEN balance END), %s, SUM(CASE WHEN day = first THEN before_balance END), %s,
				printf('%%.2f', SUM(CASE WHEN day <= last THEN balance END) * 1.0 / COUNT(DISTINCT CASE WHEN day <= last AND balance IS NOT NULL THEN day END)) FROM balances GROUP BY 1`,
				group, day("MIN(CASE WHEN day = last THEN on_day END)"), day("MIN(CASE WHEN day = first THEN before END)")))
			got := byKey(t, r, o, "closing", "closing_day", "opening", "opening_day", "mean", "is_carried", "is_total")
			compared := 0
			for key, values := range want {
				if (group == "shop") != (got[key][6] == "false") {
					continue
				}
				compared++
				number, err := strconv.Atoi(key[:strings.Index(key, "|")])
				require.NoError(t, err)
				if o.Grain.At(number).First > o.AsOf && got[key][0] == "" { // what is to come is not known
					require.Equal(t, []string{"", "", "", "", "", "false"}, got[key][:6], key)
					continue
				}
				if values[4] == "0.00" && got[key][4] == "" {
					values[4] = ""
				}
				require.Equal(t, values[:4], got[key][:4], "%s of %s", key, o.Grain)
				require.True(t, nearBy(values[4], got[key][4], 0.011), "%s of %s: %s by SQL, %s here", key, o.Grain, values[4], got[key][4])
			}
			assert.Greater(t, compared, 20)
		}
	}
}

// Facts that are kept by day make the same periods as those that are added up by period at once: of all kinds, gaps and spans, with
// comparisons, running and rolling sums, and shares.
func TestByDayIsByPeriod(t *testing.T) {
	random := rand.New(rand.NewPCG(14, 9))
	compared := 0
	for range 400 {
		c := newCase(t, random)
		o := c.operation
		for i := range o.Measures {
			switch random.IntN(5) {
			case 0:
				o.Measures[i].Kind, o.Measures[i].Percent, o.Measures[i].Gap = facts.Percentile, decimal.OfInt(random.IntN(101)), facts.Gap(random.IntN(4))
			case 1:
				o.Measures[i].Kind, o.Measures[i].Gap = facts.Distinct, facts.Zero
			}
		}
		if o.Grain.Unit != calendar.Day && random.IntN(2) == 0 {
			o.ToDate = true
		}
		o.CompleteOnly, o.Recent = !o.ToDate && random.IntN(4) == 0, random.IntN(3)*2
		o.Against = []facts.Comparison{facts.Previous, facts.YearAgo, facts.TwoYearsAgo}[:random.IntN(4)]
		o.Shares, o.Rolling = []facts.Share{facts.OfPeriod, facts.OfGroup}[:random.IntN(3)], random.IntN(3)
		lines := func(isByDay bool) (lines []string, summary facts.Summary) {
			own := o
			own.IsTold = isByDay
			parts := []*facts.Tally{facts.NewTally(own), facts.NewTally(own), facts.NewTally(own)}
			for n, f := range c.facts {
				values := make([][]byte, len(own.Measures))
				for i := range values {
					values[i] = []byte(f.amount)
				}
				require.NoError(t, parts[n%3].Add(f.day, facts.Place{Day: f.day, Nanos: f.nanos, Row: int64(n)}, [][]byte{[]byte(f.shop), []byte(f.kind)}, values))
			}
			parts[0].Join(parts[1])
			parts[0].Join(parts[2])
			r := result(t, parts[0])
			columns := r.Columns()
			for row := range r.Rows() {
				var texts []string
				for i, value := range row {
					texts = append(texts, columns[i].Name+"="+value.String())
				}
				lines = append(lines, strings.Join(texts, " "))
			}
			return lines, r.Summary()
		}
		want, summary := lines(false)
		got, other := lines(true)
		if summary.Rows > 0 { // else nothing says with how many decimals zeros are written
			require.Equal(t, want, got, "%+v", o)
		}
		assert.Equal(t, [4]int{summary.Rows, summary.NotToDate, summary.Outside, summary.Undated}, [4]int{other.Rows, other.NotToDate, other.Outside, other.Undated})
		compared += len(want)
	}
	assert.Greater(t, compared, 10000)
}
