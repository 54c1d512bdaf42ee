package lapse

import (
	"sync"
	"sync/atomic"

	"roundyear/civil"
)

// OpeningHours are, for each weekday, by its number, spans of seconds after midnight that do not overlap.
type OpeningHours [8][]Stretch

// Stretch is a span of a day, from one second to before another.
type Stretch struct{ From, To int }

// on returns the seconds of opening hours of a weekday up to a second.
func (h *OpeningHours) on(weekday civil.Weekday, until int64) int64 {
	seconds := int64(0)
	for _, s := range h[weekday] {
		if end := min(int64(s.To), until); end > int64(s.From) {
			seconds += end - int64(s.From)
		}
	}
	return seconds
}

// secondsOfDay are those of a day.
const secondsOfDay = 24 * 60 * 60

// DayCalendar is a Calendar made of a rule that tells of each day whether it counts. It works out years when they are first asked for,
// and serves several goroutines.
type DayCalendar struct {
	counts func(civil.Day) bool
	hours  *OpeningHours
	opens  func(civil.Day) bool
	table  atomic.Pointer[dayTable]
	mutex  sync.Mutex
}

// dayTable has the running numbers of days, and the seconds before each.
type dayTable struct {
	first   civil.Day
	numbers []int32
	worked  []int64
}

// NewDayCalendar returns the calendar of the days that count, and of opening hours on the days on which it opens; nil hours for none.
func NewDayCalendar(counts func(civil.Day) bool, hours *OpeningHours, opens func(civil.Day) bool) *DayCalendar {
	return &DayCalendar{counts: counts, hours: hours, opens: opens}
}

// Number returns the running number of the days that count.
func (c *DayCalendar) Number(day civil.Day) int {
	t := c.reaching(day)
	return int(t.numbers[day-t.first])
}

// Worked returns the seconds of opening hours up to a moment.
func (c *DayCalendar) Worked(at Moment) int64 {
	t := c.reaching(at.Day)
	seconds := t.worked[at.Day-t.first]
	if c.hours != nil && c.opens(at.Day) {
		seconds += c.hours.on(at.Day.Weekday(), at.Nanos/1e9)
	}
	return seconds
}

// reaching returns a table that has a day.
func (c *DayCalendar) reaching(day civil.Day) *dayTable {
	if t := c.table.Load(); t != nil && day >= t.first && day < t.first+civil.Day(len(t.numbers)) {
		return t
	}
	c.mutex.Lock()
	defer c.mutex.Unlock()
	old := c.table.Load()
	first, last := civil.FirstOfYear(day.Year())-1, civil.FirstOfYear(day.Year()+1)
	if old != nil {
		first, last = min(first, old.first), max(last, old.first+civil.Day(len(old.numbers))-1)
	}
	// Numbers count from the year 2000 on, so that those of older tables stay true.
	origin := civil.FirstOfYear(2000)
	first, last = min(first, origin), max(last, origin)
	t := &dayTable{first: first, numbers: make([]int32, last-first+1), worked: make([]int64, last-first+1)}
	fill := func(day civil.Day) (counted int32, seconds int64) {
		if c.counts(day) {
			counted = 1
		}
		if c.hours != nil && c.opens(day) {
			seconds = c.hours.on(day.Weekday(), secondsOfDay)
		}
		return counted, seconds
	}
	number, seconds := int32(0), int64(0)
	for day := origin; day <= last; day++ {
		counted, worked := fill(day)
		number += counted
		t.numbers[day-first], t.worked[day-first] = number, seconds
		seconds += worked
	}
	number, seconds = 0, 0
	for day := origin - 1; day >= first; day-- {
		counted, worked := fill(day)
		seconds -= worked
		t.numbers[day-first], t.worked[day-first] = number, seconds
		number -= counted
	}
	c.table.Store(t)
	return t
}
