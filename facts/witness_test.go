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
	"roundyear/cell"
	"roundyear/civil"
	"roundyear/civil/civiltest"
	"roundyear/facts"
	"roundyear/facts/decimal"
)

// randomCase is a chance operation and its facts.
type randomCase struct {
	operation facts.Operation
	facts     []randomFact
}

type randomFact struct {
	day        civil.Day
	nanos      int64
	shop, kind string
	amount     string
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
	kinds, gaps := []facts.Kind{facts.Sum, facts.Count, facts.Mean, facts.Min, facts.Max, facts.First, facts.Last}, []string{"blank", "zero", "carry", "linear", "carry:2", "-3.5"}
	first := civiltest.Day("2024-01-01") + civil.Day(random.IntN(400))
	c := randomCase{operation: facts.Operation{Grain: grains[random.IntN(len(grains))], Groups: []string{"shop", "kind"}, Span: facts.Span(random.IntN(4)), AsOf: first + civil.Day(random.IntN(500)), CombineAll: random.IntN(3) == 0}}
	for range 3 {
		measure := facts.Measure{Kind: kinds[random.IntN(len(kinds))], Name: fmt.Sprintf("m%d", len(c.operation.Measures))}
		require.NoError(t, measure.SetGap(gaps[random.IntN(len(gaps))]))
		c.operation.Measures = append(c.operation.Measures, measure)
	}
	if c.operation.OnlyOpen = random.IntN(3) == 0; c.operation.OnlyOpen || c.operation.Span == facts.SpanLives {
		c.operation.Lives = randomLives(random, first)
	}
	if random.IntN(3) == 0 {
		through := first + civil.Day(random.IntN(300))
		c.operation.Loaded = &facts.Loaded{Through: &through, Of: map[string]civil.Day{"b": first + civil.Day(random.IntN(300))}}
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
		c.facts = append(c.facts, randomFact{first + civil.Day(random.IntN(300)), int64(random.IntN(86400)) * 1e9, string(rune('a' + random.IntN(3))), string(rune('x' + random.IntN(2))), amount})
	}
	return c
}

// randomLives are those of two of the three shops: one of them may be open without end, and trades on some weekdays.
func randomLives(random *rand.Rand, first civil.Day) *facts.Lives {
	lives := &facts.Lives{Column: "shop", Of: map[string]facts.Life{}}
	for _, shop := range []string{"a", "b"} {
		opened, closed, every := first+civil.Day(random.IntN(150)), first+civil.Day(150+random.IntN(150)), civil.Day(1+random.IntN(40))
		life := facts.Life{Opened: &opened, Closed: &closed, IsOpen: func(day civil.Day) bool { return day >= opened && day <= closed && day%every == 0 }}
		if random.IntN(3) == 0 {
			life.Closed, life.IsOpen = nil, nil
		}
		lives.Of[shop] = life
	}
	return lives
}

