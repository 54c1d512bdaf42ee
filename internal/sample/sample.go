// Package sample makes up the business of Fernhollow, a chain of garden centres
// that does not exist, for trying the program on. It is the same every time.
package sample

import (
	"bufio"
	"fmt"
	"io"
	"math/rand/v2"
	"slices"

	"roundyear/civil"
)

// The days of the sample: receipts run from FirstDay to the day before AsOf.
var (
	FirstDay = civil.MustOf(2024, civil.February, 1)
	AsOf     = civil.MustOf(2026, civil.March, 15)
)

// Readme is the text beside the files, by which a folder is known as a sample.
const Readme = `# Fernhollow

Sample data of a made-up chain of garden centres, written by roundyear demo. Its
fiscal year starts on 1 February; it also has a retail year of 52 or 53 weeks.

| file | contents |
|---|---|
| data/till-a.csv | receipts of two shops in Ireland; dates as 23/05/2025 10:15 |
| data/till-b.csv | receipts of Tullybrack; dates as 05/23/2025 10:15 AM |
| data/till-c.csv | receipts of the shops in the Netherlands; dates as 2025-05-23T10:15:42 |
| data/orders.csv | plant orders; some are not delivered yet |
| data/budget.csv | the budget of each shop by month, to the end of the fiscal year |
| roundyear.yaml | the year plan: how the year runs, and where the facts are |

Cloghvale was closed for refitting in March 2025; Heggenrade opened on 14 June
2025. In the Netherlands shops are closed on Sundays, except the first of the month;
all shops are closed at Christmas and New Year. Two receipts of Tullybrack have dates
that do not exist.
`

// Plan is the year plan of the business.
const Plan = `# The year plan of Fernhollow: how its year runs, and where its facts are.
# All commands in this folder use it. To check it: roundyear plan check
roundyear: 1

range:
  # From the earliest to the latest date of these, in whole years.
  cover: [sales.sold_at, orders.ordered, orders.delivered, budget.budget]

language: [en, nl]                  # names in English, and additional columns in Dutch
weeks: {first_day: monday, min_days: 4}
weekend: [saturday, sunday]

calendars:
  fiscal:                           # its columns and grains start with this name
    months: {starts: february}
    named_by: start
  retail:                           # whole weeks, for fair comparisons
    weeks: {ends_on: saturday, nearest_to: 31 january, split: 4-5-4, leap_week: last}
    named_by: start
    year_label: "R{year}"

days_off:
  - region: IE
  - {region: NL, prefix: nl}        # a separate set of columns
  - name: Stocktaking               # the company's own; the shops stay open
    when: {month: january, day: 5}
    move: [{from: saturday, by: 2}, {from: sunday, by: 1}]

sites:                              # when the shops are open; roundyear build --trading
  Ballyfern: {shuts: &always [{when: {month: january, day: 1}}, {when: {month: december, day: 25}}, {when: {month: december, day: 26}}]}
  Cloghvale: {shuts: *always, closures: {from: 2025-03-01, to: 2025-03-31, reason: refitting}}
  Tullybrack: {shuts: *always}
  # In the Netherlands shops are closed on Sundays, except the first of the month.
  Varenoord: {open: &workweek [mon, tue, wed, thu, fri, sat], opens: &sundays [{when: {weekday: sunday, nth: 1}}], shuts: *always}
  Lindewolde: {open: *workweek, opens: *sundays, shuts: *always}
  Heggenrade: {open: *workweek, opens: *sundays, shuts: *always, opened: 2025-06-14}

special_rows:
  unknown:                          # for facts without a date, with the key -1
  not_yet: {label: "Not delivered yet"}

clock:
  grain: 15 minutes
  parts: {early: "00:00", morning: "09:00", midday: "12:00", afternoon: "14:00", evening: "17:00"}

facts:
  sales:
    files: data/till-*.csv          # three tills, three date formats
    out: clean/sales.csv            # where normalise writes
    dates:
      sold_at: {}
  orders:
    files: data/orders.csv
    out: clean/orders.csv
    dates:
      ordered: {pattern: d MMM yyyy}
      delivered: {pattern: d MMM yyyy}
  budget:
    files: data/budget.csv
    out: clean/budget.csv
    dates:
      budget: {parts: [year, month, day], grain: month}

model:
  dimension:
    name: dates
    columns: [core, position, earlier, weeks, workdays, nl, fiscal, retail, names_nl]
    out: [dates.csv]
  joins: [sales.sold_at, orders.ordered, orders.delivered, budget.budget]

results:                            # roundyear run quarters
  quarters: {command: totals, inputs: sales, sum: amount, grain: fiscal.quarter, against: year-ago, as_of: 2026-03-15}
`

