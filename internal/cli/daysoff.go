package cli

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"roundyear/cell"
	"roundyear/civil"
	"roundyear/daysoff"
	"roundyear/dimension"
	"roundyear/internal/table"
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

// sets returns the days off of the plan: the main set, and one for each prefix.
// The plan's weekend holds for all of them.
func (y *year) sets() ([]dimension.DaysOff, error) {
	var prefixes []string
	rules := map[string][]*daysoff.Rule{}
	for _, source := range y.plan.DaysOff {
		if !slices.Contains(prefixes, source.Prefix) {
			prefixes = append(prefixes, source.Prefix)
		}
		switch {
		case source.Region != nil:
			rules[source.Prefix] = append(rules[source.Prefix], source.Region.Rules...)
		case source.Rule != nil:
			rules[source.Prefix] = append(rules[source.Prefix], source.Rule)
		default:
			read, err := readDayOffFile(y.path(source.File))
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
		sets = append(sets, dimension.DaysOff{Prefix: prefix, Set: daysoff.NewSet(rules[prefix], y.plan.Weekend)})
	}
	return sets, nil
}

// readDayOffFile reads days off from a calendar, or single days from a delimited
// file with the columns date and name, and kind if there is one.
func readDayOffFile(path string) ([]*daysoff.Rule, error) {
	if strings.HasSuffix(strings.ToLower(path), ".ics") {
		return readDayOffCalendar(path)
	}
	if !strings.HasSuffix(strings.ToLower(path), ".csv") && !strings.HasSuffix(strings.ToLower(path), ".tsv") {
		return nil, &table.Fault{File: path, What: "days off are read from .ics, .csv and .tsv", Remedy: "A .csv has the columns date and name, and kind if it likes"}
	}
	ctx := context.Background()
	source, err := table.Open(ctx, []string{path}, nil)
	if err != nil {
		return nil, err
	}
	defer source.Close()
	names, err := source.Find("name")
	if err != nil {
		return nil, err
	}
	kinds, err := source.Find("kind")
	if err != nil {
		kinds = -1
	}
	dates, err := (&App{}).dates(ctx, source, "date", readingFlags{pivot: 1970})
	if err != nil {
		return nil, err
	}
	if err := dates.FirstUnread(); err != nil {
		return nil, err
	}
	var rules []*daysoff.Rule
	var fault error
	reader := dates.Reader()
	err = source.Sample(ctx, mostListed, func(file *table.File, record *table.Record) {
		reader.Enter(file)
		moment, _ := reader.Read(record)
		rule := &daysoff.Rule{Name: string(record.Field(names)), Kind: daysoff.Closure, When: daysoff.OnDates{moment.Day}, Source: fmt.Sprintf("%s, line %d", path, record.Line)}
		if kinds >= 0 && len(record.Field(kinds)) > 0 {
			rule.Kind = daysoff.Kind(record.Field(kinds))
			if !slices.Contains(daysoff.Kinds, rule.Kind) && fault == nil {
				fault = &table.Fault{File: path, Line: record.Line, Column: "kind", What: fmt.Sprintf("%q is no kind of day off", rule.Kind), Remedy: "The kinds are statutory, bank, elective, marked and closure"}
			}
		}
		rules = append(rules, rule)
	})
	if err == nil {
		err = fault
	}
	return rules, err
}

// mostListed is how many days off a file can have.
const mostListed = 100_000

// dayOffRow is a row of the list of days off.
func dayOffRow(one daysoff.DayOff, region, language string, why bool) []cell.Value {
	takenOn := cell.Blank
	if one.IsMoved() {
		takenOn = cell.OfDay(one.TakenOn)
	}
	row := []cell.Value{cell.OfDay(one.Own), takenOn, cell.OfText(one.Rule.NameIn(language)), cell.OfText(region), cell.OfText(string(one.Rule.Kind))}
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

// beyondSure says that a range goes beyond the years for which the rules are
// known to be right.
func (p place) beyondSure(from, to civil.Day) string {
	if p.region == nil || from.Year() >= p.region.SureFrom && to.Year() <= p.region.SureTo {
		return ""
	}
	return fmt.Sprintf("%s: known to be right from %d to %d; the rest goes by the same rules and may differ", p.name, p.region.SureFrom, p.region.SureTo)
}
