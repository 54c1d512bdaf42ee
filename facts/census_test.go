package facts_test

import (
	"database/sql"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/cell"
	"roundyear/civil"
	"roundyear/civil/civiltest"
	"roundyear/facts"
)

type randomSpan struct {
	opened, closed civil.Day
	hasClosed      bool
	team, seats    string
}

func newCensus(t testing.TB, random *rand.Rand) (facts.Census, []randomSpan) {
	t.Helper()
	first := civiltest.Day("2024-01-01") + civil.Day(random.IntN(300))
	census := facts.Census{Groups: []string{"team"}, Sums: []string{"seats"}, MedianAge: true, Cohorts: true, AsOf: first + civil.Day(random.IntN(200)),
		OpeningDayOut: random.IntN(3) == 0, ClosingDayIn: random.IntN(3) == 0}
	units := []string{"day", "iso.week", "month", "quarter", "year"}
	if census.Grain = grain(t, units[random.IntN(len(units))]); random.IntN(3) == 0 {
		from, to := first+civil.Day(random.IntN(60)-10), first+civil.Day(random.IntN(200)+60)
		census.From, census.To = &from, &to
	}
	var spans []randomSpan
	for range 1 + random.IntN(80) {
		s := randomSpan{opened: first + civil.Day(random.IntN(150)), hasClosed: random.IntN(4) > 0, team: string(rune('a' + random.IntN(3))), seats: fmt.Sprintf("%d.%d", random.IntN(9)-2, random.IntN(10))}
		s.closed = s.opened + civil.Day(random.IntN(70))
		if random.IntN(9) == 0 {
			s.seats = ""
		}
		spans = append(spans, s)
	}
	return census, spans
}

// tallied takes the spans in by three tallies that are joined.
func tallied(t testing.TB, random *rand.Rand, census facts.Census, spans []randomSpan) *facts.CensusTally {
	t.Helper()
	parts := []*facts.CensusTally{facts.NewCensusTally(census), facts.NewCensusTally(census), facts.NewCensusTally(census)}
	for _, s := range spans {
		require.NoError(t, parts[random.IntN(3)].Add(s.opened, s.closed, s.hasClosed, [][]byte{[]byte(s.team)}, [][]byte{[]byte(s.seats)}))
	}
	parts[0].Join(parts[1])
	parts[0].Join(parts[2])
	return parts[0]
}