type shop struct {
	name    string
	till    string
	opened  civil.Day
	sundays bool
	// trade is how many receipts a plain day has, in tenths.
	trade int
}

var shops = []shop{
	{name: "Ballyfern", till: "a", sundays: true, trade: 100},
	{name: "Cloghvale", till: "a", sundays: true, trade: 78},
	{name: "Tullybrack", till: "b", sundays: true, trade: 88},
	{name: "Varenoord", till: "c", trade: 98},
	{name: "Lindewolde", till: "c", trade: 80},
	{name: "Heggenrade", till: "c", opened: civil.MustOf(2025, civil.June, 14), trade: 66},
}

// season is the trade of each month against a plain one, in percent.
var season = [...]int{55, 70, 115, 165, 180, 130, 95, 85, 90, 85, 80, 105}

var refitFirst, refitLast = civil.MustOf(2025, civil.March, 1), civil.MustOf(2025, civil.March, 31)

func (s shop) isOpen(day civil.Day) bool {
	_, month, dayOfMonth := day.Date()
	switch {
	case day < s.opened,
		s.name == "Cloghvale" && day >= refitFirst && day <= refitLast,
		month == civil.December && (dayOfMonth == 25 || dayOfMonth == 26),
		month == civil.January && dayOfMonth == 1:
		return false
	}
	return s.sundays || day.Weekday() != civil.Sunday || dayOfMonth <= 7
}

var departments = []struct {
	name        string
	low, spread int // of an amount, in cents
}{{"plants", 350, 6500}, {"pots", 490, 5200}, {"tools", 900, 9800}, {"furniture", 4900, 42000}, {"café", 280, 1900}}

// Write writes the files of the sample to what create gives for their paths,
// which have slashes, such as data/orders.csv.
func Write(create func(path string) (io.Writer, error)) error {
	for _, file := range []struct {
		name  string
		write func(io.Writer)
	}{
		{"README.md", func(w io.Writer) { io.WriteString(w, Readme) }},
		{"roundyear.yaml", func(w io.Writer) { io.WriteString(w, Plan) }},
		{"data/till-a.csv", func(w io.Writer) { writeTill(w, "a") }},
		{"data/till-b.csv", func(w io.Writer) { writeTill(w, "b") }},
		{"data/till-c.csv", func(w io.Writer) { writeTill(w, "c") }},
		{"data/orders.csv", writeOrders},
		{"data/budget.csv", writeBudget},
	} {
		out, err := create(file.name)
		if err != nil {
			return err
		}
		buffered := bufio.NewWriter(out)
		file.write(buffered)
		// A buffered writer keeps its first error.
		if err := buffered.Flush(); err != nil {
			return err
		}
	}
	return nil
}

// writeTill writes the receipts of the shops of one till system, in time order.
func writeTill(w io.Writer, till string) {
	fmt.Fprintln(w, "receipt,shop,sold_at,department,items,amount,note")
	random := rand.New(rand.NewPCG(2026, uint64(till[0])))
	number := 0
	for day := FirstDay; day < AsOf; day++ {
		for _, s := range shops {
			if s.till != till || !s.isOpen(day) {
				continue
			}
			for _, second := range s.sales(day, random) {
				number++
				department := departments[random.IntN(10)*random.IntN(10)*len(departments)/100]
				cents := department.low + random.IntN(department.spread)*(1+random.IntN(4))/3
				note := ""
				if random.IntN(40) == 0 {
					note = `"gift card, ""with thanks"""`
				}
				fmt.Fprintf(w, "%s-%06d,%s,%s,%s,%d,%d.%02d,%s\n", till, number, s.name, dateOf(till, number, day, second),
					department.name, 1+random.IntN(4), cents/100, cents%100, note)
			}
		}
	}
}

