package cli

import (
	"fmt"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"roundyear/civil"
	"roundyear/daysoff"
	"roundyear/daysoff/regions"
	"roundyear/dimension"
	"roundyear/internal/app"
	"roundyear/internal/daylist"
)

type daysOffCommand struct {
	app       *App
	span      rangeFlags
	year      int
	why       bool
	months    bool
	compare   bool
	json      bool
	regions   bool
	languages []string
	asOf      string
	calendars calendarFlags
	out       outputFlags
}

func (a *App) daysOffCommand() *cobra.Command {
	d := &daysOffCommand{app: a}
	command := &cobra.Command{
		Use:   "days-off [REGION…]",
		Short: "List public holidays and other days off",
		Long: `Days-off lists the public holidays and other days off of the regions that you name,
or those of the plan: the date of each, the date on which it is taken if that is
another one, its name and its kind (statutory, bank, elective, marked, closure,
worked). --why adds the rule and its source. For each region it says for which
years the days off are verified; those of other years are projected.

--months shows a calendar of the year, --side-by-side one column per region, and
-o days-off.ics writes an iCalendar file. --regions lists all regions with their
subdivisions and verified years, and with --why also sources and known gaps.`,
		Example: `  roundyear days-off IE --year 2026
  roundyear days-off GB-ENG GB-SCT --year 2022 --side-by-side
  roundyear days-off NL --from 2025-01-01 --to 2027-12-31 --why -o days-off.csv -o days-off.ics
  roundyear days-off IE --year 2026 --months
  roundyear days-off --regions`,
		Args: arguments(0, -1, ""),
		RunE: func(command *cobra.Command, args []string) error {
			if d.regions {
				if err := unsuited(command.Flags()); err != nil {
					return err
				}
				return d.listRegions(args)
			}
			return d.run(args)
		},
	}
	d.span.add(command, "the list")
	flags := command.Flags()
	flags.IntVar(&d.year, "year", 0, "`YEAR` of the list (default: that of the as-of date)")
	flags.BoolVar(&d.why, "why", false, "add the rule of each day and its source")
	flags.BoolVar(&d.months, "months", false, "show a calendar of the year")
	flags.BoolVar(&d.compare, "side-by-side", false, "write one row per day and one column per region")
	flags.BoolVar(&d.regions, "regions", false, "list the regions instead of days")
	flags.BoolVar(&d.json, "json", false, "write the list to standard output as JSON")
	flags.StringSliceVar(&d.languages, "language", nil, "`LANGUAGE` of the names, such as nl, where they are known")
	flags.StringVar(&d.asOf, "as-of", "", "`DATE` that counts as today (default: today)")
	d.calendars.addWeekend(command)
	d.out.add(command)
	addDescribe(command, &d.out.describe)
	return command
}

func (d *daysOffCommand) run(args []string) error {
	read := d.app.year
	if len(args) > 0 && len(d.out.outs) == 0 {
		read = func(f *calendarFlags) (*app.Year, error) { return d.app.yearDespitePlan(nil, f) }
	}
	y, err := read(&d.calendars)
	if err != nil {
		return err
	}
	if err := overruleNames(y.Plan, d.languages, nil); err != nil {
		return err
	}
	today, err := asOf(d.asOf)
	if err != nil {
		return err
	}
	from, to, err := d.days(today)
	if err != nil {
		return err
	}
	places, err := d.places(y, args)
	if err != nil {
		return err
	}
	switch {
	case d.months:
		return d.draw(y, places, from, to)
	case d.json:
		return d.writeJSON(places, from, to, y.Plan.Names[0].Tag)
	case d.compare:
		return d.sideBySide(places, from, to, y.Plan.Names[0].Tag)
	}
	return d.list(places, from, to, y.Plan.Names[0].Tag, today)
}

// days returns the range of the list.
func (d *daysOffCommand) days(today civil.Day) (from, to civil.Day, err error) {
	first, last, err := d.span.days()
	if err != nil {
		return 0, 0, err
	}
	switch {
	case (first == nil) != (last == nil):
		return 0, 0, usageError{fmt.Errorf("a range needs both --from and --to, or --year")}
	case first != nil:
		from, to = *first, *last
	default:
		year := today.Year()
		if d.year != 0 {
			year = d.year
		}
		if year < app.FirstBuilt.Year() || year > app.LastBuilt.Year() {
			return 0, 0, usageError{fmt.Errorf("--year must be from %d to %d, not %d", app.FirstBuilt.Year(), app.LastBuilt.Year(), year)}
		}
		from, to = civil.FirstOfYear(year), civil.FirstOfYear(year+1)-1
	}
	if from < app.FirstBuilt || to > app.LastBuilt {
		return 0, 0, usageError{fmt.Errorf("the range from %s to %s is outside %s to %s", from, to, app.FirstBuilt, app.LastBuilt)}
	}
	return from, to, nil
}

