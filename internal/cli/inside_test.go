package cli_test

import (
	"flag"
	"fmt"
	"maps"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// insideTable makes facts with what databases compare in other ways than people see it: case, spaces at the end, blanks, quotes, times at
// midnight, wide numbers.
func insideTable(d target, random *rand.Rand) string {
	moment, wide, money := "timestamp", "numeric", "numeric(12,2)"
	text := "text"
	switch d.name {
	case "mysql":
		moment, wide, text = "datetime(3)", "decimal(30,6)", "varchar(40)"
	case "sqlite":
		moment, wide, money = "DATETIME", "NUMERIC", "NUMERIC"
	}
	shops := []string{"'Cork'", "'cork'", "'Cork '", "'Örk'", "'O''Brien'", "''", "NULL", "'N/A'"}
	var values []string
	for range 3000 {
		day := fmt.Sprintf("%d-%02d-%02d", 2024+random.IntN(3), 1+random.IntN(12), 1+random.IntN(28))
		clock := []string{"00:00:00", "23:59:59", "12:30:00"}[random.IntN(3)]
		orNull := func(text string, one int) string {
			if random.IntN(one) == 0 {
				return "NULL"
			}
			return text
		}
		opened := time.Date(2024, 1, 1+random.IntN(900), 0, 0, 0, 0, time.UTC)
		closed := opened.AddDate(0, 0, random.IntN(200)).Add(time.Duration(random.IntN(24)) * time.Hour)
		values = append(values, fmt.Sprintf("(%s, %s, %s, %s, %s, %s, %s, %s, %s)", orNull("'"+day+"'", 40), orNull("'"+day+" "+clock+"'", 40), shops[random.IntN(len(shops))], orNull(fmt.Sprint(random.IntN(12)-3), 9),
			orNull(fmt.Sprintf("%d.%02d", random.IntN(400)-90, random.IntN(100)), 9), orNull(fmt.Sprintf("%d.%d", random.IntN(9e8), random.IntN(999)), 5), []string{"'x'", "'y'", "NULL"}[random.IntN(3)],
			orNull("'"+opened.Format(time.DateOnly)+"'", 30), orNull("'"+closed.Format(time.DateTime)+"'", 3)))
	}
	for i := range 30 { // some values that conditions name
		values[i*7] = fmt.Sprintf("('2025-03-0%d', '2025-03-05 12:00:00', 'Cork', 4, %s, 7, 'x', '2025-01-05', '2025-03-05 10:00:00')", 1+i%9, []string{"12.25", "13"}[i%2])
	}
	return fmt.Sprintf("CREATE TABLE facts (day date, at %s, shop %s, pieces int, amount %s, wide %s, kind %s, opened date, closed %s); INSERT INTO facts VALUES %s;", moment, text, money, wide, text, moment, strings.Join(values, ",\n"))
}

const insidePlan = `roundyear: 1
range: {from: 2024-01-01, to: 2026-12-31}
calendars:
  fiscal: {months: {starts: april}}
  retail: {weeks: {ends_on: saturday, nearest_to: 31 january, split: 4-5-4, leap_week: last}}
days_off: [{region: IE}]
`

// insideKinds are what calls can have, by what it is about. Each occurs in leastOfEach calls that are carried out.
var insideKinds = map[string][]string{
	"where text":   {"shop=Cork", "shop=cork,O'Brien", "shop!=Cork", "shop is blank", "kind is not blank", "kind=x"},
	"where number": {"pieces > 3", "pieces <= 2", "amount >= 10.5", "amount=12.25,13", "pieces != 2", "amount < -5", "pieces is blank", "wide > 1000"},
	"where day":    {"day >= 2025-02-01", "at < 2026-01-01", "day=2025-03-05,2025-03-06", "at != 2025-03-05", "opened > 2025-01-01", "closed <= 2025-12-31"},
	"measure": {"sum amount", "sum pieces", "sum wide", "mean amount", "mean pieces", "min amount", "max pieces", "distinct shop", "distinct pieces", "distinct opened",
		"distinct wide", "median amount", "median wide", "percentile pieces=90", "count", "closing amount", "opening amount", "mean-over-days amount"},
	"compare": {"against previous", "against year-ago", "against previous,year-ago", "against two-years-ago", "against same-weekday-year-ago", "to-date", "complete-only", "subtotals", "share period",
		"share group", "per-workday", "per-day", "rolling 3", "running year", "recent 5", "future drop", "future apart", "top 2", "rank"},
	"gap":    {"zero", "blank", "carry", "carry:2", "linear", "7"},
	"span":   {"all", "since-first", "own", "2024-06-01/2026-06-30"},
	"date":   {"day", "at"},
	"by":     {"shop", "kind", "shop,kind", "pieces", "opened"},
	"grain":  {"month", "week", "iso.week", "quarter", "year", "day", "fiscal.month", "fiscal.quarter", "fiscal.year", "retail.month", "retail.week", "retail.quarter"},
	"census": {"grain month", "grain day", "grain retail.week", "grain fiscal.quarter", "by shop", "where kind=x", "where pieces > 2", "median-age", "cohort", "closing-day counts", "from 2025-02-03"},
	"lapse":  {"in days", "in workdays", "in months", "in weeks", "by shop", "by shop,kind", "where kind=x", "where closed < 2025-05-01", "end closed"},
	"latest": {"date day", "date at", "by shop"},
}

const leastOfEach = 10

// onlyLocal are the kinds that a database cannot do as people see it, so that they are refused inside.
var onlyLocal = map[string][]string{
	// Numbers are binary there, and not compared as they are shown.
	"sqlite": {"where number amount >= 10.5", "where number amount=12.25,13", "where number amount < -5", "where number wide > 1000", "measure distinct wide"},
}

// insideCalls makes calls of what has been carried out least.
type insideCalls struct {
	random *rand.Rand
	// done is how often each kind was carried out, and own are those of the call that is being made.
	done map[string]int
	own  []string
	// onlyLocal are the kinds that are left out.
	onlyLocal []string
}

// one chooses something of a kind: mostly what was carried out least.
func (c *insideCalls) one(about string, texts ...string) string {
	if len(texts) == 0 {
		texts = insideKinds[about]
	}
	texts = slices.DeleteFunc(slices.Clone(texts), func(text string) bool { return slices.Contains(c.onlyLocal, about+" "+text) })
	chosen := texts[c.random.IntN(len(texts))]
	if c.random.IntN(4) > 0 {
		for _, i := range c.random.Perm(len(texts)) {
			if c.done[about+" "+texts[i]] < c.done[about+" "+chosen] {
				chosen = texts[i]
			}
		}
	}
	c.own = append(c.own, about+" "+chosen)
	return chosen
}

// flag are the words of a flag with its value, such as "rolling 3".
func flagOf(text string) []string {
	name, value, found := strings.Cut(text, " ")
	if !found {
		return []string{"--" + name}
	}
	return []string{"--" + name, value}
}

// flags chooses several flags of a kind, each of another name.
func (c *insideCalls) flags(about string, most int, isLeft func(string) bool) (call []string) {
	names := map[string]bool{}
	for range c.random.IntN(most + 1) {
		left := slices.DeleteFunc(slices.Clone(insideKinds[about]), func(text string) bool { return names[flagOf(text)[0]] || isLeft != nil && !isLeft(text) })
		words := flagOf(c.one(about, left...))
		names[words[0]] = true
		call = append(call, words...)
	}
	return call
}

// rarest tells which kinds were carried out least, and how often.
func (c *insideCalls) rarest() (kinds []string, least int) {
	least = math.MaxInt
	for about, texts := range insideKinds {
		for _, text := range texts {
			if slices.Contains(c.onlyLocal, about+" "+text) {
				continue
			}
			switch done := c.done[about+" "+text]; {
			case done < least:
				kinds, least = []string{about + " " + text}, done
			case done == least:
				kinds = append(kinds, about+" "+text)
			}
		}
	}
	return kinds, least
}

// next is a call of totals, fill, census, lapse or latest, with whatever flags go together.
func (c *insideCalls) next() []string {
	c.own = nil
	random := c.random
	least := func(about string) int {
		least := math.MaxInt
		for _, text := range insideKinds[about] {
			least = min(least, c.done[about+" "+text])
		}
		return least
	}
	command := random.IntN(14)
	switch rarest := []string{"census", "lapse", "latest"}[random.IntN(3)]; {
	case random.IntN(4) == 0 && least(rarest) < leastOfEach:
		command = map[string]int{"census": 0, "lapse": 2, "latest": 4}[rarest]
	case least("census") >= leastOfEach && least("lapse") >= leastOfEach && least("latest") >= leastOfEach:
		command = max(command, 5)
	}
	switch command {
	case 0, 1:
		return append([]string{"census", "FACTS", "--opened", "opened", "--closed", "closed", "--as-of", "2026-03-15"}, append(flagOf(c.one("census", insideKinds["census"][:4]...)), c.flags("census", 4, func(text string) bool { return !strings.HasPrefix(text, "grain") })...)...)
	case 2, 3:
		return append([]string{"lapse", "FACTS", "--start", "opened", "--as-of", "2026-03-15", "--distribution", "--bands", "10,30,200"}, append(flagOf(c.one("lapse", insideKinds["lapse"][:4]...)), c.flags("lapse", 4, func(text string) bool { return !strings.HasPrefix(text, "in ") })...)...)
	case 4:
		return append([]string{"latest", "FACTS", "--sum", "amount", "--count"}, append(c.flags("latest", 1, func(text string) bool { return text == "by shop" }), flagOf(c.one("latest", "date day", "date at"))...)...)
	}
	call := []string{"totals", "FACTS", "--date", c.one("date"), "--as-of", []string{"2026-03-15", "2025-06-30", "2027-02-01"}[random.IntN(3)]}
	isFill, grain := random.IntN(4) == 0, c.one("grain")
	call = append(call, "--grain", grain)
	by := ""
	if random.IntN(2) == 0 {
		by = c.one("by")
		call = append(call, "--by", by)
	}
	isFree := func(text string) bool { // a column is not both a group and a measure
		words := flagOf(text)
		return len(words) == 1 || !slices.Contains(strings.Split(by, ","), strings.TrimSuffix(words[1], "=90"))
	}
	if isFill {
		call[0] = "fill"
		call = append(call, "--span", c.one("span"))
		for _, column := range []string{"amount", "pieces", "wide"} {
			if column != by {
				call = append(call, "--sum", column, "--gap", column+"="+c.one("gap"))
			}
		}
	} else {
		call = append(call, flagOf(c.one("measure", slices.DeleteFunc(slices.Clone(insideKinds["measure"]), func(text string) bool { return !isFree(text) || text != "count" && !strings.HasPrefix(text, "sum") })...))...)
	}
	if !isFill {
		used := slices.Clone(call)
		call = append(call, c.flags("measure", 3, func(text string) bool { return isFree(text) && !slices.Contains(used, flagOf(text)[0]) })...)
	}
	abouts := []string{"where text", "where number", "where day"}
	for _, i := range random.Perm(3)[:1+random.IntN(2)] {
		call = append(call, "--where", c.one(abouts[i]))
	}
	if random.IntN(6) == 0 && !slices.Contains(call, "2024-06-01/2026-06-30") {
		call = append(call, "--from", "2024-05-10")
	}
	if isFill {
		return call
	}
	isToDate := random.IntN(6) == 0 && grain != "day"
	if isToDate {
		call = append(call, flagOf(c.one("compare", "to-date"))...)
	}
	return append(call, c.flags("compare", 3, func(text string) bool {
		switch name, _, _ := strings.Cut(text, " "); name {
		case "to-date":
			return false
		case "against":
			return grain != "day"
		case "rolling", "complete-only":
			return !isToDate
		case "running":
			return !isToDate && !strings.HasSuffix(grain, "year")
		case "subtotals", "top", "rank":
			return by != ""
		}
		return true
	})...)
}

// How many calls are tried on each database, and the seed that they and the facts are made of.
var (
	insideLeast = flag.Int("inside", 60, "calls to carry out inside each database")
	insideSeed  = flag.Uint64("inside-seed", 15, "seed of the calls and the facts")
)

// callsWithDetector is how many of them are tried with the race detector.
const callsWithDetector = 4

// What is added up inside a database is, cell for cell and word for word, what is added up from its rows.
func TestInsideIsAsLocal(t *testing.T) {
	onTargets(t, map[string]string{"roundyear.yaml": insidePlan}, func(t *testing.T, folder string, d target) {
		random := rand.New(rand.NewPCG(*insideSeed, uint64(len(d.name))))
		d.sql(insideTable(d, random))
		calls := &insideCalls{random: random, done: map[string]int{}, onlyLocal: onlyLocal[d.name]}
		tried, carriedOut, refused := 0, 0, []string{}
		for {
			rarest, least := calls.rarest()
			if carriedOut >= *insideLeast && least >= leastOfEach {
				break
			}
			tried++
			require.LessOrEqual(t, tried, min(carriedOut*2+50, *insideLeast*8), "most of it is carried out inside; only %d times %v; refused: %v", least, rarest, refused)
			run := run
			if carriedOut < callsWithDetector {
				run = runRaced
			}
			call := calls.next()
			call[1] = d.out + "#facts"
			local := run(t, folder, append(call, "--run", "local")...)
			inside := run(t, folder, append(call, "--run", "inside")...)
			if strings.Contains(inside.err, "cannot be added up inside its database") || strings.Contains(inside.err, "cannot be measured inside its database") {
				assert.Equal(t, 2, inside.code)
				continue
			}
			require.Equal(t, local.code, inside.code, "%v\n%s\n%s", call, local.err, inside.err)
			require.Equal(t, local.out, inside.out, "%v", call)
			require.Equal(t, local.err, inside.err, "%v", call)
			if inside.code > 1 { // where both refuse, nothing was shown
				refused = append(refused, inside.err)
				continue
			}
			carriedOut++
			for _, kind := range calls.own {
				calls.done[kind]++
			}
		}
		t.Logf("%d calls of %d carried out on %s: %v", carriedOut, tried, d.name, calls.done)
	})
}

// What a database cannot carry out with the same answer is refused with the reason, and done here unless it was asked for.
func TestRefusedInside(t *testing.T) {
	onTargets(t, map[string]string{"roundyear.yaml": insidePlan, "s.csv": "day,amount\n2026-01-05,1\n"}, func(t *testing.T, folder string, d target) {
		d.sql(insideTable(d, rand.New(rand.NewPCG(1, 1))))
		facts := d.out + "#facts"
		base := []string{"totals", facts, "--date", "day", "--as-of", "2026-03-15"}
		for _, c := range []struct {
			flags []string
			why   string
		}{
			{[]string{"--first", "amount"}, "first needs the order of the rows"},
			{[]string{"--last", "pieces"}, "last needs the order of the rows"},
			{[]string{"--median", "kind"}, "kind is not a column of numbers with decimals in the database"},
			{[]string{"--sum", "kind"}, "kind is not a column of numbers in the database"},
			{[]string{"--count", "--day-starts", "04:00"}, "days that do not start at midnight are converted locally"},
			{[]string{"--count", "--blank-as", "N/A"}, "values that stand for blanks are recognised locally"},
			{[]string{"--sum", "twice", "--let", "twice = amount * 2"}, "the facts are not a plain table or query of a database"},
		} {
			call := append(base[:len(base):len(base)], c.flags...)
			refused := run(t, folder, append(call, "--run", "inside")...)
			assert.Equal(t, 2, refused.code, call)
			assert.Contains(t, refused.err, facts+" cannot be added up inside its database: ", call)
			assert.Contains(t, refused.err, c.why+"; use --run local", call)
		}
		wrong := run(t, folder, append(base, "--count", "--run", "there")...)
		assert.Contains(t, wrong.err, `--run must be inside or local, not "there"`)
		for _, c := range [][]string{{"--sum", "pieces", "quantities are added up span by span"}, {"--id", "pieces", "repeated identifiers are found row by row"}} {
			census := run(t, folder, "census", facts, "--opened", "opened", "--closed", "closed", "--as-of", "2026-03-15", "--run", "inside", c[0], c[1])
			assert.Equal(t, 2, census.code)
			assert.Contains(t, census.err, c[2])
		}
		for _, c := range [][]string{{"--in", "hours", "--distribution", "--bands", "10", "hours are measured row by row"}, {"--previous", "--distribution", "--bands", "10", "--in", "days", "the row before is found row by row"}} {
			lapse := run(t, folder, append([]string{"lapse", facts, "--start", "opened", "--as-of", "2026-03-15", "--run", "inside"}, c[:len(c)-1]...)...)
			assert.Equal(t, 2, lapse.code)
			assert.Contains(t, lapse.err, c[len(c)-1])
		}
		backward := run(t, folder, "census", facts, "--opened", "closed", "--closed", "opened", "--as-of", "2026-03-15", "--run", "inside")
		assert.Contains(t, backward.err, "spans that close before they open are told row by row; use --run local")
		file := run(t, folder, "totals", "s.csv", "--count", "--run", "inside")
		assert.Contains(t, file.err, "s.csv cannot be added up inside its database: the facts are not a plain table or query of a database")
		// The statement alone, which the database takes as it is.
		told := done(t, folder, append(base, "--sum", "pieces", "--by", "kind", "--where", "kind=x", "--dry-run")...)
		assert.Contains(t, told.out, "GROUP BY 1, 2, 3;\n")
		assert.Empty(t, told.err)
		if d.name != "sqlite" {
			assert.Greater(t, strings.Count(d.sql(told.out), "\n"), 100)
		}
		// Values that are none everywhere, where the first rows do not show them.
		for flags, update := range map[string]map[string]string{
			"--count --where amount>10":         {"postgres": "UPDATE facts SET amount = 'NaN' WHERE ctid = (SELECT max(ctid) FROM facts)"},
			"--count --where wide<10":           {"postgres": "UPDATE facts SET wide = 'NaN' WHERE ctid = (SELECT max(ctid) FROM facts)"},
			"--min amount":                      {"postgres": "UPDATE facts SET amount = 'NaN' WHERE ctid = (SELECT max(ctid) FROM facts)"},
			"--count --where opened<2025-06-01": {"postgres": "UPDATE facts SET opened = '-infinity' WHERE ctid = (SELECT max(ctid) FROM facts)", "mysql": "SET sql_mode = ''; UPDATE facts SET opened = '2025-00-10' WHERE opened IS NOT NULL ORDER BY opened DESC LIMIT 1"},
			"--count --where at!=2025-06-01":    {"postgres": "UPDATE facts SET at = 'infinity' WHERE ctid = (SELECT max(ctid) FROM facts)"},
		} {
			if update[d.name] == "" {
				continue
			}
			d.sql("CREATE TABLE kept AS SELECT * FROM facts; " + update[d.name])
			call := append(base[:len(base):len(base)], strings.Fields(flags)...)
			local := run(t, folder, append(call, "--run", "local")...)
			assert.NotZero(t, local.code, "%s: %s", flags, local.err)
			refused := run(t, folder, append(call, "--run", "inside")...)
			assert.Contains(t, refused.err, "it holds a value that is only read locally; use --run local", flags)
			d.sql("DROP TABLE facts; ALTER TABLE kept RENAME TO facts")
		}
		// A query in place of a table.
		query := d.out + "#SELECT day, pieces, upper(shop) AS name FROM facts WHERE pieces > 0"
		call := []string{"totals", query, "--date", "day", "--sum", "pieces", "--by", "name", "--as-of", "2026-03-15", "--grain", "year"}
		local := attended(t, folder, append(call, "--run", "local")...)
		assert.Contains(t, local.err, "! 39 rows without a date, not in any period: pieces 163\n")
		assert.Equal(t, local, attended(t, folder, append(call, "--run", "inside")...))
	})
}

// Dates that are text are turned into days by SQL where all of them are written in one way that leaves no choice; else the reason is told.
func TestDatesOfTextsInside(t *testing.T) {
	onTargets(t, map[string]string{"roundyear.yaml": insidePlan}, func(t *testing.T, folder string, d target) {
		text := map[string]string{"postgres": "text", "mysql": "varchar(40)", "sqlite": "TEXT"}[d.name]
		layouts := map[string]string{"dmy": "02/01/2006", "mdy": "01-02-2006", "dots": "02.01.2006 15:04", "iso": "2006-01-02", "moment": "2006-01-02T15:04:05", "packed": "20060102"}
		names := slices.Sorted(maps.Keys(layouts))
		random := rand.New(rand.NewPCG(4, 2))
		var columns, values []string
		for _, name := range names {
			columns = append(columns, name+" "+text)
		}
		for range 900 {
			moment := time.Date(2024, 1, 1+random.IntN(900), random.IntN(24), random.IntN(60), random.IntN(60), 0, time.UTC)
			var row []string
			for _, name := range names {
				value := "'" + moment.Format(layouts[name]) + "'"
				if random.IntN(30) == 0 {
					value = []string{"NULL", "''"}[random.IntN(2)]
				}
				row = append(row, value)
			}
			values = append(values, "("+strings.Join(row, ", ")+fmt.Sprintf(", %d)", random.IntN(100)))
		}
		d.sql("CREATE TABLE facts (" + strings.Join(columns, ", ") + ", n int); INSERT INTO facts VALUES " + strings.Join(values, ",\n"))
		for _, name := range names {
			call := []string{"totals", d.out + "#facts", "--date", name, "--sum", "n", "--count", "--grain", "retail.month", "--against", "previous", "--as-of", "2026-03-15"}
			local, inside := run(t, folder, append(call, "--run", "local")...), run(t, folder, append(call, "--run", "inside")...)
			assert.Equal(t, local, inside, name)
			assert.Contains(t, local.out, "2025", name)
		}
		// One that is written in another way, a day that there is not, and days that leave a choice.
		refusedFor := func(name, why string) {
			refused := run(t, folder, "totals", d.out+"#facts", "--date", name, "--sum", "n", "--as-of", "2026-03-15", "--run", "inside")
			assert.Equal(t, 2, refused.code, name)
			assert.Contains(t, refused.err, why, name)
		}
		d.sql("INSERT INTO facts (dmy, n) VALUES ('30/02/2025', 1); INSERT INTO facts (iso, n) VALUES ('2025-1-1', 1); INSERT INTO facts (packed, n) VALUES (' 20250101', 1); INSERT INTO facts (dots, n) VALUES ('01.01.2025 24:00', 1)")
		refusedFor("dmy", "dates in dmy are not all written as dd/MM/yyyy; use --run local")
		refusedFor("iso", "how dates in iso are written is read locally; use --run local")
		refusedFor("packed", "dates in packed are not all written as yyyyMMdd; use --run local")
		refusedFor("dots", "dates in dots are not all written as dd.MM.yyyy HH:mm; use --run local")
		d.sql("DELETE FROM facts; INSERT INTO facts (dmy, n) VALUES ('03/04/2025', 1)")
		refusedFor("dmy", "nothing in dmy settles whether the day or the month comes first; use --run local")
		asked := done(t, folder, "totals", d.out+"#facts", "--date", "dmy", "--sum", "n", "--as-of", "2026-03-15", "--order", "month", "--grain", "month", "--run", "inside")
		assert.Contains(t, asked.out, "2025-03,2025-03-01,2025-03-31,1,")
	})
}
