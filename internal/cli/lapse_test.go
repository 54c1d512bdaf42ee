package cli_test

import (
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"roundyear/civil"
	"roundyear/civil/civiltest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var journeys = map[string]string{
	"j.csv": "id;shop;sent;came\n1;Ballyfern;2026-03-13 16:00;2026-03-16 10:30\n2;Cloghvale;2026-03-13 16:00;2026-03-18 09:00\n3;Ballyfern;2026-03-18 12:00;2026-03-13 12:00\n4;Nowhere;2026-03-16 00:00;\n5;Ballyfern;1900-01-01 00:00;2026-03-16 00:00\n",
	"roundyear.yaml": `roundyear: 1
days_off: [{name: Saint Patrick's Day, when: {month: march, day: 17}}, {name: Founders, prefix: nl, when: {month: march, day: 16}}]
opening_hours: {mon: "09:00-17:00", tue: "09:00-17:00", wed: ["09:00-12:00", "13:00-17:00"], thu: "09:00-17:00", fri: "09:00-17:00"}
sites:
  Ballyfern: {open: [mon, tue, wed, thu, fri, sat, sun]}
  Cloghvale: {shuts: [{when: {date: 2026-03-14}}], opening_hours: {sat: "10:00-12:00", sun: "10:00-11:00"}}
`,
}

// lapsed returns the columns behind those of the input.
func lapsed(t *testing.T, folder string, flags ...string) []string {
	t.Helper()
	result := run(t, folder, append([]string{"lapse", "j.csv", "--start", "sent", "--end", "came", "--as-of", "2026-03-20"}, flags...)...)
	require.LessOrEqual(t, result.code, 1, result.err)
	var all []string
	for i, line := range strings.Split(strings.TrimSuffix(result.out, "\n"), "\n") {
		fields := strings.Split(line, ";")
		require.True(t, i == 0 || fmt.Sprint(i) == fields[0])
		all = append(all, strings.Join(fields[4:], ";"))
	}
	return all
}

func TestLapse(t *testing.T) {
	folder := folderWith(t, journeys)
	for want, flags := range map[string][]string{
		"days|3|5|-5||46095":                     nil,
		"days|4|6|-6||46096":                     {"--ends", "both"},
		"days|2|4|-4||46094":                     {"--ends", "none"},
		"took|0|0|0||1514":                       {"--in", "months", "--name", "took"},
		"weeks|0|0|0||6585":                      {"--in", "weeks"},
		"years|0|0|0||126":                       {"--in", "years"},
		"hours|66.50|113.00|-120.00||1106280.00": {"--in", "hours"},
		"workdays|1|2|-2||":                      {"--in", "workdays"},
		"workdays|0|2|-2||":                      {"--in", "workdays", "--at", "nl"},
		"trading_days|3|5|-5||":                  {"--in", "trading-days", "--at", "Ballyfern"},
		"trading_days|3|4|-5||":                  {"--in", "trading-days", "--at-column", "shop"},
		"business_hours|2.50|9.00|-16.00||":      {"--in", "business-hours"},
		"business_hours|2.50|1.00|-24.00||":      {"--in", "business-hours", "--at-column", "shop"},
		"workdays;band;band_sort|1;0–1;1|2;2 and over;2|-2;negative;-1|;blank;5|;implausible;4": {"--in", "workdays", "--bands", "2"},
		"days;band;band_sort|3;ok;1|5;late;2|-5;negative;-1|;blank;5|46095;implausible;4":       {"--band", "ok=0..4", "--band", "late=5.."},
	} {
		assert.Equal(t, strings.Split(want, "|"), lapsed(t, folder, flags...), flags)
	}
	due := run(t, folder, "lapse", "j.csv", "--start", "sent", "--add-workdays", "2")
	assert.Equal(t, []string{"due_date", "2026-03-18", "2026-03-18", "2026-03-20", "2026-03-19", "1900-01-03"}, lastFields(due.out))
	assert.Equal(t, []string{"paid_due_date", "2026-04-13", "2026-04-13", "2026-04-18", "2026-04-16", "1900-02-01"}, lastFields(run(t, folder, "lapse", "j.csv", "--start", "sent", "--add-months", "1", "--name", "paid").out))
	asOf := run(t, folder, "lapse", "j.csv", "--start", "came", "--as-of", "2026-03-20", "--add-days", "-1", "--in", "days")
	assert.Contains(t, asOf.out, ";4;2026-03-15\n")
	assert.Contains(t, asOf.err, "Up to 2026-03-20, the as-of day\n")
}

