package calendar_test

import (
	"fmt"

	"roundyear/calendar"
	"roundyear/civil"
)

// Months make a fiscal year that starts in any month.
func ExampleMonths() {
	fiscal, err := calendar.NewFiscalMonths(calendar.FiscalMonths{Name: "fiscal", Starts: civil.February, StartDay: 1, NamedBy: calendar.ByStart, Weeks: calendar.ISOWeeks})
	if err != nil {
		panic(err)
	}
	day := civil.MustOf(2026, civil.January, 31)
	for _, unit := range []calendar.Unit{calendar.Year, calendar.Quarter, calendar.Month} {
		period := fiscal.Locate(unit, day)
		fmt.Println(fiscal.Label(period), period.First, period.Last)
	}
	// Output:
	// FY2025 2025-02-01 2026-01-31
	// FY2025 Q4 2025-11-01 2026-01-31
	// FY2025 P12 2026-01-01 2026-01-31
}

// Weeks of ISO 8601 belong to the year that has most of their days.
func ExampleISO() {
	iso := calendar.ISO()
	week := iso.Locate(calendar.Week, civil.MustOf(2027, civil.January, 1))
	fmt.Println(iso.Label(week), week.First, week.Last)
	// Output: 2026-W53 2026-12-28 2027-01-03
}
