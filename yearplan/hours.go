package yearplan

import (
	"strings"

	"go.yaml.in/yaml/v4"

	"roundyear/facts/lapse"
)

// hoursForm is opening hours by weekday.
var hoursForm = shape{doc: "Opening hours by weekday: mon: \"09:00-17:30\", or several spans in a list.", entries: &shape{list: &shape{scalar: timeSpan}, single: true}, nothing: true}

func init() {
	form.fields = append(form.fields, field{"opening_hours", hoursForm})
	siteForm.fields = append(siteForm.fields, field{"opening_hours", hoursForm})
}

// timeSpan is a span of a day.
var timeSpan = &scalar{what: `a span of a day such as "09:00-17:30"`, accepts: func(text string) bool { _, ok := stretchOf(text); return ok },
	schema: map[string]any{"type": "string", "pattern": "^[0-9]{1,2}:[0-9]{2}(:[0-9]{2})?-[0-9]{1,2}:[0-9]{2}(:[0-9]{2})?$"}}

// stretchOf reads a span such as 09:00-17:30. It may end with 24:00.
func stretchOf(text string) (lapse.Stretch, bool) {
	from, to, found := strings.Cut(text, "-")
	first, ok := secondsOf(strings.TrimSpace(from))
	last, isTime := secondsOf(strings.TrimSpace(to))
	if strings.TrimSpace(to) == "24:00" {
		last, isTime = 24*60*60, true
	}
	return lapse.Stretch{From: first, To: last}, found && ok && isTime && last > first
}

// readHours reads opening hours; nil where there are none.
func (r *reader) readHours(node *yaml.Node) *lapse.OpeningHours {
	if node == nil || isNothing(resolved(node)) || !r.sound(node) {
		return nil
	}
	hours := &lapse.OpeningHours{}
	for key, value := range entries(node) {
		weekday := weekdayOf(key.Value)
		if weekday == 0 {
			r.add(key, "", "opening hours are those of weekdays such as monday or mon, not of %q", key.Value)
			continue
		}
		last := 0
		for _, item := range items(value) {
			stretch, _ := stretchOf(resolved(item).Value)
			if stretch.From < last {
				r.add(item, "", "the opening hours of %s overlap or are not in order", weekday)
				break
			}
			last = stretch.To
			hours[weekday] = append(hours[weekday], stretch)
		}
	}
	return hours
}
