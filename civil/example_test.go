package civil_test

import (
	"fmt"

	"roundyear/civil"
)

// A day is a count: differences are subtractions.
func ExampleDay() {
	ordered, delivered := civil.MustOf(2026, civil.February, 26), civil.MustOf(2026, civil.March, 2)
	fmt.Println(int(delivered-ordered), "days, from", ordered.Weekday(), "to", delivered.Weekday())
	fmt.Println(ordered.AddMonths(1), ordered.Key())
	// Output:
	// 4 days, from Thursday to Monday
	// 2026-03-26 20260226
}

func ExampleParse() {
	day, err := civil.Parse("2026-03-01")
	fmt.Println(day, err)
	_, err = civil.Parse("2026-02-30")
	fmt.Println(err != nil)
	// Output:
	// 2026-03-01 <nil>
	// true
}
