package cli

import (
	"fmt"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"roundyear/cell"
	"roundyear/civil"
	"roundyear/daysoff"
	"roundyear/dimension"
	"roundyear/internal/app"
	"roundyear/internal/daylist"
	"roundyear/internal/report"
	"roundyear/yearplan"
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
	case d.year != 0 && (first != nil || last != nil):
		return 0, 0, usageError{fmt.Errorf("--year cannot be combined with --from or --to")}
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
		region, err := yearplan.RegionOf(code)
		if err != nil {
			return nil, usageError{err}
		}
		weekend := region.Weekend
		if len(d.calendars.weekend) > 0 {
			weekend = y.Plan.Weekend
		}
		places = append(places, place{name: region.Code, set: daysoff.NewSet(region.Rules, weekend), regions: []*yearplan.Region{region}})
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
		return nil, usageError{fmt.Errorf("name a region: %s. For a list, add --regions", strings.Join(yearplan.Regions(), ", "))}
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

// printPlaces says how many days off there are, and for which years they are sure.
func (d *daysOffCommand) printPlaces(places []place, all []entry, from, to civil.Day) {
	r := d.app.report()
	var names []string
	for _, p := range places {
		names = append(names, p.name)
	}
	r.Headline("%s from %s to %s: %s%s", report.Plural(len(all), "day")+" off", from, to, strings.Join(names, ", "), d.out.where())
	for _, p := range places {
		for i, region := range p.regions {
			weekend := ""
			if i == 0 {
				weekend = "; " + p.weekend()
			}
			r.Line("%s: %s, verified for %d–%d%s", region.Code, region.Name, region.VerifiedFrom, region.VerifiedTo, weekend)
			if text := projectedNote(region, from, to); text != "" {
				r.Note("%s", text)
			}
			if d.why {
				for _, missing := range region.Missing {
					r.Line("%s: not in the list: %s", region.Code, missing)
				}
			}
		}
	}
	expected := 0
	for _, one := range all {
		if one.IsExpected() {
			expected++
		}
	}
	if expected > 0 {
		r.Note("%s expected: not announced yet, so the date may change", report.Plural(expected, "day"))
	}
}

// sideBySide writes a row for each day that is a day off somewhere, and a
// column of names for each place.
func (d *daysOffCommand) sideBySide(places []place, from, to civil.Day, language string) error {
	columns := []cell.Column{{Name: "date", Type: cell.Date}, {Name: "weekday"}}
	for _, p := range places {
		columns = append(columns, cell.Column{Name: p.name})
	}
	columns = append(columns, cell.Column{Name: "verified", Type: cell.Boolean})
	sinks, err := d.out.open(d.app, columns, true)
	if err != nil {
		return err
	}
	defer sinks.abort()
	all := entries(places, from, to)
	d.printPlaces(places, all, from, to)
	var days []civil.Day
	for _, one := range all {
		if one.Rule.Kind.IsOff() {
			days = append(days, one.TakenOn)
		}
	}
	slices.Sort(days)
	same := 0
	for _, day := range slices.Compact(days) {
		row := []cell.Value{cell.OfDay(day), cell.OfText(day.Weekday().Short())}
		everywhere, verified := true, true
		for _, p := range places {
			var taken []daysoff.DayOff
			for _, one := range p.set.Taken(day) {
				if one.Rule.Kind.IsOff() {
					taken, verified = append(taken, one), verified && p.isVerified(one)
				}
			}
			everywhere = everywhere && len(taken) > 0
			row = append(row, cell.OfText(daysoff.JoinedNames(taken, language)))
		}
		if everywhere {
			same++
		}
		row = append(row, cell.OfBool(verified))
		if err := sinks.write(row); err != nil {
			return err
		}
	}
	if err := sinks.commit(); err != nil {
		return err
	}
	d.app.report().Line("%s off in common; dates are those on which days off are taken", report.Plural(same, "day"))
	return nil
}

func (d *daysOffCommand) writeJSON(places []place, from, to civil.Day, language string) error {
	type jsonDayOff struct {
		Date    string `json:"date"`
		TakenOn string `json:"taken_on"`
		Name    string `json:"name"`
		Region  string `json:"region"`
		Kind    string `json:"kind"`
		// Verified tells that the rule is known to be right in the year.
		Verified bool `json:"verified"`
		Half     bool `json:"half,omitempty"`
		// BothDays tells that its own day and the one it is taken on are off.
		BothDays bool `json:"both_days,omitempty"`
		// Expected tells that the day is not announced yet.
		Expected bool   `json:"expected,omitempty"`
		Why      string `json:"why"`
		Source   string `json:"source,omitempty"`
	}
	type jsonRegion struct {
		Region       string   `json:"region"`
		Name         string   `json:"name"`
		VerifiedFrom int      `json:"verified_from"`
		VerifiedTo   int      `json:"verified_to"`
		Missing      []string `json:"missing,omitempty"`
	}
	type jsonPlace struct {
		Name    string       `json:"name"`
		Regions []jsonRegion `json:"regions,omitempty"`
		Days    []jsonDayOff `json:"days"`
	}
	var all []jsonPlace
	for _, p := range places {
		one := jsonPlace{Name: p.name, Days: []jsonDayOff{}}
		for _, region := range p.regions {
			one.Regions = append(one.Regions, jsonRegion{region.Code, region.Name, region.VerifiedFrom, region.VerifiedTo, region.Missing})
		}
		for _, e := range entries([]place{p}, from, to) {
			one.Days = append(one.Days, jsonDayOff{e.Own.String(), e.TakenOn.String(), e.Rule.NameIn(language), e.regionOf(), string(e.Rule.Kind), e.verified, e.Rule.Half, e.keepsBoth(), e.IsExpected(), e.Rule.Why(), e.Rule.Source})
		}
		all = append(all, one)
	}
	return d.app.writeJSON(all)
}
