package sample

import (
	"encoding/csv"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/civil"
)

func records(t *testing.T, folder, name string) [][]string {
	t.Helper()
	file, err := os.Open(filepath.Join(folder, "data", name))
	require.NoError(t, err)
	defer file.Close()
	rows, err := csv.NewReader(file).ReadAll()
	require.NoError(t, err)
	return rows[1:]
}

func TestTheSampleIsTheSameEveryTime(t *testing.T) {
	first, second := t.TempDir(), t.TempDir()
	require.NoError(t, Write(first))
	require.NoError(t, Write(second))
	for _, name := range []string{"README.md", "data/till-a.csv", "data/till-b.csv", "data/till-c.csv", "data/orders.csv", "data/budget.csv"} {
		a, err := os.ReadFile(filepath.Join(first, name))
		require.NoError(t, err)
		b, err := os.ReadFile(filepath.Join(second, name))
		require.NoError(t, err)
		assert.Equal(t, string(a), string(b), name)
	}
	assert.Error(t, Write("/proc/nowhere"))
}

// What the sample says of its shops is so in its receipts.
func TestTheShopsAreOpenWhenTheyAre(t *testing.T) {
	folder := t.TempDir()
	require.NoError(t, Write(folder))
	receipts, seen := 0, map[string]bool{}
	for _, name := range []string{"till-a.csv", "till-b.csv", "till-c.csv"} {
		for _, row := range records(t, folder, name) {
			receipts++
			require.False(t, seen[row[0]], "receipt %s is there twice", row[0])
			seen[row[0]] = true
		}
	}
	assert.InDelta(t, 40000, receipts, 1500)
	for _, row := range records(t, folder, "till-c.csv") {
		day, err := civil.Parse(row[2][:10])
		require.NoError(t, err)
		_, month, dayOfMonth := day.Date()
		require.False(t, day.Weekday() == civil.Sunday && dayOfMonth > 7, "%s was open on %s", row[1], day)
		require.False(t, month == civil.December && (dayOfMonth == 25 || dayOfMonth == 26))
		require.False(t, row[1] == "Heggenrade" && day < civil.MustOf(2025, civil.June, 14))
		require.True(t, day >= FirstDay && day < AsOf)
	}
	for _, row := range records(t, folder, "till-a.csv") {
		require.False(t, row[1] == "Cloghvale" && strings.Contains(row[2], "/03/2025"), "it was closed for refitting")
	}
	impossible := 0
	for _, row := range records(t, folder, "till-b.csv") {
		if strings.HasPrefix(row[2], "02/30/") {
			impossible++
		}
	}
	assert.Equal(t, 2, impossible)
	open, plants := 0, records(t, folder, "orders.csv")
	for _, row := range plants {
		if row[4] == "" {
			open++
		}
	}
	assert.Positive(t, open, "some orders are not delivered yet")
	assert.Less(t, open, len(plants)/10)
	budget := records(t, folder, "budget.csv")
	last := budget[len(budget)-1]
	assert.Equal(t, []string{"2027", "1", "1"}, last[1:4], "the budget goes to the end of the fiscal year")
}
