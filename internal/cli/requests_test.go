package cli_test

import (
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// asResult adds what a call shows as its request to a plan, under a name.
func asResult(t testing.TB, plan, shown, name string) {
	t.Helper()
	_, body, found := strings.Cut(shown, "results:\n")
	require.True(t, found, shown)
	body = regexp.MustCompile(`^  \S+:`).ReplaceAllString(body, "  "+name+":")
	text, err := os.ReadFile(plan)
	require.NoError(t, err)
	if !strings.Contains(string(text), "\nresults:") {
		text = append(text, "\nresults:\n"...)
	}
	require.NoError(t, os.WriteFile(plan, append(text, body...), 0o666))
}

// What a call shows as its request is the same run again once it stands in the plan.
func TestARequestInThePlanIsTheSameRun(t *testing.T) {
	folder := t.TempDir()
	done(t, folder, "demo", "fern")
	folder = filepath.Join(folder, "fern")
	plan := filepath.Join(folder, "roundyear.yaml")
	calls := map[string][]string{
		"totals":    {"totals", "sales", "--sum", "amount", "--count", "--grain", "fiscal.month", "--by", "shop", "--against", "year-ago,previous", "--as-of", "2026-03-15", "--recent", "2", "-o", "out/x.csv"},
		"filled":    {"fill", "clean/sales.csv", "--by", "shop", "--sum", "amount", "--grain", "week", "--span", "own", "--as-of", "2026-03-15", "-o", "out/x.csv"},
		"cleaned":   {"normalise", "data/till-b.csv", "--pattern", "sold_at=MM/dd/yyyy h:mm a", "--keep", "sold_at,shop", "--rejects", "out/x.rejects.csv", "-o", "out/x.csv"},
		"surveyed":  {"survey", "data/orders.csv", "--as-of", "2026-03-15", "--json"},
		"built":     {"build", "--from", "2026-01-01", "--to", "2026-03-31", "--columns", "core,fiscal", "--label", "date_label=d, MMM yyyy", "-o", "out/x.csv"},
		"checked":   {"check", "dates.csv", "--as-of", "2026-03-15"},
		"open":      {"census", "clean/orders.csv", "--opened", "ordered_date", "--closed", "delivered_date", "--grain", "month", "--as-of", "2026-03-15", "-o", "out/x.csv"},
		"lasted":    {"lapse", "clean/orders.csv", "--start", "ordered_date", "--end", "delivered_date", "--in", "workdays", "--as-of", "2026-03-15", "-o", "out/x.csv"},
		"latest":    {"latest", "sales", "--sum", "amount", "--as-of", "2026-03-15", "--format", "csv"},
		"published": {"publish", "--without", "facts,clock", "--dialect", "postgres", "--indexes=false", "--as-of", "2026-03-15", "-o", "out/x.sql"},
		"explained": {"explain", "2026-03-17", "--as-of", "2026-03-15", "--json"},
		"off":       {"days-off", "IE", "--from", "2026-01-01", "--to", "2026-12-31"},
		"columns":   {"columns", "--columns", "fiscal,moving", "--as-of", "2026-03-15"},
	}
	out := func() map[string]string {
		files := map[string]string{}
		for _, name := range []string{"x.csv", "x.rejects.csv", "x.sql"} {
			if text, err := os.ReadFile(filepath.Join(folder, "out", name)); err == nil {
				files[name] = string(text)
			}
			_ = os.Remove(filepath.Join(folder, "out", name))
		}
		return files
	}
	elsewhere := filepath.Join(folder, "data")
	for name, args := range calls {
		out()
		shown := done(t, folder, append(args, "--show-request")...)
		assert.Empty(t, out(), "nothing is done")
		asResult(t, plan, shown.out, name)
		direct := run(t, folder, args...)
		files := out()
		again := run(t, folder, "run", name)
		assert.Equal(t, direct, again, name)
		assert.Equal(t, files, out(), name)
		assert.NotEqual(t, 2, direct.code, direct.err)
		assert.Equal(t, shown.out, strings.Replace(done(t, folder, "run", name, "--show-request").out, "  "+name+":", "  "+args[0]+":", 1), name)
		// From another folder: paths of the plan are from its own.
		below := run(t, elsewhere, "run", name)
		assert.Equal(t, direct.code, below.code, "%s: %s", name, below.err)
		assert.Equal(t, files, out(), name)
		assert.Contains(t, below.err, "Paths are from ..\n")
	}
	assert.Contains(t, done(t, folder, "plan", "check").err, "no faults found")
	listed := done(t, folder, "run")
	assert.Contains(t, listed.err, "roundyear.yaml has 14 results")
	assert.Regexp(t, `(?m)^built +build *$`, listed.err)
	assert.Regexp(t, `(?m)^cleaned +normalise +data/till-b.csv$`, listed.err)
	// Flags behind the name win, and their paths are from the working folder.
	recent := done(t, elsewhere, "run", "totals", "--recent", "1", "--by", "department", "-o", "here.csv")
	assert.Contains(t, recent.err, "in 1 fiscal month")
	assert.Contains(t, textOf(t, elsewhere, "here.csv"), "period,period_start,period_end,department,amount")
	assert.NotContains(t, names(t, filepath.Join(folder, "out")), "x.csv")
	shown := done(t, elsewhere, "totals", "../clean/sales.csv", "--sum", "amount", "--budget", "../clean/budget.csv:amount", "-o", "here.csv", "-o", "shop.db#t", "--show-request")
	for _, want := range []string{"inputs: clean/sales.csv\n", "budget: clean/budget.csv:amount\n", "out: [data/here.csv, data/shop.db#t]\n"} {
		assert.Contains(t, shown.out, want)
	}
	// What the plan says of facts stands behind it.
	own := folderWith(t, map[string]string{"s.csv": "x\nsold;n\n05/02/2026;1\n", "roundyear.yaml": "roundyear: 1\nfacts:\n  sales: {files: s.csv, skip: 1, header: true, decimal: {n: comma}, blank_as: n/a, rename: {n: units}, dates: {sold: {order: day}}}\n"})
	planned := done(t, own, "totals", "sales", "--count", "--blank-as", "-", "--show-request")
	for _, want := range []string{"    blank_as: '-'\n", "    # skip: 1 (by the plan)\n", "    # header: true (by the plan)\n", "    # decimal: n=comma (by the plan)\n", "    # rename: n=units (by the plan)\n", "    # order: day (by the plan)\n"} {
		assert.Contains(t, planned.out, want)
	}
	assert.NotContains(t, planned.out, "n/a")
}

func TestResultsThatCannotBeRun(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": "sold,n\n2026-01-05,1\n", "roundyear.yaml": `roundyear: 1
results:
  monthly:
    command: totals
    inputs: s.csv
    sum: n
    gran: month
  weekly: {command: total, inputs: s.csv}
  daily: {command: totals, inputs: s.csv, sum: n, grain: dai, recent: x}
  bad: {command: totals, inputs: s.csv, sum: n, grain: dai}
  fine: {command: totals, inputs: s.csv, sum: n, as_of: 2026-02-01}
`})
	for call, want := range map[string]string{
		"run monthly":             "roundyear.yaml, line 7, column 5: totals has no setting \"gran\". Did you mean grain?\n",
		"run weekly":              "results.weekly.command must be a command that has results, not \"total\". Did you mean totals?\n",
		"run daily":               "results.daily.recent must be a whole number, not \"x\"\n",
		"run montly":              "roundyear.yaml: has no result \"montly\". Did you mean monthly?\n",
		"run bad":                 "See roundyear totals --help\n",
		"run fine --gran day":     "unknown flag --gran. Did you mean --grain?\nSee roundyear totals --help\n",
		"run fine s.csv":          "unexpected argument: \"s.csv\". What a result reads stands in the plan\n",
		"run --grain fine":        "unknown flag --grain",
		"run fine --no-plan":      "there is no plan in this folder or above it, or --no-plan ignores it",
		"run fine --plan no.yaml": "no.yaml: there is no such plan",
		"plan check":              "roundyear.yaml has 3 faults\n",
		"run fine --grain month --grain day --color never": "--grain is given twice",
	} {
		refused := run(t, folder, strings.Fields(call)...)
		assert.Equal(t, 2, refused.code, "%s: %s", call, refused.err)
		assert.Contains(t, refused.err, want, call)
	}
	assert.Contains(t, done(t, folder, "run", "fine").out, "2026-01,2026-01-01,2026-01-31,1,")
	assert.Empty(t, done(t, folder, "run", "fine", "-q").err)
	require.NoError(t, os.WriteFile(filepath.Join(folder, "roundyear.yaml"), []byte("roundyear: 1\n"), 0o666))
	assert.Contains(t, done(t, folder, "run").err, "has no results")
	assert.Contains(t, run(t, folder, "run", "fine").err, "has no result \"fine\". It has none: put what --show-request prints under results\n")
	// A password in an address is in no request.
	shown := run(t, folder, "totals", "postgres://ann:hunter2@db/shop#sales", "--count", "--show-request")
	assert.Contains(t, shown.out, "inputs: postgres://ann@db/shop#sales\n")
	assert.NotContains(t, shown.out+shown.err, "hunter2")
}

// The settings of every command go into the plan and come back as they were, whatever they are.
func TestRandomRequestsComeBack(t *testing.T) {
	folder := folderWith(t, map[string]string{"roundyear.yaml": "roundyear: 1\n"})
	random := rand.New(rand.NewPCG(3, 1))
	flag := regexp.MustCompile(`(?m)^ +(?:-\w, |    )--([a-z-]+)(?: (\S+))? `)
	values := []string{"", "a b", "true", "12", "2026-03-15", "x=y, z", `"q"`, "it's", "a: b", "# c", "-d", "[e]", "*f", "%g", "ü", "日本", "C:\\x", "null"}
	plan := filepath.Join(folder, "roundyear.yaml")
	tried := map[string]int{}
	for _, command := range []string{"survey", "normalise", "days-off", "build", "columns", "explain", "check", "fill", "census", "lapse", "allocate", "totals", "latest", "publish"} {
		help := done(t, folder, command, "--help").out
		flags := flag.FindAllStringSubmatch(help, -1)
		require.NotEmpty(t, flags, command)
		for n := range 12 {
			args := []string{command}
			for i := range random.IntN(3) {
				args = append(args, fmt.Sprintf("in %d.csv", i))
			}
			for range random.IntN(7) {
				one := flags[random.IntN(len(flags))]
				value := values[random.IntN(len(values))]
				switch {
				case strings.Contains(" help plan no-plan color quiet version show-request ", " "+one[1]+" "), strings.Contains(strings.Join(args, " "), "--"+one[1]+"="):
					continue
				case one[2] == "":
					value = []string{"true", "false"}[random.IntN(2)]
				case one[2] == "N" || one[2] == "YEARS" || one[2] == "DAYS" && one[1] != "placeholder" && one[1] != "over" && one[1] != "budget-over" || one[1] == "pivot":
					value = "7"
				}
				args = append(args, "--"+one[1]+"="+value)
				tried[one[1]]++
			}
			first := run(t, folder, append(args, "--show-request")...)
			if first.code != 0 { // a value that is no list, or too few inputs
				assert.Equal(t, 2, first.code, "%q: %s", args, first.err)
				continue
			}
			name := fmt.Sprintf("%s_%d", strings.ReplaceAll(command, "-", "_"), n)
			require.NoError(t, os.WriteFile(plan, []byte("roundyear: 1\n"), 0o666))
			asResult(t, plan, first.out, name)
			again := done(t, folder, "run", name, "--show-request")
			require.Equal(t, first.out, strings.Replace(again.out, "  "+name+":", "  "+command+":", 1), "%q", args)
		}
	}
	assert.Greater(t, len(tried), 100)
}
