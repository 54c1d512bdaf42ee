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

// workdaySet is a set of days off, the language of its names, and its place
// among the sets of the catalogue.
type workdaySet struct {
	*daysoff.Set
	language string
	index    int
}

// setDay is what a set says of a day, found once for all attributes that ask.
type setDay struct {
	// day is noDay before the first.
	day civil.Day
	// entered tells that something is said of the day that was not said of the one
	// before, or may be.
	entered bool
	// here is what falls on the day, and what of other days is taken on it.
	here                                      []daysoff.DayOff
	weekend, workday, holiday, observed, half bool
	// expected tells that one of them is not announced yet.
	expected bool
	// kind says in a word what the day is.
	kind string
	// number is the running number of workdays.
	number int
	// nextHoliday is the next holiday from the day on; it stays until it is past.
	nextHoliday civil.Day
	hasNext     bool
	// nextWorkday stays until it is reached; previousWorkday is that of the day
	// before, or the day before itself. noDay is none.
	nextWorkday, previousWorkday civil.Day
	hasNextWorkday, hasPrevious  bool
	// counts are the workdays before and up to the end of the period of each
	// track that was asked for.
	counts []periodCount
}

// periodCount is the running numbers of workdays before a period and at its
// end.
type periodCount struct {
	first            civil.Day
	before, upToLast int
}

// at returns what the set says of the row's day.
func (s *workdaySet) at(r *row) *setDay {
	d := &r.sets[s.index]
	if d.day != r.day {
		s.fill(d, r.day)
	}
	return d
}

func (s *workdaySet) fill(d *setDay, day civil.Day) {
	// Days mostly come one after the other, and what the day before knew goes on.
	follows := d.day == day-1
	d.hasNext = d.hasNext && follows && day <= d.nextHoliday
	d.hasNextWorkday = d.hasNextWorkday && follows && day < d.nextWorkday
	if d.hasPrevious = d.hasPrevious && follows; d.hasPrevious && d.workday {
		d.previousWorkday = d.day
	}
	weekend, workday, hasDaysOff := s.IsWeekend(day), s.IsWorkday(day), s.HasDaysOff(day)
	d.entered = !follows || hasDaysOff || len(d.here) > 0 || weekend != d.weekend || workday != d.workday
	d.day = day
	d.here = d.here[:0]
	d.weekend, d.workday = weekend, workday
	switch {
	case !follows:
		d.number = s.Number(day)
	case d.workday:
		d.number++
	}
	d.holiday, d.observed, d.half, d.expected = false, false, false, false
	switch {
	case d.workday:
		d.kind = "workday"
	case d.weekend:
		d.kind = "weekend"
	default:
		d.kind = "holiday"
	}
	if hasDaysOff {
		s.fillDaysOff(d)
	}
}

// fillDaysOff adds what falls and is taken on the day.
func (s *workdaySet) fillDaysOff(d *setDay) {
	d.here = append(d.here, s.Falling(d.day)...)
	for _, one := range d.here {
		d.holiday = d.holiday || one.Rule.Kind.IsHoliday()
	}
	whole := false
	for _, one := range s.Taken(d.day) {
		if one.IsMoved() {
			d.here = append(d.here, one)
			d.observed = d.observed || one.Rule.Kind.IsHoliday()
		}
		switch {
		case !one.Rule.Kind.IsOff():
		case one.Rule.Half:
			d.half = d.half || d.workday
		case !whole:
			whole, d.kind = true, "holiday"
			if one.Rule.Kind == daysoff.Closure {
				d.kind = "closure"
			}
		}
	}
	for _, one := range d.here {
		d.expected = d.expected || one.IsExpected()
	}
	if d.half && !whole {
		d.kind = "half day"
	}
}

// after returns the first workday after the row's day, or noDay.
func (s *workdaySet) after(r *row) civil.Day {
	d := s.at(r)
	if !d.hasNextWorkday {
		d.nextWorkday, d.hasNextWorkday = noDay, true
		if next, ok := s.Next(r.day); ok {
			d.nextWorkday = next
		}
	}
	return d.nextWorkday
}

// before returns the last workday before the row's day, or noDay.
func (s *workdaySet) before(r *row) civil.Day {
	d := s.at(r)
	if !d.hasPrevious {
		d.previousWorkday, d.hasPrevious = noDay, true
		if previous, ok := s.Previous(r.day); ok {
			d.previousWorkday = previous
		}
	}
	return d.previousWorkday
}

// count returns the running numbers of workdays around the period of a track.
func (s *workdaySet) count(d *setDay, r *row, p followed) *periodCount {
	counted, period := &d.counts[p.index], p.period(r)
	if counted.first != period.First {
		*counted = periodCount{period.First, s.Number(period.First - 1), s.Number(period.Last)}
	}
	return counted
}

// next returns the next holiday from the row's day on.
func (s *workdaySet) next(r *row) (civil.Day, bool) {
	d := s.at(r)
	if !d.hasNext {
		d.nextHoliday, d.hasNext = s.NextHoliday(r.day)
	}
	return d.nextHoliday, d.hasNext
}

// why lists what falls and what is taken on a day.
func (s *workdaySet) why(r *row) string {
	var texts []string
	for _, one := range s.at(r).here {
		text := fmt.Sprintf("%s (%s) is on %s", one.Rule.NameIn(s.language), one.Rule.Kind, one.Rule.Why())
		if one.IsExpected() {
			text += ", which is not announced yet"
		}
		if one.IsMoved() {
			text += fmt.Sprintf(", so %s is taken on %s", one.Own, one.TakenOn)
		}
		texts = append(texts, text)
	}
	if len(texts) == 0 {
		texts = append(texts, "the date is not a day off")
	}
	return strings.Join(texts, "; ") + "; " + s.whyWeekend(r)
}

func (s *workdaySet) whyWeekend(r *row) string {
	var names []string
	for _, weekday := range s.Weekend() {
		names = append(names, weekday.String())
	}
	if len(names) == 0 {
		names = []string{"no day"}
	}
	return fmt.Sprintf("the weekend is %s, and the date is a %s", strings.Join(names, " and "), r.weekday)
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
