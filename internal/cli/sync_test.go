package cli_test

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// call is a call to the system that strace tells of: its name and what it is on.
var (
	onFile   = regexp.MustCompile(`^\d+ +(write|pwrite64|writev|fsync|fdatasync)\(\d+<([^>]*)>`)
	onRename = regexp.MustCompile(`^\d+ +rename(?:at|at2)?\((?:AT_FDCWD(?:<[^>]*>)?, )?"([^"]*)", (?:AT_FDCWD(?:<[^>]*>)?, )?"([^"]*)"`)
)

// unsynced reads what strace tells of a run, and returns what was put in place though
// it, or a part of it, was not yet on the disk, and folders whose new names were not;
// placed counts the files and folders put in place.
func unsynced(calls string) (faults []string, placed int) {
	dirty, folders := map[string]bool{}, map[string]bool{}
	for line := range strings.Lines(calls) {
		if m := onFile.FindStringSubmatch(line); m != nil {
			if path := m[2]; strings.HasSuffix(m[1], "sync") {
				delete(dirty, path)
				delete(folders, path)
			} else if strings.HasPrefix(path, "/") && !strings.HasPrefix(path, "/dev/") {
				dirty[path] = true
			}
		}
		m := onRename.FindStringSubmatch(line)
		if m == nil || !strings.HasSuffix(m[1], ".part") {
			continue
		}
		placed++
		for path := range dirty {
			if path == m[1] || strings.HasPrefix(path, m[1]+"/") {
				faults = append(faults, fmt.Sprintf("%s was put in place before %s was synced", m[2], path))
			}
		}
		folders[filepath.Dir(m[2])] = true
	}
	for folder := range folders {
		faults = append(faults, "the names of "+folder+" were not synced")
	}
	return faults, placed
}

// What is put in place is on the disk, whole, or a fall of the power would leave
// less than half of it under the final name.
func TestResultsAreOnTheDiskBeforeTheyArePutInPlace(t *testing.T) {
	strace, err := exec.LookPath("strace")
	if err != nil {
		t.Skip("there is no strace on this machine")
	}
	var facts strings.Builder
	facts.WriteString("sold,shop,n\n")
	for i := range 200000 { // enough to be synced on the way, too
		fmt.Fprintf(&facts, "2026-%02d-%02d,%s,%d\n", i%12+1, i%28+1, string("abcdef"[i%6]), i)
	}
	folder := folderWith(t, map[string]string{"s.csv": facts.String() + "2026-02-30,a,1\n"})
	for _, c := range []struct {
		args   []string
		placed int
	}{
		{[]string{"build", "--from", "1900-01-01", "--to", "2020-12-31", "-o", "d.csv", "-o", "d.jsonl", "-o", "d.tsv"}, 3},
		{[]string{"build", "--from", "2026-01-01", "--to", "2026-12-31", "-o", "e.csv", "--model"}, 3},
		{[]string{"normalise", "s.csv", "-o", "clean.csv", "--rejects", "bad.csv"}, 2},
		{[]string{"normalise", "s.csv", "-o", "parts", "--rejects", "bad.csv", "--partition-by", "month_label"}, 2},
		{[]string{"fill", "clean.csv", "--date", "sold_date", "--by", "shop", "--count", "--grain", "day", "-o", "filled.csv"}, 1},
		{[]string{"totals", "clean.csv", "--date", "sold_date", "--by", "shop", "--count", "-o", "t.csv", "-o", "t.tsv"}, 2},
		{[]string{"days-off", "--region", "IE", "--year", "2026", "-o", "off.csv", "-o", "off.ics"}, 2},
		{[]string{"plan", "new", "clean.csv", "-o", "p.yaml", "--force"}, 1},
	} {
		// The second time there is something to replace.
		for again := range 2 {
			log := filepath.Join(t.TempDir(), "calls")
			command := exec.Command(strace, append([]string{"-f", "--seccomp-bpf", "-y", "-s", "1", "-e", "signal=none", "-e", "trace=write,pwrite64,writev,fsync,fdatasync,rename,renameat,renameat2", "-o", log, plain}, append(c.args, "-q", "--no-plan")...)...)
			command.Dir = folder
			said, err := command.CombinedOutput()
			require.Contains(t, []int{0, 1}, command.ProcessState.ExitCode(), "%v: %v %s", c.args, err, said)
			calls, err := os.ReadFile(log)
			require.NoError(t, err)
			faults, placed := unsynced(string(calls))
			assert.Empty(t, faults, "%v, %d", c.args, again)
			assert.Equal(t, c.placed, placed, "%v, %d: %s", c.args, again, said)
		}
	}
}
