package cli_test

import (
	"database/sql"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	_ "modernc.org/sqlite"
)

// bySQL is a date table as somebody else's SQL makes it: other names, truth as
// 0 and 1, numbers with zeros, and a fiscal year from February. Its week is
// wrong near New Year, as the formula of many is.
func bySQL(t testing.TB) string {
	t.Helper()
	db, err := sql.Open("sqlite", ":memory:")
	require.NoError(t, err)
	defer db.Close()
	rows, err := db.Query(`
		WITH RECURSIVE days(d) AS (SELECT '2024-01-01' UNION ALL SELECT date(d, '+1 day') FROM days WHERE d < '2026-12-31')
		SELECT d || ',' || strftime('%Y', d) || ',' || strftime('%m', d)
			|| ',' || ((strftime('%m', d) + 2) / 3)
			|| ',' || CAST(strftime('%Y', d, 'start of month', '-1 month') AS INTEGER)
			|| ',' || CAST(strftime('%m', d, 'start of month', '-1 month') AS INTEGER)
			|| ',' || CASE WHEN strftime('%w', d) IN ('0', '6') THEN 1 ELSE 0 END
			|| ',' || date(d, 'start of month', '+1 month', '-1 day')
			|| ',' || strftime('%V', d) || ',' || strftime('%Y', d) || strftime('%V', d)
		FROM days`)
	require.NoError(t, err)
	defer rows.Close()
	var text strings.Builder
	text.WriteString("Day,Yr,Mon,Qtr,FY,FPeriod,WeekendFlag,EOM,Wk,iso_week_key\n")
	for rows.Next() {
		var line string
		require.NoError(t, rows.Scan(&line))
		text.WriteString(line + "\n")
	}
	require.NoError(t, rows.Err())
	return text.String()
}

func TestCheckOfATableThatSomebodyElseMade(t *testing.T) {
	folder := folderWith(t, map[string]string{"d.csv": bySQL(t)})
	flags := []string{"--fiscal-start", "february", "--fiscal-named-by", "start"}
	result := run(t, folder, append([]string{"check", "d.csv"}, flags...)...)
	assert.Equal(t, 1, result.code)
	assert.Contains(t, result.err, "d.csv: faults found: wrong values, split period")
	assert.Regexp(t, `wrong values +2024-12-30 to 2025-12-31 +iso_week_key, line 366 and 4 more +5 values wrong: "202401" should be "202501"`, result.err)
	assert.Contains(t, result.err, "Recognised by their values: Yr = year, Mon = month, Qtr = quarter, FY = fiscal_year, FPeriod = fiscal_month, WeekendFlag = is_weekend, EOM = month_end, Wk = week")
	// By the wrong year the columns mean something else, which --map says.
	result = run(t, folder, "check", "d.csv", "--fiscal-start", "february", "--fiscal-named-by", "end", "--map", "FY=fiscal_year", "--map", "iso_week_key=")
	assert.Equal(t, 1, result.code)
	assert.Regexp(t, `wrong values .* FY, line 2 and 1,095 more +1,096 values wrong: "2023" should be "2024" \(fiscal_year\)`, result.err)
	assert.Contains(t, result.err, "Checked: 9 of 10 columns\nNot checked (not recognised; add --map COLUMN=ATTRIBUTE): iso_week_key")
	result = run(t, folder, "check", "d.csv", "--map", "FY=fiscal_yaer")
	assert.Equal(t, 2, result.code)
	assert.Contains(t, result.err, `--map: there is no attribute "fiscal_yaer". Did you mean "fiscal_year"?`)
	// Without a plan what is the same everywhere is worked out again, whatever its columns are called.
	result = run(t, folder, "check", "d.csv")
	assert.Equal(t, 1, result.code)
	assert.Contains(t, result.err, "Recognised by their values: Yr = year, Mon = month, Qtr = quarter, WeekendFlag = is_weekend, EOM = month_end, Wk = week\nChecked: 8 of 10 columns\nNot checked (not recognised; add --map COLUMN=ATTRIBUTE): FY, FPeriod\n")
}

