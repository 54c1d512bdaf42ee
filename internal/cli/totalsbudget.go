package cli

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"roundyear/facts"
	"roundyear/fault"
	"roundyear/internal/app"
	"roundyear/internal/report"
)

// budgetFlags say which budget totals are compared with.
type budgetFlags struct {
	source, date, of, over string
	done                   func()
	budgeted               *app.Budgeted
}

func (b *budgetFlags) add(command *cobra.Command) {
	flags := command.Flags()
	flags.StringVar(&b.source, "budget", "", "compare the first sum with a budget, `FILE:COLUMN`, or facts of the plan by their name")
	flags.StringVar(&b.date, "budget-date", "", "date `COLUMN` of the budget (default: the only one)")
	flags.StringVar(&b.of, "budget-of", "", "`GRAIN` of the budget (default: the plan's, or what its dates show)")
	flags.StringVar(&b.over, "budget-over", "days", "lay the budget over `DAYS`: days, workdays or trading-days (of --at or --at-column)")
}

// close closes the budget.
func (b *budgetFlags) close() {
	if b.done != nil {
		b.done()
	}
}

// read reads the budget, and lays it over days.
func (b *budgetFlags) read(ctx context.Context, f *totalsCommand, p *plan) error {
	if b.source == "" {
		return nil
	}
	at := colonOf(b.source)
	if at < 1 || at == len(b.source)-1 {
		return usageError{fmt.Errorf("--budget must be FILE:COLUMN, such as clean/budget.csv:budget, not %s", fault.Quoted(b.source))}
	}
	o := &p.Operation
	measure := slices.IndexFunc(o.Measures, func(m facts.Measure) bool { return m.Kind == facts.Sum })
	if measure < 0 {
		return usageError{errors.New("--budget is compared with a sum: add --sum COLUMN")}
	}
	var input factsInput
	input.add(f.app, &cobra.Command{}) // with the defaults of all flags
	open, done, err := input.open(ctx, p.year, []string{b.source[:at]}, func(named app.Named) string {
		if b.date == "" {
			b.date = named.Date()
		}
		return b.date
	})
	if err != nil {
		return err
	}
	b.done = done
	l := &allocateCommand{app: f.app, date: b.date, sums: []string{b.source[at+1:]}, of: b.of, grain: "day", over: b.over, decimals: 2, maxRows: facts.DefaultMaxRows}
	if b.over != "days" {
		l.at, l.atColumn = f.at, f.atColumn
	}
	if l.by = o.SourceGroups(); len(l.by) > 0 {
		if missing := app.MissingGroups(open.source.Names(), l.by); len(missing) > 0 {
			return &fault.Fault{File: open.source.Name(), What: fmt.Sprintf("the budget has no column %s", strings.Join(missing, " and ")), Remedy: "Leave it out of --by, or rename the column of the budget"}
		}
	}
	for _, condition := range o.Where {
		if _, err := open.source.Find(condition.Column); err != nil {
			return &fault.Fault{File: open.source.Name(), What: fmt.Sprintf("the budget has no column %s, by which --where picks rows", condition.Column), Remedy: "Compare all rows, or pick them by a column that both have"}
		}
	}
	l.where = f.where
	request, err := l.request(p.year, open)
	if err != nil {
		return err
	}
	request.Operation.AsOf = o.AsOf
	b.budgeted, err = request.Budget(ctx, p.year, open.inputs, *o, measure)
	var place *fault.Fault
	if errors.As(err, &place) && strings.HasPrefix(place.Remedy, "Add --of") {
		place.Remedy = "Add --budget-of month, or another grain; in the plan it is grain"
	}
	if err != nil {
		return err
	}
	o.Budget = b.budgeted.Budget
	return nil
}

// print reports on the budget.
func (b *budgetFlags) print(r *report.Report, result *facts.Result) {
	if b.budgeted == nil {
		return
	}
	r.Line("Budget: by %s, laid over its %s", grainWords(b.budgeted.Of), strings.ReplaceAll(b.over, "-", " "))
	if names := result.GroupsWithout(); len(names) > 0 {
		r.Note("only in the budget: %s", shortList(names))
	}
	if names := result.Unbudgeted(); len(names) > 0 {
		r.Note("not in the budget: %s", shortList(names))
	}
	if b.budgeted.Unplaced > 0 {
		r.Note("%s of the budget without a %s in the period, laid over all its days", report.Plural(b.budgeted.Unplaced, "amount"), strings.TrimSuffix(strings.ReplaceAll(b.over, "-", " "), "s"))
	}
	if b.budgeted.Undated > 0 {
		r.Attention("%s of the budget without a date, not compared", report.Plural(b.budgeted.Undated, "row"))
	}
}

// shortList names the first of many.
func shortList(names []string) string {
	const most = 5
	if len(names) <= most {
		return strings.Join(names, "; ")
	}
	return fmt.Sprintf("%s and %d others", strings.Join(names[:most], "; "), len(names)-most)
}
