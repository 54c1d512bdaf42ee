package calendar

import (
	"errors"
	"fmt"

	"roundyear/civil"
)

// NamedBy says which Gregorian year gives a fiscal year its number.
type NamedBy int

// A fiscal year is numbered by the year in which it ends, in which it starts,
// or in which most of its days lie.
const (
	ByEnd NamedBy = iota
	ByStart
	ByMost
)

var namedByNames = [...]string{"end", "start", "most"}

// String returns "end", "start" or "most".
func (n NamedBy) String() string { return namedByNames[n] }

// ParseNamedBy reads a name; it is false for any other.
func ParseNamedBy(name string) (NamedBy, bool) {
	for namedBy, known := range namedByNames {
		if name == known {
			return NamedBy(namedBy), true
		}
	}
	return 0, false
}

// phrase says which year it is.
func (n NamedBy) phrase() string {
	return [...]string{"the year in which they end", "the year in which they start", "the year that contains most of their days"}[n]
}

// shift returns what is added to the year in which a fiscal year nominally
// starts to give its number. A tie of most days goes to the start.
func (n NamedBy) shift(month civil.Month, dayOfMonth int) int {
	switch {
	case month == civil.January && dayOfMonth == 1, n == ByStart:
		return 0
	case n == ByEnd:
		return 1
	}
	// In the days of a year without a 29 February.
	left := 366 - (civil.MustOf(2001, month, dayOfMonth)).YearDay()
	if 2*left >= 365 {
		return 0
	}
	return 1
}

// Months is a calendar whose year is twelve months, each from the same day of
// a Gregorian month to the day before it in the next. The Gregorian calendar
// is the one that starts on 1 January.
type Months struct {
	name     string
	starts   civil.Month
	startDay int
	namedBy  NamedBy
	shift    int
	labels   *labels
	groups   groupings
	units    []Unit
	weeks    *cutWeeks
}

// Gregorian returns the calendar year: days, months, quarters, halves and
// years with labels as ISO 8601 has them (2026-03) or like them (2026 Q1).
func Gregorian() *Months {
	labels, err := newLabels(Labels{Year: "{year}", Month: "{year}-{period:02}"})
	if err != nil {
		panic(err)
	}
	c := &Months{name: "year", starts: civil.January, startDay: 1, labels: labels, units: []Unit{Year, Half, Quarter, Month, Day}}
	if c.groups, err = newGroupings(nil, 12); err != nil {
		panic(err)
	}
	c.groups.addEnds(12)
	return c
}

// FiscalMonths describes a month-based fiscal calendar.
type FiscalMonths struct {
	// Name stands before the calendar's grains and columns.
	Name string
	// Starts is the month in which the year starts, and StartDay the day of
	// it and of all months, from 1 to 28; 0 is 1.
	Starts   civil.Month
	StartDay int
	// NamedBy says which Gregorian year numbers the fiscal year.
	NamedBy NamedBy
	// Labels are the templates of labels; the default year is FY{year}.
	Labels Labels
	// Groups are the groups of months that are not the plain ones.
	Groups Groups
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
		return nil, fmt.Errorf("the first month must be from 1 to 12, not %d", int(fiscal.Starts))
	}
	if fiscal.StartDay == 0 {
		fiscal.StartDay = 1
	}
	if fiscal.StartDay < 1 || fiscal.StartDay > 28 {
		return nil, settingError(StartDay, "the day must be from 1 to 28, which every month has, not %d", fiscal.StartDay)
	}
	labels, err := newLabels(fiscal.Labels)
	if err != nil {
		return nil, err
	}
	groups, err := newGroupings(fiscal.Groups, 12)
	if err != nil {
		return nil, err
	}
	c := &Months{
		name: fiscal.Name, starts: fiscal.Starts, startDay: fiscal.StartDay, namedBy: fiscal.NamedBy,
		shift: fiscal.NamedBy.shift(fiscal.Starts, fiscal.StartDay), labels: labels, groups: groups,
		units: groups.units(Month, Week),
	}
	c.groups.addEnds(12)
	c.weeks, err = newCutWeeks(fiscal.Weeks, func(year int) civil.Day { return c.firstOfMonth(year, 0) })
	return c, err
}

// Name returns "year" for the Gregorian calendar, else the given name.
func (c *Months) Name() string { return c.name }

// Units lists years, groups of months, months and the finest unit: days in the
// Gregorian calendar, weeks in a fiscal one.
func (c *Months) Units() []Unit { return c.units }

// IsCalendarYear tells whether the years are those of the Gregorian calendar.
func (c *Months) IsCalendarYear() bool { return c.starts == civil.January && c.startDay == 1 }

// MonthName returns the Gregorian month that a month of the year goes by.
func (c *Months) MonthName(inYear int) civil.Month {
	return civil.Month((int(c.starts)+inYear-2)%12 + 1)
}

