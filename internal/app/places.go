package app

import (
	"fmt"
	"strings"
	"sync"

	"roundyear/civil"
	"roundyear/daysoff"
	"roundyear/daysoff/regions"
	"roundyear/dimension"
	"roundyear/facts/lapse"
	"roundyear/nearest"
)

// Places are the calendars of workdays: of the business, of its sites, of the sets of days off by their prefixes, and of regions.
type Places struct {
	year *Year
	sets []dimension.DaysOff
	// onlySites tells that the days are those on which a site is open.
	onlySites bool

	mutex sync.Mutex
	known map[string]*lapse.DayCalendar
	// reasons tell of each place whether a day counts, and why not.
	reasons map[string]func(civil.Day) (bool, string)
}

// NewPlaces returns the calendars of a business with some sets of days off.
func NewPlaces(y *Year, sets []dimension.DaysOff, onlySites bool) *Places {
	return &Places{year: y, sets: sets, onlySites: onlySites, known: map[string]*lapse.DayCalendar{}, reasons: map[string]func(civil.Day) (bool, string){}}
}

// Of returns the calendar of a place: a site, the prefix of a set of days off, or the code of a region; without a name that of the
// business. It serves several goroutines. The error says what there is.
func (p *Places) Of(name string) (*lapse.DayCalendar, error) {
	p.mutex.Lock()
	defer p.mutex.Unlock()
	if found, ok := p.known[name]; ok {
		if found == nil {
			return nil, p.unknown(name)
		}
		return found, nil
	}
	found := p.find(name)
	p.known[name] = found
	if found == nil {
		return nil, p.unknown(name)
	}
	return found, nil
}

// Why tells whether a day counts at a place, and why it does not: weekend, the names of days off, or what a site is closed for.
func (p *Places) Why(name string, day civil.Day) (counts bool, reason string, err error) {
	if _, err := p.Of(name); err != nil {
		return false, "", err
	}
	p.mutex.Lock()
	why := p.reasons[name]
	p.mutex.Unlock()
	counts, reason = why(day)
	return counts, reason, nil
}

// Weekend is why days of the weekend do not count.
const Weekend = "weekend"

// ofSite tells whether a site is open, and why not.
func ofSite(site *daysoff.Site) func(civil.Day) (bool, string) {
	return func(day civil.Day) (bool, string) {
		open, reason, words := site.IsOpen(day)
		switch {
		case open:
			return true, ""
		case reason == daysoff.OnWeekday:
			return false, "closed on " + day.Weekday().String() + "s"
		case words == "":
			return false, string(reason)
		}
		return false, words
	}
}

// ofDays tells whether a day is a workday, and why not.
func ofDays(set *daysoff.Set) func(civil.Day) (bool, string) {
	return func(day civil.Day) (bool, string) {
		if set.IsWorkday(day) {
			return true, ""
		}
		if names := daysoff.JoinedNames(set.Taken(day), ""); set.HasDaysOff(day) && names != "" {
			return false, names
		}
		return false, Weekend
	}
}

func (p *Places) find(name string) *lapse.DayCalendar {
	plan := p.year.Plan
	for i, site := range p.year.Sites() {
		if site.Name != name {
			continue
		}
		hours := plan.Sites[i].Hours
		if hours == nil {
			hours = plan.Hours
		}
		p.reasons[name] = ofSite(site)
		isOpen := func(day civil.Day) bool {
			open, _, _ := site.IsOpen(day)
			return open
		}
		return lapse.NewDayCalendar(isOpen, hours, isOpen)
	}
	if p.onlySites {
		return nil
	}
	for _, set := range p.sets {
		if set.Prefix == name {
			return p.ofSet(name, set.Set)
		}
	}
	if name == "" {
		return p.ofSet(name, daysoff.NewSet(nil, plan.WeekendOf("")))
	}
	region, err := regions.Of(name)
	if err != nil {
		return nil
	}
	return p.ofSet(name, daysoff.NewSet(region.Rules, region.Weekend))
}

// ofSet returns the calendar of the workdays of a set, which is that of a place. It opens on those, and on days of the weekend on which no day off falls if the
// opening hours have them.
func (p *Places) ofSet(name string, set *daysoff.Set) *lapse.DayCalendar {
	p.reasons[name] = ofDays(set)
	opens := func(day civil.Day) bool {
		return set.IsWorkday(day) || set.IsWeekend(day) && !set.HasDaysOff(day)
	}
	return lapse.NewDayCalendar(set.IsWorkday, p.year.Plan.Hours, opens)
}

// unknown says that there is no place of a name.
func (p *Places) unknown(name string) error {
	var names []string
	for _, site := range p.year.Plan.Sites {
		names = append(names, site.Name)
	}
	if p.onlySites {
		if len(names) == 0 {
			return fmt.Errorf("the plan has no sites")
		}
		if near := nearest.Name(name, names); near != "" {
			return fmt.Errorf("%q is not a site of the plan. Did you mean %q?", name, near)
		}
		return fmt.Errorf("%q is not a site of the plan; there are %s", name, strings.Join(names, ", "))
	}
	for _, set := range p.sets {
		if set.Prefix != "" {
			names = append(names, set.Prefix)
		}
	}
	if near := nearest.Name(name, names); near != "" {
		return fmt.Errorf("%q is neither a site, a prefix of days off nor a region. Did you mean %q?", name, near)
	}
	return fmt.Errorf("%q is neither a site, a prefix of days off nor a region", name)
}
