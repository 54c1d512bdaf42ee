package cli

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/yearplan"
)

// planMaker makes plans by the JSON Schema of plans: right in their form, and mostly wrong in what they mean.
type planMaker struct {
	random      *rand.Rand
	definitions map[string]any
	depth       int
}

// randomTexts are what texts of plans may be.
var randomTexts = []string{"a", "s.sold", "s.csv", "month", "fiscal.month", "2026-01-05", "P{period}", "FY{yy}-{quarter}", "{year", "dd/MM/yyyy", "monday", "april", "6 april", "31 february", "4-5-4", "13x4", "09:00", "25:00", "Europe/Dublin", "IE", "GB-NIR", "x.db", "../x", "", "é\u202e", "FREQ=YEARLY;BYMONTH=6;BYDAY=1MO", "15 minutes", "true", "-1", "core", "en", "windows-1252", "last", "\"", "- ", "#", strings.Repeat("y", 300)}

func (m *planMaker) of(schema map[string]any) any {
	m.depth++
	defer func() { m.depth-- }()
	if ref, ok := schema["$ref"].(string); ok {
		if m.depth > 12 {
			return "june"
		}
		return m.of(m.definitions[ref[strings.LastIndexByte(ref, '/')+1:]].(map[string]any))
	}
	for _, choice := range []string{"oneOf", "anyOf"} {
		if all, ok := schema[choice].([]any); ok {
			return m.of(all[m.random.IntN(len(all))].(map[string]any))
		}
	}
	if values, ok := schema["enum"].([]any); ok {
		return values[m.random.IntN(len(values))]
	}
	if values, ok := schema["examples"].([]any); ok && m.random.IntN(8) > 0 {
		return values[m.random.IntN(len(values))]
	}
	switch schema["type"] {
	case "null":
		return nil
	case "integer":
		least, most := 0, 9999
		if number, ok := schema["minimum"].(float64); ok {
			least = int(number)
		}
		if number, ok := schema["maximum"].(float64); ok {
			most = int(number)
		}
		return []int{least, most, least + m.random.IntN(most-least+1), least - 1}[m.random.IntN(4)]
	case "array":
		list := []any{}
		for range m.random.IntN(4) {
			list = append(list, m.of(schema["items"].(map[string]any)))
		}
		return list
	case "object":
		object := map[string]any{}
		properties, _ := schema["properties"].(map[string]any)
		for _, key := range slices.Sorted(func(yield func(string) bool) {
			for key := range properties {
				if !yield(key) {
					return
				}
			}
		}) {
			if m.random.IntN(3) == 0 {
				object[key] = m.of(properties[key].(map[string]any))
			}
		}
		if more, ok := schema["additionalProperties"].(map[string]any); ok {
			for range m.random.IntN(3) {
				object[randomTexts[m.random.IntN(len(randomTexts))]] = m.of(more)
			}
		}
		return object
	}
	return randomTexts[m.random.IntN(len(randomTexts))]
}

// Whatever a plan says in the right form, it is followed or refused in words.
func TestRandomPlans(t *testing.T) {
	text, err := yearplan.Schema()
	require.NoError(t, err)
	var schema map[string]any
	require.NoError(t, json.Unmarshal(text, &schema))
	codes := map[int]int{}
	const each = 4 // of mutations
	for seed := *mutationSeed; seed < *mutationSeed+uint64(max(*mutations/each, 1)); seed++ {
		random := rand.New(rand.NewPCG(seed, 78))
		m := &planMaker{random: random, definitions: schema["$defs"].(map[string]any)}
		// Most plans of many keys have a fault somewhere, so few are random at a time.
		plan := map[string]any{"roundyear": 1, "range": map[string]any{"from": "2026-01-01", "to": "2026-12-31"}}
		keys := slices.Sorted(func(yield func(string) bool) {
			for key := range schema["properties"].(map[string]any) {
				if !yield(key) {
					return
				}
			}
		})
		for range 1 + random.IntN(2) {
			if key := keys[random.IntN(len(keys))]; key != "roundyear" {
				plan[key] = m.of(schema["properties"].(map[string]any)[key].(map[string]any))
			}
		}
		written, err := json.Marshal(plan) // which is YAML, too
		require.NoError(t, err)
		folder := t.TempDir()
		path, out := filepath.Join(folder, "p.yaml"), filepath.Join(folder, "out")
		require.NoError(t, os.WriteFile(path, written, 0o600))
		require.NoError(t, os.WriteFile(filepath.Join(folder, "s.csv"), []byte("sold,a\n2026-01-05,1\n2026-02-05,2\n"), 0o600))
		require.NoError(t, os.Mkdir(out, 0o700))
		calls := [][]string{
			{"plan", "check", path}, {"build", "-p", path, "-o", filepath.Join(out, "d.csv")}, {"days-off", "-p", path, "--year", "2026"}, {"columns", "-p", path}, {"explain", "2026-03-09", "-p", path},
			{"totals", filepath.Join(folder, "s.csv"), "--sum", "a", "-p", path, "--as-of", "2026-03-01"}, {"publish", "-p", path, "--without", "facts", "-o", filepath.Join(out, "m.db")},
		}
		call := calls[random.IntN(len(calls))]
		requireWords(t, runOn(call), fmt.Sprintf("seed %d: %q with\n%s", seed, call, written), string(written), out, codes)
	}
	t.Logf("plans: exit codes %v", codes)
	if *mutations >= 500 {
		require.Greater(t, codes[exitDone]+codes[exitAttention], *mutations/each/20, "some plans must be right")
		require.Greater(t, codes[exitCall], *mutations/each/20, "some must be refused")
	}
}

