package yearplan

import (
	"fmt"
	"slices"
	"strings"

	"go.yaml.in/yaml/v4"

	"roundyear/calendar"
	"roundyear/daysoff"
	"roundyear/daysoff/regions"
	"roundyear/dimension"
	"roundyear/nearest"
)

// DaysOff is a source of days off in the plan.
type DaysOff struct {
	// Prefix goes before the columns of its set; empty for the main set.
	Prefix string
	// Region is a region, File a file from the plan's folder, Rule a rule of the
	// plan's own; one of them is there.
	Region *regions.Region
	File   string
	Rule   *daysoff.Rule
	// Kind is what the days of a file are that say nothing of it.
	Kind daysoff.Kind
	// YearFrom and YearTo are the years that {year} in the file's name stands for.
	YearFrom, YearTo int
	// Table is which table of a page; DateColumn, NameColumn and Pattern say how
	// a list is read.
	Table, DateColumn, NameColumn, Pattern string
}

// readScope tells whether all places where a rule of the plan holds are regions
// or sites.
func (r *reader) readScope(rule *daysoff.Rule, node *yaml.Node) bool {
	var sites []string
	for _, site := range r.plan.Sites {
		sites = append(sites, site.Name)
	}
	for i, place := range items(node) {
		name := resolved(place).Value
		if slices.Contains(sites, name) {
			continue
		}
		region, err := regions.Of(name)
		if err != nil {
			fix := ""
			if near := nearest.Name(name, append(sites, regions.Codes()...)); near != "" {
				fix = fmt.Sprintf("Did you mean %s?", near)
			}
			r.add(place, fix, "%s refers to %q, which is neither a site of the plan nor a region", rule.Name, name)
			return false
		}
		rule.Scope[i] = region.Code
	}
	return true
}

// AppliesAt tells whether one of the plan's own rules holds at one of some places:
// sites, and codes of regions. One that holds in a country holds in its parts.
func (d *DaysOff) AppliesAt(places ...string) bool {
	if len(d.Rule.Scope) == 0 {
		return true
	}
	return slices.ContainsFunc(places, func(place string) bool {
		country, _, _ := strings.Cut(place, "-")
		return slices.Contains(d.Rule.Scope, place) || slices.Contains(d.Rule.Scope, country)
	})
}

// RegionsOf returns the codes of the regions of the set with a prefix.
func (p *Plan) RegionsOf(prefix string) []string {
	var codes []string
	for _, source := range p.DaysOff {
		if source.Region != nil && source.Prefix == prefix {
			codes = append(codes, source.Region.Code)
		}
	}
	return codes
}

// keysOfSources are the keys beside prefix that a region and a file take; keys of
// a file alone say nothing of a rule.
var keysOfSources = map[string][]string{"region": nil, "file": {"years", "table", "columns", "pattern", "kind"}}

// keysGoTogether tells whether an entry of the plan's list says nothing that would
// not be heeded.
func (r *reader) keysGoTogether(item *yaml.Node) bool {
	source := ""
	for _, key := range []string{"region", "file"} {
		if below(item, key) != nil {
			source = key
			break
		}
	}
	for key := range entries(item) {
		name := key.Value
		switch {
		case name == "prefix" || name == "region" || name == "file":
		case source == "" && (name == "kind" || !slices.Contains(keysOfSources["file"], name)):
		case source != "" && slices.Contains(keysOfSources[source], name):
		case source == "":
			r.add(key, "Remove it", "%s is for files of days off, not for rules", name)
			return false
		default:
			r.add(key, "Remove it, or add your own rule as another entry", "%s cannot be used with a %s", name, source)
			return false
		}
	}
	return true
}

// readDaysOff reads the plan's list.
func (r *reader) readDaysOff(node *yaml.Node) {
	type rule struct{ name, prefix string }
	named := map[rule]bool{}
	for _, item := range items(node) {
		if !r.sound(item) {
			continue
		}
		one := DaysOff{Prefix: text(item, "prefix")}
		if one.Prefix != "" && !calendarName.MatchString(one.Prefix) {
			r.add(below(item, "prefix"), "", "a prefix becomes part of column names, so it must consist of lower-case letters, digits and underscores, not %q", one.Prefix)
			continue
		}
		if one.Prefix != "" && (slices.Contains(dimension.ReservedNames(), one.Prefix) || slices.ContainsFunc(r.plan.Fiscal, func(c calendar.Calendar) bool { return c.Name() == one.Prefix })) {
			r.add(below(item, "prefix"), "Choose another name", "the prefix %q is the name of a calendar or a group", one.Prefix)
			continue
		}
		region, file := below(item, "region"), below(item, "file")
		if !r.keysGoTogether(item) {
			continue
		}
		switch {
		case region != nil && file != nil:
			r.add(file, "Write two entries", "an entry cannot be both a region and a file")
			continue
		case region != nil:
			found, err := regions.Of(resolved(region).Value)
			if err != nil {
				r.add(region, "", "%v", err)
				continue
			}
			one.Region = found
		case file != nil:
			one.File = resolved(file).Value
			one.Table, one.Pattern = text(item, "table"), text(item, "pattern")
			one.Kind = daysoff.Closure
			if kind := text(item, "kind"); kind != "" {
				one.Kind = daysoff.Kind(kind)
			}
			one.DateColumn, one.NameColumn = text(below(item, "columns"), "date"), text(below(item, "columns"), "name")
			years := below(item, "years")
			one.YearFrom = integerAt(years, "from")
			one.YearTo = integerAt(years, "to")
			if hasYear := strings.Contains(one.File, "{year}"); hasYear != (years != nil) || one.YearTo < one.YearFrom || one.YearTo-one.YearFrom > 200 {
				r.add(file, "Add years: {from: 2024, to: 2026}", "{year} in the file name and years must be used together")
				continue
			}
		default:
			if one.Rule = r.readDayOff(item); one.Rule == nil {
				continue
			}
			if below(item, "kind") == nil {
				one.Rule.Kind = daysoff.Closure
			}
			if !r.readScope(one.Rule, below(item, "scope")) {
				continue
			}
			own := rule{one.Rule.Name, one.Prefix}
			if named[own] {
				r.add(below(item, "name"), "Rename one of them", "two rules for days off are named %q", one.Rule.Name)
			}
			named[own] = true
		}
		r.plan.DaysOff = append(r.plan.DaysOff, one)
	}
}
