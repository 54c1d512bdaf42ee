package yearplan

import (
	"roundyear/fault"

	"embed"
	"fmt"
	"path"
	"slices"
	"strings"
	"sync"

	"roundyear/civil"
	"roundyear/daysoff"
	"roundyear/nearest"
)

// regionFiles are the days off of regions, read when first needed.
//
//go:embed regions/*.yaml
var regionFiles embed.FS

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

var regionForm = shape{doc: "Days off of a region.", fields: []field{
	{"region", shape{doc: "Code by ISO 3166-1.", scalar: anyText}},
	{"name", shape{doc: "English name.", scalar: anyText}},
	{"weekend", shape{doc: "Weekdays of the weekend.", list: &shape{scalar: weekdayName}}},
	{"weekend_since", shape{doc: "Day from which it is the weekend, if another one was valid before.", scalar: date}},
	{"verified", shape{doc: "Years for which the rules are verified.", fields: []field{{"from", shape{scalar: number(1583, 9999)}}, {"to", shape{scalar: number(1583, 9999)}}}}},
	{"source", shape{doc: "Law or other source.", scalar: anyText}},
	{"subdivisions", shape{doc: "Codes by ISO 3166-2 in which rules differ.", list: &shape{scalar: anyText}}},
	{"missing", shape{doc: "Known gaps.", list: &shape{scalar: anyText}}},
	{"days", shape{doc: "The rules.", list: &shape{fields: dayOffFields}}},
}}

// Regions lists the codes of all regions that there are.
func Regions() []string {
	files, err := regionFiles.ReadDir("regions")
	if err != nil {
		panic(err) // they are part of the program
	}
	var codes []string
	for _, file := range files {
		codes = append(codes, strings.TrimSuffix(file.Name(), ".yaml"))
	}
	return codes
}

var regionCache sync.Map

// RegionOf returns the region of a code: of a country such as IE the rules that
// hold in all of it, of a subdivision such as DE-BY those and its own. It is the caller's to
// change. The error names the nearest.
func RegionOf(code string) (*Region, error) {
	wanted := strings.ToUpper(strings.TrimSpace(code))
	country, _, isPart := strings.Cut(wanted, "-")
	if !slices.Contains(Regions(), country) {
		remedy := "; there are " + strings.Join(Regions(), ", ")
		if near := nearestRegion(wanted); near != "" {
			remedy = fmt.Sprintf(". Did you mean %s?", near)
		}
		return nil, fmt.Errorf("unknown region %q%s", code, remedy)
	}
	region := readRegion(country)
	if isPart && !slices.Contains(region.Subdivisions, wanted) {
		near := nearest.Name(wanted, region.Subdivisions)
		switch {
		case len(region.Subdivisions) == 0:
			return nil, fmt.Errorf("the days off of %s are the same in all its subdivisions: use %s", country, country)
		case near != "":
			return nil, fmt.Errorf("unknown region %q. Did you mean %s?", code, near)
		}
		return nil, fmt.Errorf("unknown region %q; %s has %s", code, country, strings.Join(region.Subdivisions, ", "))
	}
	part := *region
	part.Code, part.Rules = wanted, nil
	part.Weekend, part.Subdivisions, part.Missing = slices.Clone(region.Weekend), slices.Clone(region.Subdivisions), slices.Clone(region.Missing)
	for _, rule := range region.Rules {
		if rule.AppliesIn(wanted) {
			part.Rules = append(part.Rules, rule.Clone())
		}
	}
	return &part, nil
}

// nearestRegion returns the code that somebody meant, who may have written a
// name.
func nearestRegion(wanted string) string {
	if len(wanted) <= 2 {
		// Any two letters are near to any others.
		return map[string]string{"UK": "GB", "EL": "GR"}[wanted]
	}
	if near := nearest.Name(wanted, Regions()); near != "" {
		return near
	}
	codes, names := map[string]string{}, []string(nil)
	for _, code := range Regions() {
		name, _, _ := strings.Cut(readRegion(code).Name, " (")
		codes[name], names = code, append(names, name)
	}
	near := nearest.Name(wanted, names)
	if near == "" {
		return ""
	}
	return fmt.Sprintf("%s (%s)", codes[near], near)
}

// readRegion reads a region of the program. That all of them can be read is
// tested.
func readRegion(code string) *Region {
	if known, found := regionCache.Load(code); found {
		return known.(*Region)
	}
	content, err := regionFiles.ReadFile(path.Join("regions", code+".yaml"))
	if err != nil {
		panic(err)
	}
	region, err := parseRegion(code+".yaml", content)
	if err != nil {
		panic(err)
	}
	regionCache.Store(code, region)
	return region
}

// parseRegion reads the file of a region. The error is the Faults of it.
func parseRegion(file string, content []byte) (*Region, error) {
	root, problem := parse(file, content)
	if problem != nil {
		return nil, fault.List{problem}
	}
	c := &checker{file: file}
	c.check(root, &regionForm, file)
	r := &reader{checker: c, shapeFaults: slices.Clone(c.faults)}
	region := &Region{Code: text(root, "region"), Name: text(root, "name"), Source: text(root, "source"), Subdivisions: texts(root, "subdivisions"), Missing: texts(root, "missing")}
	for _, name := range texts(root, "weekend") {
		region.Weekend = append(region.Weekend, weekdayOf(name))
	}
	if since, err := civil.Parse(text(root, "weekend_since")); err == nil {
		region.WeekendSince = &since
	}
	verified := below(root, "verified")
	region.VerifiedFrom = integerAt(verified, "from")
	region.VerifiedTo = integerAt(verified, "to")
	for _, item := range items(below(root, "days")) {
		if !r.sound(item) {
			continue
		}
		if rule := r.readDayOff(item); rule != nil {
			rule.Region = region.Code
			if rule.Source == "" {
				rule.Source = region.Source
			}
			region.Rules = append(region.Rules, rule)
		}
	}
	if len(c.faults) > 0 {
		return nil, c.faults.Sorted()
	}
	return region, nil
}
