package facts_test

import (
	"database/sql"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	_ "modernc.org/sqlite"

	"roundyear/calendar"
	"roundyear/civil"
	"roundyear/facts"
)

// randomCase is a chance operation and its facts.
type randomCase struct {
	operation facts.Operation
	facts     []randomFact
}

type randomFact struct {
	day    civil.Day
	nanos  int64
	shop   string
	amount string
}

// fiscalGrain is a grain of a fiscal year that starts in a chance month.
func fiscalGrain(t testing.TB, random *rand.Rand, unit calendar.Unit) calendar.Grain {
	t.Helper()
	months, err := calendar.NewFiscalMonths(calendar.FiscalMonths{Name: "fiscal", Starts: civil.Month(1 + random.IntN(12)), StartDay: 1,
		Weeks: calendar.WeekRule{First: civil.Weekday(1 + random.IntN(7)), MinDays: 4}})
	require.NoError(t, err)
	return calendar.Grain{Calendar: months, Unit: unit}
}

func newCase(t testing.TB, random *rand.Rand) randomCase {
	grains := []calendar.Grain{grain(t, "day"), grain(t, "iso.week"), grain(t, "month"), grain(t, "quarter"), fiscalGrain(t, random, calendar.Week), fiscalGrain(t, random, calendar.Month)}
	kinds, gaps := []facts.Kind{facts.Sum, facts.Count, facts.Mean, facts.Min, facts.Max, facts.First, facts.Last}, []facts.Gap{facts.Blank, facts.Zero, facts.Carry, facts.Linear}
	first := civil.MustParse("2024-01-01") + civil.Day(random.IntN(400))
	c := randomCase{operation: facts.Operation{Grain: grains[random.IntN(len(grains))], Groups: []string{"shop"}, Span: facts.Span(random.IntN(3)), AsOf: first + civil.Day(random.IntN(500))}}
	for range 3 {
		c.operation.Measures = append(c.operation.Measures, facts.Measure{Kind: kinds[random.IntN(len(kinds))], Name: fmt.Sprintf("m%d", len(c.operation.Measures)), Gap: gaps[random.IntN(len(gaps))]})
	}
	if random.IntN(3) == 0 {
		from, to := first+civil.Day(random.IntN(60)), first+civil.Day(200+random.IntN(300))
		c.operation.From, c.operation.To = &from, &to
	}
	for range 5 + random.IntN(60) {
		amount := fmt.Sprintf("%d.%02d", random.IntN(200)-50, random.IntN(100))
		if random.IntN(8) == 0 {
			amount = ""
		}
		c.facts = append(c.facts, randomFact{first + civil.Day(random.IntN(300)), int64(random.IntN(86400)) * 1e9, string(rune('a' + random.IntN(3))), amount})
	}
	return c
}

// load puts the facts and the periods of all days into tables.
func (c randomCase) load(t testing.TB, db *sql.DB) {
	t.Helper()
	_, err := db.Exec(`DROP TABLE IF EXISTS facts; DROP TABLE IF EXISTS days; CREATE TABLE facts(day INT, at INT, n INT, shop TEXT, amount REAL); CREATE TABLE days(day INT, period INT)`)
	require.NoError(t, err)
	tx, err := db.Begin()
	require.NoError(t, err)
	for n, f := range c.facts {
		var amount any
		if f.amount != "" {
			amount = f.amount
		}
		_, err := tx.Exec("INSERT INTO facts VALUES(?, ?, ?, ?, ?)", int(f.day), f.nanos, n, f.shop, amount)
		require.NoError(t, err)
	}
	// A calendar table, of which the witness takes nothing but which days belong
	// together, in which order.
	first, last := c.facts[0].day, c.facts[0].day
	for _, f := range c.facts {
		first, last = min(first, f.day), max(last, f.day)
	}
	for _, bound := range []*civil.Day{c.operation.From, c.operation.To, &c.operation.AsOf} {
		if bound != nil {
			first, last = min(first, *bound), max(last, *bound)
		}
	}
	for day := first - 40; day <= last+400; day++ {
		_, err := tx.Exec("INSERT INTO days VALUES(?, ?)", int(day), int(c.operation.Grain.Locate(day).First))
		require.NoError(t, err)
	}
	require.NoError(t, tx.Commit())
}

