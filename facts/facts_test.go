package facts_test

import (
	"database/sql"
	"fmt"
	"math/rand/v2"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	_ "modernc.org/sqlite"

	"roundyear/calendar"
	"roundyear/civil"
	"roundyear/civil/civiltest"
	"roundyear/facts"
)

func grain(t testing.TB, name string) calendar.Grain {
	t.Helper()
	fiscal, err := calendar.NewFiscalMonths(calendar.FiscalMonths{Name: "fiscal", Starts: civil.February, NamedBy: calendar.ByStart, Weeks: calendar.ISOWeeks})
	require.NoError(t, err)
	set, err := calendar.NewSet(calendar.ISOWeeks, fiscal)
	require.NoError(t, err)
	found, err := set.Grain(name)
	require.NoError(t, err)
	return found
}

// fact is a date, a shop and an amount, with spaces between them.
func tally(t testing.TB, operation facts.Operation, rows ...string) *facts.Tally {
	t.Helper()
	tally := facts.NewTally(operation)
	for place, fact := range rows {
		parts := strings.Split(fact, " ")
		groups := [][]byte{[]byte(parts[1])}[:len(operation.Groups)]
		values := make([][]byte, len(operation.Measures))
		for i := range values {
			values[i] = []byte(parts[2])
		}
		if parts[0] == "" {
			require.NoError(t, tally.AddUndated(int64(place), values))
			continue
		}
		require.NoError(t, tally.Add(civiltest.Day(parts[0]), facts.Place{Day: civiltest.Day(parts[0]), Row: int64(place)}, groups, values))
	}
	return tally
}

func result(t testing.TB, tally *facts.Tally) *facts.Result {
	t.Helper()
	result, err := tally.Result()
	require.NoError(t, err)
	return result
}

// lines shows the rows of a result without the ends of the periods.
func lines(t testing.TB, tally *facts.Tally) []string {
	t.Helper()
	var lines []string
	whole := result(t, tally)
	columns := whole.Columns()
	for row := range whole.Rows() {
		var texts []string
		for i, value := range row {
			switch name, is := columns[i].Name, value.String(); {
			case i == 1 || i == 2:
			case name == "is_filled" || name == "is_running":
				if is == "true" {
					texts = append(texts, strings.TrimPrefix(name, "is_"))
				}
			case name == "is_loaded":
				if is == "false" {
					texts = append(texts, "not loaded")
				}
			default:
				texts = append(texts, is)
			}
		}
		lines = append(lines, strings.Join(texts, "|"))
	}
	return lines
}

var sales = []string{
	"2026-01-31 Kil 10.50", "2026-04-01 Kil 1", "2026-01-01 Kil 0.005",
	"2026-02-03 Var 7", "2026-02-04 Var -2.50",
}

func monthly(t testing.TB, measures ...facts.Measure) facts.Operation {
	return facts.Operation{Grain: grain(t, "month"), Groups: []string{"shop"}, Measures: measures, AsOf: civiltest.Day("2026-12-31")}
}

func TestHolesAreFilledAndMarked(t *testing.T) {
	operation := monthly(t, facts.Measure{Kind: facts.Sum, Name: "amount", Gap: facts.Zero}, facts.Measure{Kind: facts.Count, Name: "count", Gap: facts.Zero})
	assert.Equal(t, []string{
		"2026-01|Kil|10.505|2", "2026-01|Var|0.000|0|filled",
		"2026-02|Kil|0.000|0|filled", "2026-02|Var|4.500|2",
		"2026-03|Kil|0.000|0|filled", "2026-03|Var|0.000|0|filled",
		"2026-04|Kil|1.000|1", "2026-04|Var|0.000|0|filled",
	}, lines(t, tally(t, operation, sales...)))

	operation.Span = facts.SpanSinceFirst
	assert.Equal(t, []string{
		"2026-01|Kil|10.505|2",
		"2026-02|Kil|0.000|0|filled", "2026-02|Var|4.500|2",
		"2026-03|Kil|0.000|0|filled", "2026-03|Var|0.000|0|filled",
		"2026-04|Kil|1.000|1", "2026-04|Var|0.000|0|filled",
	}, lines(t, tally(t, operation, sales...)))

	operation.Span = facts.SpanOwn
	assert.Equal(t, []string{
		"2026-01|Kil|10.505|2",
		"2026-02|Kil|0.000|0|filled", "2026-02|Var|4.500|2",
		"2026-03|Kil|0.000|0|filled",
		"2026-04|Kil|1.000|1",
	}, lines(t, tally(t, operation, sales...)))
}

