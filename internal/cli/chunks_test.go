package cli_test

import (
	"encoding/csv"
	"encoding/json"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A file of more than ten chunks, each of which has every outcome that a row can
// have, read by four workers: what they find is put together without loss. The
// sums are made here, row by row, in whole thousandths.

// sale is a row of the large file.
type sale struct {
	line               int
	day, clock, shop   string
	amount             int // in thousandths
	text               string
	blank, undated, no bool // blank amount; no date; a date that cannot be read
}

// manySales makes the rows of the large file and its text. Days before 2026 and
// after it lie outside, and shops of more than one character are filtered.
func manySales(unreadable bool) ([]sale, string) {
	const rows = 60000
	var list []sale
	var text strings.Builder
	text.WriteString("receipt,sold,shop,amount,note\n")
	first := time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC)
	state := uint64(20260105)
	next := func(n int) int {
		state = state*6364136223846793005 + 1442695040888963407
		return int(state>>33) % n
	}
	for i := range rows {
		s := sale{line: i + 2, shop: string("ABCDE"[next(5)]), clock: fmt.Sprintf("%02d:%02d", next(24), next(60))}
		s.day = first.AddDate(0, 0, next(365)).Format(time.DateOnly)
		s.amount = (next(40000) - 5000) * 10
		s.text = fmt.Sprintf("%.2f", float64(s.amount)/1000)
		switch {
		case i == rows-7: // only the last chunk has three decimals
			s.amount, s.text = 1234567, "1234.567"
		case i%101 == 3:
			s.undated, s.day, s.clock = true, "", ""
		case i%103 == 5:
			s.day = "2025-12-31"
		case i%107 == 7:
			s.day = "2027-01-01"
		case i%109 == 11:
			s.blank, s.amount, s.text = true, 0, ""
		case i%113 == 13:
			s.shop = "XX"
		case unreadable && i%127 == 17:
			s.no, s.day = true, "2026-02-30"
		}
		moment := s.day
		if s.clock != "" {
			moment += " " + s.clock
		}
		fmt.Fprintf(&text, "R%06d,%s,%s,%s,%s\n", i, moment, s.shop, s.text, strings.Repeat("n", i%40))
		list = append(list, s)
	}
	return list, text.String()
}

func thousandths(amount int) string {
	sign := ""
	if amount < 0 {
		sign, amount = "-", -amount
	}
	return fmt.Sprintf("%s%d.%03d", sign, amount/1000, amount%1000)
}

func TestTotalsOfManyChunksAreThoseOfTheRows(t *testing.T) {
	driveRaced(t)
	rows, text := manySales(false)
	folder := folderWith(t, map[string]string{"s.csv": text})
	result := run(t, folder, "totals", "s.csv", "--sum", "amount", "--min", "amount", "--max", "amount", "--first", "amount", "--last", "amount", "--count", "--by", "shop",
		"--where", "shop=A,B,C,D,E", "--from", "2026-01-01", "--to", "2026-12-31", "--as-of", "2027-06-01")
	require.Equal(t, 1, result.code, "facts without a date are something to see to")

	type period struct{ month, shop string }
	of := map[period][]sale{}
	var undated, undatedSum, outside, filtered, facts int
	for _, s := range rows {
		switch {
		case len(s.shop) > 1:
			filtered++
		case s.undated:
			undated, undatedSum = undated+1, undatedSum+s.amount
		case s.day[:4] != "2026":
			outside++
		default:
			facts++
			of[period{s.day[:7], s.shop}] = append(of[period{s.day[:7], s.shop}], s)
		}
	}
	want := []string{"period,period_start,period_end,shop,amount_sum,amount_min,amount_max,amount_first,amount_last,count,is_filled,is_running"}
	for month := time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC); month.Year() == 2026; month = month.AddDate(0, 1, 0) {
		for _, shop := range []string{"A", "B", "C", "D", "E"} {
			list := of[period{month.Format("2006-01"), shop}]
			require.NotEmpty(t, list)
			sum, known := 0, slices.DeleteFunc(slices.Clone(list), func(s sale) bool { return s.blank })
			for _, s := range known {
				sum += s.amount
			}
			least := slices.MinFunc(known, func(a, b sale) int { return a.amount - b.amount }).amount
			most := slices.MaxFunc(known, func(a, b sale) int { return a.amount - b.amount }).amount
			slices.SortStableFunc(known, func(a, b sale) int { return strings.Compare(a.day+a.clock, b.day+b.clock) })
			want = append(want, strings.Join([]string{month.Format("2006-01"), month.Format(time.DateOnly), month.AddDate(0, 1, -1).Format(time.DateOnly), shop,
				thousandths(sum), thousandths(least), thousandths(most), thousandths(known[0].amount), thousandths(known[len(known)-1].amount),
				strconv.Itoa(len(list)), "false", "false"}, ","))
		}
	}
	assert.Equal(t, strings.Join(want, "\n")+"\n", result.out)
	report := strings.ReplaceAll(result.err, ",", "")
	assert.Contains(t, report, fmt.Sprintf("%d rows from 2026-01-01 to 2026-12-31 in 12 months and 5 groups", facts))
	assert.Contains(t, report, fmt.Sprintf("Excluded: %d rows without a date %d rows outside the range %d rows by --where", undated, outside, filtered))
	// That sum is written with the decimals of the whole column or its own.
	said := regexp.MustCompile(`! \d+ rows without a date not in any period: amount_sum (-?[0-9]+\.[0-9]+)`).FindStringSubmatch(report)
	require.NotNil(t, said, report)
	assert.Equal(t, thousandths(undatedSum), (said[1] + "000")[:len(thousandths(undatedSum))])
}

