package calendar

import (
	"fmt"

	"roundyear/civil"
)

// WeekRule says on which day weeks begin and how many days of the first week
// must lie in the new year, as week data of Unicode LDML (UTS 35) has it.
type WeekRule struct {
	First   civil.Weekday
	MinDays int
}

// ISOWeeks is the rule of ISO 8601: weeks begin on Monday, and the first week
// of a year is the one that holds its first Thursday.
var ISOWeeks = WeekRule{First: civil.Monday, MinDays: 4}

func (r WeekRule) check() error {
	if r.First < civil.Monday || r.First > civil.Sunday {
		return fmt.Errorf("the first weekday must be from 1 (Monday) to 7 (Sunday), not %d", int(r.First))
	}
	if r.MinDays < 1 || r.MinDays > 7 {
		return fmt.Errorf("the minimum days of week 1 must be from 1 to 7, not %d", r.MinDays)
	}
	return nil
}

// startOf returns the first day of the week of a day.
func (r WeekRule) startOf(day civil.Day) civil.Day { return r.First.OnOrBefore(day) }

// number counts weeks from the one that holds 0001-01-01, which is week 1.
func (r WeekRule) number(day civil.Day) int {
	return int(r.startOf(day)-r.startOf(civil.MinDay))/7 + 1
}

// RowsTo returns the row of a wall calendar in which a day stands when the row
// of another day, not after it, is row 1.
func (r WeekRule) RowsTo(first, day civil.Day) int {
	return int(r.startOf(day)-r.startOf(first))/7 + 1
}

// Weeks is a calendar of whole weeks: its years are 52 or 53 of them.
type Weeks struct {
	name  string
	rule  WeekRule
	label Template
}

// ISO returns the weeks and week years of ISO 8601, with its labels: 2026-W07.
func ISO() *Weeks {
	return &Weeks{name: "iso", rule: ISOWeeks, label: mustTemplate("{year}-W{period:02}")}
}

// NewWeeks returns the calendar named "week" of a week rule.
func NewWeeks(rule WeekRule) (*Weeks, error) {
	if err := rule.check(); err != nil {
		return nil, err
	}
	return &Weeks{name: "week", rule: rule, label: mustTemplate("{year} W{period:02}")}, nil
}

// Name returns "iso" or "week".
func (c *Weeks) Name() string { return c.name }

// Units lists years and weeks.
func (c *Weeks) Units() []Unit { return []Unit{Year, Week} }

// WeekRule returns the week rule.
func (c *Weeks) WeekRule() WeekRule { return c.rule }

// Locate returns the week, or the year of whole weeks, that holds a day.
func (c *Weeks) Locate(unit Unit, day civil.Day) Period {
	year := day.Year()
	switch {
	case day >= c.firstDay(year+1):
		year++
	case day < c.firstDay(year):
		year--
	}
	if unit == Year {
		return c.At(Year, year)
	}
	first := c.rule.startOf(day)
	return Period{
		Unit: Week, Number: c.rule.number(day), Year: year,
		InYear: int(first-c.firstDay(year))/7 + 1, First: first, Last: first + 6,
	}
}

// At returns a week or a year by its running number.
func (c *Weeks) At(unit Unit, number int) Period {
	if unit == Year {
		return Period{
			Unit: Year, Number: number, Year: number, InYear: 1,
			First: c.firstDay(number), Last: c.firstDay(number+1) - 1,
		}
	}
	return c.Locate(Week, c.rule.startOf(civil.MinDay)+civil.Day((number-1)*7))
}

// Label names a week by its year and number, and a year by its number.
func (c *Weeks) Label(period Period) string {
	if period.Unit == Year {
		return fmt.Sprintf("%04d", period.Year)
	}
	return c.label.fill(labelFields{year: period.Year, period: period.InYear})
}

// Code names a week within its year, W07, and a year by its number.
func (c *Weeks) Code(period Period) string {
	if period.Unit == Year {
		return c.Label(period)
	}
	return fmt.Sprintf("W%02d", period.InYear)
}

// Rule says how weeks and their years run.
func (c *Weeks) Rule() string {
	return fmt.Sprintf("weeks start on %s; week 1 is the first with at least %s of the year", c.rule.First, c.rule.leastDays())
}

// Explain says how the week or the year of a day is found.
func (c *Weeks) Explain(unit Unit, day civil.Day) string {
	year, week := c.Locate(Year, day), c.Locate(Week, day)
	start := fmt.Sprintf("weeks start on %s; week 1 is the first with at least %s of the new year and starts on %s",
		c.rule.First, c.rule.leastDays(), year.First)
	if unit == Year {
		return fmt.Sprintf("%s; the week from %s to %s is one of its %d weeks", start, week.First, week.Last, year.Days()/7)
	}
	return fmt.Sprintf("%s; the week from %s to %s is the %s of the year", start, week.First, week.Last, ordinal(week.InYear))
}

// leastDays writes the days that week 1 has at least.
func (r WeekRule) leastDays() string {
	if r.MinDays == 1 {
		return "1 day"
	}
	return fmt.Sprintf("%d days", r.MinDays)
}

// firstDay returns the first day of the first week of a year.
func (c *Weeks) firstDay(year int) civil.Day {
	newYear := civil.FirstOfYear(year)
	first := c.rule.startOf(newYear)
	if 7-int(newYear-first) < c.rule.MinDays {
		first += 7
	}
	return first
}