func TestARangeWidensTheSpanAndBoundsTheFacts(t *testing.T) {
	operation := monthly(t, facts.Measure{Kind: facts.Sum, Name: "amount", Gap: facts.Zero})
	operation.Groups = nil
	from, to := civiltest.Day("2025-12-01"), civiltest.Day("2026-02-03")
	operation.From, operation.To = &from, &to
	tally := tally(t, operation, sales...)
	assert.Equal(t, []string{"2025-12|0.000|filled", "2026-01|10.505", "2026-02|7.000"}, lines(t, tally))
	assert.Equal(t, facts.Summary{Rows: 3, Outside: 2, First: civiltest.Day("2026-01-01"), Last: civiltest.Day("2026-02-03")}, tally.Summary())
	cut := result(t, tally).CutPeriods()
	require.Len(t, cut, 1)
	assert.Equal(t, "2026-02-01", cut[0].First.String())
}

func TestNothingIsMadeUpAfterTheLastFactAndTheAsOfDay(t *testing.T) {
	operation := monthly(t, facts.Measure{Kind: facts.Sum, Name: "amount", Gap: facts.Zero})
	operation.AsOf = civiltest.Day("2026-02-15")
	to := civiltest.Day("2026-12-31")
	operation.To = &to
	assert.Equal(t, []string{
		"2026-01|Kil|10.505", "2026-01|Var|0.000|filled",
		"2026-02|Kil|0.000|filled|running", "2026-02|Var|4.500|running",
		"2026-03|Kil||filled|not loaded", "2026-03|Var||filled|not loaded",
		"2026-04|Kil|1.000", "2026-04|Var||filled|not loaded",
	}, lines(t, tally(t, operation, sales...)), "between facts no period is missing, though they lie after the as-of date")
	operation.AsOf = civiltest.Day("2026-05-15")
	whole := lines(t, tally(t, operation, sales...))
	assert.Equal(t, []string{"2026-05|Kil|0.000|filled|running", "2026-05|Var|0.000|filled|running"}, whole[len(whole)-2:])
}

// Within a day the moment decides, then the row.
func TestFirstAndLastGoByTheMoment(t *testing.T) {
	operation := monthly(t, facts.Measure{Kind: facts.First, Name: "first", Gap: facts.Blank}, facts.Measure{Kind: facts.Last, Name: "last", Gap: facts.Blank})
	operation.Groups = nil
	sold := civiltest.Day("2026-01-05")
	for _, c := range []struct {
		places []facts.Place
		want   string
	}{
		{[]facts.Place{{sold, 3, 1}, {sold, 1, 2}, {sold, 2, 3}}, "2026-01|1|0"},
		{[]facts.Place{{sold, 5, 3}, {sold, 5, 1}, {sold, 5, 2}}, "2026-01|1|0"},
		{[]facts.Place{{sold + 1, 0, 1}, {sold, 9, 2}, {sold, 8, 3}}, "2026-01|2|0"},
	} {
		one, other := facts.NewTally(operation), facts.NewTally(operation)
		for i, place := range c.places {
			value := []byte(strconv.Itoa(i))
			require.NoError(t, []*facts.Tally{one, other}[i%2].Add(sold, place, nil, [][]byte{value, value}))
		}
		one.Join(other)
		assert.Equal(t, []string{c.want}, lines(t, one))
	}
}

