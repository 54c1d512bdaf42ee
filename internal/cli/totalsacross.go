package cli

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"roundyear/calendar"
	"roundyear/cell"
	"roundyear/facts"
	"roundyear/internal/app"
)

// across is what stands side by side: a group, or years if it has no name.
type across struct{ group string }

// readAcross reads --across: year, or one of the groups, which need not be named by --by as well.
func (f *totalsCommand) readAcross(p *plan) error {
	if f.acrossColumn == "" {
		return nil
	}
	o := &p.Operation
	switch {
	case len(f.others) > 0:
		return usageError{fmt.Errorf("--across needs a single --grain")}
	case strings.EqualFold(f.acrossColumn, "year") && !slices.Contains(o.Groups, "year"):
		if o.Grain.Unit == calendar.Day || o.Grain.Unit == calendar.Year {
			return usageError{fmt.Errorf("--across year needs periods between a day and a year, such as --grain month, not %s", o.Grain)}
		}
		f.across = &across{}
		return nil
	}
	name := f.acrossColumn
	if !slices.Contains(o.Groups, name) {
		own := &factsFlags{app: f.app, by: []string{name}, attribute: f.attribute}
		if err := own.readGroups(p.year, p); err != nil {
			return err
		}
		name = o.Groups[len(o.Groups)-1]
	}
	f.across = &across{name}
	return nil
}

// writeOthers writes results that are not one plain table: of several grains, or side by side.
func (f *factsFlags) writeOthers(ctx context.Context, p *plan, results []*facts.Result) error {
	columns, rows := append([]cell.Column{{Name: "grain", Type: cell.Text}}, results[0].Columns()...), func(yield func([]cell.Value) bool) {
		var all []cell.Value
		for i, result := range results {
			grain := p.Operation.Grain
			if i > 0 {
				grain = f.others[i-1]
			}
			for row := range result.Rows() {
				if all = append(append(all[:0], cell.OfText(grain.String())), row...); !yield(all) {
					return
				}
			}
		}
	}
	if f.across != nil {
		pivot, err := results[0].Across(f.across.group)
		if err != nil {
			return usageError{fmt.Errorf("--across: %w", err)}
		}
		columns, rows = pivot.Columns(), pivot.Rows
	}
	sinks, err := f.out.open(f.app, columns, true)
	if err != nil {
		return err
	}
	defer sinks.abort()
	if f.across == nil {
		sinks.periods(p.periods())
	}
	if sinks.forPeople() {
		f.headline(p, results...)
	}
	if err := app.Each(ctx, rows, sinks.write); err != nil {
		return err
	}
	if err := sinks.commit(); err != nil {
		return err
	}
	if !sinks.forPeople() {
		f.headline(p, results...)
	}
	return nil
}
