package cli_test

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Whatever stands in a list of days off, no days are lost in silence, and no
// list ends the program otherwise than with words.
func TestListsOfDaysOffAreReadWholeOrRefused(t *testing.T) {
	calendar := func(events string) string {
		return "BEGIN:VCALENDAR\nVERSION:2.0\nPRODID:x\nBEGIN:VEVENT\nUID:a\nDTSTAMP:20260101T000000Z\nSUMMARY:A\n" + events + "\nEND:VEVENT\nEND:VCALENDAR\n"
	}
	for _, c := range []struct{ name, content, args, want string }{
		{"a.ics", calendar("DTSTART;VALUE=DATE:20260105\nRDATE;VALUE=DATE:20260301,20260402"), "--year 2026", "2026-01-05 2026-03-01 2026-04-02"},
		{"a.ics", calendar("DTSTART;VALUE=DATE:20260105\nRRULE:FREQ=YEARLY\nEXDATE;VALUE=DATE:20270105,20280105"), "--from 2026-01-01 --to 2029-12-31", "2026-01-05 2029-01-05"},
		{"a.ics", calendar("DTSTART;VALUE=DATE:16000105\nRRULE:FREQ=YEARLY"), "--year 1650", "1650-01-05"},
		{"a.ics", calendar("DTSTART;VALUE=DATE:22000105\nRRULE:FREQ=YEARLY"), "--from 2200-01-01 --to 2201-12-31", "2200-01-05 2201-01-05"},
		{"a.json", `[{"date": 20240106, "name": "A"}]`, "--year 2024", "2024-01-06"},
		{"a.html", "<table></table>", "--year 2024", "a.html: no table of the page has the columns"},
		{"a.html", "<table><tr></tr></table>", "--year 2024", "a.html: no table of the page has the columns"},
		{"a.html", "", "--year 2024", "a.html: the page has no table"},
		{"a.html", "<table><tr>" + strings.Repeat("<td colspan=1000 rowspan=1000>"+strings.Repeat("x", 100), 50) + strings.Repeat("<tr><td>a", 1000) + "</table>", "--year 2024", "a.html: its tables contain more than 64 MB of text"},
		{"a.json", "[" + strings.Repeat(`{"k":1},`, 3) + `{"x":[1,{"y":2}]}]`, "--year 2024", `a.json: has no column "name"`},
		{"a.ics", "BEGIN:VCALENDAR\nEND:VCALENDAR\n", "--year 2024", "a.ics: the calendar has no events"},
		{"a.csv", "date,name\n2026-01-05,A\nyesterday,B\n", "--year 2026", "a.csv, line 3, column date: \"yesterday\""},
		{"a.csv", "date,name\n03/04/2026,A\n05/06/2026,B\n", "--year 2026", "Add the format of date to the plan, next to file: pattern: dd/MM/yyyy"},
	} {
		folder := folderWith(t, map[string]string{c.name: c.content, "roundyear.yaml": "roundyear: 1\ndays_off: [{file: " + c.name + "}]\n"})
		result := run(t, folder, append([]string{"days-off", "--format", "csv"}, strings.Fields(c.args)...)...)
		if result.code != 0 {
			assert.Contains(t, result.err, c.want, c.content[:min(len(c.content), 200)])
			assert.NotContains(t, result.err, "--pattern", "a plan has no flags")
			assert.NotContains(t, result.err, "--order", "a plan has no flags")
			continue
		}
		var days []string
		for _, line := range strings.Split(strings.TrimSpace(result.out), "\n")[1:] {
			days = append(days, line[:10])
		}
		assert.Equal(t, c.want, strings.Join(days, " "), c.content)
	}
}

func TestLongListsAreNotCut(t *testing.T) {
	var text strings.Builder
	text.WriteString("date,name\n")
	for i := range 120_000 {
		fmt.Fprintf(&text, "%s,Day %d\n", time.Date(1900, 1, 1+i%73000, 0, 0, 0, 0, time.UTC).Format("2006-01-02"), i)
	}
	text.WriteString("2150-06-01,The last\n")
	folder := folderWith(t, map[string]string{"a.csv": text.String(), "roundyear.yaml": "roundyear: 1\ndays_off: [{file: a.csv}]\n"})
	assert.Contains(t, done(t, folder, "days-off", "--year", "2150", "--format", "csv").out, "2150-06-01,,The last,")
}

