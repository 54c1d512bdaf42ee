package dimension

import "roundyear/calendar"

// addFiscal adds the periods of a fiscal calendar, its name before each.
func (c *Catalogue) addFiscal(fiscal *calendar.Months) {
	name := fiscal.Name()
	c.group = name
	prefix := name + "_"
	day := calendar.Grain{Calendar: c.settings.Calendars.Year, Unit: calendar.Day}
	year, half := c.follow(fiscal, calendar.Year), c.follow(fiscal, calendar.Half)
	quarter, month := c.follow(fiscal, calendar.Quarter), c.follow(fiscal, calendar.Month)
	week := c.follow(fiscal, calendar.Week)

	c.integer(prefix+"year", year.grain, "Fiscal year, named by the calendar year in which it "+fiscal.NamedBy().String()+"s.", year.year)
	c.text(prefix+"year_label", year.grain, prefix+"year", "Label of the fiscal year.", year.label)
	c.integer(prefix+"half", half.grain, "Half of the fiscal year, 1 or 2.", half.inYear)
	c.text(prefix+"half_label", half.grain, prefix+"half", "Fiscal half without its year: H1.", withLetter("H", half))
	c.integer(prefix+"half_key", half.grain, "Fiscal year and half as a number: 20261.", half.key(1))
	c.text(prefix+"half_year_label", half.grain, prefix+"half_key", "Fiscal year and half.", half.label)
	c.integer(prefix+"quarter", quarter.grain, "Quarter of the fiscal year, 1 to 4.", quarter.inYear)
	c.text(prefix+"quarter_label", quarter.grain, prefix+"quarter", "Fiscal quarter without its year: Q1.", withLetter("Q", quarter))
	c.integer(prefix+"quarter_key", quarter.grain, "Fiscal year and quarter as a number: 20261.", quarter.key(1))
	c.text(prefix+"quarter_year_label", quarter.grain, prefix+"quarter_key", "Fiscal year and quarter.", quarter.label)
	c.integer(prefix+"month", month.grain, "Month of the fiscal year, 1 in "+fiscal.Starts().String()+".", month.inYear)
	c.text(prefix+"month_name", month.grain, prefix+"month", "Name of the month; sorts with "+fiscal.Starts().String()+" first.",
		func(r *row) string { return r.month.String() })
	c.text(prefix+"month_short", month.grain, prefix+"month", "Short name of the month; sorts with "+fiscal.Starts().Short()+" first.",
		func(r *row) string { return r.month.Short() })
	c.integer(prefix+"month_key", month.grain, "Fiscal year and month as a number: 202602.", month.key(2))
	c.text(prefix+"month_label", month.grain, prefix+"month_key", "Fiscal year and month.", month.label)
	c.integer(prefix+"week", week.grain, "Week of the fiscal year; the year's first day is in week 1.", week.inYear)
	c.integer(prefix+"week_key", week.grain, "Fiscal year and week as a number: 202607.", week.key(2))
	c.text(prefix+"week_label", week.grain, prefix+"week_key", "Fiscal year and week.", week.label)
	c.integer(prefix+"day_of_year", day, "Day of the fiscal year, from 1.", year.dayIn)

	for _, p := range []struct {
		name string
		followed
	}{{"week", week}, {"month", month}, {"quarter", quarter}, {"half", half}, {"year", year}} {
		c.date(prefix+p.name+"_start", p.grain, "First day of the fiscal "+p.name+".", p.first)
		c.date(prefix+p.name+"_end", p.grain, "Last day of the fiscal "+p.name+".", p.last)
	}
	for _, p := range []struct {
		name string
		followed
	}{{"week", week}, {"month", month}, {"quarter", quarter}, {"year", year}} {
		c.integer(prefix+"running_"+p.name, p.grain, "Fiscal "+p.name+"s counted through all years: the next is one more.", p.number)
	}
}