// censusSQL is the census by the plain join: each day with the spans that are open on it.
func censusSQL(t testing.TB, db *sql.DB, census facts.Census, spans []randomSpan) []string {
	t.Helper()
	_, err := db.Exec(`DROP TABLE IF EXISTS spans; DROP TABLE IF EXISTS days; CREATE TABLE spans(team TEXT, opened INT, gone INT, seats REAL); CREATE TABLE days(day INT, period INT, last INT)`)
	require.NoError(t, err)
	low := census.AsOf
	for _, s := range spans {
		from, gone := int(s.opened), int(s.closed)
		if census.OpeningDayOut {
			from++
		}
		if census.ClosingDayIn {
			gone++
		}
		if from > int(census.AsOf) {
			continue
		}
		low = min(low, civil.Day(from))
		var end, seats any
		if gone = max(gone, from); s.hasClosed && gone <= int(census.AsOf) {
			end = gone
		}
		if s.seats != "" {
			seats = s.seats
		}
		_, err := db.Exec("INSERT INTO spans VALUES(?, ?, ?, ?)", s.team, from, end, seats)
		require.NoError(t, err)
	}
	bounds := [2]civil.Day{census.Grain.Locate(low).First, census.AsOf}
	if census.From != nil {
		bounds[0] = census.Grain.Locate(*census.From).First
	}
	if census.To != nil {
		bounds[1] = min(bounds[1], census.Grain.Locate(*census.To).Last)
	}
	for day := bounds[0]; day <= bounds[1]; day++ {
		period := census.Grain.Locate(day)
		_, err := db.Exec("INSERT INTO days VALUES(?, ?, ?)", int(day), int(period.First), min(int(period.Last), int(census.AsOf)))
		require.NoError(t, err)
	}
	rows, err := db.Query(`WITH teams AS (SELECT DISTINCT team FROM spans), periods AS (SELECT DISTINCT period, last FROM days),
		grid AS (SELECT period, last, team FROM periods JOIN teams),
		alive AS (SELECT g.*, s.opened, s.seats, ROW_NUMBER() OVER (PARTITION BY g.period, g.team ORDER BY s.opened) AS nth, COUNT(*) OVER (PARTITION BY g.period, g.team) AS n
			FROM grid g JOIN spans s ON s.team = g.team AND s.opened <= g.last AND (s.gone IS NULL OR s.gone > g.last)),
		daily AS (SELECT d.period, s.team, COUNT(*) AS n, SUM(s.seats) AS seats FROM days d JOIN spans s ON s.opened <= d.day AND (s.gone IS NULL OR s.gone > d.day) GROUP BY 1, 2)
		SELECT g.period, g.team,
			(SELECT COUNT(*) FROM alive a WHERE a.period = g.period AND a.team = g.team),
			(SELECT COUNT(*) FROM spans s WHERE s.team = g.team AND s.opened BETWEEN g.period AND g.last),
			(SELECT COUNT(*) FROM spans s WHERE s.team = g.team AND s.gone BETWEEN g.period AND g.last),
			COALESCE((SELECT n FROM daily y WHERE y.period = g.period AND y.team = g.team), 0) * 1.0 / (g.last - g.period + 1),
			(SELECT AVG(a.last - a.opened) FROM alive a WHERE a.period = g.period AND a.team = g.team),
			(SELECT AVG(a.last - a.opened) FROM alive a WHERE a.period = g.period AND a.team = g.team AND a.nth IN ((a.n + 1) / 2, (a.n + 2) / 2)),
			COALESCE((SELECT SUM(a.seats) FROM alive a WHERE a.period = g.period AND a.team = g.team), 0),
			COALESCE((SELECT SUM(s.seats) FROM spans s WHERE s.team = g.team AND s.opened BETWEEN g.period AND g.last), 0),
			COALESCE((SELECT SUM(s.seats) FROM spans s WHERE s.team = g.team AND s.gone BETWEEN g.period AND g.last), 0),
			COALESCE((SELECT seats FROM daily y WHERE y.period = g.period AND y.team = g.team), 0) * 1.0 / (g.last - g.period + 1)
		FROM grid g ORDER BY g.period, g.team`)
	require.NoError(t, err)
	defer rows.Close()
	var lines []string
	for rows.Next() {
		var period int
		var team string
		numbers := make([]sql.NullFloat64, 10)
		into := []any{&period, &team}
		for i := range numbers {
			into = append(into, &numbers[i])
		}
		require.NoError(t, rows.Scan(into...))
		line := fmt.Sprintf("%s %s", civil.Day(period), team)
		for _, number := range numbers {
			if line += " -"; number.Valid {
				line = strings.TrimSuffix(line, "-") + fmt.Sprintf("%.2f", number.Float64+1e-9)
			}
		}
		lines = append(lines, line)
	}
	require.NoError(t, rows.Err())
	return lines
}

func censusLines(t testing.TB, r *facts.CensusResult) (lines []string) {
	t.Helper()
	for row := range r.Rows() {
		line := row[1].String() + " " + row[3].String()
		for _, value := range row[4 : len(row)-1] {
			if line += " -"; !value.IsBlank() {
				var number float64
				_, err := fmt.Sscan(value.String(), &number)
				require.NoError(t, err)
				line = strings.TrimSuffix(line, "-") + fmt.Sprintf("%.2f", number+1e-9)
			}
		}
		lines = append(lines, line)
	}
	require.Len(t, lines, r.Len())
	return lines
}

func TestCensusAgainstTheJoin(t *testing.T) {
	db, err := sql.Open("sqlite", ":memory:")
	require.NoError(t, err)
	defer db.Close()
	db.SetMaxOpenConns(1)
	random := rand.New(rand.NewPCG(13, 2))
	compared, open := 0, 0
	for number := range 120 {
		census, spans := newCensus(t, random)
		tally := tallied(t, random, census, spans)
		if tally.Summary().Spans == 0 {
			continue
		}
		r, err := tally.Result()
		require.NoError(t, err)
		want, got := censusSQL(t, db, census, spans), censusLines(t, r)
		require.Equal(t, len(want), len(got), "case %d: %+v", number, census)
		for i := range want {
			require.True(t, nearBy(want[i], got[i], 0.011), "case %d, row %d:\n%s by SQL\n%s here; %+v %+v", number, i, want[i], got[i], census, spans)
		}
		compared += len(want)
		open += tally.Summary().Open
	}
	assert.Greater(t, compared, 5000)
	assert.Greater(t, open, 500)
}

