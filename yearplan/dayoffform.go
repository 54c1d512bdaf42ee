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

var moveForm = shape{doc: "What falls on a weekday is taken so many days later.", fields: []field{
	{"from", shape{doc: "Weekday on which its own day falls.", scalar: weekdayName}},
	{"by", shape{doc: "Days later, or earlier when negative.", scalar: number(-31, 31)}},
}}

// dayOffFields are the keys of one rule of days off.
var dayOffFields = []field{
	{"name", shape{doc: "Name of the day.", scalar: anyText}},
	{"names", shape{doc: "Names in other languages, by their tags.", entries: &shape{scalar: anyText}}},
	{"kind", shape{doc: "What it is, or what the days of a file are that do not say so: a holiday by law, one of banks, one that people choose, a day that is marked and not off, a closure of the company, or a day of the weekend that is worked in exchange for another.", scalar: oneOf(kindNames()...)}},
	{"half", shape{doc: "Only half of the day is off.", scalar: oneOf("true", "false")}},
	{"when", shape{doc: "When it falls.", list: &whenForm, single: true}},
	{"since", shape{doc: "First year or day on which it falls.", scalar: yearOrDay}},
	{"until", shape{doc: "Last year or day on which it falls.", scalar: yearOrDay}},
	{"every", shape{doc: "After how many years it comes again, from since on.", scalar: number(1, 100)}},
	{"except", shape{doc: "Years in which it does not fall.", list: &shape{scalar: number(1583, 9999)}, single: true}},
	{"only", shape{doc: "Years in which alone it falls.", list: &shape{scalar: number(1583, 9999)}, single: true}},
	{"move", shape{doc: "When it is taken on another day.", list: &moveForm, single: true}},
	{"observe", shape{doc: "next_free: on a weekend or another day off it is taken on the next day that is neither. nearest: on the nearest. both: its own day stays off besides the one it is taken on.", scalar: oneOf("next_free", "nearest", "both")}},
	{"observe_from", shape{doc: "Weekdays on which observe begins, and day_off for other days off; without any on weekends and other days off.", list: &shape{scalar: weekdayOrDayOff}, single: true}},
	{"announced_to", shape{doc: "Last year of which the days are announced; those of later years are expected.", scalar: number(1583, 9999)}},
	{"scope", shape{doc: "Where it holds: subdivisions by ISO 3166-2, regions, or sites of the plan; without any everywhere.", list: &shape{scalar: anyText}, single: true}},
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
var daysOffForm = shape{doc: "Days off: regions, files of days, and rules of your own.", nothing: true, list: &shape{fields: append([]field{
	{"region", shape{doc: "Region by ISO 3166-1, such as IE, or subdivision by ISO 3166-2, such as DE-BY.", scalar: anyText}},
	{"file", shape{doc: "File of days off, or its address on the web, with {year} in it if there is one a year: .ics, .csv, .json, or a page with a table.", scalar: anyText}},
	{"years", shape{doc: "First and last year that {year} stands for.", fields: []field{{"from", shape{scalar: number(1583, 9999)}}, {"to", shape{scalar: number(1583, 9999)}}}}},
	{"table", shape{doc: "Which table of a page: its number, or words of its caption or header.", scalar: anyText}},
	{"columns", shape{doc: "Names of the columns of a list.", fields: []field{
		{"date", shape{doc: "Column of the date; date if left out.", scalar: anyText}}, {"name", shape{doc: "Column of the name; name if left out.", scalar: anyText}},
	}}},
	{"pattern", shape{doc: "Form of the dates of a list by Unicode LDML.", scalar: anyText}},
	{"prefix", shape{doc: "What goes before the columns of these days off, which then are a set of their own.", scalar: anyText}},
}, dayOffFields...)}}

func init() {
	whenForm = shape{doc: "A day of the year.", definition: "when", fields: []field{
		{"calendar", shape{doc: "Calendar of the date, by CLDR's name; without one the Gregorian.", scalar: oneOf(daysoff.OtherCalendars()...)}},
		{"month", shape{doc: "Month by name or number; of another calendar its number, 5L being the leap month after the fifth.", scalar: anyMonth}},
		{"day", shape{doc: "Day of the month.", scalar: number(1, 31)}},
		{"only_on", shape{doc: "Weekdays on which the date counts.", list: &shape{scalar: weekdayName}, single: true}},
		{"weekday", shape{doc: "Weekday.", scalar: weekdayName}},
		{"nth", shape{doc: "Which of the weekday in the month, or without a month in each; -1 is the last.", scalar: number(-5, 5)}},
		{"on_or_after", dateForm},
		{"on_or_before", dateForm},
		{"easter", shape{doc: "Days from Easter Sunday.", scalar: number(-200, 250)}},
		{"orthodox_easter", shape{doc: "Days from orthodox Easter Sunday.", scalar: number(-200, 250)}},
		{"date", shape{doc: "A single date.", scalar: date}},
		{"dates", shape{doc: "Single dates.", list: &shape{scalar: date}}},
		{"season", shape{doc: "Equinox or solstice.", scalar: oneOf(daysoff.SunPointNames(daysoff.Seasons)...)}},
		{"solar_term", shape{doc: "One of the 24 solar terms of East Asia, by its name in Hanyu Pinyin.", scalar: oneOf(daysoff.SunPointNames(daysoff.SolarTerms)...)}},
		{"zone", shape{doc: "IANA zone in which the day of the season or the solar term is told; UTC without one.", scalar: anyText}},
		{"between_holidays", shape{doc: "Each day between two holidays of the same set that is no holiday itself, nor a Sunday.", scalar: oneOf("true")}},
		{"rrule", shape{doc: "Recurrence rule of iCalendar (RFC 5545); DTSTART=20260105; before it is its start.", scalar: anyText}},
		{"shift", shape{doc: "So many days later than that, or earlier when negative.", scalar: number(-60, 60)}},
		{"lasts", shape{doc: "How many days it lasts from that day on.", scalar: number(1, 60)}},
		{"either", shape{doc: "The first of these that falls in the year.", list: &whenForm}},
	}}
	form.fields = append(form.fields, field{"days_off", daysOffForm})
}
