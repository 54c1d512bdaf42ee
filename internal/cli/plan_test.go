package cli_test

import (
	"encoding/csv"
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// garden is a folder with the files and the plan of the sample company, its
// facts normalised.
func garden(t testing.TB) string {
	t.Helper()
	folder := t.TempDir()
	done(t, folder, "demo", "g")
	return filepath.Join(folder, "g")
}

func TestAPlanFromASurvey(t *testing.T) {
	folder := garden(t)
	require.NoError(t, os.Remove(filepath.Join(folder, "roundyear.yaml")))
	result := done(t, folder, "plan", "new", "data/till-a.csv", "data/till-b.csv", "data/till-c.csv", "data/orders.csv", "data/budget.csv", "-o", "roundyear.yaml")
	assert.Contains(t, result.err, "Wrote a plan for till, orders, budget in roundyear.yaml")
	assert.Contains(t, result.err, "To decide: orders also has delivered besides ordered: cover and join those that reports use")
	assert.Contains(t, result.err, "next: roundyear plan check\nnext: roundyear normalise data/till-a.csv data/till-b.csv data/till-c.csv -o clean/till.csv\n")
	plan := textOf(t, folder, "roundyear.yaml")
	for _, want := range []string{
		"cover: [till.sold_at, orders.ordered, budget.day]",
		"# orders has more than one date.",
		"# - orders.delivered     291 dates from 2024-02-05 to 2026-03-10",
		"out: clean/till.csv     # normalise writes here, because 2 dates cannot be read",
		`ordered: {pattern: "d MMM yyyy"}     # 299 dates from 2024-02-01 to 2026-03-11`,
		"day: {parts: [year, month, day], grain: month}",
	} {
		assert.Contains(t, plan, want)
	}
	result = run(t, folder, "build", "-o", "d.csv")
	assert.Equal(t, 2, result.code)
	assert.Contains(t, result.err, "clean/till.csv: the facts till of the plan have not been normalised yet. Run roundyear normalise data/till-a.csv data/till-b.csv data/till-c.csv -o clean/till.csv")
	assert.Equal(t, 1, run(t, folder, "normalise", "data/till-a.csv", "data/till-b.csv", "data/till-c.csv", "-o", "clean/till.csv").code)
	result = done(t, folder, "plan", "check")
	assert.Contains(t, result.err, "roundyear.yaml: no faults found\n")
	result = done(t, folder, "build")
	assert.Contains(t, result.err, "1,461 rows, one per day from 2024-01-01 to 2027-12-31")
	assert.Contains(t, result.err, "Plan: roundyear.yaml")

	result = run(t, folder, "plan", "new", "-o", "roundyear.yaml")
	assert.Equal(t, 2, result.code)
	assert.Contains(t, result.err, "roundyear.yaml: already exists. Use --force to replace it")
	assert.Equal(t, plan, textOf(t, folder, "roundyear.yaml"))
	result = done(t, folder, "plan", "new")
	assert.Contains(t, result.out, "from: 2024-01-01")
}

func TestAPlanOfDatesThatAreNotSettled(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": "sold on,n\n03/04/2026,1\n05/06/2026,2\n", "n.csv": "a,b\n1,2\n"})
	result := done(t, folder, "plan", "new", "s.csv", "n.csv")
	assert.Contains(t, result.err, "To decide: s.sold on: day and month cannot be told apart: add order: day or order: month")
	assert.Contains(t, result.out, `"sold on": {}     # day and month cannot be told apart: add order: day or order: month`)
	assert.Contains(t, result.out, "# no date column was found; enter its name and pattern")
	require.NoError(t, os.WriteFile(filepath.Join(folder, "roundyear.yaml"), []byte(strings.Replace(result.out, `"sold on": {}`, `"sold on": {order: day}`, 1)), 0o666))
	result = done(t, folder, "build", "-o", "d.csv")
	assert.Contains(t, result.err, "365 rows, one per day from 2026-01-01 to 2026-12-31")
	result = done(t, folder, "normalise", "s.csv")
	assert.Contains(t, result.out, "03/04/2026,1,2026-04-03,20260403\n")
}

func TestPlanCheckTellsAllFaults(t *testing.T) {
	folder := folderWith(t, map[string]string{"roundyear.yaml": "roundyear: 1\nweks: {}\ncalendars:\n  retail: {weeks: {ends_on: sun, last_in: may, split: 4-4}}\n", "sub/x.csv": "a\n1\n"})
	result := run(t, folder, "plan", "check")
	assert.Equal(t, 2, result.code)
	assert.Equal(t, "! roundyear.yaml has 2 faults\n"+
		"roundyear: roundyear.yaml, line 2, column 1: unknown key \"weks\" in the plan. Did you mean weeks?\n"+
		"roundyear: roundyear.yaml, line 4, column 55: retail: the weeks of the split must add up to 52, or to a divisor of 52, not 8\n", result.err)
	result = run(t, folder, "plan", "check", "--json")
	assert.Equal(t, 2, result.code)
	var report struct {
		Valid  *bool
		Faults []struct {
			Line, Column int
			What, Remedy string
		}
	}
	require.NoError(t, json.Unmarshal([]byte(result.out), &report))
	require.NotNil(t, report.Valid)
	assert.False(t, *report.Valid)
	assert.Len(t, report.Faults, 2)
	assert.Equal(t, 55, report.Faults[1].Column)
	// All commands refuse a plan that is wrong, also from a folder below it.
	result = run(t, filepath.Join(folder, "sub"), "columns")
	assert.Equal(t, 2, result.code)
	assert.Contains(t, result.err, "roundyear: ../roundyear.yaml, line 2, column 1:")
	require.NoError(t, os.WriteFile(filepath.Join(folder, "roundyear.yaml"), []byte("roundyear: 1\nfacts: {s: {files: [none.csv, x-*.csv], dates: {}}}\n"), 0o666))
	result = run(t, folder, "plan", "check")
	assert.Equal(t, 1, result.code)
	assert.Contains(t, result.err, "! roundyear.yaml: 2 faults in the files that it refers to\nfacts.s: none.csv: there is no such file\n")
	assert.Contains(t, result.err, "\nfacts.s: x-*.csv: no file matches\n")
	result = done(t, folder, "plan", "schema")
	assert.True(t, json.Valid([]byte(result.out)))
}

func TestFlagsWinOverThePlan(t *testing.T) {
	folder := folderWith(t, map[string]string{"roundyear.yaml": `roundyear: 1
language: [de, fr]
weeks: {first_day: sunday, min_days: 1}
weekend: [friday]
calendars:
  fiscal: {months: {starts: february}, named_by: start, month_label: "M{period}"}
  retail: {weeks: {ends_on: saturday, last_in: january, split: 13x4}}
labels: {date_label: d MMMM yyyy}
`})
	row := func(args ...string) string {
		result := done(t, folder, append([]string{"build", "--from", "2026-03-06", "--to", "2026-03-06", "-q", "--columns",
			"fiscal_year,fiscal_month_label,month_name,day_of_week,is_weekend,retail_month,date_label"}, args...)...)
		return splitLines(result.out)[1]
	}
	assert.Equal(t, "2026,FY2026 M2,März,6,true,2,6 März 2026", row())
	assert.Equal(t, "2027,FY2027 M2,März,6,true,2,6 März 2026", row("--fiscal-named-by", "end"))
	assert.Equal(t, "2025,FY2025 M12,März,6,true,2,6 März 2026", row("--fiscal-start", "april"))
	assert.Equal(t, "2026,FY26 M2,mars,5,false,2,06.03.26", row("--fiscal-label", "FY{yy}", "--language", "fr", "--week-start", "mon", "--weekend", "sun", "--label", "date_label=dd.MM.yy"))
	result := run(t, folder, "build", "-p", "other.yaml")
	assert.Equal(t, 2, result.code)
	// The plan's calendars are grains of every command.
	require.NoError(t, os.WriteFile(filepath.Join(folder, "s.csv"), []byte("day,n\n2026-03-06,1\n"), 0o666))
	result = done(t, folder, "totals", "s.csv", "--sum", "n", "--grain", "retail.month")
	assert.Contains(t, result.out, "FY2027 P02,2026-03-01,2026-03-28,1,")
	assert.Contains(t, result.err, "Retail years end on the last Saturday of January")
}

func TestARangeOverSeveralFacts(t *testing.T) {
	folder := folderWith(t, map[string]string{
		"roundyear.yaml": `roundyear: 1
range: {cover: [sales.sold, plan.month], whole: exact}
facts:
  sales: {files: s-*.csv, dates: {sold: {order: day}}}
  plan: {files: b.csv, dates: {month: {grain: month}}}
`,
		"s-1.csv": "sold\n03/04/2025\n", "s-2.csv": "sold\n05/01/2025\n", "b.csv": "month\n2026-02-01\n",
	})
	result := done(t, folder, "build", "-o", "d.csv")
	assert.Contains(t, result.err, "420 rows, one per day from 2025-01-05 to 2026-02-28")
	assert.Contains(t, result.err, "Incomplete at the start: 2025, 2025 Q1, 2025-01")
	result = done(t, folder, "build", "--whole-years", "-o", "d.csv")
	assert.Contains(t, result.err, "730 rows, one per day from 2025-01-01 to 2026-12-31")
	result = run(t, folder, "build", "--from", "2025-02-01", "--to", "2025-12-31", "--cover", "s-*.csv:sold", "-o", "d.csv")
	assert.Equal(t, 1, result.code)
	assert.Contains(t, result.err, "! s-*.csv:sold: 1 fact before 2025-02-01 and 0 facts after 2025-12-31 are not in the table")
}

func TestDeclaredYearsAndTheirEnds(t *testing.T) {
	folder := folderWith(t, map[string]string{
		"roundyear.yaml": `roundyear: 1
calendars:
  group:
    years:
      - {year: 2024, starts: [2024-01-01, 2024-04-15], ends: 2024-06-30}
      - {year: 2025, starts: [2024-07-01, 2024-10-01, 2025-01-01, 2025-04-01], ends: 2025-06-30}
`,
		"s.csv": "day,n\n2025-07-01,1\n",
	})
	result := done(t, folder, "build", "--from", "2024-06-30", "--to", "2024-07-01", "--columns", "group_year,group_month_label,group_quarter", "-q")
	assert.Equal(t, "group_year,group_month_label,group_quarter\n2024,FY2024 P02,1\n2025,FY2025 P01,1\n", result.out)
	for _, args := range [][]string{{"build", "--from", "2024-01-01", "--to", "2025-12-31"}, {"totals", "s.csv", "--sum", "n", "--grain", "group.month"}} {
		result = run(t, folder, args...)
		assert.Equal(t, 2, result.code)
		assert.Contains(t, result.err, "the calendar group covers 2024-01-01 to 2025-06-30, but the range is")
		assert.Empty(t, result.out)
	}
	done(t, folder, "totals", "s.csv", "--sum", "n", "--grain", "month")
}

func TestColumnsAreRenamedAndReCased(t *testing.T) {
	folder := folderWith(t, map[string]string{"roundyear.yaml": `roundyear: 1
range: {from: 2026-01-01, to: 2026-12-31}
model: {dimension: {columns: [date_key, date, month_name, month, is_workday], case: title, rename: {date_key: Day Key}, out: [out/d.csv]}}
`})
	done(t, folder, "build")
	assert.True(t, strings.HasPrefix(textOf(t, folder, "out/d.csv"), "Day Key,Date,Month Name,Month,Is Workday\n20260101,2026-01-01,January,1,true\n"))
	result := done(t, folder, "check", "out/d.csv")
	assert.Contains(t, result.err, "365 keys match their dates as yyyymmdd")
	assert.Contains(t, result.err, "1,095 values in 3 columns")
	assert.Contains(t, textOf(t, folder, "out/model.md"), "| `Month Name` | `Month` |")
	result = done(t, folder, "explain", "2026-03-09", "--columns", "month_name")
	assert.Contains(t, result.out, "Month Name = March")
}

func TestCoarserTablesJoinToTheDays(t *testing.T) {
	folder := garden(t)
	done(t, folder, "build", "-o", "days.csv", "-q")
	for _, c := range []struct{ grain, key string }{{"month", "month_key"}, {"fiscal.quarter", "fiscal_quarter_key"}, {"retail.week", "retail_week_key"}, {"year", "year"}, {"iso.week", "iso_week_key"}} {
		done(t, folder, "build", "--grain", c.grain, "-o", "coarse.csv", "-q")
		coarse, days := column(t, folder, "coarse.csv", c.key), column(t, folder, "days.csv", c.key)
		seen := map[string]bool{}
		for _, key := range coarse {
			assert.False(t, seen[key], "%s %s comes twice", c.grain, key)
			seen[key] = true
		}
		for _, key := range days {
			if !seen[key] {
				t.Fatalf("%s: no row for %s", c.grain, key)
			}
		}
		header := splitLines(textOf(t, folder, "coarse.csv"))[0]
		assert.NotContains(t, strings.Split(header, ","), "date")
	}
	result := run(t, folder, "build", "--grain", "month", "--columns", "date,day_name")
	assert.Equal(t, 2, result.code)
	assert.Contains(t, result.err, "none of the columns is the same for a whole month")
}

// column returns the values of a column of a file.
func column(t testing.TB, folder, file, name string) []string {
	t.Helper()
	rows, err := csv.NewReader(strings.NewReader(textOf(t, folder, file))).ReadAll()
	require.NoError(t, err)
	for i, column := range rows[0] {
		if column == name {
			var values []string
			for _, row := range rows[1:] {
				values = append(values, row[i])
			}
			return values
		}
	}
	require.Fail(t, "no column", "%s has no %s", file, name)
	return nil
}

func TestTheTableOfTimes(t *testing.T) {
	folder := garden(t)
	result := done(t, folder, "build", "--clock", "15m", "-o", "times.csv")
	assert.Contains(t, result.err, "96 rows, one per 15 minutes, with 15 attributes, written to times.csv")
	lines := splitLines(textOf(t, folder, "times.csv"))
	assert.Len(t, lines, 1+2+96)
	assert.Contains(t, lines, "133000,13:30:00,13:44:59,13:30,13,13:00,1,PM,13:30:00,13:30:00,30,810,48600,midday,3")
	result = done(t, t.TempDir(), "build", "--clock", "seconds", "-q")
	assert.Len(t, splitLines(result.out), 1+86400)
	result = done(t, t.TempDir(), "build", "--clock", "hours", "-q", "--unknown-row")
	assert.Contains(t, result.out, "\n-1,,,Unknown,")
	assert.Contains(t, result.out, "\n230000,23:00:00,23:59:59,23:00,23,23:00,11,PM,1380,82800,evening,4\n")
}

func TestRowsForFactsWithoutADay(t *testing.T) {
	folder := garden(t)
	lines := splitLines(textOf(t, folder, "dates.csv"))
	assert.True(t, strings.HasPrefix(lines[1], "-1,,-1,,Unknown,-1,Unknown,"))
	assert.True(t, strings.HasPrefix(lines[2], "-2,,-2,,Not delivered yet,"))
	result := done(t, folder, "check", "dates.csv")
	assert.Contains(t, result.err, "dates.csv: no faults found: 1,827 rows")
	assert.Contains(t, result.err, "2 rows for facts without a date, recognised by the key")
	// A row of another key, or the same key again, is a fault.
	lines[2] = strings.Replace(lines[2], "-2,", "-7,", 1)
	require.NoError(t, os.WriteFile(filepath.Join(folder, "d.csv"), []byte(strings.Join(append(lines, lines[1]), "\n")+"\n"), 0o666))
	result = run(t, folder, "check", "d.csv")
	assert.Equal(t, 1, result.code)
	assert.Regexp(t, `blank date +line 3 `, result.err)
	assert.Regexp(t, `duplicate day +line 1,831 +delete the row: the key -1 is a duplicate`, result.err)
	// Facts without a date find the unknown row by its key.
	result = done(t, folder, "normalise", "data/orders.csv", "--blank", "unknown", "-q")
	assert.Contains(t, result.out, ",,-1\n")
}

func TestExplain(t *testing.T) {
	folder := t.TempDir()
	result := done(t, folder, "explain", "2026-03-09", "--columns", "fiscal_month,is_weekend", "--fiscal-start", "february")
	assert.Equal(t, "2026-03-09, a Monday\n\nfiscal\n  fiscal_month = 2\n      the year starts in February; March is its 2nd month, so 2\n"+
		"\nworkdays\n  is_weekend = false\n      the weekend is Saturday and Sunday, and the date is a Monday, so false\n", result.out)
	result = done(t, folder, "explain", "2026-03-09", "2026-03-10", "--json", "--as-of", "2026-03-15")
	var days []struct {
		Date       string
		AsOf       string `json:"as_of"`
		Attributes []struct {
			Name, Group, Type, Because, Meaning string
			Value                               any
		}
	}
	require.NoError(t, json.Unmarshal([]byte(result.out), &days))
	assert.Len(t, days, 2)
	assert.Equal(t, "2026-03-10", days[1].Date)
	assert.Equal(t, "2026-03-15", days[0].AsOf)
	byName := map[string]any{}
	for _, attribute := range days[0].Attributes {
		byName[attribute.Name] = attribute.Value
	}
	assert.Equal(t, float64(202603), byName["month_key"])
	assert.Equal(t, true, byName["is_workday"])
	assert.Equal(t, float64(-6), byName["day_offset"])
	// What explain says is what build writes.
	built := done(t, folder, "build", "--from", "2026-03-09", "--to", "2026-03-09", "--columns", "all", "--as-of", "2026-03-15", "--format", "jsonl", "-q")
	var row map[string]any
	require.NoError(t, json.Unmarshal([]byte(built.out), &row))
	assert.Equal(t, row, byName)
}

func TestTheModelBesideTheTable(t *testing.T) {
	folder := garden(t)
	var description struct {
		Resources []struct {
			Name   string
			Schema struct {
				Fields []struct {
					Name, Type string
					SortBy     string `json:"sort_by"`
					Hide       bool
				}
				PrimaryKey  []string
				ForeignKeys []struct{ Fields []string }
			}
			DateColumn  string `json:"date_column"`
			Hierarchies []struct{ Name string }
			Roles       []struct {
				Name, Facts string
				Main        bool
				Columns     map[string]string
			}
		}
	}
	require.NoError(t, json.Unmarshal([]byte(textOf(t, folder, "datapackage.json")), &description))
	dates := description.Resources[0]
	var names []string
	for _, field := range dates.Schema.Fields {
		names = append(names, field.Name)
	}
	assert.Equal(t, strings.Join(names, ","), splitLines(textOf(t, folder, "dates.csv"))[0])
	assert.Equal(t, []string{"date_key"}, dates.Schema.PrimaryKey)
	assert.Equal(t, "date", dates.DateColumn)
	assert.Len(t, dates.Hierarchies, 7)
	assert.Len(t, dates.Roles, 4)
	assert.Equal(t, "delivered", dates.Roles[2].Name)
	assert.False(t, dates.Roles[2].Main)
	assert.Equal(t, "month_name", dates.Roles[2].Columns["delivered_month_name"])
	assert.Equal(t, "orders", description.Resources[2].Name)
	assert.Len(t, description.Resources[2].Schema.ForeignKeys, 2)

	page := textOf(t, folder, "model.md")
	for _, want := range []string{
		"Declare `dates` as the date table of the model, with the date column `date`",
		"| orders | delivered | `orders.delivered_key` = `delivered_dates.date_key` | additional role |",
		"| `fiscal_month_name` | `fiscal_month` |", "outer join that keeps all facts",
	} {
		assert.Contains(t, page, want)
	}
	done(t, folder, "build", "-q")
	require.NoError(t, os.WriteFile(filepath.Join(folder, "model.md"), []byte("# My own\n"), 0o666))
	result := run(t, folder, "build")
	assert.Equal(t, 2, result.code)
	assert.Contains(t, result.err, "model.md: already exists and was not written by roundyear")
	assert.Equal(t, "# My own\n", textOf(t, folder, "model.md"))
	result = done(t, folder, "build", "--grain", "month", "-o", "m/months.csv", "--model")
	assert.Contains(t, textOf(t, folder, "m/datapackage.json"), `"primaryKey": [
          "month_key"`)
	assert.Contains(t, result.err, "Description: m/datapackage.json and m/model.md")
}

// plan check says all that is wrong with what the plan refers to, and not only the
// first of it.
func TestPlanCheckLooksAtFiles(t *testing.T) {
	folder := folderWith(t, map[string]string{
		"a.csv": "day,n\n2026-01-05,1\n", "z.csv": "\x1f\x8b\x08\x00", "off.csv": "date,name\n1/2/2026,x\n3/4/2026,y\n", "ok.csv": "y,m,d\n2026,1,5\n",
		"p.yaml": "roundyear: 1\nfacts:\n  s: {files: [none.csv], dates: {x: {}}}\n  t: {files: [a.csv], dates: {dy: {}, day: {}}, order_per: till}\n  u: {files: [z.csv], dates: {x: {}}}\n" +
			"  v: {files: [ok.csv], dates: {d: {parts: [y, m, d]}}}\ndays_off: [{file: off.csv}, {file: nowhere.ics}]\nmodel: {dimension: {name: d, out: [d.foo, d.csv]}}\n",
		"nl.yaml": "roundyear: 1\nrange: {from: 2026-01-01, to: 2026-01-05}\ndays_off: [{region: NL, prefix: nl}, {name: Fair, prefix: nl, when: {month: may, day: 4}}]\n",
	})
	result := run(t, folder, "plan", "check", "-p", "p.yaml")
	assert.Equal(t, 1, result.code)
	assert.True(t, strings.HasPrefix(result.err, "! p.yaml: 7 faults in the files that it refers to\n"+
		"facts.s: none.csv: there is no such file\n"+
		"facts.t: a.csv: has no column \"dy\". Did you mean \"day\"?\n"+
		"facts.t: a.csv: has no column \"till\". The columns are day, n\n"+
		"facts.u: z.csv: cannot be decompressed; the file is damaged or incomplete (gzip): unexpected EOF\n"+
		"model.dimension.out: d.foo: unknown file extension .foo. The formats are csv, tsv, jsonl, json, parquet, xlsx, sqlite, md, html\n"+
		"days_off: off.csv: does not show"), result.err)
	assert.Contains(t, result.err, "\ndays_off: nowhere.ics: ")
	var said struct {
		Valid  *bool
		Faults []struct{ File, Part, What string }
	}
	result = run(t, folder, "plan", "check", "-p", "p.yaml", "--json")
	assert.Equal(t, 1, result.code)
	require.NoError(t, json.Unmarshal([]byte(result.out), &said))
	require.NotNil(t, said.Valid)
	assert.False(t, *said.Valid)
	assert.Len(t, said.Faults, 7)
	assert.Equal(t, "facts.t", said.Faults[1].Part)
	assert.Contains(t, done(t, folder, "plan", "check", "-p", "p.yaml", "--no-files").err, "p.yaml: no faults found\n")

	const note = "every set of days off has a prefix, so is_workday excludes weekends only; is_nl_workday excludes days off too\n"
	assert.Contains(t, done(t, folder, "plan", "check", "-p", "nl.yaml").err, note)
	assert.Contains(t, done(t, folder, "build", "-p", "nl.yaml", "--columns", "date,is_workday").err, note)
	assert.NotContains(t, done(t, folder, "build", "-p", "nl.yaml", "--columns", "date").err, note)
}

// A plan with faults does not stop what needs nothing from it.
func TestABrokenPlanStopsOnlyWhatNeedsIt(t *testing.T) {
	folder := folderWith(t, map[string]string{"roundyear.yaml": "roundyear: 1\nfoo: 2\nbar: 3\n", "s.csv": "day,n\n2026-01-05,1\n"})
	const note = "roundyear.yaml has 2 faults and was ignored; to list them, run roundyear plan check\n"
	result := done(t, folder, "survey", "s.csv")
	assert.Contains(t, result.err, note)
	assert.Contains(t, result.err, "next: roundyear normalise s.csv --date day --no-plan -o clean.csv\n")
	assert.Contains(t, done(t, folder, "days-off", "IE", "--year", "2026").err, note)
	assert.Contains(t, done(t, folder, "plan", "new", "s.csv").out, "cover: [s.day]")
	for _, args := range [][]string{{"survey", "s.csv", "-p", "roundyear.yaml"}, {"days-off", "--year", "2026"}, {"days-off", "IE", "-o", "off.csv"}, {"normalise", "s.csv"}, {"build", "--from", "2026-01-01", "--to", "2026-01-02"}} {
		result := run(t, folder, args...)
		assert.Equal(t, 2, result.code, "%v", args)
		assert.Contains(t, result.err, `unknown key "foo" in the plan`, "%v", args)
	}
}

// A shell that asks gets grains, regions, attributes, and columns of the file at hand.
func TestCompletion(t *testing.T) {
	folder := folderWith(t, map[string]string{"roundyear.yaml": "roundyear: 1\ncalendars: {retail: {weeks: {ends_on: saturday, nearest_to: 31 january, split: 4-5-4}}}\n", "s.csv": "sold,shop,amount\n2026-01-05,Kil,1\n"})
	complete := func(args ...string) []string {
		lines := splitLines(done(t, folder, append([]string{"__complete"}, args...)...).out)
		require.Equal(t, ":4", lines[len(lines)-1], "no files")
		return lines[:len(lines)-1]
	}
	assert.Equal(t, []string{"retail.year", "retail.half", "retail.quarter", "retail.month", "retail.week"}, complete("totals", "s.csv", "--grain", "re"))
	assert.Contains(t, complete("build", "--region", ""), "IE")
	assert.Equal(t, []string{"DE-BB", "DE-BE", "DE-BW", "DE-BY"}, complete("build", "--region", "DE-B"))
	assert.Equal(t, []string{"NG", "NL", "NO", "NZ"}, complete("days-off", "N"))
	assert.Empty(t, complete("build", "--columns", "date,no_such"))
	assert.Contains(t, complete("build", "--columns", "date,retail_w"), "date,retail_week")
	assert.Contains(t, complete("normalise", "s.csv", "--columns", "hol"), "holiday_name")
	assert.Equal(t, []string{"sold", "shop", "amount"}, complete("totals", "s.csv", "--sum", ""))
	assert.Equal(t, []string{"s.csv:sold", "s.csv:shop", "s.csv:amount"}, complete("build", "--cover", "s.csv:"))
	assert.Equal(t, []string{"s.csv:shop"}, complete("build", "--cover", "s.csv:sh"))
	assert.Contains(t, complete("check", "s.csv", "--map", "shop=hol"), "shop=holiday_name")
	assert.Equal(t, []string{"previous,year-ago", "previous,year-ago-restated"}, complete("totals", "s.csv", "--against", "previous,y"))
	assert.Equal(t, []string{"workdays", "weeks"}, complete("lapse", "s.csv", "--in", "w"))
	assert.Equal(t, []string{"sold", "shop"}, complete("census", "s.csv", "--opened", "s"))
	assert.Equal(t, []string{"ZA"}, complete("allocate", "s.csv", "--at", "ZA"))
	assert.Equal(t, "sold=\nshop=\namount=\n:6\n", done(t, folder, "__complete", "check", "s.csv", "--map", "").out, "the attribute comes behind")
	assert.Equal(t, []string{"shop,amount"}, complete("fill", "s.csv", "--by", "shop,a"))
	assert.Contains(t, done(t, folder, "completion", "bash").out, "roundyear")
	assert.Contains(t, done(t, folder, "--help").out, "completion")
}

// A plan that was written on Windows works elsewhere; a file with a backslash in its name stays that file.
func TestPlansOfWindows(t *testing.T) {
	folder := folderWith(t, map[string]string{"data/till-1.csv": "sold,n\n2026-01-05,1\n", "data/till-2.csv": "sold,n\n2026-01-06,2\n", "lists/off.csv": "date,name\n2026-01-07,Audit\n",
		"roundyear.yaml": "roundyear: 1\nrange: {cover: [s.sold]}\ndays_off: [{file: 'lists\\off.csv'}]\nfacts:\n  s: {files: 'data\\till-*.csv', out: 'clean\\s.csv', dates: {sold: {}}}\n"})
	done(t, folder, "plan", "check")
	counted := done(t, folder, "totals", "s", "--sum", "n", "--as-of", "2026-02-01", "--loaded-through", "2026-01-31")
	assert.Contains(t, counted.out, "2026-01,2026-01-01,2026-01-31,3,")
	done(t, folder, "normalise", "s")
	assert.FileExists(t, filepath.Join(folder, "clean", "s.csv"))
	assert.Contains(t, done(t, folder, "totals", "s", "--sum", "n", "--as-of", "2026-02-01", "--loaded-through", "2026-01-31").out, "2026-01,2026-01-01,2026-01-31,3,")
	assert.Contains(t, done(t, folder, "days-off", "--year", "2026", "--format", "csv").out, "2026-01-07")
	require.NoError(t, os.WriteFile(filepath.Join(folder, `data\own.csv`), []byte("sold,n\n2026-01-05,9\n"), 0o600))
	require.NoError(t, os.WriteFile(filepath.Join(folder, "data", "own.csv"), []byte("sold,n\n2026-01-05,4\n"), 0o600))
	change(t, folder, `data\till-*.csv`, `data\own.csv`)
	change(t, folder, `, out: 'clean\s.csv'`, "")
	assert.Contains(t, done(t, folder, "totals", "s", "--sum", "n", "--as-of", "2026-02-01", "--loaded-through", "2026-01-31").out, "2026-01,2026-01-01,2026-01-31,9,")
}
