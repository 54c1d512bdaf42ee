package facts_test

import (
	"fmt"

	"roundyear/calendar"
	"roundyear/civil"
	"roundyear/facts"
)

// A tally adds facts up by period and group. Its result has every period; those
// without facts are filled.
func ExampleTally() {
	tally := facts.NewTally(facts.Operation{
		Grain:    calendar.Grain{Calendar: calendar.Gregorian(), Unit: calendar.Month},
		Groups:   []string{"shop"},
		Measures: []facts.Measure{{Kind: facts.Sum, Name: "amount", Gap: facts.Zero}},
		AsOf:     civil.MustOf(2026, civil.December, 31),
	})
	for row, fact := range []struct {
		day          civil.Day
		shop, amount string
	}{
		{civil.MustOf(2026, civil.January, 5), "Ballyfern", "10.10"},
		{civil.MustOf(2026, civil.January, 31), "Ballyfern", "0.20"},
		{civil.MustOf(2026, civil.March, 1), "Ballyfern", "3"},
	} {
		place := facts.Place{Day: fact.day, Row: int64(row)}
		if err := tally.Add(fact.day, place, [][]byte{[]byte(fact.shop)}, [][]byte{[]byte(fact.amount)}); err != nil {
			panic(err)
		}
	}
	result, err := tally.Result()
	if err != nil {
		panic(err)
	}
	for row := range result.Rows() {
		fmt.Println(row[0], row[3], row[4], row[5])
	}
	// Output:
	// 2026-01 Ballyfern 10.30 false
	// 2026-02 Ballyfern 0.00 true
	// 2026-03 Ballyfern 3.00 false
}
