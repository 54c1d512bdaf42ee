package request_test

import (
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/internal/request"
	"roundyear/yearplan"
)

var commands = map[string][]request.Known{
	"totals": {{Name: "as-of"}, {Name: "by", Kind: request.List}, {Name: "count", Kind: request.Truth}, {Name: "grain", Default: "month"}, {Name: "let", Kind: request.Texts},
		{Name: "recent", Kind: request.Number}},
	"build": {{Name: "grain", Default: "day"}},
}

func readBack(t testing.TB, text []byte, name string) (request.Request, error) {
	t.Helper()
	plan, err := yearplan.Read("p.yaml", append([]byte("roundyear: 1\n"), text...))
	require.NoError(t, err, string(text))
	result := plan.ResultNamed(name)
	require.NotNil(t, result, string(text))
	return request.Of("p.yaml", *result, commands)
}

func TestARequestIsAResultOfAPlan(t *testing.T) {
	r := request.Request{Command: "totals", Inputs: []string{"sales"}, Settings: []request.Setting{
		{Known: request.Known{Name: "as-of"}, Values: []string{"2026-03-15"}},
		{Known: request.Known{Name: "by", Kind: request.List}, Values: []string{"shop", "depot, old"}},
		{Known: request.Known{Name: "count", Kind: request.Truth}, Values: []string{"false"}},
		{Known: request.Known{Name: "let", Kind: request.Texts}, Values: []string{"m = n + 1"}},
		{Known: request.Known{Name: "recent", Kind: request.Number}, Values: []string{"2"}},
	}}
	text, err := r.YAML("monthly", commands["totals"], []request.Setting{{Known: request.Known{Name: "skip"}, Values: []string{"3"}}, {Known: request.Known{Name: "recent"}, Values: []string{"7"}}})
	require.NoError(t, err)
	assert.Equal(t, `results:
  monthly:
    command: totals
    inputs: sales
    as_of: 2026-03-15
    by: [shop, 'depot, old']
    count: false
    let: m = n + 1
    recent: 2
    # Defaults:
    # skip: "3" (by the plan)
    # grain: month
`, string(text))
	again, err := readBack(t, text, "monthly")
	require.NoError(t, err)
	for i := range again.Settings {
		again.Settings[i].Default = ""
	}
	assert.Equal(t, r, again)
	assert.Equal(t, []string{"totals", "--as-of=2026-03-15", `--by=shop,"depot, old"`, "--count=false", "--let=m = n + 1", "--recent=2", "--", "sales"}, r.Args())
	assert.Equal(t, []string{"totals", "--count=false", "--", "sales"}, r.Without(map[string]bool{"as-of": true, "by": true, "let": true, "recent": true}).Args())
	assert.Equal(t, []string{"totals", "--by=", "--"}, request.Request{Command: "totals", Settings: []request.Setting{{Known: request.Known{Name: "by", Kind: request.List}}}}.Args())
}

// Whatever stands in settings, it is the same when the YAML is read again.
func TestRandomRequestsAreTheSameAgain(t *testing.T) {
	random := rand.New(rand.NewPCG(1, 2))
	values := []string{"", " ", "a", "true", "no", "null", "~", "12", "1e3", "0x1F", "2026-03-15", "2026-03-15T10:00", "a, b", `say "x"`, "it's", "a: b", "# c", "- d", "[e]", "{f}", "&g", "*h", "!i", "%j", "@k", "`l`", "m\nn", "tab\t", "ü", "日本", "x|y", ">", "=", "-o", "--", "\\", "a#b", "C:\\x"}
	for range 3000 {
		r := request.Request{Command: "totals"}
		for range random.IntN(3) {
			r.Inputs = append(r.Inputs, "x"+values[random.IntN(len(values))])
		}
		for _, known := range commands["totals"] {
			if random.IntN(2) == 0 {
				continue
			}
			setting := request.Setting{Known: known}
			switch known.Kind {
			case request.Number:
				setting.Values = []string{"-3"}
			case request.Truth:
				setting.Values = []string{"true"}
			case request.Text:
				setting.Values = []string{values[random.IntN(len(values))]}
			default:
				for range random.IntN(4) {
					setting.Values = append(setting.Values, values[random.IntN(len(values))])
				}
			}
			r.Settings = append(r.Settings, setting)
		}
		text, err := r.YAML("x", nil, nil)
		require.NoError(t, err)
		again, err := readBack(t, text, "x")
		require.NoError(t, err, string(text))
		require.Equal(t, r, again, string(text))
	}
}

func TestWrongRequestsSayWhere(t *testing.T) {
	for text, want := range map[string]string{
		"{command: total}":                   `p.yaml, line 4, column 15: results.x.command must be a command that has results, not "total". Did you mean totals?`,
		"{command: demo}":                    "The commands are build, totals",
		"{command: totals, gran: month}":     `p.yaml, line 4, column 23: totals has no setting "gran". Did you mean grain?`,
		"{command: build, recent: 1}":        `build has no setting "recent". For its settings, run roundyear build --help`,
		"{command: totals, recent: two}":     `results.x.recent must be a whole number, not "two"`,
		"{command: totals, recent: [1, 2]}":  "results.x.recent must be a whole number",
		"{command: totals, count: yes}":      "results.x.count must be true or false",
		"{command: totals, grain: [a, b]}":   "results.x.grain must be a single value",
		"{command: totals, a: 1, b: 2}":      `no setting "b"`,
		"{command: totals, as_of: [], a: 1}": "results.x.as_of must be a single value",
	} {
		_, err := readBack(t, []byte("results:\n  x:\n    "+text+"\n"), "x")
		require.Error(t, err, text)
		assert.Contains(t, err.Error(), want, text)
	}
	for text, want := range map[string]string{"{inputs: a.csv}": "results.x has no command", "{command: totals, by: {a: 1}}": "results.x.by must be a text", "3": "results.x must be a mapping"} {
		_, err := yearplan.Read("p.yaml", []byte("roundyear: 1\nresults:\n  x: "+text+"\n"))
		require.Error(t, err, text)
		assert.True(t, strings.Contains(err.Error(), want), err)
	}
}
