package yearplan

import (
	"embed"
	"fmt"
	"path"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/teambition/rrule-go"
	"go.yaml.in/yaml/v4"

	"roundyear/calendar"
	"roundyear/civil"
	"roundyear/daysoff"
	"roundyear/dimension"
	"roundyear/internal/nearest"
)

// regionFiles are the days off of regions, read when first needed.
//
//go:embed regions/*.yaml
var regionFiles embed.FS

// Region is the days off of a country or other region.
type Region struct {
	// Code is its code by ISO 3166-1, Name its English name.
	Code, Name string
	Rules      []*daysoff.Rule
	Weekend    []civil.Weekday
	// WeekendSince is the day since which it is the weekend, or nil.
	WeekendSince *civil.Day
	// SureFrom and SureTo are the years for which the rules are known to be right.
	SureFrom, SureTo int
	// Source is where the rules come from that name none of their own.
	Source string
	// Subdivisions are the codes by ISO 3166-2 in which rules differ.
	Subdivisions []string
	// Missing says what is known to be missing.
	Missing []string
}

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

var regionForm = shape{doc: "Days off of a region.", fields: []field{
	{"region", shape{doc: "Code by ISO 3166-1.", scalar: anyText}},
	{"name", shape{doc: "English name.", scalar: anyText}},
	{"weekend", shape{doc: "Weekdays of the weekend.", list: &shape{scalar: weekdayName}}},
	{"weekend_since", shape{doc: "Day since which it is the weekend, where another one was before.", scalar: date}},
	{"sure", shape{doc: "Years for which the rules are known to be right.", fields: []field{{"from", shape{scalar: number(1583, 9999)}}, {"to", shape{scalar: number(1583, 9999)}}}}},
	{"source", shape{doc: "Law or other source.", scalar: anyText}},
	{"subdivisions", shape{doc: "Codes by ISO 3166-2 in which rules differ.", list: &shape{scalar: anyText}}},
	{"missing", shape{doc: "What is known to be missing.", list: &shape{scalar: anyText}}},
	{"days", shape{doc: "The rules.", list: &shape{fields: dayOffFields}}},
}}

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
		{"rrule", shape{doc: "Recurrence rule of iCalendar (RFC 5545), from 1900 to 2190; DTSTART in it begins elsewhere.", scalar: anyText}},
		{"shift", shape{doc: "So many days later than that, or earlier when negative.", scalar: number(-60, 60)}},
		{"lasts", shape{doc: "How many days it lasts from that day on.", scalar: number(1, 60)}},
		{"either", shape{doc: "The first of these that falls in the year.", list: &whenForm}},
	}}
	form.fields = append(form.fields, field{"days_off", daysOffForm})
}

// Regions lists the codes of all regions that there are.
func Regions() []string {
	files, err := regionFiles.ReadDir("regions")
	if err != nil {
		panic(err) // they are part of the program
	}
	var codes []string
	for _, file := range files {
		codes = append(codes, strings.TrimSuffix(file.Name(), ".yaml"))
	}
	return codes
}

var regionCache sync.Map

// RegionOf returns the region of a code: of a country such as IE the rules that
// hold in all of it, of a subdivision such as DE-BY those and its own. The error
// names the nearest.
func RegionOf(code string) (*Region, error) {
	wanted := strings.ToUpper(strings.TrimSpace(code))
	country, _, isPart := strings.Cut(wanted, "-")
	if !slices.Contains(Regions(), country) {
		remedy := "; there are " + strings.Join(Regions(), ", ")
		if near := nearestRegion(wanted); near != "" {
			remedy = fmt.Sprintf(". Did you mean %s?", near)
		}
		return nil, fmt.Errorf("there are no days off of the region %q%s", code, remedy)
	}
	region := readRegion(country)
	if isPart && !slices.Contains(region.Subdivisions, wanted) {
		near := nearest.Name(wanted, region.Subdivisions)
		switch {
		case len(region.Subdivisions) == 0:
			return nil, fmt.Errorf("the days off of %s are the same in all parts of it: say %s", country, country)
		case near != "":
			return nil, fmt.Errorf("there are no days off of the region %q. Did you mean %s?", code, near)
		}
		return nil, fmt.Errorf("there are no days off of the region %q; %s has %s", code, country, strings.Join(region.Subdivisions, ", "))
	}
	part := *region
	part.Code, part.Rules = wanted, nil
	for _, rule := range region.Rules {
		if rule.HoldsIn(wanted) {
			part.Rules = append(part.Rules, rule)
		}
	}
	return &part, nil
}

