package cli_test

import (
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// sold are rows of each day from January to September 2026; lamps are only sold in some months in the middle.
func sold() string {
	var text strings.Builder
	text.WriteString("d,category,n\n")
	for day := time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC); day.Month() < time.October; day = day.AddDate(0, 0, 1) {
		fmt.Fprintf(&text, "%s,Rugs,2\n%[1]s,Tables,3\n", day.Format(time.DateOnly))
		if month := day.Month(); (month == time.April || month == time.June) && day.Day() < 11 {
			fmt.Fprintf(&text, "%s,Lamps,1\n", day.Format(time.DateOnly))
		}
	}
	return text.String()
}

// withoutColumn leaves a column out of lines of CSV.
func withoutColumn(lines []string, column int) (left []string) {
	for _, line := range lines {
		fields := strings.Split(line, ",")
		left = append(left, strings.Join(append(fields[:column:column], fields[column+1:]...), ","))
	}
	return left
}

// A selection has the periods of all facts: its rows are those of its group, whatever holds the facts, and whatever it leaves unread.
func TestASelectionHasTheRangeOfAllFacts(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": sold()})
	done(t, folder, "normalise", "s.csv", "--date", "d", "--number", "n", "--sort", "category", "-o", "sorted.parquet")
	for _, category := range []string{"Lamps", "Rugs", "Tables"} {
		own := "d,n\n"
		for line := range strings.Lines(sold()) {
			if before, after, found := strings.Cut(line, ","+category+","); found {
				own += before + "," + after
			}
		}
		require.NoError(t, os.WriteFile(filepath.Join(folder, category+".csv"), []byte(own), 0o600))
		require.NoError(t, os.MkdirAll(filepath.Join(folder, "lake", "category="+category), 0o700))
		done(t, folder, "normalise", category+".csv", "--date", "d", "--number", "n", "-o", "lake/category="+category+"/1.parquet")
	}
	done(t, folder, "normalise", "s.csv", "--date", "d", "--number", "n", "-o", "s.db")
	random := rand.New(rand.NewPCG(1, 2))
	for _, facts := range []string{"s.csv", "sorted.parquet", "lake", "s.db"} {
		date := "d"
		if facts != "s.csv" {
			date = "d_date"
		}
		compared := 0
		for range 12 {
			call := []string{"totals", facts, "--date", date, "--sum", "n", "--count", "--no-plan", "--format", "csv", "--as-of", "2026-12-01"}
			grains := []string{"month", "quarter", "week"}
			if facts == "lake" || facts == "sorted.parquet" {
				grains = grains[:2] // of files that are not read the last day is known, but not that there are rows on each, so no week is cut
			}
			call = append(call, "--grain", grains[random.IntN(len(grains))])
			for _, flags := range [][]string{{"--against", "previous"}, {"--rolling", "3"}, {"--running", "year"}, {"--to-date"}, {"--from", "2026-02-03"}, {"--to", "2026-08-20"}} {
				if random.IntN(4) == 0 {
					call = append(call, flags...)
				}
			}
			of := run(t, folder, append(call, "--where", "category=Lamps")...)
			by := run(t, folder, append(call, "--by", "category")...)
			if facts != "lake" { // whose file of lamps ends before the others
				require.Equal(t, by.code, of.code, call)
			}
			if of.code == 2 {
				continue // flags that do not go together
			}
			compared++
			var lamps []string
			for _, line := range strings.Split(by.out, "\n") {
				if strings.Contains(line, ",Lamps,") {
					lamps = append(lamps, line)
				}
			}
			_, rows, _ := strings.Cut(strings.TrimSuffix(of.out, "\n"), "\n")
			require.Equal(t, withoutColumn(lamps, 3), strings.Split(rows, "\n"), call)
		}
		require.Greater(t, compared, 6)
	}
}

