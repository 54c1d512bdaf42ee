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
		a.report().Note("%s", note)
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
			if len(source.Rule.Scope) == 0 || source.AppliesAt(y.plan.RegionsOf(source.Prefix)...) {
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

// dayOffColumns are the columns of the list of days off, with those of --why.
func dayOffColumns(why bool) []cell.Column {
	columns := []cell.Column{{Name: "date", Type: cell.Date}, {Name: "taken_on", Type: cell.Date}, {Name: "name"}, {Name: "region"}, {Name: "kind"},
		{Name: "verified", Type: cell.Boolean}, {Name: "half", Type: cell.Boolean}, {Name: "expected", Type: cell.Boolean}, {Name: "both_days", Type: cell.Boolean}}
	if why {
		columns = append(columns, cell.Column{Name: "why"}, cell.Column{Name: "source"})
	}
	return columns
}

// row is the row of a day off in the list.
func (e entry) row(language string, why bool) []cell.Value {
	takenOn := cell.Blank
	if e.IsMoved() {
		takenOn = cell.OfDay(e.TakenOn)
	}
	row := []cell.Value{cell.OfDay(e.Own), takenOn, cell.OfText(e.Rule.NameIn(language)), cell.OfText(e.regionOf()), cell.OfText(string(e.Rule.Kind)),
		cell.OfBool(e.verified), cell.OfBool(e.Rule.Half), cell.OfBool(e.IsExpected()), cell.OfBool(e.keepsBoth())}
	if why {
		row = append(row, cell.OfText(e.Rule.Why()), cell.OfText(e.Rule.Source))
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

// isVerified tells whether a day off lies in the years for which its region's
// rules are known to be right. The business's own rules always are.
func (p place) isVerified(one daysoff.DayOff) bool {
	for _, region := range p.regions {
		if country, _, _ := strings.Cut(region.Code, "-"); country == one.Rule.Region {
			return region.IsVerified(one.Own, one.Own)
		}
	}
	return true
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

// projectedNote says that a range goes beyond the years for which the rules of a
// region are known to be right.
func projectedNote(region *yearplan.Region, from, to civil.Day) string {
	if region.IsVerified(from, to) {
		return ""
	}
	return fmt.Sprintf("%s: verified for %d–%d; other years are projected and may differ", region.Code, region.VerifiedFrom, region.VerifiedTo)
}

// beyondVerified lists the regions of the plan's days off and sites for which a
// range goes beyond the years that are verified, with those years.
func (y *year) beyondVerified(from, to civil.Day) (beyond []string) {
	var looked []string
	look := func(region *yearplan.Region) {
		if region == nil || slices.Contains(looked, region.Code) {
			return
		}
		looked = append(looked, region.Code)
		if !region.IsVerified(from, to) {
			beyond = append(beyond, fmt.Sprintf("%s %d–%d", region.Code, region.VerifiedFrom, region.VerifiedTo))
		}
	}
	for _, source := range y.plan.DaysOff {
		look(source.Region)
	}
	for _, site := range y.plan.Sites {
		look(site.Region)
	}
	return beyond
}

// printBeyondVerified says where a table goes beyond the years that are verified.
func (a *App) printBeyondVerified(y *year, from, to civil.Day) {
	if beyond := y.beyondVerified(from, to); len(beyond) > 0 {
		a.report().Note("days off are verified for %s; other years are projected and may differ", strings.Join(beyond, ", "))
	}
}
