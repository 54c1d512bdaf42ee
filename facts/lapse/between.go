package lapse

import (
	"roundyear/civil"
)

// Moment is a day and the nanoseconds of it after midnight.
type Moment struct {
	Day   civil.Day
	Nanos int64
}

// IsBefore tells whether it comes before another one.
func (m Moment) IsBefore(other Moment) bool {
	return m.Day < other.Day || m.Day == other.Day && m.Nanos < other.Nanos
}

// Calendar tells which days count, and how long is worked on them.
type Calendar interface {
	// Number returns how many days count from a day in the past on up to a day, that in. Only differences mean something.
	Number(civil.Day) int
	// Worked returns how many seconds of opening hours there are from a day in the past on up to a moment.
	Worked(Moment) int64
}

// Measure says how time is measured.
type Measure struct {
	Unit Unit
	Ends Ends
}

// Between returns the time from one moment to another, in units of the unit's decimals; it is negative if the second comes first. The
// calendar is asked for workdays, trading days and business hours.
func (m Measure) Between(from, to Moment, of Calendar) int64 {
	if m.IsBackward(from, to) {
		return -m.Between(to, from, of)
	}
	switch m.Unit {
	case Workdays, TradingDays:
		return m.count(from.Day, to.Day, of.Number)
	case Weeks:
		return int64(to.Day-from.Day) / 7
	case Months:
		return wholeMonths(from.Day, to.Day)
	case Years:
		return wholeMonths(from.Day, to.Day) / 12
	case Hours:
		const perDay = 24 * 60 * 60 * 1e9
		return hundredths(int64(to.Day-from.Day)*perDay+to.Nanos-from.Nanos, 60*60*1e9)
	case BusinessHours:
		return hundredths(of.Worked(to)-of.Worked(from), 60*60)
	}
	return m.count(from.Day, to.Day, func(day civil.Day) int { return int(day) })
}

// IsBackward tells whether the end comes before the start: on an earlier day, or for hours, at an earlier moment. Of two moments of one day,
// of which one may have no time, no unit of days says that.
func (m Measure) IsBackward(start, end Moment) bool {
	if m.Unit == Hours || m.Unit == BusinessHours {
		return end.IsBefore(start)
	}
	return end.Day < start.Day
}

// count counts days of a kind from one to another by their running numbers.
func (m Measure) count(from, to civil.Day, number func(civil.Day) int) int64 {
	first, last := from, to
	switch m.Ends {
	case LaterEnd:
		first++
	case EarlierEnd:
		last--
	case NoEnds:
		first, last = first+1, last-1
	}
	if last < first {
		return 0
	}
	return int64(number(last) - number(first-1))
}

// wholeMonths returns how many months have passed. One that would end on a day that its month does not have ends on the month's last.
func wholeMonths(from, to civil.Day) int64 {
	fromYear, fromMonth, _ := from.Date()
	toYear, toMonth, _ := to.Date()
	months := (toYear-fromYear)*12 + int(toMonth) - int(fromMonth)
	if from.AddMonths(months) > to {
		months--
	}
	return int64(months)
}

// hundredths divides and rounds to the hundredth, half up.
func hundredths(count, perUnit int64) int64 {
	whole, rest := count/perUnit, count%perUnit
	return whole*100 + (rest*200+perUnit)/(2*perUnit)
}

// barren is how many days in a row none counts where there are none.
const barren = 36525

// Add returns the day so many days of a kind after another one, or before it; it is false if there are not so many within ten thousand
// years, or none in a hundred. Zero days after a day it is that day.
func Add(day civil.Day, days int, of Calendar) (civil.Day, bool) {
	if days == 0 {
		return day, true
	}
	wanted := of.Number(day) + days
	if days <= 0 && of.Number(day)-of.Number(day-1) == 0 {
		wanted++ // it counts from the next one on
	}
	// The first day whose number is the wanted one: between those that surely come before and after it.
	low, high, step := day, day, civil.Day(max(days, -days, 1))
	for of.Number(high) < wanted {
		if low = high; high > civil.MaxDay-step || high-day > barren && of.Number(high) == of.Number(day) {
			return 0, false
		}
		high, step = high+step, step*2
	}
	for step = civil.Day(max(days, -days, 1)); of.Number(low) >= wanted; step *= 2 {
		if high = low; low < civil.MinDay+step || day-low > barren && of.Number(low) == of.Number(day) {
			return 0, false
		}
		low -= step
	}
	for low+1 < high {
		if middle := low + (high-low)/2; of.Number(middle) >= wanted {
			high = middle
		} else {
			low = middle
		}
	}
	return high, true
}
