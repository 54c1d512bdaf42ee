package daysoff

import (
	"fmt"
	"slices"
	"strings"

	"roundyear/civil"
)

// When says on which days of a year something falls.
type When interface {
	// In returns the days of a Gregorian year, in time order.
	In(year int) []civil.Day
	// Words says it for people: "the first Monday of May".
	Words() string
}

// OnDate is the same date each year. On 29 February it falls in leap years
// alone.
type OnDate struct {
	Month civil.Month
	Day   int
	// OnlyOn are the weekdays on which it falls; none means any.
	OnlyOn []civil.Weekday
}

// In returns the date.
func (w OnDate) In(year int) []civil.Day {
	day, ok := civil.Of(year, w.Month, w.Day)
	if !ok || len(w.OnlyOn) > 0 && !slices.Contains(w.OnlyOn, day.Weekday()) {
		return nil
	}
	return []civil.Day{day}
}

// Words says the date.
func (w OnDate) Words() string {
	text := fmt.Sprintf("%d %s", w.Day, w.Month)
	if len(w.OnlyOn) > 0 {
		var names []string
		for _, weekday := range w.OnlyOn {
			names = append(names, weekday.String())
		}
		text += " if it is a " + strings.Join(names, " or ")
	}
	return text
}

// NthWeekday is the nth of a weekday in a month, or in each month when there is
// none; -1 is the last.
type NthWeekday struct {
	Weekday civil.Weekday
	Nth     int
	Month   civil.Month
}

// In returns the day, if the month has so many of the weekday.
func (w NthWeekday) In(year int) []civil.Day {
	if w.Month == 0 {
		var days []civil.Day
		for month := civil.January; month <= civil.December; month++ {
			days = append(days, NthWeekday{w.Weekday, w.Nth, month}.In(year)...)
		}
		return days
	}
	if w.Nth < 0 {
		last := civil.FirstOfMonth(year, w.Month+1) - 1
		day := w.Weekday.OnOrBefore(last) + civil.Day(7*(w.Nth+1))
		if _, month, _ := day.Date(); month != w.Month {
			return nil
		}
		return []civil.Day{day}
	}
	first := civil.FirstOfMonth(year, w.Month)
	day := w.Weekday.OnOrBefore(first+6) + civil.Day(7*(w.Nth-1))
	if _, month, _ := day.Date(); month != w.Month {
		return nil
	}
	return []civil.Day{day}
}

// Words says which weekday.
func (w NthWeekday) Words() string {
	ordinal, known := map[int]string{1: "first", 2: "second", 3: "third", 4: "fourth", 5: "fifth", -1: "last", -2: "last but one"}[w.Nth]
	if !known {
		ordinal = fmt.Sprintf("%dth", w.Nth)
	}
	if w.Month == 0 {
		return fmt.Sprintf("the %s %s of each month", ordinal, w.Weekday)
	}
	return fmt.Sprintf("the %s %s of %s", ordinal, w.Weekday, w.Month)
}

// NearDate is a weekday on or after, or on or before, a date.
type NearDate struct {
	Weekday civil.Weekday
	Before  bool
	Month   civil.Month
	Day     int
}

// In returns the day.
func (w NearDate) In(year int) []civil.Day {
	date, ok := civil.Of(year, w.Month, w.Day)
	switch {
	case !ok:
		return nil
	case w.Before:
		return []civil.Day{w.Weekday.OnOrBefore(date)}
	}
	return []civil.Day{w.Weekday.OnOrBefore(date + 6)}
}

// Words says the weekday and the date.
func (w NearDate) Words() string {
	if w.Before {
		return fmt.Sprintf("the %s on or before %d %s", w.Weekday, w.Day, w.Month)
	}
	return fmt.Sprintf("the %s on or after %d %s", w.Weekday, w.Day, w.Month)
}

// FromEaster is so many days from Easter Sunday.
type FromEaster struct {
	Days     int
	Orthodox bool
}

