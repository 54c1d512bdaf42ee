package sample_test

import (
	"bytes"
	"encoding/csv"
	"io"
	"maps"
	"slices"
	"strings"
	"syscall"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/civil"
	"roundyear/internal/sample"
)

func records(t *testing.T, files map[string]*bytes.Buffer, name string) [][]string {
	t.Helper()
	rows, err := csv.NewReader(bytes.NewReader(files["data/"+name].Bytes())).ReadAll()
	require.NoError(t, err)
	return rows[1:]
}

// written returns the files of the sample by their path.
func written(t *testing.T) map[string]*bytes.Buffer {
	t.Helper()
	files := map[string]*bytes.Buffer{}
	require.NoError(t, sample.Write(func(path string) (io.Writer, error) {
		files[path] = &bytes.Buffer{}
		return files[path], nil
	}))
	return files
}

func TestTheSampleIsTheSameEveryTime(t *testing.T) {
	first := written(t)
	assert.Equal(t, first, written(t))
	assert.ElementsMatch(t, []string{"README.md", "roundyear.yaml", "data/till-a.csv", "data/till-b.csv", "data/till-c.csv", "data/orders.csv", "data/budget.csv"},
		slices.Collect(maps.Keys(first)))
}

type full struct{}

func (full) Write([]byte) (int, error) { return 0, syscall.ENOSPC }

func TestASampleThatCannotBeWrittenIsAnError(t *testing.T) {
	assert.ErrorIs(t, sample.Write(func(string) (io.Writer, error) { return full{}, nil }), syscall.ENOSPC)
	assert.ErrorIs(t, sample.Write(func(string) (io.Writer, error) { return nil, syscall.EACCES }), syscall.EACCES)
}

// What the sample says of its shops is so in its receipts.
func TestTheShopsAreOpenWhenTheyAre(t *testing.T) {
	files := written(t)
	receipts, seen := 0, map[string]bool{}
	for _, name := range []string{"till-a.csv", "till-b.csv", "till-c.csv"} {
		for _, row := range records(t, files, name) {
			receipts++
			require.False(t, seen[row[0]], "receipt %s is there twice", row[0])
			seen[row[0]] = true
		}
	}
	assert.InDelta(t, 40000, receipts, 1500)
	for _, row := range records(t, files, "till-c.csv") {
		day, err := civil.Parse(row[2][:10])
		require.NoError(t, err)
		_, month, dayOfMonth := day.Date()
		require.False(t, day.Weekday() == civil.Sunday && dayOfMonth > 7, "%s was open on %s", row[1], day)
		require.False(t, month == civil.December && (dayOfMonth == 25 || dayOfMonth == 26))
		require.False(t, row[1] == "Heggenrade" && day < civil.MustOf(2025, civil.June, 14))
		require.True(t, day >= sample.FirstDay && day < sample.AsOf)
	}
	for _, row := range records(t, files, "till-a.csv") {
		require.False(t, row[1] == "Cloghvale" && strings.Contains(row[2], "/03/2025"), "it was closed for refitting")
	}
	impossible := 0
	for _, row := range records(t, files, "till-b.csv") {
		if strings.HasPrefix(row[2], "02/30/") {
			impossible++
		}
	}
	assert.Equal(t, 2, impossible)
	open, plants := 0, records(t, files, "orders.csv")
	for _, row := range plants {
		if row[4] == "" {
			open++
		}
	}
	assert.Positive(t, open, "some orders are not delivered yet")
	assert.Less(t, open, len(plants)/10)
	budget := records(t, files, "budget.csv")
	last := budget[len(budget)-1]
	assert.Equal(t, []string{"2027", "1", "1"}, last[1:4], "the budget goes to the end of the fiscal year")
}
