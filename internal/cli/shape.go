package cli

import (
	"context"
	"slices"

	"github.com/spf13/cobra"

	"roundyear/dimension"
	"roundyear/internal/app"
	"roundyear/rows"
	"roundyear/yearplan"
)

// shapeFlags say what the columns of facts are made to look like.
type shapeFlags struct {
	app           *App
	renames, lets []string
}

func (f *shapeFlags) add(a *App, command *cobra.Command) {
	f.app = a
	command.Flags().StringArrayVar(&f.renames, "rename", nil, "call a column by another name, `OLD=NEW` (repeatable)")
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
	shape.Renames, shape.Lets = slices.Concat(shape.Renames, f.renames), slices.Concat(shape.Lets, f.lets)
	if len(shape.Renames)+len(shape.Lets) == 0 {
		return source, nil
	}
	source, err := shape.Rename(source)
	if err != nil {
		return nil, err
	}
	if shape.Decimals, err = readDecimals(source, planned, decimals); err != nil {
		return nil, err
	}
	if shape.Minus, err = readMinus(planned, minus); err != nil {
		return nil, err
	}
	return shape.Compute(ctx, source)
}
