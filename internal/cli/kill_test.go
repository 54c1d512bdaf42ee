package cli_test

import (
	"flag"
	"fmt"
	"maps"
	"math/rand/v2"
	"os/exec"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// outputsOf are the files that a command has written, and the leftovers of
// killed runs, in a folder with inputs.
func outputsOf(t testing.TB, folder string, inputs map[string]string) (written map[string]string, left []string) {
	t.Helper()
	written = map[string]string{}
	for path, text := range contents(t, folder) {
		if _, isInput := inputs[path]; isInput {
			continue
		}
		if strings.Contains(path, ".part") || strings.Contains(path, ".old") {
			left = append(left, path)
			continue
		}
		written[path] = text
	}
	return written, left
}

var killCount = flag.Int("kills", 42, "how many runs are killed")

// lakeOf leaves the rejects of partitions out.
func lakeOf(files map[string]string) map[string]string {
	lake := maps.Clone(files)
	delete(lake, "lake.rejects.csv")
	return lake
}

// Killed at any moment, a run leaves each output as it was or as it should be,
// and the next run removes what is left over.
func TestKilledRunsLeaveOldOrNew(t *testing.T) {
	kills, driven := *killCount, program
	program = plain // what counts is when it is killed, and not how fast it is
	defer func() { program = driven }()
	facts := func(rows int) string {
		var text strings.Builder
		text.WriteString("sold,shop,n\n")
		for i := range rows {
			fmt.Fprintf(&text, "2026-%02d-%02d,S%d,%d\n", i%12+1, i%28+1, i%5, i)
		}
		return text.String()
	}
	const bad = "2026-02-30,S1,1\n"
	inputs := map[string]string{"s.csv": facts(15000), "t.csv": facts(14000), "s-bad.csv": facts(15000) + bad, "t-bad.csv": facts(14000) + bad, "plan.yaml": "roundyear: 1\ndays_off: [{region: IE}]\n"}
	random := rand.New(rand.NewPCG(2026, 11))
	commands := []struct {
		name     string
		old, new []string
	}{
		{"one file", []string{"build", "--from", "2020-01-01", "--to", "2026-12-31", "-o", "d.csv"}, []string{"build", "--from", "1990-01-01", "--to", "2027-12-31", "-o", "d.csv"}},
		{"several files", []string{"build", "-p", "plan.yaml", "--from", "2020-01-01", "--to", "2026-12-31", "--model", "-o", "d.csv", "-o", "d.jsonl", "-o", "d.md"},
			[]string{"build", "-p", "plan.yaml", "--from", "2010-01-01", "--to", "2027-12-31", "--model", "-o", "d.csv", "-o", "d.jsonl", "-o", "d.md"}},
		{"facts and rejects", []string{"normalise", "s-bad.csv", "-o", "deep/c.csv"}, []string{"normalise", "t-bad.csv", "-o", "deep/c.csv"}},
		{"partitions", []string{"normalise", "s.csv", "-o", "lake", "--partition-by", "week_start", "--replace"}, []string{"normalise", "t-bad.csv", "-o", "lake", "--partition-by", "month_key", "--replace"}},
		{"totals", []string{"totals", "s.csv", "--sum", "n", "--by", "shop", "--grain", "day", "-o", "x.csv", "-o", "x.tsv"}, []string{"totals", "t.csv", "--sum", "n", "--by", "shop", "--grain", "day", "-o", "x.csv", "-o", "x.tsv"}},
		{"days off", []string{"days-off", "IE", "--year", "2026", "-o", "x.csv", "-o", "x.ics", "--as-of", "2026-01-01"}, []string{"days-off", "NL", "--year", "2026", "-o", "x.csv", "-o", "x.ics", "--as-of", "2026-01-01"}},
		{"demo", []string{"demo", "garden"}, []string{"demo", "garden"}},
	}
	results := func(args []string) (map[string]string, time.Duration) {
		folder := folderWith(t, inputs)
		start := time.Now()
		require.LessOrEqual(t, run(t, folder, args...).code, 1, "%v", args)
		written, left := outputsOf(t, folder, inputs)
		require.Empty(t, left)
		return written, time.Since(start)
	}
	half := 0
	started := time.Now()
	for _, command := range commands {
		folder := folderWith(t, inputs)
		was, _ := results(command.old)
		will, took := results(command.new)
		for range kills / len(commands) {
			require.LessOrEqual(t, run(t, folder, command.old...).code, 1)
			written, left := outputsOf(t, folder, inputs)
			require.Empty(t, left, "%s: the next run has removed what was left", command.name)
			require.Equal(t, was, written, command.name)

			killed := exec.Command(plain, command.new...)
			killed.Dir = folder
			require.NoError(t, killed.Start())
			time.Sleep(time.Duration(random.Float64() * 1.1 * float64(took)))
			_ = killed.Process.Kill()
			_ = killed.Wait()

			written, left = outputsOf(t, folder, inputs)
			for path, text := range written {
				old, wasThere := was[path]
				if !(wasThere && old == text) && will[path] != text {
					t.Fatalf("%s: %s is neither what it was nor what it should be", command.name, path)
				}
			}
			switch command.name {
			case "partitions":
				// A folder is replaced in one step.
				delete(written, "lake.rejects.csv")
				require.True(t, maps.Equal(written, was) || maps.Equal(written, lakeOf(will)), "%v", slices.Sorted(maps.Keys(written)))
			default:
				for path := range was {
					require.Contains(t, written, path, command.name)
				}
			}
			if len(left) > 0 {
				half++
			}
		}
	}
	t.Logf("%s", time.Since(started))
	assert.Positive(t, half, "some of the kills have come while files were written")
	t.Logf("%d kills, %d of them while files were written", kills, half)
}
