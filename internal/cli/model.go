package cli

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"roundyear/calendar"
	"roundyear/fault"
	"roundyear/internal/app"
	"roundyear/internal/input"
	"roundyear/internal/publish"
	"roundyear/internal/table"
)

// The files that describe a table, beside it.
const (
	packageName = "datapackage.json"
	pageName    = "model.md"
)

// wantsModel tells whether the table is described beside it.
func (b *buildCommand) wantsModel(y *app.Year) bool {
	inFile := len(b.out.outs) > 0 && b.out.outs[0] != "-"
	return inFile && (b.model || len(y.Plan.Model.Out) > 0 && b.outsAreThePlans(y))
}

func (b *buildCommand) outsAreThePlans(y *app.Year) bool {
	for i, out := range b.out.outs {
		if i >= len(y.Plan.Model.Out) || out != shown(y.Path(y.Plan.Model.Out[i])) {
			return false
		}
	}
	return true
}

// writeModel writes datapackage.json and model.md into the folder of the first
// output.
func (b *buildCommand) writeModel(y *app.Year, t *dateTable) error {
	folder := filepath.Dir(b.out.outs[0])
	m := publish.Describe(t.catalogue, t.attributes, t.columns, t.grain)
	m.Name, m.Special = y.Plan.Model.Name, t.special
	if t.grain.Unit != calendar.Day {
		m.Name = table.StemOf(b.out.outs[0])
	}
	m.BuiltWith = b.builtWith(y, t, folder)
	m.Title = fmt.Sprintf("One row per %s from %s to %s.", grainWords(t.grain), t.From, t.To)
	for _, out := range b.out.outs {
		if out != "-" {
			m.Files = append(m.Files, fromFolder(folder, out))
		}
	}
	for _, fiscal := range y.Set.Fiscal {
		year := fiscal.Locate(calendar.Year, t.From.AddMonths(11))
		m.Rules = append(m.Rules, fmt.Sprintf("%s: %s. %s runs from %s to %s.", fiscal.Name(), fiscal.Rule(), fiscal.Label(year), year.First, year.Last))
	}
	if t.grain.Unit == calendar.Day {
		m.Roles = b.roles(y, folder)
	}
	description, err := m.DataPackage()
	if err != nil {
		return err
	}
	if err := b.app.replace(filepath.Join(folder, packageName), description, publish.IsOurs); err != nil {
		return err
	}
	if err := b.app.replace(filepath.Join(folder, pageName), m.Page(), publish.IsOurPage); err != nil {
		return err
	}
	return nil
}

// roles returns the dates of facts that join to the table: those of the plan's
// model, else those that were covered. The first of each facts is its main one.
func (b *buildCommand) roles(y *app.Year, folder string) []publish.Role {
	var roles []publish.Role
	add := func(facts, date, key string, files []string) {
		role := publish.Role{Facts: facts, Date: date, Key: key, Main: true, Prefix: date + "_"}
		for _, file := range files {
			paths, err := input.Paths(file)
			if err != nil {
				paths = []string{file}
			}
			for _, path := range paths {
				role.Files = append(role.Files, fromFolder(folder, path))
			}
		}
		for _, other := range roles {
			role.Main = role.Main && other.Facts != facts
		}
		roles = append(roles, role)
	}
	for _, text := range b.days.covers {
		file, column := splitCover(text)
		date := strings.TrimSuffix(column, "_date")
		if date == "" {
			date = "date"
		}
		add(table.StemOf(file), date, date+"_key", []string{file})
	}
	if len(b.days.covers) > 0 {
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

// fromFolder is a path as it is written from a folder.
func fromFolder(folder, path string) string {
	from, err := filepath.Abs(folder)
	if err != nil {
		return path
	}
	absolute, err := filepath.Abs(path)
	if err != nil {
		return path
	}
	relative, err := filepath.Rel(from, absolute)
	if err != nil {
		return path
	}
	return filepath.ToSlash(relative)
}

// replace writes a file that describes others. One that is there already is
// replaced if the program has written it.
func (a *App) replace(path string, content []byte, isOurs func([]byte) bool) error {
	if there, err := os.ReadFile(path); err == nil && !isOurs(there) {
		return &fault.Fault{File: path, What: "already exists and was not written by roundyear", Remedy: "Move that file, or write the table to another folder"}
	}
	out, err := a.create(path)
	if err != nil {
		return err
	}
	_, err = out.Write(content)
	return err
}