// In returns the day.
func (w FromEaster) In(year int) []civil.Day {
	if w.Orthodox {
		return []civil.Day{OrthodoxEaster(year) + civil.Day(w.Days)}
	}
	return []civil.Day{Easter(year) + civil.Day(w.Days)}
}

// Words says how many days before or after.
func (w FromEaster) Words() string {
	name := "Easter Sunday"
	if w.Orthodox {
		name = "orthodox Easter Sunday"
	}
	switch {
	case w.Days == 0:
		return name
	case w.Days < 0:
		return fmt.Sprintf("%s before %s", countOfDays(-w.Days), name)
	}
	return fmt.Sprintf("%s after %s", countOfDays(w.Days), name)
}

func countOfDays(count int) string {
	if count == 1 {
		return "1 day"
	}
	return fmt.Sprintf("%d days", count)
}

// OnDates is single dates.
type OnDates []civil.Day

// In returns those of the year.
func (w OnDates) In(year int) []civil.Day {
	var days []civil.Day
	for _, day := range w {
		if day.Year() == year {
			days = append(days, day)
		}
	}
	slices.Sort(days)
	return days
}

// maxListed is how many single dates are listed in words.
const maxListed = 6

// Words lists the dates, or says how many there are.
func (w OnDates) Words() string {
	var texts []string
	if len(w) > maxListed {
		return fmt.Sprintf("%d single dates from %s to %s", len(w), slices.Min(w), slices.Max(w))
	}
	for _, day := range w {
		texts = append(texts, day.String())
	}
	return strings.Join(texts, ", ")
}

// Either is the first of several that falls in the year.
type Either []When

// In returns the days of the first that has any.
func (w Either) In(year int) []civil.Day {
	for _, one := range w {
		if days := one.In(year); len(days) > 0 {
			return days
		}
	}
	return nil
}

// Words says all of them.
func (w Either) Words() string {
	var texts []string
	for _, one := range w {
		texts = append(texts, one.Words())
	}
	return strings.Join(texts, ", else ")
}

// All is all of several.
type All []When

// In returns the days of all of them.
func (w All) In(year int) []civil.Day {
	var days []civil.Day
	for _, one := range w {
		days = append(days, one.In(year)...)
	}
	slices.Sort(days)
	return slices.Compact(days)
}

// Words says all of them.
func (w All) Words() string {
	var texts []string
	for _, one := range w {
		texts = append(texts, one.Words())
	}
	return strings.Join(texts, ", and ")
}

// Span is some days from another day on: shifted by so many days, earlier when
// negative, and lasting for so many.
type Span struct {
	From  When
	Shift int
	Lasts int
}

// In returns the days of the year, which may come from a day of another.
func (w Span) In(year int) []civil.Day {
	lasts := civil.Day(max(w.Lasts, 1))
	first, last := civil.FirstOfYear(year), civil.FirstOfYear(year+1)-1
	var starts []civil.Day
	for near := year - 1; near <= year+1; near++ {
		starts = append(starts, w.From.In(near)...)
	}
	slices.Sort(starts)
	var all []civil.Day
	next := first // the first day that is not taken yet
	for _, start := range starts {
		start += civil.Day(w.Shift)
		for day := max(start, next); day <= min(start+lasts-1, last); day++ {
			all = append(all, day)
			next = day + 1
		}
	}
	return all
}

// Words says from when on, and for how long.
func (w Span) Words() string {
	text := w.From.Words()
	if w.Lasts > 1 && w.Shift == 0 {
		return fmt.Sprintf("%s from %s on", countOfDays(w.Lasts), text)
	}
	switch {
	case w.Shift < 0:
		text = fmt.Sprintf("%s before %s", countOfDays(-w.Shift), text)
	case w.Shift > 0:
		text = fmt.Sprintf("%s after %s", countOfDays(w.Shift), text)
	}
	if w.Lasts > 1 {
		return fmt.Sprintf("%s, the first %s", countOfDays(w.Lasts), text)
	}
	return text
}
