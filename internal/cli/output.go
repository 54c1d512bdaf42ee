package cli

import (
	"fmt"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"roundyear/cell"
	"roundyear/internal/database"
	"roundyear/internal/delimited"
	"roundyear/internal/output"
	"roundyear/internal/report"
	"roundyear/internal/table"
	"roundyear/internal/terminal"
)

// outputFlags say where a result goes and in which format.
type outputFlags struct {
	outs   []string
	format string
	force  bool
	guard  bool
	// describe tells that the files are described beside them.
	describe bool
}

func (f *outputFlags) add(command *cobra.Command) {
	f.addOut(command)
	command.Flags().StringVar(&f.format, "format", "", "`FORMAT` of an output whose file name does not tell it: "+strings.Join(table.Names(), ", ")+", or table (for reading)")
}

func (f *outputFlags) addOut(command *cobra.Command) {
	command.Flags().StringArrayVarP(&f.outs, "out", "o", nil, "`FILE` to write; its extension sets the format, "+table.PackedEndings()+" after it compresses; - is standard output, and postgres://…#table, mysql://…#table or shop.db#table a table of a database (repeatable)")
	addForce(command, &f.force)
	addGuard(command, &f.guard)
}

// addGuard adds the flag for files that go to a spreadsheet.
func addGuard(command *cobra.Command, guard *bool) {
	command.Flags().BoolVar(guard, "guard-formulas", false, "in CSV and TSV, put an apostrophe before text that a spreadsheet would run as a formula")
}

func formulas(guard bool) delimited.Formulas {
	if guard {
		return delimited.GuardFormulas
	}
	return delimited.KeepFormulas
}

func addForce(command *cobra.Command, force *bool) {
	command.Flags().BoolVar(force, "force", false, "replace write-protected outputs")
}

// sinks are the outputs of one result: each row goes to all of them.
type sinks struct {
	writers []table.RowWriter
	run     *output.Run
	outputs []*output.File
	formats []string
	columns []cell.Column
	// formulas says what becomes of texts that look like one.
	formulas delimited.Formulas
	// outs are the paths of the outputs, and isDescribed tells that the files are described beside them.
	app         *App
	outs        []string
	isDescribed bool
}

// peopleFormat is the format of tables for people.
const peopleFormat = "table"

// open opens all outputs. Where nothing says the format of standard output it
// is a table for people on a terminal if the result is short, else CSV.
func (f *outputFlags) open(a *App, columns []cell.Column, short bool) (_ *sinks, err error) {
	if f.format != "" && f.format != peopleFormat && !slices.Contains(table.Names(), f.format) {
		return nil, usageError{fmt.Errorf("unknown format %q; use %s or table", f.format, strings.Join(table.Names(), ", "))}
	}
	a.files.Force = f.force
	for _, path := range a.normalised {
		if err := a.files.Reads(shown(path), path); err != nil {
			return nil, err
		}
	}
	if f.describe {
		if err := a.checkDescribed(f.outs); err != nil {
			return nil, err
		}
	}
	s := &sinks{run: a.files, columns: columns, formulas: formulas(f.guard), app: a, isDescribed: f.describe}
	defer func() {
		if err != nil {
			s.abort()
		}
	}()
	outs := f.outs
	if len(outs) == 0 {
		outs = []string{"-"}
	}
	for _, out := range outs {
		if database.IsTable(out) {
			if err := s.addTable(out, f.force); err != nil {
				return nil, err
			}
			continue
		}
		if err := a.files.Check(out); err != nil { // before a database that a table has just been begun in is looked at
			return nil, err
		}
		format, err := f.formatOf(a, out, short)
		if err != nil {
			return nil, err
		}
		if out == "-" && a.stdoutTerminal && table.HasSink(format) {
			return nil, errNotText(format)
		}
		create := a.create
		if format == peopleFormat {
			create = a.createPainted
		}
		file, err := create(out)
		if err != nil {
			return nil, err
		}
		s.outputs, s.outs = append(s.outputs, file), append(s.outs, out)
		s.formats = append(s.formats, format)
		if format == peopleFormat {
			s.writers = append(s.writers, report.NewRows(file, a.coloured(out == "-" && a.stdoutTerminal), columns, a.tableWidth(out)))
			continue
		}
		writer, err := table.NewRowWriter(format, s.formulas, file, columns)
		if err != nil {
			return nil, err
		}
		s.writers = append(s.writers, writer)
	}
	return s, nil
}

