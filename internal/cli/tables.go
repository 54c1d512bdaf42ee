package cli

import (
	"os"
	"slices"
	"strings"

	"roundyear/fault"
	"roundyear/internal/database"
	"roundyear/internal/table"
	"roundyear/rows"
)

// tableWriter begins a table of a database that is an output, and not one that is read. It is put in place together with the files of the
// run.
func (a *App) tableWriter(name string, columns []rows.Column, force bool) (*database.Writer, error) {
	writer, err := database.NewWriter(a.files.Context(), name, columns, force)
	if err != nil {
		return nil, err
	}
	a.files.Join(writer)
	return writer, nil
}

// checkTable refuses a table that cannot be an output of the run.
func (a *App) checkTable(name string) error {
	if slices.ContainsFunc(a.tables, func(read string) bool { return isSameTable(read, name) }) {
		return &fault.Fault{File: name, What: "is an input and an output of the same run", Remedy: "Write to another table"}
	}
	file := database.FileOf(name)
	for _, other := range a.written {
		switch {
		case isSameTable(other, name):
			return &fault.Fault{File: name, What: "is named as an output twice", Remedy: "Give each output its own name"}
		case file != "" && isSameFile(database.FileOf(other), file):
			return &fault.Fault{File: file, What: "is a database that gets two tables in one run", Remedy: "Write them in two runs"}
		}
	}
	a.written = append(a.written, name)
	a.notePassword()
	if file != "" {
		return a.files.WritesInto(name, file)
	}
	return nil
}

// isSameTable tells whether two names are of one table.
func isSameTable(one, other string) bool {
	file := database.FileOf(one)
	if file == "" || database.FileOf(other) == "" {
		return one == other
	}
	return strings.EqualFold(strings.TrimPrefix(one, file), strings.TrimPrefix(other, database.FileOf(other))) && isSameFile(file, database.FileOf(other))
}

func isSameFile(one, other string) bool {
	first, err := os.Stat(one)
	if err != nil {
		return one == other
	}
	second, err := os.Stat(other)
	return err == nil && os.SameFile(first, second)
}

// tableSink returns what makes a table of a database that takes rows.
func (a *App) tableSink(name string, force bool) (func(columns []rows.Column) (rows.Sink, error), error) {
	if err := a.checkTable(name); err != nil {
		return nil, err
	}
	return func(columns []rows.Column) (rows.Sink, error) { return a.tableWriter(name, columns, force) }, nil
}

// addTable adds a table of a database to the outputs of a result.
func (s *sinks) addTable(name string, force bool) error {
	if err := s.app.checkTable(name); err != nil {
		return err
	}
	writer, err := s.app.tableWriter(name, rows.OfCells(s.columns), force)
	if err != nil {
		return err
	}
	s.writers, s.formats = append(s.writers, table.NewTableWriter(writer, s.columns)), append(s.formats, tableFormat)
	return nil
}
