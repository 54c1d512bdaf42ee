package yearplan

import (
	"strconv"
	"strings"

	"roundyear/civil"
	"roundyear/daysoff"
)

var dateForm = shape{fields: []field{
	{"month", shape{doc: "Month.", scalar: monthName}},
	{"day", shape{doc: "Day of the month.", scalar: number(1, 31)}},
}}

// whenForm says when a day off falls. It is filled at the start since it holds
// itself: either is a list of it.
var whenForm shape

var moveForm = shape{doc: "If the day falls on a certain weekday, it is taken a number of days later.", fields: []field{
	{"from", shape{doc: "Weekday on which the day falls.", scalar: weekdayName}},
	{"by", shape{doc: "Days later, or earlier if negative.", scalar: number(-31, 31)}},
}}

// dayOffFields are the keys of one rule of days off.
var dayOffFields = []field{
	{"name", shape{doc: "Name of the day.", scalar: anyText}},
	{"names", shape{doc: "Names in other languages, by language tag.", entries: &shape{scalar: anyText}}},
	{"kind", shape{doc: "Kind of day off, or the default kind for the days of a file: statutory (a public holiday by law), bank (a bank holiday), elective (chosen by people), marked (observed but not off), closure (the company is closed), or worked (a weekend day worked in exchange for another).", scalar: oneOf(kindNames()...)}},
	{"half", shape{doc: "Only half of the day is off.", scalar: oneOf("true", "false")}},
	{"when", shape{doc: "Rule for its date.", list: &whenForm, single: true}},
	{"since", shape{doc: "First year or date of the rule.", scalar: yearOrDay}},
	{"until", shape{doc: "Last year or date of the rule.", scalar: yearOrDay}},
	{"every", shape{doc: "Recurs every this many years, starting with since.", scalar: number(1, 100)}},
	{"except", shape{doc: "Years without it.", list: &shape{scalar: number(1583, 9999)}, single: true}},
	{"only", shape{doc: "The only years with it.", list: &shape{scalar: number(1583, 9999)}, single: true}},
	{"move", shape{doc: "Moves to another day.", list: &moveForm, single: true}},
	{"observe", shape{doc: "next_free: if it falls on a weekend or another day off, it is taken on the next day that is neither; nearest: on the nearest such day; both: its own day stays off as well.", scalar: oneOf("next_free", "nearest", "both")}},
	{"observe_from", shape{doc: "Weekdays to which observe applies, and day_off for other days off (default: weekends and other days off).", list: &shape{scalar: weekdayOrDayOff}, single: true}},
	{"announced_to", shape{doc: "Last year whose days are announced; those of later years are expected.", scalar: number(1583, 9999)}},
	{"scope", shape{doc: "Where it applies: subdivisions by ISO 3166-2, regions, or sites of the plan (default: everywhere).", list: &shape{scalar: anyText}, single: true}},
	{"source", shape{doc: "Law or other source of the rule.", scalar: anyText}},
}

// dayOff stands for another day off among weekdays.
const dayOff = "day_off"

var weekdayOrDayOff = &scalar{what: "a weekday such as sunday, or day_off", schema: weekdayName.schema, accepts: func(text string) bool {
	return text == dayOff || weekdayName.accepts(text)
}}

// anyMonth is a month by name, or by the number that another calendar gives it.
var anyMonth = &scalar{what: "a month such as april or 4, or of another calendar such as 13 or 5L", schema: map[string]any{"type": []string{"string", "integer"}},
	accepts: func(text string) bool {
		_, ok := calendarMonth(text)
		return ok || monthOf(text) != 0
	}}

// calendarMonth reads a month by its number, with L for a leap month.
func calendarMonth(text string) (daysoff.CalendarMonth, bool) {
	digits, leap := strings.CutSuffix(text, "L")
	value, err := strconv.Atoi(digits)
	return daysoff.CalendarMonth{Number: value, Leap: leap}, err == nil && value >= 1 && value <= 13
}

var yearOrDay = &scalar{what: "a year such as 2023 or a day such as 2023-02-01", schema: map[string]any{"type": []string{"integer", "string"}}, accepts: func(text string) bool {
	_, ok := firstOfYearOrDay(text)
	return ok
}}

