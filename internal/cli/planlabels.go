package cli

import (
	"strings"

	"roundyear/calendar"
	"roundyear/civil"
)

// noteUnsorted says which labels of the plan's calendars sort as text in another order than their periods, such as P10 before P2.
func (a *App) noteUnsorted(set *calendar.Set, today civil.Day) {
	for _, of := range set.Fiscal {
		for _, unit := range of.Units() {
			grain := calendar.Grain{Calendar: of, Unit: unit}
			if before, after, found := unsorted(grain, of.Locate(calendar.Year, today)); found {
				a.report().Note("labels of %s sort as text with %s before %s; with two digits, such as {period:02}, they sort right everywhere", grain, after, before)
			}
		}
	}
}

// unsorted returns the first two labels of periods of a year that differ in a number only and sort the other way round.
func unsorted(grain calendar.Grain, year calendar.Period) (before, after string, found bool) {
	for day := year.First; ; {
		period := grain.Locate(day)
		if day = period.Last + 1; day > year.Last {
			return "", "", false
		}
		before, after = grain.Label(period), grain.Label(grain.Locate(day))
		if before > after && withoutDigits(before) == withoutDigits(after) {
			return before, after, true
		}
	}
}

func withoutDigits(label string) string {
	return strings.Map(func(r rune) rune {
		if r >= '0' && r <= '9' {
			return -1
		}
		return r
	}, label)
}
