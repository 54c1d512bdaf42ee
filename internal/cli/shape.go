package cli

import (
	"context"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"roundyear/dimension"
	"roundyear/internal/app"
	"roundyear/internal/report"
	"roundyear/rows"
	"roundyear/yearplan"
)

// shapeFlags say what the columns of facts are made to look like.
type shapeFlags struct {
	app           *App
	command       *cobra.Command
	renames, lets []string
	// texts are columns that stay text where columns have types.
	texts []string
}

func (f *shapeFlags) add(a *App, command *cobra.Command) {
	f.app, f.command = a, command
	command.Flags().StringArrayVar(&f.renames, "rename", nil, "call a column by another name, `OLD=NEW` (repeatable)")
	command.Flags().StringSliceVar(&f.texts, "text", nil, "keep `COLUMNS` as text in outputs whose columns have types, though all of their values are numbers")
	command.Flags().StringArrayVar(&f.lets, "let", nil, "compute a column, `NAME=FORMULA`: 'revenue = units * price' (repeatable)")
}

// apply returns the source in the shape that the plan and the flags say. Facts that normalise has written have that of the plan
// already.
func (f *shapeFlags) apply(ctx context.Context, source *rows.Source, planned *yearplan.Facts, decimals []string, minus string, y *app.Year, reading app.Reading) (*rows.Source, error) {
	shape := app.Shape{Asked: reading.Asked, Clock: reading.Clock}
	shape.Asked.Labels = y.Labels
	shape.Catalogue = func() (*dimension.Catalogue, error) {
		today, err := asOf("")
		if err != nil {
			return nil, err
		}
		return f.app.catalogue(y, today)
	}
	if planned != nil {
		shape.Renames, shape.Lets = planned.Renames, planned.Lets
	}
	shape.Renames, shape.Lets = app.Keyed(f.renames, shape.Renames), app.Keyed(f.lets, shape.Lets)
	if len(shape.Renames)+len(shape.Lets) == 0 {
		return source, f.findFigures(ctx, source, planned, decimals)
	}
	source, err := shape.Rename(source)
	if err != nil {
		return nil, err
	}
	if shape.Decimals, err = readDecimals(source, planned, decimals); err != nil {
		return nil, err
	}
	if shape.Minus, err = readMinus(given(f.command), planned, minus); err != nil {
		return nil, err
	}
	if source, err = shape.Compute(ctx, source); err != nil {
		return nil, err
	}
	return source, f.findFigures(ctx, source, planned, decimals)
}

// findFigures finds the numbers among the texts where rows are written to columns with types, and tells which these are.
func (f *shapeFlags) findFigures(ctx context.Context, source *rows.Source, planned *yearplan.Facts, decimals []string) error {
	if f.app.typedDigits == 0 {
		return nil
	}
	marks, err := readDecimals(source, planned, decimals)
	if err != nil {
		return err
	}
	texts := f.texts
	if planned != nil {
		texts = given(f.command).Texts("text", texts, planned.Texts)
	}
	texts = slices.Clone(texts)
	for i, name := range texts {
		place, err := source.Find(name)
		if err != nil {
			return err
		}
		texts[i] = source.Names()[place]
	}
	found, err := app.FindFigures(ctx, source, marks, texts)
	if err != nil || len(found) == 0 {
		return err
	}
	f.app.report().Line("Numbers by all of their values: %s (--text COLUMN keeps one as text)", figureNames(found))
	return nil
}

// figureNames names columns with what their values are.
func figureNames(columns []rows.Column) string {
	var names []string
	for _, column := range columns {
		what := "whole"
		switch column.Figures.Type {
		case rows.Bool:
			what = "true or false"
		case rows.Decimal:
			what = report.Plural(int(column.Figures.Scale), "decimal")
		}
		names = append(names, column.Name+" ("+what+")")
	}
	return strings.Join(names, ", ")
}