// Conditions that choose days cut the range, as --from and --to do.
func TestConditionsOnDaysCutTheRange(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": sold(), "odd.csv": sold() + "1900-01-01,Rugs,1\n9999-12-31,Rugs,1\n"})
	call := []string{"totals", "s.csv", "--sum", "n", "--no-plan", "--format", "csv", "--as-of", "2026-12-01", "--where", "category=Lamps"}
	cut := done(t, folder, append(call, "--where", "d>=2026-04-01", "--where", "d<2026-08-01")...)
	assert.Equal(t, "period,period_start,period_end,n,is_filled,is_running\n2026-04,2026-04-01,2026-04-30,10,false,false\n2026-05,2026-05-01,2026-05-31,0,true,false\n"+
		"2026-06,2026-06-01,2026-06-30,10,false,false\n2026-07,2026-07-01,2026-07-31,0,true,false\n", cut.out)
	// A placeholder among the rows that are left out does not reach far.
	odd := run(t, folder, append([]string{"totals", "odd.csv"}, call[2:]...)...)
	assert.Contains(t, odd.out, "\n2026-01,2026-01-01,2026-01-31,0,true,false\n")
	assert.Equal(t, 10, strings.Count(odd.out, "\n"))
}

// The end of the data is that of all rows, also where a condition leaves out the last of them.
func TestTheEndIsThatOfAllRows(t *testing.T) {
	var text strings.Builder
	text.WriteString("d,category,n\n")
	for day := time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC); day.Before(time.Date(2026, 9, 20, 0, 0, 0, 0, time.UTC)); day = day.AddDate(0, 0, 1) {
		fmt.Fprintf(&text, "%s,Rugs,2\n", day.Format(time.DateOnly))
		if day.Day()%5 == 0 {
			fmt.Fprintf(&text, "%s,Lamps,1\n", day.Format(time.DateOnly))
		}
	}
	folder := folderWith(t, map[string]string{"s.csv": text.String()})
	said := attended(t, folder, "totals", "s.csv", "--sum", "n", "--no-plan", "--as-of", "2026-12-01", "--where", "category=Lamps", "--against", "previous", "--recent", "1", "--format", "csv")
	assert.Contains(t, said.err, "! The data ends on 2026-09-19, and 2026-09 runs to 2026-09-30: its change is left out.")
	assert.Contains(t, said.out, "\n2026-09,2026-09-01,2026-09-30,3,22,6,,,21,false,false,false,false\n")
	latest := attended(t, folder, "latest", "s.csv", "--sum", "n", "--no-plan", "--where", "category=Lamps", "--format", "csv")
	assert.Contains(t, latest.err, "! no rows on 2026-09-19 that meet --where; the last day with some is 2026-09-15. Add --as-of 2026-09-15 to see that day\n")
	assert.NotContains(t, latest.out, "true")
	after := attended(t, folder, "latest", "s.csv", "--sum", "n", "--no-plan", "--by", "category", "--as-of", "2026-10-14", "--format", "csv")
	assert.Contains(t, after.out, "(all),2026-10-14,2026-09-19,workday,2026-10-13,0,0,,,false,", "nothing against nothing is no comparison")
}

// One file of several that ends before the others is told.
func TestAFileThatEndsBeforeOthersIsTold(t *testing.T) {
	folder := folderWith(t, map[string]string{"a.csv": daily("2026-01-01", "2026-06-30"), "b.csv": daily("2026-01-01", "2026-05-12"), "jan.csv": daily("2026-01-01", "2026-01-31"), "feb.csv": daily("2026-02-01", "2026-02-28")})
	call := []string{"--sum", "a", "--no-plan", "--as-of", "2026-07-01", "--format", "csv"}
	for _, command := range []string{"totals", "fill"} {
		told := attended(t, folder, append([]string{command, "a.csv", "b.csv"}, call...)...)
		assert.Contains(t, told.err, "! b.csv ends on 2026-05-12, other files run to 2026-06-30: what is missing after that counts as zero. If it is not loaded, add --loaded-through b.csv=2026-05-12; if nothing is missing, --loaded-through 2026-06-30\n")
	}
	done(t, folder, append([]string{"totals", "a.csv", "b.csv", "--loaded-through", "2026-06-30"}, call...)...)
	done(t, folder, "totals", "jan.csv", "feb.csv", "--sum", "a", "--no-plan", "--as-of", "2026-03-01", "--format", "csv")
}