// Small plans and lists take little memory, whatever they ask for.
func TestDaysOffTakeMemoryByTheirLength(t *testing.T) {
	var events strings.Builder
	events.WriteString("BEGIN:VCALENDAR\nVERSION:2.0\nPRODID:x\n")
	for i := range 45 {
		fmt.Fprintf(&events, "BEGIN:VEVENT\nUID:%d\nDTSTAMP:20260101T000000Z\nSUMMARY:A%d\nDTSTART;VALUE=DATE:20000101\nDTEND;VALUE=DATE:20001231\nRRULE:FREQ=DAILY\nEND:VEVENT\n", i, i)
	}
	var objects []string
	for i := range 20_000 {
		objects = append(objects, fmt.Sprintf(`{"k%d":1}`, i))
	}
	var rules, sites, aliased strings.Builder
	for i := range 100_000 {
		fmt.Fprintf(&rules, "  - {name: R%d, when: {month: %d, day: %d}}\n", i, i%12+1, i%28+1)
	}
	for i := range 1000 {
		fmt.Fprintf(&aliased, "{when: {month: %d, day: %d}, reason: r%d}, ", i%12+1, i%28+1, i)
	}
	for i := range 5000 {
		if i == 0 {
			fmt.Fprintf(&sites, "  S0: {shuts: &all [%s]}\n", aliased.String())
			continue
		}
		fmt.Fprintf(&sites, "  S%d: {shuts: *all}\n", i)
	}
	folder := folderWith(t, map[string]string{
		"a.ics": events.String() + "END:VCALENDAR\n", "a.json": "[" + strings.Join(objects, ",") + "]",
		"ics.yaml": "roundyear: 1\ndays_off: [{file: a.ics}]\n", "json.yaml": "roundyear: 1\ndays_off: [{file: a.json}]\n",
		"rules.yaml": "roundyear: 1\ndays_off:\n" + rules.String(), "sites.yaml": "roundyear: 1\nsites:\n" + sites.String(),
	})
	for _, args := range [][]string{
		{"build", "-p", "ics.yaml", "--from", "2026-01-01", "--to", "2027-12-31", "-o", "d.csv"},
		{"days-off", "-p", "json.yaml", "--year", "2026", "-o", "d.csv"},
		{"days-off", "-p", "rules.yaml", "--year", "2026", "-o", "d.csv"},
		{"build", "-p", "sites.yaml", "--trading", "--from", "2026-01-01", "--to", "2026-01-02", "-o", "d.csv"},
	} {
		command := exec.Command(plain, append(args, "-q")...)
		command.Dir = folder
		start := time.Now()
		peak, err := peakOf(command)
		if err != nil {
			assert.LessOrEqual(t, command.ProcessState.ExitCode(), 2, "%v", args)
		}
		t.Logf("%v: %s, %d MB", args, time.Since(start).Round(time.Millisecond), peak>>10)
		assert.Less(t, peak, 600<<10, "%v took that many kB", args)
		assert.Less(t, time.Since(start), 30*time.Second, "%v", args)
	}
}

// What the server gives in the place of a list does not replace the list.
func TestAListOfTheWebIsKeptOnlyIfItIsOne(t *testing.T) {
	var page atomic.Value
	page.Store("date,name\n2026-01-05,A\n")
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) { _, _ = w.Write([]byte(page.Load().(string))) }))
	defer server.Close()
	address := strings.Replace(server.URL, "//", "//me:hush@", 1) + "/list.csv?key=hush"
	folder := folderWith(t, map[string]string{"roundyear.yaml": "roundyear: 1\ndays_off: [{file: \"" + address + "\"}]\n"})
	t.Setenv("XDG_CACHE_HOME", filepath.Join(folder, "cache"))
	args := []string{"days-off", "--year", "2026", "--format", "csv"}
	good := done(t, folder, args...)
	assert.Contains(t, good.out, "2026-01-05,,A,")
	for _, bad := range []string{"", "<html><form>Log in</form></html>", "<table></table>", "date,name\n"} {
		page.Store(bad)
		result := done(t, folder, args...)
		assert.Equal(t, good.out, result.out)
		assert.Regexp(t, `list.csv\?…: the list could not be fetched (.*); using the copy of 20..-..-.., 0 hours old`, result.err)
		assert.NotContains(t, result.err, "hush")
	}
	require.NoError(t, os.RemoveAll(filepath.Join(folder, "cache")))
	result := run(t, folder, args...)
	assert.NotZero(t, result.code)
	assert.NotContains(t, result.err, "hush")
}

