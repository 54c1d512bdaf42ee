package dimension

import (
	"fmt"

	"roundyear/calendar"
)

// addMoving adds what depends on the as-of date, for every grain.
func (c *Catalogue) addMoving() {
	c.group = movingGroup
	set, day, asOf := c.settings.Calendars, c.dayGrain(), c.settings.AsOf
	c.integer("day_offset", day, "Days from the as-of date: 0 is that day, -1 the day before.", of[int]{
		func(r *row) int { return int(r.day - asOf) },
		func(*row) string { return fmt.Sprintf("the as-of date is %s", asOf) },
	})
	c.boolean("is_current_day", day, "The date is the as-of date.", of[bool]{
		func(r *row) bool { return r.day == asOf },
		func(*row) string { return fmt.Sprintf("the as-of date is %s", asOf) },
	})
	c.boolean("is_future", day, "The date is after the as-of date.", of[bool]{
		func(r *row) bool { return r.day > asOf },
		func(*row) string { return fmt.Sprintf("the as-of date is %s", asOf) },
	})
	c.addOffsets("", c.follow(set.Week, calendar.Week))
	c.addOffsets("iso_", c.follow(set.ISO, calendar.Week))
	for _, unit := range []calendar.Unit{calendar.Month, calendar.Quarter, calendar.Half, calendar.Year} {
		c.addOffsets("", c.follow(set.Year, unit))
	}
	for _, fiscal := range set.Fiscal {
		if bounded, ok := fiscal.(calendar.Bounded); ok {
			c.bounded = bounded
		}
		units := fiscal.Units()
		for i := len(units) - 1; i >= 0; i-- {
			c.addOffsets(fiscal.Name()+"_", c.follow(fiscal, units[i]))
		}
		c.bounded = nil
	}
}

// addOffsets adds how far a period is from the one of the as-of date, and how
// much of it is past.
func (c *Catalogue) addOffsets(prefix string, p followed) {
	asOf, unit := c.settings.AsOf, p.grain.Unit
	name, words := prefix+unit.String(), unit.String()
	current := p.grain.Locate(asOf)
	label := p.grain.Label(current)
	why := func(r *row) string {
		return fmt.Sprintf("the as-of date %s is in %s, and the date in %s", asOf, label, r.tracks[p.index].label)
	}
	c.integer(name+"_offset", p.grain, fmt.Sprintf("Distance in %s from the one that contains the as-of date: 0 is the current one, -1 the previous one.", unit.Plural()), of[int]{
		func(r *row) int { return p.period(r).Number - current.Number }, why})
	c.boolean("is_current_"+name, p.grain, fmt.Sprintf("The %s contains the as-of date.", words), of[bool]{
		func(r *row) bool { return p.period(r).Number == current.Number }, why})
	c.boolean("is_complete_"+name, p.grain, fmt.Sprintf("The %s ended before the as-of date.", words), of[bool]{
		func(r *row) bool { return p.period(r).Last < asOf },
		func(r *row) string { return fmt.Sprintf("%s, and the as-of date is %s", p.span(r), asOf) }})
	c.boolean("is_"+name+"_to_date", c.dayGrain(), fmt.Sprintf("The date is at or before the same position in its %s that the as-of date has in its own.", words), of[bool]{
		func(r *row) bool { return r.day <= p.toDate(r, asOf) },
		func(r *row) string {
			return fmt.Sprintf("as of %s, which is in %s, %s to date ends on %s", asOf, label, r.tracks[p.index].label, p.toDate(r, asOf))
		}})
}