// lastFields are the last fields of lines.
func lastFields(text string) (fields []string) {
	for line := range strings.Lines(text) {
		line = strings.TrimSuffix(line, "\n")
		fields = append(fields, line[strings.LastIndexByte(line, ';')+1:])
	}
	return fields
}

func TestLapseReport(t *testing.T) {
	folder := folderWith(t, journeys)
	told := run(t, folder, "lapse", "j.csv", "--start", "sent", "--end", "came", "--in", "workdays", "--bands", "2", "--at-column", "shop", "-o", "out.csv")
	assert.Equal(t, 1, told.code)
	for _, line := range []string{"5 rows measured, written to out.csv\n", "2 rows in workdays: from 3 to 4, median 3.5, mean 3.5\n", "! 1 row negative: the end comes before the start; not in the figures\n",
		"1 row without both dates\n", "! 1 row with more than a hundred years between the two dates, not in the figures\n", "Counted: the later day, not the earlier\n"} {
		assert.Contains(t, told.err, line)
	}
	assert.Regexp(t, `2 and over +2 +40\.0% +60\.0%\n`, told.err)
	require.NoError(t, os.WriteFile(filepath.Join(folder, "k.csv"), []byte("a,b,at\n2026-03-01,2026-03-05,IE\n2026-03-01,2026-03-05,Balyfern\n2026-03-01,2026-03-05,\n"), 0o600))
	places := run(t, folder, "lapse", "k.csv", "--start", "a", "--end", "b", "--in", "workdays", "--at-column", "at")
	assert.Equal(t, 1, places.code)
	assert.Equal(t, "a,b,at,workdays\n2026-03-01,2026-03-05,IE,4\n2026-03-01,2026-03-05,Balyfern,\n2026-03-01,2026-03-05,,\n", places.out)
	assert.Contains(t, places.err, "! 1 row left blank: \"Balyfern\" is neither a site, a prefix of days off nor a region. Did you mean \"Ballyfern\"?\n")
	assert.Contains(t, places.err, "! 1 row left blank: no place is named\n")

	shares := run(t, folder, "lapse", "j.csv", "--start", "sent", "--end", "came", "--bands", "4", "--by", "shop", "--distribution")
	assert.Equal(t, "shop,band,band_sort,rows,percent,percent_up_to\nBallyfern,negative,-1,1,33.3,33.3\nBallyfern,0–3,1,1,33.3,66.7\nBallyfern,4 and over,2,0,0.0,66.7\nBallyfern,implausible,4,1,33.3,100.0\n"+
		"Cloghvale,0–3,1,0,0.0,0.0\nCloghvale,4 and over,2,1,100.0,100.0\nNowhere,0–3,1,0,0.0,0.0\nNowhere,4 and over,2,0,0.0,0.0\nNowhere,blank,5,1,100.0,100.0\n", shares.out)
}