func TestDaysOutsideTheVerifiedYearsSaySo(t *testing.T) {
	folder := t.TempDir()
	result := done(t, folder, "days-off", "HU", "--from", "2016-01-01", "--to", "2018-12-31", "--format", "csv")
	assert.NotContains(t, result.out, "2016-03-25", "Good Friday is a holiday since 2017")
	assert.Contains(t, result.out, "2017-04-14,,Good Friday,HU,statutory,false,false,false,false\n")
	assert.Contains(t, result.out, "2018-03-30,,Good Friday,HU,statutory,true,false,false,false\n")
	assert.Contains(t, result.err, "note: HU: verified for 2018–2025; other years are projected and may differ")
	assert.Contains(t, done(t, folder, "days-off", "HU", "--year", "2017", "--json").out, `"verified": false`)
	done(t, folder, "days-off", "HU", "--year", "2017", "-o", "x.ics", "-o", "x.jsonl", "-o", "x.md")
	assert.Contains(t, textOf(t, folder, "x.ics"), "CATEGORIES:statutory,unverified")
	assert.Contains(t, textOf(t, folder, "x.jsonl"), `"verified":false`)
	assert.Contains(t, textOf(t, folder, "x.md"), "| false |")
	assert.Contains(t, done(t, folder, "days-off", "HU", "IE", "--year", "2017", "--side-by-side", "--format", "csv").out, "date,weekday,HU,IE,verified\n")

	args := []string{"build", "--region", "HU", "--from", "2017-01-01", "--to", "2018-12-31", "-o", "d.csv", "--only-verified"}
	refused := run(t, folder, args...)
	assert.Equal(t, 2, refused.code)
	assert.Contains(t, refused.err, "--only-verified: the table runs from 2017-01-01 to 2018-12-31, but days off are verified for HU 2018–2025; narrow the range, or omit --only-verified")
	assert.NoFileExists(t, filepath.Join(folder, "d.csv"))
	args[4] = "2018-01-01"
	done(t, folder, args...)
}

// What is off on both its days is so again when the list is read.
func TestListsOfDaysOffComeBackAsTheyWere(t *testing.T) {
	folder := folderWith(t, map[string]string{"roundyear.yaml": `roundyear: 1
days_off: [{name: Fair, when: {date: 2026-05-03}, move: [{from: sunday, by: 1}], observe: both}]
`})
	columns := []string{"build", "--from", "2026-05-01", "--to", "2026-05-06", "--columns", "date,is_holiday,is_observed,is_workday", "-o"}
	done(t, folder, append(columns, "before.csv")...)
	done(t, folder, "days-off", "--year", "2026", "-o", "list.csv", "-o", "list.ics")
	assert.Contains(t, textOf(t, folder, "list.csv"), "2026-05-03,2026-05-04,Fair,main,closure,true,false,false,true\n")
	for _, list := range []string{"list.csv", "list.ics"} {
		plan := "roundyear: 1\ndays_off: [{file: " + list + "}]\n"
		require.NoError(t, os.WriteFile(filepath.Join(folder, "again.yaml"), []byte(plan), 0o600))
		done(t, folder, append(columns, "after.csv", "-p", "again.yaml")...)
		before, after := textOf(t, folder, "before.csv"), textOf(t, folder, "after.csv")
		if list == "list.ics" {
			// A calendar has no word for a day taken instead of another.
			before, after = workdays(before), workdays(after)
		}
		assert.Equal(t, before, after, list)
	}
}

func workdays(table string) string {
	var lines []string
	for line := range strings.Lines(table) {
		fields := strings.Split(line, ",")
		lines = append(lines, fields[0]+fields[3])
	}
	return strings.Join(lines, "")
}

// Lists have no flags, so their faults advise keys of the plan.
func TestFaultsOfListsAdviseKeysOfThePlan(t *testing.T) {
	for content, want := range map[string]string{
		"2026-01-05,Stocktaking\n2026-02-05,Fair\n": `has no column "name". The columns are 2026-01-05, Stocktaking. If it has another name, add it to the plan, next to file: columns: {date: Day, name: Holiday}`,
		"2026-01-05,1\n2026-02-05,2\n":              `: columns: {date: Day, name: Holiday}`,
		"date,nam\n2026-01-05,a\n":                  `has no column "name". Did you mean "nam"? If it has another name, add it to the plan`,
		"day,name\n2026-01-05,a\n":                  `has no column "date". The columns are day, name. If it has another name`,
		"# export\ndate,name\n2026-01-05,a\n":       "l.csv, line 1: is a comment and not the header. Delete the lines above the header",
		"date,name\n2026-01-05,\"a\n":               "l.csv, line 2: a quote is not closed. Close or remove it",
		"date,name\n2026-01-05,a,b\n":               "l.csv, line 2: 3 fields, but the header has 2. Correct the line",
		"date,name\nsoon,a\n":                       `the first is "soon". Correct the date in the list, or add its format to the plan, next to file: pattern: dd/MM/yyyy`,
		"date,name\n26-03-04,a\n":                   "Add the format of date to the plan, next to file: pattern: dd/MM/yyyy",
	} {
		folder := folderWith(t, map[string]string{"l.csv": content, "p.yaml": "roundyear: 1\ndays_off: [{file: l.csv}]\n"})
		result := run(t, folder, "days-off", "-p", "p.yaml", "--year", "2026")
		assert.Contains(t, result.err, want, content)
		assert.NotContains(t, result.err, "--", content)
	}
}