// measureSQL is a measure as SQL works it out.
func measureSQL(kind facts.Kind) string {
	switch kind {
	case facts.Count:
		return "COUNT(*)"
	case facts.First, facts.Last:
		order := "ASC"
		if kind == facts.Last {
			order = "DESC"
		}
		return "(SELECT g.amount FROM kept g WHERE g.shop = f.shop AND g.period = f.period AND g.amount IS NOT NULL ORDER BY g.day " + order + ", g.at " + order + ", g.n " + order + " LIMIT 1)"
	}
	return map[facts.Kind]string{facts.Sum: "SUM", facts.Mean: "AVG", facts.Min: "MIN", facts.Max: "MAX"}[kind] + "(f.amount)"
}

// rowsSQL are the rows that SQL makes of the case: a spine of periods and shops
// from window functions, with its gaps filled.
func (c randomCase) rowsSQL(t testing.TB, db *sql.DB) []string {
	t.Helper()
	o := c.operation
	bound := func(day *civil.Day, otherwise string) string {
		if day == nil {
			return otherwise
		}
		return fmt.Sprint(int(*day))
	}
	low, high := "own.first", "own.last"
	if o.Span == facts.SpanAll {
		low = "allp.first"
	}
	if o.Span != facts.SpanOwn {
		high = "allp.last"
	}
	var measures, filled []string
	for i, m := range o.Measures {
		name := fmt.Sprintf("m%d", i)
		measures = append(measures, measureSQL(m.Kind)+" AS "+name)
		before := fmt.Sprintf("(SELECT %s FROM ordered b WHERE b.shop = o.shop AND b.nth < o.nth AND b.%s IS NOT NULL ORDER BY b.nth DESC LIMIT 1)", "%s", name)
		after := fmt.Sprintf("(SELECT %s FROM ordered a WHERE a.shop = o.shop AND a.nth > o.nth AND a.%s IS NOT NULL ORDER BY a.nth LIMIT 1)", "%s", name)
		gap := map[facts.Gap]string{facts.Blank: "NULL", facts.Zero: "0", facts.Carry: fmt.Sprintf(before, "b."+name),
			facts.Linear: fmt.Sprintf("%s + (%s - %s) * 1.0 * (o.nth - %s) / (%s - %s)", fmt.Sprintf(before, "b."+name), fmt.Sprintf(after, "a."+name), fmt.Sprintf(before, "b."+name), fmt.Sprintf(before, "b.nth"), fmt.Sprintf(after, "a.nth"), fmt.Sprintf(before, "b.nth"))}[m.Gap]
		filled = append(filled, fmt.Sprintf("CASE WHEN o.has THEN o.%s ELSE %s END", name, gap))
	}
	_, err := db.Exec(fmt.Sprintf(`
		DROP TABLE IF EXISTS kept; DROP TABLE IF EXISTS ordered;
		CREATE TABLE kept AS SELECT f.*, d.period FROM facts f JOIN days d USING(day) WHERE f.day >= %s AND f.day <= %s;
		CREATE INDEX kept_by ON kept(shop, period);
		CREATE TABLE ordered AS WITH
		sums AS (SELECT f.shop, f.period, %s FROM kept f GROUP BY f.shop, f.period),
		bounds AS (SELECT MIN(period) AS first, MAX(period) AS last FROM kept),
		allp AS (SELECT MIN(bounds.first, %s) AS first, MAX(bounds.last, %s) AS last FROM bounds),
		own AS (SELECT shop, MIN(period) AS first, MAX(period) AS last FROM kept GROUP BY shop),
		periods AS (SELECT period, ROW_NUMBER() OVER (ORDER BY period) AS nth FROM (SELECT DISTINCT period FROM days))
		SELECT p.period, p.nth, own.shop, s.shop IS NOT NULL AS has, s.m0, s.m1, s.m2
			FROM periods p JOIN own JOIN allp ON p.period >= %s AND p.period <= %s
			LEFT JOIN sums s ON s.shop = own.shop AND s.period = p.period;
		CREATE INDEX ordered_by ON ordered(shop, nth)`,
		bound(o.From, "-99999999"), bound(o.To, "99999999"), strings.Join(measures, ", "), lowBound(o), highBound(o), low, high))
	require.NoError(t, err)
	rows, err := db.Query("SELECT o.period, o.shop, " + strings.Join(filled, ", ") + ", NOT o.has FROM ordered o ORDER BY o.nth, o.shop")
	require.NoError(t, err)
	defer rows.Close()
	var all []string
	for rows.Next() {
		var period int
		var shop string
		var isFilled bool
		values := make([]sql.NullFloat64, len(o.Measures))
		require.NoError(t, rows.Scan(&period, &shop, &values[0], &values[1], &values[2], &isFilled))
		line := fmt.Sprintf("%s %s", civil.Day(period), shop)
		for _, value := range values {
			if line += " -"; value.Valid {
				line = strings.TrimSuffix(line, "-") + fmt.Sprintf("%.1f", value.Float64+1e-9)
			}
		}
		all = append(all, fmt.Sprintf("%s %t", line, isFilled))
	}
	require.NoError(t, rows.Err())
	return all
}