// load puts the facts and the periods of all days into tables.
func (c randomCase) load(t testing.TB, db *sql.DB) {
	t.Helper()
	_, err := db.Exec(`DROP TABLE IF EXISTS facts; DROP TABLE IF EXISTS days; DROP TABLE IF EXISTS lives; DROP TABLE IF EXISTS opendays; DROP TABLE IF EXISTS loads;
		CREATE TABLE facts(day INT, at INT, n INT, shop TEXT, kind TEXT, amount REAL); CREATE TABLE days(day INT, period INT);
		CREATE TABLE lives(shop TEXT, opened INT, closed INT, has_days BOOL); CREATE TABLE opendays(shop TEXT, day INT); CREATE TABLE loads(shop TEXT, day INT)`)
	require.NoError(t, err)
	tx, err := db.Begin()
	require.NoError(t, err)
	for n, f := range c.facts {
		var amount any
		if f.amount != "" {
			amount = f.amount
		}
		_, err := tx.Exec("INSERT INTO facts VALUES(?, ?, ?, ?, ?, ?)", int(f.day), f.nanos, n, f.shop, f.kind, amount)
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
	execute := func(statement string, values ...any) {
		_, err := tx.Exec(statement, values...)
		require.NoError(t, err)
	}
	for day := first - 40; day <= last+400; day++ {
		execute("INSERT INTO days VALUES(?, ?)", int(day), int(c.operation.Grain.Locate(day).First))
	}
	for _, shop := range []string{"a", "b", "c"} {
		if loaded := c.operation.Loaded; loaded != nil {
			through := *loaded.Through
			if own, ok := loaded.Of[shop]; ok {
				through = own
			}
			execute("INSERT INTO loads VALUES(?, ?)", shop, int(through))
		}
		if c.operation.Lives == nil {
			continue
		}
		life, ok := c.operation.Lives.Of[shop]
		if !ok {
			continue
		}
		closed := 99999999
		if life.Closed != nil {
			closed = int(*life.Closed)
		}
		execute("INSERT INTO lives VALUES(?, ?, ?, ?)", shop, int(*life.Opened), closed, c.operation.OnlyOpen && life.IsOpen != nil)
		for day := first - 40; day <= last+400 && life.IsOpen != nil; day++ {
			if life.IsOpen(day) {
				execute("INSERT INTO opendays VALUES(?, ?)", shop, int(day))
			}
		}
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
		return "(SELECT g.amount FROM kept g WHERE g.shop = f.shop AND g.kind = f.kind AND g.period = f.period AND g.amount IS NOT NULL ORDER BY g.day " + order + ", g.at " + order + ", g.n " + order + " LIMIT 1)"
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
	low, high := "COALESCE(own.first, 99999999)", "COALESCE(own.last, -99999999)"
	switch o.Span {
	case facts.SpanAll:
		low, high = "allp.first", "allp.last"
	case facts.SpanSinceFirst:
		high = "allp.last"
	case facts.SpanLives:
		low = "MIN(COALESCE(own.first, 99999999), MAX(allp.first, COALESCE((SELECT d.period FROM lives l JOIN days d ON d.day = l.opened WHERE l.shop = own.shop), allp.first)))"
		high = "MAX(COALESCE(own.last, -99999999), MIN(allp.last, COALESCE((SELECT d.period FROM lives l JOIN days d ON d.day = l.closed WHERE l.shop = own.shop), allp.last)))"
	}
	groups := "SELECT shop, kind, MIN(period) AS first, MAX(period) AS last FROM kept GROUP BY shop, kind"
	if o.CombineAll {
		groups = "SELECT s.shop, k.kind, MIN(f.period) AS first, MAX(f.period) AS last FROM (SELECT DISTINCT shop FROM kept) s JOIN (SELECT DISTINCT kind FROM kept) k LEFT JOIN kept f ON f.shop = s.shop AND f.kind = k.kind GROUP BY s.shop, k.kind"
	}
	away := "EXISTS (SELECT 1 FROM lives l WHERE l.shop = own.shop AND l.has_days AND NOT EXISTS (SELECT 1 FROM opendays o JOIN days d USING(day) WHERE o.shop = own.shop AND d.period = p.period))"
	if o.Span == facts.SpanLives {
		away += " OR EXISTS (SELECT 1 FROM lives l JOIN days d ON d.day = l.opened WHERE l.shop = own.shop AND p.period < d.period) OR EXISTS (SELECT 1 FROM lives l JOIN days d ON d.day = l.closed WHERE l.shop = own.shop AND p.period > d.period)"
	}
	isLoaded := "NOT EXISTS (SELECT 1 FROM loads l WHERE l.shop = own.shop AND l.day < (SELECT CASE WHEN MIN(day) <= %[1]d AND MAX(day) > %[1]d THEN %[1]d ELSE MAX(day) END FROM days d WHERE d.period = p.period))"
	isLoaded = fmt.Sprintf(isLoaded, int(o.AsOf))
	isLoaded += fmt.Sprintf(" AND (s.shop IS NOT NULL OR p.period <= %d)", int(o.AsOf)) // what is to come is not loaded
	var measures, filled []string
	for i, m := range o.Measures {
		name := fmt.Sprintf("m%d", i)
		measures = append(measures, measureSQL(m.Kind)+" AS "+name)
		where := fmt.Sprintf("b.shop = o.shop AND b.kind = o.kind AND b.has AND b.%s IS NOT NULL", name)
		before := "(SELECT %s FROM ordered b WHERE " + where + " AND b.nth < o.nth ORDER BY b.nth DESC LIMIT 1)"
		after := "(SELECT %s FROM ordered b WHERE " + where + " AND b.nth > o.nth ORDER BY b.nth LIMIT 1)"
		gap := map[facts.Gap]string{facts.Blank: "NULL", facts.Zero: "0", facts.Constant: m.Constant.String(), facts.Carry: fmt.Sprintf(before, "b."+name),
			facts.Linear: fmt.Sprintf("%s + (%s - %s) * 1.0 * (o.nth - %s) / (%s - %s)", fmt.Sprintf(before, "b."+name), fmt.Sprintf(after, "b."+name), fmt.Sprintf(before, "b."+name), fmt.Sprintf(before, "b.nth"), fmt.Sprintf(after, "b.nth"), fmt.Sprintf(before, "b.nth"))}[m.Gap]
		if m.CarryLimit > 0 {
			gap = fmt.Sprintf("CASE WHEN o.nth - %s <= %d THEN %s END", fmt.Sprintf(before, "b.nth"), m.CarryLimit, gap)
		}
		filled = append(filled, fmt.Sprintf("CASE WHEN o.has THEN o.%s WHEN o.is_loaded THEN %s END", name, gap))
	}
	_, err := db.Exec(fmt.Sprintf(`
		DROP TABLE IF EXISTS kept; DROP TABLE IF EXISTS ordered;
		CREATE TABLE kept AS SELECT f.*, d.period FROM facts f JOIN days d USING(day) WHERE f.day >= %s AND f.day <= %s;
		CREATE INDEX kept_by ON kept(shop, period);
		CREATE TABLE ordered AS WITH
		sums AS (SELECT f.shop, f.kind, f.period, %s FROM kept f GROUP BY f.shop, f.kind, f.period),
		bounds AS (SELECT MIN(period) AS first, MAX(period) AS last FROM kept),
		allp AS (SELECT MIN(bounds.first, %s) AS first, MAX(bounds.last, %s) AS last FROM bounds),
		own AS (%s),
		periods AS (SELECT period, ROW_NUMBER() OVER (ORDER BY period) AS nth FROM (SELECT DISTINCT period FROM days))
		SELECT p.period, p.nth, own.shop, own.kind, s.shop IS NOT NULL AS has, %s AS is_loaded, s.m0, s.m1, s.m2
			FROM periods p JOIN own JOIN allp ON p.period >= %s AND p.period <= %s
			LEFT JOIN sums s ON s.shop = own.shop AND s.kind = own.kind AND s.period = p.period
			WHERE s.shop IS NOT NULL OR NOT (%s);
		CREATE INDEX ordered_by ON ordered(shop, kind, nth)`,
		bound(o.From, "-99999999"), bound(o.To, "99999999"), strings.Join(measures, ", "), lowBound(o), highBound(o), groups, isLoaded, low, high, away))
	require.NoError(t, err)
	rows, err := db.Query("SELECT o.period, o.shop || ' ' || o.kind, " + strings.Join(filled, ", ") + ", NOT o.has, o.is_loaded FROM ordered o ORDER BY o.nth, o.shop, o.kind")
	require.NoError(t, err)
	defer rows.Close()
	var all []string
	for rows.Next() {
		var period int
		var shop string
		var isFilled, isLoaded bool
		values := make([]sql.NullFloat64, len(o.Measures))
		require.NoError(t, rows.Scan(&period, &shop, &values[0], &values[1], &values[2], &isFilled, &isLoaded))
		line := fmt.Sprintf("%s %s", civil.Day(period), shop)
		for _, value := range values {
			if line += " -"; value.Valid {
				line = strings.TrimSuffix(line, "-") + fmt.Sprintf("%.1f", value.Float64+1e-9)
			}
		}
		if o.Loaded != nil {
			line += fmt.Sprintf(" %t", isLoaded)
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
	high := "-99999999"
	if o.Loaded != nil { // up to when nothing has happened if there are no facts
		loaded := *o.Loaded.Through
		for _, day := range o.Loaded.Of {
			loaded = max(loaded, day)
		}
		end := o.AsOf
		if o.To != nil {
			end = min(end, *o.To)
		}
		high = fmt.Sprintf("(SELECT MAX(period) FROM (SELECT period, MIN(MAX(day), %d) AS last, MIN(day) AS first FROM days GROUP BY period) WHERE last <= %d AND first <= %[1]d)", int(end), int(loaded))
	}
	if o.To == nil {
		return high
	}
	return "MAX(" + high + ", " + toBound(o) + ")"
}

func toBound(o facts.Operation) string {
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
		require.NoError(t, parts[random.IntN(3)].Add(f.day, facts.Place{f.day, f.nanos, int64(n)}, [][]byte{[]byte(f.shop), []byte(f.kind)}, values))
	}
	parts[0].Join(parts[1])
	parts[0].Join(parts[2])
	if parts[0].Summary().Rows == 0 {
		return nil
	}
	var all []string
	whole := result(t, parts[0])
	c.addsUp(t, whole)
	split := random.IntN(whole.Len() + 1)
	chunks := func(yield func([]cell.Value) bool) {
		for row := range whole.RowsBetween(0, split) {
			yield(row)
		}
		for row := range whole.RowsBetween(split, whole.Len()) {
			yield(row)
		}
	}
	for row := range chunks {
		line := row[1].String() + " " + row[3].String() + " " + row[4].String()
		marks := row[5+len(c.operation.Measures):]
		for _, value := range row[5 : 5+len(c.operation.Measures)] {
			if line += " -"; !value.IsBlank() {
				var number float64
				_, err := fmt.Sscan(value.String(), &number)
				require.NoError(t, err)
				line = strings.TrimSuffix(line, "-") + fmt.Sprintf("%.1f", number+1e-9)
			}
		}
		if c.operation.Loaded != nil {
			line += " " + marks[len(marks)-1].String()
		}
		all = append(all, fmt.Sprintf("%s %s", line, marks[0]))
	}
	return all
}

// addsUp holds the rows against the facts: each group and period is there at most once, and sums are those of the facts and of what was
// filled, which Written says.
func (c randomCase) addsUp(t testing.TB, r *facts.Result) {
	t.Helper()
	seen := map[string]bool{}
	kept, all := make([]decimal.Decimal, len(c.operation.Measures)), make([]decimal.Decimal, len(c.operation.Measures))
	for row := range r.Rows() {
		key := row[0].String() + "|" + row[3].String() + "|" + row[4].String()
		require.False(t, seen[key], key)
		seen[key] = true
		for i := range kept {
			value := row[5+i]
			if value.IsBlank() {
				continue
			}
			number, err := decimal.Parse([]byte(value.String()))
			require.NoError(t, err)
			if all[i] = all[i].Add(number); row[5+len(kept)].String() == "false" {
				kept[i] = kept[i].Add(number)
			}
		}
	}
	for i := range kept {
		total, _, ok := r.Total(i)
		if !ok {
			continue
		}
		require.Zero(t, total.Cmp(kept[i]), "measure %d: %s and %s", i, total, kept[i])
		written, _ := r.Written(i)
		require.Zero(t, written.Cmp(all[i]), "measure %d: %s and %s", i, written, all[i])
	}
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
	from, to := civiltest.Day("2026-01-01"), civiltest.Day("2026-12-31")
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
