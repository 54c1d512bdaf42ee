package dimension

import (
	"fmt"

	"roundyear/calendar"
)

// julianDayOfEpoch is the Julian day number at noon of 1970-01-01.
const julianDayOfEpoch = 2440588

// addPosition adds where the day stands in its week and in the periods of the
// calendar year, seen from both ends.
func (c *Catalogue) addPosition() {
	c.group = positionGroup
	set, day := c.settings.Calendars, c.dayGrain()
	for _, p := range []followed{c.follow(set.Week, calendar.Week), c.follow(set.Year, calendar.Month), c.follow(set.Year, calendar.Quarter),
		c.follow(set.Year, calendar.Half), c.follow(set.Year, calendar.Year)} {
		c.addEnds("", p, "")
	}
	c.integer("julian_day", day, "Julian day number at noon: days since 4713 BC.", of[int]{
		func(r *row) int { return int(r.day) + julianDayOfEpoch },
		func(r *row) string {
			return fmt.Sprintf("1970-01-01 has the number %d, and the date is %d days from it", julianDayOfEpoch, int(r.day))
		},
	})
}

// addEnds adds the days left in a period and whether the day is its first or
// last.
func (c *Catalogue) addEnds(prefix string, p followed, adjective string) {
	unit, day := p.grain.Unit.String(), c.dayGrain()
	c.integer(prefix+"days_left_in_"+unit, day, fmt.Sprintf("Days left in the %s%s after this one.", adjective, unit), p.daysLeft())
	c.boolean("is_first_day_of_"+prefix+unit, day, fmt.Sprintf("The date is the first day of the %s%s.", adjective, unit), p.isFirst())
	c.boolean("is_last_day_of_"+prefix+unit, day, fmt.Sprintf("The date is the last day of the %s%s.", adjective, unit), p.isLast())
}
