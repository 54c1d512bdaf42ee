package daysoff

import (
	"slices"
	"sync/atomic"

	"roundyear/civil"
)

// Recurrence is the days that a recurrence rule of RFC 5545 (section 3.3.10)
// gives, from the first year that days off are worked out for to the last. It
// works years out when they are asked for.
type Recurrence struct {
	text  string
	start civil.Day
	// started tells that the rule has a start of its own, before which nothing
	// falls; else start only says in which years or weeks of an interval it falls.
	started  bool
	freq     frequency
	interval int
	count    int
	last     civil.Day
	until    *Until
	// startsApart tells that the start is a day that the rule does not give.
	startsApart bool

	byMonth    [13]bool
	anyMonth   bool
	byWeekNo   []int
	byYearDay  []int
	byMonthDay []int
	byWeekday  []nthWeekday
	bySetPos   []int
	weekStart  civil.Weekday

	known atomic.Pointer[recurrenceYear]
}

// recurrenceYear is the days of a year, worked out.
type recurrenceYear struct {
	year int
	days []civil.Day
}

// frequency is what a rule recurs by.
type frequency int

const (
	yearly frequency = iota + 1
	monthly
	weekly
	daily
)

// nthWeekday is a weekday, or the nth of them when nth is not 0.
type nthWeekday struct {
	weekday civil.Weekday
	nth     int
}

// Until is the last moment of a rule as it was written.
type Until struct {
	Day civil.Day
	// Seconds are those after midnight, if Timed; UTC tells that they are so
	// in UTC and not where the event is.
	Seconds    int
	Timed, UTC bool
}

// startOn gives the rule its start.
func (r *Recurrence) startOn(start civil.Day) {
	r.start, r.started = start, true
	r.takeFrom(start)
	if r.until != nil {
		r.last = r.until.Day
	}
	r.startsApart = !slices.Contains(r.inYear(start.Year()), start)
	if r.count == 0 {
		return
	}
	left := r.count
	if r.startsApart {
		left--
	}
	for year := start.Year(); left > 0 && year <= lastYear; year++ {
		days := r.inYear(year)
		if len(days) >= left {
			r.last = days[left-1]
			return
		}
		left -= len(days)
	}
	if left == 0 {
		r.last = start - 1 // nothing but the start
	}
}

// takeFrom takes from the start what the rule does not say: the month, the day
// or the weekday.
func (r *Recurrence) takeFrom(start civil.Day) {
	_, month, dayOfMonth := start.Date()
	says := len(r.byYearDay) > 0 || len(r.byMonthDay) > 0 || len(r.byWeekday) > 0
	switch {
	case says || r.freq == daily:
	case r.freq == weekly || len(r.byWeekNo) > 0:
		r.byWeekday = []nthWeekday{{weekday: start.Weekday()}}
	default:
		if r.freq == yearly && !r.anyMonth {
			r.byMonth[month], r.anyMonth = true, true
		}
		r.byMonthDay = []int{dayOfMonth}
	}
}

// In returns the days of a year.
func (r *Recurrence) In(year int) []civil.Day {
	if known := r.known.Load(); known != nil && known.year == year {
		return slices.Clone(known.days)
	}
	days := r.inYear(year)
	if r.startsApart && r.start.Year() == year {
		days = append([]civil.Day{r.start}, days...)
	}
	r.known.Store(&recurrenceYear{year, days})
	return slices.Clone(days)
}

// inYear returns the days that the rule gives in a year.
func (r *Recurrence) inYear(year int) []civil.Day {
	if year < firstYear || year > lastYear || r.started && year < r.start.Year() || year > r.last.Year() {
		return nil
	}
	first, end := civil.FirstOfYear(year), civil.FirstOfYear(year+1)
	var days []civil.Day
	take := func(from, to civil.Day) {
		for _, day := range r.placed(r.passing(from, to)) {
			if day >= first && day < end && day <= r.last && (!r.started || day >= r.start) {
				days = append(days, day)
			}
		}
	}
	startYear, startMonth, _ := r.start.Date()
	switch r.freq {
	case yearly:
		if (year-startYear)%r.interval == 0 {
			take(first, end)
		}
	case monthly:
		for month := civil.January; month <= civil.December; month++ {
			if ((year-startYear)*12+int(month-startMonth))%r.interval == 0 {
				take(civil.FirstOfMonth(year, month), civil.FirstOfMonth(year, month+1))
			}
		}
	case weekly:
		startWeek := r.weekStart.OnOrBefore(r.start)
		for week := r.weekStart.OnOrBefore(first); week < end; week += 7 {
			if int(week-startWeek)/7%r.interval == 0 {
				take(week, week+7)
			}
		}
	case daily:
		for day := first; day < end; day++ {
			if int(day-r.start)%r.interval == 0 {
				take(day, day+1)
			}
		}
	}
	return days
}

