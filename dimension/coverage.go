package dimension

import (
	"slices"

	"roundyear/civil"
)

// Coverage is the range of days that facts need, from all the days seen.
// Days that systems write for "no date" do not stretch it.
type Coverage struct {
	first, last civil.Day
	any         bool
	sentinels   map[civil.Day]int
}

// DayCount is a day and how often it was seen.
type DayCount struct {
	Day   civil.Day
	Count int
}

// sentinelDays are the days that systems write where they have none: the
// smallest and largest dates of databases and languages, day 0 and 1 of
// spreadsheets, and the beginning of Unix time.
var sentinelDays = []civil.Day{
	civil.MinDay,
	civil.MustOf(1753, civil.January, 1),
	civil.MustOf(1899, civil.December, 30),
	civil.MustOf(1899, civil.December, 31),
	civil.MustOf(1900, civil.January, 1),
	civil.MustOf(1970, civil.January, 1),
	civil.MustOf(2099, civil.December, 31),
	civil.MustOf(2999, civil.December, 31),
	civil.MaxDay,
}

// Placeholders returns the days that systems write for no date.
func Placeholders() []civil.Day { return slices.Clone(sentinelDays) }

// IsPlaceholder tells whether a day is one that systems write for no date.
func IsPlaceholder(day civil.Day) bool { return slices.Contains(sentinelDays, day) }

// Add counts a day.
func (c *Coverage) Add(day civil.Day) {
	if IsPlaceholder(day) {
		if c.sentinels == nil {
			c.sentinels = map[civil.Day]int{}
		}
		c.sentinels[day]++
		return
	}
	c.widen(day)
}

// Join adds all that another coverage has seen.
func (c *Coverage) Join(other Coverage) {
	if other.any {
		c.widen(other.first)
		c.widen(other.last)
	}
	for day, count := range other.sentinels {
		if c.sentinels == nil {
			c.sentinels = map[civil.Day]int{}
		}
		c.sentinels[day] += count
	}
}

func (c *Coverage) widen(day civil.Day) {
	if !c.any {
		c.first, c.last, c.any = day, day, true
	}
	c.first, c.last = min(c.first, day), max(c.last, day)
}

// Range returns the first and the last day needed; it is false when no day
// was seen. A sentinel day counts like any other when it lies within a year of
// the others, or when there are no others.
func (c *Coverage) Range() (first, last civil.Day, ok bool) {
	wide := *c
	for _, sentinel := range c.sorted() {
		if !c.any || c.near(sentinel.Day) {
			wide.widen(sentinel.Day)
		}
	}
	return wide.first, wide.last, wide.any
}

// Sentinels returns the days that were left out of the range, in time order.
func (c *Coverage) Sentinels() []DayCount {
	if !c.any {
		return nil
	}
	return slices.DeleteFunc(c.sorted(), func(sentinel DayCount) bool { return c.near(sentinel.Day) })
}

func (c *Coverage) near(day civil.Day) bool {
	return day >= c.first-366 && day <= c.last+366
}

func (c *Coverage) sorted() []DayCount {
	var counts []DayCount
	for day, count := range c.sentinels {
		counts = append(counts, DayCount{day, count})
	}
	slices.SortFunc(counts, func(a, b DayCount) int { return int(a.Day - b.Day) })
	return counts
}
