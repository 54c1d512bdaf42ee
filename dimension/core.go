package dimension

import (
	"fmt"
	"strconv"

	"roundyear/calendar"
	"roundyear/civil"
	"roundyear/language"
)

// addCore adds the day itself and the periods of the calendar year.
func (c *Catalogue) addCore() {
	c.group = coreGroup
	set, names, day := c.settings.Calendars, c.settings.Languages[0], c.dayGrain()
	gregorian := set.Year
	year, half := c.follow(gregorian, calendar.Year), c.follow(gregorian, calendar.Half)
	quarter, month := c.follow(gregorian, calendar.Quarter), c.follow(gregorian, calendar.Month)

	c.key("date_key", day, "Date as a number yyyymmdd: the key that facts join on.", of[int]{
		func(r *row) int { return r.year*10000 + int(r.month)*100 + r.dayOfMonth },
		func(r *row) string {
			return fmt.Sprintf("year %d × 10000 + month %d × 100 + day %d", r.year, int(r.month), r.dayOfMonth)
		},
	})
	c.date("date", day, "Date.", of[civil.Day]{func(r *row) civil.Day { return r.day }, func(*row) string { return "the given date" }})

	c.key("year", year.grain, "Calendar year.", year.year())
	for _, p := range []followed{half, quarter} {
		c.addPeriod("", p, "calendar ")
	}
	c.number("month", month.grain, "Month of the calendar year, 1 to 12.", month.inYear())
	c.addMonthNames("", names, "", month, func(r *row) civil.Month { return r.month })
	c.key("month_key", month.grain, "Year and month as a number yyyymm: 202603.", month.key())
	c.label("month_label", month.grain, "month_key", "Year and month by ISO 8601: 2026-03.", month.label())
	c.text("month_year_short", month.grain, "month_key", "Short name of the month and year: Mar 2026.", of[string]{
		func(r *row) string { return names.MonthShort(r.month) + " " + strconv.Itoa(r.year) },
		func(r *row) string { return fmt.Sprintf("month %d of the year %d", int(r.month), r.year) },
	})

	for _, p := range []followed{month, quarter, half, year} {
		c.integer("day_of_"+p.grain.Unit.String(), day, fmt.Sprintf("Day of the %s, from 1.", p.grain.Unit), p.dayIn())
	}
	rule := set.Week.WeekRule()
	c.integer("day_of_week", day, "Day of the week; 1 is the first day of the week.", of[int]{
		func(r *row) int { return r.weekday.From(rule.First) },
		func(r *row) string {
			return fmt.Sprintf("weeks start on %s, and the date is a %s", rule.First, r.weekday)
		},
	})
	c.addDayNames("", names)
	c.integer("nth_weekday_of_month", day, "Occurrence of the weekday in the month: 3 for the third Monday.", of[int]{
		func(r *row) int { return (r.dayOfMonth-1)/7 + 1 },
		func(r *row) string {
			return fmt.Sprintf("day %d of the month is a %s, with %d before it in the month", r.dayOfMonth, r.weekday, (r.dayOfMonth-1)/7)
		},
	})
	for _, p := range []followed{month, quarter, half, year} {
		c.addBounds("", p, "")
	}
	c.boolean("is_leap_year", year.grain, "The calendar year is a leap year.", of[bool]{
		func(r *row) bool { return civil.IsLeap(r.year) },
		func(r *row) string {
			return fmt.Sprintf("%d divided by 4 leaves %d, by 100 %d and by 400 %d; a leap year is divisible by 4, and by 400 if by 100", r.year, r.year%4, r.year%100, r.year%400)
		},
	})
	for _, p := range []followed{month, quarter, half, year} {
		c.addRunning("", p, "")
	}
}