func TestCheckHoldsPeriodsAgainstEachOther(t *testing.T) {
	folder := t.TempDir()
	done(t, folder, "build", "--from", "2026-01-01", "--to", "2026-12-31", "--fiscal-start", "april", "-o", "d.csv", "-q",
		"--columns", "date_key,date,fiscal_year,fiscal_quarter_key,fiscal_quarter_label,fiscal_month_key,fiscal_month_name,fiscal_month,fiscal_month_start,fiscal_week_key")
	right := textOf(t, folder, "d.csv")
	done(t, folder, "check", "d.csv")
	for name, c := range map[string]struct{ old, new, fault string }{
		"label":    {"20260731,2026-07-31,2027,20272,FY2027 Q2,202704,July,", "20260731,2026-07-31,2027,20272,FY2027 Q3,202704,July,", `ambiguous sort key .* fiscal_quarter_label, line 213 +FY2027 Q3 with 20272, but FY2027 Q2 with 20272 before: 1 row`},
		"pieces":   {"20261115,2026-11-15,2027,20273,FY2027 Q3,202708,", "20261115,2026-11-15,2027,20273,FY2027 Q3,202707,", `split period +2026-11-15 to 2026-11-30 +fiscal_month_key, line 320 and 15 more +202707 starts again after another period: 16 rows`},
		"crossing": {"20261115,2026-11-15,2027,20273,", "20261115,2026-11-15,2027,20274,", `overlapping periods +2026-11-15 +fiscal_month_key, line 320 +202708 in 20274, but in 20273 before, by fiscal_quarter_key: 1 row`},
		"bounds":   {"November,8,2026-11-01,202736", "November,8,2026-11-02,202736", `period boundaries .* fiscal_month_start, line 335 +"2026-11-02", but by the days of its fiscal_month_key it is 2026-11-01`},
	} {
		require.Contains(t, right, c.old, name)
		require.NoError(t, os.WriteFile(filepath.Join(folder, "d.csv"), []byte(strings.ReplaceAll(right, c.old, c.new)), 0o666))
		result := run(t, folder, "check", "d.csv")
		assert.Equal(t, 1, result.code, name)
		assert.Regexp(t, c.fault, result.err, name)
	}
}

func TestCheckOfYearsThatHoldFacts(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": "sold\n2026-03-05\n2026-03-06\n"})
	done(t, folder, "build", "--cover", "s.csv:sold", "--exact", "-o", "d.csv", "-q")
	result := run(t, folder, "check", "d.csv", "--cover", "s.csv:sold", "--json", "--fiscal-start", "july")
	assert.Equal(t, 1, result.code)
	var report struct {
		Compared int `json:"values_compared"`
		Columns  []struct{ Column, Attribute, By string }
		Faults   []struct {
			Kind, Column, Value, First, Last, What string
			Count                                  int
		}
	}
	require.NoError(t, json.Unmarshal([]byte(result.out), &report))
	var whole []string
	for _, fault := range report.Faults {
		if fault.Kind == "incomplete year" {
			whole = append(whole, fault.Column+" "+fault.Value+" "+fault.What)
		}
	}
	assert.Equal(t, []string{"year 2026 2026 has facts but lacks 363 days; build whole years", "fiscal FY2026 FY2026 has facts but lacks 363 days; build whole years"}, whole)
	assert.NotEmpty(t, report.Columns)
	assert.Positive(t, report.Compared)
}

// Every single value that is changed in a table is found.
func TestCheckFindsEveryChangedValue(t *testing.T) {
	folder := folderWith(t, map[string]string{"roundyear.yaml": "roundyear: 1\ncalendars: {retail: {weeks: {ends_on: saturday, last_in: june, split: 4-4-5}}}\n"})
	done(t, folder, "build", "--from", "2025-06-20", "--to", "2025-07-10", "--columns", "all", "--as-of", "2025-07-01", "-o", "d.csv", "-q")
	lines := splitLines(textOf(t, folder, "d.csv"))
	columns := strings.Split(lines[0], ",")
	require.NoError(t, os.WriteFile(filepath.Join(folder, "d.csv"), []byte(strings.Join(lines, "\n")+"\n"), 0o666))
	done(t, folder, "check", "d.csv", "--as-of", "2025-07-01")
	for place := 3; place < len(columns); place += 23 {
		changed := append([]string(nil), lines...)
		fields := strings.Split(changed[9], ",")
		fields[place] = "9" + fields[place]
		changed[9] = strings.Join(fields, ",")
		require.NoError(t, os.WriteFile(filepath.Join(folder, "d.csv"), []byte(strings.Join(changed, "\n")+"\n"), 0o666))
		result := run(t, folder, "check", "d.csv", "--as-of", "2025-07-01")
		assert.Equal(t, 1, result.code, columns[place])
		assert.Regexp(t, `wrong values +2025-06-28 +`+columns[place]+`, line 10 +1 value wrong: "9`, result.err)
	}
}

