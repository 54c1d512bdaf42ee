package calendar

import (
	"errors"
	"fmt"

	"roundyear/civil"
)

// FiscalWeeks describes a week-based fiscal calendar: its years are 52 or 53
// whole weeks and end on one weekday, either the last one of a month or the
// one nearest to a date.
type FiscalWeeks struct {
	// Name stands before the calendar's grains and columns.
	Name string
	// EndsOn is the weekday on which weeks, periods and years end.
	EndsOn civil.Weekday
	// LastIn is the month whose last EndsOn ends the year; 0 when the year
	// ends on the EndsOn nearest to NearestDay of NearestMonth.
	LastIn       civil.Month
	NearestMonth civil.Month
	NearestDay   int
	// Split is the number of weeks of each period; together they are 52.
	Split []int
	// LeapWeek is the period, from 1, that gets the 53rd week; 0 is the last.
	LeapWeek int
	// NamedBy says which Gregorian year numbers the fiscal year, going by the
	// date or month end that the year ends at: a year that ends on 2 January
	// since that is nearest to 31 December is named as if it ended then.
	NamedBy NamedBy
	// Labels are the templates of labels; the default year is FY{year}.
	Labels Labels
	// Groups are the groups of periods that are not the plain ones.
	Groups Groups
}

// WeekYears is a calendar whose year is 52 or 53 whole weeks, and whose months
// are periods of whole weeks.
type WeekYears struct {
	fiscal FiscalWeeks
	labels *labels
	groups groupings
	units  []Unit
	week   WeekRule
	// before is the weeks before each period of a year of 52 weeks, from 0.
	before []int
	// shift is what is added to the year of the nominal end to give the year's
	// number, startShift to give the year in which it nominally starts.
	shift, startShift int
}

// NewFiscalWeeks returns the calendar of a description. The error says what is
// wrong with it.
func NewFiscalWeeks(fiscal FiscalWeeks) (*WeekYears, error) {
	if fiscal.Name == "" {
		return nil, errors.New("a fiscal calendar needs a name")
	}
	if fiscal.EndsOn < civil.Monday || fiscal.EndsOn > civil.Sunday {
		return nil, fmt.Errorf("the weekday must be from 1 (Monday) to 7 (Sunday), not %d", int(fiscal.EndsOn))
	}
	if err := fiscal.checkEnd(); err != nil {
		return nil, err
	}
	c := &WeekYears{fiscal: fiscal, week: WeekRule{First: fiscal.EndsOn%7 + 1, MinDays: 1}}
	weeks := 0
	for _, count := range fiscal.Split {
		if count < 1 {
			return nil, fmt.Errorf("a period must have at least one week, not %d", count)
		}
		c.before = append(c.before, weeks)
		weeks += count
	}
	if weeks != 52 {
		return nil, fmt.Errorf("the weeks must add up to 52, not %d", weeks)
	}
	c.before = append(c.before, weeks)
	if c.fiscal.LeapWeek == 0 {
		c.fiscal.LeapWeek = len(fiscal.Split)
	}
	if c.fiscal.LeapWeek < 1 || c.fiscal.LeapWeek > len(fiscal.Split) {
		return nil, settingError(LeapWeek, "the period of the leap week must be from 1 to %d, not %d", len(fiscal.Split), fiscal.LeapWeek)
	}
	var err error
	if c.labels, err = newLabels(fiscal.Labels); err != nil {
		return nil, err
	}
	if c.groups, err = newGroupings(fiscal.Groups, len(fiscal.Split)); err != nil {
		return nil, err
	}
	c.units = c.groups.units(Month, Week)
	c.groups.addEnds(len(fiscal.Split))
	nominal := c.nominalEnd(2001) + 1
	if nominal.Year() == 2001 {
		c.startShift = -1
	}
	_, month, dayOfMonth := nominal.Date()
	c.shift = c.startShift + fiscal.NamedBy.shift(month, dayOfMonth)
	return c, nil
}

