package dimension

import (
	"fmt"
	"strings"

	"roundyear/calendar"
	"roundyear/civil"
	"roundyear/daysoff"
)

// DaysOff is the days off of a place or business beside others.
type DaysOff struct {
	// Prefix goes before its columns, and is their group; the main set has none
	// and the group workdays.
	Prefix string
	Set    *daysoff.Set
	// Regions are the regions that the set is made of.
	Regions []Region
}

// Region is a region of a set of days off, by its code, with its rules.
type Region struct {
	Code  string
	Rules []*daysoff.Rule
}

// addWorkdays adds what tells days on which business is done from others.
func (c *Catalogue) addWorkdays() {
	sets := c.settings.DaysOff
	if len(sets) == 0 || sets[0].Prefix != "" {
		sets = append([]DaysOff{{Set: daysoff.NewSet(nil, c.settings.Weekend)}}, sets...)
	}
	c.settings.DaysOff = sets
	for i, one := range sets {
		c.group = one.Prefix
		prefix, adjective := "", ""
		if one.Prefix == "" {
			c.group = Workdays
		} else {
			prefix, adjective = one.Prefix+"_", one.Prefix+" "
		}
		s := &workdaySet{one.Set, c.settings.Languages[0].Tag, i}
		c.sets = append(c.sets, s)
		c.addKindOfDay(s, prefix, adjective)
		if len(one.Regions) > 1 {
			c.addRegions(s, one.Regions, prefix)
		}
		c.addCounts(s, prefix, adjective)
		c.addNeighbours(s, prefix, adjective)
	}
	if len(c.sets) > 1 {
		c.group = Workdays
		c.addTogether(c.sets)
	}
}

// addTogether adds what several sets of days off have in common.
func (c *Catalogue) addTogether(all []*workdaySet) {
	for _, one := range []struct {
		what string
		is   func(*setDay) bool
	}{
		{"workday", func(d *setDay) bool { return d.workday }},
		{"holiday", func(d *setDay) bool { return d.holiday }},
	} {
		split := func(r *row) (yes, no []string) {
			for i, s := range all {
				name := "the main set"
				if prefix := c.settings.DaysOff[i].Prefix; prefix != "" {
					name = prefix
				}
				if one.is(s.at(r)) {
					yes = append(yes, name)
				} else {
					no = append(no, name)
				}
			}
			return yes, no
		}
		why := func(r *row) string {
			yes, no := split(r)
			return fmt.Sprintf("a %s in: %s; not in: %s", one.what, orNone(yes), orNone(no))
		}
		count := func(r *row) int {
			found := 0
			for _, s := range all {
				if one.is(s.at(r)) {
					found++
				}
			}
			return found
		}
		day := c.dayGrain()
		c.boolean("is_"+one.what+"_everywhere", day, "The date is a "+one.what+" in the main set and in all sets with a prefix.", of[bool]{func(r *row) bool { return count(r) == len(all) }, why})
		c.boolean("is_"+one.what+"_somewhere", day, "The date is a "+one.what+" in the main set or in one with a prefix.", of[bool]{func(r *row) bool { return count(r) > 0 }, why})
	}
}

func orNone(names []string) string {
	if len(names) == 0 {
		return "nobody"
	}
	return strings.Join(names, ", ")
}

