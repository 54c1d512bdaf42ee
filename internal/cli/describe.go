package cli

import (
	"errors"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"roundyear/cell"
	"roundyear/fault"
	"roundyear/internal/output"
	"roundyear/internal/publish"
	"roundyear/internal/table"
)

// addDescribe adds the flag for a description of the outputs beside them.
func addDescribe(command *cobra.Command, describe *bool) {
	command.Flags().BoolVar(describe, "describe", false, "describe the output in datapackage.json next to it: its columns and their types")
}

// checkDescribed refuses outputs that cannot be described beside them.
func (a *App) checkDescribed(outs []string) error {
	isFile := func(out string) bool { return out != "-" && !output.IsStream(out) }
	if !slices.ContainsFunc(outs, isFile) {
		return usageError{errors.New("--describe needs an output file: -o FILE")}
	}
	for _, out := range outs {
		if !isFile(out) {
			continue
		}
		path := filepath.Join(filepath.Dir(out), packageName)
		if err := a.files.Check(path); err != nil {
			return err
		}
		if there, err := os.ReadFile(path); err == nil && !publish.IsOurs(there) {
			return notOurs(path)
		}
	}
	return nil
}

// describe writes what a table is into datapackage.json beside each of the files that it was written to. What is written there of other
// files stays.
func (a *App) describe(outs []string, format func(out string) string, described publish.Table) error {
	folders := map[string][]publish.Table{}
	for _, out := range outs {
		if out == "-" || output.IsStream(out) {
			continue
		}
		one := described
		one.File, one.Name, one.Format = filepath.Base(out), shortName(table.StemOf(out)), format(out)
		folders[filepath.Dir(out)] = append(folders[filepath.Dir(out)], one)
	}
	for folder, tables := range folders {
		path := filepath.Join(folder, packageName)
		there, _ := os.ReadFile(path)
		text, err := publish.Describe(there, tables, a.isThereFrom(folder, outs))
		if err != nil {
			return err
		}
		if err := a.replace(path, text, publish.IsOurs); err != nil {
			return err
		}
	}
	return nil
}

// tellDescribed says where outputs are described.
func (a *App) tellDescribed(outs []string) {
	var paths []string
	for _, out := range outs {
		path := filepath.Join(filepath.Dir(out), packageName)
		if out != "-" && !output.IsStream(out) && !slices.Contains(paths, path) {
			paths = append(paths, path)
		}
	}
	a.report().Line("Description: %s", strings.Join(paths, " and "))
}

// isThereFrom tells whether a file is there or among the outputs of the run, by its path from a folder.
func (a *App) isThereFrom(folder string, outs []string) func(file string) bool {
	return func(file string) bool {
		path := filepath.Join(folder, filepath.FromSlash(file))
		_, err := os.Stat(path)
		return err == nil || slices.ContainsFunc(outs, func(out string) bool { return filepath.Clean(out) == path })
	}
}

// shortName makes the name of a file one of a resource: small letters, digits, and - _ . between them.
func shortName(stem string) string {
	name := strings.Map(func(r rune) rune {
		if r >= 'a' && r <= 'z' || r >= '0' && r <= '9' || r == '_' || r == '.' {
			return r
		}
		return '-'
	}, strings.ToLower(stem))
	if strings.Trim(name, "-") == "" {
		return "table"
	}
	return name
}

// notOurs is the fault for a file that describes others and that somebody else has written.
func notOurs(path string) error {
	return &fault.Fault{File: path, What: "already exists and was not written by roundyear", Remedy: "Move that file, or write the table to another folder"}
}

// describe describes the outputs beside them, if that is asked for.
func (s *sinks) describe() error {
	if !s.isDescribed {
		return nil
	}
	key := ""
	if i := slices.IndexFunc(s.columns, func(column cell.Column) bool { return column.Key }); i >= 0 {
		key = s.columns[i].Name
	}
	format := func(out string) string { return s.formats[slices.Index(s.outs, out)] }
	return s.app.describe(s.outs, format, publish.Table{Fields: publish.FieldsOf(s.columns), Key: key})
}
