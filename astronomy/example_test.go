package astronomy_test

import (
	"fmt"
	"time"

	"roundyear/astronomy"
)

// The March equinox is the moment at which the sun's longitude is 0 degrees.
func ExampleSunAt() {
	start := astronomy.Moment(20513) // 2026-03-01, 0 hours
	fmt.Println(astronomy.SunAt(0, start).Time().Round(time.Minute).Format(time.DateTime))
	// Output: 2026-03-20 14:46:00
}
