package astronomy_test

import (
	"fmt"
	"time"

	"roundyear/astronomy"
)

// The March equinox is the moment at which the sun's longitude is 0 degrees.
func ExampleSunAt() {
	start := astronomy.MomentOf(time.Date(2026, 3, 1, 0, 0, 0, 0, time.UTC))
	equinox := astronomy.SunAt(0, start)
	published := astronomy.MomentOf(time.Date(2026, 3, 20, 14, 46, 0, 0, time.UTC))
	minutes := float64(equinox-published) * 24 * 60
	fmt.Println(minutes > -1 && minutes < 1)
	// Output: true
}