// requireWords requires of a run that it ends in words, and leaves nothing beside a refusal.
func requireWords(t *testing.T, r *ranOn, what, given, out string, codes map[int]int) {
	t.Helper()
	codes[r.code]++
	said := r.err.String()
	require.Contains(t, []int{exitDone, exitAttention, exitCall, exitExternal}, r.code, "%s: %s", what, said)
	require.False(t, r.code >= exitCall && said == "", "%s: refused without a word", what)
	require.LessOrEqual(t, len(said), mostSaid, what)
	require.Less(t, r.took, mostTaken, what)
	require.Less(t, r.allocated, uint64(mostAllocated), what)
	for _, sign := range []string{"goroutine ", "internal fault", "runtime error", "panic", "<nil>", "%!"} {
		require.False(t, strings.Contains(said, sign) && !strings.Contains(given, sign), "%s says %q: %s", what, sign, said)
	}
	left, err := os.ReadDir(out)
	require.NoError(t, err)
	require.False(t, r.code >= exitCall && len(left) > 0, "%s leaves something beside a refusal: %s", what, said)
}

// The parts of addresses; a password is secretX1 in all of them.
var (
	randomSchemes = []string{"postgres://", "postgresql://", "mysql://", "mariadb://", "POSTGRES://", "pg://", "sqlite://", "jdbc:postgresql://", "http://", "file://", "", "postgres:/", "postgres:"}
	randomUsers   = []string{"u:secretX1@", "u:se/cretX1secretX1@", "u:%zzsecretX1@", "u:secretX1#@", "u:secretX1?@", "u:[secretX1]@", "u: secretX1@", ":secretX1@", "u@", "", "u:secretX1@u:secretX1@", "u%3AsecretX1@"}
	randomHosts   = []string{"127.0.0.1:1", "localhost:1", "[::1]:1", "127.0.0.1:99999", "127.0.0.1:x", ":1", "", "/tmp", "127.0.0.1:1,127.0.0.1:1", "[::1", "é:1"}
	randomPaths   = []string{"/d#t", "/d", "/#t", "#t", "/d#SELECT 1", "/d#SELECT 1; DROP TABLE t", "/d#", "/d%20#t", "//d#a.b.c", "/d/../e#t"}
	randomOptions = []string{"", "?sslmode=require", "?password=secretX1", "?sslpassword=secretX1&sslmode=disable", "?statement_timeout=1s", "?x=y", "?tls=skip-verify", "?", "?%zz", "?sslkey=/none&passfile=/none"}
)

// No address shows its password or makes a file of itself, however it is written.
func TestRandomAddresses(t *testing.T) {
	codes := map[int]int{}
	pick := func(random *rand.Rand, of []string) string { return of[random.IntN(len(of))] }
	const each = 4 // of mutations
	for seed := *mutationSeed; seed < *mutationSeed+uint64(max(*mutations/each, 1)); seed++ {
		random := rand.New(rand.NewPCG(seed, 79))
		path, options := pick(random, randomPaths), pick(random, randomOptions)
		database, table, hasTable := strings.Cut(path, "#")
		address := pick(random, randomSchemes) + pick(random, randomUsers) + pick(random, randomHosts) + database + options
		if hasTable {
			address += "#" + table
		}
		isMutated := random.IntN(6) == 0 // which may be no address any more
		if isMutated {
			address = mutated(random, address)
		}
		address = strings.ReplaceAll(address, "\x00", "")
		folder := t.TempDir()
		out := filepath.Join(folder, "out")
		require.NoError(t, os.Mkdir(out, 0o700))
		require.NoError(t, os.WriteFile(filepath.Join(folder, "s.csv"), []byte("sold,a\n2026-01-05,1\n"), 0o600))
		t.Chdir(folder)
		calls := [][]string{{"survey", address}, {"totals", address, "--count"}, {"normalise", "s.csv", "-o", address}, {"publish", "s.csv", "-o", address, "--from", "2026-01-01", "--to", "2026-01-31"}, {"totals", address, "--count", "--run", "inside", "--date", "sold"}}
		call := append(calls[random.IntN(len(calls))], "--no-plan")
		if strings.HasPrefix(address, "-") || address == "" {
			continue
		}
		r := runOn(call)
		what := fmt.Sprintf("seed %d: %q", seed, call)
		requireWords(t, r, what, address, out, codes)
		if !isMutated && strings.Contains(address, "://") {
			assert.NotContains(t, r.err.String()+r.out.String(), "secretX1", what)
		}
		left, err := os.ReadDir(folder)
		require.NoError(t, err)
		if r.code >= exitCall || !isMutated && strings.Contains(address, "://") {
			require.Len(t, left, 2, "%s makes a file or folder: %v", what, left)
		}
		if t.Failed() {
			t.FailNow()
		}
	}
	t.Logf("addresses: exit codes %v", codes)
}
