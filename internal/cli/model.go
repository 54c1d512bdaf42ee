package cli

import (
	"fmt"
	"os"
	"path/filepath"

	"roundyear/calendar"
	"roundyear/cell"
	"roundyear/internal/app"
	"roundyear/internal/publish"
	"roundyear/internal/table"
	"roundyear/internal/workbook"
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
func (b *buildCommand) writeModel(y *app.Year, t *app.DateTable, m *publish.Model) error {
	folder := filepath.Dir(b.out.outs[0])
	m.Name, m.Special = y.Plan.Model.Name, t.Special
	if !t.IsDaily() {
		m.Name = table.StemOf(b.out.outs[0])
	}
	m.BuiltWith = b.builtWith(y, t, folder)
	m.Title = fmt.Sprintf("One row per %s from %s to %s.", grainWords(t.Grain), t.From, t.To)
	for _, out := range b.out.outs {
		if out != "-" {
			m.Files = append(m.Files, fromFolder(folder, out))
		}
	}
	for _, fiscal := range y.Set.Fiscal {
		year := fiscal.Locate(calendar.Year, t.From.AddMonths(11))
		m.Rules = append(m.Rules, fmt.Sprintf("%s: %s. %s runs from %s to %s.", fiscal.Name(), fiscal.Rule(), fiscal.Label(year), year.First, year.Last))
	}
	if t.IsDaily() {
		m.Roles = b.roles(y, folder)
	}
	path := filepath.Join(folder, packageName)
	there, _ := os.ReadFile(path)
	description, err := m.DataPackage(there, b.app.isThereFrom(folder, b.out.outs))
	if err != nil {
		return err
	}
	if err := b.app.replace(path, description, publish.IsOurs); err != nil {
		return err
	}
	if err := b.app.replace(filepath.Join(folder, pageName), m.Page(), publish.IsOurPage); err != nil {
		return err
	}
	return nil
}

// writeColumns writes what the columns are into a sheet of its own where outputs have sheets.
func writeColumns(sinks *sinks, m *publish.Model) error {
	columns := []cell.Column{{Name: "name"}, {Name: "type"}, {Name: "group"}, {Name: "sort_by"}, {Name: "meaning"}}
	for _, writer := range sinks.writers {
		further, ok := writer.(table.Further)
		if !ok {
			continue
		}
		if err := further.Begin(workbook.ColumnsSheet, columns); err != nil {
			return err
		}
		for _, column := range m.Columns {
			row := []cell.Value{cell.OfText(column.Name), cell.OfText(column.Type.String()), cell.OfText(column.Group), cell.OfText(column.SortBy), cell.OfText(column.Meaning)}
			if err := writer.Write(row); err != nil {
				return err
			}
		}
	}
	return nil
}

// roles returns the dates of facts that join to the table.
func (b *buildCommand) roles(y *app.Year, folder string) []publish.Role {
	var covered []app.CoveredFile
	for _, text := range b.days.covers {
		file, column := splitCover(text)
		covered = append(covered, app.CoveredFile{File: file, Column: column})
	}
	return y.Roles(covered, func(path string) string { return fromFolder(folder, path) })
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
		return notOurs(path)
	}
	out, err := a.create(path)
	if err != nil {
		return err
	}
	_, err = out.Write(content)
	return err
}
