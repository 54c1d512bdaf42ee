package cli_test

import (
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/civil"
	"roundyear/civil/civiltest"
)

var tickets = map[string]string{"t.csv": "id,team,opened,closed,seats\n1,A,28/01/2026,03/02/2026,\"2,5\"\n2,A,31/01/2026,,4\n3,B,10/02/2026,10/02/2026,1\n4,B,15/02/2026,28/02/2026,\n"}

func census(t *testing.T, folder string, flags ...string) said {
	t.Helper()
	return run(t, folder, append([]string{"census", "t.csv", "--opened", "opened", "--closed", "closed", "--no-plan", "--as-of", "2026-03-10"}, flags...)...)
}

func TestCensus(t *testing.T) {
	folder := folderWith(t, tickets)
	counted := census(t, folder, "--sum", "seats", "--median-age")
	require.Equal(t, 0, counted.code, counted.err)
	assert.Equal(t, "period,period_start,period_end,open,opened,closed,mean_open,mean_age,median_age,seats_open,seats_opened,seats_closed,seats_mean_open,is_running\n"+
		"2026-01,2026-01-01,2026-01-31,2,2,0,0.16,1.50,1.5,6.5,6.5,0.0,0.452,false\n"+
		"2026-02,2026-02-01,2026-02-28,1,2,3,1.54,28.00,28.0,4.0,1.0,3.5,4.179,false\n"+
		"2026-03,2026-03-01,2026-03-31,1,0,0,1.00,38.00,38.0,4.0,0.0,0.0,4.000,true\n", counted.out)
	assert.Equal(t, "4 rows from 2026-01-28 to 2026-02-28 in 3 months; 1 open on 2026-03-10\nA row is open from its opening day to the day before it closes; as of 2026-03-10\n", counted.err)

	whole := census(t, folder, "--closing-day", "counts", "--opening-day", "not", "--by", "team", "--grain", "day", "--from", "2026-02-28", "--to", "2026-03-01")
	assert.Equal(t, "period,period_start,period_end,team,open,opened,closed,mean_open,mean_age,is_running\n"+
		"2026-02-28,2026-02-28,2026-02-28,A,1,0,0,1.00,27.00,false\n2026-02-28,2026-02-28,2026-02-28,B,1,0,0,1.00,12.00,false\n"+
		"2026-03-01,2026-03-01,2026-03-01,A,1,0,0,1.00,28.00,false\n2026-03-01,2026-03-01,2026-03-01,B,0,0,1,0.00,,false\n", whole.out)
	assert.Contains(t, whole.err, "A row is open from the day after its opening day to its closing day;")
	assert.Contains(t, whole.err, "note: opened and closed count on the day after, when it is open or no longer open: of the last day of a period in the next one\n")
	ends := census(t, folder, "--closing-day", "counts")
	assert.Contains(t, ends.err, "note: closed counts on the day after, when it is no longer open: of the last day of a period in the next one\n")
	assert.Contains(t, ends.out, "\n2026-02,2026-02-01,2026-02-28,2,2,2,")
	assert.Contains(t, ends.out, "\n2026-03,2026-03-01,2026-03-31,1,0,1,", "2 and 0 opened and 1 closed make 1")

	rows := census(t, folder, "--rows", "--where", "team=A,B", "--to", "2026-02-28")
	assert.Equal(t, "id,team,opened,closed,seats,period,period_start,period_end,status\n"+
		"1,A,28/01/2026,03/02/2026,\"2,5\",2026-01,2026-01-01,2026-01-31,opened\n1,A,28/01/2026,03/02/2026,\"2,5\",2026-02,2026-02-01,2026-02-28,closed\n"+
		"2,A,31/01/2026,,4,2026-01,2026-01-01,2026-01-31,opened\n2,A,31/01/2026,,4,2026-02,2026-02-01,2026-02-28,open\n"+
		"3,B,10/02/2026,10/02/2026,1,2026-02,2026-02-01,2026-02-28,closed\n4,B,15/02/2026,28/02/2026,,2026-02,2026-02-01,2026-02-28,closed\n", rows.out)
	assert.Contains(t, rows.err, "6 rows will be written: 4 rows, once per month\n6 rows written\n")

	cohorts := census(t, folder, "--cohort")
	assert.Equal(t, "period,period_start,period_end,opened,periods_later,open,percent_open\n2026-01,2026-01-01,2026-01-31,2,0,2,100.0\n2026-01,2026-01-01,2026-01-31,2,1,1,50.0\n2026-02,2026-02-01,2026-02-28,2,0,0,0.0\n", cohorts.out)
	triangle := census(t, folder, "--cohort", "--format", "table", "--by", "team")
	assert.Contains(t, triangle.err, "opened in  team  opened  +0  +1\n")
	assert.Contains(t, triangle.err, "2026-01    A          2   2   1\n2026-02    B          2   0\n")
}

