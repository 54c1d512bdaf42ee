package daysoff

import "roundyear/civil"

// DayType is what a day is to a set of days off, by what matters most.
type DayType int

// The types of days.
const (
	OrdinaryDay DayType = iota
	WeekendDay
	// WorkedDay is a day of the weekend that is worked.
	WorkedDay
	// OffDay is one taken off, ExpectedDay one that is not announced yet, HalfDay one of which
	// half is.
	OffDay
	ExpectedDay
	HalfDay
	// OtherDay is one that is taken on another day, or no day off but marked.
	OtherDay
)

// TypeOf returns the type of a day.
func (s *Set) TypeOf(day civil.Day) DayType {
	off, expected, half := false, true, false
	for _, one := range s.Taken(day) {
		switch {
		case !one.Rule.Kind.IsOff():
		case one.Rule.Half:
			half = true
		default:
			off, expected = true, expected && one.IsExpected()
		}
	}
	switch {
	case off && expected:
		return ExpectedDay
	case off:
		return OffDay
	case s.IsWeekend(day) && s.IsWorkday(day):
		return WorkedDay
	case half:
		return HalfDay
	case len(s.Falling(day)) > 0 || len(s.Taken(day)) > 0:
		return OtherDay
	case s.IsWeekend(day):
		return WeekendDay
	}
	return OrdinaryDay
}