func TestNormaliseOfManyChunksWritesEachRowOnce(t *testing.T) {
	driveRaced(t)
	rows, text := manySales(true)
	folder := folderWith(t, map[string]string{"s.csv": text})
	result := run(t, folder, "normalise", "s.csv", "-o", "clean.csv", "--rejects", "bad.csv")
	require.Equal(t, 1, result.code, result.err)
	clean, err := csv.NewReader(strings.NewReader(textOf(t, folder, "clean.csv"))).ReadAll()
	require.NoError(t, err)
	bad, err := csv.NewReader(strings.NewReader(textOf(t, folder, "bad.csv"))).ReadAll()
	require.NoError(t, err)
	goodRow, badRow := 1, 1
	for i, s := range rows {
		receipt := fmt.Sprintf("R%06d", i)
		if s.no {
			require.Equal(t, []string{receipt, strconv.Itoa(s.line), "sold", s.day + " " + s.clock}, []string{bad[badRow][0], bad[badRow][5], bad[badRow][6], bad[badRow][7]})
			badRow++
			continue
		}
		require.Equal(t, []string{receipt, s.shop, s.text, s.day, s.clock, strings.ReplaceAll(s.day, "-", "")}, []string{clean[goodRow][0], clean[goodRow][2], clean[goodRow][3], clean[goodRow][5], clean[goodRow][6], clean[goodRow][7]})
		goodRow++
	}
	assert.Equal(t, len(clean), goodRow)
	assert.Equal(t, len(bad), badRow)
	assert.Contains(t, strings.ReplaceAll(result.err, ",", ""), fmt.Sprintf("60000 rows read %d written to clean.csv %d rejected", goodRow-1, badRow-1))
}

func TestSurveyOfManyChunksSeesAllRows(t *testing.T) {
	driveRaced(t)
	rows, text := manySales(true)
	folder := folderWith(t, map[string]string{"s.csv": text})
	var said []struct {
		Rows    int
		Columns []struct {
			Dates, Blanks, Unread, Days int
			First, Last                 string
			WithTime                    int `json:"with_time"`
			WouldMiss                   int `json:"would_not_match"`
			Weekend                     int `json:"on_weekends"`
			Median                      int `json:"median_rows_a_day"`
		}
	}
	require.NoError(t, json.Unmarshal([]byte(run(t, folder, "survey", "s.csv", "--json").out), &said))
	require.Len(t, said, 1)
	require.Len(t, said[0].Columns, 1)
	var dates, blanks, unread, timed, late, weekend int
	days := map[string]int{}
	for _, s := range rows {
		switch {
		case s.no:
			unread++
		case s.undated:
			blanks++
		default:
			dates, timed = dates+1, timed+1
			days[s.day]++
			if s.clock != "00:00" {
				late++
			}
			day, err := time.Parse(time.DateOnly, s.day)
			require.NoError(t, err)
			if w := day.Weekday(); w == time.Saturday || w == time.Sunday {
				weekend++
			}
		}
	}
	var perDay []int
	for _, count := range days {
		perDay = append(perDay, count)
	}
	slices.Sort(perDay)
	is := said[0].Columns[0]
	assert.Equal(t, []int{len(rows), dates, blanks, unread, len(days), timed, late, weekend, perDay[len(perDay)/2]},
		[]int{said[0].Rows, is.Dates, is.Blanks, is.Unread, is.Days, is.WithTime, is.WouldMiss, is.Weekend, is.Median})
	assert.Equal(t, "2025-12-31 2027-01-01", is.First+" "+is.Last)
}

// One row of many decides what two date columns are to each other.
func TestPairsOfManyChunks(t *testing.T) {
	driveRaced(t)
	const rows = 50000
	of := func(exception int, ordered, shipped string) string {
		var text strings.Builder
		text.WriteString("ordered,shipped,pad\n")
		for i := range rows {
			if i == exception {
				text.WriteString(ordered + "," + shipped + ",x\n")
				continue
			}
			fmt.Fprintf(&text, "2026-03-%02d,2026-04-%02d,%s\n", i%31+1, i%30+1, strings.Repeat("p", i%40))
		}
		return text.String()
	}
	for _, exception := range []int{rows / 2, rows - 1} {
		folder := folderWith(t, map[string]string{"ok.csv": of(exception, "2026-05-05", "2026-05-05"), "bad.csv": of(exception, "2026-05-06", "2026-05-05")})
		var said []struct{ Pairs [][]string }
		require.NoError(t, json.Unmarshal([]byte(attended(t, folder, "survey", "ok.csv", "bad.csv", "--json").out), &said))
		require.Len(t, said, 2)
		assert.Equal(t, [][]string{{"ordered", "shipped"}}, said[0].Pairs)
		assert.Empty(t, said[1].Pairs)
	}
}