// nearestRegion returns the code that somebody meant, who may have written a
// name.
func nearestRegion(wanted string) string {
	if len(wanted) <= 2 {
		// Any two letters are near to any others.
		return map[string]string{"UK": "GB", "EL": "GR"}[wanted]
	}
	if near := nearest.Name(wanted, Regions()); near != "" {
		return near
	}
	codes, names := map[string]string{}, []string(nil)
	for _, code := range Regions() {
		name, _, _ := strings.Cut(readRegion(code).Name, " (")
		codes[name], names = code, append(names, name)
	}
	near := nearest.Name(wanted, names)
	if near == "" {
		return ""
	}
	return fmt.Sprintf("%s (%s)", codes[near], near)
}

// readRegion reads a region of the program. That all of them can be read is
// tested.
func readRegion(code string) *Region {
	if known, found := regionCache.Load(code); found {
		return known.(*Region)
	}
	content, err := regionFiles.ReadFile(path.Join("regions", code+".yaml"))
	if err != nil {
		panic(err)
	}
	region, err := parseRegion(code+".yaml", content)
	if err != nil {
		panic(err)
	}
	regionCache.Store(code, region)
	return region
}

// parseRegion reads the file of a region. The error is the Faults of it.
func parseRegion(file string, content []byte) (*Region, error) {
	root, fault := parse(file, content)
	if fault != nil {
		return nil, Faults{*fault}
	}
	c := &checker{file: file}
	c.check(root, regionForm, file)
	r := &reader{checker: c, shapeFaults: slices.Clone(c.faults)}
	region := &Region{Code: text(root, "region"), Name: text(root, "name"), Source: text(root, "source"), Subdivisions: texts(root, "subdivisions"), Missing: texts(root, "missing")}
	for _, name := range texts(root, "weekend") {
		region.Weekend = append(region.Weekend, weekdayOf(name))
	}
	if since, err := civil.Parse(text(root, "weekend_since")); err == nil {
		region.WeekendSince = &since
	}
	sure := below(root, "sure")
	region.SureFrom, _ = strconv.Atoi(text(sure, "from"))
	region.SureTo, _ = strconv.Atoi(text(sure, "to"))
	for _, item := range items(below(root, "days")) {
		if !r.sound(item) {
			continue
		}
		if rule := r.readDayOff(item); rule != nil {
			rule.Region = region.Code
			if rule.Source == "" {
				rule.Source = region.Source
			}
			region.Rules = append(region.Rules, rule)
		}
	}
	if len(c.faults) > 0 {
		return nil, c.faults.sorted()
	}
	return region, nil
}

