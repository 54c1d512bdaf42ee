package cli_test

import (
	"encoding/csv"
	"fmt"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What is said of workdays follows from is_workday, is_weekend, is_holiday and
// is_observed alone, by looking at the days around and counting them one by one.
func TestWorkdaysByCounting(t *testing.T) {
	folder := folderWith(t, map[string]string{"roundyear.yaml": `roundyear: 1
range: {from: 2017-01-01, to: 2026-12-31}
calendars:
  fiscal: {months: {starts: february}, named_by: start}
  retail: {weeks: {ends_on: saturday, nearest_to: 31 january, split: 4-5-4}, named_by: start}
days_off:
  - {region: JP}
  - {region: CN, prefix: cn}
  - {region: PL, prefix: pl}
  - {name: Summer closure, when: {month: august, day: 13, lasts: 9}}
`})
	done(t, folder, "build", "-o", "days.csv")
	rows, err := csv.NewReader(strings.NewReader(textOf(t, folder, "days.csv"))).ReadAll()
	require.NoError(t, err)
	columns := map[string][]string{}
	for i, name := range rows[0] {
		for _, row := range rows[1:] {
			columns[name] = append(columns[name], row[i])
		}
	}
	booleans := func(name string) []bool {
		booleans := make([]bool, len(columns[name]))
		for i, text := range columns[name] {
			booleans[i] = text == "true"
		}
		return booleans
	}
	dates := columns["date"]
	for _, prefix := range []string{"", "cn_", "pl_"} {
		workdays, weekends := booleans("is_"+prefix+"workday"), booleans("is_"+prefix+"weekend")
		holidays, observed := booleans("is_"+prefix+"holiday"), booleans("is_"+prefix+"observed")
		// first finds the nearest row from one on, in steps of 1 or -1, of which
		// something is true.
		first := func(row, step int, true func(int) bool) int {
			for !true(row) {
				row += step
			}
			return row
		}
		works := func(row int) bool { return workdays[row] }
		celebrated := func(row int) bool { return holidays[row] || observed[row] }
		for row := 400; row < len(dates)-400; row++ {
			wanted := map[string]string{
				prefix + "next_workday":         dates[first(row+1, 1, works)],
				prefix + "previous_workday":     dates[first(row-1, -1, works)],
				prefix + "days_to_next_holiday": strconv.Itoa(first(row, 1, celebrated) - row),
			}
			number, err := strconv.Atoi(columns[prefix+"running_workday"][row-1])
			require.NoError(t, err)
			run, hasOff := 0, false
			if works(row) {
				number++
			} else {
				for idle := first(row, -1, works) + 1; !works(idle); idle++ {
					run++
					hasOff = hasOff || !weekends[idle]
				}
			}
			isLong := run >= 3 && hasOff
			if !isLong {
				run = 0
			}
			wanted[prefix+"running_workday"] = strconv.Itoa(number)
			wanted["is_"+prefix+"long_weekend"] = strconv.FormatBool(isLong)
			wanted[prefix+"long_weekend_days"] = strconv.Itoa(run)
			wanted["is_"+prefix+"eve_of_day_off"] = strconv.FormatBool(works(row) && !works(row+1) && !weekends[row+1])
			wanted["is_"+prefix+"day_after_day_off"] = strconv.FormatBool(works(row) && !works(row-1) && !weekends[row-1])
			for _, calendar := range []string{"", "fiscal_", "retail_"} {
				for _, unit := range []string{"month", "quarter", "year"} {
					starts := columns[calendar+unit+"_start"]
					before, after := 0, 0
					for other := row; other >= 0 && starts[other] == starts[row]; other-- {
						if works(other) {
							before++
						}
					}
					for other := row + 1; other < len(dates) && starts[other] == starts[row]; other++ {
						if works(other) {
							after++
						}
					}
					wanted[prefix+calendar+"workday_of_"+unit] = ""
					if works(row) {
						wanted[prefix+calendar+"workday_of_"+unit] = strconv.Itoa(before)
					}
					wanted[prefix+calendar+"workdays_so_far_in_"+unit] = strconv.Itoa(before)
					wanted[prefix+calendar+"workdays_in_"+unit] = strconv.Itoa(before + after)
					wanted[prefix+calendar+"workdays_left_in_"+unit] = strconv.Itoa(after)
				}
			}
			require.Len(t, wanted, 44)
			for name, value := range wanted {
				if columns[name][row] != value {
					t.Fatalf("%s on %s is %s and not %s", name, dates[row], columns[name][row], value)
				}
			}
		}
	}
}

// A calendar and a list of days off that were written are read again as the same
// workdays.
func TestListsOfAllRegionsComeBack(t *testing.T) {
	folder := t.TempDir()
	regions := strings.Split(strings.TrimSpace(done(t, folder, "days-off", "--regions").out), "\n")[1:]
	plan := "roundyear: 1\nweekend: [saturday, sunday]\nrange: {from: 2024-01-01, to: 2025-12-31}\ndays_off:\n"
	var columns []string
	for _, region := range regions {
		code, _, _ := strings.Cut(region, ",")
		if code == "UA" {
			continue // no days off are known of these years
		}
		name := strings.ToLower(code)
		done(t, folder, "days-off", code, "--from", "2023-06-01", "--to", "2026-06-30", "--weekend", "saturday,sunday", "-o", name+".ics", "-o", name+".csv")
		plan += fmt.Sprintf("  - {region: %s, prefix: by_rule_%s}\n  - {file: %s.ics, prefix: by_calendar_%s}\n  - {file: %s.csv, prefix: by_list_%s}\n", code, name, name, name, name, name)
		columns = append(columns, "is_by_rule_"+name+"_workday", "is_by_calendar_"+name+"_workday", "is_by_list_"+name+"_workday")
	}
	require.NoError(t, os.WriteFile(filepath.Join(folder, "roundyear.yaml"), []byte(plan), 0o666))
	done(t, folder, "build", "--columns", strings.Join(columns, ","), "-o", "both.csv")
	rows, err := csv.NewReader(strings.NewReader(textOf(t, folder, "both.csv"))).ReadAll()
	require.NoError(t, err)
	off := 0
	for _, row := range rows[1:] {
		for i := 0; i < len(columns); i += 3 {
			if row[i] == "false" {
				off++
			}
			if row[i] != row[i+1] || row[i] != row[i+2] {
				t.Fatalf("%s: %v", columns[i], row[i:i+3])
			}
		}
	}
	assert.Greater(t, off, len(regions)*2*107, "holidays and not only weekends")
}
