package calendar

import (
	"errors"
	"fmt"

	"roundyear/civil"
)

// NamedBy says which Gregorian year gives a fiscal year its number.
type NamedBy int

// A fiscal year is numbered by the year in which it ends, or starts.
const (
	ByEnd NamedBy = iota
	ByStart
)

// String returns "end" or "start".
func (n NamedBy) String() string {
	if n == ByStart {
		return "start"
	}
	return "end"
}

// Months is a calendar whose year is twelve whole months from the first day
// of any month. The Gregorian calendar is the one that starts in January.
type Months struct {
	name      string
	starts    civil.Month
	namedBy   NamedBy
	yearLabel Template
	labels    [Year + 1]Template
	units     []Unit
	weeks     *cutWeeks
}

// Gregorian returns the calendar year: days, months, quarters, halves and
// years with labels as ISO 8601 has them (2026-03) or like them (2026 Q1).
func Gregorian() *Months {
	return &Months{
		name: "year", starts: civil.January,
		yearLabel: mustTemplate("{year}"),
		labels: [Year + 1]Template{
			Month: mustTemplate("{year}-{period:02}"), Quarter: mustTemplate("{year} Q{period}"),
			Half: mustTemplate("{year} H{period}"), Year: mustTemplate("{year}"),
		},
		units: []Unit{Year, Half, Quarter, Month, Day},
	}
}

// FiscalMonths describes a month-based fiscal calendar.
type FiscalMonths struct {
	// Name stands before the calendar's grains and columns.
	Name string
	// Starts is the month in which the year starts.
	Starts civil.Month
	// NamedBy says which Gregorian year numbers the fiscal year.
	NamedBy NamedBy
	// YearLabel is the template of a year's label; empty means FY{year}.
	YearLabel string
	// Weeks is the rule of the weeks that the fiscal weeks are cut from.
	Weeks WeekRule
}

// NewFiscalMonths returns the calendar of a description. The error says what
// is wrong with it.
func NewFiscalMonths(fiscal FiscalMonths) (*Months, error) {
	if fiscal.Name == "" {
		return nil, errors.New("a fiscal calendar needs a name")
	}
	if fiscal.Starts < civil.January || fiscal.Starts > civil.December {
		return nil, fmt.Errorf("a fiscal year starts in a month from 1 to 12, not %d", int(fiscal.Starts))
	}
	if fiscal.YearLabel == "" {
		fiscal.YearLabel = "FY{year}"
	}
	yearLabel, err := ParseTemplate(fiscal.YearLabel)
	if err != nil {
		return nil, err
	}
	if !yearLabel.tellsYears() {
		return nil, fmt.Errorf("label %q is the same for every year: put {year}, {yy}, {start}, {start_yy}, {end} or {end_yy} in it", fiscal.YearLabel)
	}
	if yearLabel.uses("period") || yearLabel.uses("year_label") {
		return nil, fmt.Errorf("label %q: {period} and {year_label} have no meaning in the label of a year", fiscal.YearLabel)
	}
	weeks, err := newCutWeeks(fiscal.Weeks, fiscal.Starts)
	if err != nil {
		return nil, err
	}
	return &Months{
		name: fiscal.Name, starts: fiscal.Starts, namedBy: fiscal.NamedBy,
		yearLabel: yearLabel,
		labels: [Year + 1]Template{
			Week: mustTemplate("{year_label} W{period:02}"), Month: mustTemplate("{year_label} P{period:02}"),
			Quarter: mustTemplate("{year_label} Q{period}"), Half: mustTemplate("{year_label} H{period}"),
			Year: mustTemplate("{year_label}"),
		},
		units: []Unit{Year, Half, Quarter, Month, Week},
		weeks: weeks,
	}, nil
}

// Name returns "year" for the Gregorian calendar, else the given name.
func (c *Months) Name() string { return c.name }

// Units lists years, halves, quarters, months and the finest unit: days in the
// Gregorian calendar, weeks in a fiscal one.
func (c *Months) Units() []Unit { return c.units }

// Starts returns the month in which the year starts.
func (c *Months) Starts() civil.Month { return c.starts }

// NamedBy returns which Gregorian year numbers the year.
func (c *Months) NamedBy() NamedBy { return c.namedBy }

// monthsIn is the number of months of a unit.
var monthsIn = [...]int{Month: 1, Quarter: 3, Half: 6, Year: 12}

// Locate returns the period of a unit that holds a day.
func (c *Months) Locate(unit Unit, day civil.Day) Period {
	switch unit {
	case Day:
		return c.At(Day, int(day))
	case Week:
		return c.weeks.locate(c, day)
	}
	gregorianYear, month, _ := day.Date()
	startYear := gregorianYear
	if month < c.starts {
		startYear--
	}
	monthOfYear := (int(month)-int(c.starts)+12)%12 + 1
	months := monthsIn[unit]
	return c.period(unit, c.yearStarting(startYear), (monthOfYear-1)/months+1)
}

// At returns the period of a unit by its running number.
func (c *Months) At(unit Unit, number int) Period {
	switch unit {
	case Day:
		day := civil.Day(number)
		year := c.Locate(Year, day)
		return Period{Unit: Day, Number: number, Year: year.Year, InYear: int(day-year.First) + 1, First: day, Last: day}
	case Week:
		return c.weeks.at(c, number)
	}
	perYear := 12 / monthsIn[unit]
	year := floorDiv(number, perYear)
	return c.period(unit, year, number-year*perYear+1)
}

// Label names a period by the calendar's templates.
func (c *Months) Label(period Period) string {
	if period.Unit == Day {
		return period.First.String()
	}
	start := c.startYear(period.Year)
	fields := labelFields{year: period.Year, start: start, end: start, period: period.InYear}
	if c.starts != civil.January {
		fields.end++
	}
	fields.yearLabel = c.yearLabel.fill(fields)
	if period.Unit == Year {
		return fields.yearLabel
	}
	return c.labels[period.Unit].fill(fields)
}

func (c *Months) period(unit Unit, year, inYear int) Period {
	months := monthsIn[unit]
	firstMonth := int(c.starts) + (inYear-1)*months
	startYear := c.startYear(year)
	return Period{
		Unit: unit, Number: numbered(year, inYear, 12/months), Year: year, InYear: inYear,
		First: civil.FirstOfMonth(startYear, civil.Month(firstMonth)),
		Last:  civil.FirstOfMonth(startYear, civil.Month(firstMonth+months)) - 1,
	}
}

// yearStarting returns the name of the year that starts in a Gregorian year.
func (c *Months) yearStarting(startYear int) int {
	if c.namedBy == ByEnd && c.starts != civil.January {
		return startYear + 1
	}
	return startYear
}

func (c *Months) startYear(year int) int {
	return year + year - c.yearStarting(year)
}
