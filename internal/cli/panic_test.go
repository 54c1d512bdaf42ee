package cli

import (
	"bytes"
	"context"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

type panicking struct{}

func (panicking) Read([]byte) (int, error)  { panic("no more") }
func (panicking) Write([]byte) (int, error) { panic("no more") }

// A panic outside the workers, too, is said in a line, and no output is left.
func TestAPanicLeavesNothing(t *testing.T) {
	folder := t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(folder, "old.csv"), []byte("old"), 0o666))
	var said bytes.Buffer
	for _, args := range [][]string{
		{"totals", "-", "--count", "-o", filepath.Join(folder, "old.csv")},
		{"explain", "2026-01-05", "--columns", "year"},
	} {
		said.Reset()
		app := &App{stdin: panicking{}, stdout: panicking{}, stderr: &said}
		assert.Equal(t, exitExternal, app.Run(context.Background(), args))
		assert.Regexp(t, `^roundyear: .*internal fault: no more. This is a mistake in the program; please report it, with the file if you can\n$`, said.String())
	}
	entries, err := os.ReadDir(folder)
	require.NoError(t, err)
	assert.Len(t, entries, 1)
	text, err := os.ReadFile(filepath.Join(folder, "old.csv"))
	require.NoError(t, err)
	assert.Equal(t, "old", string(text))
}