func TestCoverOfManyChunksCoversAllRows(t *testing.T) {
	driveRaced(t)
	// The first and the last day stand in the middle of the file, each once.
	var text strings.Builder
	text.WriteString("sold,pad\n")
	pad := strings.Repeat("p", 60)
	for i := range 40000 {
		day := fmt.Sprintf("2026-03-%02d", i%31+1)
		switch {
		case i == 17000:
			day = "2026-01-15"
		case i == 23000:
			day = "2026-05-20"
		case i%1000 == 999:
			day = ""
		}
		text.WriteString(day + "," + pad + "\n")
	}
	folder := folderWith(t, map[string]string{"s.csv": text.String()})
	done(t, folder, "build", "--from", "2026-01-16", "--to", "2026-05-19", "-o", "d.csv")
	result := run(t, folder, "check", "d.csv", "--cover", "s.csv:sold", "--json")
	require.Equal(t, 1, result.code, result.err)
	var said struct {
		Faults []struct {
			Kind, First string
			Count       int
		}
		Facts []struct{ Facts, Undated, Placed int }
	}
	require.NoError(t, json.Unmarshal([]byte(result.out), &said))
	var lost []string
	for _, fault := range said.Faults {
		if fault.Kind == "facts not in the table" {
			lost = append(lost, fmt.Sprint(fault.First, " ", fault.Count))
		}
	}
	assert.Equal(t, []string{"2026-01-15 1", "2026-05-20 1"}, lost)
	require.Len(t, said.Facts, 1)
	assert.Equal(t, []int{40000, 40, 39958}, []int{said.Facts[0].Facts, said.Facts[0].Undated, said.Facts[0].Placed})

	done(t, folder, "build", "--cover", "s.csv:sold", "--columns", "date", "-o", "whole.csv")
	days := splitLines(textOf(t, folder, "whole.csv"))
	assert.Equal(t, "2026-01-01 2026-12-31", days[1]+" "+days[len(days)-1])
}

func TestCheckOfManyChunksFindsAllWrongValues(t *testing.T) {
	driveRaced(t)
	folder := t.TempDir()
	done(t, folder, "build", "--from", "1900-01-01", "--to", "1999-12-31", "--columns", "date,date_key,year,quarter,month,month_name,day_name,iso_week,iso_year,quarter_label,week_start", "-o", "d.csv")
	lines := strings.Split(strings.TrimSuffix(textOf(t, folder, "d.csv"), "\n"), "\n")
	require.Len(t, lines, 36525, "1900 was no leap year")
	require.Greater(t, len(textOf(t, folder, "d.csv")), 8*256<<10)
	var months, weekdays []int
	for i := 1; i < len(lines); i++ {
		fields := strings.Split(lines[i], ",")
		if i%89 == 0 {
			fields[5] = "Foo"
			months = append(months, i+1)
		}
		if i%97 == 1 {
			fields[6] = "Bar"
			weekdays = append(weekdays, i+1)
		}
		lines[i] = strings.Join(fields, ",")
	}
	folder = folderWith(t, map[string]string{"d.csv": strings.Join(lines, "\n") + "\n"})
	result := run(t, folder, "check", "d.csv", "--json")
	require.Equal(t, 1, result.code)
	var said struct {
		Rows     int
		Compared int `json:"values_compared"`
		Faults   []struct {
			Kind, Column, First, Last, Value, Wanted string
			Lines                                    []int
			Count                                    int
		}
	}
	require.NoError(t, json.Unmarshal([]byte(result.out), &said))
	assert.Equal(t, 36524, said.Rows)
	assert.Equal(t, 36524*9, said.Compared)
	for _, c := range []struct {
		column, value string
		lines         []int
	}{{"month_name", "Foo", months}, {"day_name", "Bar", weekdays}} {
		found := false
		for _, fault := range said.Faults {
			if fault.Kind == "wrong values" && fault.Column == c.column {
				found = true
				assert.Equal(t, len(c.lines), fault.Count)
				assert.Equal(t, c.lines[:len(fault.Lines)], fault.Lines)
				assert.Equal(t, c.value, fault.Value)
				dayOf := func(line int) string { return strings.Split(lines[line-1], ",")[0] }
				assert.Equal(t, dayOf(c.lines[0])+" "+dayOf(c.lines[len(c.lines)-1]), fault.First+" "+fault.Last)
			}
		}
		assert.True(t, found, c.column)
	}
}