func firstOfYearOrDay(value string) (civil.Day, bool) {
	if year, err := strconv.Atoi(value); err == nil {
		return civil.Of(year, civil.January, 1)
	}
	day, err := civil.Parse(value)
	return day, err == nil
}

func kindNames() []string {
	var names []string
	for _, kind := range daysoff.Kinds {
		names = append(names, string(kind))
	}
	return names
}

// daysOffForm is the plan's list: regions, files, and rules of its own.
var daysOffForm = shape{doc: "Days off: regions, files, and your own rules.", nothing: true, list: &shape{fields: append([]field{
	{"region", shape{doc: "Region by ISO 3166-1, such as IE, or subdivision by ISO 3166-2, such as DE-BY.", scalar: anyText}},
	{"file", shape{doc: "File or web address of a list of days off: .ics, .csv, .json, or a page with a table; with {year} if there is one per year.", scalar: anyText}},
	{"years", shape{doc: "First and last year for {year}.", fields: []field{{"from", shape{scalar: number(1583, 9999)}}, {"to", shape{scalar: number(1583, 9999)}}}}},
	{"table", shape{doc: "Table of the page: its number, or words of its caption or header.", scalar: anyText}},
	{"columns", shape{doc: "Column names of the list.", fields: []field{
		{"date", shape{doc: "Date column (default: date).", scalar: anyText}}, {"name", shape{doc: "Name column (default: name).", scalar: anyText}},
	}}},
	{"pattern", shape{doc: "Date format of the list in Unicode LDML.", scalar: anyText}},
	{"prefix", shape{doc: "Prefix of the columns for these days off, which then form a separate set.", scalar: anyText}},
}, dayOffFields...)}}

func init() {
	whenForm = shape{doc: "A day of the year.", definition: "when", fields: []field{
		{"calendar", shape{doc: "Calendar of the date, by its CLDR name (default: gregorian).", scalar: oneOf(daysoff.OtherCalendars()...)}},
		{"month", shape{doc: "Month by name or number; for another calendar its number, with 5L for the leap month after the fifth.", scalar: anyMonth}},
		{"day", shape{doc: "Day of the month.", scalar: number(1, 31)}},
		{"only_on", shape{doc: "Only if the date falls on one of these weekdays.", list: &shape{scalar: weekdayName}, single: true}},
		{"weekday", shape{doc: "Weekday.", scalar: weekdayName}},
		{"nth", shape{doc: "Occurrence of the weekday in the month (in every month if none is given); -1 is the last.", scalar: number(-5, 5)}},
		{"on_or_after", dateForm},
		{"on_or_before", dateForm},
		{"easter", shape{doc: "Days from Easter Sunday.", scalar: number(-200, 250)}},
		{"orthodox_easter", shape{doc: "Days from orthodox Easter Sunday.", scalar: number(-200, 250)}},
		{"date", shape{doc: "A single date.", scalar: date}},
		{"dates", shape{doc: "Single dates.", list: &shape{scalar: date}}},
		{"season", shape{doc: "Equinox or solstice.", scalar: oneOf(daysoff.SunPointNames(daysoff.Seasons)...)}},
		{"solar_term", shape{doc: "One of the 24 solar terms of East Asia, by its name in Hanyu Pinyin.", scalar: oneOf(daysoff.SunPointNames(daysoff.SolarTerms)...)}},
		{"zone", shape{doc: "IANA time zone that decides the day of the season or solar term (default: UTC).", scalar: anyText}},
		{"between_holidays", shape{doc: "Every day between two holidays of the same set that is neither a holiday nor a Sunday.", scalar: oneOf("true")}},
		{"rrule", shape{doc: "Recurrence rule of iCalendar (RFC 5545), with DTSTART=20260105; in front to set its start.", scalar: anyText}},
		{"shift", shape{doc: "Days after that, or before if negative.", scalar: number(-60, 60)}},
		{"lasts", shape{doc: "Number of days it lasts.", scalar: number(1, 60)}},
		{"either", shape{doc: "The first of these that occurs in the year.", list: &whenForm}},
	}}
	form.fields = append(form.fields, field{"days_off", daysOffForm})
}
