// Package calendar cuts days into periods: months, quarters and years of the
// Gregorian and of fiscal calendars, and weeks by any week rule. All that
// speaks of periods asks through the Calendar interface, so a new kind of year
// is a new Calendar and no change elsewhere.
package calendar

import "roundyear/civil"

// Unit is a kind of period, whatever calendar cuts it.
type Unit int

// The units, from fine to coarse.
const (
	Day Unit = iota
	Week
	Month
	Quarter
	Half
	Year
)

var unitNames = [...]string{"day", "week", "month", "quarter", "half", "year"}

// String returns the unit's name as grains have it: "month".
func (u Unit) String() string { return unitNames[u] }

// Period is one unit of a calendar.
type Period struct {
	Unit Unit
	// Number runs through all time without a jump: the next period of the
	// unit has the next number, also where a year ends.
	Number int
	// Year is the year the period belongs to, as its calendar names it.
	Year int
	// InYear is the period's number within its year, from 1.
	InYear int
	// First and Last are its first and last day.
	First, Last civil.Day
}

// Days returns the number of days of the period.
func (p Period) Days() int { return int(p.Last-p.First) + 1 }

// Contains tells whether a day lies in the period.
func (p Period) Contains(day civil.Day) bool { return p.First <= day && day <= p.Last }

// Calendar cuts days into periods. For each of its units the periods touch:
// every day lies in exactly one of them.
type Calendar interface {
	// Name stands before the names of the calendar's grains and columns.
	Name() string
	// Units lists what the calendar cuts days into, from coarse to fine.
	Units() []Unit
	// Locate returns the period of a unit that holds a day.
	Locate(Unit, civil.Day) Period
	// At returns the period of a unit by its running number.
	At(Unit, int) Period
	// Label names a period for people. Labels of one unit sort in time order
	// as text, as long as years have four digits in them.
	Label(Period) string
}

// numbered returns the running number of a period of which every year holds
// the same count.
func numbered(year, inYear, perYear int) int { return year*perYear + inYear - 1 }

func floorDiv(a, b int) int {
	quotient := a / b
	if a%b != 0 && (a < 0) != (b < 0) {
		quotient--
	}
	return quotient
}
