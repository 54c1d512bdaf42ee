package cli_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"roundyear/civil/civiltest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// shopDays are the sales of two shops, of which one is closed on Mondays and for two days in March 2026.
var shopDays = map[string]string{
	"sales.csv": "day,shop,amount\n2026-03-01,Ballyfern,10.50\n2026-03-03,Ballyfern,1\n2026-03-09,Ballyfern,5\n2026-03-02,Cloghvale,2.25\n2026-03-08,Cloghvale,4\n2026-03-09,Elsewhere,1\n",
	"roundyear.yaml": `roundyear: 1
facts:
  sales: {files: sales.csv}
sites:
  Ballyfern: {}
  Cloghvale: {open: [tue, wed, thu, fri, sat, sun], opened: 2026-03-02, closures: {from: 2026-03-05, to: 2026-03-06}}
`,
	"lives.csv": "store,opened,closed\nBallyfern,28/02/2026,\nCloghvale,02/03/2026,06/03/2026\n",
}

func TestFillOnlyWhereOpen(t *testing.T) {
	folder := folderWith(t, shopDays)
	filled := attended(t, folder, "fill", "sales", "--by", "shop", "--sum", "amount", "--grain", "day", "--only-open", "--as-of", "2026-04-01")
	var days []string
	for _, line := range strings.Split(filled.out, "\n") {
		if strings.Contains(line, ",Cloghvale,") {
			days = append(days, line[:10]+line[strings.Index(line, "Cloghvale,")+9:])
		}
	}
	assert.Equal(t, []string{"2026-03-02,2.25,false,false", "2026-03-03,0.00,true,false", "2026-03-04,0.00,true,false", "2026-03-07,0.00,true,false", "2026-03-08,4.00,false,false"}, days,
		"no Monday but the one with sales, no day of the closure, nothing before it opened")
	assert.Contains(t, filled.err, "! Cloghvale has 1 row in 1 day when it was not open (2026-03-02)\n")
	assert.Contains(t, filled.err, "! Opening days are not known for 1 group: Elsewhere\n")
	assert.Contains(t, filled.err, "amount: 23.75 before and after\n")
	assert.Contains(t, filled.err, "First filled: 2026-03-01 Elsewhere, 2026-03-02 Ballyfern, 2026-03-02 Elsewhere, 2026-03-03 Cloghvale, 2026-03-03 Elsewhere\n")
	assert.Regexp(t, `Ballyfern +2026-03-04 +2026-03-08 +5\n`, filled.err)
	assert.Regexp(t, `Cloghvale +2026-03-03 +2026-03-07 +3\n`, filled.err)
}

