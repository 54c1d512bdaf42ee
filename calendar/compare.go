package calendar

import "roundyear/civil"

// Comparer is a calendar that says by itself which days of its years correspond. Those
// that do not are compared by the number of the period and of the day in it.
type Comparer interface {
	// YearAgo returns the day of the previous year that corresponds to a day; it is false
	// if there is none.
	YearAgo(day civil.Day) (civil.Day, bool)
	// ToDate returns the last day of a period that is to date, at the position that the
	// as-of date has in its own period of the unit.
	ToDate(unit Unit, asOf civil.Day, period Period) civil.Day
	// IsWeekBased tells whether the years are whole weeks, so that a year with a leap week
	// can be restated.
	IsWeekBased() bool
}

// YearAgo returns the day of the year before at the same place: the same day
// of the same month of a month-based year, and the same weekday of the week
// with the same number of a week-based one. It is false when the year before
// has no such place, as for week 53.
func YearAgo(c Calendar, day civil.Day) (civil.Day, bool) {
	if comparer, ok := c.(Comparer); ok {
		return comparer.YearAgo(day)
	}
	return yearAgoByNumber(c, day)
}

// yearAgoByNumber compares by the number of the period and of the day in it.
func yearAgoByNumber(c Calendar, day civil.Day) (civil.Day, bool) {
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
	comparer, ok := c.(Comparer)
	return ok && comparer.IsWeekBased()
}

// HasLeapWeeks tells whether some years of a calendar have a week more than others: those of whole weeks, and week years such as that of ISO 8601.
func HasLeapWeeks(c Calendar) bool {
	_, isWeeks := c.(*Weeks)
	return isWeeks || IsWeekBased(c)
}

// ToDate returns the last day of a period that is to date: at the place that
// the as-of date has in its own period of the unit. In calendars of months that
// is the same day of the same month of the period, in all others the same day
// by number. Both are cut to the period's end.
func ToDate(c Calendar, unit Unit, asOf civil.Day, period Period) civil.Day {
	if comparer, ok := c.(Comparer); ok {
		return comparer.ToDate(unit, asOf, period)
	}
	return toDateByNumber(c, unit, asOf, period)
}

func toDateByNumber(c Calendar, unit Unit, asOf civil.Day, period Period) civil.Day {
	return min(period.First+(asOf-c.Locate(unit, asOf).First), period.Last)
}

// IsCalendarYear tells whether the years of a calendar are those of the Gregorian one.
func IsCalendarYear(c Calendar) bool {
	gregorian, ok := c.(interface{ IsCalendarYear() bool })
	return ok && gregorian.IsCalendarYear()
}

// YearAgo returns the same day of the same month of the year before.
func (c *Months) YearAgo(day civil.Day) (civil.Day, bool) { return day.AddMonths(-12), true }

// IsWeekBased is false: months are not whole weeks.
func (c *Months) IsWeekBased() bool { return false }

// ToDate goes by the same day of the same month, of units that are made of months.
func (c *Months) ToDate(unit Unit, asOf civil.Day, period Period) civil.Day {
	if unit <= Week {
		return toDateByNumber(c, unit, asOf, period)
	}
	own, month := c.Locate(unit, asOf), c.Locate(Month, asOf)
	first := c.Locate(Month, period.First)
	same := c.At(Month, first.Number+month.Number-c.Locate(Month, own.First).Number)
	if same.First > period.Last {
		return period.Last
	}
	return min(same.First+(asOf-month.First), same.Last, period.Last)
}

// YearAgo returns the same weekday of the week with the same number of the year before.
func (c *WeekYears) YearAgo(day civil.Day) (civil.Day, bool) {
	year := c.Locate(Year, day)
	before := c.At(Year, year.Number-1)
	ago := before.First + (day - year.First)
	return ago, ago <= before.Last
}

// IsWeekBased is true.
func (c *WeekYears) IsWeekBased() bool { return true }

// ToDate goes by the number of the day.
func (c *WeekYears) ToDate(unit Unit, asOf civil.Day, period Period) civil.Day {
	return toDateByNumber(c, unit, asOf, period)
}

// YearAgo compares within a part by its own rule, and across a change by numbers.
func (c *Sequence) YearAgo(day civil.Day) (civil.Day, bool) {
	part := c.partOf(day)
	if ago, ok := YearAgo(part.Calendar, day); ok && ago >= part.first {
		return ago, true
	}
	return yearAgoByNumber(c, day)
}

// IsWeekBased is what the last part is.
func (c *Sequence) IsWeekBased() bool { return IsWeekBased(c.parts[len(c.parts)-1].Calendar) }

// ToDate compares within a part by its own rule, and across a change by numbers.
func (c *Sequence) ToDate(unit Unit, asOf civil.Day, period Period) civil.Day {
	if part := c.partOf(asOf); part == c.partOf(period.First) {
		return min(ToDate(part.Calendar, unit, asOf, part.Locate(unit, period.First)), period.Last)
	}
	return toDateByNumber(c, unit, asOf, period)
}
