package cli

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"roundyear/civil"
	"roundyear/dimension"
	"roundyear/fault"
	"roundyear/internal/app"
	"roundyear/internal/database"
	"roundyear/internal/daylist"
	"roundyear/internal/input"
	"roundyear/internal/report"
	"roundyear/yearplan"
)

// planName is the plan that is looked for where none is named.
const planName = "roundyear.yaml"

// findPlan returns the path of the plan: the one that was named, else
// roundyear.yaml in the working folder or above it; nothing when there is none.
func (a *App) findPlan() (string, error) {
	if a.planPath != "" || a.noPlan {
		return a.planPath, nil
	}
	folder, err := os.Getwd()
	if err != nil {
		return "", nil
	}
	for above := ""; ; above = filepath.Join(above, "..") {
		path := filepath.Join(above, planName)
		if info, err := os.Stat(path); err == nil && info.Mode().IsRegular() {
			return path, nil
		}
		parent := filepath.Dir(folder)
		if parent == folder {
			return "", nil
		}
		folder = parent
	}
}

// concealIn takes passwords out of the addresses of a plan, so that nothing shows them.
func (a *App) concealIn(plan *yearplan.Plan) error {
	var failed error
	conceal := func(whose string, addresses []string) {
		for i, address := range addresses {
			shown, had, err := database.Conceal(address)
			if err != nil && failed == nil {
				failed = fmt.Errorf("%s: %s: %w", plan.File, whose, err)
			}
			if had {
				a.report().Note("%s: the password of %s can be read by whoever reads the plan; PGPASSWORD, MYSQL_PWD, %s and %s are safer", plan.File, whose, database.PostgresPasswords, database.MySQLSettings)
			}
			addresses[i] = shown
		}
	}
	for i := range plan.Facts {
		conceal("facts "+plan.Facts[i].Name, plan.Facts[i].Files)
	}
	conceal("publish.out", plan.Publish.Out)
	for _, result := range plan.Results {
		conceal("results."+result.Name, result.Inputs)
		for _, setting := range result.Settings {
			conceal("results."+result.Name, setting.Values)
		}
	}
	return failed
}

// readPlan reads the plan, or returns the one that holds where there is none.
func (a *App) readPlan(adjust ...func(*yearplan.Plan)) (*yearplan.Plan, error) {
	path, err := a.findPlan()
	if err != nil {
		return nil, err
	}
	if path == "" {
		plan := yearplan.Default()
		for _, change := range adjust {
			change(plan)
		}
		return plan, nil
	}
	content, err := a.files.ReadFile(path)
	if err != nil {
		if a.files.Context().Err() != nil {
			return nil, err
		}
		problem := &fault.Fault{File: path, What: "the plan cannot be read", Cause: err, Kind: fault.Unusable}
		if errors.Is(err, fs.ErrNotExist) {
			problem.What, problem.Cause, problem.Kind, problem.Remedy = "there is no such plan", nil, "", "To write one, run roundyear plan new FILE…"
		}
		return nil, problem
	}
	plan, err := yearplan.Read(path, content, adjust...)
	if plan != nil {
		if err := a.concealIn(plan); err != nil {
			return nil, err
		}
	}
	return plan, err
}

// year reads the plan and lets the flags win over it. Flags may be nil.
func (a *App) year(f *calendarFlags) (*app.Year, error) {
	var adjust []func(*yearplan.Plan)
	if f != nil {
		rule, err := f.weeks()
		if err != nil {
			return nil, err
		}
		adjust = append(adjust, rule)
	}
	plan, err := a.readPlan(adjust...)
	if err != nil {
		return nil, err
	}
	y := &app.Year{Plan: plan, Files: a.files}
	if plan.File != "" {
		y.Folder = filepath.Dir(plan.File)
	}
	if err := a.protect(y); err != nil {
		return nil, err
	}
	if f != nil {
		if err := f.overrule(plan); err != nil {
			return nil, err
		}
	}
	y.Set, err = plan.Set()
	return y, err
}

// yearDespitePlan is year for a command that needs nothing from a plan and writes no
// file: a plan that was found and has faults is said and left alone.
func (a *App) yearDespitePlan(command *cobra.Command, f *calendarFlags) (*app.Year, error) {
	y, err := a.year(f)
	var faults fault.List
	if !errors.As(err, &faults) || a.planPath != "" {
		return y, err
	}
	a.report().Line("%s has %s and was ignored; to list them, run roundyear plan check", faults[0].File, report.Plural(len(faults), "fault"))
	a.noPlan = true
	if command != nil {
		// So that the command to run next says it too.
		if err := command.Flags().Set("no-plan", "true"); err != nil {
			return nil, err
		}
	}
	return a.year(f)
}

// protect keeps what the plan reads from being written over, whether this run
// reads it or not: facts and lists of days off. Facts that normalise writes are
// protected from all other commands, when they open their outputs.
func (a *App) protect(y *app.Year) error {
	var inputs []string
	for _, facts := range y.Plan.Facts {
		inputs = append(inputs, facts.Files...)
		if facts.Out != "" {
			a.normalised = append(a.normalised, y.Path(facts.Out))
		}
	}
	for _, source := range y.Plan.DaysOff {
		if source.File != "" && !daylist.IsAddress(source.File) {
			inputs = append(inputs, strings.ReplaceAll(source.File, "{year}", "*"))
		}
	}
	for _, name := range inputs {
		paths, err := input.Paths(y.Path(name))
		if err != nil {
			continue // nothing is there to be lost
		}
		for _, path := range paths {
			if err := a.files.Reads(shown(path), path); err != nil {
				return err
			}
		}
	}
	return nil
}

// catalogue returns the attributes that the year gives a day.
func (a *App) catalogue(y *app.Year, asOf civil.Day) (*dimension.Catalogue, error) {
	sets, err := a.daysOff(y)
	if err != nil {
		return nil, err
	}
	catalogue, err := dimension.NewCatalogue(y.Settings(asOf, sets))
	if err != nil {
		return nil, usageError{err}
	}
	return catalogue, nil
}