// passing returns the days of a stretch that all parts of the rule let pass.
func (r *Recurrence) passing(from, end civil.Day) []civil.Day {
	var days []civil.Day
	for day := from; day < end; day++ {
		year, month, dayOfMonth := day.Date()
		switch {
		case r.anyMonth && !r.byMonth[month],
			len(r.byMonthDay) > 0 && !countsAs(r.byMonthDay, dayOfMonth, civil.DaysIn(year, month)),
			len(r.byYearDay) > 0 && !countsAs(r.byYearDay, day.YearDay(), daysOfYear(year)),
			len(r.byWeekday) > 0 && !r.isWeekday(day),
			len(r.byWeekNo) > 0 && !r.isWeek(day):
			continue
		}
		days = append(days, day)
	}
	return days
}

func daysOfYear(year int) int { return int(civil.FirstOfYear(year+1) - civil.FirstOfYear(year)) }

// countsAs tells whether a list has an index, counted from the first or, when
// negative, from the last of so many.
func countsAs(list []int, index, of int) bool {
	return slices.Contains(list, index) || slices.Contains(list, index-of-1)
}

// isWeekday tells whether a day is one of BYDAY: of a weekday, or the nth of it
// in its month or year.
func (r *Recurrence) isWeekday(day civil.Day) bool {
	weekday := day.Weekday()
	for _, one := range r.byWeekday {
		if one.weekday != weekday {
			continue
		}
		year, month, dayOfMonth := day.Date()
		switch {
		case one.nth == 0 || r.freq == weekly || r.freq == daily:
			return true
		case r.freq == monthly || r.anyMonth:
			if countsAs([]int{one.nth}, (dayOfMonth-1)/7+1, (dayOfMonth-1)/7+1+(civil.DaysIn(year, month)-dayOfMonth)/7) {
				return true
			}
		default:
			yearDay := day.YearDay()
			if countsAs([]int{one.nth}, (yearDay-1)/7+1, (yearDay-1)/7+1+(daysOfYear(year)-yearDay)/7) {
				return true
			}
		}
	}
	return false
}

// isWeek tells whether the week of a day is one of BYWEEKNO. Week 1 is the first
// that has four days of its year.
func (r *Recurrence) isWeek(day civil.Day) bool {
	week := r.weekStart.OnOrBefore(day)
	year := (week + 3).Year()
	number := func(week civil.Day) int { return (week+3).YearDay()/7 + min((week+3).YearDay()%7, 1) }
	last := r.weekStart.OnOrBefore(civil.FirstOfYear(year+1) - 4) // the week of 28 December
	return countsAs(r.byWeekNo, number(week), number(last))
}

// placed returns the days of one stretch that BYSETPOS wants.
func (r *Recurrence) placed(days []civil.Day) []civil.Day {
	if len(r.bySetPos) == 0 {
		return days
	}
	var wanted []civil.Day
	for i, day := range days {
		if countsAs(r.bySetPos, i+1, len(days)) {
			wanted = append(wanted, day)
		}
	}
	return wanted
}

// Words gives the rule.
func (r *Recurrence) Words() string { return "the rule " + r.text }

// Without is what falls on other days than some.
type Without struct {
	When
	// Days are those on which it does not fall.
	Days map[civil.Day]bool
}

// In returns the days of a year less those that are left out.
func (w Without) In(year int) []civil.Day {
	return slices.DeleteFunc(w.When.In(year), func(day civil.Day) bool { return w.Days[day] })
}
