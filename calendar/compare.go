package calendar

import "roundyear/civil"

// YearAgo returns the day of the year before at the same place: the same day
// of the same month of a month-based year, and the same weekday of the week
// with the same number of a week-based one. It is false when the year before
// has no such place, as for week 53.
func YearAgo(c Calendar, day civil.Day) (civil.Day, bool) {
	switch c := c.(type) {
	case *Months:
		return day.AddMonths(-12), true
	case *WeekYears:
		year := c.Locate(Year, day)
		before := c.At(Year, year.Number-1)
		ago := before.First + (day - year.First)
		return ago, ago <= before.Last
	case *Sequence:
		part := c.partOf(day)
		if ago, ok := YearAgo(part.Calendar, day); ok && ago >= part.first {
			return ago, true
		}
	}
	// By number of the period and of the day in it.
	year, month := c.Locate(Year, day), c.Locate(Month, day)
	before := c.At(Year, year.Number-1)
	if before.Last != year.First-1 {
		return 0, false
	}
	same := c.Locate(Month, before.First)
	for same.InYear < month.InYear && same.Last < before.Last {
		same = c.Locate(Month, same.Last+1)
	}
	return min(same.First+(day-month.First), same.Last), same.InYear == month.InYear
}

// YearAgoRestated returns the day 364 days earlier, on the same weekday, if it
// lies in the year before. Of a week-based calendar this is last year restated
// so that it begins as many weeks later as a leap week has moved it.
func YearAgoRestated(c Calendar, day civil.Day) (civil.Day, bool) {
	ago := day - 364
	return ago, c.Locate(Year, ago).Number == c.Locate(Year, day).Number-1
}

// IsWeekBased tells whether the years are whole weeks, so that a year with a
// leap week can be restated.
func IsWeekBased(c Calendar) bool {
	switch c := c.(type) {
	case *WeekYears:
		return true
	case *Sequence:
		return IsWeekBased(c.parts[len(c.parts)-1].Calendar)
	}
	return false
}

// ToDate returns the last day of a period that is to date: at the place that
// the as-of date has in its own period of the unit. In calendars of months that
// is the same day of the same month of the period, in all others the same day
// by number. Both are cut to the period's end.
func ToDate(c Calendar, unit Unit, asOf civil.Day, period Period) civil.Day {
	if months, ok := c.(*Months); ok && unit > Week {
		return months.toDate(unit, asOf, period)
	}
	if sequence, ok := c.(*Sequence); ok && sequence.partOf(asOf) == sequence.partOf(period.First) {
		part := sequence.partOf(asOf)
		return min(ToDate(part.Calendar, unit, asOf, part.Locate(unit, period.First)), period.Last)
	}
	return min(period.First+(asOf-c.Locate(unit, asOf).First), period.Last)
}

func (c *Months) toDate(unit Unit, asOf civil.Day, period Period) civil.Day {
	own, month := c.Locate(unit, asOf), c.Locate(Month, asOf)
	first := c.Locate(Month, period.First)
	same := c.At(Month, first.Number+month.Number-c.Locate(Month, own.First).Number)
	if same.First > period.Last {
		return period.Last
	}
	return min(same.First+(asOf-month.First), same.Last, period.Last)
}
