package calendar

import (
	"errors"
	"fmt"
	"sort"

	"roundyear/civil"
)

// DeclaredYear is a year that is declared by hand.
type DeclaredYear struct {
	// Year is its number.
	Year int
	// Starts are the first days of its periods, and Ends is its last day.
	Starts []civil.Day
	Ends   civil.Day
	// Groups are the groups of its periods; without them three periods make a
	// quarter, what is left over goes to the fourth, and two quarters make a
	// half.
	Groups Groups
}

// Declared is a calendar of years that are declared by hand, for what no rule
// covers. It knows no days before and after them.
type Declared struct {
	name   string
	years  []declaredYear
	labels *labels
	units  []Unit
	weeks  WeekRule
}

type declaredYear struct {
	DeclaredYear
	groups groupings
	// before is the number of each unit's periods in the years before.
	before [Year + 1]int
}

// DeclaredYears describes a calendar of declared years.
type DeclaredYears struct {
	Name   string
	Years  []DeclaredYear
	Labels Labels
	// Weeks is the rule of the weeks that the fiscal weeks are cut from.
	Weeks WeekRule
}

// NewDeclared returns the calendar of a description. The error says what is
// wrong with it.
func NewDeclared(fiscal DeclaredYears) (*Declared, error) {
	if len(fiscal.Years) == 0 {
		return nil, errors.New("no year is declared")
	}
	if err := fiscal.Weeks.check(); err != nil {
		return nil, err
	}
	c := &Declared{name: fiscal.Name, weeks: fiscal.Weeks}
	var err error
	if c.labels, err = newLabels(fiscal.Labels); err != nil {
		return nil, err
	}
	for i, year := range fiscal.Years {
		if i > 0 {
			before := fiscal.Years[i-1]
			if year.Year != before.Year+1 {
				return nil, fmt.Errorf("the year %d is declared after %d: years must be in order, without gaps", year.Year, before.Year)
			}
			if len(year.Starts) > 0 && year.Starts[0] != before.Ends+1 {
				return nil, fmt.Errorf("the year %d starts on %s, but the one before it ends on %s: years must be contiguous", year.Year, year.Starts[0], before.Ends)
			}
		}
		declared, err := newDeclaredYear(year)
		if err != nil {
			return nil, err
		}
		c.years = append(c.years, declared)
	}
	c.count()
	return c, nil
}

func newDeclaredYear(year DeclaredYear) (declaredYear, error) {
	d := declaredYear{DeclaredYear: year}
	if len(year.Starts) == 0 {
		return d, fmt.Errorf("the year %d has no periods", year.Year)
	}
	for i, start := range year.Starts {
		if i > 0 && start <= year.Starts[i-1] {
			return d, fmt.Errorf("in the year %d a period starts on %s, not after the one before it, which starts on %s", year.Year, start, year.Starts[i-1])
		}
	}
	if last := year.Starts[len(year.Starts)-1]; year.Ends < last {
		return d, fmt.Errorf("the year %d ends on %s, before its last period starts on %s", year.Year, year.Ends, last)
	}
	for unit, groups := range year.Groups {
		one, err := newGrouping(unit, groups, len(year.Starts))
		if err != nil {
			return d, fmt.Errorf("in the year %d %w", year.Year, err)
		}
		d.groups[unit] = one
	}
	if d.groups[Quarter].of == nil {
		d.groups[Quarter] = inRuns(len(year.Starts), 3, 4)
	}
	if d.groups[Half].of == nil {
		half := make([]int, len(year.Starts))
		for i, quarter := range d.groups[Quarter].of {
			half[i] = quarter/2 + 1
		}
		d.groups[Half], _ = newGrouping(Half, half, len(year.Starts))
	}
	d.groups.addEnds(len(year.Starts))
	return d, nil
}

// inRuns groups so many periods in runs of a length; there are at most so many
// groups.
func inRuns(periods, length, most int) grouping {
	groups := make([]int, periods)
	for i := range groups {
		groups[i] = min(i/length, most-1) + 1
	}
	g, _ := newGrouping(Quarter, groups, periods)
	return g
}

// count numbers the periods of all units, and leaves out the units that some
// year does not have.
func (c *Declared) count() {
	c.units = c.years[0].groups.units(Month, Week)
	for unit := Week; unit <= Year; unit++ {
		next := c.years[0].Year * 12
		if unit == Year {
			next = c.years[0].Year
		}
		for i := range c.years {
			year := &c.years[i]
			year.before[unit] = next
			switch {
			case unit == Week:
				next += c.weeks.cut(c.yearPeriod(i), year.Ends).InYear
			case year.groups[unit].of == nil:
				c.units = without(c.units, unit)
			default:
				next += year.groups[unit].count()
			}
		}
	}
}

