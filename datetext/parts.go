package datetext

import (
	"fmt"

	"roundyear/civil"
)

// ReadParts reads a day that stands in three columns: a year of four digits, a
// month by number or English name, and a day of the month. The reason is empty
// when they make a day, and says in words why they do not.
func ReadParts(year, month, dayOfMonth []byte) (day civil.Day, reason string) {
	year, month, dayOfMonth = trim(year), trim(month), trim(dayOfMonth)
	y, width := scanNumber(year, 4, 4)
	if width == 0 || width != len(year) {
		return 0, fmt.Sprintf("the year %q is not a four-digit number", year)
	}
	m, width := scanNumber(month, 1, 2)
	if width == 0 || width != len(month) {
		if m = int(anyMonth(month)); m == 0 {
			return 0, fmt.Sprintf("the month %q is neither a number nor a name", month)
		}
	}
	d, width := scanNumber(dayOfMonth, 1, 2)
	if width == 0 || width != len(dayOfMonth) {
		return 0, fmt.Sprintf("the day %q is not a number of one or two digits", dayOfMonth)
	}
	day, ok := civil.Of(y, civil.Month(m), d)
	if !ok {
		return 0, civil.WhyNoDay(y, civil.Month(m), d)
	}
	return day, ""
}