// readDayOff reads one rule that has the right shape.
func (r *reader) readDayOff(node *yaml.Node) *daysoff.Rule {
	rule := &daysoff.Rule{Name: text(node, "name"), Kind: daysoff.Kind(text(node, "kind")), Half: text(node, "half") == "true",
		Scope: texts(node, "scope"), Source: text(node, "source")}
	if rule.Kind == "" {
		rule.Kind = daysoff.Statutory
	}
	if rule.Name == "" {
		r.add(node, "Say name: Stocktaking", "a day off has no name")
		return nil
	}
	for key, value := range entries(below(node, "names")) {
		if rule.Names == nil {
			rule.Names = map[string]string{}
		}
		rule.Names[strings.ToLower(key.Value)] = resolved(value).Value
	}
	if since := text(node, "since"); since != "" {
		day, _ := firstOfYearOrDay(since)
		rule.Since = &day
	}
	if until := text(node, "until"); until != "" {
		day, _ := firstOfYearOrDay(until)
		if _, err := strconv.Atoi(until); err == nil {
			day = civil.FirstOfYear(day.Year()+1) - 1
		}
		rule.Until = &day
	}
	if rule.Since != nil && rule.Until != nil && *rule.Until < *rule.Since {
		r.add(below(node, "until"), "", "%s ends on %s, before it begins on %s, and so never falls", rule.Name, *rule.Until, *rule.Since)
		return nil
	}
	if every := text(node, "every"); every != "" {
		rule.Every, _ = strconv.Atoi(every)
		if rule.Every > 1 && rule.Since == nil {
			r.add(below(node, "every"), "Say since which year", "%s comes every %d years, but not from which year on", rule.Name, rule.Every)
			return nil
		}
	}
	for _, except := range texts(node, "except") {
		year, _ := strconv.Atoi(except)
		rule.Except = append(rule.Except, year)
	}
	for _, only := range texts(node, "only") {
		year, _ := strconv.Atoi(only)
		rule.Only = append(rule.Only, year)
	}
	for _, move := range items(below(node, "move")) {
		by, _ := strconv.Atoi(text(move, "by"))
		from := weekdayOf(text(move, "from"))
		if from == 0 || by == 0 {
			r.add(move, "", "a move of %s says from which weekday, and by how many days", rule.Name)
			return nil
		}
		rule.Moves = append(rule.Moves, daysoff.Move{From: from, By: by})
	}
	observe := text(node, "observe")
	rule.NextFree, rule.Nearest, rule.KeepBoth = observe == "next_free", observe == "nearest", observe == "both"
	for _, weekday := range texts(node, "observe_from") {
		if weekday == dayOff {
			rule.OrDayOff = true
			continue
		}
		rule.ObserveFrom = append(rule.ObserveFrom, weekdayOf(weekday))
	}
	rule.AnnouncedTo, _ = strconv.Atoi(text(node, "announced_to"))
	if (rule.NextFree || rule.Nearest) && len(rule.Moves) > 0 {
		r.add(below(node, "observe"), "Keep one of them", "%s has both move and observe: %s", rule.Name, observe)
		return nil
	}
	if rule.When = r.readWhen(rule.Name, node); rule.When == nil {
		return nil
	}
	// Most fall in this century, which is soon seen.
	if !rule.Occurs(2000, 2050) && !rule.Occurs(1583, 2700) {
		r.add(below(node, "when"), "", "%s never falls: %s", rule.Name, rule.Why())
		return nil
	}
	return rule
}

// readWhen reads when a rule falls; several are all of them.
func (r *reader) readWhen(name string, node *yaml.Node) daysoff.When {
	list := items(below(node, "when"))
	if len(list) == 0 {
		r.add(node, "Say when: {month: june, day: 24}", "%s does not say when it falls", name)
		return nil
	}
	var all daysoff.All
	for _, item := range list {
		one := r.readOneWhen(name, item)
		if one == nil {
			return nil
		}
		all = append(all, one)
	}
	if len(all) == 1 {
		return all[0]
	}
	return all
}

// readOneWhen reads one of them: a day, or some days from it on.
func (r *reader) readOneWhen(name string, node *yaml.Node) daysoff.When {
	when := r.readDay(name, node)
	shift, _ := strconv.Atoi(text(node, "shift"))
	lasts, _ := strconv.Atoi(text(node, "lasts"))
	if when == nil || shift == 0 && lasts < 2 {
		return when
	}
	if _, isBetween := when.(daysoff.Between); isBetween {
		r.add(node, "", "%s: days between holidays cannot be shifted, nor last for more than a day", name)
		return nil
	}
	return daysoff.Span{From: when, Shift: shift, Lasts: lasts}
}

