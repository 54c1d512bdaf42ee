package cli_test

import (
	"encoding/json"
	"fmt"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestRegionsAreListed(t *testing.T) {
	folder := t.TempDir()
	result := done(t, folder, "days-off", "--regions")
	lines := strings.Split(strings.TrimSpace(result.out), "\n")
	assert.Equal(t, "region,name,verified_from,verified_to,weekend,weekend_since,subdivisions", lines[0])
	assert.Contains(t, lines, "SA,Saudi Arabia,2020,2025,friday saturday,2013-06-29,")
	assert.Contains(t, lines, "FR,France,2000,2035,saturday sunday,,FR-57 FR-67 FR-68")
	assert.Contains(t, result.err, fmt.Sprintf("%d regions with ", len(lines)-1))
	result = done(t, folder, "days-off", "--regions", "NZ", "--why")
	assert.Contains(t, result.out, "Holidays Act 2003, section 44")
	result = run(t, folder, "days-off", "--regions", "--months")
	assert.Equal(t, 2, result.code)
	assert.Contains(t, result.err, "--regions lists regions, not days: omit --months")
	assert.Contains(t, run(t, folder, "days-off", "--regions", "--year", "2026").err, "omit --year")
	assert.Contains(t, run(t, folder, "days-off", "--regions", "Irland").err, "Did you mean IE (Ireland)?")
}

// Two regions in one set have a flag each, and rules of the company hold where
// their scope says.
func TestRegionsOfOneSetAndScopes(t *testing.T) {
	folder := folderWith(t, map[string]string{"roundyear.yaml": `roundyear: 1
range: {from: 2026-01-01, to: 2026-12-31}
days_off:
  - {region: IE}
  - {region: GB-NIR}
  - {name: Refitting, when: {dates: [2026-06-08, 2026-06-09]}, scope: [Tullybrack]}
  - {name: Irish outing, when: {date: 2026-06-11}, scope: [IE]}
  - {name: Dutch outing, when: {date: 2026-06-12}, scope: [NL]}
sites:
  Tullybrack: {region: IE}
  Varenoord: {region: NL}
`})
	done(t, folder, "build", "--columns", "date,is_holiday,is_holiday_in_ie,is_holiday_in_gb_nir,is_workday,holiday_name", "-o", "days.csv")
	days := textOf(t, folder, "days.csv")
	for _, want := range []string{
		"2026-03-17,true,true,true,false,Saint Patrick's Day", "2026-06-01,true,true,false,false,June holiday", "2026-07-13,false,false,false,false,Battle of the Boyne",
		"2026-07-12,true,false,true,false,Battle of the Boyne", "2026-06-08,false,false,false,true,", "2026-06-11,false,false,false,false,Irish outing", "2026-06-12,false,false,false,true,",
	} {
		assert.Contains(t, days, want+"\n")
	}
	done(t, folder, "build", "--trading", "-o", "trading.csv")
	trading := textOf(t, folder, "trading.csv")
	assert.Regexp(t, `2026-06-08,Tullybrack,false,[^\n]*Refitting`, trading)
	assert.Regexp(t, `2026-06-08,Varenoord,true`, trading)
	assert.Regexp(t, `2026-06-11,Tullybrack,false,[^\n]*Irish outing`, trading)
	assert.Regexp(t, `2026-06-12,Varenoord,false,[^\n]*Dutch outing`, trading)
	assert.Regexp(t, `2026-06-12,Tullybrack,true`, trading)
}

// China works some Saturdays and Sundays in exchange, and what is not announced
// is expected.
func TestWorkedWeekendsAndExpectedDays(t *testing.T) {
	folder := t.TempDir()
	result := done(t, folder, "build", "--region", "CN", "--from", "2024-02-01", "--to", "2024-02-29", "--columns", "date,is_workday,day_kind,holiday_name,is_holiday_expected", "-o", "-")
	for _, want := range []string{
		"2024-02-03,false,weekend,,false", "2024-02-04,true,workday,Worked weekend,false", "2024-02-10,false,holiday,Spring Festival,false",
		"2024-02-16,false,holiday,Spring Festival,false", "2024-02-18,true,workday,Worked weekend,false", "2024-02-19,true,workday,,false",
	} {
		assert.Contains(t, result.out, want+"\n")
	}
	result = done(t, folder, "days-off", "CN", "--year", "2027", "-o", "cn.ics")
	assert.Contains(t, result.err, "expected: not announced yet")
	assert.Contains(t, textOf(t, folder, "cn.ics"), "STATUS:TENTATIVE")
	result = done(t, folder, "days-off", "CN", "--year", "2027")
	assert.Contains(t, result.out, "2027-02-06,,Spring Festival,CN,statutory,false,false,true,false\n", "the new year of 2027 is on 6 February")
}

func TestDaysOffOfRegions(t *testing.T) {
	folder := t.TempDir()
	result := done(t, folder, "days-off", "GB-SCT", "--year", "2022")
	assert.Contains(t, result.out, "date,taken_on,name,region,kind,verified,half,expected,both_days\n2022-01-01,2022-01-03,New Year's Day,GB-SCT,bank,true,false,false,false\n2022-01-02,2022-01-04,2 January,GB-SCT,bank,true,false,false,false\n")
	assert.Contains(t, result.err, "GB-SCT: United Kingdom, verified for 2000–2025")
	result = done(t, folder, "days-off", "US", "--from", "2026-06-30", "--to", "2026-07-05", "--why")
	assert.Contains(t, result.out, "2026-07-04,2026-07-03,Independence Day,US,statutory,true,false,false,false,4 July; on a Saturday it is taken 1 day earlier; on a Sunday it is taken 1 day later,5 U.S.C. 6103\n")
	assert.NotContains(t, result.err, "may differ")
	result = done(t, folder, "days-off", "US", "--year", "2030")
	assert.Contains(t, result.err, "note: US: verified for 2000–2026; other years are projected and may differ")
	result = done(t, folder, "days-off", "NL", "--year", "2025", "--language", "nl")
	assert.Contains(t, result.out, "2025-04-27,2025-04-26,Koningsdag,NL,statutory,true,false,false,false\n")
	result = done(t, folder, "days-off", "IE", "NL", "--year", "2026", "--side-by-side")
	assert.Contains(t, result.out, "date,weekday,IE,NL,verified\n2026-01-01,Thu,New Year's Day,New Year's Day,true\n2026-02-02,Mon,Saint Brigid's Day,,true\n")
	result = done(t, folder, "days-off", "FR-67", "--year", "2024", "--json")
	var places []struct {
		Name    string
		Regions []struct {
			Region       string
			VerifiedFrom int `json:"verified_from"`
		}
		Days []struct{ Date, TakenOn, Name, Why string }
	}
	require.NoError(t, json.Unmarshal([]byte(result.out), &places))
	assert.Equal(t, "FR-67", places[0].Name)
	assert.Equal(t, "FR-67", places[0].Regions[0].Region)
	assert.Equal(t, 2000, places[0].Regions[0].VerifiedFrom)
	assert.Len(t, places[0].Days, 13)
	for _, c := range []struct {
		args  []string
		fault string
	}{
		{[]string{"days-off"}, "name a region: AE, AR"},
		{[]string{"days-off", "DE-BX"}, `unknown region "DE-BX"`},
		{[]string{"days-off", "IE", "--year", "2026", "--from", "2026-01-01", "--to", "2026-02-01"}, "--year and --from cannot be combined"},
		{[]string{"days-off", "IE", "--from", "2026-01-01"}, "a range needs both --from and --to"},
		{[]string{"days-off", "IE", "--year", "1500"}, "--year must be from 1583 to 9999, not 1500"},
		{[]string{"build", "--from", "2026-01-01", "--to", "2026-01-31", "--region", "ZZ"}, `--region: unknown region "ZZ"`},
	} {
		result := run(t, folder, c.args...)
		assert.Equal(t, 2, result.code)
		assert.Contains(t, result.err, c.fault)
		assert.Empty(t, result.out)
	}
}

func TestTheYearIsDrawn(t *testing.T) {
	result := done(t, t.TempDir(), "days-off", "NL", "--from", "2025-04-01", "--to", "2025-05-31", "--months")
	assert.Equal(t, `April 2025                    May 2025
 Mo  Tu  We  Th  Fr  Sa  Su    Mo  Tu  We  Th  Fr  Sa  Su
      1   2   3   4   5·  6·                1   2   3·  4·
  7   8   9  10  11  12· 13·  [ 5]  6   7   8   9  10· 11·
 14  15  16  17 (18) 19·[20]   12  13  14  15  16  17· 18·
[21] 22  23  24  25 [26](27)   19  20  21  22  23  24· 25·
 28  29  30                    26  27  28 [29] 30  31·

[25] day off  (25) taken on another day, or marked only   25· weekend
`, result.out)
}

// A table that goes beyond what is known of its regions says so, if it says
// anything of days off.
func TestTablesBeyondTheSureYears(t *testing.T) {
	folder := folderWith(t, map[string]string{"roundyear.yaml": `roundyear: 1
range: {from: 2024-01-01, to: 2029-12-31}
days_off: [{region: IE}, {region: GB-SCT, prefix: scots}, {region: GB-NIR, prefix: ulster}]
sites: {Tullybrack: {region: SK}}
`})
	beyond := "note: days off are verified for GB-SCT 2000–2025, GB-NIR 2000–2025, SK 2002–2024; other years are projected and may differ\n"
	result := done(t, folder, "build", "-o", "days.csv")
	assert.Contains(t, result.err, beyond)
	assert.Contains(t, done(t, folder, "build", "--columns", "date,is_scots_holiday", "-o", "days.csv").err, beyond)
	assert.NotContains(t, done(t, folder, "build", "--columns", "date,year", "-o", "days.csv").err, "Days off are")
	assert.Contains(t, done(t, folder, "build", "--trading", "-o", "open.csv").err, "SK 2002–2024")
	assert.Contains(t, done(t, folder, "days-off", "--year", "2026").err, "IE: Ireland, verified for 2000–2035; the weekend is Saturday and Sunday\n")
}

func TestDaysOfAllSortsAreDrawn(t *testing.T) {
	folder := t.TempDir()
	result := done(t, folder, "days-off", "CN", "--from", "2026-02-01", "--to", "2026-02-28", "--months")
	assert.Contains(t, result.out, "  9  10  11  12  13  14+[15]\n[16][17][18][19][20][21][22]\n[23] 24  25  26  27  28+\n")
	assert.Contains(t, result.out, "\n[25] day off   25+ worked weekend day   25· weekend\n")
	result = done(t, folder, "days-off", "TR", "--from", "2027-03-01", "--to", "2027-03-31", "--months")
	assert.Contains(t, result.out, "[ 9?[10?[11?", "the feast of 2027 is not announced")
	result = done(t, folder, "days-off", "TR", "--from", "2026-10-01", "--to", "2026-10-31", "--months")
	assert.Contains(t, result.out, " 27 [28)[29] 30 ")
	assert.Contains(t, result.out, "\n[25] day off  [25) half day off   25· weekend\n")
}

func TestDaysOffOfThePlanAndOfFiles(t *testing.T) {
	folder := folderWith(t, map[string]string{
		"roundyear.yaml": `roundyear: 1
days_off:
  - region: IE
  - {region: NL, prefix: nl}
  - {name: Stocktaking, when: {month: january, day: 3}, move: [{from: saturday, by: 2}]}
  - {file: more.csv}
  - {file: closures.ics}
`,
		"more.csv":     "date,name,kind\n24/12/2026,Christmas Eve,marked\n13/02/2026,Fair,\n",
		"closures.ics": "BEGIN:VCALENDAR\nVERSION:2.0\nPRODID:x\nBEGIN:VEVENT\nUID:a\nDTSTAMP:20260101T000000Z\nSUMMARY:Roof\nDTSTART:20260817\nDTEND:20260819\nEND:VEVENT\nEND:VCALENDAR\n",
	})
	result := done(t, folder, "build", "--from", "2026-01-01", "--to", "2026-12-31", "--columns", "date,day_kind,holiday_name,is_workday,is_nl_workday,nl_holiday_name,workdays_so_far_in_month", "-q")
	for _, want := range []string{
		"2026-01-05,closure,Stocktaking,false,true,,1\n", "2026-02-13,closure,Fair,false,true,,8\n", "2026-03-17,holiday,Saint Patrick's Day,false,true,,11\n",
		"2026-04-27,workday,,true,false,King's Day,18\n", "2026-08-18,closure,Roof,false,true,,9\n", "2026-12-24,workday,Christmas Eve,true,true,,18\n",
		"2026-12-25,holiday,Christmas Day,false,false,Christmas Day,18\n",
	} {
		assert.Contains(t, result.out, "\n"+want)
	}
	result = done(t, folder, "days-off", "--year", "2026")
	assert.Contains(t, result.out, "2026-08-17,,Roof,main,closure,true,false,false,false\n2026-08-18,,Roof,main,closure,true,false,false,false\n")
	assert.Contains(t, result.out, "2026-01-03,2026-01-05,Stocktaking,main,closure,true,false,false,false\n")
	// --region takes the place of the plan's regions, and leaves its own rules.
	result = done(t, folder, "build", "--from", "2026-01-05", "--to", "2026-01-06", "--region", "AT", "--columns", "date,holiday_name", "-q")
	assert.Equal(t, "date,holiday_name\n2026-01-05,Stocktaking\n2026-01-06,Epiphany\n", result.out)
	done(t, folder, "build", "--from", "2025-01-01", "--to", "2026-12-31", "-o", "d.csv", "-q")
	result = done(t, folder, "check", "d.csv")
	assert.NotContains(t, result.err, "Not looked at")
	// What is written to a calendar can be read again.
	done(t, folder, "days-off", "IE", "--year", "2026", "-o", "ie.ics", "-o", "ie.csv", "-q")
	assert.Len(t, splitLines(textOf(t, folder, "ie.csv")), 11)
	assert.Equal(t, 10, strings.Count(textOf(t, folder, "ie.ics"), "BEGIN:VEVENT"))
	for name, c := range map[string]struct{ content, fault string }{
		"bad.json": {"{}", "bad.json: is not a JSON list of objects"},
		"bad.html": {"<p>nothing</p>", "bad.html: the page has no table"},
		"day.csv":  {"date,name\nsoon,A\n", "day.csv, line 2, column date"},
		"col.csv":  {"day,name\n2026-01-01,A\n", `col.csv: has no column "date"`},
		"bad.csv":  {"date,name,kind\n2026-01-01,A,holy\n", `bad.csv, line 2, column kind: unknown kind of day off: "holy"`},
		"bad.ics":  {"nothing", "bad.ics: is not an iCalendar file"},
		"bad.txt":  {"x\n", "bad.txt: days off can be read from .ics, .csv, .tsv, .jsonl, .xlsx, .parquet, .json and .html"},
	} {
		folder := folderWith(t, map[string]string{"roundyear.yaml": "roundyear: 1\ndays_off: [{file: " + name + "}]\n", name: c.content})
		result := run(t, folder, "days-off", "--year", "2026")
		assert.Equal(t, 2, result.code, result.err)
		assert.Contains(t, result.err, c.fault)
	}
}

func TestMovesThatLandOnAnotherDayOffAreTold(t *testing.T) {
	folder := folderWith(t, map[string]string{"roundyear.yaml": "roundyear: 1\ndays_off:\n  - region: IE\n  - {name: Inventory, when: {month: december, day: 24}, move: [{from: thursday, by: 1}]}\n"})
	result := done(t, folder, "plan", "check", "--as-of", "2026-03-15")
	assert.Contains(t, result.err, "Days off, main set: IE, Inventory")
	assert.Contains(t, result.err, "note: Inventory of 2020-12-24 is moved to 2020-12-25, which is already a day off (Christmas Day); use observe: next_free to avoid that")
}

// A page a year, as governments have them: the dates do not say the year, one
// day has two names, and the table is not the only one.
func TestListsOfPagesAndOfTheWeb(t *testing.T) {
	page := func(year, fair string) string {
		return `<html><table><tr><td>Menu</td></tr></table><table><caption>Holidays ` + year + `</caption><tr><th>Day</th><th>Holiday</th></tr>
<tr><td>1 January</td><td>New Year</td></tr><tr><td rowspan="2">` + fair + `</td><td>Fair</td></tr><tr><td>Market</td></tr></table></html>`
	}
	var down atomic.Bool
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if down.Load() {
			w.WriteHeader(http.StatusServiceUnavailable)
			return
		}
		_, _ = w.Write([]byte(page(strings.Trim(r.URL.Path, "/hol."), "5 May")))
	}))
	defer server.Close()
	t.Setenv("XDG_CACHE_HOME", t.TempDir())
	t.Setenv("HOME", t.TempDir())
	folder := folderWith(t, map[string]string{
		"roundyear.yaml": "roundyear: 1\ndays_off:\n  - {file: \"" + server.URL + "/hol/{year}\", years: {from: 2025, to: 2026}, columns: {date: Day, name: Holiday}}\n" +
			"  - {file: own.html, table: Holidays, columns: {date: Day, name: Holiday}, prefix: own, pattern: d MMMM yyyy}\n  - {file: more.json, prefix: more}\n",
		"own.html":  page("2026", "6 May 2026"),
		"more.json": `[{"date":"2026-02-03","name":"Candles","kind":"marked"}]`,
	})
	own := strings.Replace(textOf(t, folder, "own.html"), "1 January", "1 January 2026", 1)
	require.NoError(t, os.WriteFile(filepath.Join(folder, "own.html"), []byte(own), 0o666))
	result := done(t, folder, "days-off", "--from", "2025-05-01", "--to", "2026-06-30")
	assert.Equal(t, "date,taken_on,name,region,kind,verified,half,expected,both_days\n2025-05-05,,Fair,main,closure,true,false,false,false\n2025-05-05,,Market,main,closure,true,false,false,false\n2026-01-01,,New Year,main,closure,true,false,false,false\n2026-01-01,,New Year,own,closure,true,false,false,false\n"+
		"2026-02-03,,Candles,more,marked,true,false,false,false\n2026-05-05,,Fair,main,closure,true,false,false,false\n2026-05-05,,Market,main,closure,true,false,false,false\n2026-05-06,,Fair,own,closure,true,false,false,false\n2026-05-06,,Market,own,closure,true,false,false,false\n", result.out)
	// One row a day still, with the names joined.
	result = done(t, folder, "build", "--from", "2026-05-05", "--to", "2026-05-05", "--columns", "date,holiday_name,is_own_workday", "-q")
	assert.Equal(t, "date,holiday_name,is_own_workday\n2026-05-05,Fair; Market,true\n", result.out)
	down.Store(true)
	again := done(t, folder, "days-off", "--from", "2025-05-01", "--to", "2025-05-31")
	assert.Contains(t, again.out, "2025-05-05,,Fair,main,closure")
	assert.Regexp(t, "note: "+regexp.QuoteMeta(server.URL)+`/hol/2025: the list could not be fetched \(the server answered 503 Service Unavailable\); using the copy of \d{4}-\d\d-\d\d, 0 hours old`, again.err)
	t.Setenv("XDG_CACHE_HOME", t.TempDir())
	result = run(t, folder, "days-off", "--from", "2025-05-01", "--to", "2025-05-31")
	assert.Equal(t, 3, result.code)
	assert.Contains(t, result.err, "the list cannot be fetched, and there is no copy from an earlier run: the server answered 503")
}
