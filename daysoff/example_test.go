package daysoff_test

import (
	"fmt"

	"roundyear/civil"
	"roundyear/daysoff"
)

// A recurrence rule as RFC 5545 has it gives its days in any year.
func ExampleParseRecurrence() {
	rule, err := daysoff.ParseRecurrence("FREQ=YEARLY;BYMONTH=5;BYDAY=-1MO")
	if err != nil {
		panic(err)
	}
	fmt.Println(rule.In(2026), rule.In(2027))
	// Output: [2026-05-25] [2027-05-31]
}

// A set knows which days are off, and on which they are taken.
func ExampleSet() {
	christmas := &daysoff.Rule{Name: "Christmas Day", Kind: daysoff.Statutory, When: daysoff.OnDate{Month: civil.December, Day: 25}}
	set := daysoff.NewSet([]*daysoff.Rule{christmas}, []civil.Weekday{civil.Saturday, civil.Sunday})
	for day := civil.MustOf(2026, civil.December, 24); day <= civil.MustOf(2026, civil.December, 27); day++ {
		fmt.Println(day, set.IsWorkday(day))
	}
	// Output:
	// 2026-12-24 true
	// 2026-12-25 false
	// 2026-12-26 false
	// 2026-12-27 false
}
