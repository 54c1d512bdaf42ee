package cli

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"roundyear/calendar"
	"roundyear/civil"
	"roundyear/fault"
	"roundyear/internal/app"
	"roundyear/internal/report"
	"roundyear/yearplan"
)

func (a *App) planCheckCommand() *cobra.Command {
	var json, noFiles bool
	var asOf string
	command := &cobra.Command{
		Use:   "check [PLAN]",
		Short: "Check the plan and the files that it refers to",
		Long: `Check reads the plan and reports every fault with line, column and what to write
instead. It then shows how the years of each calendar run.

It also checks what the plan refers to: the files of the facts and their date
columns, lists of days off, and the extensions of outputs. --no-files skips that.
It writes nothing, and exits with 2 if the plan has faults, with 1 if something
that it refers to is missing.`,
		Example: `  roundyear plan check
  roundyear plan check --json`,
		Args: arguments(0, 1, ""),
		RunE: func(command *cobra.Command, args []string) error {
			if len(args) == 1 {
				a.planPath = args[0]
			}
			return a.checkPlan(command.Context(), json, noFiles, asOf)
		},
	}
	command.Flags().BoolVar(&noFiles, "no-files", false, "do not check the files that the plan refers to")
	command.Flags().BoolVar(&json, "json", false, "write the faults to standard output as JSON")
	command.Flags().StringVar(&asOf, "as-of", "", "`DATE` for which the years are shown (default: today)")
	return command
}

// jsonPlanFault is a fault of a plan as --json writes it.
type jsonPlanFault struct {
	File   string `json:"file"`
	Line   int    `json:"line,omitempty"`
	Column int    `json:"column,omitempty"`
	What   string `json:"what"`
	Remedy string `json:"remedy,omitempty"`
	// Part is the part of the plan that refers to the file, for a fault that is not
	// in the plan itself.
	Part string `json:"part,omitempty"`
}

// text says the fault in one line.
func (f jsonPlanFault) text() string {
	return (&fault.Fault{File: f.File, Line: f.Line, What: f.What, Remedy: f.Remedy}).Error()
}

func (a *App) checkPlan(ctx context.Context, asJSON, noFiles bool, asOfText string) error {
	path, err := a.findPlan()
	if err != nil {
		return err
	}
	if path == "" {
		return &fault.Fault{File: planName, What: "there is no plan in this folder or above it", Remedy: "To write one, run roundyear plan new FILE…"}
	}
	y, err := a.year(nil)
	if err == nil {
		if found := resultFaults(y.Plan); len(found) > 0 {
			err = found
		}
	}
	var planFaults fault.List
	if errors.As(err, &planFaults) && asJSON {
		var list []jsonPlanFault
		for _, problem := range planFaults {
			list = append(list, jsonPlanFault{File: problem.File, Line: problem.Line, Column: problem.Char, What: problem.What, Remedy: problem.Remedy})
		}
		if err := a.writeJSON(map[string]any{"plan": path, "valid": false, "faults": list}); err != nil {
			return err
		}
		return errPlan
	}
	if planFaults != nil {
		a.report().Attention("%s has %s", path, report.Plural(len(planFaults), "fault"))
	}
	if err != nil {
		return err
	}
	var faults []jsonPlanFault
	if !noFiles {
		faults = fileFaults(ctx, y)
	}
	if asJSON {
		if faults == nil {
			faults = []jsonPlanFault{}
		}
		if err := a.writeJSON(map[string]any{"plan": path, "valid": len(faults) == 0, "faults": faults}); err != nil {
			return err
		}
		a.attention = len(faults) > 0
		return nil
	}
	today, err := asOf(asOfText)
	if err != nil {
		return err
	}
	if len(faults) == 0 {
		a.report().Headline("%s: no faults found", path)
	} else {
		a.report().Attention("%s: %s in the files that it refers to", path, report.Plural(len(faults), "fault"))
		for _, problem := range faults {
			a.report().Line("%s: %s", problem.Part, problem.text())
		}
	}
	a.printPlan(y, today)
	a.noteUnsorted(y.Set, today)
	// A list that cannot be read has been said, or is not to be read.
	lists := slices.ContainsFunc(y.Plan.DaysOff, func(d yearplan.DaysOff) bool { return d.File != "" })
	unread := slices.ContainsFunc(faults, func(f jsonPlanFault) bool { return f.Part == app.DaysOffPart })
	if !unread && !(noFiles && lists) {
		if err := a.printDaysOff(y, today); err != nil {
			return err
		}
	}
	return nil
}

// onlyPrefixed says that the columns without a prefix know no day off, where all sets
// have one.
func onlyPrefixed(sources []yearplan.DaysOff) string {
	var columns []string
	for _, source := range sources {
		if source.Prefix == "" {
			return ""
		}
		if column := "is_" + source.Prefix + "_workday"; !slices.Contains(columns, column) {
			columns = append(columns, column)
		}
	}
	if len(columns) == 0 {
		return ""
	}
	exclude := "exclude"
	if len(columns) == 1 {
		exclude = "excludes"
	}
	return fmt.Sprintf("every set of days off has a prefix, so is_workday excludes weekends only; %s %s days off too", strings.Join(columns, " and "), exclude)
}

// fileFaults are the faults of what the plan refers to, as they are shown.
func fileFaults(ctx context.Context, y *app.Year) []jsonPlanFault {
	var faults []jsonPlanFault
	for _, found := range y.FileFaults(ctx) {
		one := jsonPlanFault{Part: found.Part, What: found.Err.Error()}
		var problem *fault.Fault
		if errors.As(found.Err, &problem) {
			one = jsonPlanFault{Part: found.Part, File: problem.File, Line: problem.Line, What: problem.Reason(), Remedy: problem.Remedy}
		}
		faults = append(faults, one)
	}
	return faults
}

// printPlan shows how the years of the calendars run.
func (a *App) printPlan(y *app.Year, today civil.Day) {
	r := a.report()
	var rows [][]string
	calendars := append([]calendar.Calendar{y.Set.Year, y.Set.Week}, y.Set.Fiscal...)
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
	for _, facts := range y.Plan.Facts {
		var dates []string
		for _, date := range facts.Dates {
			dates = append(dates, date.Column)
		}
		r.Line("Facts %s: dates %s in %s", facts.Name, strings.Join(dates, ", "), strings.Join(y.FilesOf(&facts), ", "))
	}
}

// The years around today in which moves of days off are looked at.
const yearsLookedAt = 10

// printDaysOff shows what the sets of days off are made of, and which moves land
// on another day off, so that a day is lost.
func (a *App) printDaysOff(y *app.Year, today civil.Day) error {
	sets, err := a.daysOff(y)
	if err != nil {
		return err
	}
	r := a.report()
	if note := onlyPrefixed(y.Plan.DaysOff); note != "" {
		r.Line("%s", note)
	}
	for _, one := range sets {
		var sources []string
		for _, source := range y.Plan.DaysOff {
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
			r.Note("%s of %s is moved to %s, which is already a day off (%s); use observe: next_free to avoid that", lost.Moved.Rule.Name, lost.Moved.Own, lost.Moved.TakenOn, lost.Other.Rule.Name)
		}
	}
	return nil
}