// Attributes of days that facts are grouped by have all values of the range: a month without rows is no missing row.
func TestAttributesOfDaysHaveAllValues(t *testing.T) {
	var kept strings.Builder
	for line := range strings.Lines(sold()) {
		if !strings.HasPrefix(line, "2026-02") {
			kept.WriteString(line)
		}
	}
	folder := folderWith(t, map[string]string{"s.csv": kept.String()})
	call := []string{"--sum", "n", "--no-plan", "--as-of", "2026-12-01", "--format", "csv"}
	months := done(t, folder, append([]string{"totals", "s.csv", "--grain", "year", "--by", "month_name"}, call...)...)
	assert.Contains(t, months.out, ",January,155,false,true\n2026,2026-01-01,2026-12-31,February,0,true,true\n2026,2026-01-01,2026-12-31,March,155,")
	assert.NotContains(t, months.out, "October", "which is after the data")
	assert.Contains(t, months.err, "1 row filled for periods without data")
	lamps := done(t, folder, append([]string{"totals", "s.csv", "--grain", "year", "--by", "category", "--by", "month_name"}, call...)...)
	for _, month := range []string{"January", "February", "March", "May", "July", "August", "September"} {
		assert.Contains(t, lamps.out, "2026,2026-01-01,2026-12-31,Lamps,"+month+",0,true,true\n")
	}
	// A month is only in its own year.
	by := done(t, folder, append([]string{"totals", "s.csv", "--grain", "month", "--by", "month_name"}, call...)...)
	assert.Contains(t, by.out, "\n2026-02,2026-02-01,2026-02-28,February,0,true,false\n2026-03,2026-03-01,2026-03-31,March,")
}

// A site that is open and has no row at all is named.
func TestOpenGroupsWithoutRowsAreNamed(t *testing.T) {
	folder := folderWith(t, map[string]string{
		"s.csv":     "d,shop,n\n2026-01-05,A,1\n2026-02-05,A,1\n2026-01-05,B,1\n2026-04-05,B,1\n",
		"lives.csv": "shop,opened,closed\nA,2025-11-01,\nB,2026-01-01,2026-06-30\nC,2026-02-01,\nD,2020-01-01,2025-12-31\nE,2026-05-01,\n",
	})
	call := []string{"fill", "s.csv", "--by", "shop", "--sum", "n", "--grain", "month", "--lives", "lives.csv:shop,opened,closed", "--span", "lives", "--no-plan", "--as-of", "2026-04-10", "--format", "csv"}
	said := done(t, folder, call...)
	assert.Contains(t, said.err, "note: open in these months, but without any row and so not filled: C\n")
	assert.Contains(t, said.out, ",2026-04-30,A,0,true,true\n", "up to where the facts of others reach")
	assert.NotContains(t, done(t, folder, append(call, "--where", "shop=A")...).err, "without any row")
}