// The plan says which two dates facts have, and a Parquet file with types gives the same as text.
func TestCensusByPlanAndTypes(t *testing.T) {
	folder := folderWith(t, tickets)
	require.NoError(t, os.WriteFile(filepath.Join(folder, "roundyear.yaml"), []byte("roundyear: 1\nfacts:\n  tickets: {files: t.csv, out: clean.csv, dates: {opened: {pattern: dd/MM/yyyy}, closed: {pattern: dd/MM/yyyy}}}\n"), 0o600))
	want := done(t, folder, "census", "tickets", "--by", "team", "--as-of", "2026-03-10").out
	assert.Equal(t, 7, strings.Count(want, "\n"))
	done(t, folder, "normalise", "tickets")
	assert.Equal(t, want, done(t, folder, "census", "tickets", "--by", "team", "--as-of", "2026-03-10").out)
	done(t, folder, "normalise", "tickets", "-o", "clean.parquet")
	assert.Equal(t, want, done(t, folder, "census", "clean.parquet", "--opened", "opened_date", "--closed", "closed_date", "--by", "team", "--as-of", "2026-03-10").out)
	done(t, folder, "census", "clean.parquet", "--opened", "opened_date", "--closed", "closed_date", "--as-of", "2026-03-10", "--rows", "-o", "rows.parquet", "-o", "rows.jsonl", "-q")
	assert.Equal(t, 7, strings.Count(textOf(t, folder, "rows.jsonl"), "\n"))
	assert.Contains(t, done(t, folder, "totals", "rows.parquet", "--date", "period_start", "--by", "status", "--count", "--grain", "year", "--as-of", "2027-01-01").out, "closed,3,")
}

