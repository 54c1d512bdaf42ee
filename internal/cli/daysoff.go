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

// place is a region or a set of the plan, whose days off are listed.
type place struct {
	name string
	set  *daysoff.Set
	// regions are what the set is made of besides the plan's own rules and lists.
	regions []*yearplan.Region
}

// weekend says which days the weekend of the place is, and of one region since
// when.
func (p place) weekend() string {
	var names []string
	for _, weekday := range p.set.Weekend() {
		names = append(names, weekday.String())
	}
	text := "no weekend"
	if len(names) > 0 {
		text = "the weekend is " + strings.Join(names, " and ")
	}
	if len(p.regions) == 1 && p.regions[0].WeekendSince != nil && slices.Equal(p.set.Weekend(), daysoff.NewSet(nil, p.regions[0].Weekend).Weekend()) {
		text += fmt.Sprintf(" since %s", *p.regions[0].WeekendSince)
	}
	return text
}

// beyondSure says that a range goes beyond the years for which the rules of a
// region are known to be right.
func beyondSure(region *yearplan.Region, from, to civil.Day) string {
	if region.IsSure(from, to) {
		return ""
	}
	return fmt.Sprintf("%s: known to be right from %d to %d; the rest goes by the same rules and may differ", region.Code, region.SureFrom, region.SureTo)
}

// sayBeyondSure says of which regions of the plan's days off and sites a range
// goes beyond the years that are known to be right.
func (a *App) sayBeyondSure(y *year, from, to civil.Day) {
	var looked, beyond []string
	look := func(region *yearplan.Region) {
		if region == nil || slices.Contains(looked, region.Code) {
			return
		}
		looked = append(looked, region.Code)
		if !region.IsSure(from, to) {
			beyond = append(beyond, fmt.Sprintf("%s from %d to %d", region.Code, region.SureFrom, region.SureTo))
		}
	}
	for _, source := range y.plan.DaysOff {
		look(source.Region)
	}
	for _, site := range y.plan.Sites {
		look(site.Region)
	}
	if len(beyond) > 0 {
		a.report().Attention("Days off are known to be right of %s; the rest goes by the same rules and may differ", strings.Join(beyond, ", "))
	}
}
