package dimension

import (
	"slices"

	"roundyear/calendar"
)

// addWorkdays adds what tells days on which business is done from others.
func (c *Catalogue) addWorkdays() {
	c.group = "workdays"
	day := calendar.Grain{Calendar: c.settings.Calendars.Year, Unit: calendar.Day}
	weekend := c.settings.Weekend
	c.boolean("is_weekend", day, "The day is one of the weekend.",
		func(r *row) bool { return slices.Contains(weekend, r.weekday) })
	c.boolean("is_workday", day, "The day is no weekend day.",
		func(r *row) bool { return !slices.Contains(weekend, r.weekday) })
}