// sales returns the seconds of the day at which a shop sold something, in order.
func (s shop) sales(day civil.Day, random *rand.Rand) []int {
	_, month, dayOfMonth := day.Date()
	trade := s.trade * season[month-1] / 100
	if weekday := day.Weekday(); weekday >= civil.Saturday {
		trade = trade * 3 / 2
	}
	count := (trade + random.IntN(trade+1) - trade/2 + random.IntN(10)) / 10
	opens, closes := 9*3600, 18*3600
	if month == civil.June && dayOfMonth >= 20 && dayOfMonth <= 23 {
		closes = 24 * 3600 // midsummer nights
	}
	seconds := make([]int, count)
	for i := range seconds {
		seconds[i] = opens + random.IntN(closes-opens)
	}
	slices.Sort(seconds)
	return seconds
}

// dateOf writes a date as the till does.
func dateOf(till string, number int, day civil.Day, second int) string {
	year, month, dayOfMonth := day.Date()
	hour, minute := second/3600, second/60%60
	switch till {
	case "a":
		return fmt.Sprintf("%02d/%02d/%d %02d:%02d", dayOfMonth, month, year, hour, minute)
	case "b":
		half := "AM"
		if hour >= 12 {
			half = "PM"
		}
		if number == 2718 || number == 3141 {
			month, dayOfMonth = civil.February, 30
		}
		return fmt.Sprintf("%02d/%02d/%d %d:%02d %s", month, dayOfMonth, year, (hour+11)%12+1, minute, half)
	}
	return fmt.Sprintf("%sT%02d:%02d:%02d", day, hour, minute, second%60)
}

var plants = []string{"Boxleaf fern", "Dwarf quince", "Evening phlox", "Ivory heather", "Marsh iris", "Silver thyme"}

func writeOrders(w io.Writer) {
	fmt.Fprintln(w, "order,shop,plant,ordered,delivered,units,cost")
	random := rand.New(rand.NewPCG(2026, 'o'))
	for number, day := 1, FirstDay; day < AsOf; number, day = number+1, day+civil.Day(1+random.IntN(4)) {
		s := shops[random.IntN(len(shops))]
		if day < s.opened {
			s = shops[0]
		}
		delivered := ""
		if arrives := day + civil.Day(3+random.IntN(30)); arrives < AsOf {
			delivered = named(arrives)
		}
		units := 10 * (1 + random.IntN(30))
		cents := units * (120 + random.IntN(900))
		fmt.Fprintf(w, "P%04d,%s,%s,%s,%s,%d,%d.%02d\n", number, s.name, plants[random.IntN(len(plants))], named(day), delivered, units, cents/100, cents%100)
	}
}

func named(day civil.Day) string {
	year, month, dayOfMonth := day.Date()
	return fmt.Sprintf("%d %s %d", dayOfMonth, month.Short(), year)
}

// writeBudget writes a row a month and shop, up to the end of the fiscal year
// in which the sample ends.
func writeBudget(w io.Writer) {
	fmt.Fprintln(w, "shop,year,month,day,budget")
	for first := FirstDay; first < civil.MustOf(2027, civil.February, 1); first = first.AddMonths(1) {
		year, month, dayOfMonth := first.Date()
		for _, s := range shops {
			if first.AddMonths(1) <= s.opened {
				continue
			}
			fmt.Fprintf(w, "%s,%d,%d,%d,%d00.00\n", s.name, year, month, dayOfMonth, s.trade*season[month-1]/70)
		}
	}
}
