package survey

import (
	"roundyear/calendar"
	"roundyear/civil"
)

// Step is what facts are of that are written as days: of whole weeks, months, quarters
// or years.
type Step struct {
	// Unit is Day where the days say nothing else.
	Unit calendar.Unit
	// Weekday is that of all days of weekly facts. AtEnd tells that coarser ones are
	// written as the last day of their period, and not the first.
	Weekday civil.Weekday
	AtEnd   bool
}

// How many different days tell quarters or years, and weeks, from chance. Two firsts of
// a month are enough for months.
const (
	minSteps = 3
	minWeeks = 4
)

// stepOf returns what facts are of that have just these days, which are in order.
func stepOf(days []civil.Day) Step {
	if len(days) < 2 {
		return Step{}
	}
	firsts, lasts, weekly := true, true, true
	sameMonth, sameThird := true, true
	_, month, _ := days[0].Date()
	for _, day := range days {
		_, own, dayOfMonth := day.Date()
		_, _, tomorrow := (day + 1).Date()
		firsts, lasts = firsts && dayOfMonth == 1, lasts && tomorrow == 1
		weekly = weekly && day.Weekday() == days[0].Weekday()
		sameMonth, sameThird = sameMonth && own == month, sameThird && (own-month)%3 == 0
	}
	enough := len(days) >= minSteps
	switch {
	case !firsts && !lasts:
		if weekly && len(days) >= minWeeks {
			return Step{Unit: calendar.Week, Weekday: days[0].Weekday()}
		}
		return Step{}
	case sameMonth && enough:
		return Step{Unit: calendar.Year, AtEnd: lasts}
	case sameThird && enough:
		return Step{Unit: calendar.Quarter, AtEnd: lasts}
	}
	return Step{Unit: calendar.Month, AtEnd: lasts}
}

// After counts the rows after a day and not after another.
func (p *Profile) After(day, last civil.Day) int {
	rows := 0
	for own, count := range p.own {
		if own > day && own <= last {
			rows += *count
		}
	}
	return rows
}
