package cli

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"roundyear/calendar"
	"roundyear/civil"
	"roundyear/dimension"
	"roundyear/fault"
	"roundyear/internal/daylist"
	"roundyear/internal/input"
	"roundyear/internal/output"
	"roundyear/internal/report"
	"roundyear/yearplan"
)

// planName is the plan that is looked for where none is named.
const planName = "roundyear.yaml"

// year is how the business's year runs: by the plan, and by the flags, which
// win over it.
type year struct {
	plan *yearplan.Plan
	// folder is the one that the plan stands in; empty without a plan.
	folder string
	set    *calendar.Set
	// notes are what there is to say of lists of days off that are old.
	notes []string
	// files are what the run reads and writes.
	files *output.Run
}

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
	return yearplan.Read(path, content, adjust...)
}

// year reads the plan and lets the flags win over it. Flags may be nil.
func (a *App) year(f *calendarFlags) (*year, error) {
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
	y := &year{plan: plan, files: a.files}
	if plan.File != "" {
		y.folder = filepath.Dir(plan.File)
	}
	if err := a.protect(y); err != nil {
		return nil, err
	}
	if f != nil {
		if err := f.overrule(plan); err != nil {
			return nil, err
		}
	}
	y.set, err = plan.Set()
	return y, err
}

// yearDespitePlan is year for a command that needs nothing from a plan and writes no
// file: a plan that was found and has faults is said and left alone.
func (a *App) yearDespitePlan(command *cobra.Command, f *calendarFlags) (*year, error) {
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
func (a *App) protect(y *year) error {
	var inputs []string
	for _, facts := range y.plan.Facts {
		inputs = append(inputs, facts.Files...)
		if facts.Out != "" {
			a.normalised = append(a.normalised, y.path(facts.Out))
		}
	}
	for _, source := range y.plan.DaysOff {
		if source.File != "" && !daylist.IsAddress(source.File) {
			inputs = append(inputs, strings.ReplaceAll(source.File, "{year}", "*"))
		}
	}
	for _, name := range inputs {
		paths, err := input.Paths(y.path(name))
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

// settings returns what the attributes depend on.
func (y *year) settings(asOf civil.Day, sets []dimension.DaysOff) dimension.Settings {
	return dimension.Settings{DaysOff: sets, Calendars: y.set, Weekend: y.plan.WeekendOf(""), Languages: y.plan.Names, Labels: y.plan.Labels, AsOf: asOf}
}

// catalogue returns the attributes that the year gives a day.
func (a *App) catalogue(y *year, asOf civil.Day) (*dimension.Catalogue, error) {
	sets, err := a.daysOff(y)
	if err != nil {
		return nil, err
	}
	catalogue, err := dimension.NewCatalogue(y.settings(asOf, sets))
	if err != nil {
		return nil, usageError{err}
	}
	return catalogue, nil
}

// unknownKey is the key of the row that stands for an unknown day.
func (y *year) unknownKey() int {
	for _, row := range y.plan.Special {
		if row.Name == dimension.Unknown.Name {
			return row.Key
		}
	}
	return dimension.Unknown.Key
}

// path returns a path of the plan, which is relative to the plan's folder.
func (y *year) path(path string) string {
	if filepath.IsAbs(path) || y.folder == "" {
		return path
	}
	return filepath.Join(y.folder, path)
}

// factsOf returns the facts of the plan to which all of some inputs belong.
func (y *year) factsOf(inputs []string) *yearplan.Facts {
	for i := range y.plan.Facts {
		facts := &y.plan.Facts[i]
		if !slices.ContainsFunc(inputs, func(name string) bool { return !y.holds(facts, name) }) {
			return facts
		}
	}
	return nil
}

// holds tells whether all files of an input are among those of some facts.
func (y *year) holds(facts *yearplan.Facts, name string) bool {
	if name == "-" {
		return false
	}
	paths, err := input.Paths(name)
	if err != nil {
		return false
	}
	for _, path := range paths {
		absolute, err := filepath.Abs(path)
		if err != nil {
			return false
		}
		if !slices.ContainsFunc(facts.Files, func(file string) bool {
			pattern, err := filepath.Abs(y.path(file))
			if err != nil {
				return false
			}
			matched, err := filepath.Match(pattern, absolute)
			return pattern == absolute || err == nil && matched
		}) {
			return false
		}
	}
	return len(paths) > 0
}

// checkKnown refuses days that a calendar does not know.
func (y *year) checkKnown(from, to civil.Day) error {
	unknown, first, last := y.set.Unknown(from, to)
	if unknown == nil {
		return nil
	}
	return &fault.Fault{File: y.plan.File, What: fmt.Sprintf("the calendar %s covers %s to %s, but the range is %s to %s", unknown.Name(), first, last, from, to),
		Remedy: "Declare more years, add a rule for the others, or limit the range with --from and --to"}
}
