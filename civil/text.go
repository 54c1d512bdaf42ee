package civil

import (
	"fmt"
	"strconv"
	"strings"
)

// String returns the date as ISO 8601 writes it: 2026-03-01.
func (d Day) String() string {
	return string(d.AppendText(make([]byte, 0, 10)))
}

// AppendText appends the date as ISO 8601 writes it and returns the longer
// slice. A day outside MinDay to MaxDay is written as its count.
func (d Day) AppendText(text []byte) []byte {
	if d < MinDay || d > MaxDay {
		return fmt.Appendf(text, "day %d", int32(d))
	}
	year, month, day := d.Date()
	return append(text,
		byte('0'+year/1000), byte('0'+year/100%10), byte('0'+year/10%10), byte('0'+year%10), '-',
		byte('0'+month/10), byte('0'+month%10), '-',
		byte('0'+day/10), byte('0'+day%10))
}

// Parse reads an ISO 8601 date in the extended form, such as 2026-03-01, and
// nothing else. The error says what is wrong with the text.
func Parse(text string) (Day, error) {
	if len(text) != 10 || text[4] != '-' || text[7] != '-' {
		return 0, fmt.Errorf("%q is not a date such as 2026-03-01", text)
	}
	var numbers [3]int
	for i, field := range []string{text[:4], text[5:7], text[8:]} {
		for _, digit := range []byte(field) {
			if digit < '0' || digit > '9' {
				return 0, fmt.Errorf("%q is not a date such as 2026-03-01", text)
			}
			numbers[i] = numbers[i]*10 + int(digit-'0')
		}
	}
	year, month, dayOfMonth := numbers[0], Month(numbers[1]), numbers[2]
	day, ok := Of(year, month, dayOfMonth)
	if !ok {
		return 0, fmt.Errorf("%q is not a day: %s", text, WhyNoDay(year, month, dayOfMonth))
	}
	return day, nil
}

// WhyNoDay says in words why there is no such day. It is empty if there is.
func WhyNoDay(year int, month Month, dayOfMonth int) string {
	switch {
	case year < 1 || year > 9999:
		return fmt.Sprintf("the year %d is not from 1 to 9999", year)
	case month < January || month > December:
		return fmt.Sprintf("there is no month %d", int(month))
	case dayOfMonth < 1:
		return fmt.Sprintf("there is no day %d", dayOfMonth)
	case dayOfMonth > DaysIn(year, month):
		return fmt.Sprintf("%s %d has %d days", month, year, DaysIn(year, month))
	}
	return ""
}

// ParseWeekday reads the English name of a weekday, wide or of three letters, in any case.
func ParseWeekday(text string) (Weekday, bool) {
	for weekday := Monday; weekday <= Sunday; weekday++ {
		if strings.EqualFold(text, weekday.String()) || strings.EqualFold(text, weekday.Short()) {
			return weekday, true
		}
	}
	return 0, false
}

// ParseMonth reads a month by its number, or by its English name, wide or of three letters, in any
// case.
func ParseMonth(text string) (Month, bool) {
	if number, err := strconv.Atoi(text); err == nil && number >= 1 && number <= 12 {
		return Month(number), true
	}
	for month := January; month <= December; month++ {
		if strings.EqualFold(text, month.String()) || strings.EqualFold(text, month.Short()) {
			return month, true
		}
	}
	return 0, false
}
