package calendar

import (
	"fmt"
	"slices"
	"sort"

	"roundyear/civil"
)

// Since is a calendar that holds from a day on.
type Since struct {
	From     civil.Day
	Calendar Calendar
}

// Sequence is a calendar whose rule changes from one day on: each of its parts
// holds until the next. The last year of a part is cut where the next begins,
// and a part that begins within one of its years begins with a short year,
// whose periods are numbered from 1. Running numbers go on without a jump.
type Sequence struct {
	name  string
	parts []sequencePart
	units []Unit
}

type sequencePart struct {
	Calendar
	first, last civil.Day
	// cutYear is the number of the first year when it is cut, and lost is how
	// many periods of each unit are cut off it.
	cutYear int
	isCut   bool
	lost    [Year + 1]int
	// shift is added to the running numbers of the part's own calendar.
	shift [Year + 1]int
}

// NewSequence returns the calendar that begins as one and changes to others,
// in time order. The error says where two years would have one number.
func NewSequence(name string, first Calendar, changes ...Since) (*Sequence, error) {
	c := &Sequence{name: name, units: first.Units()}
	c.parts = append(c.parts, sequencePart{Calendar: first, first: civil.MinDay - 1000, last: civil.MaxDay + 1000})
	for _, change := range changes {
		before := &c.parts[len(c.parts)-1]
		if change.From <= before.first {
			return nil, fmt.Errorf("the change on %s must come after the one on %s", change.From, before.first)
		}
		if bounded, ok := before.Calendar.(Bounded); ok {
			if _, last := bounded.Bounds(); last < change.From-1 {
				return nil, fmt.Errorf("no rule covers the days from %s to %s", last+1, change.From-1)
			}
		}
		if bounded, ok := change.Calendar.(Bounded); ok {
			if known, _ := bounded.Bounds(); known > change.From {
				return nil, fmt.Errorf("no rule covers the days from %s to %s", change.From, known-1)
			}
		}
		before.last = change.From - 1
		part := sequencePart{Calendar: change.Calendar, first: change.From, last: civil.MaxDay + 1000}
		year := change.Calendar.Locate(Year, change.From)
		if ended := before.Locate(Year, before.last); ended.Year >= year.Year {
			return nil, fmt.Errorf("the year that ends on %s is numbered %d and the one from %s on %d: name the years after the change differently, or declare the short year",
				before.last, ended.Year, change.From, year.Year)
		}
		part.cutYear, part.isCut = year.Year, year.First < change.From
		c.units = slices.DeleteFunc(slices.Clone(c.units), func(unit Unit) bool { return !slices.Contains(change.Calendar.Units(), unit) })
		for _, unit := range c.units {
			own := change.Calendar.Locate(unit, change.From)
			if part.isCut && unit != Year {
				part.lost[unit] = own.InYear - 1
			}
			part.shift[unit] = before.Locate(unit, before.last).Number + before.shift[unit] + 1 - own.Number
		}
		c.parts = append(c.parts, part)
	}
	return c, nil
}

// Name returns the given name.
func (c *Sequence) Name() string { return c.name }

// Units lists the units that all parts have.
func (c *Sequence) Units() []Unit { return c.units }

// Bounds returns the first and last day that the calendar knows: those of the
// first and the last part.
func (c *Sequence) Bounds() (first, last civil.Day) {
	first, last = civil.MinDay-1000, civil.MaxDay+1000
	if bounded, ok := c.parts[0].Calendar.(Bounded); ok {
		first, _ = bounded.Bounds()
	}
	if bounded, ok := c.parts[len(c.parts)-1].Calendar.(Bounded); ok {
		_, last = bounded.Bounds()
	}
	return first, last
}

func (c *Sequence) partOf(day civil.Day) *sequencePart {
	i := sort.Search(len(c.parts), func(i int) bool { return day <= c.parts[i].last })
	return &c.parts[min(i, len(c.parts)-1)]
}

// Locate returns the period of a unit that holds a day.
func (c *Sequence) Locate(unit Unit, day civil.Day) Period {
	part := c.partOf(day)
	return part.fit(part.Locate(unit, day))
}

// fit cuts a period of the part's calendar to the part and numbers it.
func (p *sequencePart) fit(period Period) Period {
	period.Number += p.shift[period.Unit]
	if p.isCut && period.Year == p.cutYear {
		period.InYear -= p.lost[period.Unit]
	}
	period.First, period.Last = max(period.First, p.first), min(period.Last, p.last)
	return period
}

// At returns the period of a unit by its running number.
func (c *Sequence) At(unit Unit, number int) Period {
	i := sort.Search(len(c.parts)-1, func(i int) bool {
		next := &c.parts[i+1]
		return number < next.Locate(unit, next.first).Number+next.shift[unit]
	})
	part := &c.parts[i]
	return part.fit(part.At(unit, number-part.shift[unit]))
}

// Label names a period as its part does.
func (c *Sequence) Label(period Period) string { return c.partOf(period.First).Label(period) }

// Code names a period within its year as its part does.
func (c *Sequence) Code(period Period) string { return c.partOf(period.First).Code(period) }

// Rule lists the rules of the parts.
func (c *Sequence) Rule() string {
	text := c.parts[0].Rule()
	for _, part := range c.parts[1:] {
		text += fmt.Sprintf("; since %s %s", part.first, part.Rule())
	}
	return text
}

// Explain says how the period of a day is found by the rule of its part, and
// what the change does to it.
func (c *Sequence) Explain(unit Unit, day civil.Day) string {
	part := c.partOf(day)
	text, whole, own := part.Explain(unit, day), part.Locate(unit, day), c.Locate(unit, day)
	if whole.First < own.First {
		text += fmt.Sprintf("; the rule is valid from %s, so it starts on that day", own.First)
	}
	if whole.Last > own.Last {
		text += fmt.Sprintf("; another rule is valid from %s, so it ends the day before", own.Last+1)
	}
	if whole.InYear != own.InYear {
		text += fmt.Sprintf("; the periods of the short year are numbered from 1, so it is number %d", own.InYear)
	}
	return text
}
