package app

import (
	"fmt"
	"slices"
	"strings"

	"roundyear/civil"
	"roundyear/daysoff"
	"roundyear/dimension"
	"roundyear/facts"
	"roundyear/nearest"
)

// Event returns the days of an event from some years before a day to some after another: easter, orthodox-easter, or a day off by its name.
// The error names what there is.
func Event(name string, sets []dimension.DaysOff, from, to civil.Day) (*facts.Event, error) {
	const around = 4 // of the years, since two years before are compared, too
	event := &facts.Event{Name: name}
	first, last := max(from.Year()-around, 1583), min(to.Year()+around, 9999)
	moving := map[string]func(int) civil.Day{"easter": daysoff.Easter, "orthodox-easter": daysoff.OrthodoxEaster}
	if of := moving[strings.ToLower(name)]; of != nil {
		event.Name = map[string]string{"easter": "Easter Sunday", "orthodox-easter": "Orthodox Easter Sunday"}[strings.ToLower(name)]
		for year := first; year <= last; year++ {
			event.Days = append(event.Days, of(year))
		}
		return event, nil
	}
	begin, _ := civil.Of(first, civil.January, 1)
	end, _ := civil.Of(last, civil.December, 31)
	names := []string{"easter", "orthodox-easter"}
	for _, set := range sets {
		for _, one := range set.Set.Between(begin, end) {
			if !slices.Contains(names, one.Rule.Name) {
				names = append(names, one.Rule.Name)
			}
			if strings.EqualFold(one.Rule.Name, name) {
				event.Name = one.Rule.Name
				event.Days = append(event.Days, one.Own)
			}
		}
	}
	if len(event.Days) == 0 {
		what := fmt.Sprintf("%q is neither easter, orthodox-easter nor a day off of the plan", name)
		if near := nearest.Name(name, names); near != "" {
			what += fmt.Sprintf(". Did you mean %q?", near)
		}
		return nil, fmt.Errorf("%s", what)
	}
	slices.Sort(event.Days)
	event.Days = slices.Compact(event.Days)
	return event, nil
}
