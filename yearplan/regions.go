package yearplan

import (
	"slices"

	"roundyear/civil"
	"roundyear/daysoff/regions"
	"roundyear/fault"
)

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

// ReadRegion reads the file of a region, from which package regions is generated. The error is the faults of it.
func ReadRegion(file string, content []byte) (*regions.Region, error) {
	root, problem := parse(file, content)
	if problem != nil {
		return nil, fault.List{problem}
	}
	c := &checker{file: file}
	c.check(root, &regionForm, file)
	r := &reader{checker: c, shapeFaults: slices.Clone(c.faults)}
	region := &regions.Region{Code: text(root, "region"), Name: text(root, "name"), Source: text(root, "source"), Subdivisions: texts(root, "subdivisions"), Missing: texts(root, "missing")}
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