func TestWhatACensusDoesNotCount(t *testing.T) {
	folder := folderWith(t, map[string]string{"t.csv": "id,opened,closed,n\n1,2026-01-05,2026-01-04,1\n2,,2026-01-04,1\n3,2026-04-01,,1\n4,2026-02-01,2026-04-01,1\n4,2026-02-02,,x\n5,2026-02-03,2026-02-02,1\n5,2026-02-03,2026-02-02,1\n5,2026-02-03,2026-02-02,1\n"})
	counted := census(t, folder, "--id", "id")
	assert.Equal(t, 1, counted.code)
	assert.Contains(t, counted.out, "2026-02,2026-02-01,2026-02-28,2,2,0,")
	for _, line := range []string{"Not counted: 1 row that opens after 2026-03-10\n", "! 1 row without an opening day, not counted\n", "! t.csv, line 2: closed on 2026-01-04, before it opened on 2026-01-05; not counted\n",
		"! 1 more row that closed before it opened, not counted\n", "! t.csv, line 6, column id: repeats the key of line 5; counted again\n", "2 rows from 2026-02-01 to 2026-02-02 in 2 months; 2 open on 2026-03-10\n"} {
		assert.Contains(t, counted.err, line)
	}
	for message, flags := range map[string][]string{
		"t.csv, line 6, column n: \"x\" is not a number. Correct the value, or set such rows apart with normalise --number n": {"--sum", "n"},
		"column \"who\"": {"--by", "who"},
		"--closing-day must be counts or not, not \"yes\"":                   {"--closing-day", "yes"},
		"--cohort and --rows cannot be combined":                             {"--cohort", "--rows"},
		"t.csv, column n: would be in the result twice":                      {"--by", "n", "--by", "n"},
		"there would be 4 rows, more than 3":                                 {"--rows", "--max-rows", "3"},
		"the result would have 3 rows, more than 2":                          {"--max-rows", "2", "--from", "2026-01-01"},
		"no period up to 2026-03-10, the as-of day, is left":                 {"--from", "2026-05-01"},
		"no row has id = \"44\". Did you mean \"4\"?":                        {"--where", "id=44"},
		"nothing opened up to 2026-03-10, the as-of day, but 1 row after it": {"--where", "id=3"},
	} {
		failed := census(t, folder, flags...)
		assert.Equal(t, 2, failed.code, message)
		assert.Contains(t, failed.err, message)
		assert.Empty(t, failed.out)
	}
	assert.Contains(t, run(t, folder, "census", "t.csv", "--no-plan").err, "name the columns of the opening and the closing day: --opened COLUMN --closed COLUMN")
	require.NoError(t, os.WriteFile(filepath.Join(folder, "bad.csv"), []byte("opened,closed\n2026-01-01,soon\n"), 0o600))
	bad := run(t, folder, "census", "bad.csv", "--opened", "opened", "--closed", "closed", "--no-plan")
	assert.Equal(t, 2, bad.code)
	assert.Contains(t, bad.err, `bad.csv, line 2, column closed: contains no recognisable date; the first is "soon"`)
}

// Many rows in many chunks are as many as were said, and add up to the census.
func TestCensusRowsAddUp(t *testing.T) {
	random := rand.New(rand.NewPCG(5, 6))
	first := civiltest.Day("2024-01-01")
	var text strings.Builder
	text.WriteString("id,team,opened,closed\n")
	for id := range 20000 {
		opened := first + civil.Day(random.IntN(500))
		closed := (opened + civil.Day(random.IntN(90))).String()
		if random.IntN(20) == 0 {
			closed = ""
		}
		fmt.Fprintf(&text, "%d,%c,%s,%s\n", id, 'A'+random.IntN(3), opened, closed)
	}
	folder := folderWith(t, map[string]string{"t.csv": text.String()})
	call := []string{"census", "t.csv", "--opened", "opened", "--closed", "closed", "--no-plan", "--as-of", "2025-06-30", "--grain", "week", "--by", "team"}
	counts := done(t, folder, call...).out
	said := done(t, folder, append(call, "--rows", "-o", "rows.csv")...).err
	written := strings.Count(textOf(t, folder, "rows.csv"), "\n") - 1
	assert.Contains(t, strings.ReplaceAll(said, ",", ""), fmt.Sprintf("%d rows will be written", written))
	byStatus := done(t, folder, "totals", "rows.csv", "--date", "period_start", "--by", "team,status", "--count", "--grain", "week", "--no-plan", "--as-of", "2025-06-30", "-q").out
	open := map[string]int{}
	for _, line := range strings.Split(strings.TrimSpace(byStatus), "\n")[1:] {
		fields := strings.Split(line, ",")
		var count int
		_, err := fmt.Sscan(fields[5], &count)
		require.NoError(t, err)
		if key := fields[1] + fields[3]; fields[4] == "closed" {
			open[key+"closed"] += count
		} else {
			open[key] += count
		}
	}
	lines := strings.Split(strings.TrimSpace(counts), "\n")[1:]
	assert.Greater(t, len(lines), 200)
	for _, line := range lines {
		fields := strings.Split(line, ",")
		require.Equal(t, fields[4]+" "+fields[6], fmt.Sprintf("%d %d", open[fields[1]+fields[3]], open[fields[1]+fields[3]+"closed"]), line)
	}
}