func (r *reader) readDay(name string, node *yaml.Node) daysoff.When {
	integer := func(key string) int {
		value, _ := strconv.Atoi(text(node, key))
		return value
	}
	month, weekday := monthOf(text(node, "month")), weekdayOf(text(node, "weekday"))
	has := func(key string) bool { return below(node, key) != nil }
	switch {
	case has("season") || has("solar_term"):
		point, isSeason := daysoff.SunPointOf(text(node, "season"), daysoff.Seasons)
		if !isSeason {
			point, _ = daysoff.SunPointOf(text(node, "solar_term"), daysoff.SolarTerms)
		}
		zone, err := time.LoadLocation(text(node, "zone"))
		if err != nil {
			r.add(below(node, "zone"), "", "%s: there is no zone %q; zones have IANA names such as Asia/Tokyo or UTC", name, text(node, "zone"))
			return nil
		}
		return daysoff.OnSun{Point: point, Zone: zone}
	case has("between_holidays"):
		return daysoff.Between{}
	case has("rrule"):
		days, err := recurring(text(node, "rrule"))
		if err != nil {
			r.add(below(node, "rrule"), "", "%s: %v", name, err)
			return nil
		}
		return daysoff.Recurring{Rule: text(node, "rrule"), Days: days}
	case has("calendar"):
		calendar := daysoff.OtherCalendarOf(text(node, "calendar"))
		month, ok := calendarMonth(text(node, "month"))
		if !ok || integer("day") == 0 {
			r.add(node, "Say {calendar: hebrew, month: 7, day: 15}", "%s: a date of another calendar has a month by its number and a day", name)
			return nil
		}
		return daysoff.InCalendar{Calendar: calendar, Month: month, Day: integer("day")}
	case has("either"):
		var either daysoff.Either
		for _, item := range items(below(node, "either")) {
			one := r.readOneWhen(name, item)
			if one == nil {
				return nil
			}
			either = append(either, one)
		}
		return either
	case has("easter"):
		return daysoff.FromEaster{Days: integer("easter")}
	case has("orthodox_easter"):
		return daysoff.FromEaster{Days: integer("orthodox_easter"), Orthodox: true}
	case has("date") || has("dates"):
		var dates daysoff.OnDates
		for _, single := range append(texts(node, "date"), texts(node, "dates")...) {
			day, _ := civil.Parse(single)
			dates = append(dates, day)
		}
		return dates
	case weekday != 0 && (has("on_or_after") || has("on_or_before")):
		key := "on_or_after"
		if has("on_or_before") {
			key = "on_or_before"
		}
		near := below(node, key)
		day, _ := strconv.Atoi(text(near, "day"))
		if _, ok := civil.Of(2000, monthOf(text(near, "month")), day); !ok {
			r.add(near, "", "%s: %s is a month and a day of it", name, key)
			return nil
		}
		return daysoff.NearDate{Weekday: weekday, Before: key == "on_or_before", Month: monthOf(text(near, "month")), Day: day}
	case weekday != 0 && integer("nth") != 0:
		return daysoff.NthWeekday{Weekday: weekday, Nth: integer("nth"), Month: month}
	case month != 0 && integer("day") != 0 && weekday == 0:
		var only []civil.Weekday
		for _, name := range texts(node, "only_on") {
			only = append(only, weekdayOf(name))
		}
		return daysoff.OnDate{Month: month, Day: integer("day"), OnlyOn: only}
	}
	r.add(node, "Say {month: june, day: 24}, {weekday: monday, nth: 1, month: june}, {weekday: friday, on_or_after: {month: june, day: 19}}, {easter: 1} or {date: 2026-01-05}",
		"it is not clear when %s falls", name)
	return nil
}

