package cli

import (
	"fmt"
	"os"
	"strings"

	"github.com/spf13/cobra"

	"roundyear/calendar"
	"roundyear/civil"
	"roundyear/internal/report"
	"roundyear/internal/table"
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

func (a *App) planCheckCommand() *cobra.Command {
	var json bool
	var asOf string
	command := &cobra.Command{
		Use:   "check [PLAN]",
		Short: "Check the plan: every fault with line, column and what was expected",
		Long: `Check reads the plan and says every fault of it, with line and column, what was
expected, and the nearest name. It looks whether the files of the facts are
there, and shows how the years of each calendar run.`,
		Example: `  roundyear plan check
  roundyear plan check --json`,
		Args: arguments(0, 1, ""),
		RunE: func(_ *cobra.Command, args []string) error {
			if len(args) == 1 {
				a.planPath = args[0]
			}
			return a.checkPlan(json, asOf)
		},
	}
	command.Flags().BoolVar(&json, "json", false, "the faults as JSON on standard output")
	command.Flags().StringVar(&asOf, "as-of", "", "`DAY` whose years are shown (default: the machine's today)")
	return command
}

// jsonPlanFault is a fault of a plan as --json writes it.
type jsonPlanFault struct {
	File   string `json:"file"`
	Line   int    `json:"line"`
	Column int    `json:"column"`
	What   string `json:"what"`
	Remedy string `json:"remedy,omitempty"`
}

func (a *App) checkPlan(asJSON bool, asOfText string) error {
	path, err := a.findPlan()
	if err != nil {
		return err
	}
	if path == "" {
		return &table.Fault{File: planName, What: "there is no plan in this folder or above it", Remedy: "roundyear plan new FILE… writes one"}
	}
	y, err := a.year(nil)
	if faults, ok := err.(yearplan.Faults); ok && asJSON {
		var list []jsonPlanFault
		for _, fault := range faults {
			list = append(list, jsonPlanFault(fault))
		}
		if err := a.writeJSON(map[string]any{"plan": path, "right": false, "faults": list}); err != nil {
			return err
		}
		return errPlan
	}
	if faults, ok := err.(yearplan.Faults); ok {
		a.report().Attention("%s has %s", path, report.Plural(len(faults), "fault"))
		return faults
	}
	if err != nil {
		return err
	}
	if asJSON {
		return a.writeJSON(map[string]any{"plan": path, "right": true, "faults": []any{}})
	}
	today, err := asOf(asOfText)
	if err != nil {
		return err
	}
	a.sayPlan(path, y, today)
	if err := a.sayDaysOff(y, today); err != nil {
		return err
	}
	return a.missingFiles(y)
}

// sayPlan shows how the years of the calendars run.
func (a *App) sayPlan(path string, y *year, today civil.Day) {
	r := a.report()
	r.Headline("%s is right", path)
	var rows [][]string
	calendars := append([]calendar.Calendar{y.set.Year, y.set.Week}, y.set.Fiscal...)
	for _, c := range calendars {
		year := c.Locate(calendar.Year, today)
		var units []string
		for _, unit := range c.Units() {
			units = append(units, calendar.Grain{Calendar: c, Unit: unit}.String())
		}
		rows = append(rows, []string{c.Name(), c.Label(year), year.First.String(), year.Last.String(), strings.Join(units, " ")})
	}
	r.Table([]string{"calendar", "year of " + today.String(), "from", "to", "grains"}, make([]bool, 5), rows)
	for _, c := range calendars[1:] {
		r.Line("%s: %s", c.Name(), c.Rule())
	}
	for _, facts := range y.plan.Facts {
		var dates []string
		for _, date := range facts.Dates {
			dates = append(dates, date.Column)
		}
		r.Line("Facts %s: dates %s in %s", facts.Name, strings.Join(dates, ", "), strings.Join(y.filesOf(&facts), ", "))
	}
}

// The years around today in which moves of days off are looked at.
const yearsLookedAt = 10

// sayDaysOff shows what the sets of days off are made of, and which moves land
// on another day off, so that a day is lost.
func (a *App) sayDaysOff(y *year, today civil.Day) error {
	sets, err := a.daysOff(y)
	if err != nil {
		return err
	}
	r := a.report()
	for _, one := range sets {
		var sources []string
		for _, source := range y.plan.DaysOff {
			switch {
			case source.Prefix != one.Prefix:
			case source.Region != nil:
				sources = append(sources, source.Region.Code)
			case source.Rule != nil:
				sources = append(sources, source.Rule.Name)
			default:
				sources = append(sources, source.File)
			}
		}
		name := one.Prefix
		if name == "" {
			name = "main set"
		}
		r.Line("Days off, %s: %s", name, strings.Join(sources, ", "))
		for _, lost := range one.Set.Collisions(today.AddMonths(-12*yearsLookedAt), today.AddMonths(12*yearsLookedAt)) {
			r.Attention("%s of %s is moved to %s, which is off already for %s; observe: next_free goes around it", lost.Moved.Rule.Name, lost.Moved.Own, lost.Moved.TakenOn, lost.Other.Rule.Name)
		}
	}
	return nil
}

// missingFiles says which files of the plan's facts are not there.
func (a *App) missingFiles(y *year) error {
	missing := false
	for _, facts := range y.plan.Facts {
		for _, file := range facts.Files {
			if _, err := table.Paths(y.path(file)); err != nil {
				a.report().Attention("facts.%s: %v", facts.Name, err)
				missing = true
			} else if _, err := os.Stat(y.path(file)); err != nil && !strings.ContainsAny(file, "*?[") {
				a.report().Attention("facts.%s: there is no file %s", facts.Name, y.path(file))
				missing = true
			}
		}
	}
	if missing {
		return errAttention
	}
	return nil
}