func (c *Catalogue) addKindOfDay(s *workdaySet, prefix, adjective string) {
	day := c.dayGrain()
	c.kept = s.index + 1
	defer func() { c.kept = 0 }()
	c.boolean("is_"+prefix+"weekend", day, "The date is on the "+adjective+"weekend.", of[bool]{func(r *row) bool { return s.at(r).weekend }, s.whyWeekend})
	c.boolean("is_"+prefix+"workday", day, "The date is not on the "+adjective+"weekend, or is a weekend day worked in exchange, and no full day off is taken on it.", of[bool]{func(r *row) bool { return s.at(r).workday }, s.why})
	c.boolean("is_"+prefix+"holiday", day, "A "+adjective+"holiday falls on the date, whenever it is taken.", of[bool]{func(r *row) bool { return s.at(r).holiday }, s.why})
	c.boolean("is_"+prefix+"observed", day, "A "+adjective+"holiday that falls on another day is taken on the date.", of[bool]{func(r *row) bool { return s.at(r).observed }, s.why})
	c.boolean("is_"+prefix+"half_day", day, "Half of the day is off.", of[bool]{func(r *row) bool { return s.at(r).half }, s.why})
	c.boolean("is_"+prefix+"holiday_expected", day, "A "+adjective+"holiday on the date is not announced yet and may still move.", of[bool]{func(r *row) bool { return s.at(r).expected }, s.why})
	c.text(prefix+"holiday_name", day, "", "Names of the days off that fall or are taken on the date, in the order of the plan.", of[string]{func(r *row) string {
		if here := s.at(r).here; len(here) > 0 {
			return daysoff.JoinedNames(here, s.language)
		}
		return ""
	}, s.why})
	c.text(prefix+"holiday_kind", day, "", "Kind of the first of them: statutory, bank, elective, marked, closure or worked.", of[string]{func(r *row) string {
		if here := s.at(r).here; len(here) > 0 {
			return string(here[0].Rule.Kind)
		}
		return ""
	}, s.why})
	c.text(prefix+"day_kind", day, "", "Kind of day: workday, weekend, holiday, closure or half day.", of[string]{func(r *row) string { return s.at(r).kind }, s.why})
}

// addRegions adds which of the regions of a set have a holiday.
func (c *Catalogue) addRegions(s *workdaySet, regions []Region, prefix string) {
	c.kept = s.index + 1
	defer func() { c.kept = 0 }()
	for _, region := range regions {
		isHoliday := map[*daysoff.Rule]bool{}
		for _, rule := range region.Rules {
			isHoliday[rule] = rule.Kind.IsHoliday()
		}
		name := "is_" + prefix + "holiday_in_" + strings.ReplaceAll(strings.ToLower(region.Code), "-", "_")
		c.boolean(name, c.dayGrain(), "A holiday of "+region.Code+" falls on the date, whenever it is taken.", of[bool]{func(r *row) bool {
			for _, one := range s.at(r).here {
				if one.Own == r.day && isHoliday[one.Rule] {
					return true
				}
			}
			return false
		}, s.why})
	}
}

// addCounts adds workdays in, of and left in the periods of the calendar year
// and of each fiscal one.
func (c *Catalogue) addCounts(s *workdaySet, prefix, adjective string) {
	set, day := c.settings.Calendars, c.dayGrain()
	calendars := []calendar.Calendar{set.Year}
	calendars = append(calendars, set.Fiscal...)
	for _, one := range calendars {
		name, words := "", ""
		if one != calendar.Calendar(set.Year) {
			name, words = one.Name()+"_", one.Name()+" "
			c.bounded, _ = one.(calendar.Bounded)
		}
		for _, unit := range []calendar.Unit{calendar.Month, calendar.Quarter, calendar.Year} {
			if !hasUnit(one, unit) {
				continue
			}
			p := c.follow(one, unit)
			what := words + unit.String()
			soFar := func(r *row) int { d := s.at(r); return d.number - s.count(d, r, p).before }
			counted := func(r *row) string {
				return fmt.Sprintf("%s starts on %s; the workdays from there to the date are counted", r.tracks[p.index].label, p.period(r).First)
			}
			c.integer(prefix+name+"workday_of_"+unit.String(), day, fmt.Sprintf("Number of the date among the %s of the %s, from 1; blank if it is not one.", adjective+"workdays", what), of[int]{
				func(r *row) int {
					if !s.at(r).workday {
						return noNumber
					}
					return soFar(r)
				},
				func(r *row) string {
					if !s.at(r).workday {
						return "the date is not a workday"
					}
					return counted(r)
				}})
			c.integer(prefix+name+"workdays_so_far_in_"+unit.String(), day, fmt.Sprintf("%s in the %s up to and including the date.", capital(adjective+"workdays"), what), of[int]{soFar, counted})
			c.integer(prefix+name+"workdays_in_"+unit.String(), p.grain, fmt.Sprintf("%s in the %s.", capital(adjective+"workdays"), what), of[int]{
				func(r *row) int { counted := s.count(s.at(r), r, p); return counted.upToLast - counted.before }, func(r *row) string { return p.span(r) + "; its workdays are counted" }})
			c.integer(prefix+name+"workdays_left_in_"+unit.String(), day, fmt.Sprintf("%s left in the %s after the date.", capital(adjective+"workdays"), what), of[int]{
				func(r *row) int { d := s.at(r); return s.count(d, r, p).upToLast - d.number }, func(r *row) string {
					return fmt.Sprintf("%s ends on %s; the workdays after the date are counted", r.tracks[p.index].label, p.period(r).Last)
				}})
		}
		c.bounded = nil
	}
	c.integer(prefix+"running_workday", day, capital(adjective+"workdays")+" numbered consecutively from 1 January 1970, backwards before it; other days have the number of the previous workday.", of[int]{
		func(r *row) int { return s.at(r).number }, func(*row) string { return "workdays are counted from 1970-01-01" }})
}

