package yearplan

import (
	"errors"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"go.yaml.in/yaml/v4"

	"roundyear/calendar"
	"roundyear/civil"
	"roundyear/dimension"
)

var calendarName = regexp.MustCompile(`^[a-z][a-z0-9]*(_[a-z0-9]+)*$`)

func (r *reader) readCalendars(node *yaml.Node) {
	if node == nil || isNothing(resolved(node)) {
		return
	}
	taken := dimension.ReservedNames()
	for key, value := range entries(node) {
		name := key.Value
		switch {
		case slices.Contains(taken, name):
			r.add(key, "Choose another name, such as fiscal", "a calendar cannot be named %q, which is built in", name)
			continue
		case !calendarName.MatchString(name):
			r.add(key, "", "a calendar's name becomes part of column names, so it must consist of lower-case letters, digits and underscores, not %q", name)
			continue
		case !r.sound(value):
			continue
		}
		if read := r.readCalendar(name, value); read != nil {
			r.plan.Fiscal = append(r.plan.Fiscal, read)
		}
	}
}

func (r *reader) readCalendar(name string, node *yaml.Node) calendar.Calendar {
	var first calendar.Calendar
	var changes []calendar.Since
	rules := items(node)
	if len(rules) == 0 {
		r.add(node, "Add months, weeks or years", "the calendar %s has no rule", name)
	}
	for i, rule := range rules {
		read := r.readRule(name, rule)
		if read == nil {
			return nil
		}
		since := below(rule, "since")
		switch {
		case i == 0 && since != nil:
			r.add(since, "Put the earlier rule first, or remove since", "the first rule of %s has no start", name)
			return nil
		case i == 0:
			first = read
			continue
		case since != nil:
			from := dayOf(resolved(since).Value)
			changes = append(changes, calendar.Since{From: from, Calendar: read})
		default:
			declared, ok := read.(calendar.Bounded)
			if !ok {
				r.add(rule, "Add since: 2026-04-01", "the second and later rules of %s need a start", name)
				return nil
			}
			from, _ := declared.Bounds()
			changes = append(changes, calendar.Since{From: from, Calendar: read})
		}
	}
	if len(changes) == 0 {
		return first
	}
	delete(r.plan.Months, name)
	changing, err := calendar.NewSequence(name, first, changes...)
	if err != nil {
		r.add(node, "", "%s: %v", name, err)
		return nil
	}
	return changing
}

func (r *reader) readRule(name string, node *yaml.Node) calendar.Calendar {
	months, weeks, years := below(node, "months"), below(node, "weeks"), below(node, "years")
	count := 0
	for _, kind := range []*yaml.Node{months, weeks, years} {
		if kind != nil {
			count++
		}
	}
	if count != 1 {
		r.add(node, "", "a rule of %s must have one of months, weeks and years, but this one has %s", name, []string{"none of them", "", "two of them", "all of them"}[count])
		return nil
	}
	labels := calendar.Labels{}
	for _, label := range labelFields {
		if template := text(node, label.key); template != "" {
			labels[label.unit] = template
		}
	}
	namedBy, _ := calendar.ParseNamedBy(text(node, "named_by"))
	var read calendar.Calendar
	var err error
	var at *yaml.Node
	switch {
	case months != nil:
		at = months
		read, err = r.readMonths(name, months, namedBy, labels)
	case weeks != nil:
		at = weeks
		read, err = r.readWeeks(name, weeks, namedBy, labels)
	default:
		at = years
		read, err = r.readYears(name, years, labels)
	}
	if err != nil {
		if !errors.Is(err, errReported) {
			r.addRule(node, at, name, err)
		}
		return nil
	}
	return read
}

// addRule puts a fault of a rule at the label or the group that it is about,
// else at the rule.
func (r *reader) addRule(rule, at *yaml.Node, name string, err error) {
	for _, label := range labelFields {
		if found := below(rule, label.key); found != nil && strings.Contains(err.Error(), strconv.Quote(resolved(found).Value)) {
			r.add(found, "", "%s: %v", name, err)
			return
		}
	}
	for _, group := range groupFields {
		if found := below(at, group.key); found != nil && strings.HasPrefix(err.Error(), group.key) {
			r.add(found, "", "%s: %v", name, err)
			return
		}
	}
	var setting *calendar.SettingError
	if errors.As(err, &setting) {
		if found := below(at, settingKeys[setting.Setting]); found != nil {
			at = found
		}
	}
	r.add(at, "", "%s: %v", name, err)
}

// settingKeys are the keys of a plan for settings of a calendar.
var settingKeys = map[calendar.Setting]string{calendar.StartDay: "starts", calendar.NearestDate: "nearest_to", calendar.LeapWeek: "leap_week"}