// tableFormat is the format of what is written into a table of a database.
const tableFormat = "database"

func (f *outputFlags) formatOf(a *App, out string, short bool) (string, error) {
	if out != "-" {
		format, err := table.FormatOfPath(out)
		switch {
		case err == nil:
			return format, nil
		case format != "":
			return "", err
		case f.format != "":
			return f.format, table.CheckReplaced(f.format, out)
		case output.IsStream(out):
			return "csv", nil
		}
		return "", err
	}
	switch {
	case f.format != "":
		return f.format, nil
	case short && a.stdoutTerminal:
		return peopleFormat, nil
	}
	return "csv", nil
}

// errNotText returns the error for an output that a terminal cannot show.
func errNotText(format string) error {
	return usageError{fmt.Errorf("a terminal cannot show a file of %s; write it to one: -o FILE.%s", strings.ToUpper(format), format)}
}

// create opens the output of a path; - is standard output. No control character
// of data reaches a terminal by it.
func (a *App) create(path string) (*output.File, error) {
	if path != "-" {
		return a.files.Create(path)
	}
	if a.stdoutTerminal {
		return a.files.Stream("standard output", terminal.Writer(a.stdout))
	}
	return a.files.Stream("standard output", a.stdout)
}

// createPainted is create for what has colour of the program's own in it, and of
// which all data is clean already.
func (a *App) createPainted(path string) (*output.File, error) {
	if path != "-" {
		return a.files.Create(path)
	}
	return a.files.Stream("standard output", a.stdout)
}

func (s *sinks) write(row []cell.Value) error {
	for _, writer := range s.writers {
		if err := writer.Write(row); err != nil {
			return err
		}
	}
	return nil
}

// lines returns what turns rows into the lines of each output; it is false when
// one of the formats is not made of lines.
func (s *sinks) lines() ([]table.RowLines, bool) {
	var all []table.RowLines
	for _, format := range s.formats {
		lines, ok := table.NewRowLines(format, s.formulas, s.columns)
		if !ok {
			return nil, false
		}
		all = append(all, lines)
	}
	return all, true
}

// writeText writes lines to each of the outputs.
func (s *sinks) writeText(texts [][]byte) error {
	for i, text := range texts {
		if _, err := s.outputs[i].Write(text); err != nil {
			return err
		}
	}
	return nil
}

// forPeople tells whether all of the outputs are tables for people.
func (s *sinks) forPeople() bool {
	return !slices.ContainsFunc(s.writers, func(writer table.RowWriter) bool {
		_, ok := writer.(*report.Rows)
		return !ok
	})
}

// footer sets the line under tables for people.
func (s *sinks) footer(texts []string) {
	for _, writer := range s.writers {
		if rows, ok := writer.(*report.Rows); ok {
			rows.Footer(texts)
		}
	}
}

// periods says that tables for people are of periods.
func (s *sinks) periods(p report.Periods) {
	for _, writer := range s.writers {
		if rows, ok := writer.(*report.Rows); ok {
			rows.Periods(p)
		}
	}
}

// close ends the formats. The files are complete then, and not yet in place.
func (s *sinks) close() error {
	for _, writer := range s.writers {
		if err := writer.Close(); err != nil {
			return err
		}
	}
	return nil
}

// commit ends the formats and puts all files of the run in their places.
func (s *sinks) commit() error {
	if err := s.close(); err != nil {
		return err
	}
	if err := s.describe(); err != nil {
		return err
	}
	if err := s.run.Commit(); err != nil || !s.isDescribed {
		return err
	}
	s.app.tellDescribed(s.outs)
	return nil
}

func (s *sinks) abort() {
	for _, output := range s.outputs {
		output.Abort()
	}
}

// where names the files that were written, for a headline.
func (f *outputFlags) where() string {
	var names []string
	for _, out := range f.outs {
		if out != "-" {
			names = append(names, out)
		}
	}
	if len(names) == 0 {
		return ""
	}
	return ", written to " + strings.Join(names, " and ")
}

// tableWidth is how wide a table for people may be; 0 for any width.
func (a *App) tableWidth(out string) int {
	if out == "-" && a.stdoutTerminal {
		return a.stdoutWidth
	}
	return 0
}
