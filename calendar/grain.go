package calendar

import (
	"fmt"
	"strings"

	"roundyear/civil"
)

// Grain is what one row of a table stands for: a unit of a calendar.
type Grain struct {
	Calendar Calendar
	Unit     Unit
}

// String returns the grain's name: "month", "iso.week", "fiscal.quarter".
// The units of the Gregorian calendar, and the week of the calendar named
// week, go without a calendar before them.
func (g Grain) String() string {
	name := g.Calendar.Name()
	if name == "year" || name == "week" && g.Unit == Week {
		return g.Unit.String()
	}
	return name + "." + g.Unit.String()
}

// Locate returns the period that holds a day.
func (g Grain) Locate(day civil.Day) Period { return g.Calendar.Locate(g.Unit, day) }

// At returns the period with a running number.
func (g Grain) At(number int) Period { return g.Calendar.At(g.Unit, number) }

// Label names a period of the grain.
func (g Grain) Label(period Period) string { return g.Calendar.Label(period) }

// Set is the calendars of one business, side by side.
type Set struct {
	Year   *Months
	ISO    *Weeks
	Week   *Weeks
	Fiscal []Calendar
}

// NewSet returns the Gregorian calendar, the weeks of ISO 8601 and those of a
// week rule, and the given fiscal calendars. Two calendars with one name are
// an error.
func NewSet(weeks WeekRule, fiscal ...Calendar) (*Set, error) {
	week, err := NewWeeks(weeks)
	if err != nil {
		return nil, err
	}
	set := &Set{Year: Gregorian(), ISO: ISO(), Week: week, Fiscal: fiscal}
	taken := map[string]bool{}
	for _, calendar := range set.All() {
		if taken[calendar.Name()] {
			return nil, fmt.Errorf("there are two calendars named %q", calendar.Name())
		}
		taken[calendar.Name()] = true
	}
	return set, nil
}

// All returns the calendars of the set, the built-in ones first.
func (s *Set) All() []Calendar {
	return append([]Calendar{s.Year, s.Week, s.ISO}, s.Fiscal...)
}

// Grains lists every grain of every calendar of the set.
func (s *Set) Grains() []Grain {
	var grains []Grain
	for _, calendar := range s.All() {
		for _, unit := range calendar.Units() {
			grains = append(grains, Grain{calendar, unit})
		}
	}
	return grains
}

// Grain returns the grain of a name such as "month" or "fiscal.quarter". The
// error lists the names there are.
func (s *Set) Grain(name string) (Grain, error) {
	wanted := strings.ToLower(strings.TrimSpace(name))
	var names []string
	for _, grain := range s.Grains() {
		if grain.String() == wanted {
			return grain, nil
		}
		names = append(names, grain.String())
	}
	return Grain{}, fmt.Errorf("unknown grain %q; the grains are %s", name, strings.Join(names, ", "))
}

// WholeYears widens a range of days so that every year of the Gregorian and of
// each fiscal calendar that holds its first or last day is in it whole. Weeks
// do not widen it.
func (s *Set) WholeYears(from, to civil.Day) (civil.Day, civil.Day) {
	first, last := from, to
	for _, calendar := range append([]Calendar{s.Year}, s.Fiscal...) {
		first = min(first, calendar.Locate(Year, from).First)
		last = max(last, calendar.Locate(Year, to).Last)
	}
	return first, last
}

// PaddedYears widens a range as WholeYears does, and by so many years more of each calendar at both ends.
func (s *Set) PaddedYears(from, to civil.Day, years int) (civil.Day, civil.Day) {
	first, last := from, to
	for _, calendar := range append([]Calendar{s.Year}, s.Fiscal...) {
		own, end := calendar.Locate(Year, from).First, calendar.Locate(Year, to).Last
		for range years {
			own, end = calendar.Locate(Year, own-1).First, calendar.Locate(Year, end+1).Last
		}
		first, last = min(first, own), max(last, end)
	}
	return first, last
}

// Unknown returns the first calendar that does not know some of the days of a
// range, and the days that it knows; nil when all of them know all days.
func (s *Set) Unknown(from, to civil.Day) (_ Calendar, first, last civil.Day) {
	for _, calendar := range s.Fiscal {
		if bounded, ok := calendar.(Bounded); ok {
			if first, last = bounded.Bounds(); from < first || to > last {
				return calendar, first, last
			}
		}
	}
	return nil, 0, 0
}
