package cli_test

import (
	"encoding/csv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The sample company has receipts on each day on which a shop is open, and on
// no other: the plan of its sites and the makers of its receipts do not know of
// each other.
func TestTradingDaysAreThoseOfTheReceipts(t *testing.T) {
	folder := garden(t)
	result := done(t, folder, "build", "--trading", "--from", "2024-02-01", "--to", "2026-03-14", "-o", "trading.csv")
	assert.Contains(t, result.err, "4,638 rows, one per day and site: 6 sites from 2024-02-01 to 2026-03-14, written to trading.csv")
	assert.Regexp(t, `Heggenrade +241 +weekday 30, special closing 3, not opened yet 499`, result.err)
	read := func(file string) [][]string {
		rows, err := csv.NewReader(strings.NewReader(textOf(t, folder, file))).ReadAll()
		require.NoError(t, err)
		return rows[1:]
	}
	open := map[string]bool{}
	running := map[string]string{}
	for _, row := range read("trading.csv") {
		if row[3] == "true" {
			open[row[2]+" "+row[1]] = true
		}
		running[row[2]] = row[8]
	}
	sold := map[string]bool{}
	for _, row := range read("clean/sales.csv") {
		sold[row[1]+" "+row[7]] = true
	}
	assert.Equal(t, sold, open)
	assert.Equal(t, "767", running["Ballyfern"])
}

func TestTradingOfAPlan(t *testing.T) {
	folder := folderWith(t, map[string]string{"roundyear.yaml": `roundyear: 1
sites:
  Millrace: {open: [mon, tue, wed, thu, fri, sat], region: IE, opens: {when: {date: 2026-03-22}, reason: spring sale}}
`})
	result := done(t, folder, "build", "--trading", "--from", "2026-03-16", "--to", "2026-03-22")
	assert.Equal(t, "date_key,date,site,is_open,reason,what,trading_day_of_month,trading_days_so_far_in_month,trading_day\n"+
		"20260316,2026-03-16,Millrace,true,regular opening,,13,13,1\n20260317,2026-03-17,Millrace,false,holiday,Saint Patrick's Day,,13,1\n", result.out[:strings.Index(result.out, "20260318")])
	assert.Contains(t, result.out, "20260322,2026-03-22,Millrace,true,special opening,spring sale,18,18,6\n")
	for plan, fault := range map[string]string{
		"sites: {A: {region: QQ}}":                                   `roundyear.yaml, line 2, column 21: unknown region "QQ"`,
		"sites: {A: {opened: 2026-02-01, closed: 2026-01-01}}":       "A closed on 2026-01-01, before it opened on 2026-02-01",
		"sites: {A: {closures: {from: 2026-02-01, to: 2026-01-01}}}": "a closure of A must start on or before its last day",
		"sites: {A: {opens: {reason: x}}}":                           "A has no date",
		"sites: {A: {open: [mondays]}}":                              `sites.A.open must be a weekday such as monday or mon, not "mondays". Did you mean monday?`,
		"weekend: [sunday]":                                          "--trading needs a plan that describes the sites",
	} {
		folder := folderWith(t, map[string]string{"roundyear.yaml": "roundyear: 1\n" + plan + "\n"})
		result := run(t, folder, "build", "--trading", "--from", "2026-03-16", "--to", "2026-03-22")
		assert.Equal(t, 2, result.code)
		assert.Contains(t, result.err, fault)
	}
}
