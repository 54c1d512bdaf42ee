package daysoff

import (
	"maps"
	"slices"

	"roundyear/civil"
)

// groups divides rules by their regions, since what one country moves around its
// own days off has nothing to do with those of another. Those of no region come
// last and go around all.
func groups(rules []*Rule) [][]*Rule {
	var regions []string
	byRegion := map[string][]*Rule{}
	for _, rule := range rules {
		if _, known := byRegion[rule.Region]; !known {
			regions = append(regions, rule.Region)
		}
		byRegion[rule.Region] = append(byRegion[rule.Region], rule)
	}
	var all [][]*Rule
	for _, region := range regions {
		if region != "" {
			all = append(all, byRegion[region])
		}
	}
	return append(all, byRegion[""])
}

// days is a set of days.
type days map[civil.Day]bool

// place finds what falls in a year and when it is taken, by the own days. What
// goes to a free day at the turn of the year goes around what the year before
// has sent there, unless the year is placed alone.
func (s *Set) place(number int, alone bool) []DayOff {
	all := []DayOff{}
	for i, group := range s.groups {
		taken := days{}
		around := group
		if i == len(s.groups)-1 {
			around = s.rules
			for _, one := range all {
				if one.Rule.Kind.IsOff() {
					taken[one.TakenOn] = true
				}
			}
		}
		all = append(all, s.placeGroup(group, around, number, taken, alone)...)
	}
	slices.SortStableFunc(all, func(a, b DayOff) int {
		if a.Own != b.Own {
			return int(a.Own - b.Own)
		}
		return s.order[a.Rule] - s.order[b.Rule]
	})
	return all
}

// placeGroup places the rules of a region around each other and what is taken
// already, and at the turn of a year around those of the years beside it. Those
// that go to the next free day come last, in time order, since they go around the
// others: first those that can stay where they are, then those that cannot.
func (s *Set) placeGroup(rules, around []*Rule, number int, taken days, alone bool) []DayOff {
	var all, waiting []DayOff
	for _, rule := range rules {
		for _, own := range rule.falls(number) {
			if rule.goesAround(own) {
				waiting = append(waiting, DayOff{rule, own, own})
				continue
			}
			one := DayOff{rule, own, rule.moved(own)}
			if rule.Kind.IsOff() {
				taken[one.TakenOn] = true
			}
			all = append(all, one)
		}
	}
	for _, one := range between(rules, number, taken, waiting) {
		taken[one.TakenOn] = true
		all = append(all, one)
	}
	slices.SortStableFunc(waiting, func(a, b DayOff) int { return int(a.Own - b.Own) })
	var going []DayOff
	for _, one := range waiting {
		stays := !taken[one.Own] && (!s.IsWeekend(one.Own) || !one.Rule.goesFrom(one.Own))
		if len(one.Rule.ObserveFrom) > 0 && one.Rule.goesFrom(one.Own) || !stays {
			going = append(going, one)
			continue
		}
		taken[one.Own] = true
		all = append(all, one)
	}
	looked := false
	for _, one := range going {
		if !looked && (one.Own-turn < civil.FirstOfYear(number) || one.Own+turn >= civil.FirstOfYear(number+1)) {
			s.takeBeside(taken, around, number, alone)
			looked = true
		}
		one.TakenOn = s.free(one, taken)
		taken[one.TakenOn] = true
		all = append(all, one)
	}
	return all
}

// turn is how many days from the turn of a year what goes to a free day may meet
// the days off of the other year.
const turn = 14

// takeBeside adds the days near to a year on which days off of the years beside
// it are taken. Time goes forward: what of the year before has gone to a free day
// is there already, what of the year after has to is not.
func (s *Set) takeBeside(taken days, rules []*Rule, number int, alone bool) {
	near := func(day civil.Day) bool {
		return day >= civil.FirstOfYear(number)-turn && day < civil.FirstOfYear(number+1)+turn
	}
	if !alone && number > firstYear {
		if s.alone[number-1] == nil {
			s.alone[number-1] = s.place(number-1, true)
		}
		among := make(map[*Rule]bool, len(rules))
		for _, rule := range rules {
			among[rule] = true
		}
		for _, one := range s.alone[number-1] {
			if one.Rule.Kind.IsOff() && among[one.Rule] && near(one.TakenOn) {
				taken[one.TakenOn] = true
			}
		}
	}
	for _, year := range []int{number - 1, number + 1} {
		if year < number && !alone {
			continue
		}
		for _, rule := range rules {
			if !rule.Kind.IsOff() {
				continue
			}
			for _, own := range rule.falls(year) {
				day := rule.moved(own)
				if rule.goesAround(own) && s.IsWeekend(own) {
					continue
				}
				if near(day) {
					taken[day] = true
				}
			}
		}
	}
}

// between returns the days between two holidays of a year, for the rules that
// make days off of them. Those still waiting count by their own days.
func between(rules []*Rule, number int, taken days, waiting []DayOff) []DayOff {
	var all []DayOff
	for _, rule := range rules {
		if _, ok := rule.When.(Between); !ok {
			continue
		}
		holidays := slices.Collect(maps.Keys(taken))
		for _, one := range waiting {
			holidays = append(holidays, one.Own)
		}
		slices.Sort(holidays)
		holidays = slices.Compact(holidays)
		for i := range max(len(holidays)-1, 0) {
			day := holidays[i] + 1
			if holidays[i+1] == day+1 && day.Year() == number && day.Weekday() != civil.Sunday && rule.bounds(day) {
				all = append(all, DayOff{rule, day, day})
			}
		}
	}
	return all
}

// free returns the day on which one that goes around others is taken.
func (s *Set) free(one DayOff, taken days) civil.Day {
	isFree := func(day civil.Day) bool {
		return !taken[day] && (!s.IsWeekend(day) || len(s.weekend) == 7)
	}
	for away := civil.Day(0); away < maxIdle; away++ {
		if one.Rule.Nearest && isFree(one.Own-away) {
			return one.Own - away
		}
		if isFree(one.Own + away) {
			return one.Own + away
		}
	}
	return one.Own
}