func TestLinesHaveTheDecimalsTheyNeed(t *testing.T) {
	for _, c := range []struct{ prices, want string }{
		{"2026-01-01 a 1,2026-02-01 a 2,2026-04-01 a 1,2026-05-01 a 0.25", "1.00 2.00 1.50 1.00 0.25"},
		{"2026-01-01 a 2,2026-03-01 a 0.25", "2.00 1.125 0.25"},
		{"2026-01-01 a 1,2026-03-01 a 2", "1 1.5 2"},
		{"2026-01-01 a 1,2026-05-01 a 2", "1 1.25 1.5 1.75 2"},
		{"2026-01-01 a 1,2026-04-01 a 2", "1 1.33 1.67 2"},
		{"2026-01-01 a 0,2026-11-01 a 1", "0 0.1 0.2 0.3 0.4 0.5 0.6 0.7 0.8 0.9 1"},
		{"2026-01-01 a -1.50,2026-03-01 a 1.50", "-1.50 0.00 1.50"},
	} {
		operation := monthly(t, facts.Measure{Kind: facts.Last, Name: "price", Gap: facts.Linear})
		var values []string
		for row := range result(t, tally(t, operation, strings.Split(c.prices, ",")...)).Rows() {
			values = append(values, row[4].String())
		}
		assert.Equal(t, c.want, strings.Join(values, " "), c.prices)
	}
}

func TestSpacesAroundNumbersAreNoMatter(t *testing.T) {
	operation := monthly(t, facts.Measure{Kind: facts.Sum, Name: "amount", Gap: facts.Zero})
	operation.Groups = nil
	tally := facts.NewTally(operation)
	for _, value := range []string{" 1 ", "\t2.5", "3\u00a0", "  ", ""} {
		require.NoError(t, tally.Add(civiltest.Day("2026-01-05"), facts.Place{}, nil, [][]byte{[]byte(value)}))
	}
	assert.Equal(t, []string{"2026-01|6.5"}, lines(t, tally))
	var bad *facts.BadValue
	require.ErrorAs(t, tally.Add(civiltest.Day("2026-01-05"), facts.Place{}, nil, [][]byte{[]byte("1 2")}), &bad)
}

// Many groups over many days are no fault as long as their rows are allowed, and
// memory goes by the facts.
func TestRowsAreBoundedAndNotPeriods(t *testing.T) {
	operation := monthly(t, facts.Measure{Kind: facts.Sum, Name: "amount", Gap: facts.Zero})
	operation.MaxRows = 23
	rows := append(slices.Clone(sales), "2027-01-01 Kil 1")
	_, err := tally(t, operation, rows...).Result()
	var many *facts.TooManyRows
	require.ErrorAs(t, err, &many)
	assert.Equal(t, &facts.TooManyRows{26, 23, 13, 2, civiltest.Day("2026-01-01"), civiltest.Day("2027-01-01")}, many)
	operation.Span = facts.SpanOwn
	whole := result(t, tally(t, operation, rows...))
	assert.Equal(t, 14, len(slices.Collect(whole.Rows())))
}

func TestGaps(t *testing.T) {
	prices := []string{"2026-02-01 a 10.00", "2026-05-01 a 11.00", "2026-01-01 b 5", "2026-06-01 b 5"}
	for gap, want := range map[string]string{
		"blank":   " 10.00   11.00 ",
		"zero":    "0.00 10.00 0.00 0.00 11.00 0.00",
		"Carry":   " 10.00 10.00 10.00 11.00 11.00",
		"carry:1": " 10.00 10.00  11.00 11.00",
		"linear":  " 10.00 10.33 10.67 11.00 ",
		"-2.5":    "-2.50 10.00 -2.50 -2.50 11.00 -2.50",
		"0.125":   "0.125 10.000 0.125 0.125 11.000 0.125",
	} {
		measure := facts.Measure{Kind: facts.Last, Name: "price"}
		require.NoError(t, measure.SetGap(gap))
		operation := monthly(t, measure)
		var values []string
		for row := range result(t, tally(t, operation, prices...)).Rows() {
			if row[3].String() == "a" {
				values = append(values, row[4].String())
			}
		}
		assert.Equal(t, want, strings.Join(values, " "), gap)
	}
	measure := facts.Measure{}
	for text, want := range map[string]string{
		"guess":    `unknown gap value "guess"; use zero, blank, carry, carry:N, linear or a number`,
		"":         `unknown gap value ""; use zero, blank, carry, carry:N, linear or a number`,
		"linear:2": `unknown gap value "linear:2"; use zero, blank, carry, carry:N, linear or a number`,
		"carry:0":  "carry:0 must be carry: and a number of periods from 1",
		"carry:x":  "carry:x must be carry: and a number of periods from 1",
	} {
		assert.EqualError(t, measure.SetGap(text), want)
	}
}

