package cli_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Facts of the plan can be named, and are read as it says: as they came, or once they are normalised from there.
func TestFactsByTheirName(t *testing.T) {
	folder := folderWith(t, map[string]string{
		"data/a.csv": "sold;when;amount\n03.04.2026 23:30;04.05.2026;1.234\nn/a;;5\n", "data/b.csv": "sold;when;amount\n05.04.2026 02:00;14.06.2026;2.000\n",
		"plan.yaml": `roundyear: 1
facts:
  sales:
    files: data/*.csv
    out: clean/sales.csv
    decimal: {amount: comma}
    blank_as: n/a
    dates: {sold: {order: day, day_starts: "04:00"}}
  other: {files: data/b.csv, dates: {when: {order: day}}}
`})
	plan := []string{"-p", "plan.yaml", "--as-of", "2027-01-01", "--format", "csv"}
	raw := attended(t, folder, append([]string{"totals", "sales", "--sum", "amount", "--grain", "day", "--from", "2026-04-03", "--to", "2026-04-04"}, plan...)...)
	assert.Equal(t, "period,period_start,period_end,amount,is_filled,is_running\n2026-04-03,2026-04-03,2026-04-03,1234,false,false\n2026-04-04,2026-04-04,2026-04-04,2000,false,false\n", raw.out)
	assert.Contains(t, run(t, folder, append([]string{"totals", "other", "--count"}, plan...)...).out, "2026-06,")
	assert.Contains(t, run(t, folder, "survey", "sales", "-p", "plan.yaml").err, "data/b.csv: 1 row, 2 date columns")
	done(t, folder, "normalise", "sales", "-p", "plan.yaml")
	assert.Contains(t, textOf(t, folder, "clean/sales.csv"), "03.04.2026 23:30;04.05.2026;1.234;2026-04-03;23:30;2026-04-03;20260403\n")
	require.NoError(t, os.RemoveAll(filepath.Join(folder, "data")))
	clean := attended(t, folder, append([]string{"totals", "sales", "--sum", "amount", "--grain", "day", "--from", "2026-04-03", "--to", "2026-04-04"}, plan...)...)
	assert.Equal(t, raw.out, clean.out, "from what was normalised")
	assert.Equal(t, raw.err, strings.ReplaceAll(clean.err, "clean/sales.csv", "data/*.csv"))
	// A file of that name wins, and what is neither is said to be missing.
	require.NoError(t, os.WriteFile(filepath.Join(folder, "sales"), []byte("day,n\n2026-01-05,1\n"), 0o666))
	assert.Contains(t, run(t, folder, "survey", "sales", "-p", "plan.yaml").err, "sales: 1 row, 1 date column")
	assert.Equal(t, "roundyear: sale: there is no such file. Did you mean sales?\n", run(t, folder, "totals", "sale", "--count", "-p", "plan.yaml").err)
}