func hasUnit(c calendar.Calendar, unit calendar.Unit) bool {
	for _, one := range c.Units() {
		if one == unit {
			return true
		}
	}
	return false
}

func (c *Catalogue) addNeighbours(s *workdaySet, prefix, adjective string) {
	day := c.dayGrain()
	c.date(prefix+"next_workday", day, "First "+adjective+"workday after the date.", of[civil.Day]{s.after, func(*row) string { return "it is the first day after the date that is a workday" }})
	c.date(prefix+"previous_workday", day, "Last "+adjective+"workday before the date.", of[civil.Day]{s.before, func(*row) string { return "it is the last day before the date that is a workday" }})
	c.integer(prefix+"days_to_next_holiday", day, "Days until the next "+adjective+"holiday falls or is taken; 0 on such a day, blank if there is none within 400 days.", of[int]{
		func(r *row) int {
			if next, ok := s.next(r); ok {
				return int(next - r.day)
			}
			return noNumber
		},
		func(r *row) string {
			if next, ok := s.next(r); ok {
				return fmt.Sprintf("the next is on %s", next)
			}
			return "there is none within 400 days"
		},
	})
	c.boolean("is_"+prefix+"eve_of_day_off", day, "The date is a "+adjective+"workday, and the next day is a day off that is not on the weekend.", of[bool]{
		func(r *row) bool { return s.at(r).workday && s.after(r) != r.day+1 && !s.IsWeekend(r.day+1) }, func(r *row) string { return fmt.Sprintf("depends on %s and the day after it", r.day) }})
	c.boolean("is_"+prefix+"day_after_day_off", day, "The date is a "+adjective+"workday, and the previous day is a day off that is not on the weekend.", of[bool]{
		func(r *row) bool { return s.at(r).workday && s.before(r) != r.day-1 && !s.IsWeekend(r.day-1) }, func(r *row) string { return fmt.Sprintf("depends on %s and the day before it", r.day) }})
	why := func(r *row) string {
		first, last, ok := s.Break(r.day)
		if !ok {
			return "the date is not in a break of three or more days that includes a day off"
		}
		return fmt.Sprintf("the break runs from %s to %s", first, last)
	}
	c.kept = s.index + 1
	defer func() { c.kept = 0 }()
	c.boolean("is_"+prefix+"long_weekend", day, "The date is in a break of three or more non-working days that includes a day off.", of[bool]{
		func(r *row) bool {
			if s.at(r).workday {
				return false
			}
			_, _, ok := s.Break(r.day)
			return ok
		}, why})
	c.integer(prefix+"long_weekend_days", day, "Length of that break in days; 0 on other days.", of[int]{func(r *row) int {
		if s.at(r).workday {
			return 0
		}
		if first, last, ok := s.Break(r.day); ok {
			return int(last-first) + 1
		}
		return 0
	}, why})
}

// noNumber is a number that cells show as a blank.
const noNumber = -1 << 62
