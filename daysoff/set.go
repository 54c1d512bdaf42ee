package daysoff

import (
	"slices"
	"strings"
	"sync"
	"sync/atomic"

	"roundyear/civil"
)

// DayOff is one occurrence of a rule.
type DayOff struct {
	Rule *Rule
	// Own is the day it falls on, TakenOn the day it is taken; mostly the same.
	Own, TakenOn civil.Day
}

// IsExpected tells whether its day is not announced yet.
func (d DayOff) IsExpected() bool {
	return d.Rule.AnnouncedTo > 0 && d.Own.Year() > d.Rule.AnnouncedTo
}

// IsMoved tells whether it is taken on another day than its own.
func (d DayOff) IsMoved() bool { return d.Own != d.TakenOn }

// Set is the days off of one business or place, and its weekend. It works
// years out when they are first asked for, and serves several goroutines.
type Set struct {
	rules []*Rule
	// order is the place of each rule among them.
	order map[*Rule]int
	// groups are the rules of each region, and at last those of none.
	groups  [][]*Rule
	weekend []civil.Weekday
	// rests tells of each weekday whether it is of the weekend.
	rests [8]bool

	mutex sync.Mutex
	years [civilYears]atomic.Pointer[year]
	// placed are the days off whose own day lies in a year, by their own days, and
	// alone the same as if nothing of the year before went to a free day.
	placed, alone [civilYears][]DayOff

	stretches [stretches]atomic.Pointer[stretch]

	counting sync.Mutex
	// before counts of each year from counted.from to counted.to the days without
	// work, weekends aside, from the year of origin up to it.
	before  [civilYears]int
	counted atomic.Pointer[struct{ from, to int }]
}

const (
	// firstYear is the first year that days off are worked out for, the first
	// whole one of the Gregorian calendar, and lastYear the last of four digits.
	firstYear = 1583
	lastYear  = 9999
	// civilYears has room for what is taken in the year after the last.
	civilYears = lastYear + 2
	stretches  = (lastYear-firstYear+1)*366/stretchDays + 1
)

// year is the days off of one year.
type year struct {
	// falling are those whose own day, taken those whose taken day lies in the
	// year, each in time order.
	falling, taken []DayOff
	// off are the days on which work rests though they are no weekend.
	off []civil.Day
	// worked are the days of weekends that are worked.
	worked []civil.Day
	// holidays are the days on which a holiday falls or is taken.
	holidays []civil.Day
}

// NewSet returns the days off of some rules with a weekend.
func NewSet(rules []*Rule, weekend []civil.Weekday) *Set {
	weekend = slices.Clone(weekend)
	slices.Sort(weekend)
	s := &Set{weekend: slices.Compact(weekend), order: make(map[*Rule]int, len(rules))}
	// Two parts of a country share its rules.
	for _, rule := range rules {
		if _, known := s.order[rule]; !known {
			s.order[rule] = len(s.rules)
			s.rules = append(s.rules, rule)
		}
	}
	s.groups = groups(s.rules)
	for _, weekday := range s.weekend {
		s.rests[weekday] = true
	}
	s.counted.Store(&struct{ from, to int }{originYear, originYear})
	return s
}

// Rules returns the rules of the set.
func (s *Set) Rules() []*Rule { return s.rules }

// Weekend returns the weekdays of the weekend, in their order.
func (s *Set) Weekend() []civil.Weekday { return s.weekend }

// IsWeekend tells whether a day is one of the weekend.
func (s *Set) IsWeekend(day civil.Day) bool { return s.rests[day.Weekday()] }

// noDaysOff is a year for which none are worked out.
var noDaysOff year

// of returns the year, worked out.
func (s *Set) of(number int) *year {
	if number < firstYear || number > lastYear {
		return &noDaysOff
	}
	if known := s.years[number].Load(); known != nil {
		return known
	}
	s.mutex.Lock()
	defer s.mutex.Unlock()
	if s.years[number].Load() == nil {
		s.years[number].Store(s.workOut(number))
	}
	return s.years[number].Load()
}

