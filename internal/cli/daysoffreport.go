package cli

import (
	"slices"
	"strings"

	"roundyear/cell"
	"roundyear/civil"
	"roundyear/daysoff"
	"roundyear/internal/report"
)

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
			if len(region.Subdivisions) > 0 && !strings.Contains(region.Code, "-") {
				r.Note("%s: the days off that all of it has in common; parts with more: %s", region.Code, strings.Join(region.Subdivisions, ", "))
			}
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