// nearBy tells whether two lines are the same but for so much in their numbers.
func nearBy(a, b string, most float64) bool {
	one, other := strings.Fields(a), strings.Fields(b)
	return len(one) == len(other) && slices.EqualFunc(one, other, func(a, b string) bool {
		var x, y float64
		if _, err := fmt.Sscan(a, &x); err != nil || a == b {
			return a == b
		}
		_, err := fmt.Sscan(b, &y)
		return err == nil && x-y <= most && y-x <= most
	})
}

// What opened less what closed is by how much more is open, of things and of quantities, and a cohort is what the census counts.
func TestCensusAddsUp(t *testing.T) {
	random := rand.New(rand.NewPCG(3, 4))
	for range 60 {
		census, spans := newCensus(t, random)
		census.From, census.To = nil, nil
		tally := tallied(t, random, census, spans)
		if tally.Summary().Spans == 0 {
			continue
		}
		r, err := tally.Result()
		require.NoError(t, err)
		before := map[string][2]float64{}
		opened := map[string]int{}
		number := func(value cell.Value) (n float64) {
			_, err := fmt.Sscan(value.String(), &n)
			require.NoError(t, err)
			return n
		}
		for row := range r.Rows() {
			team, seats := row[3].String(), row[10:]
			require.InDelta(t, number(row[4]), before[team][0]+number(row[5])-number(row[6]), 1e-9)
			require.InDelta(t, number(seats[0]), before[team][1]+number(seats[1])-number(seats[2]), 1e-9)
			before[team] = [2]float64{number(row[4]), number(seats[0])}
			opened[row[1].String()+team] = int(number(row[5]))
		}
		for c := range r.Cohorts() {
			require.Equal(t, opened[c.Period.First.String()+c.Values[0]], c.Opened)
			for later, open := range c.Open {
				end, want := census.Grain.At(c.Period.Number+later).Last, 0
				for _, s := range spans {
					first, _, isGone, ok := census.Periods(s.opened, s.closed, s.hasClosed)
					gone := s.closed
					if census.ClosingDayIn {
						gone++
					}
					if census.OpeningDayOut {
						gone = max(gone, s.opened+1)
					}
					if ok && s.team == c.Values[0] && first == c.Period.Number && (!isGone || gone > end) {
						want++
					}
				}
				require.Equal(t, want, open, "%+v after %d", c, later)
			}
		}
		count := 0
		for row := range r.CohortRows() {
			require.Len(t, row, len(r.CohortColumns()))
			count++
		}
		require.Positive(t, count)
	}
}

func TestSpansThatDoNotCount(t *testing.T) {
	census := facts.Census{Grain: grain(t, "month"), AsOf: civiltest.Day("2026-03-31"), Sums: []string{"n"}}
	tally := facts.NewCensusTally(census)
	day := civiltest.Day
	require.NoError(t, tally.Add(day("2026-01-10"), day("2026-01-09"), true, nil, [][]byte{nil}))
	require.NoError(t, tally.Add(day("2026-04-01"), 0, false, nil, [][]byte{nil}))
	require.NoError(t, tally.Add(day("2026-03-01"), day("2026-04-02"), true, nil, [][]byte{[]byte(" 9223372036854775807 ")}))
	require.NoError(t, tally.Add(day("2026-03-31"), day("2026-03-31"), true, nil, [][]byte{[]byte("9223372036854775807")}))
	tally.AddUndated()
	var bad *facts.BadValue
	require.ErrorAs(t, facts.NewCensusTally(census).Add(day("2026-03-01"), 0, false, nil, [][]byte{[]byte("NaN")}), &bad)
	assert.Equal(t, facts.SpanSummary{Spans: 2, Open: 1, Undated: 1, Future: 1, Backward: 1, First: day("2026-03-01"), Last: day("2026-03-31"), Rows: 2}, tally.Summary())
	r, err := tally.Result()
	require.NoError(t, err)
	var texts []string
	for row := range r.Rows() {
		for _, value := range row {
			texts = append(texts, value.String())
		}
	}
	assert.Equal(t, "2026-03 2026-03-01 2026-03-31 1 2 1 1.00 30.00 9223372036854775807 18446744073709551614 9223372036854775807 9223372036854775807.00 true", strings.Join(texts, " "))
	census.MaxRows = 1
	census.From = ptr(day("2025-01-01"))
	limited := facts.NewCensusTally(census)
	require.NoError(t, limited.Add(day("2026-03-01"), 0, false, nil, [][]byte{nil}))
	_, err = limited.Result()
	var many *facts.TooManyRows
	require.ErrorAs(t, err, &many)
	assert.Equal(t, 15, many.Rows)
}

func ptr[T any](value T) *T { return &value }
