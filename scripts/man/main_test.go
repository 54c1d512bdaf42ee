package main

import (
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/spf13/pflag"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/internal/cli"
)

// Each command has a page.
func TestPages(t *testing.T) {
	folder := t.TempDir()
	commands := cli.Commands()
	require.NoError(t, write(folder, commands))
	pages, err := filepath.Glob(filepath.Join(folder, "*.1"))
	require.NoError(t, err)
	assert.Len(t, pages, 1+len(commands.Commands())+3, "the program, its commands, and those of plan")
	assert.FileExists(t, filepath.Join(folder, "roundyear-plan-new.1"))
	for _, page := range pages {
		content, err := os.ReadFile(page)
		require.NoError(t, err)
		assert.Contains(t, string(content), ".SH NAME", page)
		assert.Contains(t, string(content), "no-plan", page)
	}
}

// A page has all flags of its command, and groff sets it without a warning.
func TestPagesAreSet(t *testing.T) {
	folder := t.TempDir()
	commands := cli.Commands()
	require.NoError(t, write(folder, commands))
	fill, _, err := commands.Find([]string{"fill"})
	require.NoError(t, err)
	groff, err := exec.LookPath("groff")
	if err != nil {
		t.Skip("there is no groff")
	}
	set := exec.Command(groff, "-man", "-Tutf8", "-P-bcou", "-ww", "-K", "utf8", filepath.Join(folder, "roundyear-fill.1"))
	text, err := set.Output()
	require.NoError(t, err)
	words := strings.Join(strings.Fields(string(text)), " ")
	assert.Contains(t, words, "roundyear-fill - "+fill.Short)
	assert.Contains(t, words, "shop=Ballyfern,Cloghvale or != < <= > >=")
	for _, flags := range []*pflag.FlagSet{fill.LocalFlags(), fill.InheritedFlags()} {
		flags.VisitAll(func(flag *pflag.Flag) { assert.Contains(t, words, "--"+flag.Name) })
	}
	pages, err := filepath.Glob(filepath.Join(folder, "*.1"))
	require.NoError(t, err)
	for _, page := range pages {
		warnings, err := exec.Command(groff, "-man", "-Tutf8", "-ww", "-z", "-K", "utf8", page).CombinedOutput()
		require.NoError(t, err)
		assert.Empty(t, string(warnings), page)
	}
}
