package app

import (
	"slices"
	"strings"

	"roundyear/daysoff"
	"roundyear/dimension"
)

// DaysOff returns the days off of the plan: the main set, and one for each prefix.
// The plan's weekend holds for all of them; without one each has that of its
// first region.
func (y *Year) DaysOff() ([]dimension.DaysOff, error) {
	var prefixes []string
	rules := map[string][]*daysoff.Rule{}
	regions := map[string][]dimension.Region{}
	for _, source := range y.Plan.DaysOff {
		if !slices.Contains(prefixes, source.Prefix) {
			prefixes = append(prefixes, source.Prefix)
		}
		switch {
		case source.Region != nil:
			rules[source.Prefix] = append(rules[source.Prefix], source.Region.Rules...)
			region := dimension.Region{Code: source.Region.Code, Rules: source.Region.Rules}
			if !slices.ContainsFunc(regions[source.Prefix], func(r dimension.Region) bool { return r.Code == region.Code }) {
				regions[source.Prefix] = append(regions[source.Prefix], region)
			}
		case source.Rule != nil:
			if len(source.Rule.Scope) == 0 || source.AppliesAt(y.Plan.RegionsOf(source.Prefix)...) {
				rules[source.Prefix] = append(rules[source.Prefix], source.Rule)
			}
		default:
			read, err := y.ReadList(source)
			if err != nil {
				return nil, err
			}
			rules[source.Prefix] = append(rules[source.Prefix], read...)
		}
	}
	slices.SortStableFunc(prefixes, func(a, b string) int {
		// The main set comes first.
		if (a == "") != (b == "") {
			return strings.Compare(a, b)
		}
		return 0
	})
	var sets []dimension.DaysOff
	for _, prefix := range prefixes {
		sets = append(sets, dimension.DaysOff{Prefix: prefix, Set: daysoff.NewSet(rules[prefix], y.Plan.WeekendOf(prefix)), Regions: regions[prefix]})
	}
	return sets, nil
}
