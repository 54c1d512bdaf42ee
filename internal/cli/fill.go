package cli

import (
	"fmt"
	"strings"

	"github.com/spf13/cobra"

	"roundyear/facts"
	"roundyear/rows"
)

func (a *App) fillCommand() *cobra.Command {
	f := &factsFlags{app: a}
	var gaps []string
	command := &cobra.Command{
		Use:   "fill INPUT…",
		Short: "Fill missing periods: one row per group and period, gaps marked",
		Long: `Fill reads facts and writes one row per period and group (--by), also for periods
in which a group has no rows. Those are marked is_filled; sums and counts are zero
in them, other measures blank, unless --gap says otherwise: carry repeats the
previous value, linear interpolates. The period that contains the as-of date is
marked is_running, and no period after it is filled.

Fill computes the same figures as totals. In addition, --span sets the periods that
each group gets, and --gap sets the value of a measure in a gap.

Values of --span: all (from the first to the last date of all groups; the default),
since-first (from the first date of the group to the last of all groups), own (from
the first to the last date of the group), or FROM/TO, such as 2026-01-01/2026-12-31.

Conditions of --where: shop=Ballyfern,Cloghvale or != < <= > >=, 'note is blank'.

Grains: day week iso.week month quarter half year week.year iso.year, and those of
each fiscal calendar: fiscal.week fiscal.month fiscal.quarter fiscal.half
fiscal.year. For a calendar that the plan names retail: retail.week and so on.`,
		Example: `  roundyear fill clean/sales.csv --by shop --sum amount
  roundyear fill clean/orders.csv --date ordered_date --by plant --last cost --grain week --gap cost=carry
  roundyear fill clean/sales.csv --by shop --sum amount --grain fiscal.month --fiscal-start february --span since-first`,
		Args: arguments(1, -1, "the input file"),
		RunE: func(command *cobra.Command, args []string) error {
			return f.run(command.Context(), args, func(p *plan, _ *rows.Source) error { return p.setGaps(gaps) })
		},
	}
	command.Flags().StringArrayVar(&gaps, "gap", nil, "value of a measure in a gap, `COLUMN=GAP`: zero, blank, carry or linear (repeatable)")
	f.add(command)
	return command
}

// setGaps reads COLUMN=GAP, where the column is one of the result's measures.
func (p *plan) setGaps(gaps []string) error {
	for _, text := range gaps {
		name, gapName, found := strings.Cut(text, "=")
		if !found {
			return usageError{fmt.Errorf("--gap must be COLUMN=zero, blank, carry or linear, not %q", text)}
		}
		gap, err := facts.ParseGap(gapName)
		if err != nil {
			return usageError{fmt.Errorf("--gap: %w", err)}
		}
		known := false
		var names []string
		for i := range p.Operation.Measures {
			names = append(names, p.Operation.Measures[i].Name)
			if strings.EqualFold(p.Operation.Measures[i].Name, name) {
				p.Operation.Measures[i].Gap, known = gap, true
			}
		}
		if !known {
			return usageError{fmt.Errorf("--gap: %q is not a measure; the measures are %s", name, strings.Join(names, ", "))}
		}
	}
	return nil
}