// lowBound and highBound are the periods that From and To add to those of facts.
func lowBound(o facts.Operation) string {
	if o.From == nil {
		return "99999999"
	}
	return fmt.Sprintf("(SELECT period FROM days WHERE day = %d)", int(*o.From))
}

func highBound(o facts.Operation) string {
	if o.To == nil {
		return "-99999999"
	}
	return fmt.Sprintf("MIN((SELECT period FROM days WHERE day = %d), (SELECT period FROM days WHERE day = %d))", int(*o.To), int(o.AsOf))
}

// rows are the rows of the result, in the form of the witness.
func (c randomCase) rows(t testing.TB, random *rand.Rand) []string {
	t.Helper()
	parts := []*facts.Tally{facts.NewTally(c.operation), facts.NewTally(c.operation), facts.NewTally(c.operation)}
	for n, f := range c.facts {
		values := make([][]byte, len(c.operation.Measures))
		for i := range values {
			values[i] = []byte(f.amount)
		}
		require.NoError(t, parts[random.IntN(3)].Add(f.day, facts.Place{f.day, f.nanos, int64(n)}, [][]byte{[]byte(f.shop)}, values))
	}
	parts[0].Join(parts[1])
	parts[0].Join(parts[2])
	if parts[0].Summary().Rows == 0 {
		return nil
	}
	var all []string
	for row := range result(t, parts[0]).Rows() {
		line := row[1].String() + " " + row[3].String()
		for _, value := range row[4 : 4+len(c.operation.Measures)] {
			if line += " -"; !value.IsBlank() {
				var number float64
				_, err := fmt.Sscan(value.String(), &number)
				require.NoError(t, err)
				line = strings.TrimSuffix(line, "-") + fmt.Sprintf("%.1f", number+1e-9)
			}
		}
		all = append(all, fmt.Sprintf("%s %s", line, row[len(row)-2]))
	}
	return all
}

// near tells whether two lines are the same but for the last digit of numbers,
// since the witness reckons in floating point and ours rounds to the cent.
func near(a, b string) bool {
	one, other := strings.Fields(a), strings.Fields(b)
	if len(one) != len(other) {
		return false
	}
	for i := range one {
		if one[i] == other[i] {
			continue
		}
		var x, y float64
		if _, err := fmt.Sscan(one[i], &x); err != nil {
			return false
		}
		if _, err := fmt.Sscan(other[i], &y); err != nil || x-y > 0.11 || y-x > 0.11 {
			return false
		}
	}
	return true
}

