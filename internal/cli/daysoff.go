package cli

import (
	"fmt"
	"slices"
	"strings"

	"roundyear/cell"
	"roundyear/civil"
	"roundyear/daysoff"
	"roundyear/dimension"
	"roundyear/yearplan"
)

// readRegions puts the regions of --region in the place of those of the plan's
// main set.
func (f *calendarFlags) readRegions(plan *yearplan.Plan) error {
	if len(f.regions) == 0 {
		return nil
	}
	kept := slices.DeleteFunc(slices.Clone(plan.DaysOff), func(d yearplan.DaysOff) bool { return d.Region != nil && d.Prefix == "" })
	var regions []yearplan.DaysOff
	for _, code := range f.regions {
		region, err := yearplan.RegionOf(code)
		if err != nil {
			return usageError{fmt.Errorf("--region: %w", err)}
		}
		regions = append(regions, yearplan.DaysOff{Region: region})
	}
	plan.DaysOff = append(regions, kept...)
	return nil
}

// daysOff returns the days off of the plan, and says which lists are old.
func (a *App) daysOff(y *year) ([]dimension.DaysOff, error) {
	sets, err := y.sets()
	for _, note := range y.notes {
		a.report().Attention("%s", note)
	}
	return sets, err
}

// sets returns the days off of the plan: the main set, and one for each prefix.
// The plan's weekend holds for all of them; without one each has that of its
// first region.
func (y *year) sets() ([]dimension.DaysOff, error) {
	var prefixes []string
	rules := map[string][]*daysoff.Rule{}
	regions := map[string][]dimension.Region{}
	for _, source := range y.plan.DaysOff {
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
			if source.HoldsAt(y.plan.RegionsOf(source.Prefix)...) {
				rules[source.Prefix] = append(rules[source.Prefix], source.Rule)
			}
		default:
			read, err := y.readList(source)
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
		sets = append(sets, dimension.DaysOff{Prefix: prefix, Set: daysoff.NewSet(rules[prefix], y.plan.WeekendOf(prefix)), Regions: regions[prefix]})
	}
	return sets, nil
}

// dayOffRow is a row of the list of days off.
func dayOffRow(one daysoff.DayOff, region, language string, why bool) []cell.Value {
	takenOn := cell.Blank
	if one.IsMoved() {
		takenOn = cell.OfDay(one.TakenOn)
	}
	row := []cell.Value{cell.OfDay(one.Own), takenOn, cell.OfText(one.Rule.NameIn(language)), cell.OfText(region), cell.OfText(string(one.Rule.Kind)), cell.OfBool(one.Rule.Half), cell.OfBool(one.IsExpected())}
	if why {
		row = append(row, cell.OfText(one.Rule.Why()), cell.OfText(one.Rule.Source))
	}
	return row
}

// place is a region or the plan's own set, whose days off are listed.
type place struct {
	name string
	set  *daysoff.Set
	// region is nil for a set of the plan.
	region *yearplan.Region
}

// weekend says which days the weekend of the region is, and since when.
func (p place) weekend() string {
	var names []string
	for _, weekday := range p.set.Weekend() {
		names = append(names, weekday.String())
	}
	text := "no weekend"
	if len(names) > 0 {
		text = "the weekend is " + strings.Join(names, " and ")
	}
	if p.region.WeekendSince != nil && slices.Equal(p.set.Weekend(), daysoff.NewSet(nil, p.region.Weekend).Weekend()) {
		text += fmt.Sprintf(" since %s", *p.region.WeekendSince)
	}
	return text
}

// beyondSure says that a range goes beyond the years for which the rules are
// known to be right.
func (p place) beyondSure(from, to civil.Day) string {
	if p.region == nil || from.Year() >= p.region.SureFrom && to.Year() <= p.region.SureTo {
		return ""
	}
	return fmt.Sprintf("%s: known to be right from %d to %d; the rest goes by the same rules and may differ", p.name, p.region.SureFrom, p.region.SureTo)
}
