package cli

import (
	"fmt"

	"github.com/spf13/cobra"

	"roundyear/yearplan"
)

func (a *App) planCommand() *cobra.Command {
	command := &cobra.Command{
		Use:   "plan",
		Short: "Write a first year plan, check it, or get its JSON Schema",
		Long: `The year plan is a YAML file that describes how the year of the business runs, and
where its facts and tables are. Every command uses roundyear.yaml in the working
folder or the nearest folder above it, or the file that --plan names. Flags
override the plan, and --no-plan ignores it.`,
		Example: `  roundyear plan new data/orders.csv -o plan.yaml
  roundyear plan check
  roundyear plan schema`,
		Args: func(command *cobra.Command, args []string) error {
			if len(args) > 0 {
				return usageError{fmt.Errorf("unknown command plan %q; use plan new, plan check or plan schema", args[0])}
			}
			return usageError{fmt.Errorf("the subcommand is missing: use plan new, plan check or plan schema")}
		},
		RunE: func(*cobra.Command, []string) error { return nil },
	}
	command.AddCommand(a.planNewCommand(), a.planCheckCommand(), a.planSchemaCommand())
	return command
}

func (a *App) planSchemaCommand() *cobra.Command {
	return &cobra.Command{
		Use:     "schema",
		Short:   "Write the JSON Schema of plans, for editors",
		Long:    `Schema writes the JSON Schema (draft 2020-12) of plans to standard output.`,
		Example: `  roundyear plan schema`,
		Args:    arguments(0, 0, ""),
		RunE: func(*cobra.Command, []string) error {
			schema, err := yearplan.Schema()
			if err != nil {
				return err
			}
			_, err = a.stdout.Write(append(schema, '\n'))
			return err
		},
	}
}
