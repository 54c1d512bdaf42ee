// Package regions is the days off of countries and other regions.
//
// The rules are Go code that is generated from the YAML files in this folder, which are written
// as the days off of a year plan are. Each names its source.
package regions

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"sync"
	"time"
	_ "time/tzdata" // zones do not depend on the machine

	"roundyear/civil"
	"roundyear/daysoff"
	"roundyear/nearest"
)

//go:generate go run roundyear/scripts/regions .

// Region is the days off of a country or other region.
type Region struct {
	// Code is its code by ISO 3166-1, Name its English name.
	Code, Name string
	Rules      []*daysoff.Rule
	Weekend    []civil.Weekday
	// WeekendSince is the day since which it is the weekend, or nil.
	WeekendSince *civil.Day
	// VerifiedFrom and VerifiedTo are the years for which the rules are known to be right.
	VerifiedFrom, VerifiedTo int
	// Source is where the rules come from that name none of their own.
	Source string
	// Subdivisions are the codes by ISO 3166-2 in which rules differ.
	Subdivisions []string
	// Missing says what is known to be missing.
	Missing []string
}

// IsVerified tells whether the rules are known to be right in a range.
func (r *Region) IsVerified(from, to civil.Day) bool {
	return from.Year() >= r.VerifiedFrom && to.Year() <= r.VerifiedTo
}

// Codes lists the codes of all regions that there are.
func Codes() []string { return slices.Sorted(maps.Keys(all)) }

// Of returns the region of a code: of a country such as IE the rules that
// hold in all of it, of a subdivision such as DE-BY those and its own. It is the caller's to
// change. The error names the nearest.
func Of(code string) (*Region, error) {
	wanted := strings.ToUpper(strings.TrimSpace(code))
	country, _, isPart := strings.Cut(wanted, "-")
	if all[country] == nil {
		remedy := "; there are " + strings.Join(Codes(), ", ")
		if near := nearestCode(wanted); near != "" {
			remedy = fmt.Sprintf(". Did you mean %s?", near)
		}
		return nil, fmt.Errorf("unknown region %q%s", code, remedy)
	}
	region := all[country]()
	if isPart && !slices.Contains(region.Subdivisions, wanted) {
		near := nearest.Name(wanted, region.Subdivisions)
		switch {
		case len(region.Subdivisions) == 0:
			return nil, fmt.Errorf("the days off of %s are only known for the whole country: use %s, and add to the plan those that %s has of its own", country, country, wanted)
		case near != "":
			return nil, fmt.Errorf("unknown region %q. Did you mean %s?", code, near)
		}
		return nil, fmt.Errorf("unknown region %q; %s has %s", code, country, strings.Join(region.Subdivisions, ", "))
	}
	region.Code = wanted
	region.Rules = slices.DeleteFunc(region.Rules, func(rule *daysoff.Rule) bool { return !rule.AppliesIn(wanted) })
	return region, nil
}

// nearestCode returns the code that somebody meant, who may have written a
// name.
func nearestCode(wanted string) string {
	if len(wanted) <= 2 {
		// Any two letters are near to any others.
		return map[string]string{"UK": "GB", "EL": "GR"}[wanted]
	}
	if near := nearest.Name(wanted, Codes()); near != "" {
		return near
	}
	codes, names := map[string]string{}, []string(nil)
	for _, code := range Codes() {
		name, _, _ := strings.Cut(all[code]().Name, " (")
		codes[name], names = code, append(names, name)
	}
	near := nearest.Name(wanted, names)
	if near == "" {
		return ""
	}
	return fmt.Sprintf("%s (%s)", codes[near], near)
}

// on returns a day that bounds a rule.
func on(year int, month civil.Month, day int) *civil.Day {
	bound := civil.MustOf(year, month, day)
	return &bound
}

// sunAt returns an equinox, a solstice or a solar term by its name.
func sunAt(name string) daysoff.SunPoint {
	for _, points := range [][]daysoff.SunPoint{daysoff.Seasons, daysoff.SolarTerms} {
		if point, ok := daysoff.SunPointOf(name, points); ok {
			return point
		}
	}
	panic("there is no point of the sun " + name)
}

var zones sync.Map

// zone returns a time zone by its IANA name; all of them are part of the program.
func zone(name string) *time.Location {
	if known, ok := zones.Load(name); ok {
		return known.(*time.Location)
	}
	location, err := time.LoadLocation(name)
	if err != nil {
		panic(err)
	}
	zones.Store(name, location)
	return location
}
