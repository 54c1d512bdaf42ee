package yearplan

import (
	"strconv"
	"strings"
	"time"

	"go.yaml.in/yaml/v4"

	"roundyear/civil"
	"roundyear/daysoff"
)

// readDayOff reads one rule that has the right shape.
func (r *reader) readDayOff(node *yaml.Node) *daysoff.Rule {
	rule := &daysoff.Rule{Name: text(node, "name"), Kind: daysoff.Kind(text(node, "kind")), Half: text(node, "half") == "true",
		Scope: texts(node, "scope"), Source: text(node, "source")}
	if rule.Kind == "" {
		rule.Kind = daysoff.Statutory
	}
	if rule.Name == "" {
		r.add(node, "Add name: Stocktaking", "a day off has no name")
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
		r.add(below(node, "until"), "", "%s ends on %s, before it starts on %s, so it never occurs", rule.Name, *rule.Until, *rule.Since)
		return nil
	}
	if every := text(node, "every"); every != "" {
		rule.Every = integerOf(every)
		if rule.Every > 1 && rule.Since == nil {
			r.add(below(node, "every"), "Add the first year with since", "%s recurs every %d years, but its first year is missing", rule.Name, rule.Every)
			return nil
		}
	}
	for _, except := range texts(node, "except") {
		year := integerOf(except)
		rule.Except = append(rule.Except, year)
	}
	for _, only := range texts(node, "only") {
		year := integerOf(only)
		rule.Only = append(rule.Only, year)
	}
	for _, move := range items(below(node, "move")) {
		by := integerAt(move, "by")
		from := weekdayOf(text(move, "from"))
		if from == 0 || by == 0 {
			r.add(move, "", "a move of %s needs from (a weekday) and by (a number of days)", rule.Name)
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
	rule.AnnouncedTo = integerAt(node, "announced_to")
	if (rule.NextFree || rule.Nearest) && len(rule.Moves) > 0 {
		r.add(below(node, "observe"), "Remove one of them", "%s has both move and observe: %s", rule.Name, observe)
		return nil
	}
	if rule.KeepBoth && len(rule.Moves) == 0 {
		r.add(below(node, "observe"), "Add the move, such as move: [{from: saturday, by: 2}], or remove observe: both", "%s has observe: both, and nothing that moves it", rule.Name)
		return nil
	}
	if rule.When = r.readWhen(rule.Name, node); rule.When == nil {
		return nil
	}
	// Most fall in this century, which is soon seen.
	if !rule.Occurs(2000, 2050) && !rule.Occurs(1583, 2700) {
		r.add(below(node, "when"), "", "%s never occurs: %s", rule.Name, rule.Why())
		return nil
	}
	return rule
}

// readWhen reads when a rule falls; several are all of them.
func (r *reader) readWhen(name string, node *yaml.Node) daysoff.When {
	list := items(below(node, "when"))
	if len(list) == 0 {
		r.add(node, "Add when: {month: june, day: 24}", "%s has no date", name)
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
	shift := integerAt(node, "shift")
	lasts := integerAt(node, "lasts")
	if when == nil || shift == 0 && lasts < 2 {
		return when
	}
	if _, isBetween := when.(daysoff.Between); isBetween {
		r.add(node, "", "%s: a bridge day cannot be shifted or last for more than one day", name)
		return nil
	}
	return daysoff.Span{From: when, Shift: shift, Lasts: lasts}
}

func (r *reader) readDay(name string, node *yaml.Node) daysoff.When {
	integer := func(key string) int {
		value := integerAt(node, key)
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
			r.add(below(node, "zone"), "", "%s: unknown time zone %q; use an IANA name such as Asia/Tokyo or UTC", name, text(node, "zone"))
			return nil
		}
		return daysoff.OnSun{Point: point, Zone: zone}
	case has("between_holidays"):
		return daysoff.Between{}
	case has("rrule"):
		rule, err := daysoff.ParseRecurrence(text(node, "rrule"))
		if err != nil {
			r.add(below(node, "rrule"), "", "%s: %v", name, err)
			return nil
		}
		return rule
	case has("calendar"):
		calendar := daysoff.OtherCalendarOf(text(node, "calendar"))
		month, ok := calendarMonth(text(node, "month"))
		if !ok || integer("day") == 0 {
			r.add(node, "Write {calendar: hebrew, month: 7, day: 15}", "%s: a date in another calendar needs the number of its month, and a day", name)
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
			day := dayOf(single)
			dates = append(dates, day)
		}
		return dates
	case weekday != 0 && (has("on_or_after") || has("on_or_before")):
		key := "on_or_after"
		if has("on_or_before") {
			key = "on_or_before"
		}
		near := below(node, key)
		day := integerAt(near, "day")
		if _, ok := civil.Of(2000, monthOf(text(near, "month")), day); !ok {
			r.add(near, "", "%s: %s needs a month and a day", name, key)
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
	r.add(node, "Write {month: june, day: 24}, {weekday: monday, nth: 1, month: june}, {weekday: friday, on_or_after: {month: june, day: 19}}, {easter: 1} or {date: 2026-01-05}",
		"the date of %s is unclear", name)
	return nil
}