func TestMeasures(t *testing.T) {
	rows := []string{"2026-01-05 a 3.5", "2026-01-02 a 1", "2026-01-05 a 9", "2026-01-31 a -2.25", "2026-01-31 a 4", "2026-01-02 a 8"}
	for kind, want := range map[facts.Kind]string{
		facts.Sum: "23.25", facts.Count: "6", facts.Mean: "3.8750", facts.Min: "-2.25", facts.Max: "9.00", facts.First: "1.00", facts.Last: "4.00",
	} {
		operation := monthly(t, facts.Measure{Kind: kind, Name: "x"})
		operation.Groups = nil
		assert.Equal(t, []string{"2026-01|" + want}, lines(t, tally(t, operation, rows...)), kind.String())
	}
	assert.Equal(t, facts.Zero, facts.Sum.DefaultGap())
	assert.Equal(t, facts.Blank, facts.Mean.DefaultGap())
}

func TestAMonthOfBlankAmountsIsBlankAndNotZero(t *testing.T) {
	operation := monthly(t, facts.Measure{Kind: facts.Sum, Name: "amount", Gap: facts.Zero}, facts.Measure{Kind: facts.Count, Name: "count", Gap: facts.Zero})
	assert.Equal(t, []string{"2026-01|a||1", "2026-02|a|5|1"}, lines(t, tally(t, operation, "2026-01-05 a ", "2026-02-05 a 5")))
}

// A mean of no values is none; running sums beside it are of the measures that add up.
func TestRunningSumsBesideAMeanOfBlanks(t *testing.T) {
	operation := monthly(t, facts.Measure{Kind: facts.Mean, Name: "mean", Gap: facts.Blank}, facts.Measure{Kind: facts.Count, Name: "count", Gap: facts.Zero})
	year := calendar.Year
	operation.Running = &year
	assert.Equal(t, []string{"2026-01|a||1|1", "2026-02|a|5.00|1|2"}, lines(t, tally(t, operation, "2026-01-05 a ", "2026-02-05 a 5")))
}

func TestRowsWithoutADateAreCounted(t *testing.T) {
	operation := monthly(t, facts.Measure{Kind: facts.Sum, Name: "amount", Gap: facts.Zero}, facts.Measure{Kind: facts.Mean, Name: "price", Gap: facts.Blank})
	tally := tally(t, operation, "2026-01-05 a 2", " a 340.50", " b 1")
	assert.Equal(t, 2, tally.Summary().Undated)
	dated, undated, ok := result(t, tally).Total(0)
	assert.True(t, ok)
	assert.Equal(t, "2 341.50", dated.String()+" "+undated.String())
	_, _, ok = result(t, tally).Total(1)
	assert.False(t, ok, "a mean has no total")
}

func TestABadValueIsAnErrorAndNotTakenIn(t *testing.T) {
	tally := facts.NewTally(monthly(t, facts.Measure{Kind: facts.Sum, Name: "amount", Gap: facts.Zero}))
	err := tally.Add(civiltest.Day("2026-01-01"), facts.Place{}, [][]byte{[]byte("a")}, [][]byte{[]byte("1,5")})
	var bad *facts.BadValue
	require.ErrorAs(t, err, &bad)
	assert.Equal(t, "1,5", bad.Value)
	assert.ErrorContains(t, err, `"1,5" is not a decimal number`)
	assert.Zero(t, tally.Summary().Rows)
}

func TestGroupsSortAsNumbersWhereTheyAreNumbers(t *testing.T) {
	operation := monthly(t, facts.Measure{Kind: facts.Count, Name: "count", Gap: facts.Zero})
	assert.Equal(t, []string{"2026-01|9|1", "2026-01|10|1", "2026-01|100|1"},
		lines(t, tally(t, operation, "2026-01-01 100 1", "2026-01-01 9 1", "2026-01-01 10 1")))
	assert.Equal(t, []string{"2026-01|10|1", "2026-01|9|1", "2026-01|x|1"},
		lines(t, tally(t, operation, "2026-01-01 x 1", "2026-01-01 9 1", "2026-01-01 10 1")))
}

