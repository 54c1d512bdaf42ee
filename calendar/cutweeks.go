package calendar

import (
	"fmt"
	"sort"

	"roundyear/civil"
)

// cutWeeks are weeks cut at the first day of a month-based year, so that each
// belongs to one year: the year's first day is in week 1, and its first and
// last week may be short.
type cutWeeks struct {
	rule WeekRule
	// cutsBefore counts, for each year of the 400 after which Gregorian dates
	// and weekdays repeat, how many of the years before it in the cycle
	// start within a week and so cut it in two; the last entry is for all 400.
	cutsBefore [401]int
}

func newCutWeeks(rule WeekRule, firstOfYear func(startYear int) civil.Day) (*cutWeeks, error) {
	if err := rule.check(); err != nil {
		return nil, err
	}
	weeks := &cutWeeks{rule: rule}
	for year := range 400 {
		cut := 0
		if firstOfYear(year).Weekday() != rule.First {
			cut = 1
		}
		weeks.cutsBefore[year+1] = weeks.cutsBefore[year] + cut
	}
	return weeks, nil
}

func (w *cutWeeks) locate(c *Months, day civil.Day) Period {
	year := c.Locate(Year, day)
	week := w.rule.cut(year, day)
	week.Number = w.number(c, year, day)
	return week
}

// cut returns the week of a day, cut at the ends of its year; the year's first
// day is in week 1. It has no running number yet.
func (r WeekRule) cut(year Period, day civil.Day) Period {
	startOfWeek := r.startOf(day)
	return Period{
		Unit: Week, Year: year.Year, InYear: int(startOfWeek-r.startOf(year.First))/7 + 1,
		First: max(startOfWeek, year.First), Last: min(startOfWeek+6, year.Last),
	}
}

func (w *cutWeeks) explain(year, week Period) string { return w.rule.explainCut(year, week) }

func (r WeekRule) explainCut(year, week Period) string {
	return fmt.Sprintf("weeks start on %s, and %s, the first day of the year, is in week 1; the week from %s to %s is the %s",
		r.First, year.First, week.First, week.Last, ordinal(week.InYear))
}

// number is the count of weeks up to the day and of cuts up to its year.
func (w *cutWeeks) number(c *Months, year Period, day civil.Day) int {
	startYear := year.Year - c.shift
	cycle := floorDiv(startYear, 400)
	cuts := cycle*w.cutsBefore[400] + w.cutsBefore[startYear-cycle*400+1]
	return w.rule.number(day) + cuts
}

// at looks for the first day whose week has the number or a later one.
func (w *cutWeeks) at(c *Months, number int) Period {
	// Every week is at most seven and on average more than five days long, so
	// the day lies within these bounds.
	low, high := civil.MinDay-800, civil.MinDay+civil.Day(max(number, 0)*7)+800
	offset := sort.Search(int(high-low), func(i int) bool {
		day := low + civil.Day(i)
		return w.number(c, c.Locate(Year, day), day) >= number
	})
	return w.locate(c, low+civil.Day(offset))
}
