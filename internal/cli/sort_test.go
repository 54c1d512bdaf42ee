package cli_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

// Rows are sorted by columns of the input and by those that are added, in text and in files with types.
func TestSortedRows(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": "id,day,n,t\n1,2026-01-07,10,b\n2,2026-01-05,9,\"a\nx\"\n3,2026-01-06,,c\n4,,2.50,a\n5,2026-01-05,x,b\n6,soon,1,a\n"})
	for sort, want := range map[string]string{"day_date,id desc": "5 2 3 1 4", "n": "4 2 1 5 3", "n desc": "5 1 2 4 3", "t,n": "4 2 1 5 3", "id desc": "5 4 3 2 1"} {
		told := attended(t, folder, "normalise", "s.csv", "--sort", sort, "--no-plan", "-o", "out.jsonl")
		assert.Contains(t, told.err, "6 rows read, 5 written to out.jsonl, 1 rejected")
		attended(t, folder, "normalise", "s.csv", "--sort", sort, "--no-plan", "-o", "out.parquet")
		typed := done(t, folder, "normalise", "out.parquet", "--date", "day_date", "--keep", "id", "--no-plan", "--format", "jsonl")
		for _, text := range []string{textOf(t, folder, "out.jsonl"), typed.out} {
			var ids []string
			for line := range strings.Lines(text) {
				ids = append(ids, strings.Trim(line[len(`{"id":`):][:3], `",}`)[:1])
			}
			assert.Equal(t, want, strings.Join(ids, " "), sort)
		}
	}
	assert.Equal(t, "id,day,n,t,day_date,day_key\n2,2026-01-05,9,\"a\nx\",2026-01-05,20260105\n", firstLines(run(t, folder, "normalise", "s.csv", "--sort", "day_date", "--no-plan", "--rejects", "r.csv").out, 3))
	assert.Contains(t, run(t, folder, "normalise", "s.csv", "--sort", "nn", "--no-plan", "-o", "o.csv").err, `has no column "nn"`)
	both := run(t, folder, "normalise", "s.csv", "--sort", "n", "--partition-by", "month", "--no-plan", "-o", "lake")
	assert.Equal(t, 2, both.code)
	assert.Contains(t, both.err, "--sort and --partition-by cannot be combined")
}

func firstLines(text string, count int) string {
	lines := strings.SplitAfter(text, "\n")
	return strings.Join(lines[:min(count, len(lines))], "")
}

// All rows of many chunks come out once, in order; equal ones in the order in which they came.
func TestManySortedRows(t *testing.T) {
	random := rand.New(rand.NewPCG(7, 8))
	type row struct{ number, id int }
	var all []row
	var text strings.Builder
	text.WriteString("id,day,n\n")
	for id := range 50000 {
		all = append(all, row{random.IntN(2000) - 1000, id})
		fmt.Fprintf(&text, "%d,2026-01-05,%d\n", id, all[id].number)
	}
	slices.SortStableFunc(all, func(a, b row) int { return a.number - b.number })
	var want strings.Builder
	want.WriteString("id,day,n,day_date,day_key\n")
	for _, one := range all {
		fmt.Fprintf(&want, "%d,2026-01-05,%d,2026-01-05,20260105\n", one.id, one.number)
	}
	folder := folderWith(t, map[string]string{"s.csv": text.String()})
	assert.True(t, want.String() == done(t, folder, "normalise", "s.csv", "--sort", "n", "--no-plan").out)
}
