package check_test

import (
	"fmt"

	"roundyear/check"
	"roundyear/civil"
)

// A table takes the rows of a date table and reports what is wrong with its days.
func ExampleTable() {
	var table check.Table
	for line, text := range []string{"2026-03-01", "2026-03-02", "2026-03-02", "2026-03-06"} {
		day, err := civil.Parse(text)
		if err != nil {
			panic(err)
		}
		table.Add(check.Row{Line: line + 2, Text: text, Day: day, Read: true})
	}
	for _, fault := range table.Report().Faults {
		fmt.Println(fault.Kind, fault.First, fault.Last, fault.Lines)
	}
	// Output:
	// duplicate day 2026-03-02 2026-03-02 [3 4]
	// missing days 2026-03-03 2026-03-05 []
}
