package cli

import (
	"fmt"

	"github.com/spf13/cobra"

	"roundyear/yearplan"
)

func (a *App) planCommand() *cobra.Command {
	command := &cobra.Command{
		Use:   "plan",
		Short: "The year plan: write a first one, check it, give its JSON Schema",
		Long: `The year plan is a YAML file that says how the business's year runs, and where its
facts and tables are. All commands read roundyear.yaml of the working folder or
of one above it, or the plan that --plan names; their flags win over it.`,
		Example: `  roundyear plan new data/orders.csv -o plan.yaml
  roundyear plan check
  roundyear plan schema`,
		Args: func(command *cobra.Command, args []string) error {
			if len(args) > 0 {
				return usageError{fmt.Errorf("plan has no %q; it has new, check and schema", args[0])}
			}
			return usageError{fmt.Errorf("say what to do: plan new, plan check or plan schema")}
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
