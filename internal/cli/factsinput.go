package cli

import (
	"context"

	"github.com/spf13/cobra"

	"roundyear/internal/app"
	"roundyear/numbertext"
	"roundyear/rows"
	"roundyear/yearplan"
)

// factsInput are the flags that say how facts are read, of commands that work on them.
type factsInput struct {
	app      *App
	decimals []string
	minus    string
	shape    shapeFlags
	reading  readingFlags
}

func (f *factsInput) add(a *App, command *cobra.Command) {
	f.app = a
	addDecimals(command, &f.decimals, &f.minus)
	f.shape.add(a, command)
	f.reading.add(command)
}

// openFacts are facts that are open.
type openFacts struct {
	source  *rows.Source
	reading app.Reading
	// inputs are their files, and named what the plan has of them if they were given by name.
	inputs []string
	named  app.Named
	// planned are the facts of the plan that they are, by name or by their files.
	planned  *yearplan.Facts
	decimals map[string]numbertext.Mark
	minus    string
}

// open opens facts, by their names in the plan or as files, in the shape that the flags and the plan say. Date is the column of their
// date, by which the plan says how it is read; nothing where there are several. The facts are closed by done.
func (f *factsInput) open(ctx context.Context, y *app.Year, inputs []string, date func(app.Named) string) (_ *openFacts, done func(), err error) {
	o := &openFacts{named: y.Named(ctx, inputs, true)}
	o.inputs = o.named.Inputs
	if o.reading, err = f.reading.readBy(y.FactsOf(o.inputs), date(o.named)); err != nil {
		return nil, nil, err
	}
	if o.named.IsNormalised && !o.reading.Given["blank-as"] && o.named.Facts != nil {
		o.reading.Form.BlankAs = o.named.Facts.BlankAs // rows stay as they are when they are normalised
	}
	var marks []string
	if o.reading, marks, err = f.app.described(o.inputs, o.reading); err != nil {
		return nil, nil, err
	}
	if facts := y.FactsOf(o.inputs); len(f.decimals) == 0 && (facts == nil || len(facts.Decimals) == 0) {
		f.decimals = marks
	}
	source, end, err := f.app.open(ctx, o.inputs, 1, o.reading.Form)
	if err != nil {
		return nil, nil, err
	}
	defer func() {
		if err != nil {
			end()
		}
	}()
	if o.planned = o.named.Facts; o.planned == nil {
		o.planned = y.FactsOf(o.inputs)
	}
	shaped := o.planned
	if o.named.IsNormalised {
		shaped = nil // they have their shape already
	}
	if o.source, err = f.shape.apply(ctx, source, shaped, f.decimals, f.minus, y, o.reading); err != nil {
		return nil, nil, err
	}
	o.reading.Asked.Labels = y.Labels
	if o.decimals, err = readDecimals(o.source, o.planned, f.decimals); err != nil {
		return nil, nil, err
	}
	o.minus, err = readMinus(given(f.shape.command), o.planned, f.minus)
	return o, end, err
}
