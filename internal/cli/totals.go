package cli

import (
	"context"

	"github.com/spf13/cobra"
)

func (a *App) totalsCommand() *cobra.Command {
	f := &factsFlags{app: a}
	command := &cobra.Command{
		Use:   "totals INPUT…",
		Short: "Add up facts by period and group, with no period missing",
		Long: `Totals reads facts and adds them up by period (--grain) and group (--by). Sums are
exact decimals. Periods without rows are in the result too, marked is_filled, and
the period that contains the as-of date is marked is_running. Rows without a date
are counted and reported, and the command then exits with 1.

Each group gets the periods from the first to the last date of all groups. To choose
other periods per group, or the values in gaps, use fill (--span, --gap).

Conditions of --where: shop=Ballyfern,Cloghvale or != < <= > >=, 'note is blank'.

Grains: day week iso.week month quarter half year week.year iso.year, and those of
each fiscal calendar: fiscal.week fiscal.month fiscal.quarter fiscal.half
fiscal.year. For a calendar that the plan names retail: retail.week and so on.`,
		Example: `  roundyear totals clean/sales.csv --sum amount --count
  roundyear totals clean/sales.csv --sum amount --grain fiscal.quarter --fiscal-start february
  roundyear totals clean/sales.csv --mean amount --by shop,department --where shop=Ballyfern --grain iso.week -o out/weeks.csv`,
		Args: arguments(1, -1, "the input file"),
		RunE: func(command *cobra.Command, args []string) error {
			return f.run(command.Context(), args, func(context.Context, *plan) error { return nil })
		},
	}
	f.add(command)
	return command
}
