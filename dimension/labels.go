package dimension

import (
	"fmt"
	"strings"

	"roundyear/calendar"
	"roundyear/language"
)

// addLabels adds the labels of the day by patterns.
func (c *Catalogue) addLabels() {
	c.group = labelsGroup
	set, names := c.settings.Calendars, c.settings.Languages[0]
	week := c.follow(set.Week, calendar.Week)
	rule := set.Week.WeekRule()
	for _, label := range c.settings.Labels {
		sameFor, sortBy := c.grainOf(label.Pattern)
		c.text(label.Name, sameFor, sortBy, fmt.Sprintf("Date as %s.", label.Pattern), of[string]{
			func(r *row) string {
				period := week.period(r)
				return string(label.Pattern.Append(nil, r.day, names, language.Week{Year: period.Year, Number: period.InYear, Day: r.weekday.From(rule.First)}))
			},
			func(r *row) string { return fmt.Sprintf("%s in the pattern %s", r.day, label.Pattern) },
		})
	}
}

// grainOf returns the coarsest grain over which a pattern's labels stay the
// same, and the attribute that they sort by, if there is one.
func (c *Catalogue) grainOf(p *language.Pattern) (calendar.Grain, string) {
	year, day := p.Fields("y"), p.Fields("dDEce")
	grain := func(unit calendar.Unit) calendar.Grain {
		return calendar.Grain{Calendar: c.settings.Calendars.Year, Unit: unit}
	}
	switch {
	case p.Fields("w") && !day && p.Fields("Y") && !p.Fields("yMLQ"):
		return calendar.Grain{Calendar: c.settings.Calendars.Week, Unit: calendar.Week}, "week_key"
	case year && (p.Fields("D") || p.Fields("d") && p.Fields("ML")), p.Fields("Y") && p.Fields("w") && day:
		return c.dayGrain(), "date_key"
	case day && !p.Fields("ydDMLQYw"):
		return c.dayGrain(), "day_of_week"
	case day || p.Fields("w"):
		return c.dayGrain(), ""
	case year && p.Fields("ML"):
		return grain(calendar.Month), "month_key"
	case p.Fields("ML"):
		return grain(calendar.Month), "month"
	case year && p.Fields("Q"):
		return grain(calendar.Quarter), "quarter_key"
	case p.Fields("Q"):
		return grain(calendar.Quarter), "quarter"
	}
	return grain(calendar.Year), "year"
}

// nameOfTag turns a language's tag into a part of a column's name.
func nameOfTag(tag string) string {
	return strings.ReplaceAll(strings.ToLower(tag), "-", "_")
}