// NamesMonths tells whether the months are whole Gregorian ones.
func (c *Months) NamesMonths() bool { return c.startDay == 1 }

// Locate returns the period of a unit that holds a day.
func (c *Months) Locate(unit Unit, day civil.Day) Period {
	switch unit {
	case Day:
		return c.At(Day, int(day))
	case Week:
		return c.weeks.locate(c, day)
	}
	startYear, month := c.monthOf(day)
	return c.period(unit, startYear, c.groups[unit].of[month])
}

// monthOf returns the Gregorian year in which the fiscal year of a day starts,
// and the month of the fiscal year, from 0.
func (c *Months) monthOf(day civil.Day) (startYear, month int) {
	year, gregorian, dayOfMonth := day.Date()
	month = int(gregorian) - int(c.starts)
	if dayOfMonth < c.startDay {
		month--
	}
	if month < 0 {
		return year - 1, month + 12
	}
	return year, month
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
	perYear := c.groups[unit].count()
	year := floorDiv(number, perYear)
	return c.period(unit, year-c.shift, number-year*perYear)
}

// Label names a period by the calendar's templates.
func (c *Months) Label(period Period) string {
	if period.Unit == Day {
		return period.First.String()
	}
	return c.labels.label(period.Unit, c.fields(period))
}

// Code names a period within its year.
func (c *Months) Code(period Period) string {
	if period.Unit == Day {
		return period.First.String()
	}
	return c.labels.code(period.Unit, c.fields(period))
}

func (c *Months) fields(period Period) labelFields {
	start := period.Year - c.shift
	fields := labelFields{year: period.Year, start: start, end: start, period: period.InYear}
	if !c.IsCalendarYear() {
		fields.end++
	}
	return fields
}

// period returns a group of months, from 0, of the year that starts in a
// Gregorian year.
func (c *Months) period(unit Unit, startYear, group int) Period {
	groups := c.groups[unit]
	year := startYear + c.shift
	return Period{
		Unit: unit, Number: numbered(year, group+1, groups.count()), Year: year, InYear: group + 1,
		First: c.firstOfMonth(startYear, groups.starts[group]), Last: c.firstOfMonth(startYear, groups.starts[group+1]) - 1,
	}
}

// firstOfMonth returns the first day of a month of the year, from 0.
func (c *Months) firstOfMonth(startYear, month int) civil.Day {
	return civil.FirstOfMonth(startYear, c.starts+civil.Month(month)) + civil.Day(c.startDay-1)
}

// Rule says from which day the years run and how they are named.
func (c *Months) Rule() string {
	if c.IsCalendarYear() {
		return "years are calendar years"
	}
	return fmt.Sprintf("years run from %d %s and are named by %s", c.startDay, c.starts, c.namedBy.phrase())
}

// Explain says how the period of a day is found.
func (c *Months) Explain(unit Unit, day civil.Day) string {
	if unit == Day {
		return "each day is its own period"
	}
	year, month := c.Locate(Year, day), c.Locate(Month, day)
	switch {
	case unit == Year && c.IsCalendarYear():
		return "the year of the date"
	case unit == Year:
		return fmt.Sprintf("the year starts on %d %s, so this one runs from %s to %s; it is named by %s",
			c.startDay, c.starts, year.First, year.Last, singular(c.namedBy.phrase()))
	case unit == Month && c.IsCalendarYear():
		return fmt.Sprintf("%s is month %d of the year", c.MonthName(month.InYear), month.InYear)
	case unit == Month && c.NamesMonths():
		return fmt.Sprintf("the year starts in %s; %s is its %s month", c.starts, c.MonthName(month.InYear), ordinal(month.InYear))
	case unit == Month:
		return fmt.Sprintf("months start on day %d and the year in %s; the month from %s to %s is its %s", c.startDay, c.starts, month.First, month.Last, ordinal(month.InYear))
	case unit == Week:
		week := c.Locate(Week, day)
		return c.weeks.explain(year, week)
	}
	group := c.groups[unit].of[month.InYear-1]
	return fmt.Sprintf("month %d of the year is one of %s, which are %s %d", month.InYear, monthsOf(c.groups[unit], group), unit, group+1)
}

func monthsOf(g grouping, group int) string {
	return fmt.Sprintf("months %d to %d", g.starts[group]+1, g.starts[group+1])
}

// singular turns what is said of years into what is said of one.
func singular(phrase string) string {
	switch phrase {
	case ByEnd.phrase():
		return "the year in which it ends"
	case ByStart.phrase():
		return "the year in which it starts"
	}
	return "the year that contains most of its days"
}

// ordinal returns a number as a place: 1st, 2nd, 3rd, 4th.
func ordinal(number int) string {
	ending := "th"
	if number%100 < 11 || number%100 > 13 {
		switch number % 10 {
		case 1:
			ending = "st"
		case 2:
			ending = "nd"
		case 3:
			ending = "rd"
		}
	}
	return fmt.Sprintf("%d%s", number, ending)
}
