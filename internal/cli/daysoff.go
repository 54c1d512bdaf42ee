package cli

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"roundyear/cell"
	"roundyear/civil"
	"roundyear/daysoff"
	"roundyear/daysoff/regions"
	"roundyear/dimension"
	"roundyear/fault"
	"roundyear/internal/app"
	"roundyear/internal/report"
	"roundyear/yearplan"
)

// readRegions puts the regions of --region in the place of those of the plan's
// main set.
func (f *calendarFlags) readRegions(plan *yearplan.Plan) error {
	if len(f.regions) == 0 {
		return nil
	}
	kept := slices.DeleteFunc(slices.Clone(plan.DaysOff), func(d yearplan.DaysOff) bool { return d.Region != nil && d.Prefix == "" })
	var asked []yearplan.DaysOff
	for _, code := range f.regions {
		region, err := regions.Of(code)
		if err != nil {
			return usageError{fmt.Errorf("--region: %w", err)}
		}
		asked = append(asked, yearplan.DaysOff{Region: region})
	}
	plan.DaysOff = append(asked, kept...)
	return nil
}

// daysOff returns the days off of the plan, and says which lists are old.
func (a *App) daysOff(y *app.Year) ([]dimension.DaysOff, error) {
	sets, err := y.DaysOff()
	for _, kept := range y.Kept {
		a.report().Note("%s: the list could not be fetched (%s); using the copy of %s, %s old",
			kept.Name, reasonOf(kept.Why), kept.At.Format("2006-01-02"), age(time.Since(kept.At)))
	}
	return sets, err
}

// reasonOf is what is wrong, without where and what to do.
func reasonOf(err error) string {
	var problem *fault.Fault
	if errors.As(err, &problem) {
		return problem.What
	}
	return err.Error()
}

// age is how long ago something was, in days or in hours.
func age(ago time.Duration) string {
	if hours := int(ago.Hours()); hours < 48 {
		return report.Plural(hours, "hour")
	}
	return report.Plural(int(ago.Hours()/24), "day")
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
	regions []*regions.Region
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
func projectedNote(region *regions.Region, from, to civil.Day) string {
	if region.IsVerified(from, to) {
		return ""
	}
	return fmt.Sprintf("%s: verified for %d–%d; other years are projected and may differ", region.Code, region.VerifiedFrom, region.VerifiedTo)
}

// printBeyondVerified says where a table goes beyond the years that are verified.
func (a *App) printBeyondVerified(y *app.Year, from, to civil.Day) {
	if beyond := y.BeyondVerified(from, to); len(beyond) > 0 {
		a.report().Note("days off are verified for %s; other years are projected and may differ", strings.Join(beyond, ", "))
	}
}
