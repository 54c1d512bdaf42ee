package cli

import (
	"github.com/spf13/cobra"

	"roundyear/internal/table"
)

func (a *App) totalsCommand() *cobra.Command {
	f := &factsFlags{app: a}
	command := &cobra.Command{
		Use:   "totals INPUT…",
		Short: "Add facts up by period and group, in time order, with no period missing",
		Long: `Totals adds facts up by the periods of any calendar and by any columns. Sums are
exact decimals. Periods without facts are there and marked (is_filled), and so
is the period that is still running (is_running).`,
		Example: `  roundyear totals clean/sales.csv --sum amount --count
  roundyear totals clean/sales.csv --sum amount --grain fiscal.quarter --fiscal-start february
  roundyear totals clean/sales.csv --mean amount --by shop,department --where shop=Ballyfern --grain iso.week -o out/weeks.csv`,
		Args: arguments(1, -1, "the file of facts"),
		RunE: func(command *cobra.Command, args []string) error {
			return f.run(command.Context(), args, func(*plan, *table.Source) error { return nil })
		},
	}
	f.add(command)
	return command
}