func TestFillAgainstSQL(t *testing.T) {
	db, err := sql.Open("sqlite", ":memory:")
	require.NoError(t, err)
	defer db.Close()
	db.SetMaxOpenConns(1)
	random := rand.New(rand.NewPCG(52, 53))
	compared, filled := 0, 0
	for number := range 150 {
		c := newCase(t, random)
		c.load(t, db)
		want, got := c.rowsSQL(t, db), c.rows(t, random)
		require.Equal(t, len(want), len(got), "case %d: %+v", number, c.operation)
		for i := range want {
			require.True(t, near(want[i], got[i]), "case %d, row %d: %s by SQL, %s here; %+v", number, i, want[i], got[i], c.operation)
			if strings.HasSuffix(got[i], "true") {
				filled++
			}
		}
		compared += len(want)
	}
	assert.Greater(t, compared, 10000)
	assert.Greater(t, filled, 3000)
}

// What several have seen is what one has seen of all: the sums of facts without a
// date too, those outside, the decimals, and the first and the last day.
func TestJoinedTalliesLoseNothing(t *testing.T) {
	from, to := civil.MustParse("2026-01-01"), civil.MustParse("2026-12-31")
	operation := facts.Operation{Grain: grain(t, "month"), Groups: []string{"shop"}, AsOf: to, From: &from, To: &to,
		Measures: []facts.Measure{{Kind: facts.Sum, Name: "sum", Gap: facts.Zero}, {Kind: facts.Count, Name: "count", Gap: facts.Zero}, {Kind: facts.Mean, Name: "mean", Gap: facts.Blank}, {Kind: facts.Min, Name: "min", Gap: facts.Blank}, {Kind: facts.Max, Name: "max", Gap: facts.Blank}, {Kind: facts.First, Name: "first", Gap: facts.Blank}, {Kind: facts.Last, Name: "last", Gap: facts.Blank}}}
	random := rand.New(rand.NewPCG(7, 7))
	for round := range 200 {
		parts := []*facts.Tally{facts.NewTally(operation), facts.NewTally(operation), facts.NewTally(operation)}
		var whole *facts.Tally
		inOne, inParts := facts.NewTally(operation), parts
		for n := range 12 {
			text := []string{"1", "2.5", "3.125", "-4.0001", "", "7"}[random.IntN(6)]
			values := [][]byte{[]byte(text), nil, []byte(text), []byte(text), []byte(text), []byte(text), []byte(text)}
			own := inParts[random.IntN(3)]
			for _, tally := range []*facts.Tally{inOne, own} {
				if random := n % 4; random == 0 {
					require.NoError(t, tally.AddUndated(int64(n), values))
				} else {
					sold := from + civil.Day((n*53+round*7)%500) - 60
					require.NoError(t, tally.Add(sold, facts.Place{sold, int64(n % 3), int64(n)}, [][]byte{{byte('a' + n%3)}}, values))
				}
			}
		}
		whole = parts[0]
		whole.Join(parts[1])
		whole.Join(parts[2])
		require.Equal(t, inOne.Summary(), whole.Summary(), "round %d", round)
		if inOne.Summary().Rows == 0 {
			continue
		}
		one, all := result(t, inOne), result(t, whole)
		require.Equal(t, textsOf(one), textsOf(all), "round %d", round)
		for i := range operation.Measures {
			dated, undated, _ := one.Total(i)
			otherDated, otherUndated, _ := all.Total(i)
			require.Equal(t, dated.String()+" "+undated.String(), otherDated.String()+" "+otherUndated.String(), "round %d, measure %d", round, i)
		}
	}
}

func textsOf(r *facts.Result) []string {
	var lines []string
	for row := range r.Rows() {
		var texts []string
		for _, value := range row {
			texts = append(texts, value.String())
		}
		lines = append(lines, strings.Join(texts, "|"))
	}
	return lines
}
