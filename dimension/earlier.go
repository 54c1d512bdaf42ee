package dimension

import (
	"fmt"

	"roundyear/civil"
)

// addEarlier adds the days that the day is compared with.
func (c *Catalogue) addEarlier() {
	c.group = earlierGroup
	day := c.dayGrain()
	for _, back := range []struct {
		name         string
		days, months int
		meaning, why string
	}{
		{"week", 7, 0, "The same weekday a week earlier.", "7 days earlier"},
		{"month", 0, 1, "The same day a month earlier, or the last of that month.", "the same day of the month before it, or that month's last"},
		{"quarter", 0, 3, "The same day three months earlier, or the last of that month.", "the same day three months earlier, or that month's last"},
		{"year", 0, 12, "The same day a year earlier; 28 February for the 29th.", "the same day of the same month a year earlier, or that month's last"},
		{"364_days", 364, 0, "The same weekday 52 weeks earlier.", "52 weeks of 7 days earlier"},
	} {
		c.date("date_"+back.name+"_ago", day, back.meaning, of[civil.Day]{
			func(r *row) civil.Day {
				if back.days > 0 {
					return r.day - civil.Day(back.days)
				}
				return r.day.AddMonths(-back.months)
			},
			func(r *row) string { return fmt.Sprintf("from %s: %s", r.day, back.why) },
		})
	}
}