// addPeriod adds the number, name, key and label of a period, all of which
// have the calendar's prefix before them.
func (c *Catalogue) addPeriod(prefix string, p followed, adjective string) {
	unit := p.grain.Unit
	name := prefix + unit.String()
	c.number(name, p.grain, fmt.Sprintf("%s of the %syear, from 1.", capital(unit.String()), adjective), p.inYear())
	c.text(name+"_name", p.grain, name, fmt.Sprintf("%s without the year: %s.", capital(adjective+unit.String()), p.example(p.grain.Calendar.Code)), p.code())
	c.key(name+"_key", p.grain, fmt.Sprintf("%s and %s as a number.", capital(adjective+"year"), unit), p.key())
	c.label(name+"_label", p.grain, name+"_key", fmt.Sprintf("%s and %s: %s.", capital(adjective+"year"), unit, p.example(p.grain.Calendar.Label)), p.label())
}

// exampleDay is one whose periods stand for all in the meanings of labels.
var exampleDay = civil.MustOf(2026, civil.March, 9)

func (f followed) example(label func(calendar.Period) string) string {
	return label(f.grain.Locate(exampleDay))
}

// addBounds adds the first and the last day of a period, and how many it has.
func (c *Catalogue) addBounds(prefix string, p followed, adjective string) {
	unit := p.grain.Unit.String()
	c.bound(RoleFirstDay, prefix+unit+"_start", p.grain, fmt.Sprintf("First day of the %s%s.", adjective, unit), p.first())
	c.bound(RoleLastDay, prefix+unit+"_end", p.grain, fmt.Sprintf("Last day of the %s%s.", adjective, unit), p.last())
	c.integer(prefix+"days_in_"+unit, p.grain, fmt.Sprintf("Number of days in the %s%s.", adjective, unit), p.days())
}

func (c *Catalogue) addRunning(prefix string, p followed, adjective string) {
	unit := p.grain.Unit.String()
	c.integer(prefix+"running_"+unit, p.grain, fmt.Sprintf("%s numbered consecutively across years.", capital(adjective+p.grain.Unit.Plural())), p.number())
}

// addMonthNames adds the names of months in a language, which sort by the
// number that the calendar gives the month.
func (c *Catalogue) addMonthNames(prefix string, names *language.Names, suffix string, month followed, monthOf func(*row) civil.Month) {
	sorted := ""
	if prefix != "" {
		sorted = fmt.Sprintf("; sorts with %s first", month.grain.Calendar.(calendar.MonthNamer).MonthName(1))
	}
	for _, width := range []struct {
		name, meaning string
		of            func(civil.Month) string
	}{{"month_name", "Name of the month", names.Month}, {"month_short", "Short name of the month", names.MonthShort}} {
		c.text(prefix+width.name+suffix, month.grain, prefix+"month", fmt.Sprintf("%s%s%s: %s.", width.meaning, in(names), sorted, width.of(civil.March)), of[string]{
			func(r *row) string { return width.of(monthOf(r)) },
			func(r *row) string {
				return fmt.Sprintf("%s has the name of month %d of the calendar year in the language %s", r.tracks[month.index].label, int(monthOf(r)), names.Tag)
			},
		})
	}
}

// addDayNames adds the names of weekdays in a language.
func (c *Catalogue) addDayNames(suffix string, names *language.Names) {
	day := c.dayGrain()
	why := func(r *row) string {
		return fmt.Sprintf("the date is weekday %d by ISO 8601; its name is in the language %s", int(r.weekday), names.Tag)
	}
	c.text("day_name"+suffix, day, "day_of_week", fmt.Sprintf("Name of the weekday%s: %s.", in(names), names.Day(civil.Monday)),
		of[string]{func(r *row) string { return names.Day(r.weekday) }, why})
	c.text("day_short"+suffix, day, "day_of_week", fmt.Sprintf("Short name of the weekday%s: %s.", in(names), names.DayShort(civil.Monday)),
		of[string]{func(r *row) string { return names.DayShort(r.weekday) }, why})
}

func in(names *language.Names) string {
	if names == language.English {
		return ""
	}
	return " in the language " + names.Tag
}

func capital(text string) string {
	if text == "" || text[0] < 'a' || text[0] > 'z' {
		return text
	}
	return string(text[0]-'a'+'A') + text[1:]
}
