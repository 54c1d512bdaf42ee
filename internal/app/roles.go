package app

import (
	"strings"

	"roundyear/internal/input"
	"roundyear/internal/publish"
	"roundyear/internal/table"
)

// CoveredFile is a file whose dates a table covers, and their column.
type CoveredFile struct{ File, Column string }

// Roles returns the dates of facts that join to a date table: those that were covered, else those of
// the plan's model. The first of each facts is its main one. Files are named as named says.
func (y *Year) Roles(covered []CoveredFile, named func(path string) string) []publish.Role {
	var roles []publish.Role
	add := func(facts, date, key string, files []string) {
		role := publish.Role{Facts: facts, Date: date, Key: key, Main: true, Prefix: date + "_"}
		for _, file := range files {
			paths, err := input.Paths(file)
			if err != nil {
				paths = []string{file}
			}
			for _, path := range paths {
				role.Files = append(role.Files, named(path))
			}
		}
		for _, other := range roles {
			role.Main = role.Main && other.Facts != facts
		}
		roles = append(roles, role)
	}
	for _, one := range covered {
		date := strings.TrimSuffix(one.Column, "_date")
		if date == "" {
			date = "date"
		}
		add(table.StemOf(one.File), date, date+"_key", []string{one.File})
	}
	if len(covered) > 0 {
		return roles
	}
	joins := y.Plan.Model.Joins
	if len(joins) == 0 {
		joins = y.Plan.Range.Cover
	}
	for _, join := range joins {
		facts := y.Plan.FactsNamed(join.Facts)
		add(facts.Name, join.Column, join.Column+"_key", y.FilesOf(facts))
	}
	return roles
}