func TestFillByLives(t *testing.T) {
	folder := folderWith(t, shopDays)
	call := []string{"fill", "sales.csv", "--no-plan", "--by", "shop", "--count", "--grain", "day", "--as-of", "2026-04-01", "--where", "shop=Ballyfern,Cloghvale"}
	lives := append(call[:len(call):len(call)], "--lives", "lives.csv:store,opened,closed", "--order", "day")
	filled := attended(t, folder, lives...)
	assert.Equal(t, 6, strings.Count(filled.out, ",Cloghvale,"), "2 to 6 March, and the 8th, on which there are sales")
	assert.NotContains(t, filled.out, "2026-03-07,2026-03-07,Cloghvale")
	assert.Equal(t, 9, strings.Count(filled.out, ",Ballyfern,"), "28 February is before all facts")
	assert.Contains(t, filled.err, "! Cloghvale has 1 row in 1 day when it was not open (2026-03-08)\n")
	bySites := done(t, folder, "fill", "sales.csv", "--by", "shop", "--count", "--grain", "day", "--as-of", "2026-04-01", "--where", "shop=Cloghvale", "--span", "lives")
	assert.Equal(t, 7, strings.Count(bySites.out, ",Cloghvale,"))

	planned := strings.Replace(textOf(t, folder, "roundyear.yaml"), "facts:", "range: {cover: sales.day}\nfacts:", 1)
	planned = strings.Replace(planned, "files: sales.csv", "files: sales.csv, dates: {day: {}}", 1)
	require.NoError(t, os.WriteFile(filepath.Join(folder, "roundyear.yaml"), []byte(planned), 0o600))
	year := done(t, folder, "fill", "sales", "--count", "--span", "plan", "--as-of", "2026-12-31")
	assert.Equal(t, 13, strings.Count(year.out, "\n"), "the whole year")
	assert.Contains(t, run(t, folder, "fill", "sales", "--count", "--span", "plan", "--from", "2026-01-01").err, "--span plan cannot be combined with --from or --to")
	assert.Contains(t, run(t, folder, "fill", "sales.csv", "--count", "--span", "plan", "--no-plan").err, "the range is missing")

	for _, failed := range []struct {
		lives, message string
		code           int
	}{
		{"lives.csv", "--lives must be FILE:GROUP,OPENED,CLOSED with the names of three columns", 2},
		{"lives.csv:shop,opened,closed", `column "shop"`, 2},
		{"gone.csv:store,opened,closed", "gone.csv", 3},
		{"twice.csv:store,opened,closed", `twice.csv, line 3, column store: "A" is already in line 2`, 2},
		{"back.csv:store,opened,closed", `back.csv, line 2, column store: "A" closed on 2026-01-01, before it opened on 2026-01-02`, 2},
	} {
		require.NoError(t, os.WriteFile(filepath.Join(folder, "twice.csv"), []byte("store,opened,closed\nA,2026-01-01,\nA,2026-01-02,\n"), 0o600))
		require.NoError(t, os.WriteFile(filepath.Join(folder, "back.csv"), []byte("store,opened,closed\nA,2026-01-02,2026-01-01\n"), 0o600))
		result := run(t, folder, append(call[:len(call):len(call)], "--lives", failed.lives)...)
		assert.Equal(t, failed.code, result.code, result.err)
		assert.Contains(t, result.err, failed.message)
		assert.Empty(t, result.out)
	}
	for message, flags := range map[string][]string{
		"--site amount is not a column of --by":                        {"--only-open", "--site", "amount"},
		"there is neither":                                             {"--only-open"},
		"--combine must be seen or all":                                {"--combine", "some"},
		"--only-open takes opening days from the plan's sites":         {"--only-open", "--lives", "lives.csv:store,opened,closed", "--order", "day"},
		"--lives goes with --span lives":                               {"--span", "own", "--lives", "lives.csv:store,opened,closed"},
		"--gap: carry:0 must be carry: and a number of periods from 1": {"--gap", "count=carry:0"},
		`--gap: unknown gap value "twice"`:                             {"--gap", "count=twice"},
	} {
		result := run(t, folder, append(call[:len(call):len(call)], flags...)...)
		assert.Equal(t, 2, result.code)
		assert.Contains(t, result.err, message)
	}
	assert.Contains(t, run(t, folder, "fill", "sales.csv", "--count", "--only-open").err, "--only-open and --span lives need the groups: --by COLUMN")
	assert.Contains(t, run(t, folder, "totals", "sales.csv", "--count", "--span", "lives").err, "--span must be all, since-first, own, plan or FROM/TO")
}

