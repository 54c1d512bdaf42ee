package cli_test

import (
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Commands that survey proposes for several files write different files, and all of them run: nothing of one is lost to another.
func TestProposedCommandsDoNotOverwriteEachOther(t *testing.T) {
	folder := folderWith(t, map[string]string{"a/sales.csv": "sold,n\n2026-01-05,1\n2026-01-06,2\n", "b/sales.csv": "placed,n\n2027-01-05,1\n2027-01-06,2\n", "c.csv": "due,n\n2028-01-05,1\n"})
	said := done(t, folder, "survey", "a/sales.csv", "b/sales.csv", "c.csv").err
	lines := regexp.MustCompile(`(?m)^next: (.*)$`).FindAllStringSubmatch(said, -1)
	require.Len(t, lines, 4)
	outs := map[string]bool{}
	for _, line := range lines {
		_, out, found := strings.Cut(line[1], " -o ")
		require.True(t, found, line[1])
		assert.False(t, outs[out], out)
		outs[out] = true
		require.Zero(t, inShell(t, folder, line[1]).code, line[1])
	}
	days := textOf(t, folder, "dates.csv")
	for _, day := range []string{"2026-01-05", "2027-01-05", "2028-01-05"} {
		assert.Contains(t, days, day)
	}
	// Two sheets of a workbook are two files, too.
	done(t, folder, "normalise", "a/sales.csv", "-o", "book.xlsx")
	said = done(t, folder, "survey", "book.xlsx#1", "c.csv", "a/sales.csv", "--json").out
	assert.Contains(t, said, "clean/c.csv")
	assert.NotContains(t, said, "-o clean.csv")
	assert.Equal(t, 1, strings.Count(said, "roundyear build"))
}

// What the list of days off does not know is not said to be the same everywhere.
func TestDaysOffOfPartsOfACountry(t *testing.T) {
	folder := t.TempDir()
	said := done(t, folder, "days-off", "GB", "--year", "2025").err
	assert.Contains(t, said, "note: GB: the days off that all of it has in common; parts with more: GB-ENG, GB-WLS, GB-SCT, GB-NIR")
	assert.NotContains(t, done(t, folder, "days-off", "GB-SCT", "--year", "2025").err, "in common")
	refused := run(t, folder, "days-off", "ES-AN")
	assert.Equal(t, 2, refused.code)
	assert.Contains(t, refused.err, "the days off of ES are only known for the whole country: use ES, and add to the plan those that ES-AN has of its own")
}

// publish says, as build does, for which years days off are projected.
func TestPublishTellsProjectedYears(t *testing.T) {
	folder := folderWith(t, map[string]string{"roundyear.yaml": "roundyear: 1\ndays_off: [{region: IE}]\n"})
	for _, out := range []string{"model.db", "model.sql"} {
		call := []string{"publish", "--from", "2040-01-01", "--to", "2040-12-31", "-o", out}
		if out == "model.sql" {
			call = append(call, "--dialect", "sqlite")
		}
		assert.Regexp(t, `(?m)^note: days off are verified for IE .*; other years are projected and may differ$`, done(t, folder, call...).err)
	}
	assert.NotContains(t, done(t, folder, "publish", "--from", "2024-01-01", "--to", "2024-12-31", "-o", "model.db").err, "projected")
}
