package daysoff

import (
	"fmt"
	"slices"

	"roundyear/civil"
)

// OtherCalendar is a calendar in which a day off can have its date. Its name is
// CLDR's.
type OtherCalendar struct {
	Name string
	// day returns the day of a date, with no check that the month has it.
	day func(year int, month CalendarMonth, dayOfMonth int) civil.Day
	// length returns the days of a month; 0 when the year has no such month.
	length func(year int, month CalendarMonth) int
	// yearOf returns the year of the calendar in which 1 January of a Gregorian
	// year lies, or the one before.
	yearOf func(gregorian int) int
}

// CalendarMonth is a month by its number, and whether it is the leap month
// after it, as RFC 7529 has them: 5L of the Hebrew calendar is Adar I.
type CalendarMonth struct {
	Number int
	Leap   bool
}

// String returns the month as RFC 7529 writes it.
func (m CalendarMonth) String() string {
	if m.Leap {
		return fmt.Sprintf("%dL", m.Number)
	}
	return fmt.Sprint(m.Number)
}

// The epochs of the calendars: the day before the first of year 1.
var (
	beforeIslamic  = civil.MustOf(622, civil.July, 18)
	beforeCoptic   = civil.MustOf(284, civil.August, 28)
	beforeEthiopic = civil.MustOf(8, civil.August, 26)
	beforePersian  = civil.MustOf(622, civil.March, 20)
)

// otherCalendars are the calendars that are known.
var otherCalendars = []*OtherCalendar{
	{
		// The tabular calendar with eleven leap years in thirty, from Friday,
		// 16 July 622 of the Julian calendar.
		Name: "islamic-civil",
		day:  islamicCivilDay,
		length: func(year int, month CalendarMonth) int {
			switch {
			case month.Leap || month.Number > 12:
				return 0
			case month.Number == 12 && (14+11*year)%30 < 11, month.Number%2 == 1:
				return 30
			}
			return 29
		},
		yearOf: func(gregorian int) int { return (gregorian-622)*33/32 - 1 },
	},
	thirteenMonths("coptic", beforeCoptic, 284),
	thirteenMonths("ethiopic", beforeEthiopic, 8),
	{
		// The solar calendar of Iran by the cycle of 33 years, which agrees with
		// the equinox in the years 1800 to 2100.
		Name: "persian",
		day: func(year int, month CalendarMonth, dayOfMonth int) civil.Day {
			before := 31 * (month.Number - 1)
			if month.Number > 7 {
				before -= month.Number - 7
			}
			return beforePersian + civil.Day(365*(year-1)+(8*year+21)/33+before+dayOfMonth)
		},
		length: func(year int, month CalendarMonth) int {
			switch {
			case month.Leap || month.Number > 12:
				return 0
			case month.Number <= 6:
				return 31
			case month.Number < 12 || (25*year+11)%33 < 8:
				return 30
			}
			return 29
		},
		yearOf: func(gregorian int) int { return gregorian - 622 },
	},
	{
		Name:   "hebrew",
		day:    hebrewDay,
		length: hebrewLength,
		yearOf: func(gregorian int) int { return gregorian + 3760 },
	},
	fromSky("islamic-umalqura", ummAlQura, func(gregorian int) int { return (gregorian-622)*33/32 - 1 }),
	// The meridian of 120° east holds in China since 1929.
	newLunisolar("chinese", 8, 1929),
	newLunisolar("dangi", 9, 1929),
	// CLDR has no name for the calendar of Viet Nam, which is the same at its own
	// meridian since 1968.
	newLunisolar("vietnamese", 7, 1968),
}

func islamicCivilDay(year int, month CalendarMonth, dayOfMonth int) civil.Day {
	return beforeIslamic + civil.Day(354*(year-1)+(3+11*year)/30+29*(month.Number-1)+month.Number/2+dayOfMonth)
}

// thirteenMonths is a calendar of twelve months of 30 days and a short one of 5
// or, in each fourth year, 6.
func thirteenMonths(name string, before civil.Day, began int) *OtherCalendar {
	return &OtherCalendar{
		Name: name,
		day: func(year int, month CalendarMonth, dayOfMonth int) civil.Day {
			return before + civil.Day(365*(year-1)+year/4+30*(month.Number-1)+dayOfMonth)
		},
		length: func(year int, month CalendarMonth) int {
			switch {
			case month.Leap || month.Number > 13:
				return 0
			case month.Number < 13:
				return 30
			case year%4 == 3:
				return 6
			}
			return 5
		},
		yearOf: func(gregorian int) int { return gregorian - began - 1 },
	}
}