// places returns the regions that are named, or the sets of the plan.
func (d *daysOffCommand) places(y *app.Year, args []string) ([]place, error) {
	var places []place
	for _, code := range args {
		region, err := regions.Of(code)
		if err != nil {
			return nil, usageError{err}
		}
		weekend := region.Weekend
		if len(d.calendars.weekend) > 0 {
			weekend = y.Plan.Weekend
		}
		places = append(places, place{name: region.Code, set: daysoff.NewSet(region.Rules, weekend), regions: []*regions.Region{region}})
	}
	if len(places) > 0 {
		return places, nil
	}
	sets, err := d.app.daysOff(y)
	if err != nil {
		return nil, err
	}
	for _, one := range sets {
		places = append(places, d.placeOf(y, one))
	}
	if len(places) == 0 {
		return nil, usageError{fmt.Errorf("name a region: %s. For a list, add --regions", strings.Join(regions.Codes(), ", "))}
	}
	return places, nil
}

// placeOf names a set of the plan. One that is a region alone is that region.
func (d *daysOffCommand) placeOf(y *app.Year, set dimension.DaysOff) place {
	p := place{name: set.Prefix, set: set.Set}
	if p.name == "" {
		p.name = "main"
	}
	sources := 0
	for _, source := range y.Plan.DaysOff {
		if source.Prefix != set.Prefix {
			continue
		}
		sources++
		if source.Region != nil {
			p.regions = append(p.regions, source.Region)
		}
	}
	if sources == 1 && len(p.regions) == 1 {
		p.name = p.regions[0].Code
	}
	return p
}

// entry is a day off of a place.
type entry struct {
	place string
	daysoff.DayOff
	// verified tells that its region's rules are known to be right in its year.
	verified bool
}

// keepsBoth tells whether its own day and the one that it is taken on are off.
func (e entry) keepsBoth() bool { return e.IsMoved() && e.Rule.KeepBoth }

func entries(places []place, from, to civil.Day) []entry {
	var all []entry
	for _, p := range places {
		for _, one := range p.set.Between(from, to) {
			all = append(all, entry{p.name, one, p.isVerified(one)})
		}
	}
	slices.SortStableFunc(all, func(a, b entry) int { return int(a.Own - b.Own) })
	return all
}

// regionOf is the region of a rule, or the place for the plan's own.
func (e entry) regionOf() string {
	if e.Rule.Region != "" && !strings.HasPrefix(e.place, e.Rule.Region) {
		return e.Rule.Region
	}
	return e.place
}

// list writes the days off in time order.
func (d *daysOffCommand) list(places []place, from, to civil.Day, language string, today civil.Day) error {
	all := entries(places, from, to)
	calendars, err := d.writeCalendars(all, language, today)
	if err != nil {
		return err
	}
	if calendars > 0 && len(d.out.outs) == 0 {
		if err := d.app.files.Commit(); err != nil {
			return err
		}
		d.printPlaces(places, all, from, to)
		return nil
	}
	sinks, err := d.out.open(d.app, dayOffColumns(d.why), true)
	if err != nil {
		return err
	}
	defer sinks.abort()
	if sinks.forPeople() {
		d.printPlaces(places, all, from, to)
	}
	for _, one := range all {
		if err := sinks.write(one.row(language, d.why)); err != nil {
			return err
		}
	}
	if err := sinks.commit(); err != nil {
		return err
	}
	if !sinks.forPeople() {
		d.printPlaces(places, all, from, to)
	}
	return nil
}

// writeCalendars writes the outputs that are calendars, and takes them from the
// list of outputs.
func (d *daysOffCommand) writeCalendars(all []entry, language string, today civil.Day) (int, error) {
	var others []string
	count := 0
	for _, out := range d.out.outs {
		if !strings.HasSuffix(strings.ToLower(out), ".ics") {
			others = append(others, out)
			continue
		}
		count++
		var days []daylist.Entry
		for _, one := range all {
			days = append(days, daylist.Entry{DayOff: one.DayOff, Verified: one.verified})
		}
		target, err := d.app.create(out)
		if err != nil {
			return 0, err
		}
		if err := daylist.WriteICalendar(target, days, language, today); err != nil {
			return 0, err
		}
	}
	d.out.outs = others
	return count, nil
}
