// Package civiltest has days for tests.
package civiltest

import "roundyear/civil"

// Day is a day that is known to be one, such as 2026-03-15.
func Day(text string) civil.Day {
	day, err := civil.Parse(text)
	if err != nil {
		panic(err)
	}
	return day
}