func (f *FiscalWeeks) checkEnd() error {
	if f.LastIn != 0 {
		if f.LastIn < civil.January || f.LastIn > civil.December {
			return fmt.Errorf("the month must be from 1 to 12, not %d", int(f.LastIn))
		}
		return nil
	}
	// 2001 has no 29 February, which is no date that every year has.
	if _, ok := civil.Of(2001, f.NearestMonth, f.NearestDay); !ok {
		return settingError(NearestDate, "the year must end near a date that every year has, not day %d of month %d", f.NearestDay, int(f.NearestMonth))
	}
	return nil
}

// nominalEnd returns the date that a year ends at or near, in a Gregorian year.
func (c *WeekYears) nominalEnd(year int) civil.Day {
	if c.fiscal.LastIn != 0 {
		return civil.FirstOfMonth(year, c.fiscal.LastIn+1) - 1
	}
	return civil.FirstOfMonth(year, c.fiscal.NearestMonth) + civil.Day(c.fiscal.NearestDay-1)
}

// end returns the last day of the year that nominally ends in a Gregorian year.
func (c *WeekYears) end(year int) civil.Day {
	nominal := c.nominalEnd(year)
	if c.fiscal.LastIn == 0 {
		// Of the weekdays up to three days after, the last is the nearest.
		nominal += 3
	}
	return c.fiscal.EndsOn.OnOrBefore(nominal)
}

// Name returns the given name.
func (c *WeekYears) Name() string { return c.fiscal.Name }

// Units lists years, groups of periods, periods (as months) and weeks.
func (c *WeekYears) Units() []Unit { return c.units }

// NamesMonths tells whether the periods go by the names of months: there are
// twelve of them, and the year begins near the first of a month.
func (c *WeekYears) NamesMonths() bool {
	_, _, dayOfMonth := (c.nominalEnd(2001) + 1).Date()
	return len(c.fiscal.Split) == 12 && (dayOfMonth <= 5 || dayOfMonth >= 26)
}

// MonthName returns the Gregorian month that a period goes by.
func (c *WeekYears) MonthName(inYear int) civil.Month {
	_, month, dayOfMonth := (c.nominalEnd(2001) + 1).Date()
	if dayOfMonth > 15 {
		month++
	}
	return (month+civil.Month(inYear)-2)%12 + 1
}

// yearOf returns the Gregorian year in which the year of a day nominally ends.
func (c *WeekYears) yearOf(day civil.Day) int {
	year := day.Year()
	for day > c.end(year) {
		year++
	}
	for day <= c.end(year-1) {
		year--
	}
	return year
}

// Locate returns the period of a unit that holds a day.
func (c *WeekYears) Locate(unit Unit, day civil.Day) Period {
	year := c.yearOf(day)
	if unit == Year {
		return c.period(Year, year, 0)
	}
	first := c.end(year-1) + 1
	week := int(day-first) / 7
	if unit == Week {
		start := first + civil.Day(week*7)
		return Period{Unit: Week, Number: c.week.number(day), Year: year + c.shift, InYear: week + 1, First: start, Last: start + 6}
	}
	period := 0
	for week >= c.weeksBefore(period+1, c.isLeap(year)) {
		period++
	}
	return c.period(unit, year, c.groups[unit].of[period])
}

// isLeap tells whether the year has 53 weeks.
func (c *WeekYears) isLeap(year int) bool { return c.end(year)-c.end(year-1) == 53*7 }

// weeksBefore returns the weeks before a period of the year, from 0.
func (c *WeekYears) weeksBefore(period int, leap bool) int {
	if leap && period >= c.fiscal.LeapWeek {
		return c.before[period] + 1
	}
	return c.before[period]
}

// At returns the period of a unit by its running number.
func (c *WeekYears) At(unit Unit, number int) Period {
	if unit == Week {
		return c.Locate(Week, c.week.startOf(civil.MinDay)+civil.Day((number-1)*7))
	}
	perYear := c.groups[unit].count()
	year := floorDiv(number, perYear)
	return c.period(unit, year-c.shift, number-year*perYear)
}

