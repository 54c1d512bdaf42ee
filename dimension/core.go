package dimension

import (
	"strconv"

	"roundyear/calendar"
	"roundyear/civil"
)

// addCore adds the day itself and the periods of the calendar year.
func (c *Catalogue) addCore() {
	c.group = "core"
	gregorian := c.settings.Calendars.Year
	day := calendar.Grain{Calendar: gregorian, Unit: calendar.Day}
	year, half := c.follow(gregorian, calendar.Year), c.follow(gregorian, calendar.Half)
	quarter, month := c.follow(gregorian, calendar.Quarter), c.follow(gregorian, calendar.Month)

	c.integer("date_key", day, "The date as a number yyyymmdd: the key that facts join on.",
		func(r *row) int { return r.year*10000 + int(r.month)*100 + r.dayOfMonth })
	c.date("date", day, "The day.", func(r *row) civil.Day { return r.day })

	c.integer("year", year.grain, "Calendar year.", year.year)
	c.integer("half", half.grain, "Half of the calendar year, 1 or 2.", half.inYear)
	c.text("half_label", half.grain, "half", "Half without its year: H1.", withLetter("H", half))
	c.integer("half_key", half.grain, "Year and half as a number: 20261.", half.key(1))
	c.text("half_year_label", half.grain, "half_key", "Year and half: 2026 H1.", half.label)
	c.integer("quarter", quarter.grain, "Quarter of the calendar year, 1 to 4.", quarter.inYear)
	c.text("quarter_label", quarter.grain, "quarter", "Quarter without its year: Q1.", withLetter("Q", quarter))
	c.integer("quarter_key", quarter.grain, "Year and quarter as a number: 20261.", quarter.key(1))
	c.text("quarter_year_label", quarter.grain, "quarter_key", "Year and quarter: 2026 Q1.", quarter.label)
	c.integer("month", month.grain, "Month of the calendar year, 1 to 12.", month.inYear)
	c.text("month_name", month.grain, "month", "Name of the month: March.", func(r *row) string { return r.month.String() })
	c.text("month_short", month.grain, "month", "Short name of the month: Mar.", func(r *row) string { return r.month.Short() })
	c.integer("month_key", month.grain, "Year and month as a number yyyymm: 202603.", month.key(2))
	c.text("month_label", month.grain, "month_key", "Year and month as in ISO 8601: 2026-03.", month.label)
	c.text("month_year_short", month.grain, "month_key", "Short name of the month, and the year: Mar 2026.",
		func(r *row) string { return r.month.Short() + " " + strconv.Itoa(r.year) })

	c.integer("day_of_month", day, "Day of the month, 1 to 31.", func(r *row) int { return r.dayOfMonth })
	c.integer("day_of_quarter", day, "Day of the calendar quarter, from 1.", quarter.dayIn)
	c.integer("day_of_year", day, "Day of the calendar year, 1 to 366.", year.dayIn)
	week := c.settings.Calendars.Week.Rule()
	c.integer("day_of_week", day, "Day of the week, 1 on the day on which weeks begin.",
		func(r *row) int { return r.weekday.From(week.First) })
	c.text("day_name", day, "day_of_week", "Name of the weekday: Monday.", func(r *row) string { return r.weekday.String() })
	c.text("day_short", day, "day_of_week", "Short name of the weekday: Mon.", func(r *row) string { return r.weekday.Short() })
	c.integer("nth_weekday_of_month", day, "Which of its weekday in the month it is: 3 on the third Monday.",
		func(r *row) int { return (r.dayOfMonth-1)/7 + 1 })

	for _, p := range []struct {
		name string
		followed
	}{{"month", month}, {"quarter", quarter}, {"half", half}, {"year", year}} {
		c.date(p.name+"_start", p.grain, "First day of the "+p.name+".", p.first)
		c.date(p.name+"_end", p.grain, "Last day of the "+p.name+".", p.last)
	}
	c.integer("days_in_month", month.grain, "Number of days of the month.", month.days)
	c.integer("days_in_quarter", quarter.grain, "Number of days of the quarter.", quarter.days)
	c.integer("days_in_year", year.grain, "Number of days of the year.", year.days)
	c.boolean("is_leap_year", year.grain, "The calendar year has a 29 February.", func(r *row) bool { return civil.IsLeap(r.year) })

	c.integer("running_month", month.grain, "Months counted through all years: the next month is one more.", month.number)
	c.integer("running_quarter", quarter.grain, "Quarters counted through all years.", quarter.number)
	c.integer("running_year", year.grain, "Years counted through: the calendar year.", year.number)
}

func withLetter(letter string, f followed) func(*row) string {
	return func(r *row) string { return letter + strconv.Itoa(f.inYear(r)) }
}
