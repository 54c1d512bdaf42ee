package cli

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"

	"roundyear/fault"
	"roundyear/internal/report"
	"roundyear/internal/request"
	"roundyear/nearest"
	"roundyear/yearplan"
)

func (a *App) runCommand() *cobra.Command {
	command := &cobra.Command{
		Use:   "run [RESULT] [FLAGS]",
		Short: "Carry out a request that the plan gives a name",
		Long: `Run carries out one of the requests under results in the plan: a command, what it
reads, and its settings, which are called like its flags, with _ in place of -. Flags
behind the name win over the plan's. Paths in the plan are from its folder. Without a
name, run lists what there is.

To write such a request, add --show-request to a call that does what you want, and copy
what is printed into the plan.`,
		Example: `  roundyear run
  roundyear run quarters
  roundyear run quarters --grain fiscal.month -o out/months.csv
  roundyear run quarters --show-request`,
		DisableFlagParsing: true,
		RunE:               a.runResult,
	}
	command.ValidArgsFunction = func(_ *cobra.Command, args []string, _ string) ([]string, cobra.ShellCompDirective) {
		plan, err := a.readPlan()
		if err != nil || len(args) > 0 {
			return nil, cobra.ShellCompDirectiveNoFileComp
		}
		return resultNames(plan), cobra.ShellCompDirectiveNoFileComp
	}
	return command
}

func resultNames(plan *yearplan.Plan) (names []string) {
	for _, result := range plan.Results {
		names = append(names, result.Name)
	}
	return names
}

func (a *App) runResult(command *cobra.Command, args []string) error {
	if slices.Contains(args, "--help") || slices.Contains(args, "-h") {
		return command.Help()
	}
	name, rest := "", args
	if len(args) > 0 && !strings.HasPrefix(args[0], "-") {
		name, rest = args[0], args[1:]
	}
	own := pflag.NewFlagSet("run", pflag.ContinueOnError)
	own.AddFlagSet(command.Root().PersistentFlags())
	own.ParseErrorsWhitelist.UnknownFlags = name != "" // which are those of the command that the result names
	if err := own.Parse(rest); err != nil {
		return flagFault(command, err)
	}
	if err := command.Root().PersistentPreRunE(command, args); err != nil {
		return err
	}
	if name == "" && own.NArg() > 0 {
		return usageError{fmt.Errorf("the name of the result comes first: roundyear run %s", own.Arg(0))}
	}
	plan, err := a.readPlan()
	if err != nil {
		return err
	}
	if plan.File == "" {
		return &fault.Fault{File: planName, What: "there is no plan in this folder or above it, or --no-plan ignores it; results stand in the plan"}
	}
	if name == "" {
		return a.listResults(plan)
	}
	result := plan.ResultNamed(name)
	if result == nil {
		problem := &fault.Fault{File: plan.File, What: fmt.Sprintf("has no result %q", name), Remedy: "It has none: put what --show-request prints under results"}
		if names := resultNames(plan); len(names) > 0 {
			problem.Remedy = "Its results: " + strings.Join(names, ", ")
			if near := nearest.Name(name, names); near != "" {
				problem.Remedy = fmt.Sprintf("Did you mean %s?", near)
			}
		}
		return problem
	}
	r, err := request.Of(plan.File, *result, requestCommands())
	if err != nil {
		return err
	}
	return a.runRequest(command.Context(), plan, r, rest)
}

// runRequest carries out a request of a plan in the plan's folder. Flags win over its settings.
func (a *App) runRequest(ctx context.Context, plan *yearplan.Plan, r request.Request, flags []string) error {
	target, _, err := Commands().Find([]string{r.Command})
	if err != nil {
		return err
	}
	if err := target.ParseFlags(flags); err != nil {
		return resultError{flagFault(target, err), target.CommandPath()}
	}
	if target.Flags().NArg() > 0 {
		return usageError{fmt.Errorf("unexpected argument: %s. What a result reads stands in the plan", fault.Quoted(target.Flags().Arg(0)))}
	}
	own, err := fromPlan(requestOf(target, nil), plan)
	if err != nil {
		return err
	}
	given := given(target)
	r = r.Without(given)
	r.Settings = append(r.Settings, own.Settings...)
	if folder := filepath.Dir(plan.File); folder != "." {
		if err := os.Chdir(folder); err != nil {
			return err
		}
		a.report().Line("Paths are from %s", folder)
		a.isElsewhere = true
	}
	args := []string{"--color=" + a.colour, fmt.Sprintf("--quiet=%t", a.quiet)}
	if base := filepath.Base(plan.File); base != planName {
		args = append(args, "--plan="+base)
	}
	if given[showsRequest] {
		args = append(args, "--"+showsRequest)
	}
	inner := *a
	root := inner.root()
	root.SetArgs(append(r.Args()[:1:1], append(args, r.Args()[1:]...)...))
	root.SetIn(a.stdin)
	root.SetOut(a.stdout)
	root.SetErr(a.stderr)
	called, err := root.ExecuteContextC(ctx)
	err = notTogether(err)
	a.attention = a.attention || inner.attention
	if err != nil {
		err = resultError{err, called.CommandPath()}
	}
	return err
}

// listResults lists the results of a plan.
func (a *App) listResults(plan *yearplan.Plan) error {
	r := a.report()
	if len(plan.Results) == 0 {
		r.Headline("%s has no results: put what --show-request prints under results", plan.File)
		return nil
	}
	r.Headline("%s has %s", plan.File, report.Plural(len(plan.Results), "result"))
	rows := [][]string{}
	for _, result := range plan.Results {
		rows = append(rows, []string{result.Name, result.Command, strings.Join(result.Inputs, ", ")})
	}
	r.Table([]string{"result", "command", "reads"}, make([]bool, 3), rows)
	return nil
}