func TestNoFacts(t *testing.T) {
	empty := result(t, facts.NewTally(monthly(t, facts.Measure{Kind: facts.Count, Name: "count", Gap: facts.Zero})))
	assert.Zero(t, empty.Periods())
	assert.Zero(t, empty.Groups())
	for range empty.Rows() {
		t.Fatal("a row without facts")
	}
	var names []string
	for _, column := range empty.Columns() {
		names = append(names, column.Name+" "+column.Type.String())
	}
	assert.Equal(t, []string{"period text", "period_start date", "period_end date", "shop text", "count integer", "is_filled boolean", "is_running boolean"}, names)
}

func TestFactsTooFarApart(t *testing.T) {
	operation := monthly(t, facts.Measure{Kind: facts.Count, Name: "count", Gap: facts.Zero})
	operation.Grain = grain(t, "day")
	rows := []string{"0001-01-01 a 1", "9999-12-31 a 1"}
	for i := range 27 {
		rows = append(rows, fmt.Sprintf("2026-01-01 g%d 1", i))
	}
	_, err := tally(t, operation, rows...).Result()
	assert.EqualError(t, err, "the result would have 102257652 rows, more than 100000000: 3652059 periods from 0001-01-01 to 9999-12-31 for 28 groups")
}

// Random facts, added in one go and in joined parts, against SQLite. Amounts
// are whole cents there, so that its sums are exact too.
func TestTotalsAgreeWithSQLite(t *testing.T) {
	random := rand.New(rand.NewPCG(3, 5))
	db, err := sql.Open("sqlite", ":memory:")
	require.NoError(t, err)
	defer db.Close()
	_, err = db.Exec("CREATE TABLE sales (day TEXT, shop TEXT, cents INTEGER, place INTEGER)")
	require.NoError(t, err)
	operation := facts.Operation{
		Grain: grain(t, "fiscal.quarter"), Groups: []string{"shop"}, AsOf: civiltest.Day("2026-06-01"), Span: facts.SpanOwn,
		Measures: []facts.Measure{{Kind: facts.Sum, Name: "sum", Gap: facts.Blank}, {Kind: facts.Count, Name: "count", Gap: facts.Blank}, {Kind: facts.Min, Name: "min", Gap: facts.Blank}, {Kind: facts.Max, Name: "max", Gap: facts.Blank}, {Kind: facts.First, Name: "first", Gap: facts.Blank}, {Kind: facts.Last, Name: "last", Gap: facts.Blank}},
	}
	whole, parts := facts.NewTally(operation), []*facts.Tally{facts.NewTally(operation), facts.NewTally(operation), facts.NewTally(operation)}
	insert, err := db.Prepare("INSERT INTO sales VALUES (?, ?, ?, ?)")
	require.NoError(t, err)
	defer insert.Close()
	for place := range 3000 {
		sold := civiltest.Day("2019-01-01") + civil.Day(random.IntN(2500))
		shop, cents := fmt.Sprintf("s%d", random.IntN(5)), random.IntN(100000)-20000
		amount := fmt.Appendf(nil, "%d.%02d", cents/100, max(cents%100, -cents%100))
		if cents < 0 && cents > -100 {
			amount = append([]byte("-"), amount...)
		}
		values := [][]byte{amount, nil, amount, amount, amount, amount}
		require.NoError(t, whole.Add(sold, facts.Place{Day: sold, Row: int64(place)}, [][]byte{[]byte(shop)}, values))
		require.NoError(t, parts[random.IntN(3)].Add(sold, facts.Place{Day: sold, Row: int64(place)}, [][]byte{[]byte(shop)}, values))
		_, err := insert.Exec(sold.String(), shop, cents, place)
		require.NoError(t, err)
	}
	parts[1].Join(parts[2])
	parts[0].Join(parts[1])
	assert.Equal(t, lines(t, whole), lines(t, parts[0]))
	assert.Equal(t, whole.Summary(), parts[0].Summary())

	rows, err := db.Query(`
		WITH s AS (SELECT *, CAST(strftime('%Y', day, 'start of month', '-1 month') AS INTEGER) AS fy,
			(CAST(strftime('%m', day, 'start of month', '-1 month') AS INTEGER) + 2) / 3 AS fq FROM sales),
		w AS (SELECT *, first_value(cents) OVER (PARTITION BY fy, fq, shop ORDER BY day, place) AS first,
			first_value(cents) OVER (PARTITION BY fy, fq, shop ORDER BY day DESC, place DESC) AS last FROM s)
		SELECT 'FY' || fy || ' Q' || fq || '|' || shop || printf('|%.2f|%d|%.2f|%.2f|%.2f|%.2f', sum(cents) / 100.0, count(*),
			min(cents) / 100.0, max(cents) / 100.0, min(first) / 100.0, min(last) / 100.0)
		FROM w GROUP BY fy, fq, shop ORDER BY fy, fq, shop`)
	require.NoError(t, err)
	defer rows.Close()
	var witness []string
	for rows.Next() {
		var line string
		require.NoError(t, rows.Scan(&line))
		witness = append(witness, line)
	}
	require.NoError(t, rows.Err())
	var ours []string
	for _, line := range lines(t, whole) {
		if !strings.HasSuffix(line, "filled") {
			ours = append(ours, line)
		}
	}
	assert.Equal(t, witness, ours)
	assert.Greater(t, len(ours), 130)
}