// errReported is an error of which the fault has been added.
var errReported = errors.New("the fault is known")

func readGroups(node *yaml.Node) calendar.Groups {
	groups := calendar.Groups{}
	for _, group := range groupFields {
		for _, number := range texts(node, group.key) {
			value := integerOf(number)
			groups[group.unit] = append(groups[group.unit], value)
		}
	}
	return groups
}

func (r *reader) readMonths(name string, node *yaml.Node, namedBy calendar.NamedBy, labels calendar.Labels) (calendar.Calendar, error) {
	fiscal := calendar.FiscalMonths{Name: name, NamedBy: namedBy, Labels: labels, Groups: readGroups(node), Weeks: r.plan.Weeks}
	starts, ends := text(node, "starts"), text(node, "ends")
	switch {
	case starts != "" && ends != "":
		r.add(below(node, "ends"), "Remove one of them", "starts and ends mean the same")
		return nil, errReported
	case ends != "":
		month, day, _ := dayOfYear(ends, true)
		if day == 0 || day >= civil.DaysIn(2001, month) {
			fiscal.Starts, fiscal.StartDay = month%12+1, 1
		} else {
			fiscal.Starts, fiscal.StartDay = month, day+1
		}
	case starts != "":
		fiscal.Starts, fiscal.StartDay, _ = dayOfYear(starts, true)
	default:
		r.add(node, "Add starts: april, or ends: march", "the months of %s have no first month", name)
		return nil, errReported
	}
	r.plan.Months[name] = fiscal
	return calendar.NewFiscalMonths(fiscal)
}

func (r *reader) readWeeks(name string, node *yaml.Node, namedBy calendar.NamedBy, labels calendar.Labels) (calendar.Calendar, error) {
	fiscal := calendar.FiscalWeeks{Name: name, NamedBy: namedBy, Labels: labels, Groups: readGroups(node)}
	lastIn, nearestTo := text(node, "last_in"), text(node, "nearest_to")
	switch {
	case text(node, "ends_on") == "":
		r.add(node, "Add ends_on: saturday", "the weeks of %s have no last weekday", name)
		return nil, errReported
	case lastIn != "" && nearestTo != "":
		r.add(below(node, "nearest_to"), "Remove one of them", "last_in and nearest_to cannot be combined")
		return nil, errReported
	case lastIn != "":
		fiscal.LastIn = monthOf(lastIn)
	case nearestTo != "":
		fiscal.NearestMonth, fiscal.NearestDay, _ = dayOfYear(nearestTo, false)
	default:
		r.add(node, "Add last_in: september, or nearest_to: 31 january", "the weeks of %s have no end of the year", name)
		return nil, errReported
	}
	fiscal.EndsOn = weekdayOf(text(node, "ends_on"))
	split := below(node, "split")
	if split == nil {
		r.add(node, "Add split: 4-4-5, 4-5-4, 5-4-4, 13x4 or a list of weeks", "the weeks of %s have no split into periods", name)
		return nil, errReported
	}
	var err error
	if fiscal.Split, err = weeksOf(texts(node, "split")); err != nil {
		r.add(split, "", "%s: %v", name, err)
		return nil, errReported
	}
	if leap := text(node, "leap_week"); leap != "" && leap != "last" {
		fiscal.LeapWeek = integerOf(leap)
	}
	return calendar.NewFiscalWeeks(fiscal)
}

func (r *reader) readYears(name string, node *yaml.Node, labels calendar.Labels) (calendar.Calendar, error) {
	fiscal := calendar.DeclaredYears{Name: name, Labels: labels, Weeks: r.plan.Weeks}
	list := items(node)
	for i, item := range list {
		year := calendar.DeclaredYear{Groups: readGroups(item)}
		year.Year = integerAt(item, "year")
		for _, start := range texts(item, "starts") {
			day := dayOf(start)
			year.Starts = append(year.Starts, day)
		}
		switch ends := text(item, "ends"); {
		case year.Year == 0:
			r.add(item, "Add year: 2026", "a declared year of %s has no number", name)
			return nil, errReported
		case ends != "":
			year.Ends = dayOf(ends)
		case i+1 < len(list) && len(texts(list[i+1], "starts")) > 0:
			next := dayOf(texts(list[i+1], "starts")[0])
			year.Ends = next - 1
		default:
			r.add(item, "Add ends: with its last day", "the last declared year of %s has no end", name)
			return nil, errReported
		}
		fiscal.Years = append(fiscal.Years, year)
	}
	return calendar.NewDeclared(fiscal)
}
