package cli_test

import (
	"encoding/csv"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// longWeekend are sales around Easter of 2025 in Ireland, of one shop that ends earlier.
var longWeekend = map[string]string{"s.csv": "day,shop,amount\n2024-04-01,A,1\n2024-04-23,A,40\n2025-04-15,A,10\n2025-04-17,A,100\n2025-04-17,B,60\n2025-04-19,A,70\n2025-04-22,A,150\n"}

// The day after a long weekend is held against the last workday before it, and it is said why.
func TestLatestAfterALongWeekend(t *testing.T) {
	folder := folderWith(t, longWeekend)
	latest := done(t, folder, "latest", "s.csv", "--sum", "amount", "--no-plan", "--region", "IE")
	assert.Equal(t, "day,last_day,against,against_day,amount,amount_against,amount_change,amount_percent,is_comparable,why,note\n"+
		"2025-04-22,2025-04-22,workday,2025-04-18,150,0,150,,true,\"2025-04-22 is a Tuesday; Saturday and Sunday are the weekend, Monday is off (Easter Monday), so Friday 2025-04-18\",no rows on 2025-04-18\n"+
		"2025-04-22,2025-04-22,week-ago,2025-04-15,150,10,140,1400.0,true,\"Tuesday 2025-04-15, a week before\",\n"+
		"2025-04-22,2025-04-22,year-ago,2024-04-23,150,40,110,275.0,true,\"Tuesday 2024-04-23, 52 weeks before\",\n", latest.out)
	assert.Contains(t, latest.err, "Latest day: Tuesday 2025-04-22, amount 150, 1 row\n")
	english := done(t, folder, "latest", "s.csv", "--sum", "amount", "--no-plan", "--region", "GB-ENG", "--against", "workday")
	assert.Contains(t, english.out, ",2025-04-17,150,160,-10,-6.2,true,\"2025-04-22 is a Tuesday; Friday is off (Good Friday), Saturday and Sunday are the weekend, Monday is off (Easter Monday), so Thursday 2025-04-17\",\n")
	easter := done(t, folder, "latest", "s.csv", "--sum", "amount", "--no-plan", "--align", "easter", "--against", "year-ago")
	assert.Contains(t, easter.out, "year-ago,2024-04-02,150,0,150,,true,\"Tuesday 2024-04-02, as far from Easter Sunday (2024-03-31) as 2025-04-22 is from 2025-04-20\",no rows on 2024-04-02\n")
	saturday := done(t, folder, "latest", "s.csv", "--sum", "amount", "--no-plan", "--as-of", "2025-04-19")
	assert.Contains(t, saturday.out, "workday,2025-04-18,70,0,70,,false,2025-04-19 is a Saturday; Friday 2025-04-18 is the workday before,Saturday 2025-04-19 is not a workday (weekend); no rows on 2025-04-18\n")
	assert.Contains(t, saturday.out, "year-ago,2024-04-20,70,0,", "a weekend is compared with a weekend")
	holiday := attended(t, folder, "latest", "s.csv", "--sum", "amount", "--no-plan", "--region", "IE", "--as-of", "2024-04-08", "--from", "2024-03-01", "--against", "week-ago", "--where", "shop=A", "--date", "day")
	assert.Contains(t, holiday.out, "week-ago,2024-04-01,0,1,,,false,\"Monday 2024-04-01, a week before\",the data ends on 2024-04-01; Monday 2024-04-01 was not a workday (Easter Monday)\n")
}

// One latest day holds for all groups; those that end before it say so, and their change is not made up.
func TestLatestByGroups(t *testing.T) {
	folder := folderWith(t, longWeekend)
	latest := done(t, folder, "latest", "s.csv", "--sum", "amount", "--count", "--no-plan", "--by", "shop", "--against", "workday,year-ago")
	assert.Contains(t, latest.out, "B,2025-04-22,2025-04-17,workday,2025-04-21,0,0,,,0,0,,,false,")
	assert.Contains(t, latest.out, ",the data ends on 2025-04-17; no rows on 2025-04-21,false\n")
	assert.Contains(t, latest.out, "(all),2025-04-22,2025-04-22,workday,2025-04-21,150,0,150,,1,0,1,,true,")
	assert.Contains(t, latest.err, "note: 1 group ends before the latest day: B on 2025-04-17\n")
	people := done(t, folder, "latest", "s.csv", "--sum", "amount", "--no-plan", "--by", "shop", "--against", "year-ago", "--format", "table", "--money", "eur", "--locale", "de-DE", "--days", "4")
	assert.Regexp(t, `(?m)^shop   amount, EUR  year-ago +%\n─+\nA +150,00 +40,00 +\+275,0%\nB +† 0,00 +0,00\n─+\n\(all\) +150,00 +40,00 +\+275,0%\n`, people.out)
	assert.Contains(t, people.out, "† the data of the group ends earlier\n")
	assert.Regexp(t, `(?m)^ +Sat 19 ·  Sun 20 ·  Mon 21  Tue 22\n─+\namount +70,00 +0,00 +0,00 +150,00\n· day off\n`, people.out)
	empty := attended(t, folder, "latest", "s.csv", "--sum", "amount", "--no-plan", "--as-of", "2025-04-24")
	assert.Contains(t, empty.err, "! no rows on 2025-04-24; the last day with rows is 2025-04-22\n")
	assert.Contains(t, empty.out, "2025-04-24,2025-04-22,workday,2025-04-23,0,0,,,false,")
	early := done(t, folder, "latest", "s.csv", "--sum", "amount", "--no-plan", "--as-of", "2024-04-01")
	assert.Contains(t, early.out, "year-ago,2023-04-03,1,,,,false,\"Monday 2023-04-03, 52 weeks before\",\"2023-04-03 is before the data begins, on 2024-04-01\"\n")
}

// Groups that are sites of the plan go by their own days, and all of them are comparable only if the same ones are open.
func TestLatestOfSites(t *testing.T) {
	folder := folderWith(t, map[string]string{
		"s.csv":          "day,shop,amount\n2025-04-12,A,5\n2025-04-12,B,7\n2025-04-19,A,70\n2025-04-19,B,2\n2025-04-20,A,1\n2025-04-21,A,150\n2025-04-21,B,20\n",
		"roundyear.yaml": "roundyear: 1\nsites:\n  A: {}\n  B: {open: [mon, tue, wed, thu, fri, sat], closures: {from: 2025-04-13, to: 2025-04-14, reason: stocktaking}}\n",
	})
	latest := done(t, folder, "latest", "s.csv", "--sum", "amount", "--by", "shop", "--against", "workday,week-ago")
	assert.Contains(t, latest.out, "A,2025-04-21,2025-04-21,workday,2025-04-20,150,1,149,14900.0,true,2025-04-21 is a Monday; Sunday 2025-04-20 is the trading day before,,false\n")
	assert.Contains(t, latest.out, "B,2025-04-21,2025-04-21,workday,2025-04-19,20,2,18,900.0,true,\"2025-04-21 is a Monday; Sunday is off (closed on Sundays), so Saturday 2025-04-19\",,false\n")
	assert.Contains(t, latest.out, "B,2025-04-21,2025-04-21,week-ago,2025-04-14,20,0,20,,false,\"Monday 2025-04-14, a week before\",Monday 2025-04-14 was not a trading day (stocktaking); no rows on 2025-04-14,false\n")
	assert.Contains(t, latest.out, "(all),2025-04-21,2025-04-21,workday,2025-04-20,170,1,169,16900.0,false,2025-04-21 is a Monday; Sunday 2025-04-20 is the trading day before,not open on 2025-04-20: B,true\n")
	at := done(t, folder, "latest", "s.csv", "--sum", "amount", "--at", "B", "--where", "shop=B", "--against", "workday")
	assert.Contains(t, at.out, ",2025-04-19,20,2,18,900.0,true,")
}

// For each day of three years the workday is the one that a loop over the time package finds, with the holidays as published for Ireland.
func TestLatestWorkdays(t *testing.T) {
	holidays := map[string]bool{}
	for _, day := range strings.Fields(`2024-01-01 2024-02-05 2024-03-18 2024-04-01 2024-05-06 2024-06-03 2024-08-05 2024-10-28 2024-12-25 2024-12-26
		2025-01-01 2025-02-03 2025-03-17 2025-04-21 2025-05-05 2025-06-02 2025-08-04 2025-10-27 2025-12-25 2025-12-26`) {
		holidays[day] = true
	}
	random := rand.New(rand.NewPCG(14, 6))
	var lines strings.Builder
	amounts := map[string]int{}
	first, _ := time.Parse(time.DateOnly, "2023-12-20")
	lines.WriteString("day,amount\n")
	for day := first; day.Year() < 2026; day = day.AddDate(0, 0, 1) {
		amount := random.IntN(1000)
		amounts[day.Format(time.DateOnly)] = amount
		fmt.Fprintf(&lines, "%s,%d\n", day.Format(time.DateOnly), amount)
	}
	folder := folderWith(t, map[string]string{"s.csv": lines.String()})
	for range 40 {
		day := first.AddDate(0, 0, 380+random.IntN(350))
		want := day.AddDate(0, 0, -1)
		for want.Weekday() == time.Saturday || want.Weekday() == time.Sunday || holidays[want.Format(time.DateOnly)] {
			want = want.AddDate(0, 0, -1)
		}
		latest := done(t, folder, "latest", "s.csv", "--sum", "amount", "--no-plan", "--region", "IE", "--as-of", day.Format(time.DateOnly))
		rows, err := csv.NewReader(strings.NewReader(latest.out)).ReadAll()
		require.NoError(t, err)
		for i, other := range []time.Time{want, day.AddDate(0, 0, -7), day.AddDate(0, 0, -364)} {
			base, value := amounts[other.Format(time.DateOnly)], amounts[day.Format(time.DateOnly)]
			assert.Equal(t, []string{other.Format(time.DateOnly), fmt.Sprint(value), fmt.Sprint(base), fmt.Sprint(value - base)}, rows[i+1][3:7], "%s", day)
		}
	}
}

func TestLatestAsJSON(t *testing.T) {
	folder := folderWith(t, longWeekend)
	latest := done(t, folder, "latest", "s.csv", "--sum", "amount", "--no-plan", "--by", "shop", "--json", "--days", "2")
	var result struct {
		Day    string
		Groups []struct {
			Group   map[string]string
			Values  map[string]float64
			Against []struct {
				Against, Day, Why string
				Changes           map[string]float64
			}
			Recent []struct{ Day, Off string }
		}
	}
	require.NoError(t, json.Unmarshal([]byte(latest.out), &result))
	assert.Equal(t, "2025-04-22", result.Day)
	require.Len(t, result.Groups, 3)
	assert.Equal(t, map[string]string{"shop": "A"}, result.Groups[0].Group)
	assert.InDelta(t, 110, result.Groups[0].Against[2].Changes["amount"], 0)
	assert.Empty(t, result.Groups[1].Against[2].Changes, "its data ends earlier")
	assert.Len(t, result.Groups[2].Recent, 2)
}

func TestCallsOfLatestThatDoNotFit(t *testing.T) {
	folder := folderWith(t, longWeekend)
	for message, flags := range map[string]string{
		"--against: unknown day \"month-ago\"; use workday, week-ago, year-ago": "--sum amount --against month-ago",
		"--against names workday twice":                                         "--sum amount --against workday,workday",
		"nothing to measure: add --sum COLUMN":                                  "",
		"has no column \"total\"":                                               "--sum total",
		"--days must be a number from 0 to 366, not -1":                         "--sum amount --days -1",
		"--money: \"EURO\" is not the code of a currency, such as EUR":          "--sum amount --money EURO",
		"--locale: \"no locale\" is not a language tag such as en-IE":           "--sum amount --locale no_locale_at_all",
		"--align goes with --against year-ago":                                  "--sum amount --align easter --against workday",
		"--at and --at-column cannot be combined":                               "--sum amount --by shop --at IE --at-column shop",
		"--at-column amount must be a column of --by":                           "--sum amount --by shop --at-column amount",
		"\"IEE\" is neither a site, a prefix of days off nor a region":          "--sum amount --at IEE",
		"\"A\" is neither a site, a prefix of days off nor a region":            "--sum amount --by shop --at-column shop",
		"--json and --format cannot be combined":                                "--sum amount --json --format csv",
		"no rows up to 2020-01-01. Choose a later --as-of":                      "--sum amount --as-of 2020-01-01",
		"no row has shop = \"Z\"":                                               "--sum amount --where shop=Z",
	} {
		result := run(t, folder, append([]string{"latest", "s.csv", "--no-plan"}, strings.Fields(flags)...)...)
		assert.Equal(t, 2, result.code, "%s: %s", message, result.err)
		if message == "--locale: \"no locale\" is not a language tag such as en-IE" {
			message = "is not a language tag such as en-IE"
		}
		assert.Contains(t, result.err, message)
		assert.Empty(t, result.out)
	}
}