func TestLapseSinceTheRowBefore(t *testing.T) {
	var text strings.Builder
	text.WriteString("n,group,day\n")
	days := map[string][]int{}
	want := map[int]string{}
	for n := range 30000 { // many chunks, out of order
		day := n * 7919 % 28001
		group := string(rune('A' + n%3))
		fmt.Fprintf(&text, "%d,%s,%s\n", n, group, civiltest.Day("1950-01-01")+civil.Day(day))
		days[group] = append(days[group], day*40000+n)
	}
	for _, of := range days {
		sorted := append([]int{}, of...)
		slices.Sort(sorted)
		for i, key := range sorted {
			if i == 0 {
				want[key%40000] = ""
			} else {
				want[key%40000] = fmt.Sprint(key/40000 - sorted[i-1]/40000)
			}
		}
	}
	folder := folderWith(t, map[string]string{"t.csv": text.String()})
	done(t, folder, "lapse", "t.csv", "--start", "day", "--previous", "--by", "group", "--no-plan", "-o", "out.csv")
	lines := strings.Split(strings.TrimSpace(textOf(t, folder, "out.csv")), "\n")[1:]
	require.Len(t, lines, 30000)
	for n, line := range lines {
		require.Equal(t, want[n], line[strings.LastIndexByte(line, ',')+1:], line)
	}
	banded := done(t, folder, "lapse", "t.csv", "--start", "day", "--previous", "--by", "n", "--bands", "1", "--no-plan", "-o", "each.csv")
	assert.Contains(t, banded.err, "30,000  100.0%      100.0%\n", "thirty thousand groups are not shown one by one")
	assert.Less(t, strings.Count(banded.err, "\n"), 20)
	filtered := done(t, folder, "lapse", "t.csv", "--start", "day", "--previous", "--no-plan", "--where", "group=A", "-o", "only.csv", "-o", "only.parquet")
	assert.Contains(t, filtered.err, "10,000 rows measured")
	assert.Contains(t, filtered.err, "Excluded: 20,000 rows by --where")
	for _, line := range strings.Split(strings.TrimSpace(textOf(t, folder, "only.csv")), "\n")[1:] {
		var n int
		_, err := fmt.Sscanf(line, "%d,", &n)
		require.NoError(t, err)
		require.Equal(t, want[n], line[strings.LastIndexByte(line, ',')+1:], line)
	}
}

// A guess from the first rows that all rows do not confirm leaves nothing of what was written by it.
func TestLapseAfterAWrongGuess(t *testing.T) {
	text := "a,b\n" + strings.Repeat("01/02/2026,03/02/2026\n", 3000) + "01/02/2026,02/28/2026\n"
	folder := folderWith(t, map[string]string{"t.csv": text})
	done(t, folder, "lapse", "t.csv", "--start", "a", "--end", "b", "--no-plan", "--order", "month", "-o", "told.csv", "-q")
	failed := run(t, folder, "lapse", "t.csv", "--start", "a", "--end", "b", "--no-plan", "-o", "guessed.csv", "-q")
	assert.Equal(t, 2, failed.code, "nothing says how the first column is written")
	assert.NoFileExists(t, filepath.Join(folder, "guessed.csv"))
	both := strings.Replace(text, "01/02/2026,02/28/2026", "01/13/2026,02/28/2026", 1)
	require.NoError(t, os.WriteFile(filepath.Join(folder, "t.csv"), []byte(both), 0o600))
	done(t, folder, "lapse", "t.csv", "--start", "a", "--end", "b", "--no-plan", "-o", "guessed.csv", "-q")
	out := textOf(t, folder, "guessed.csv")
	assert.Equal(t, 3002, strings.Count(out, "\n"))
	assert.True(t, strings.HasPrefix(out, "a,b,days\n01/02/2026,03/02/2026,59\n"), out[:60])
	assert.Equal(t, out, done(t, folder, "lapse", "t.csv", "--start", "a", "--end", "b", "--no-plan", "-q").out)
}

