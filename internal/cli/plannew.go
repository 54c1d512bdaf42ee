package cli

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"roundyear/fault"
	"roundyear/internal/app"
	"roundyear/internal/output"
	"roundyear/internal/report"
	"roundyear/yearplan"
)

func (a *App) planNewCommand() *cobra.Command {
	var out, encoding string
	var force bool
	command := &cobra.Command{
		Use:   "new [INPUT…]",
		Short: "Write a first plan from a survey of your files",
		Long: `New surveys your files and writes a commented plan with their date columns. Files
with the same columns become one set of facts. Where there is a choice to make, a
comment in the plan says so.`,
		Example: `  roundyear plan new data/till-a.csv data/till-b.csv data/till-c.csv data/orders.csv data/budget.csv
  roundyear plan new data/orders.csv -o orders.yaml`,
		Args: arguments(0, -1, ""),
		RunE: func(command *cobra.Command, args []string) error {
			return a.newPlan(command.Context(), args, out, encoding, force)
		},
	}
	command.Flags().StringVarP(&out, "out", "o", "-", "`FILE` to write; - is standard output")
	command.Flags().BoolVar(&force, "force", false, "replace an existing plan")
	command.Flags().StringVar(&encoding, "encoding", "", encodingUsage)
	return command
}

func (a *App) newPlan(ctx context.Context, inputs []string, out, encoding string, force bool) error {
	if out != "-" && !force && !output.IsStream(out) {
		if _, err := os.Lstat(out); !errors.Is(err, fs.ErrNotExist) {
			return &fault.Fault{File: out, What: "already exists", Remedy: "Use --force to replace it"}
		}
	}
	a.files.Force = force
	survey := &surveyCommand{app: a, reading: readingFlags{pivot: 1970, encoding: encoding}}
	var files []*app.Surveyed
	for _, input := range inputs {
		found, err := survey.surveyInput(ctx, input)
		if err != nil {
			return err
		}
		files = append(files, found...)
	}
	all := app.GroupFacts(files)
	w := &planWriter{folder: filepath.Dir(out), encoding: encoding}
	w.write(all)
	if _, err := yearplan.Read(out, []byte(w.text.String())); err != nil {
		return fmt.Errorf("internal fault: the new plan is not valid: %w", err)
	}
	target, err := a.create(out)
	if err != nil {
		return err
	}
	if _, err := target.Write([]byte(w.text.String())); err != nil {
		return err
	}
	if err := a.files.Commit(); err != nil {
		return err
	}
	r := a.report()
	where := ""
	if out != "-" {
		where = " in " + out
	}
	var names []string
	for _, facts := range all {
		names = append(names, facts.Name)
	}
	if len(names) == 0 {
		names = []string{"no facts yet"}
	}
	r.Headline("Wrote a plan for %s%s", strings.Join(names, ", "), where)
	for _, choice := range w.choices {
		r.Line("To decide: %s", choice)
	}
	if out == "-" {
		return nil
	}
	check := []string{"roundyear", "plan", "check"}
	var plan []string
	if found, err := (&App{files: a.files}).findPlan(); err != nil || shown(found) != shown(out) {
		check, plan = append(check, argument(out)), flagWords("plan", out)
	}
	r.Next(check...)
	for _, words := range w.next {
		r.Next(append(words, plan...)...)
	}
	return nil
}

// planWriter writes a plan with its comments.
type planWriter struct {
	text   strings.Builder
	folder string
	// encoding is that of the files, if it was given.
	encoding string
	choices  []string
	// next are the commands that make what the plan names, by their words.
	next [][]string
}

func (w *planWriter) line(format string, args ...any) {
	fmt.Fprintf(&w.text, format+"\n", args...)
}

const planHead = `# The year plan: how the year of the business runs, and where its facts are.
# All commands in this folder use it. To check it: roundyear plan check
roundyear: 1
`

