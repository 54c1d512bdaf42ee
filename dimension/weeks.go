package dimension

import "roundyear/calendar"

// addWeeks adds the weeks by the business's own rule and by ISO 8601.
func (c *Catalogue) addWeeks() {
	c.group = "weeks"
	set := c.settings.Calendars
	day := calendar.Grain{Calendar: set.Year, Unit: calendar.Day}
	week, iso := c.follow(set.Week, calendar.Week), c.follow(set.ISO, calendar.Week)
	weekYear := calendar.Grain{Calendar: set.Week, Unit: calendar.Year}
	isoYear := calendar.Grain{Calendar: set.ISO, Unit: calendar.Year}

	c.integer("week", week.grain, "Week of the week year, 1 to 53.", week.inYear)
	c.integer("week_year", weekYear, "Year of the week; near New Year not always the calendar's.", week.year)
	c.integer("week_key", week.grain, "Week year and week as a number: 202607.", week.key(2))
	c.text("week_label", week.grain, "week_key", "Week year and week: 2026 W07.", week.label)
	c.date("week_start", week.grain, "First day of the week.", week.first)
	c.date("week_end", week.grain, "Last day of the week.", week.last)
	rule := set.Week.Rule()
	c.integer("week_of_month", day, "Row of a wall calendar's month: the 1st is in row 1.",
		func(r *row) int { return rule.OfMonth(r.day) })
	c.integer("running_week", week.grain, "Weeks counted through all years: the next week is one more.", week.number)

	c.integer("iso_week", iso.grain, "Week by ISO 8601, 1 to 53.", iso.inYear)
	c.integer("iso_year", isoYear, "Year that the ISO week belongs to.", iso.year)
	c.integer("iso_week_key", iso.grain, "ISO year and week as a number: 202607.", iso.key(2))
	c.text("iso_week_label", iso.grain, "iso_week_key", "ISO year and week as in ISO 8601: 2026-W07.", iso.label)
	c.date("iso_week_start", iso.grain, "Monday of the ISO week.", iso.first)
	c.date("iso_week_end", iso.grain, "Sunday of the ISO week.", iso.last)
}
