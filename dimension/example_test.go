package dimension_test

import (
	"fmt"

	"roundyear/calendar"
	"roundyear/civil"
	"roundyear/dimension"
)

// A catalogue lists the attributes that depend on the calendars of a business, gives
// their values day by day, and explains them.
func ExampleCatalogue() {
	fiscal, err := calendar.NewFiscalMonths(calendar.FiscalMonths{Name: "fiscal", Starts: civil.February, NamedBy: calendar.ByStart, Weeks: calendar.ISOWeeks})
	if err != nil {
		panic(err)
	}
	set, err := calendar.NewSet(calendar.ISOWeeks, fiscal)
	if err != nil {
		panic(err)
	}
	catalogue, err := dimension.NewCatalogue(dimension.Settings{Calendars: set, AsOf: civil.MustOf(2026, civil.March, 15)})
	if err != nil {
		panic(err)
	}
	attributes, err := catalogue.Select([]string{"date", "day_short", "fiscal_month_label", "iso_week_label"})
	if err != nil {
		panic(err)
	}
	for row := range catalogue.Days(attributes, civil.MustOf(2026, civil.January, 31), civil.MustOf(2026, civil.February, 2)) {
		fmt.Println(row[0], row[1], row[2], row[3])
	}
	fmt.Println(catalogue.Explain(attributes[2:3], civil.MustOf(2026, civil.February, 1))[0].Because)
	// Output:
	// 2026-01-31 Sat FY2025 P12 2026-W05
	// 2026-02-01 Sun FY2026 P01 2026-W05
	// 2026-02-02 Mon FY2026 P01 2026-W06
	// the year starts in February; February is its 1st month; this is its label in the calendar, so FY2026 P01
}