// Each group ends where its own rows do, if that is asked for: what is missing after that is not zero, wherever the facts lie.
func TestEachGroupEndsByItsOwnRows(t *testing.T) {
	folder := t.TempDir()
	text := strings.Builder{}
	text.WriteString("d,shop,till,a\n")
	for i := range 300 {
		day := time.Date(2025, 1, 1, 0, 0, 0, 0, time.UTC).AddDate(0, 0, i).Format(time.DateOnly)
		fmt.Fprintf(&text, "%s,A,1,1\n", day)
		if i < 250 {
			fmt.Fprintf(&text, "%s,B,1,2\n%[1]s,B,2,4\n", day)
		}
		if i%100 == 0 { // too few to tell
			fmt.Fprintf(&text, "%s,C,1,8\n", day)
		}
	}
	require.NoError(t, os.WriteFile(filepath.Join(folder, "s.csv"), []byte(text.String()), 0o600))
	done(t, folder, "normalise", "s.csv", "-o", "s.db", "--no-plan", "--columns", "date_key")
	asked := []string{"--by", "shop", "--sum", "a", "--as-of", "2025-10-28", "--no-plan"}
	each := append(asked, "--loaded-through", "each")
	plain := done(t, folder, append([]string{"totals", "s.csv", "--against", "previous", "--recent", "2"}, asked...)...)
	assert.Contains(t, plain.out, "2025-09,2025-09-01,2025-09-30,B,42,22,186,-144,-77.4,21,true,")
	for _, source := range [][]string{{"s.csv"}, {"s.db#s", "--date", "d_date", "--run", "local"}, {"s.db#s", "--date", "d_date", "--run", "inside"}} {
		own := attended(t, folder, append(append([]string{"totals"}, source...), append(each, "--against", "previous", "--recent", "2")...)...)
		assert.Equal(t, `period,period_start,period_end,shop,a,workdays,a_previous,a_previous_change,a_previous_percent,workdays_previous,is_previous_comparable,is_filled,is_running,is_loaded
2025-09,2025-09-01,2025-09-30,A,30,22,31,-1,-3.2,21,true,false,false,true
2025-09,2025-09-01,2025-09-30,B,42,22,186,,,21,false,false,false,false
2025-09,2025-09-01,2025-09-30,C,0,22,0,0,,21,true,true,false,true
2025-10,2025-10-01,2025-10-31,A,27,20,30,,,22,false,false,true,true
2025-10,2025-10-01,2025-10-31,B,,20,42,,,22,false,true,true,false
2025-10,2025-10-01,2025-10-31,C,0,20,0,,,22,false,true,true,true
`, own.out, source)
		assert.Contains(t, own.err, "! 1 group ends earlier than expected: B on 2025-09-07. What is missing after that counts as not loaded\n")
	}
	// Sums of groups are loaded as far as all of these are, and groups of two columns end by themselves.
	total := attended(t, folder, append([]string{"totals", "s.csv", "--subtotals", "--recent", "1"}, each...)...)
	assert.Contains(t, total.out, ",(all),27,true,false,true,false\n")
	two := attended(t, folder, append([]string{"fill", "s.csv", "--by", "till"}, each...)...)
	assert.Contains(t, two.err, "! 2 groups end earlier than expected: 1 B on 2025-09-07, 2 B on 2025-09-07.")
	kept := attended(t, folder, "fill", "s.csv", "--by", "shop", "--grain", "day", "--loaded-through", "each", "--as-of", "2025-10-28", "--no-plan")
	assert.Regexp(t, `\n2025-10-27,B,,.*true,false,false\n`, kept.out)
	// Where all facts end is told once, and not for each group that ends there.
	late := attended(t, folder, append([]string{"totals", "s.csv"}, slices.Replace(slices.Clone(each), 5, 6, "2025-12-28")...)...)
	assert.Contains(t, late.err, "! 1 group ends earlier than expected: B on 2025-09-07.")
	assert.Contains(t, late.err, "! The data ends on 2025-10-27, and 2025-10 runs to 2025-10-31")
	// In a plan it holds where there are groups.
	require.NoError(t, os.WriteFile(filepath.Join(folder, "roundyear.yaml"), []byte("roundyear: 1\nfacts:\n  s: {files: s.csv, dates: {d: {}}, loaded_through: each}\n"), 0o600))
	done(t, folder, "plan", "check")
	assert.Contains(t, attended(t, folder, "totals", "s", "--by", "shop", "--sum", "a", "--as-of", "2025-10-28").err, "B on 2025-09-07")
	done(t, folder, "totals", "s", "--sum", "a", "--as-of", "2025-10-28")
	for _, wrong := range [][]string{{"--loaded-through", "each"}, {"--by", "year", "--loaded-through", "each"}} {
		refused := run(t, folder, append([]string{"totals", "s.csv", "--sum", "a", "--no-plan"}, wrong...)...)
		assert.Equal(t, 2, refused.code)
		assert.Contains(t, refused.err, "--loaded-through each needs --by with a column of the facts")
	}
	refused := run(t, folder, append([]string{"totals", "s.csv", "--loaded-through", "2025-10-01"}, each...)...)
	assert.Contains(t, refused.err, "--loaded-through: each stands alone")
}
