// Package publish describes the tables that are made, for programs and for
// people: a Data Package with types, keys, sort keys and hierarchies, and a
// page that says how a model is built from them.
package publish

import (
	"roundyear/calendar"
	"roundyear/cell"
	"roundyear/dimension"
)

// Model is a date table and the facts that join to it.
type Model struct {
	// Name is that of the table, Files its files from the model's folder.
	Name  string
	Files []string
	// Title says what the table holds, in a line.
	Title   string
	Columns []Column
	// Key and Date are the columns that facts join by, and that the table is
	// declared as a date table by; empty when it does not have them.
	Key, Date string
	Special   []dimension.SpecialRow
	// Hierarchies are the ways down from years to days.
	Hierarchies []Hierarchy
	Roles       []Role
	// Rules say of each calendar how its years run.
	Rules []string
	// BuiltWith are the flags, each a name and a value, by which the table is
	// worked out again.
	BuiltWith []string
}

// Column is a column of the table.
type Column struct {
	Name    string
	Type    cell.Type
	Group   string
	Meaning string
	// SortBy is the column that puts its values in time order, if they do not
	// sort by themselves.
	SortBy string
	// Hide tells that people need not see it in a report: it is there to join
	// or to sort by.
	Hide bool
	// Required tells that it is never blank, Unique that no value comes twice.
	Required, Unique bool
}

// Hierarchy is a way down from the coarsest column to the finest.
type Hierarchy struct {
	Name   string
	Levels []string
}

// Role is a date column of facts, and what the date table is to it.
type Role struct {
	// Facts are the facts, Files their files from the model's folder.
	Facts string
	Files []string
	// Date is the date as the facts have it, and Key the column that joins.
	Date, Key string
	// Main tells that it is the facts' first date. The table plays each other
	// date under a name of its own, and its columns have the prefix.
	Main   bool
	Prefix string
}

// Of returns the model of a table with some attributes of a catalogue;
// columns are what the table calls them.
func Of(catalogue *dimension.Catalogue, attributes []dimension.Attribute, columns []cell.Column, grain calendar.Grain) *Model {
	m := &Model{}
	named, sorts := map[string]string{}, map[string]bool{}
	for i, attribute := range attributes {
		named[attribute.Name] = columns[i].Name
		sorts[attribute.SortBy] = true
	}
	primary := ""
	if key, ok := catalogue.KeyOf(grain); ok {
		primary = key.Name
	}
	for i, attribute := range attributes {
		isYear := attribute.SameFor.Unit == calendar.Year
		m.Columns = append(m.Columns, Column{
			Name: columns[i].Name, Type: attribute.Type, Group: attribute.Group, Meaning: attribute.Meaning, SortBy: named[attribute.SortBy],
			Hide: (attribute.Role == dimension.RoleKey || sorts[attribute.Name]) && !isYear, Required: attribute.Name == primary, Unique: attribute.Name == primary,
		})
		if attribute.Name == primary {
			m.Key = columns[i].Name
		}
		if attribute.Name == "date" {
			m.Date = columns[i].Name
		}
	}
	m.Hierarchies = hierarchies(attributes, named)
	return m
}

// hierarchies finds for each calendar the label of each of its units among the
// attributes, from the year to the month and to the week, and the date below.
func hierarchies(attributes []dimension.Attribute, named map[string]string) []Hierarchy {
	var calendars []calendar.Calendar
	labels := map[calendar.Grain]string{}
	for _, attribute := range attributes {
		grain := attribute.SameFor
		isLabel, isYear := attribute.Role == dimension.RoleLabel, attribute.Role == dimension.RoleKey && grain.Unit == calendar.Year
		if grain.Unit == calendar.Day || attribute.Group == dimension.Moving || !isLabel && !isYear {
			continue
		}
		if _, found := labels[grain]; !found || attribute.Type == cell.Text {
			labels[grain] = named[attribute.Name]
		}
		known := false
		for _, c := range calendars {
			known = known || c == grain.Calendar
		}
		if !known {
			calendars = append(calendars, grain.Calendar)
		}
	}
	var all []Hierarchy
	for _, c := range calendars {
		var levels []string
		for _, unit := range c.Units() {
			if name := labels[calendar.Grain{Calendar: c, Unit: unit}]; name != "" && unit != calendar.Week {
				levels = append(levels, name)
			}
		}
		year, week := labels[calendar.Grain{Calendar: c, Unit: calendar.Year}], labels[calendar.Grain{Calendar: c, Unit: calendar.Week}]
		all = addHierarchy(all, c.Name(), levels, named["date"])
		if week != "" && year != "" {
			name := c.Name()
			if len(levels) > 1 {
				name += " weeks"
			}
			all = addHierarchy(all, name, []string{year, week}, named["date"])
		}
	}
	return all
}

func addHierarchy(all []Hierarchy, name string, levels []string, date string) []Hierarchy {
	if date != "" {
		levels = append(levels, date)
	}
	if len(levels) < 2 || len(levels) == 2 && date != "" {
		return all
	}
	return append(all, Hierarchy{name, levels})
}
