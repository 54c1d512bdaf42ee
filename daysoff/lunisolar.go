package daysoff

import (
	"math"
	"sync"

	"roundyear/astronomy"
	"roundyear/civil"
)

// lastSkyYear is as far as calendars are reckoned from the sky: the turning of
// the earth can be foretold to some minutes.
const lastSkyYear = 2199

// lunisolar is a calendar whose months begin on the day of new moon at a
// meridian, and in which the month of the December solstice is the 11th; by the
// rules of 1645, as GB/T 33661-2017 writes them down. Its years have the number
// of the Gregorian year in which they begin.
type lunisolar struct {
	// offset is the hours by which the meridian's time is ahead of universal
	// time, since the first year for which the calendar holds.
	offset float64
	since  int
	// years and rounds are []skyMonth, solstices are numbers of moons, by year.
	years, rounds, solstices sync.Map
}

// skyMonth is a month that was reckoned, with its first day.
type skyMonth struct {
	CalendarMonth
	first civil.Day
	days  int
}

// newLunisolar returns the calendar at a meridian by its hours east, since a
// year.
func newLunisolar(name string, offset float64, since int) *OtherCalendar {
	l := &lunisolar{offset: offset, since: since}
	return fromSky(name, l.months, func(gregorian int) int { return gregorian - 2 })
}

// fromSky is a calendar whose months are reckoned year by year.
func fromSky(name string, months func(year int) []skyMonth, yearOf func(int) int) *OtherCalendar {
	find := func(year int, month CalendarMonth) skyMonth {
		for _, one := range months(year) {
			if one.CalendarMonth == month {
				return one
			}
		}
		return skyMonth{}
	}
	return &OtherCalendar{
		Name: name,
		day: func(year int, month CalendarMonth, dayOfMonth int) civil.Day {
			return find(year, month).first + civil.Day(dayOfMonth-1)
		},
		length: func(year int, month CalendarMonth) int { return find(year, month).days },
		yearOf: yearOf,
	}
}

// months returns the months of a year; none outside of what is reckoned.
func (l *lunisolar) months(year int) []skyMonth {
	if year < l.since || year > lastSkyYear {
		return nil
	}
	if known, found := l.years.Load(year); found {
		return known.([]skyMonth)
	}
	var months []skyMonth
	// A year is the end of the round of months from one solstice to the next,
	// and the beginning of the round after it.
	for _, month := range l.round(year) {
		if month.Number < 11 {
			months = append(months, month)
		}
	}
	for _, month := range l.round(year + 1) {
		if month.Number >= 11 {
			months = append(months, month)
		}
	}
	l.years.Store(year, months)
	return months
}

// round returns the months from that of the December solstice before a year up
// to that of the one in it. Where they are thirteen, the first one in which the
// sun enters no sign is the leap month.
func (l *lunisolar) round(year int) []skyMonth {
	// A round is half of a year and half of the next.
	if known, found := l.rounds.Load(year); found {
		return known.([]skyMonth)
	}
	number, end := l.solsticeMoon(year-1), l.solsticeMoon(year)
	hasLeap := end-number == 13
	var months []skyMonth
	next := CalendarMonth{Number: 11}
	first, sign := l.moonDay(number), l.sign(l.moonDay(number))
	for ; number < end; number++ {
		after := l.moonDay(number + 1)
		signAfter := l.sign(after)
		own := next
		if hasLeap && len(months) > 0 && sign == signAfter {
			own = CalendarMonth{Number: months[len(months)-1].Number, Leap: true}
			hasLeap = false
		} else {
			next = CalendarMonth{Number: next.Number%12 + 1}
		}
		months = append(months, skyMonth{own, first, int(after - first)})
		first, sign = after, signAfter
	}
	l.rounds.Store(year, months)
	return months
}

// solsticeMoon returns the number of the new moon that begins the month of the
// December solstice of a year.
func (l *lunisolar) solsticeMoon(year int) int {
	// A year's ends the round before it and begins the one after.
	if known, found := l.solstices.Load(year); found {
		return known.(int)
	}
	solstice := l.dayOf(astronomy.SunAt(270, astronomy.Moment(civil.MustOf(year, civil.December, 10))))
	number := astronomy.NewMoonFrom(l.midnight(solstice+1)) - 1
	l.solstices.Store(year, number)
	return number
}

// sign is the twelfth of its way round in which the sun is as a day begins.
func (l *lunisolar) sign(day civil.Day) int {
	return astronomy.SunSign(l.midnight(day))
}

func (l *lunisolar) moonDay(number int) civil.Day { return l.dayOf(astronomy.NewMoon(number)) }

// dayOf returns the day in which a moment lies at the meridian.
func (l *lunisolar) dayOf(m astronomy.Moment) civil.Day {
	return civil.Day(math.Floor(float64(m) + l.offset/24))
}

// midnight returns the moment at which a day begins at the meridian.
func (l *lunisolar) midnight(day civil.Day) astronomy.Moment {
	return astronomy.Moment(float64(day) - l.offset/24)
}
