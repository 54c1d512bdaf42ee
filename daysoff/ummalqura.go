package daysoff

import (
	"sync"

	"roundyear/astronomy"
	"roundyear/civil"
)

// The years of the Umm al-Qura calendar that are known: from 1949, and as far
// as it is published.
const (
	firstUmmAlQura = 1369
	lastUmmAlQura  = 1500
	// firstByMoonset is the first year by the rule of the moon that sets after
	// the sun, which is reckoned. The months before it followed several rules and
	// are written down as they were printed.
	firstByMoonset = 1423
)

// printedFirst is the first day of the year 1369.
var printedFirst = civil.MustOf(1949, civil.October, 23)

// printedMonths tells of the years 1369 to 1422 which months have 30 days, the
// first month in the lowest bit. Facts of the calendar as it was printed; ICU
// and Java's HijrahChronology carry the same.
var printedMonths = [...]uint16{
	0x6b5, 0xea9, 0xd52, 0xd29, 0xa55, 0x4ad, 0x56d, 0xaea, 0x6e4, 0xed1, 0xda2, 0xaaa,
	0x95a, 0x2da, 0x5b9, 0xbb2, 0x764, 0x6c9, 0x555, 0x2ab, 0x4db, 0xaba, 0x5b4, 0xda9,
	0xd52, 0xaa5, 0x92d, 0x26d, 0x8ed, 0x2da, 0xad5, 0xaa5, 0xa4b, 0x497, 0x937, 0x2b6,
	0x975, 0xd69, 0xd52, 0xc95, 0x92b, 0x25b, 0x4db, 0x9d5, 0x5d2, 0xda5, 0xd4a, 0xa95,
	0x54d, 0xaad, 0x3aa, 0xbd2, 0xbc4, 0xb89,
}

var mecca = astronomy.Place{Latitude: 21.4225, Longitude: 39.8262}

// meccaOffset is the hours by which the time of Mecca is ahead of universal
// time.
const meccaOffset = 3

// ummAlQuraYears are the years that were worked out, from firstUmmAlQura on.
var ummAlQuraYears struct {
	sync.Mutex
	years [][]skyMonth
}

// ummAlQura returns the months of a year of the calendar of Saudi Arabia; none
// outside of what is known.
func ummAlQura(year int) []skyMonth {
	if year < firstUmmAlQura || year > lastUmmAlQura {
		return nil
	}
	known := &ummAlQuraYears
	known.Lock()
	defer known.Unlock()
	first := printedFirst
	if done := len(known.years); done > 0 {
		last := known.years[done-1][11]
		first = last.first + civil.Day(last.days)
	}
	for own := firstUmmAlQura + len(known.years); own <= year; own++ {
		months := make([]skyMonth, 12)
		for i := range months {
			days := 29
			if own < firstByMoonset {
				days += int(printedMonths[own-firstUmmAlQura] >> i & 1)
			} else if !endsAfter29(own, i+1, first+28) {
				days = 30
			}
			months[i] = skyMonth{CalendarMonth{Number: i + 1}, first, days}
			first += civil.Day(days)
		}
		known.years = append(known.years, months)
	}
	return known.years[year-firstUmmAlQura]
}

// endsAfter29 tells whether a month ends on its 29th day: the moon, being new
// before sunset, sets after the sun in Mecca on that evening. The calendar as it
// is published from 1451 on asks for 20 minutes between the two, unless the moon
// was new on the day before. It sees the moon set some seconds later than it is
// reckoned here: in December 2024 it took them to set one after the other where
// they set at once.
func endsAfter29(year, month int, evening civil.Day) bool {
	if year == 1427 && month == 5 {
		// The moon was new within a minute of sunset, and the month was printed
		// with 30 days.
		return false
	}
	midnight := astronomy.Moment(evening) - meccaOffset/24.
	newMoon := astronomy.NewMoon(astronomy.NewMoonFrom(midnight - 14))
	switch {
	case newMoon > midnight+latestSunset:
		return false
	case newMoon < midnight+earliestSunset-alwaysVisible:
		return true
	}
	return setsAfterSun(year, midnight, newMoon)
}

const (
	// The sun sets in Mecca between 17:37 and 19:08 of its time.
	earliestSunset, latestSunset = 17.5 / 24, 19.25 / 24
	// alwaysVisible is an age in days at which the moon sets 20 minutes after the sun
	// at any time of the year.
	alwaysVisible = 0.8
)

// setsAfterSun reckons whether the moon, being new before sunset, sets long enough
// after the sun in Mecca on the day that begins with a midnight.
func setsAfterSun(year int, midnight, newMoon astronomy.Moment) bool {
	sunset := mecca.Sunset(midnight + 0.5)
	minutes := 0.
	if year >= 1451 {
		if newMoon < midnight {
			return true
		}
		minutes = 20
	}
	// The moonset of that evening is between six hours before and after it.
	lag := mecca.Moonset(sunset-0.25) - sunset
	return newMoon < sunset && lag > astronomy.Moment(minutes-0.15)/1440 && lag < 0.25
}
