package daysoff

import (
	"slices"

	"roundyear/civil"
)

// IsWorkday tells whether work is done on a day: it is no weekend, or one that
// is worked in exchange, and no whole day off is taken on it.
func (s *Set) IsWorkday(day civil.Day) bool {
	if s.IsWeekend(day) {
		_, worked := slices.BinarySearch(s.of(day.Year()).worked, day)
		return worked
	}
	_, off := slices.BinarySearch(s.of(day.Year()).off, day)
	return !off
}

// number counts the workdays from the beginning of the year 1583 up to a day,
// the day itself in.
func (s *Set) number(day civil.Day) int {
	origin := civil.FirstOfYear(firstYear)
	weeks, rest := int(day-origin+1)/7, int(day-origin+1)%7
	if day < origin-1 {
		return 0
	}
	count := weeks * (7 - len(s.weekend))
	for i := range rest {
		if !s.IsWeekend(day - civil.Day(i)) {
			count++
		}
	}
	y := s.of(day.Year())
	off, found := slices.BinarySearch(y.off, day)
	if found {
		off++
	}
	worked, found := slices.BinarySearch(y.worked, day)
	if found {
		worked++
	}
	return count - y.before - off + worked
}

// Number returns the running number of workdays: that of a workday is one more
// than that of the workday before; other days have the number of the one before.
func (s *Set) Number(day civil.Day) int { return s.number(day) }

// Count returns the workdays of a range, both ends in.
func (s *Set) Count(from, to civil.Day) int { return s.number(to) - s.number(from-1) }

// mostIdle is more days in a row than any business rests.
const mostIdle = 400

// Next returns the first workday after a day; it is false when none comes
// within 400 days.
func (s *Set) Next(day civil.Day) (civil.Day, bool) {
	for next := day + 1; next <= day+mostIdle; next++ {
		if s.IsWorkday(next) {
			return next, true
		}
	}
	return 0, false
}

// Previous returns the last workday before a day.
func (s *Set) Previous(day civil.Day) (civil.Day, bool) {
	for previous := day - 1; previous >= day-mostIdle; previous-- {
		if s.IsWorkday(previous) {
			return previous, true
		}
	}
	return 0, false
}

// Break returns the run of days without work that a day lies in, if it has at
// least three days and a day off among them: a long weekend.
func (s *Set) Break(day civil.Day) (first, last civil.Day, ok bool) {
	if s.IsWorkday(day) {
		return 0, 0, false
	}
	first, last = day, day
	for last-first < mostIdle && !s.IsWorkday(first-1) {
		first--
	}
	for last-first < mostIdle && !s.IsWorkday(last+1) {
		last++
	}
	hasOff := false
	for one := first; one <= last; one++ {
		hasOff = hasOff || !s.IsWeekend(one)
	}
	return first, last, hasOff && last-first >= 2
}

// NextHoliday returns the first day from a day on, the day itself in, on which
// a holiday falls or is taken; it is false when none comes within 400 days.
func (s *Set) NextHoliday(day civil.Day) (civil.Day, bool) {
	for year := day.Year(); year <= day.Year()+1; year++ {
		holidays := s.of(year).holidays
		if next, _ := slices.BinarySearch(holidays, day); next < len(holidays) && holidays[next]-day <= mostIdle {
			return holidays[next], true
		}
	}
	return 0, false
}