// A gap after the day up to which a source is loaded is no zero.
func TestWhatIsNotLoaded(t *testing.T) {
	folder := folderWith(t, map[string]string{
		"a.csv": "day,shop,n\n2026-01-10,A,1\n2026-04-20,A,2\n",
		"b.csv": "day,shop,n\n2026-01-11,B,4\n2026-02-10,B,8\n",
	})
	call := []string{"totals", "a.csv", "b.csv", "--by", "shop", "--sum", "n", "--no-plan", "--as-of", "2026-06-01"}
	rows := func(flags ...string) string {
		out := done(t, folder, append(call[:len(call):len(call)], flags...)...).out
		return strings.NewReplacer("2026-", "", "true", "T", "false", "F", "period,period_start,period_end,shop,n,is_filled,is_running,is_loaded\n", "").Replace(out)
	}
	assert.Equal(t, "01,01-01,01-31,A,1,F,F,T\n01,01-01,01-31,B,4,F,F,T\n02,02-01,02-28,A,0,T,F,T\n02,02-01,02-28,B,8,F,F,F\n03,03-01,03-31,A,0,T,F,T\n03,03-01,03-31,B,,T,F,F\n04,04-01,04-30,A,2,F,F,T\n04,04-01,04-30,B,,T,F,F\n",
		rows("--loaded-through", "b.csv=2026-02-15"))
	assert.Equal(t, rows("--loaded-through", "b.csv=2026-02-15"), rows("--loaded-through", "B=2026-02-15"))
	assert.Equal(t, "04,04-01,04-30,A,2,F,F,F\n04,04-01,04-30,B,,T,F,F\n", strings.Join(strings.SplitAfter(rows("--loaded-through", "2026-02-28"), "\n")[6:], ""))
	told := done(t, folder, append(call, "--loaded-through", "B=2026-02-28")...)
	assert.Contains(t, told.err, "2 rows filled for periods without data, 2 left blank because their data is not loaded; as of 2026-06-01\n")
	assert.Contains(t, told.out, "2026-02,2026-02-01,2026-02-28,B,8,false,false,true\n")

	for flag, message := range map[string]string{"BB=2026-01-01": `--loaded-through: "BB" is neither a file nor a value of a group. Did you mean "B"?`, "2026-13-01": "--loaded-through: ", "x": "write a date, SOURCE=DATE, or each"} {
		failed := run(t, folder, append(call[:len(call):len(call)], "--loaded-through", flag)...)
		assert.Equal(t, 2, failed.code)
		assert.Contains(t, failed.err, message)
	}
	// The plan says it for facts, also when they are normalised.
	require.NoError(t, os.WriteFile(filepath.Join(folder, "roundyear.yaml"), []byte("roundyear: 1\nfacts:\n  sales: {files: [a.csv, b.csv], loaded_through: [2026-05-01, B=2026-02-28], dates: {day: {}}, out: clean.csv}\n"), 0o600))
	planned := done(t, folder, "totals", "sales", "--by", "shop", "--sum", "n", "--as-of", "2026-06-01")
	assert.Equal(t, told.out, planned.out)
	done(t, folder, "normalise", "sales")
	assert.Equal(t, told.out, done(t, folder, "totals", "sales", "--by", "shop", "--sum", "n", "--as-of", "2026-06-01").out)
	broken := strings.Replace(textOf(t, folder, "roundyear.yaml"), "B=2026-02-28", "B=soon", 1)
	require.NoError(t, os.WriteFile(filepath.Join(folder, "roundyear.yaml"), []byte(broken), 0o600))
	assert.Contains(t, run(t, folder, "plan", "check").err, `facts.sales.loaded_through must be a date, SOURCE=DATE, or each, not "B=soon"`)
}

