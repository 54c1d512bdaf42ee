package main

import (
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// reported runs go test on a package with these tests and tells what is reported.
func reported(t *testing.T, tests string, skipNone bool) (string, bool) {
	t.Helper()
	folder := t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(folder, "go.mod"), []byte("module trial\n"), 0o600))
	require.NoError(t, os.WriteFile(filepath.Join(folder, "trial_test.go"), []byte("package trial\n\nimport \"testing\"\n\n"+tests), 0o600))
	command := exec.Command("go", "test", "-json", "./...")
	command.Dir = folder
	events, _ := command.Output()
	var out strings.Builder
	ok, err := report(strings.NewReader(string(events)), &out, skipNone)
	require.NoError(t, err)
	return out.String(), ok
}

func TestAReportNamesWhatFailedAndWhatWasSkipped(t *testing.T) {
	const good, skips = "func TestGood(t *testing.T) { t.Log(\"quiet\") }\n", "func TestSkips(t *testing.T) { t.Skip(\"there is no oracle: none\") }\n"
	out, ok := reported(t, good+skips, false)
	assert.True(t, ok, out)
	assert.Contains(t, out, "skipped: TestSkips of trial: there is no oracle: none\n1 passed, 0 failed, 1 skipped\n")
	assert.Contains(t, out, "ok  \ttrial\t")
	assert.NotContains(t, out, "quiet")
	out, ok = reported(t, good+skips, true)
	assert.False(t, ok, out)
	_, ok = reported(t, good, true)
	assert.True(t, ok)

	out, ok = reported(t, good+"func TestBad(t *testing.T) { t.Error(\"loud\") }\n", false)
	assert.False(t, ok)
	assert.Contains(t, out, "loud\n")
	assert.NotContains(t, out, "quiet")
	assert.Contains(t, out, "FAIL\ttrial\t")
	assert.Contains(t, out, "1 passed, 1 failed, 0 skipped\n")

	out, ok = reported(t, good+"func TestNone(t *testing.T) { nothing }\n", false)
	assert.False(t, ok, "what does not build has not passed")
	assert.Contains(t, out, "undefined: nothing")
	_, ok = reported(t, good+"func TestEnds(t *testing.T) { panic(\"at once\") }\n", false)
	assert.False(t, ok)
	_, ok = reported(t, "", false)
	assert.False(t, ok, "no test is no proof")
}
