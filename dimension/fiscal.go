package dimension

import (
	"fmt"

	"roundyear/calendar"
	"roundyear/civil"
	"roundyear/language"
)

// addFiscal adds the periods of a fiscal calendar, its name before each.
func (c *Catalogue) addFiscal(fiscal calendar.Calendar) {
	c.group = fiscal.Name()
	c.bounded, _ = fiscal.(calendar.Bounded)
	defer func() { c.bounded = nil }()
	prefix, adjective, day := fiscal.Name()+"_", fiscal.Name()+" ", c.dayGrain()
	var periods []followed
	for _, unit := range fiscal.Units() {
		periods = append(periods, c.follow(fiscal, unit))
	}
	year, week := c.follow(fiscal, calendar.Year), c.follow(fiscal, calendar.Week)

	c.key(prefix+"year", year.grain, fmt.Sprintf("%s; %s.", capital(adjective+"year"), fiscal.Rule()), year.year())
	c.label(prefix+"year_label", year.grain, prefix+"year", fmt.Sprintf("Label of the %syear: %s.", adjective, year.example(fiscal.Label)), year.label())
	for _, p := range periods {
		switch p.grain.Unit {
		case calendar.Year:
		case calendar.Month:
			c.addFiscalMonth(prefix, p, adjective)
		default:
			c.addPeriod(prefix, p, adjective)
		}
	}
	for _, p := range periods {
		unit := p.grain.Unit
		// Weeks that are cut at the ends of a year have no day that is always the first.
		if unit != calendar.Week || calendar.IsWeekBased(fiscal) {
			c.integer(prefix+"day_of_"+unit.String(), day, fmt.Sprintf("Day of the %s%s, from 1.", adjective, unit), p.dayIn())
		}
		if unit == calendar.Month || unit == calendar.Quarter {
			c.integer(prefix+"week_of_"+unit.String(), day, fmt.Sprintf("Week of the %s%s; its first day is in week 1.", adjective, unit), p.weekIn(week))
		}
	}
	for _, p := range periods {
		c.addBounds(prefix, p, adjective)
	}
	for _, p := range periods {
		c.addEnds(prefix, p, adjective)
	}
	for _, p := range periods {
		c.addRunning(prefix, p, adjective)
	}
	c.addYearAgo(prefix, fiscal, adjective)
}

// addFiscalMonth adds a month of a fiscal calendar. Where the months go by the
// names of Gregorian ones they have these, else the codes of the calendar.
func (c *Catalogue) addFiscalMonth(prefix string, month followed, adjective string) {
	namer, ok := month.grain.Calendar.(calendar.MonthNamer)
	if !ok || !namer.NamesMonths() {
		c.addPeriod(prefix, month, adjective)
		return
	}
	c.number(prefix+"month", month.grain, fmt.Sprintf("Month of the %syear, 1 in %s.", adjective, namer.MonthName(1)), month.inYear())
	c.addFiscalMonthNames(prefix, month, c.settings.Languages[0], "")
	c.text(prefix+"month_code", month.grain, prefix+"month", fmt.Sprintf("%s without the year: %s.", capital(adjective+"month"), month.example(month.grain.Calendar.Code)), month.code())
	c.key(prefix+"month_key", month.grain, fmt.Sprintf("%s and month as a number.", capital(adjective+"year")), month.key())
	c.label(prefix+"month_label", month.grain, prefix+"month_key", fmt.Sprintf("%s and month: %s.", capital(adjective+"year"), month.example(month.grain.Calendar.Label)), month.label())
}

func (c *Catalogue) addFiscalMonthNames(prefix string, month followed, names *language.Names, suffix string) {
	namer := month.grain.Calendar.(calendar.MonthNamer)
	c.addMonthNames(prefix, names, suffix, month, func(r *row) civil.Month { return namer.MonthName(month.period(r).InYear) })
}

// addYearAgo adds the matching day of last year.
func (c *Catalogue) addYearAgo(prefix string, fiscal calendar.Calendar, adjective string) {
	day := c.dayGrain()
	ago := func(find func(calendar.Calendar, civil.Day) (civil.Day, bool)) func(*row) civil.Day {
		return func(r *row) civil.Day {
			if found, ok := find(fiscal, r.day); ok {
				return found
			}
			return noDay
		}
	}
	if !calendar.IsWeekBased(fiscal) {
		c.date(prefix+"date_year_ago", day, fmt.Sprintf("Same day in the previous %syear: the same day of the same month.", adjective), of[civil.Day]{
			ago(calendar.YearAgo), func(r *row) string {
				return fmt.Sprintf("from %s: the same day of the same month of the previous year", r.day)
			}})
		return
	}
	week := c.follow(fiscal, calendar.Week)
	c.date(prefix+"date_year_ago", day, fmt.Sprintf("Same weekday of the same week number in the previous %syear; blank in week 53 if that year had none.", adjective), of[civil.Day]{
		ago(calendar.YearAgo), func(r *row) string {
			if _, found := calendar.YearAgo(fiscal, r.day); !found {
				return fmt.Sprintf("the date is the %s of week %d, which the previous year does not have", r.weekday, week.period(r).InYear)
			}
			return fmt.Sprintf("the date is the %s of week %d; this is the same weekday of that week in the previous year", r.weekday, week.period(r).InYear)
		}})
	c.date(prefix+"date_year_ago_restated", day, fmt.Sprintf("Same weekday 52 weeks earlier, if it is in the previous %syear: after a year of 53 weeks, that year counts from its second week.", adjective), of[civil.Day]{
		ago(calendar.YearAgoRestated), func(r *row) string {
			if _, found := calendar.YearAgoRestated(fiscal, r.day); !found {
				return fmt.Sprintf("364 days before %s is %s, which is not in the previous year", r.day, r.day-364)
			}
			return fmt.Sprintf("364 days before %s is %s, which is in the previous year", r.day, r.day-364)
		}})
}

// noDay is a day that cells show as a blank.
const noDay = civil.MaxDay + 1

// addNames adds the names of months and weekdays in another language.
func (c *Catalogue) addNames(names *language.Names) {
	suffix := "_" + nameOfTag(names.Tag)
	c.group = "names" + suffix
	c.addMonthNames("", names, suffix, c.follow(c.settings.Calendars.Year, calendar.Month), func(r *row) civil.Month { return r.month })
	c.addDayNames(suffix, names)
	for _, fiscal := range c.settings.Calendars.Fiscal {
		if namer, ok := fiscal.(calendar.MonthNamer); ok && namer.NamesMonths() {
			c.addFiscalMonthNames(fiscal.Name()+"_", c.follow(fiscal, calendar.Month), names, suffix)
		}
	}
}
