package yearplan_test

import (
	"fmt"

	"roundyear/calendar"
	"roundyear/civil"
	"roundyear/yearplan"
)

// A plan is read from YAML and gives the calendars of a business.
func ExampleRead() {
	plan, err := yearplan.Read("roundyear.yaml", []byte(`
roundyear: 1
calendars:
  retail:
    weeks: {ends_on: saturday, nearest_to: 31 january, split: 4-5-4}
    named_by: start
`))
	if err != nil {
		panic(err)
	}
	set, err := plan.Set()
	if err != nil {
		panic(err)
	}
	retail := set.Fiscal[0]
	year := retail.Locate(calendar.Year, civil.MustOf(2026, civil.March, 15))
	fmt.Println(retail.Label(year), year.First, year.Last)
	_, err = yearplan.Read("roundyear.yaml", []byte("roundyear: 1\nweks: {}\n"))
	fmt.Println(err)
	// Output:
	// FY2026 2026-02-01 2027-01-30
	// roundyear.yaml, line 2, column 1: unknown key "weks" in the plan. Did you mean weeks?
}
