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
		{"week", 7, 0, "Same weekday one week earlier.", "7 days earlier"},
		{"month", 0, 1, "Same day one month earlier, or the last day of that month.", "the same day of the previous month, or its last day"},
		{"quarter", 0, 3, "Same day three months earlier, or the last day of that month.", "the same day three months earlier, or the last day of that month"},
		{"year", 0, 12, "Same day one year earlier; 28 February for 29 February.", "the same day of the same month one year earlier, or the last day of that month"},
		{"364_days", 364, 0, "Same weekday 52 weeks earlier.", "52 weeks of 7 days earlier"},
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
