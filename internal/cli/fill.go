package cli

import (
	"fmt"
	"strings"

	"github.com/spf13/cobra"

	"roundyear/facts"
	"roundyear/internal/table"
)

func (a *App) fillCommand() *cobra.Command {
	f := &factsFlags{app: a}
	var gaps []string
	command := &cobra.Command{
		Use:   "fill INPUT…",
		Short: "Fill missing periods: one row for each group and period, holes marked",
		Long: `Fill writes one row for each group and period of its span. Periods without facts
are filled and marked (is_filled): sums and counts with zero, all else with a
blank, or as --gap says. The period in which the as-of day lies is marked as
running, and nothing is made up after it.`,
		Example: `  roundyear fill clean/sales.csv --by shop --sum amount
  roundyear fill clean/orders.csv --date ordered_date --by plant --last cost --grain week --gap cost=carry
  roundyear fill clean/sales.csv --by shop --sum amount --grain fiscal.month --fiscal-start february --span since-first`,
		Args: arguments(1, -1, "the file of facts"),
		RunE: func(command *cobra.Command, args []string) error {
			return f.run(command.Context(), args, func(p *plan, _ *table.Source) error { return p.setGaps(gaps) })
		},
	}
	command.Flags().StringArrayVar(&gaps, "gap", nil, "what a measure is without facts, `COLUMN=GAP`: zero, blank, carry or linear (repeatable)")
	f.add(command)
	return command
}

// setGaps reads COLUMN=GAP, where the column is one of the result's measures.
func (p *plan) setGaps(gaps []string) error {
	for _, text := range gaps {
		name, gapName, found := strings.Cut(text, "=")
		if !found {
			return usageError{fmt.Errorf("--gap is COLUMN=zero, blank, carry or linear, not %q", text)}
		}
		gap, err := facts.ParseGap(gapName)
		if err != nil {
			return usageError{fmt.Errorf("--gap: %w", err)}
		}
		known := false
		var names []string
		for i := range p.operation.Measures {
			names = append(names, p.operation.Measures[i].Name)
			if strings.EqualFold(p.operation.Measures[i].Name, name) {
				p.operation.Measures[i].Gap, known = gap, true
			}
		}
		if !known {
			return usageError{fmt.Errorf("--gap: there is no measure %q; the measures are %s", name, strings.Join(names, ", "))}
		}
	}
	return nil
}