// Whatever the facts, every group of span all has every period once, and the
// rows add up to the total.
func TestRowsAddUpAtEveryGrain(t *testing.T) {
	random := rand.New(rand.NewPCG(1, 2))
	for _, name := range []string{"day", "week", "iso.week", "month", "quarter", "half", "year", "iso.year", "fiscal.week", "fiscal.month", "fiscal.quarter", "fiscal.half", "fiscal.year"} {
		operation := facts.Operation{Grain: grain(t, name), Groups: []string{"shop"}, AsOf: civil.MaxDay,
			Measures: []facts.Measure{{Kind: facts.Count, Name: "count", Gap: facts.Zero}}}
		tally := facts.NewTally(operation)
		for range 500 {
			shop := []byte{byte('a' + random.IntN(4))}
			require.NoError(t, tally.Add(civiltest.Day("2023-12-01")+civil.Day(random.IntN(900)), facts.Place{}, [][]byte{shop}, [][]byte{nil}))
		}
		sum, seen, last := 0, map[string]bool{}, ""
		for row := range result(t, tally).Rows() {
			count := 0
			_, err := fmt.Sscan(row[4].String(), &count)
			require.NoError(t, err)
			sum += count
			key := row[0].String() + row[3].String()
			require.False(t, seen[key], key)
			require.LessOrEqual(t, last, key)
			seen[key], last = true, key
		}
		assert.Equal(t, 500, sum, name)
		assert.Len(t, seen, 4*result(t, tally).Periods(), name)
	}
}

func BenchmarkTotals(b *testing.B) {
	operation := facts.Operation{Grain: grain(b, "fiscal.month"), Groups: []string{"shop"}, AsOf: civil.MaxDay,
		Measures: []facts.Measure{{Kind: facts.Sum, Name: "amount", Gap: facts.Zero}, {Kind: facts.Count, Name: "count", Gap: facts.Zero}}}
	shops := [][]byte{[]byte("Ashgrove"), []byte("Millrace"), []byte("Varenoord")}
	values := [][]byte{[]byte("129.95"), nil}
	tally, place := facts.NewTally(operation), int64(0)
	for b.Loop() {
		if err := tally.Add(civil.Day(20000+place/100%700), facts.Place{Row: place}, shops[place%3:place%3+1], values); err != nil {
			b.Fatal(err)
		}
		place++
	}
}

func BenchmarkFill(b *testing.B) {
	operation := facts.Operation{Grain: grain(b, "day"), Groups: []string{"shop"}, AsOf: civil.MaxDay,
		Measures: []facts.Measure{{Kind: facts.Mean, Name: "price", Gap: facts.Linear}}}
	tally := facts.NewTally(operation)
	for i := range 1000 {
		group := fmt.Appendf(nil, "%d", i%10)
		if err := tally.Add(civil.Day(20000+i*3), facts.Place{Row: int64(i)}, [][]byte{group}, [][]byte{[]byte("9.95")}); err != nil {
			b.Fatal(err)
		}
	}
	rows := 0
	for b.Loop() {
		result, err := tally.Result()
		if err != nil {
			b.Fatal(err)
		}
		for range result.Rows() {
			rows++
		}
	}
	b.ReportMetric(float64(b.Elapsed().Nanoseconds())/float64(rows), "ns/row")
}
