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
	Trimester
	Third
	Half
	Year
)

var unitNames = [...]string{"day", "week", "month", "quarter", "trimester", "third", "half", "year"}

// String returns the unit's name as grains have it: "month".
func (u Unit) String() string { return unitNames[u] }

// Plural returns the name of several: "months", "halves".
func (u Unit) Plural() string {
	if u == Half {
		return "halves"
	}
	return u.String() + "s"
}

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
	// Label names a period for people. The default labels of one unit sort in
	// time order as text.
	Label(Period) string
	// Code names a period within its year: Q1, P02, W07; a year by its label.
	Code(Period) string
	// Rule says in words how the calendar's years run, and how they are named.
	Rule() string
	// Explain says in words and numbers how the period of a unit that holds a
	// day is found, up to its number.
	Explain(Unit, civil.Day) string
}

// Bounded is a calendar that knows only the years that were declared for it.
type Bounded interface {
	// Bounds returns the first and the last day that it knows. What it says
	// of others means nothing.
	Bounds() (first, last civil.Day)
}

// MonthNamer is a calendar of which each month goes by the name of one
// Gregorian month in all years.
type MonthNamer interface {
	// MonthName returns the Gregorian month that a month of the year, from 1,
	// goes by.
	MonthName(inYear int) civil.Month
	// NamesMonths tells whether the calendar's months have such names.
	NamesMonths() bool
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