const planYear = `
language: [en]                              # of names; several are possible: [en-IE, nl]
weeks: {first_day: monday, min_days: 4}     # ISO 8601 weeks
weekend: [saturday, sunday]

calendars:
  fiscal:                                   # its columns and grains start with this name
    months: {starts: january}               # or ends: march, or starts: 6 april
    named_by: end                           # numbered by the year in which it ends; or start, or most
    year_label: "FY{year}"                  # {year} {yy} {start} {start_yy} {end} {end_yy}
  # A second calendar, of whole weeks:
  # retail:
  #   weeks: {ends_on: saturday, nearest_to: 31 january, split: 4-5-4, leap_week: last}
  #   named_by: start

# Days off: regions, your own rules, files. roundyear days-off lists them.
# days_off:
#   - region: IE
#   - {name: Stocktaking, when: {month: january, day: 5}, move: [{from: saturday, by: 2}]}
`

// write writes the plan of what was found.
func (w *planWriter) write(all []*app.FoundFacts) {
	w.text.WriteString(planHead)
	var joins []string
	for _, facts := range all {
		if dates := datesOf(facts); len(dates) > 0 {
			joins = append(joins, quotedName(facts.Name+"."+dates[0].name))
		}
	}
	if len(joins) == 0 {
		w.line("\n# range:")
	} else {
		w.line("\nrange:")
	}
	if len(joins) == 0 {
		w.choices = append(w.choices, "no dates were found: enter your first and last day under range, and remove the #")
		w.line("  # No dates were found. Enter your first and last day here, and remove the #.")
		w.line("  # from: 2024-01-01\n  # to: 2026-12-31")
	} else {
		w.line("  # From the earliest to the latest date of these, in whole years.")
		w.line("  cover: [%s]", strings.Join(joins, ", "))
		for _, facts := range all {
			w.choice(facts)
		}
	}
	w.text.WriteString(planYear)
	if len(all) > 0 {
		w.line("\nfacts:")
	}
	for _, facts := range all {
		w.facts(facts)
	}
	w.line("\nmodel:\n  dimension:\n    name: dates\n    columns: [core, fiscal, weeks, workdays]   # roundyear columns lists all\n    out: [dates.csv]")
	if len(joins) > 0 {
		w.line("  joins: [%s]             # for each set of facts, the main date comes first", strings.Join(joins, ", "))
	}
}

// choice says which other columns of facts could be meant.
func (w *planWriter) choice(facts *app.FoundFacts) {
	dates := datesOf(facts)
	if len(dates) < 2 {
		return
	}
	var others []string
	for _, date := range dates[1:] {
		others = append(others, date.name)
	}
	w.choices = append(w.choices, fmt.Sprintf("%s also has %s besides %s: cover and join those that reports use", facts.Name, strings.Join(others, ", "), dates[0].name))
	w.line("  # %s has more than one date. Add those that reports use here and to model.joins:", facts.Name)
	for _, date := range dates[1:] {
		w.line("  # - %s.%s     %s", facts.Name, date.name, date.comment)
	}
}

// foundDate is a date column of facts: how it is written in the plan, and a
// comment on it.
type foundDate struct {
	name, how, comment string
	// isChoice tells that somebody must look at it.
	isChoice bool
}

