package dimension

import (
	"fmt"
	"slices"
	"strings"
)

// addWorkdays adds what tells days on which business is done from others.
func (c *Catalogue) addWorkdays() {
	c.group = workdaysGroup
	day, weekend := c.dayGrain(), c.settings.Weekend
	isWeekend := func(r *row) bool { return slices.Contains(weekend, r.weekday) }
	why := func(r *row) string {
		var names []string
		for _, weekday := range weekend {
			names = append(names, weekday.String())
		}
		return fmt.Sprintf("the weekend is %s, and the day is a %s", strings.Join(names, " and "), r.weekday)
	}
	c.boolean("is_weekend", day, "The day is one of the weekend.", of[bool]{isWeekend, why})
	c.boolean("is_workday", day, "The day is no weekend day.", of[bool]{func(r *row) bool { return !isWeekend(r) }, why})
}