// period returns a group of periods, from 0, of the year that nominally ends
// in a Gregorian year.
func (c *WeekYears) period(unit Unit, year, group int) Period {
	groups, leap, first := c.groups[unit], c.isLeap(year), c.end(year-1)+1
	return Period{
		Unit: unit, Number: numbered(year+c.shift, group+1, groups.count()), Year: year + c.shift, InYear: group + 1,
		First: first + civil.Day(7*c.weeksBefore(groups.starts[group], leap)),
		Last:  first + civil.Day(7*c.weeksBefore(groups.starts[group+1], leap)) - 1,
	}
}

// Label names a period by the calendar's templates.
func (c *WeekYears) Label(period Period) string {
	return c.labels.label(period.Unit, c.fields(period))
}

// Code names a period within its year.
func (c *WeekYears) Code(period Period) string {
	return c.labels.code(period.Unit, c.fields(period))
}

func (c *WeekYears) fields(period Period) labelFields {
	end := period.Year - c.shift
	return labelFields{year: period.Year, start: end + c.startShift, end: end, period: period.InYear}
}

// Rule says where the years end and how they are named.
func (c *WeekYears) Rule() string {
	return fmt.Sprintf("years end on %s, have periods of %s weeks and are named by %s; week 53 is added to period %d",
		c.ending(), c.splitText(), c.fiscal.NamedBy.phrase(), c.fiscal.LeapWeek)
}

func (c *WeekYears) ending() string {
	if c.fiscal.LastIn != 0 {
		return fmt.Sprintf("the last %s of %s", c.fiscal.EndsOn, c.fiscal.LastIn)
	}
	return fmt.Sprintf("the %s nearest to %d %s", c.fiscal.EndsOn, c.fiscal.NearestDay, c.fiscal.NearestMonth)
}

// splitText writes the weeks of the periods as 4-5-4 where each quarter has
// the same, as 13 × 4 where all periods have, else in full.
func (c *WeekYears) splitText() string {
	split := c.fiscal.Split
	same := func(step int) bool {
		for i := range split {
			if len(split)%step != 0 || split[i] != split[i%step] {
				return false
			}
		}
		return true
	}
	switch {
	case same(1):
		return fmt.Sprintf("%d × %d", len(split), split[0])
	case same(3):
		split = split[:3]
	}
	text := ""
	for i, weeks := range split {
		if i > 0 {
			text += "-"
		}
		text += fmt.Sprint(weeks)
	}
	return text
}

// Explain says how the period of a day is found.
func (c *WeekYears) Explain(unit Unit, day civil.Day) string {
	year, week, month := c.Locate(Year, day), c.Locate(Week, day), c.Locate(Month, day)
	switch unit {
	case Year:
		return fmt.Sprintf("the year ends on %s, so this one runs from %s to %s (%d weeks); it is named by %s",
			c.ending(), year.First, year.Last, year.Days()/7, singular(c.fiscal.NamedBy.phrase()))
	case Week:
		return fmt.Sprintf("the year starts on %s; the week from %s to %s is its %s", year.First, week.First, week.Last, ordinal(week.InYear))
	case Month:
		leap := ""
		if year.Days() == 53*7 {
			leap = fmt.Sprintf("; in this year of 53 weeks period %d has one more", c.fiscal.LeapWeek)
		}
		first := int(month.First-year.First)/7 + 1
		return fmt.Sprintf("the periods have %s weeks%s; week %d is one of weeks %d to %d, which are period %d",
			c.splitText(), leap, week.InYear, first, first+month.Days()/7-1, month.InYear)
	}
	group := c.groups[unit].of[month.InYear-1]
	return fmt.Sprintf("period %d of the year is one of %s, which are %s %d", month.InYear, c.groups[unit].members(group), unit, group+1)
}
