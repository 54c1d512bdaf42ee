package cli_test

import (
	"os/exec"
	"path/filepath"
	"sync"
	"testing"

	"github.com/stretchr/testify/require"

	"roundyear/internal/wine"
)

// windows is the program for Windows under Wine.
type windows struct{ *wine.Windows }

var (
	makeWindows sync.Once
	madeWindows windows
	whyNone     error
)

// onWine returns the program for Windows. The test is skipped where there is no Wine.
func onWine(t testing.TB) windows {
	t.Helper()
	makeWindows.Do(newWindows)
	if whyNone != nil {
		t.Skip(whyNone)
	}
	return madeWindows
}

func newWindows() {
	madeWindows.Windows, whyNone = wine.New(filepath.Join(filepath.Dir(filepath.Dir(plain)), "wine"))
}

func (w windows) command(folder string, args ...string) *exec.Cmd { return w.Command(folder, args...) }

func (w windows) run(t testing.TB, folder string, args ...string) said {
	t.Helper()
	return w.runWith(t, folder, "", args...)
}

func (w windows) runWith(t testing.TB, folder, stdin string, args ...string) said {
	t.Helper()
	return call(t, w.command(folder, args...), stdin)
}

func (w windows) done(t testing.TB, folder string, args ...string) said {
	t.Helper()
	result := w.run(t, folder, args...)
	require.Zero(t, result.code, "%v: %s", args, result.err)
	return result
}
