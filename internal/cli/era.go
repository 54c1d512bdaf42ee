package cli

import (
	"fmt"

	"roundyear/civil"
	"roundyear/internal/report"
)

// firstOfOtherEra is the first year that is more likely one of another era than a date of business: no plan reaches as far, and the Buddhist
// era is 543 years ahead.
const firstOfOtherEra = 2400

// tellOtherEra says so of dates that all seem to count their years in another era.
func tellOtherEra(r *report.Report, name string, first, last civil.Day) {
	if first.Year() < firstOfOtherEra {
		return
	}
	years := fmt.Sprint(first.Year())
	if last.Year() > first.Year() {
		years += fmt.Sprintf(" to %d", last.Year())
	}
	if name != "" {
		name += ": "
	}
	r.Attention("%sall dates are in %s, perhaps years of another era (the Buddhist era is 543 years ahead). Convert them first", name, years)
}