func TestCallsOfLapseThatDoNotFit(t *testing.T) {
	folder := folderWith(t, journeys)
	for message, flags := range map[string][]string{
		`--in: unknown unit "fortnights"; use days, workdays`:               {"--in", "fortnights"},
		`--ends: "all" is none of later, earlier, both, none`:               {"--ends", "all"},
		"--ends is for units of days, and not for months":                   {"--ends", "both", "--in", "months"},
		"--end and --previous cannot be combined":                           {"--previous"},
		"--at and --at-column cannot be combined":                           {"--at", "IE", "--at-column", "shop"},
		`"Balyfern" is not a site of the plan. Did you mean "Ballyfern"?`:   {"--in", "trading-days", "--at", "Balyfern"},
		`"XX" is neither a site, a prefix of days off nor a region`:         {"--in", "workdays", "--at", "XX"},
		"trading days are those of a site":                                  {"--in", "trading-days"},
		"--distribution goes with --bands or --band":                        {"--distribution"},
		"--bands: bands must go up: 10 does not come after 20":              {"--bands", "20,10"},
		`--bands must be whole numbers such as 10,20,30, not "x"`:           {"--bands", "x"},
		`--band: the bands "a" and "b" overlap`:                             {"--band", "a=0..5", "--band", "b=5..9"},
		`--band: between the bands "a" and "b" there is a gap, from 6 to 6`: {"--band", "a=0..5", "--band", "b=7..9"},
		"--bands and --band cannot be combined":                             {"--band", "a=0..5", "--bands", "1"},
		"--add-days and --add-months cannot be combined":                    {"--add-days", "5", "--add-months", "7"},
		"--add-days must be a number from -1000000 to 1000000, not 5000000": {"--add-days", "5000000"},
		`already has a column "shop". Rename it with --rename`:              {"--name", "shop"},
		"column \"gone\"": {"--by", "gone", "--bands", "1"},
	} {
		result := run(t, folder, append([]string{"lapse", "j.csv", "--start", "sent", "--end", "came"}, flags...)...)
		assert.Equal(t, 2, result.code, message)
		assert.Contains(t, result.err, message)
		assert.Empty(t, result.out)
	}
	assert.Contains(t, run(t, folder, "lapse", "j.csv").err, "name the column that the time begins with: --start COLUMN")
	assert.Contains(t, run(t, folder, "lapse", "j.csv", "--no-plan", "--start", "sent", "--in", "business-hours").err, "business hours need opening_hours in the plan")
	for wrong, message := range map[string]string{
		`opening_hours: {mon: "9-5"}`:                          `opening_hours.mon must be a span of a day such as "09:00-17:30", not "9-5"`,
		`opening_hours: {moonday: "09:00-17:00"}`:              `opening hours are those of weekdays such as monday or mon, not of "moonday"`,
		`opening_hours: {mon: ["09:00-12:00", "11:00-17:00"]}`: "the opening hours of Monday overlap or are not in order",
	} {
		require.NoError(t, os.WriteFile(filepath.Join(folder, "roundyear.yaml"), []byte("roundyear: 1\n"+wrong+"\n"), 0o600))
		assert.Contains(t, run(t, folder, "plan", "check").err, message)
	}
}

// The same is true of a table of a database, of which only the one that was written last is put in place.
func TestTableAfterAWrongGuess(t *testing.T) {
	text := "a,b\n" + strings.Repeat("01/02/2026,03/02/2026\n", 3000) + "01/13/2026,02/28/2026\n"
	onTargets(t, map[string]string{"t.csv": text}, func(t *testing.T, folder string, d target) {
		done(t, folder, "lapse", "t.csv", "--start", "a", "--end", "b", "--no-plan", "-o", d.out+"#guessed", "-q")
		done(t, folder, "lapse", "t.csv", "--start", "a", "--end", "b", "--no-plan", "--order", "month", "-o", d.out+"#told", "-q")
		assert.Equal(t, "59\n46", d.sql("SELECT days FROM guessed GROUP BY days ORDER BY days DESC"))
		assert.Equal(t, "3001", d.sql("SELECT count(*) FROM guessed"))
		assert.Equal(t, d.sql("SELECT * FROM told"), d.sql("SELECT * FROM guessed"))
		assert.ElementsMatch(t, []string{"guessed", "told"}, strings.Fields(namesOfTables(d)))
		twice := run(t, folder, "lapse", "t.csv", "--start", "a", "--end", "b", "--no-plan", "--order", "month", "-o", d.out+"#once", "-o", d.out+"#once")
		assert.Equal(t, 2, twice.code)
		assert.Contains(t, twice.err, "#once: is named as an output twice. Give each output its own name")
		assert.ElementsMatch(t, []string{"guessed", "told"}, strings.Fields(namesOfTables(d)))
	})
}
