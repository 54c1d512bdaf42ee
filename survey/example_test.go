package survey_test

import (
	"fmt"

	"roundyear/civil"
	"roundyear/datetext"
	"roundyear/survey"
)

// A profile tells what a column of dates contains: its range, its gaps, and
// placeholder dates.
func ExampleProfile() {
	profile := survey.New()
	for _, text := range []string{"2026-03-01", "2026-03-02", "2026-03-05", "2026-03-05", "9999-12-31"} {
		day, err := civil.Parse(text)
		if err != nil {
			panic(err)
		}
		profile.Add(datetext.Moment{Day: day})
	}
	summary, _ := profile.Summary()
	fmt.Println(summary.First, summary.Last, summary.Rows)
	for _, gap := range summary.MissingDays {
		fmt.Println("gap:", gap.First, gap.Last)
	}
	fmt.Println("placeholder:", summary.Sentinels[0].Day)
	// Output:
	// 2026-03-01 2026-03-05 5
	// gap: 2026-03-03 2026-03-04
	// placeholder: 9999-12-31
}
