package daysoff

import (
	"slices"

	"roundyear/civil"
)

// A stretch is what is asked most often of some days that follow each other, so
// that asking costs no search.
type stretch struct {
	marks [stretchDays]mark
	// numbers are the running numbers of workdays.
	numbers [stretchDays]int32
}

const stretchDays = 512

type mark uint8

const (
	// isWorkday marks a workday, hasDaysOff a day on which something falls or is
	// taken.
	isWorkday mark = 1 << iota
	hasDaysOff
)

var (
	firstDay = civil.FirstOfYear(firstYear)
	lastDay  = civil.FirstOfYear(lastYear+1) - 1
)

// stretchOf returns the stretch that a day lies in, and its index in it; nil when
// no days off are worked out for the day.
func (s *Set) stretchOf(day civil.Day) (*stretch, int) {
	if day < firstDay || day > lastDay {
		return nil, 0
	}
	number, index := int(day-firstDay)/stretchDays, int(day-firstDay)%stretchDays
	known := s.stretches[number].Load()
	if known == nil {
		// Whoever comes at the same time finds the same.
		known = s.stretchFrom(day - civil.Day(index))
		s.stretches[number].Store(known)
	}
	return known, index
}

func (s *Set) stretchFrom(first civil.Day) *stretch {
	found := &stretch{}
	for index := range stretchDays {
		if !s.IsWeekend(first + civil.Day(index)) {
			found.marks[index] = isWorkday
		}
	}
	within := func(day civil.Day) (int, bool) { return int(day - first), day >= first && day < first+stretchDays }
	for number := first.Year(); number <= (first + stretchDays - 1).Year(); number++ {
		y := s.of(number)
		for _, day := range y.off {
			if index, ok := within(day); ok {
				found.marks[index] &^= isWorkday
			}
		}
		for _, day := range y.worked {
			if index, ok := within(day); ok {
				found.marks[index] |= isWorkday
			}
		}
		for _, one := range y.falling {
			if index, ok := within(one.Own); ok {
				found.marks[index] |= hasDaysOff
			}
		}
		for _, one := range y.taken {
			if index, ok := within(one.TakenOn); ok {
				found.marks[index] |= hasDaysOff
			}
		}
	}
	number := int32(s.count(first - 1))
	for index, mark := range found.marks {
		if mark&isWorkday != 0 {
			number++
		}
		found.numbers[index] = number
	}
	return found
}

// IsWorkday tells whether work is done on a day: it is no weekend, or one that
// is worked in exchange, and no whole day off is taken on it.
func (s *Set) IsWorkday(day civil.Day) bool {
	if known, index := s.stretchOf(day); known != nil {
		return known.marks[index]&isWorkday != 0
	}
	return !s.IsWeekend(day)
}

// HasDaysOff tells whether a day off falls or is taken on a day.
func (s *Set) HasDaysOff(day civil.Day) bool {
	known, index := s.stretchOf(day)
	return known != nil && known.marks[index]&hasDaysOff != 0
}

// Number returns the running number of workdays, counted from 1 January 1970:
// that of a workday is one more than that of the workday before; other days have
// the number of the one before.
func (s *Set) Number(day civil.Day) int {
	if known, index := s.stretchOf(day); known != nil {
		return int(known.numbers[index])
	}
	return s.count(day)
}

// originYear is the year from whose first day on workdays are counted.
const originYear = 1970

var origin = civil.FirstOfYear(originYear)

// count counts the workdays from the origin up to a day, the day itself in;
// before it they count backwards.
func (s *Set) count(day civil.Day) int {
	passed := int(day - origin + 1)
	weeks, rest := passed/7, passed%7
	if rest < 0 {
		weeks, rest = weeks-1, rest+7
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
	return count - s.offBefore(day.Year()) - off + worked
}

// offBefore counts the days off from the origin up to a year, less the days of
// weekends that are worked.
func (s *Set) offBefore(number int) int {
	number = min(max(number, firstYear), lastYear+1)
	if known := s.counted.Load(); number >= known.from && number <= known.to {
		return s.before[number]
	}
	s.counting.Lock()
	defer s.counting.Unlock()
	known := *s.counted.Load()
	for ; known.to < number; known.to++ {
		s.before[known.to+1] = s.before[known.to] + s.of(known.to).idle()
	}
	for ; known.from > number; known.from-- {
		s.before[known.from-1] = s.before[known.from] - s.of(known.from-1).idle()
	}
	s.counted.Store(&known)
	return s.before[number]
}

// idle counts the days off, less the days of weekends that are worked.
func (y *year) idle() int { return len(y.off) - len(y.worked) }

// Count returns the workdays of a range, both ends in.
func (s *Set) Count(from, to civil.Day) int { return s.Number(to) - s.Number(from-1) }

// maxIdle is more days in a row than any business rests.
const maxIdle = 400

// Next returns the first workday after a day; it is false when none comes
// within 400 days.
func (s *Set) Next(day civil.Day) (civil.Day, bool) {
	for next := day + 1; next <= day+maxIdle; next++ {
		if s.IsWorkday(next) {
			return next, true
		}
	}
	return 0, false
}

// Previous returns the last workday before a day.
func (s *Set) Previous(day civil.Day) (civil.Day, bool) {
	for previous := day - 1; previous >= day-maxIdle; previous-- {
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
	for last-first < maxIdle && !s.IsWorkday(first-1) {
		first--
	}
	for last-first < maxIdle && !s.IsWorkday(last+1) {
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
	if len(s.rules) == 0 {
		return 0, false
	}
	for year := day.Year(); year <= day.Year()+1; year++ {
		holidays := s.of(year).holidays
		if next, _ := slices.BinarySearch(holidays, day); next < len(holidays) && holidays[next]-day <= maxIdle {
			return holidays[next], true
		}
	}
	return 0, false
}
