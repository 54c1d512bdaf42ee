package app_test

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/calendar"
	"roundyear/civil"
	"roundyear/facts"
	"roundyear/internal/app"
	"roundyear/internal/delimited"
	"roundyear/internal/reading"
	"roundyear/internal/table"
)

// addedUp adds up the file in chunks of so many bytes, and returns the rows and counts, or
// the fault.
func addedUp(t *testing.T, path string, chunk int, conditions ...string) string {
	t.Helper()
	source, err := table.Open(context.Background(), []string{path}, nil, delimited.Form{Header: delimited.HeaderIsThere})
	require.NoError(t, err)
	defer source.Close()
	source.BatchSize = chunk
	where, err := app.ParseConditions(source, conditions)
	require.NoError(t, err)
	request := app.Facts{
		Source: source, Asked: reading.Asked{Pivot: 1970},
		Operation: facts.Operation{
			Date: "sold", Where: where,
			Grain: calendar.Grain{Calendar: calendar.Gregorian(), Unit: calendar.Month}, Groups: []string{"shop"}, AsOf: civil.MustOf(2030, 1, 1),
			Measures: []facts.Measure{{Kind: facts.Sum, Column: "amount", Name: "sum"}, {Kind: facts.First, Column: "amount", Name: "first"}, {Kind: facts.Mean, Column: "amount", Name: "mean"}, {Kind: facts.Count, Name: "count"}, {Kind: facts.Distinct, Column: "customer", Name: "who"}},
		},
	}
	tallied, err := request.Tally(context.Background())
	if err != nil {
		return err.Error()
	}
	result, err := tallied.Result()
	require.NoError(t, err)
	var text strings.Builder
	for row := range result.Rows() {
		fmt.Fprintln(&text, row)
	}
	placeholders, far := tallied.ImplausibleDays()
	fmt.Fprintln(&text, tallied.Summary(), tallied.Filtered, tallied.Unmatched, placeholders, far, tallied.Dates.Files[0].Decision.Patterns)
	return text.String()
}

// However a file is cut, and whether the first rows tell how its dates are read or not,
// the same comes of it.
func TestChunksMakeNoDifference(t *testing.T) {
	// rows and undated are those that meet the conditions.
	lines := func(late string) (_ string, rows, undated int) {
		var text strings.Builder
		text.WriteString("sold,shop,amount,customer\n")
		for i := range 1600 {
			day := civil.MustOf(2025, 1, 5) + civil.Day(i/4)
			date := day.String()
			switch {
			case i%97 == 0:
				date = ""
			case i == 700:
				date = "1900-01-01"
			case i == 1500 && late != "":
				date = late
			}
			amount := fmt.Sprintf("%d.%02d", i%50, i%100)
			if i == 1450 {
				amount = "0.12345"
			}
			shop := i % 3
			if i == 800 {
				shop = 7 // the only one
			}
			fmt.Fprintf(&text, "%s,S%d,%s,c%d\n", date, shop, amount, i%41)
			switch {
			case i%50 >= 40 && i != 1450 || shop == 2:
			case date == "":
				undated++
			default:
				rows++
			}
		}
		return text.String(), rows, undated
	}
	folder := t.TempDir()
	for name, c := range map[string]struct{ late, want string }{
		"one format":                     {"", "yyyy-MM-dd 1583"},
		"another format after the first": {"13/08/2026", "dd/MM/yyyy 1"},
		"a date that cannot be read":     {"soon", `line 1502, column sold: "soon" cannot be read as a date`},
		"no such day":                    {"2026-02-30", `line 1502, column sold: "2026-02-30" cannot be read as a date`},
	} {
		path := filepath.Join(folder, "s.csv")
		text, rows, undated := lines(c.late)
		require.NoError(t, os.WriteFile(path, []byte(text), 0o666))
		whole := addedUp(t, path, 0, "amount<40", "shop=S0,S1,S7,S9")
		assert.Contains(t, whole, c.want, name)
		if !strings.Contains(c.want, "cannot be read") {
			assert.Contains(t, whole, fmt.Sprintf("{%d %d 0 ", rows, undated), name)
			assert.Contains(t, whole, `[no row has shop = "S9". Did you mean "S0"?]`)
		}
		for _, chunk := range []int{1, 7, 30, 31, 200, 999, 3000, 20000} {
			require.Equal(t, whole, addedUp(t, path, chunk, "amount<40", "shop=S0,S1,S7,S9"), "%s, chunks of %d bytes", name, chunk)
		}
	}
}

// A value that is not a number is the fault of its line, though the first pass is a guess.
func TestFaultsOfAGuessAreThoseOfTheFile(t *testing.T) {
	path := filepath.Join(t.TempDir(), "s.csv")
	require.NoError(t, os.WriteFile(path, []byte("sold,shop,amount,customer\n2026-01-05,a,1,x\n2026-01-06,a,one,x\nsoon,a,two,x\n"), 0o666))
	assert.Contains(t, addedUp(t, path, 0), `line 4, column sold: "soon" cannot be read`, "dates come first")
	require.NoError(t, os.WriteFile(path, []byte("sold,shop,amount,customer\n2026-01-05,a,1,x\n2026-01-06,a,one,x\n"), 0o666))
	assert.Contains(t, addedUp(t, path, 0), `line 3, column amount: "one" is not a number. Correct the value`)
	require.NoError(t, os.WriteFile(path, []byte("sold,shop,amount,customer\n01/02/2026,a,1,x\n"), 0o666))
	assert.Contains(t, addedUp(t, path, 0), "does not show whether the day or the month comes first")
}

// Where the first rows leave the order of day and month open, the others are read once if the day
// comes first, and twice if the month does.
func TestOpenOrdersAreReadAtMostTwice(t *testing.T) {
	for order, passes := range map[string]int64{"%02[1]d/%02[2]d/2026": 1, "%02[2]d/%02[1]d/2026": 2} {
		var text strings.Builder
		text.WriteString("sold,shop,amount,customer\n")
		for i := range 5000 {
			day := 1 + i/1500
			if i > 4000 {
				day = 13 + i/1000
			}
			fmt.Fprintf(&text, order+",a,1,x\n", day, 3)
		}
		path := filepath.Join(t.TempDir(), "s.csv")
		require.NoError(t, os.WriteFile(path, []byte(text.String()), 0o666))
		source, err := table.Open(context.Background(), []string{path}, nil, delimited.Form{})
		require.NoError(t, err)
		defer source.Close()
		source.BatchSize = 4096
		var read int64
		source.Progress = func(bytes int) { read += int64(bytes) }
		request := app.Facts{Source: source, Asked: reading.Asked{Pivot: 1970}, Operation: facts.Operation{
			Grain: calendar.Grain{Calendar: calendar.Gregorian(), Unit: calendar.Month}, AsOf: civil.MustOf(2030, 1, 1), Measures: []facts.Measure{{Kind: facts.Count, Name: "n"}}}}
		tallied, err := request.Tally(context.Background())
		require.NoError(t, err)
		assert.Equal(t, 5000, tallied.Summary().Rows)
		assert.Equal(t, "2026-03-01", tallied.Summary().First.String(), order)
		assert.Equal(t, "2026-03-17", tallied.Summary().Last.String())
		assert.Equal(t, passes, read/source.Size()+min(read%source.Size(), 1), "%d bytes of %d", read, source.Size())
	}
}