// OtherCalendars lists the names of the calendars.
func OtherCalendars() []string {
	var names []string
	for _, calendar := range otherCalendars {
		names = append(names, calendar.Name)
	}
	return names
}

// OtherCalendarOf returns the calendar of a name, or nil.
func OtherCalendarOf(name string) *OtherCalendar {
	for _, calendar := range otherCalendars {
		if calendar.Name == name {
			return calendar
		}
	}
	return nil
}

// The molad of the first year is 5 hours and 204 parts after the evening with
// which its Monday began, and a month has 29 days, 12 hours and 793 parts.
const (
	hebrewMonthParts = 13753
	hebrewFirstParts = 12084
	partsInDay       = 25920
)

// hebrewEpoch is 1 Tishri of year 1, counted like a civil.Day: Monday, 7 October
// 3761 BC of the Julian calendar.
const hebrewEpoch = civil.Day(-2092590)

func isHebrewLeap(year int) bool { return (7*year+1)%19 < 7 }

// hebrewElapsed counts the days from the epoch to the new year by the molad,
// put off when that would be a Sunday, Wednesday or Friday.
func hebrewElapsed(year int) int {
	months := (235*year - 234) / 19
	day := 29*months + (hebrewFirstParts+hebrewMonthParts*months)/partsInDay
	if 3*(day+1)%7 < 3 {
		day++
	}
	return day
}

// hebrewNewYear returns 1 Tishri, put off where a year would have 356 days or
// the one before 382.
func hebrewNewYear(year int) civil.Day {
	before, own, after := hebrewElapsed(year-1), hebrewElapsed(year), hebrewElapsed(year+1)
	delay := 0
	switch {
	case after-own == 356:
		delay = 2
	case own-before == 382:
		delay = 1
	}
	return hebrewEpoch + civil.Day(own+delay)
}

// hebrewMonths are the months of a year in their order, from Tishri.
func hebrewMonths(year int) []CalendarMonth {
	var months []CalendarMonth
	for number := 1; number <= 12; number++ {
		months = append(months, CalendarMonth{Number: number})
		if number == 5 && isHebrewLeap(year) {
			months = append(months, CalendarMonth{Number: 5, Leap: true})
		}
	}
	return months
}

func hebrewLength(year int, month CalendarMonth) int {
	days := int(hebrewNewYear(year+1) - hebrewNewYear(year))
	switch {
	case month.Leap && (month.Number != 5 || !isHebrewLeap(year)), month.Number > 12:
		return 0
	case month.Leap:
		return 30
	case month.Number == 2 && days%10 == 5, month.Number == 3 && days%10 != 3:
		// Heshvan has 30 days in a whole year, Kislev in all but a lacking one.
		return 30
	}
	return [...]int{30, 29, 29, 29, 30, 29, 30, 29, 30, 29, 30, 29}[month.Number-1]
}

func hebrewDay(year int, month CalendarMonth, dayOfMonth int) civil.Day {
	day := hebrewNewYear(year) + civil.Day(dayOfMonth-1)
	for _, earlier := range hebrewMonths(year) {
		if earlier == month {
			break
		}
		day += civil.Day(hebrewLength(year, earlier))
	}
	return day
}

// InCalendar is a date of another calendar. In a Gregorian year it may fall
// twice or not at all.
type InCalendar struct {
	Calendar *OtherCalendar
	Month    CalendarMonth
	Day      int
}

// In returns the days.
func (w InCalendar) In(year int) []civil.Day {
	var days []civil.Day
	first := w.Calendar.yearOf(year)
	for own := max(first, 1); own <= first+3; own++ {
		if w.Day > w.Calendar.length(own, w.Month) {
			continue
		}
		if day := w.Calendar.day(own, w.Month, w.Day); day.Year() == year {
			days = append(days, day)
		}
	}
	slices.Sort(days)
	return days
}

// Words says the date and the calendar.
func (w InCalendar) Words() string {
	return fmt.Sprintf("day %d of month %s in the calendar %s", w.Day, w.Month, w.Calendar.Name)
}
