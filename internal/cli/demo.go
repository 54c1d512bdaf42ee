package cli

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"roundyear/fault"
	"roundyear/internal/report"
	"roundyear/internal/sample"
)

// demoSteps are the command lines of the round, in the order of the work.
var demoSteps = []struct{ title, line string }{
	{"Survey: what is in the orders and in the receipts of one till",
		"roundyear survey data/orders.csv data/till-b.csv"},
	{"Plan: how the year runs; all commands below follow this plan",
		"roundyear plan check --as-of 2026-03-15"},
	{"Normalise: three tills write dates in three formats",
		"roundyear normalise 'data/till-*.csv' -o clean/sales.csv"},
	{"Normalise: orders have two dates, and some are not delivered yet",
		"roundyear normalise data/orders.csv -o clean/orders.csv"},
	{"Normalise: the budget has its date in three columns",
		"roundyear normalise data/budget.csv -o clean/budget.csv"},
	{"Build: the date dimension for all three, in whole years, with a description of the model",
		"roundyear build"},
	{"Days off: both countries side by side",
		"roundyear days-off IE NL --year 2026 --side-by-side --format table"},
	{"Build: the days around the start of the fiscal and the retail year",
		"roundyear build --from 2026-01-29 --to 2026-02-03 --columns date,day_name,month_label,fiscal_month_label,retail_week_label,retail_date_year_ago,is_workday --format table"},
	{"Explain: why that Sunday is in the first week of the retail year",
		"roundyear explain 2026-02-01 --columns retail_year,retail_week,retail_date_year_ago"},
	{"Check: every day is there once, every value is right, and every row matches a day",
		"roundyear check dates.csv"},
	{"Fill: a row for every month of every shop since its first sale",
		"roundyear fill clean/sales.csv --by shop --sum amount --count --span since-first --grain fiscal.month --as-of 2026-03-15 -o out/shop-months.csv"},
	{"Fill: the same by day; shops have no row for days on which they are closed",
		"roundyear fill clean/sales.csv --by shop --sum amount --grain day --only-open --as-of 2026-03-15 -o out/shop-days.csv"},
	{"Census: plant orders that were not yet delivered at the end of each month",
		"roundyear census clean/orders.csv --opened ordered_date --closed delivered_date --from 2025-09-01 --as-of 2026-03-15 --format table"},
	{"Lapse: how many workdays deliveries took",
		"roundyear lapse clean/orders.csv --start ordered_date --end delivered_date --in workdays --bands 5,10,20 -o out/deliveries.csv"},
	{"Allocate: the monthly budget over the days on which shops are open, by retail month",
		"roundyear allocate clean/budget.csv --date budget_date --sum budget --by shop --over trading-days --at-column shop --grain retail.month -o out/budget.csv"},
	{"Totals: sales by fiscal quarter; the last one is still running",
		"roundyear totals clean/sales.csv --sum amount --count --grain fiscal.quarter --as-of 2026-03-15 --format table"},
	{"Totals: Cloghvale by month; it was closed for refitting in March 2025, which shows as zero",
		"roundyear totals clean/sales.csv --where shop=Cloghvale --sum amount --count --grain fiscal.month --as-of 2026-03-15 --from 2024-11-01 --format table"},
	{"Totals: is this spring better than the last? It is still running, so no change is given",
		"roundyear totals clean/sales.csv --sum amount --grain fiscal.quarter --against year-ago --recent 1 --as-of 2026-03-15 --format table"},
	{"Totals: both springs up to the same day, by shop; two shops were not open last spring",
		"roundyear totals clean/sales.csv --sum amount --grain fiscal.quarter --against year-ago --to-date --by shop --subtotals --at-column shop --per-trading-day --recent 1 --as-of 2026-03-15 --format table"},
	{"Totals: the four shops that were open in both springs",
		"roundyear totals clean/sales.csv --sum amount --grain fiscal.quarter --against year-ago --to-date --where shop=Ballyfern,Lindewolde,Tullybrack,Varenoord --recent 1 --as-of 2026-03-15 --format table"},
	{"Totals: how one of these figures came about",
		"roundyear totals clean/sales.csv shop=Cloghvale --sum amount --grain fiscal.quarter --against year-ago --to-date --explain 2026-03-15 --as-of 2026-03-15"},
	{"Totals: sales and budget to date",
		"roundyear totals clean/sales.csv --sum amount --grain fiscal.quarter --budget budget:budget --to-date --by shop --subtotals --recent 1 --as-of 2026-03-15 --format table"},
	{"Latest: the last day beside the days that compare with it",
		"roundyear latest clean/sales.csv --sum amount --by shop --money EUR --format table"},
	{"Publish: the model as a database, with a view of the facts and their days",
		"roundyear publish --grain fiscal.month"},
	{"Run: what the plan has a name for, with a flag that wins over it",
		"roundyear run quarters --recent 2 --format table"},
}

func (a *App) demoCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "demo [DIR]",
		Short: "Create sample data of a made-up company and run every main command on it",
		Long: `Demo writes the sample data of Fernhollow, a made-up chain of garden centres, to a
folder (default: fernhollow) and runs the main commands on it. Each step shows the
command line and its report.`,
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
		return &fault.Fault{What: "the working folder no longer exists", Cause: err, Kind: fault.Unusable}
	}
	if err := os.Chdir(folder); err != nil {
		return &fault.Fault{File: folder, What: "cannot be entered", Cause: err, Kind: fault.Unusable}
	}
	defer os.Chdir(home)
	// All that the steps say is what the demo has to say.
	colour := a.coloured(a.stdoutTerminal)
	stdout := a.stdout
	if a.quiet {
		stdout = io.Discard
	}
	said := report.New(stdout, report.Options{Colour: colour}) // commands are not wrapped
	said.Line("Wrote the sample data of Fernhollow, a made-up chain of garden centres, to %s\n", folder)
	said.Line("$ cd %s", folder)
	for _, step := range demoSteps {
		said.Line("")
		said.Headline("# %s", step.title)
		said.Line("$ %s", step.line)
		// What a step says is only left out if it goes well.
		var kept bytes.Buffer
		stderr := stdout
		if a.quiet {
			stderr = &kept
		}
		own := &App{stdin: a.stdin, stdout: stdout, stderr: stderr, stdoutTerminal: a.stdoutTerminal, stderrTerminal: a.stdoutTerminal, stderrWidth: a.stderrWidth}
		if code := own.Run(ctx, append(words(step.line), "--color", map[bool]string{true: "always", false: "never"}[colour])); ctx.Err() != nil {
			return ctx.Err()
		} else if code > exitAttention {
			kept.WriteTo(a.stderr)
			return errors.New("the demo stopped because this step failed")
		}
	}
	said.Line("")
	said.Headline("# Demo finished")
	said.Line("To try more: cd %s, then roundyear --help", folder)
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
		return &fault.Fault{File: folder, What: "is not a readable folder", Remedy: "Choose another one", Kind: fault.Unusable}
	case len(entries) == 0:
		return nil
	}
	readme, err := os.ReadFile(filepath.Join(folder, "README.md"))
	if err == nil && string(readme) == sample.Readme {
		return nil
	}
	return &fault.Fault{File: folder, What: "is not empty", Remedy: fmt.Sprintf("Choose a new folder: roundyear demo %s-2", folder)}
}
