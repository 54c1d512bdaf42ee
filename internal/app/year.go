package app

import (
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"roundyear/daysoff/regions"

	"roundyear/calendar"
	"roundyear/civil"
	"roundyear/dimension"
	"roundyear/fault"
	"roundyear/internal/database"
	"roundyear/internal/input"
	"roundyear/internal/output"
	"roundyear/yearplan"
)

// Year is how the business's year runs: by the plan, and by the flags, which
// win over it.
type Year struct {
	Plan *yearplan.Plan
	// Folder is the one that the plan stands in; empty without a plan.
	Folder string
	Set    *calendar.Set
	// Kept are the lists of days off of which an old copy was used.
	Kept []KeptList
	// Files are what the run reads and writes.
	Files *output.Run
}

// Settings returns what the attributes depend on.
func (y *Year) Settings(asOf civil.Day, sets []dimension.DaysOff) dimension.Settings {
	return dimension.Settings{DaysOff: sets, Calendars: y.Set, Weekend: y.Plan.WeekendOf(""), Languages: y.Plan.Names, Labels: y.Plan.Labels, AsOf: asOf}
}

// UnknownKey is the key of the row that stands for an unknown day.
func (y *Year) UnknownKey() int {
	for _, row := range y.Plan.Special {
		if row.Name == dimension.Unknown.Name {
			return row.Key
		}
	}
	return dimension.Unknown.Key
}

// Path returns a path of the plan, which is relative to the plan's folder; the address of a database stays as it is.
func (y *Year) Path(path string) string {
	if database.IsAddress(path) {
		return path
	}
	path = ofThisSystem(y.Folder, path)
	if filepath.IsAbs(path) || y.Folder == "" {
		return path
	}
	return filepath.Join(y.Folder, path)
}

// ofThisSystem makes a path with backslashes between its names one of a system on which these are letters, unless there is such a file: a plan
// may have been written on Windows. A backslash before a character of a pattern stays what it is in patterns.
func ofThisSystem(folder, path string) string {
	if filepath.Separator == '\\' || !strings.Contains(path, `\`) {
		return path
	}
	for _, rest := range strings.Split(path, `\`)[1:] {
		if rest == "" || strings.ContainsAny(rest[:1], `*?[`) {
			return path
		}
	}
	where := path
	if !filepath.IsAbs(path) {
		where = filepath.Join(folder, path)
	}
	file, _, _ := strings.Cut(where, "#")
	if _, err := os.Lstat(file); err == nil {
		return path
	}
	return strings.ReplaceAll(path, `\`, "/")
}

// FactsOf returns the facts of the plan to which all of some inputs belong.
func (y *Year) FactsOf(inputs []string) *yearplan.Facts {
	for i := range y.Plan.Facts {
		facts := &y.Plan.Facts[i]
		if !slices.ContainsFunc(inputs, func(name string) bool { return !y.Holds(facts, name) }) {
			return facts
		}
	}
	return nil
}

// Holds tells whether all files of an input are among those of some facts.
func (y *Year) Holds(facts *yearplan.Facts, name string) bool {
	if name == "-" {
		return false
	}
	if database.IsAddress(name) {
		return slices.Contains(facts.Files, name)
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
			pattern, err := filepath.Abs(y.Path(file))
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

// CheckKnown refuses days that a calendar does not know.
func (y *Year) CheckKnown(from, to civil.Day) error {
	unknown, first, last := y.Set.Unknown(from, to)
	if unknown == nil {
		return nil
	}
	return &fault.Fault{File: y.Plan.File, What: fmt.Sprintf("the calendar %s covers %s to %s, but the range is %s to %s", unknown.Name(), first, last, from, to),
		Remedy: "Declare more years, add a rule for the others, or limit the range with --from and --to"}
}

// FilesOf returns the files of facts: the normalised ones if the plan names them.
func (y *Year) FilesOf(facts *yearplan.Facts) []string {
	if facts.Out != "" {
		return []string{y.Path(facts.Out)}
	}
	var files []string
	for _, file := range facts.Files {
		files = append(files, y.Path(file))
	}
	return files
}

// BeyondVerified lists the regions of the plan's days off and sites for which a
// range goes beyond the years that are verified, with those years.
func (y *Year) BeyondVerified(from, to civil.Day) (beyond []string) {
	var looked []string
	look := func(region *regions.Region) {
		if region == nil || slices.Contains(looked, region.Code) {
			return
		}
		looked = append(looked, region.Code)
		if !region.IsVerified(from, to) {
			beyond = append(beyond, fmt.Sprintf("%s %d–%d", region.Code, region.VerifiedFrom, region.VerifiedTo))
		}
	}
	for _, source := range y.Plan.DaysOff {
		look(source.Region)
	}
	for _, site := range y.Plan.Sites {
		look(site.Region)
	}
	return beyond
}
