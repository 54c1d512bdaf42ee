package cli

import (
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"roundyear/internal/report"
	"roundyear/internal/sample"
	"roundyear/internal/table"
)

// demoSteps are the command lines of the round, in the order of the work.
var demoSteps = []struct{ title, line string }{
	{"Look: what the orders and one of the tills hold",
		"roundyear survey data/orders.csv data/till-b.csv"},
	{"Shape the year: the plan says how it runs, and all that follows goes by it",
		"roundyear plan check --as-of 2026-03-15"},
	{"Clean: three tills write dates in three ways; each row gets its true day",
		"roundyear normalise 'data/till-*.csv' -o clean/sales.csv"},
	{"Clean: orders have two dates, and some are not delivered yet",
		"roundyear normalise data/orders.csv -o clean/orders.csv"},
	{"Clean: the budget has year, month and day in columns of their own",
		"roundyear normalise data/budget.csv -o clean/budget.csv"},
	{"Build: the date dimension that all three join to, in whole years, described beside it",
		"roundyear build"},
	{"See: the days off of both countries, side by side",
		"roundyear days-off IE NL --year 2026 --side-by-side --format table"},
	{"See: how the fiscal and the retail year turn",
		"roundyear build --from 2026-01-29 --to 2026-02-03 --columns date,day_name,month_label,fiscal_month_label,retail_week_label,retail_date_year_ago,is_workday --format table"},
	{"Understand: why that Sunday is in the first week of the retail year",
		"roundyear explain 2026-02-01 --column retail_year,retail_week,retail_date_year_ago"},
	{"Prove: every day once, every value right, and every fact finds its day",
		"roundyear check dates.csv"},
	{"Fill: every shop has every month since it opened",
		"roundyear fill clean/sales.csv --by shop --sum amount --count --span since-first --grain fiscal.month --as-of 2026-03-15 -o out/shop-months.csv"},
	{"Compare: sales by fiscal quarter; the last one is still running",
		"roundyear totals clean/sales.csv --sum amount --count --grain fiscal.quarter --as-of 2026-03-15 --format table"},
	{"Compare: the months of Cloghvale; while it was refitted it sold nothing, and March says so",
		"roundyear totals clean/sales.csv --where shop=Cloghvale --sum amount --count --grain fiscal.month --as-of 2026-03-15 --from 2024-11-01 --format table"},
}

func (a *App) demoCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "demo [DIR]",
		Short: "Write the files of a made-up company and run the whole round on them",
		Long: `Demo writes the files of Fernhollow, a chain of garden centres that does not
exist, into a folder (fernhollow if none is named) and runs the round on them:
each step is shown as the command line one would type, with what it says.`,
		Example: `  roundyear demo
  roundyear demo garden`,
		Args: arguments(0, 1, ""),
		RunE: func(command *cobra.Command, args []string) error {
			folder := "fernhollow"
			if len(args) > 0 {
				folder = args[0]
			}
			return a.demo(command.Context(), folder)
		},
	}
}

func (a *App) demo(ctx context.Context, folder string) error {
	if err := guardFolder(folder); err != nil {
		return err
	}
	err := sample.Write(func(path string) (io.Writer, error) {
		return a.files.Create(filepath.Join(folder, filepath.FromSlash(path)))
	})
	if err == nil {
		err = a.files.Commit()
	}
	if err != nil {
		return err
	}
	home, err := os.Getwd()
	if err != nil {
		return &table.Fault{What: "the working folder is gone", Cause: err, Outside: true}
	}
	if err := os.Chdir(folder); err != nil {
		return &table.Fault{File: folder, What: "cannot be entered", Cause: err, Outside: true}
	}
	defer os.Chdir(home)
	// All that the steps say is what the demo has to say.
	colour := a.coloured(a.stdoutTerminal)
	said := report.New(a.stdout, colour, false, 0) // commands are not wrapped
	said.Line("The files of Fernhollow, a made-up chain of garden centres, are in %s\n", folder)
	said.Line("$ cd %s", folder)
	for _, step := range demoSteps {
		said.Line("")
		said.Headline("# %s", step.title)
		said.Line("$ %s", step.line)
		own := &App{stdin: a.stdin, stdout: a.stdout, stderr: a.stdout, stdoutTerminal: a.stdoutTerminal, stderrTerminal: a.stdoutTerminal, stderrWidth: a.stderrWidth}
		if code := own.Run(ctx, append(words(step.line), "--color", map[bool]string{true: "always", false: "never"}[colour])); ctx.Err() != nil {
			return ctx.Err()
		} else if code > exitAttention {
			return errors.New("the demo has stopped at this step")
		}
	}
	said.Line("")
	said.Headline("# The whole round is done")
	said.Line("Go on by hand: cd %s, then roundyear --help", folder)
	return nil
}

// words splits a command line of the demo, in which no word has spaces, and
// leaves the name of the program out.
func words(line string) []string {
	all := strings.Fields(line)[1:]
	for i := range all {
		all[i] = strings.Trim(all[i], "'")
	}
	return all
}

// guardFolder stops the demo from writing among files of somebody's own.
func guardFolder(folder string) error {
	entries, err := os.ReadDir(folder)
	switch {
	case errors.Is(err, fs.ErrNotExist):
		return nil
	case err != nil:
		return &table.Fault{File: folder, What: "is not a folder that can be read", Remedy: "Name another one", Outside: true}
	case len(entries) == 0:
		return nil
	}
	readme, err := os.ReadFile(filepath.Join(folder, "README.md"))
	if err == nil && string(readme) == sample.Readme {
		return nil
	}
	return &table.Fault{File: folder, What: "is not empty", Remedy: fmt.Sprintf("Name a folder that is not there yet: roundyear demo %s-2", folder)}
}