// mostRecurring is more days than a rule of days off has in all years.
const mostRecurring = 100_000

// recurring works out the days of a recurrence rule from 1900 to 2190, or from
// where it says that it starts: the library counts at most 292 years.
func recurring(text string) (days []civil.Day, err error) {
	defer func() {
		if beyond := recover(); beyond != nil {
			// The library reckons with weeks that no month has.
			days, err = nil, fmt.Errorf("%q asks for days that no month or year has", text)
		}
	}()
	options, err := rrule.StrToROption(text)
	if err != nil {
		return nil, fmt.Errorf("%q is no recurrence rule of RFC 5545: %w", text, err)
	}
	if options.Dtstart.IsZero() {
		options.Dtstart = time.Date(1900, 1, 1, 0, 0, 0, 0, time.UTC)
	}
	last := time.Date(2190, 12, 31, 0, 0, 0, 0, time.UTC)
	if options.Freq >= rrule.HOURLY {
		return nil, fmt.Errorf("%q recurs within a day, and days off are whole days", text)
	}
	rule, err := rrule.NewRRule(*options)
	if err != nil {
		return nil, fmt.Errorf("%q is no recurrence rule of RFC 5545: %w", text, err)
	}
	next := rule.Iterator()
	for moment, more := next(); more && !moment.After(last); moment, more = next() {
		year, month, dayOfMonth := moment.Date()
		days = append(days, civil.MustOf(year, civil.Month(month), dayOfMonth))
		if len(days) > mostRecurring {
			return nil, fmt.Errorf("%q gives more than %d days off", text, mostRecurring)
		}
	}
	return days, nil
}

// DaysOff is a source of days off in the plan.
type DaysOff struct {
	// Prefix goes before the columns of its set; empty for the main set.
	Prefix string
	// Region is a region, File a file from the plan's folder, Rule a rule of the
	// plan's own; one of them is there.
	Region *Region
	File   string
	Rule   *daysoff.Rule
	// Kind is what the days of a file are that say nothing of it.
	Kind daysoff.Kind
	// YearFrom and YearTo are the years that {year} in the file's name stands for.
	YearFrom, YearTo int
	// Table is which table of a page; DateColumn, NameColumn and Pattern say how
	// a list is read.
	Table, DateColumn, NameColumn, Pattern string
}

// readScope tells whether all places where a rule of the plan holds are regions
// or sites.
func (r *reader) readScope(rule *daysoff.Rule, node *yaml.Node) bool {
	var sites []string
	for _, site := range r.plan.Sites {
		sites = append(sites, site.Name)
	}
	for i, place := range items(node) {
		name := resolved(place).Value
		if slices.Contains(sites, name) {
			continue
		}
		region, err := RegionOf(name)
		if err != nil {
			fix := ""
			if near := nearest.Name(name, append(sites, Regions()...)); near != "" {
				fix = fmt.Sprintf("Did you mean %s?", near)
			}
			r.add(place, fix, "%s holds at %q, which is neither a site of the plan nor a region", rule.Name, name)
			return false
		}
		rule.Scope[i] = region.Code
	}
	return true
}

// HoldsAt tells whether one of the plan's own rules holds at one of some places:
// sites, and codes of regions. One that holds in a country holds in its parts.
func (d *DaysOff) HoldsAt(places ...string) bool {
	if len(d.Rule.Scope) == 0 {
		return true
	}
	return slices.ContainsFunc(places, func(place string) bool {
		country, _, _ := strings.Cut(place, "-")
		return slices.Contains(d.Rule.Scope, place) || slices.Contains(d.Rule.Scope, country)
	})
}

// RegionsOf returns the codes of the regions of the set with a prefix.
func (p *Plan) RegionsOf(prefix string) []string {
	var codes []string
	for _, source := range p.DaysOff {
		if source.Region != nil && source.Prefix == prefix {
			codes = append(codes, source.Region.Code)
		}
	}
	return codes
}