// workOut gathers a year: what falls in it, and what is taken in it of this and
// the years beside it.
func (s *Set) workOut(number int) *year {
	y := &year{}
	for near := number - 1; near <= number+1; near++ {
		if s.placed[near] == nil {
			s.placed[near] = s.place(near, false)
		}
		for _, one := range s.placed[near] {
			if one.TakenOn.Year() == number {
				y.taken = append(y.taken, one)
			}
		}
	}
	y.falling = s.placed[number]
	slices.SortStableFunc(y.taken, func(a, b DayOff) int { return int(a.TakenOn - b.TakenOn) })
	for _, one := range y.taken {
		s.rest(y, one.Rule, one.TakenOn)
		if one.Rule.Kind == Worked && s.IsWeekend(one.TakenOn) {
			y.worked = append(y.worked, one.TakenOn)
		}
		if one.Rule.Kind.IsHoliday() {
			y.holidays = append(y.holidays, one.TakenOn)
		}
	}
	for _, one := range y.falling {
		if one.Rule.Kind.IsHoliday() {
			y.holidays = append(y.holidays, one.Own)
		}
		if one.IsMoved() && one.Rule.KeepBoth {
			s.rest(y, one.Rule, one.Own)
		}
	}
	slices.Sort(y.off)
	y.off = slices.Compact(y.off)
	y.worked = slices.Compact(y.worked)
	slices.Sort(y.holidays)
	return y
}

func (s *Set) rest(y *year, rule *Rule, day civil.Day) {
	if rule.Kind.IsOff() && !rule.Half && !s.IsWeekend(day) {
		y.off = append(y.off, day)
	}
}

// Between returns the days off whose own day or taken day lies in a range, by
// their own days.
func (s *Set) Between(from, to civil.Day) []DayOff {
	var all []DayOff
	for number := from.Year() - 1; number <= to.Year()+1; number++ {
		for _, one := range s.of(number).falling {
			if one.Own >= from && one.Own <= to || one.TakenOn >= from && one.TakenOn <= to {
				all = append(all, one)
			}
		}
	}
	return all
}

// Collision is a day off that is moved onto another one, so that one is lost.
type Collision struct{ Moved, Other DayOff }

// Collisions returns the moves within a range that land on another day off, the
// first of each rule.
func (s *Set) Collisions(from, to civil.Day) []Collision {
	var all []Collision
	seen := map[*Rule]bool{}
	for _, one := range s.Between(from, to) {
		if !one.IsMoved() || seen[one.Rule] || !one.Rule.Kind.IsOff() {
			continue
		}
		for _, other := range s.Taken(one.TakenOn) {
			if other.Rule != one.Rule && other.Rule.Kind.IsOff() {
				seen[one.Rule] = true
				all = append(all, Collision{one, other})
				break
			}
		}
	}
	return all
}

// Falling returns the days off whose own day is a day, in the order of the
// rules.
func (s *Set) Falling(day civil.Day) []DayOff {
	if !s.HasDaysOff(day) {
		return nil
	}
	return onDay(s.of(day.Year()).falling, day, func(d DayOff) civil.Day { return d.Own })
}

// Taken returns the days off that are taken on a day.
func (s *Set) Taken(day civil.Day) []DayOff {
	if !s.HasDaysOff(day) {
		return nil
	}
	return onDay(s.of(day.Year()).taken, day, func(d DayOff) civil.Day { return d.TakenOn })
}

func onDay(all []DayOff, day civil.Day, of func(DayOff) civil.Day) []DayOff {
	first, _ := slices.BinarySearchFunc(all, day, func(d DayOff, day civil.Day) int { return int(of(d) - day) })
	end := first
	for end < len(all) && of(all[end]) == day {
		end++
	}
	return all[first:end]
}

// JoinedNames joins the names of days off in their order, each once.
func JoinedNames(all []DayOff, language string) string {
	var names []string
	for _, one := range all {
		name := one.Rule.NameIn(language)
		if !slices.Contains(names, name) {
			names = append(names, name)
		}
	}
	return strings.Join(names, "; ")
}

// NameIn returns the rule's name in a language, by its tag, or its own name.
func (r *Rule) NameIn(language string) string {
	for tag := strings.ToLower(language); tag != ""; tag = tag[:max(strings.LastIndexByte(tag, '-'), 0)] {
		if name := r.Names[tag]; name != "" {
			return name
		}
	}
	return r.Name
}
