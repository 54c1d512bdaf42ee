package dimension

import (
	"fmt"

	"roundyear/calendar"
)

// addWeeks adds the weeks by the business's own rule and by ISO 8601.
func (c *Catalogue) addWeeks() {
	c.group = weeksGroup
	set, day := c.settings.Calendars, c.dayGrain()
	c.addWeek("", c.follow(set.Week, calendar.Week), "")
	rule := set.Week.WeekRule()
	for _, p := range []followed{c.follow(set.Year, calendar.Month), c.follow(set.Year, calendar.Quarter)} {
		c.integer("week_of_"+p.grain.Unit.String(), day, fmt.Sprintf("Row of the date in a wall calendar of the %s; the first day is in row 1.", p.grain.Unit), of[int]{
			func(r *row) int { return rule.RowsTo(p.period(r).First, r.day) },
			func(r *row) string {
				return fmt.Sprintf("%s is in row 1, and a new row starts on each %s", p.period(r).First, rule.First)
			},
		})
	}
	c.addWeek("iso_", c.follow(set.ISO, calendar.Week), "ISO ")
}

// addWeek adds a week with its year, and the calendar's prefix before them.
func (c *Catalogue) addWeek(prefix string, week followed, adjective string) {
	year := calendar.Grain{Calendar: week.grain.Calendar, Unit: calendar.Year}
	yearName := "week_year"
	if prefix != "" {
		yearName = prefix + "year"
	}
	c.number(prefix+"week", week.grain, capital(adjective+"week")+" of the year, 1 to 53.", week.inYear())
	c.key(yearName, year, "Year of the "+adjective+"week; around New Year it can differ from the calendar year.", week.year())
	c.text(prefix+"week_name", week.grain, prefix+"week", capital(adjective+"week")+" without the year: W11.", week.code())
	c.key(prefix+"week_key", week.grain, capital(adjective+"week year")+" and week as a number: 202607.", week.key())
	c.label(prefix+"week_label", week.grain, prefix+"week_key", fmt.Sprintf("%s and week: %s.", capital(adjective+"week year"), week.example(week.grain.Calendar.Label)), week.label())
	c.bound(RoleFirstDay, prefix+"week_start", week.grain, "First day of the "+adjective+"week.", week.first())
	c.bound(RoleLastDay, prefix+"week_end", week.grain, "Last day of the "+adjective+"week.", week.last())
	c.addRunning(prefix, week, adjective)
}
