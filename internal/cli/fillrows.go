package cli

import (
	"context"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"roundyear/facts"
	"roundyear/fault"
	"roundyear/internal/app"
	"roundyear/internal/database"
	"roundyear/internal/extended"
	"roundyear/internal/output"
	"roundyear/internal/publish"
	"roundyear/internal/report"
	"roundyear/internal/table"
	"roundyear/rows"
)

// rowOutputs are the outputs of rows of a source with more columns.
type rowOutputs struct {
	app   *App
	flags *outputFlags
	outs  []string
	files []*output.File
	// to is what each of them is written to; nothing for a table of a server.
	to    []io.Writer
	forms []*extended.Form
	// tables are those of databases that have been begun.
	tables []rows.Sink
}

// openRows opens the outputs for rows of a source.
func (f *outputFlags) openRows(a *App, source *rows.Source) (_ *rowOutputs, err error) {
	if f.format != "" && !slices.Contains(table.Extendable(), f.format) {
		return nil, usageError{fmt.Errorf("rows cannot be written as %s; use %s", f.format, strings.Join(table.Extendable(), ", "))}
	}
	a.files.Force = f.force
	if f.describe {
		if err := a.checkDescribed(f.outs); err != nil {
			return nil, err
		}
	}
	o := &rowOutputs{app: a, flags: f, outs: f.outs}
	if len(o.outs) == 0 {
		o.outs = []string{"-"}
	}
	defer func() {
		if err != nil {
			o.abort()
		}
	}()
	for _, out := range o.outs {
		form := &extended.Form{Source: source, Format: f.format, Formulas: formulas(f.guard)}
		if database.IsTable(out) {
			sink, err := a.tableSink(out, f.force)
			if err != nil {
				return nil, err
			}
			form.Sink = o.noting(sink)
			o.to, o.forms = append(o.to, io.Discard), append(o.forms, form)
			continue
		}
		switch {
		case out != "-" && !output.IsStream(out):
			format, err := formatFor(out)
			switch {
			case err == nil:
				form.Format = format
			case f.format == "":
				var problem *fault.Fault
				if errors.As(err, &problem) && strings.HasPrefix(problem.What, "normalise writes") {
					problem.What = "rows are written to files that end in" + strings.TrimPrefix(problem.What, "normalise writes files that end in")
				}
				return nil, err
			}
		case f.format == "" && table.HasSink(table.FormatOf(source.Parts[0]).Name):
			form.Format = "csv"
		}
		if out == "-" && a.stdoutTerminal && table.HasSink(form.Format) {
			return nil, errNotText(form.Format)
		}
		file, err := a.create(out)
		if err != nil {
			return nil, err
		}
		o.files, o.to, o.forms = append(o.files, file), append(o.to, file), append(o.forms, form)
	}
	return o, nil
}

// writesRows notes where rows of facts are written to, before those are opened: numbers stay numbers where columns have types.
func (a *App) writesRows(outs []string, format string) {
	for _, out := range outs {
		of := format
		if found, err := table.FormatOfPath(out); err == nil {
			of = found
		}
		digits := database.MostDigits
		switch {
		case of == "sqlite", database.FileOf(out) != "":
			digits = database.MostDigitsOfFiles
		case !table.HasSink(of) && !database.IsTable(out):
			continue
		}
		if a.typedDigits == 0 || digits < a.typedDigits {
			a.typedDigits = digits
		}
	}
}

func (o *rowOutputs) writers() []io.Writer { return o.to }

func (o *rowOutputs) abort() {
	for _, file := range o.files {
		file.Abort()
	}
}

// noting is a sink that is noted when it is made.
func (o *rowOutputs) noting(sink func([]rows.Column) (rows.Sink, error)) func([]rows.Column) (rows.Sink, error) {
	return func(columns []rows.Column) (rows.Sink, error) {
		made, err := sink(columns)
		if err == nil {
			o.tables = append(o.tables, made)
		}
		return made, err
	}
}

// leaveTables leaves the tables of databases as they were, so that they can be begun again.
func (o *rowOutputs) leaveTables() {
	for _, one := range o.tables {
		o.app.files.Leave(one.(output.Transaction))
	}
	o.app.written = slices.DeleteFunc(o.app.written, func(name string) bool { return slices.Contains(o.outs, name) })
}

// commit describes the files if that is asked for, and puts them in their places.
func (o *rowOutputs) commit() error {
	for i, out := range o.outs {
		if !o.flags.describe || out == "-" || output.IsStream(out) {
			continue
		}
		described := publish.Table{Fields: o.forms[i].Fields(), BlankAs: o.forms[i].Source.BlankAs, Delimiter: o.forms[i].Delimiter()}
		if err := o.app.describe([]string{out}, func(string) string { return o.forms[i].FormatName() }, described); err != nil {
			return err
		}
	}
	if err := o.app.files.Commit(); err != nil || !o.flags.describe {
		return err
	}
	o.app.tellDescribed(o.outs)
	return nil
}

// writeFilled writes the rows of the facts as they are, and rows for the periods that have none.
func (f *factsFlags) writeFilled(ctx context.Context, p *plan, tally *app.Tallied, result *facts.Result) error {
	outputs, err := f.out.openRows(f.app, p.Source)
	if err != nil {
		return err
	}
	defer outputs.abort()
	done, err := p.WriteFilled(ctx, tally, result, outputs.forms, outputs.writers())
	if err != nil {
		return err
	}
	if err := outputs.commit(); err != nil {
		return err
	}
	f.app.report().Headline("%s kept, %s added%s", report.Plural(done.Kept, "row"), report.Count(done.Made), f.out.where())
	return nil
}