// Without a plan a certificate says what it covers, and every column that is
// named like an attribute is held to it.
func TestCertificatesWithoutAPlan(t *testing.T) {
	folder := t.TempDir()
	table := func(change func(line string) string, args ...string) {
		done(t, folder, append([]string{"build", "--from", "2025-01-01", "--to", "2026-12-31", "-o", "d.csv", "-q"}, args...)...)
		require.NoError(t, os.WriteFile(filepath.Join(folder, "d.csv"), []byte(change(textOf(t, folder, "d.csv"))), 0o600))
	}
	same := func(line string) string { return line }
	replace := func(old, new string) func(string) string {
		return func(text string) string {
			require.Contains(t, text, old)
			return strings.Replace(text, old, new, 1)
		}
	}
	for _, c := range []struct {
		columns, old, new, fault string
	}{
		{"date,day_name", "2026-03-02,Monday", "2026-03-02,Friday", `wrong values +2026-03-02 +day_name, line 427 +1 value wrong: "Friday" should be "Monday"`},
		{"date,is_weekend", "2026-03-02,false", "2026-03-02,true", `wrong values +2026-03-02 +is_weekend, line 427 +1 value wrong: "true" should be "false"`},
		{"date,month_name", "2026-03-02,March", "2026-03-02,Foo", `"Foo" should be "March"`},
		{"date,month_short,day_short", "2026-03-02,Mar,Mon", "2026-03-02,Mar,Mo", `"Mo" should be "Mon"`},
		{"date,days_in_month", "2026-03-02,31", "2026-03-02,28", `"28" should be "31"`},
		{"date,week,week_year", "2026-03-02,10,2026", "2026-03-02,11,2026", `"11" should be "10"`},
		{"date,quarter_label", "2026-03-02,2026 Q1", "2026-03-02,2026 Q2", `"2026 Q2" should be "2026 Q1"`},
		{"date,fiscal_year", "2026-03-02,2026", "2026-03-02,2027", `"2027" should be "2026"`},
	} {
		table(replace(c.old, c.new), "--columns", c.columns)
		result := run(t, folder, "check", "d.csv")
		assert.Equal(t, 1, result.code, c.columns)
		assert.Regexp(t, c.fault, result.err)
	}
	// Names of another language, another weekend and another first day of the week
	// are conventions, and no faults; single values that differ are.
	for _, args := range [][]string{{"--language", "nl"}, {"--weekend", "fri,sat"}, {"--week-start", "sunday"}} {
		table(same, append(args, "--columns", "date,day_name,month_name,is_weekend,day_of_week,is_first_day_of_week")...)
		result := done(t, folder, "check", "d.csv")
		assert.Contains(t, result.err, "Checked: 6 of 6 columns", "%v", args)
	}
	table(replace("2026-03-02,maandag", "2026-03-02,vrijdag"), "--language", "nl", "--columns", "date,day_name")
	assert.Contains(t, run(t, folder, "check", "d.csv").err, `"vrijdag" should be "maandag"`)

	// What was not checked is listed, with what it depends on.
	table(same, "--fiscal-start", "april", "--region", "IE", "--week-start", "sunday", "--week-min-days", "1", "--columns", "date,fiscal_year,is_workday,week,day_offset,month_label")
	require.NoError(t, os.WriteFile(filepath.Join(folder, "d.csv"), []byte(strings.Replace(textOf(t, folder, "d.csv"), "month_label", "MyMonth", 1)), 0o600))
	result := done(t, folder, "check", "d.csv")
	assert.Contains(t, result.err, "Recognised by their values: MyMonth = month_label\nChecked: 2 of 6 columns\n"+
		"Not checked (depends on the numbering of weeks; add --week-start and --week-min-days, or a plan): week\n"+
		"Not checked (depends on the fiscal year; add --fiscal-start, or a plan): fiscal_year\n"+
		"Not checked (depends on days off; add --region, or a plan): is_workday\n"+
		"Not checked (depends on the as-of date; add --as-of): day_offset\n")
	assert.Contains(t, done(t, folder, "check", "d.csv", "--json").out, `"columns_total": 6`)
}