// keysOfSources are the keys beside prefix that a region and a file take; keys of
// a file alone say nothing of a rule.
var keysOfSources = map[string][]string{"region": nil, "file": {"years", "table", "columns", "pattern", "kind"}}

// keysGoTogether tells whether an entry of the plan's list says nothing that would
// not be heeded.
func (r *reader) keysGoTogether(item *yaml.Node) bool {
	source := ""
	for _, key := range []string{"region", "file"} {
		if below(item, key) != nil {
			source = key
			break
		}
	}
	for key := range entries(item) {
		name := key.Value
		switch {
		case name == "prefix" || name == "region" || name == "file":
		case source == "" && (name == "kind" || !slices.Contains(keysOfSources["file"], name)):
		case source != "" && slices.Contains(keysOfSources[source], name):
		case source == "":
			r.add(key, "Leave it out", "%s goes with a file of days off, and this is a rule", name)
			return false
		default:
			r.add(key, "Leave it out, or write a rule of your own as another entry", "%s says nothing of a %s", name, source)
			return false
		}
	}
	return true
}

// readDaysOff reads the plan's list.
func (r *reader) readDaysOff(node *yaml.Node) {
	for _, item := range items(node) {
		if !r.sound(item) {
			continue
		}
		one := DaysOff{Prefix: text(item, "prefix")}
		if one.Prefix != "" && !calendarName.MatchString(one.Prefix) {
			r.add(below(item, "prefix"), "", "a prefix goes before columns, so it is in small letters, digits and underscores, not %q", one.Prefix)
			continue
		}
		if one.Prefix != "" && (slices.Contains(dimension.ReservedNames(), one.Prefix) || slices.ContainsFunc(r.plan.Fiscal, func(c calendar.Calendar) bool { return c.Name() == one.Prefix })) {
			r.add(below(item, "prefix"), "Give it a name of its own", "the prefix %q is the name of a calendar or a group", one.Prefix)
			continue
		}
		region, file := below(item, "region"), below(item, "file")
		if !r.keysGoTogether(item) {
			continue
		}
		switch {
		case region != nil && file != nil:
			r.add(file, "Write them as two entries", "a source of days off is a region or a file, not both")
			continue
		case region != nil:
			found, err := RegionOf(resolved(region).Value)
			if err != nil {
				r.add(region, "", "%v", err)
				continue
			}
			one.Region = found
		case file != nil:
			one.File = resolved(file).Value
			one.Table, one.Pattern = text(item, "table"), text(item, "pattern")
			one.Kind = daysoff.Closure
			if kind := text(item, "kind"); kind != "" {
				one.Kind = daysoff.Kind(kind)
			}
			one.DateColumn, one.NameColumn = text(below(item, "columns"), "date"), text(below(item, "columns"), "name")
			years := below(item, "years")
			one.YearFrom, _ = strconv.Atoi(text(years, "from"))
			one.YearTo, _ = strconv.Atoi(text(years, "to"))
			if hasYear := strings.Contains(one.File, "{year}"); hasYear != (years != nil) || one.YearTo < one.YearFrom || one.YearTo-one.YearFrom > 200 {
				r.add(file, "Say years: {from: 2024, to: 2026}", "{year} in the file and years go together, from the first to the last")
				continue
			}
		default:
			if one.Rule = r.readDayOff(item); one.Rule == nil {
				continue
			}
			if below(item, "kind") == nil {
				one.Rule.Kind = daysoff.Closure
			}
			if !r.readScope(one.Rule, below(item, "scope")) {
				continue
			}
			for _, other := range r.plan.DaysOff {
				if other.Rule != nil && other.Rule.Name == one.Rule.Name && other.Prefix == one.Prefix {
					r.add(below(item, "name"), "Give each a name of its own", "two rules of days off are named %q", one.Rule.Name)
				}
			}
		}
		r.plan.DaysOff = append(r.plan.DaysOff, one)
	}
}