// datesOf words the date columns of facts. A pattern is given where all files
// have one and the same.
func datesOf(facts *app.FoundFacts) []foundDate {
	var dates []foundDate
	for _, found := range facts.Dates() {
		if number := found.Number; number != nil {
			// Numbers that the survey takes for moments are read as it proposes.
			dates = append(dates, foundDate{name: found.Name, how: "{pattern: " + number.Pattern + "}", isChoice: true,
				comment: fmt.Sprintf("numbers, read as %s: %s is %s", number.Pattern, number.Value, number.Day)})
			continue
		}
		date := foundDate{name: found.Name, isChoice: found.IsOpen}
		var settings []string
		if parts := found.Parts; parts != nil {
			var columns []string
			for _, column := range strings.Split(parts.String(), ",") {
				columns = append(columns, quotedName(column))
			}
			settings = []string{"parts: [" + strings.Join(columns, ", ") + "]"}
		}
		switch {
		case found.IsSwapped:
			date.comment = fmt.Sprintf("day and month seem to be swapped in the date cells: add swapped: {%s: true} to these facts, or false", quotedName(found.Name))
		case found.IsOpen:
			date.comment = "day and month cannot be told apart: add order: day or order: month"
		case len(found.Patterns) == 1 && len(settings) == 0:
			settings = append(settings, "pattern: "+strconv.Quote(found.Patterns[0]))
		}
		if !found.IsOpen && found.Count > 0 {
			date.comment = fmt.Sprintf("%s from %s to %s", report.Plural(found.Count, "date"), found.First, found.Last)
			if len(found.Patterns) > 1 {
				date.comment += fmt.Sprintf(", in %d formats, which are recognised", len(found.Patterns))
			}
		}
		switch found.Grain {
		case "month, by its first day":
			settings = append(settings, "grain: month")
		case "week", "month", "quarter", "half", "year":
			settings = append(settings, "grain: "+found.Grain)
		}
		date.how = "{" + strings.Join(settings, ", ") + "}"
		dates = append(dates, date)
	}
	return dates
}

func (w *planWriter) facts(facts *app.FoundFacts) {
	w.line("  %s:", facts.Name)
	var files, inputs []string
	for _, file := range facts.Files {
		files = append(files, quotedName(fromFolder(w.folder, file.Source.Name())))
		inputs = append(inputs, argument(file.Source.Name()))
	}
	w.line("    files: [%s]", strings.Join(files, ", "))
	if w.encoding != "" {
		w.line("    encoding: %s", quotedName(w.encoding))
	}
	w.values(facts)
	if unread := facts.Unread(); unread > 0 {
		w.line("    out: clean/%s.csv     # normalise writes here, because %s cannot be read; other commands use this file", facts.Name, report.Plural(unread, "date"))
		words := append([]string{"roundyear", "normalise"}, inputs...)
		w.next = append(w.next, append(words, "-o", filepath.Join(w.folder, "clean", facts.Name+".csv")))
	} else {
		w.line("    # out: clean/%s.csv   # where normalise writes; other commands then use this file", facts.Name)
	}
	dates := datesOf(facts)
	if len(dates) == 0 {
		w.line("    # no date column was found; enter its name and pattern\n    dates: {}")
		return
	}
	w.line("    dates:")
	for _, date := range dates {
		w.line("      %s: %s     # %s", quotedName(date.name), date.how, date.comment)
		if date.isChoice {
			w.choices = append(w.choices, fmt.Sprintf("%s.%s: %s", facts.Name, date.name, date.comment))
		}
	}
}

// values writes how the values of facts are read: their numbers, and texts that stand for none.
func (w *planWriter) values(facts *app.FoundFacts) {
	marks, open := facts.Decimals()
	var settings, shown []string
	for _, found := range marks {
		settings = append(settings, quotedName(found.Column)+": "+found.Format.Mark.String())
		shown = append(shown, found.First.Value)
	}
	if len(settings) > 0 {
		w.line("    decimal: {%s}     # such as %s", strings.Join(settings, ", "), strings.Join(shown, ", "))
	}
	for _, found := range open {
		comment := fmt.Sprintf("%s %v", found.Column, found.Problem)
		w.line("    # %s", comment)
		w.choices = append(w.choices, fmt.Sprintf("%s: %s", facts.Name, comment))
	}
	texts, columns := facts.BlankTexts()
	if len(texts) == 0 {
		return
	}
	for i, text := range texts {
		texts[i] = strconv.Quote(text)
	}
	w.line("    blank_as: [%s]     # among the values of %s", strings.Join(texts, ", "), strings.Join(columns, ", "))
}

var plainName = regexp.MustCompile(`^[A-Za-z_][A-Za-z0-9_./-]*$`)

// quotedName is a text as YAML takes it in any place.
func quotedName(name string) string {
	if plainName.MatchString(name) && !slices.Contains([]string{"true", "false", "null", "yes", "no", "on", "off", "y", "n"}, strings.ToLower(name)) {
		return name
	}
	return strconv.Quote(name)
}