// What a table was built with stands beside it, and check goes by it.
func TestCheckKnowsWhatATableWasBuiltWith(t *testing.T) {
	folder := folderWith(t, map[string]string{
		"plans/year.yaml": "roundyear: 1\nrange: {from: 2026-01-01, to: 2026-12-31}\nlanguage: [en, nl]\ncalendars: {retail: {weeks: {ends_on: saturday, last_in: june, split: 4-4-5}}}\n" +
			"days_off: [{region: IE}, {name: Half, half: true, when: {month: december, day: 24}}]\nmodel: {dimension: {name: dates, columns: [all], out: [../out/d.csv]}}\n",
	})
	done(t, folder, "build", "-p", "plans/year.yaml", "--as-of", "2026-05-05")
	result := done(t, folder, "check", "out/d.csv")
	assert.Contains(t, result.err, "Built with, according to datapackage.json: --plan plans/year.yaml --as-of 2026-05-05\n")
	assert.NotContains(t, result.err, "Not checked")
	assert.Equal(t, 1, run(t, folder, "check", "out/d.csv", "--as-of", "2026-05-06").code, "the call wins")

	done(t, folder, "build", "--from", "2026-01-01", "--to", "2026-12-31", "--fiscal-start", "april", "--region", "IE", "--language", "nl", "--label", "short=d/M", "--columns", "all", "--as-of", "2026-05-05", "--model", "-o", "own/d.csv")
	result = done(t, folder, "check", "own/d.csv")
	assert.Contains(t, result.err, "--fiscal-start april --region IE --language nl --label short=d/M --as-of 2026-05-05\n")
	assert.NotContains(t, result.err, "Not checked")

	for _, broken := range []string{"{", `{"created_with":"roundyear","resources":[{"path":"d.csv","built_with":["a","","--map"]}]}`,
		`{"created_with":"roundyear","resources":[{"path":"d.csv","built_with":["x","y","--map","date=year","--fiscal-start","nonsense"]}]}`} {
		require.NoError(t, os.WriteFile(filepath.Join(folder, "own", "datapackage.json"), []byte(broken), 0o600))
		assert.LessOrEqual(t, run(t, folder, "check", "own/d.csv").code, 2)
	}
}

// A table of somebody else's is known by what all values fit; a name that is only similar does not make them wrong.
func TestTheirColumnsAreWhatTheirValuesFit(t *testing.T) {
	var text strings.Builder
	text.WriteString("Date,Year,Quarter,Month,Weekday,DayOfWeek,MonthYear,IsWeekend\n")
	for day := time.Date(2025, 1, 1, 0, 0, 0, 0, time.UTC); day.Year() < 2027; day = day.AddDate(0, 0, 1) {
		fmt.Fprintf(&text, "%s,%d,Q%d,%s,%s,%d,%s,%t\n", day.Format(time.DateOnly), day.Year(), (int(day.Month())-1)/3+1, day.Format("Jan"), day.Format("Mon"), int(day.Weekday())+1, day.Format("Jan 2006"), day.Weekday() == time.Saturday || day.Weekday() == time.Sunday)
	}
	folder := folderWith(t, map[string]string{"d.csv": text.String(), "wrong.csv": strings.Replace(text.String(), "2026-11-11,2026,Q4,Nov,", "2026-11-11,2026,Q3,Now,", 1)})
	checked := done(t, folder, "check", "d.csv", "--no-plan")
	assert.Contains(t, checked.err, "Recognised by their values: Quarter = quarter_name, Month = month_short, Weekday = day_short, MonthYear = month_year_short\nChecked: 8 of 8 columns\n")
	wrong := attended(t, folder, "check", "wrong.csv", "--no-plan")
	assert.Regexp(t, `Quarter, line 681 +1 value wrong: "Q3" should be "Q4"`, wrong.err+wrong.out)
	assert.Regexp(t, `Month, line 681 +1 value wrong: "Now" should be "Nov"`, wrong.err+wrong.out)
}