// Without measures rows stay as they are, and only those that are missing are added.
func TestFillKeepsRows(t *testing.T) {
	folder := folderWith(t, map[string]string{
		"a.csv":   "note;sold_date;sold_key;shop\n\"x;\"\"y\"\"\";2026-01-15;20260115;A\n;2026-04-02;20260402;A\nz;2026-02-01;20260201;B & C\nno day;;;A\n",
		"a.jsonl": "{\"n\":1.50,\"day\":\"2026-01-15\",\"shop\":\"A\",\"more\":{\"x\":[1]}}\n{\"day\":\"2026-03-02\",\"shop\":\"A\"}\n",
		"d.csv":   "day,n\n15/01/2026,1\n20/03/2026,2\n",
	})
	kept := attended(t, folder, "fill", "a.csv", "--by", "shop", "--combine", "all", "--no-plan", "--as-of", "2026-04-15", "--date", "sold_date")
	assert.Equal(t, textOf(t, folder, "a.csv")[:len("note;sold_date;sold_key;shop")]+";is_filled;is_running\n"+
		"\"x;\"\"y\"\"\";2026-01-15;20260115;A;false;false\n;2026-04-02;20260402;A;false;true\nz;2026-02-01;20260201;B & C;false;false\nno day;;;A;false;\n"+
		";2026-01-01;20260101;B & C;true;false\n;2026-02-01;20260201;A;true;false\n;2026-03-01;20260301;A;true;false\n;2026-03-01;20260301;B & C;true;false\n;2026-04-01;20260401;B & C;true;true\n", kept.out)
	assert.Contains(t, kept.err, "4 rows kept, 5 added\n")
	assert.Equal(t, "{\"n\":1.50,\"day\":\"2026-01-15\",\"shop\":\"A\",\"more\":{\"x\":[1]},\"is_filled\":false,\"is_running\":false}\n{\"day\":\"2026-03-02\",\"shop\":\"A\",\"is_filled\":false,\"is_running\":false}\n{\"day\":\"2026-02-01\",\"shop\":\"A\",\"is_filled\":true,\"is_running\":false}\n",
		done(t, folder, "fill", "a.jsonl", "--by", "shop", "--no-plan", "--as-of", "2026-04-15").out)
	limited := done(t, folder, "fill", "a.csv", "--by", "shop", "--no-plan", "--as-of", "2026-04-15", "--date", "sold_date", "--from", "2026-02-01", "--to", "2026-03-31", "--where", "shop=B & C", "-o", "b.parquet", "-o", "b.csv")
	assert.Contains(t, limited.err, "1 row kept, 1 added, written to b.parquet and b.csv\n")
	assert.Equal(t, "note;sold_date;sold_key;shop;is_filled;is_running\nz;2026-02-01;20260201;B & C;false;false\n;2026-03-01;20260301;B & C;true;false\n", textOf(t, folder, "b.csv"))
	// Types stay where there are some.
	done(t, folder, "normalise", "d.csv", "--no-plan", "--drop-original", "-o", "d.parquet")
	done(t, folder, "fill", "d.parquet", "--no-plan", "--as-of", "2026-04-15", "-o", "e.parquet")
	assert.Equal(t, "n,day_date,day_key,is_filled,is_running\n1,2026-01-15,20260115,false,false\n2,2026-03-20,20260320,false,false\n,2026-02-01,20260201,true,false\n",
		python(t, folder, "import pyarrow.parquet as p, pyarrow.csv as c, sys\nt = p.read_table('e.parquet')\nassert str(t.schema.field('day_date').type) == 'date32[day]' and t.column('is_filled').type == 'bool'\nprint(','.join(t.column_names))\nfor r in t.to_pylist(): print(','.join('' if v is None else str(v).lower() for v in r.values()))"))
	refused := run(t, folder, "fill", "d.csv", "--no-plan", "-o", "out.csv")
	assert.Equal(t, 2, refused.code)
	assert.Contains(t, refused.err, "d.csv, column day: has dates as dd/MM/yyyy; rows can only be added where dates are written as 2026-03-01. Normalise the file first")
	assert.NoFileExists(t, filepath.Join(folder, "out.csv"))
	assert.Equal(t, 2, run(t, folder, "fill", "a.jsonl", "--no-plan", "-o", "out.html").code)
}

func TestSurveyOfSourcesThatEndEarly(t *testing.T) {
	daily := func(shop, from, to string) string {
		text := "day,shop,n\n"
		for day := civiltest.Day(from); day <= civiltest.Day(to); day++ {
			text += day.String() + "," + shop + ",1\n"
		}
		return text
	}
	folder := folderWith(t, map[string]string{"a.csv": daily("A", "2026-01-01", "2026-04-20"), "b.csv": daily("B", "2026-01-10", "2026-02-27"), "c.csv": daily("C", "2026-02-01", "2026-04-14"),
		"jan.csv": daily("A", "2026-01-01", "2026-01-31"), "feb.csv": daily("A", "2026-02-01", "2026-02-28")})
	call := []string{"survey", "a.csv", "b.csv", "c.csv", "--as-of", "2026-06-01"}
	assert.Contains(t, done(t, folder, call...).err, "\nb.csv ends on 2026-02-27, 52 days before the others; if nothing is loaded after that, add --loaded-through b.csv=2026-02-27 to fill and totals\n")
	assert.Equal(t, 1, strings.Count(done(t, folder, append(call, "--json")...).out, `"ends_before": "2026-04-20"`))
	assert.NotContains(t, done(t, folder, "survey", "jan.csv", "feb.csv", "--as-of", "2026-06-01").err, "before the others")
}
