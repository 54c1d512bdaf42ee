package cell_test

import (
	"fmt"

	"roundyear/cell"
	"roundyear/civil"
)

// A value knows its type and its text.
func ExampleValue() {
	for _, value := range []cell.Value{cell.OfDay(civil.MustOf(2026, civil.March, 15)), cell.OfBool(true), cell.OfDecimal("10.30"), cell.Blank} {
		fmt.Printf("%q %v\n", value, value.IsBlank())
	}
	// Output:
	// "2026-03-15" false
	// "true" false
	// "10.30" false
	// "" true
}