func without(units []Unit, unit Unit) []Unit {
	var left []Unit
	for _, u := range units {
		if u != unit {
			left = append(left, u)
		}
	}
	return left
}

// Name returns the given name.
func (c *Declared) Name() string { return c.name }

// Units lists the units that all of the years have.
func (c *Declared) Units() []Unit { return c.units }

// Bounds returns the first and the last declared day.
func (c *Declared) Bounds() (first, last civil.Day) {
	return c.years[0].Starts[0], c.years[len(c.years)-1].Ends
}

func (c *Declared) yearPeriod(i int) Period {
	year := c.years[i]
	return Period{Unit: Year, Number: year.before[Year], Year: year.Year, InYear: 1, First: year.Starts[0], Last: year.Ends}
}

// yearOf returns the place of the year of a day. Days outside count to the
// first and the last.
func (c *Declared) yearOf(day civil.Day) int {
	i := sort.Search(len(c.years), func(i int) bool { return day <= c.years[i].Ends })
	return min(i, len(c.years)-1)
}

// Locate returns the period of a unit that holds a day within the bounds.
func (c *Declared) Locate(unit Unit, day civil.Day) Period {
	first, last := c.Bounds()
	day = min(max(day, first), last)
	i := c.yearOf(day)
	year := c.years[i]
	switch unit {
	case Year:
		return c.yearPeriod(i)
	case Week:
		week := c.weeks.cut(c.yearPeriod(i), day)
		week.Number = year.before[Week] + week.InYear - 1
		return week
	}
	period := sort.Search(len(year.Starts), func(p int) bool { return year.Starts[p] > day }) - 1
	return c.period(unit, i, year.groups[unit].of[period])
}

func (c *Declared) period(unit Unit, i, group int) Period {
	year := c.years[i]
	groups := year.groups[unit]
	last := year.Ends
	if end := groups.starts[group+1]; end < len(year.Starts) {
		last = year.Starts[end] - 1
	}
	return Period{
		Unit: unit, Number: year.before[unit] + group, Year: year.Year, InYear: group + 1,
		First: year.Starts[groups.starts[group]], Last: last,
	}
}

// At returns the period of a unit by its running number.
func (c *Declared) At(unit Unit, number int) Period {
	i := max(sort.Search(len(c.years), func(i int) bool { return c.years[i].before[unit] > number })-1, 0)
	inYear := max(number-c.years[i].before[unit], 0)
	switch unit {
	case Year:
		return c.yearPeriod(i)
	case Week:
		first := c.years[i].Starts[0]
		return c.Locate(Week, max(first, c.weeks.startOf(first)+civil.Day(7*inYear)))
	}
	return c.period(unit, i, min(inYear, c.years[i].groups[unit].count()-1))
}

// Label names a period by the calendar's templates.
func (c *Declared) Label(period Period) string {
	return c.labels.label(period.Unit, c.fields(period))
}

// Code names a period within its year.
func (c *Declared) Code(period Period) string {
	return c.labels.code(period.Unit, c.fields(period))
}

func (c *Declared) fields(period Period) labelFields {
	year := c.years[c.yearOf(period.First)]
	return labelFields{year: period.Year, start: year.Starts[0].Year(), end: year.Ends.Year(), period: period.InYear}
}

// Rule says which days are declared.
func (c *Declared) Rule() string {
	first, last := c.Bounds()
	return fmt.Sprintf("years are declared one by one, from %s to %s", first, last)
}

// Explain says how the period of a day is found.
func (c *Declared) Explain(unit Unit, day civil.Day) string {
	year, month := c.Locate(Year, day), c.Locate(Month, day)
	switch unit {
	case Year:
		return fmt.Sprintf("the year from %s to %s is declared as %d", year.First, year.Last, year.Year)
	case Week:
		return c.weeks.explainCut(year, c.Locate(Week, day))
	case Month:
		return fmt.Sprintf("the period from %s to %s is declared as the %s of the year", month.First, month.Last, ordinal(month.InYear))
	}
	groups := c.years[c.yearOf(day)].groups[unit]
	group := groups.of[month.InYear-1]
	return fmt.Sprintf("period %d of the year is one of %s, which are %s %d", month.InYear, groups.members(group), unit, group+1)
}
