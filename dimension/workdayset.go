package dimension

import (
	"fmt"
	"strings"

	"roundyear/civil"
	"roundyear/daysoff"
)

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
