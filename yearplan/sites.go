package yearplan

import (
	"strings"

	"go.yaml.in/yaml/v4"

	"roundyear/civil"
	"roundyear/daysoff"
	"roundyear/daysoff/regions"
	"roundyear/facts/lapse"
)

// Site is a site of the plan, before its days off are put together.
type Site struct {
	daysoff.Site
	// Region is whose days off it is shut on; nil when it keeps open on them.
	Region *regions.Region
	// Hours are its opening hours; nil for those of the plan.
	Hours *lapse.OpeningHours
}

var exceptionForm = shape{doc: "Exceptions.", fields: []field{
	{"when", shape{doc: "Rules for their dates.", list: &whenForm, single: true}},
	{"reason", shape{doc: "Why.", scalar: anyText}},
}}

var siteForm = shape{doc: "A site and its opening days.", nothing: true, fields: []field{
	{"open", shape{doc: "Weekdays on which it is open (default: all).", list: &shape{scalar: weekdayName}, single: true}},
	{"region", shape{doc: "Region on whose days off it is closed (default: open on days off).", scalar: anyText}},
	{"opened", shape{doc: "First day of business.", scalar: date}},
	{"closed", shape{doc: "Last day.", scalar: date}},
	{"closures", shape{doc: "Periods in which it is closed.", list: &shape{fields: []field{
		{"from", shape{doc: "First day.", scalar: date}}, {"to", shape{doc: "Last day (default: the first).", scalar: date}}, {"reason", shape{doc: "Why.", scalar: anyText}},
	}}, single: true}},
	{"opens", shape{doc: "Additional opening days.", list: &exceptionForm, single: true}},
	{"shuts", shape{doc: "Additional closing days.", list: &exceptionForm, single: true}},
}}

func init() {
	form.fields = append(form.fields, field{"sites", shape{doc: "Sites by name, such as shops, and their opening days.", entries: &siteForm, nothing: true}})
}

// readSites reads the sites of the plan.
func (r *reader) readSites(node *yaml.Node) {
	if node == nil || isNothing(resolved(node)) {
		return
	}
	for key, value := range entries(node) {
		if !r.sound(value) {
			continue
		}
		site := Site{Site: daysoff.Site{Name: key.Value}}
		for _, name := range texts(value, "open") {
			site.Weekdays = append(site.Weekdays, weekdayOf(name))
		}
		if below(value, "open") == nil {
			site.Weekdays = []civil.Weekday{1, 2, 3, 4, 5, 6, 7}
		}
		if code := below(value, "region"); code != nil {
			region, err := regions.Of(resolved(code).Value)
			if err != nil {
				r.add(code, "", "%v", err)
				continue
			}
			site.Region = region
		}
		site.Opened, site.Closed = dayBelow(value, "opened"), dayBelow(value, "closed")
		if site.Opened != nil && site.Closed != nil && *site.Closed < *site.Opened {
			r.add(below(value, "closed"), "", "%s closed on %s, before it opened on %s", key.Value, *site.Closed, *site.Opened)
			continue
		}
		for _, item := range items(below(value, "closures")) {
			from, to := dayBelow(item, "from"), dayBelow(item, "to")
			if to == nil {
				to = from
			}
			if from == nil || *to < *from {
				r.add(item, "Add from: and to:", "a closure of %s must start on or before its last day", key.Value)
				continue
			}
			site.Closures = append(site.Closures, daysoff.Closed{From: *from, To: *to, Reason: text(item, "reason")})
		}
		site.Hours = r.readHours(below(value, "opening_hours"))
		site.Opens = r.readExceptions(key.Value, below(value, "opens"))
		site.Shuts = r.readExceptions(key.Value, below(value, "shuts"))
		r.plan.Sites = append(r.plan.Sites, site)
	}
}

func dayBelow(node *yaml.Node, key string) *civil.Day {
	if found := text(node, key); found != "" {
		if day, err := civil.Parse(strings.TrimSpace(found)); err == nil {
			return &day
		}
	}
	return nil
}

func (r *reader) readExceptions(site string, node *yaml.Node) *daysoff.Exceptions {
	if node == nil {
		return nil
	}
	shared := resolved(node)
	if known, found := r.exceptions[shared]; found {
		return known
	}
	var all []daysoff.Exception
	for _, item := range items(node) {
		if when := r.readWhen(site, item); when != nil {
			reason := text(item, "reason")
			if reason == "" {
				reason = when.Words()
			}
			all = append(all, daysoff.Exception{When: when, Reason: reason})
		}
	}
	if r.exceptions == nil {
		r.exceptions = map[*yaml.Node]*daysoff.Exceptions{}
	}
	r.exceptions[shared] = daysoff.NewExceptions(all)
	return r.exceptions[shared]
}
