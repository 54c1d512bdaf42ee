package cli

import (
	"context"
	"errors"
	"fmt"
	"path/filepath"
	"slices"

	"github.com/spf13/cobra"

	"roundyear/datetext"
	"roundyear/internal/app"
	"roundyear/internal/input"
	"roundyear/internal/reading"
	"roundyear/internal/report"
	"roundyear/internal/table"
	"roundyear/internal/terminal"
	"roundyear/rows"
)

type surveyCommand struct {
	app     *App
	command *cobra.Command
	// several tells that more than one file is looked at.
	several bool
	// proposed are the commands to run next for each file, and outs what they write.
	proposed map[*app.Surveyed][]next
	outs     map[string]bool
	json     bool
	asOf     string
	reading  readingFlags
}

func (a *App) surveyCommand() *cobra.Command {
	s := &surveyCommand{app: a}
	command := &cobra.Command{
		Use:   "survey INPUT…",
		Short: "Find the date columns in files: their format, range, gaps and faults",
		Long: `Survey reads files and finds the columns that contain dates, whatever the columns
are called. For each it reports the date format, the first and last date, blank
and unreadable values, gaps, times of day, placeholder and implausible dates,
dates in the future, and whether the order of day and month is certain. It also
finds dates split over three columns, start and end dates, months, quarters and
weeks, and numbers that may be dates. Each file is surveyed on its own.

It writes nothing. It ends with the commands to run next, and exits with 1 if it
found faults (lines that start with !).`,
		Example: `  roundyear survey data/till-a.csv
  roundyear survey data/*.csv
  roundyear survey data/orders.csv --json`,
		Args: arguments(1, -1, "the input file"),
		RunE: func(command *cobra.Command, args []string) error { return s.run(command.Context(), args) },
	}
	s.command = command
	command.Flags().StringVar(&s.asOf, "as-of", "", "`DATE` after which dates count as future (default: today)")
	command.Flags().BoolVar(&s.json, "json", false, "write the report to standard output as JSON")
	s.reading.add(command)
	return command
}

func (s *surveyCommand) run(ctx context.Context, inputs []string) error {
	var files []*app.Surveyed
	for _, name := range inputs {
		found, err := s.surveyInput(ctx, name)
		if err != nil {
			return err
		}
		files = append(files, found...)
	}
	s.propose(files)
	if s.json {
		s.app.attention = slices.ContainsFunc(files, (*app.Surveyed).IsFaulty)
		return s.writeJSON(files)
	}
	for i, file := range files {
		if i > 0 {
			s.app.report().Line("")
		}
		s.print(file)
	}
	if early := app.EndsEarly(files); len(early) > 0 {
		s.app.report().Line("")
		for _, one := range early {
			s.app.report().Line("%s ends on %s, %s before the others; if nothing is loaded after that, add %s to fill and totals", one.File, one.Last,
				report.Plural(int(one.Others-one.Last), "day"), terminal.Command("--loaded-through", one.File+"="+one.Last.String()))
		}
	}
	return nil
}

func (s *surveyCommand) surveyInput(ctx context.Context, name string) ([]*app.Surveyed, error) {
	y, err := s.app.yearDespitePlan(s.command, nil)
	if err != nil {
		return nil, err
	}
	if named := y.Named(ctx, []string{name}, false); named.Facts != nil {
		var files []*app.Surveyed
		for _, input := range named.Inputs {
			found, err := s.surveyInput(ctx, input)
			if err != nil {
				return nil, err
			}
			files = append(files, found...)
		}
		return files, nil
	}
	archive, member := input.SplitMember(name)
	paths, err := input.Paths(archive)
	if err != nil {
		return nil, err
	}
	if member != "" {
		paths = []string{name}
	}
	own, err := s.reading.read()
	if err != nil {
		return nil, err
	}
	reading, err := own.By(y.FactsOf([]string{name}), "")
	if err != nil {
		return nil, err
	}
	// Three columns that are a date are found by the survey itself.
	if reading, _, err = s.app.described([]string{name}, reading); err != nil {
		return nil, err
	}
	reading.Asked.Parts, reading.Asked.Labels = own.Asked.Parts, y.Labels
	var files []*app.Surveyed
	for _, path := range paths {
		source, done, err := s.app.open(ctx, []string{path}, 1, reading.Form)
		if err != nil {
			return nil, err
		}
		source.KeepsRagged = true
		file, err := s.surveyFile(ctx, source, reading.Asked)
		done()
		if err != nil {
			return nil, err
		}
		files = append(files, file)
	}
	return files, nil
}

// surveyFile surveys one file.
func (s *surveyCommand) surveyFile(ctx context.Context, source *rows.Source, asked reading.Asked) (*app.Surveyed, error) {
	today, err := asOf(s.asOf)
	if err != nil {
		return nil, err
	}
	return (&app.Survey{Source: source, Asked: asked, AsOf: today}).Run(ctx)
}

// next is a command to run next, and what there is to say of it. A build has a cover instead of words: the facts whose days it covers.
type next struct {
	words []string
	note  string
	cover string
}

// propose finds the commands to run next for all files. No two of them write the same file: each has an output of its own, and one build
// behind the last of them covers them all.
func (s *surveyCommand) propose(files []*app.Surveyed) {
	s.proposed, s.outs = map[*app.Surveyed][]next{}, map[string]bool{}
	s.several = len(files) > 1
	build := []string{"roundyear", "build"}
	var last *app.Surveyed
	for _, file := range files {
		for _, one := range s.nextOf(file) {
			if one.cover == "" {
				s.proposed[file] = append(s.proposed[file], one)
				continue
			}
			build, last = append(build, flagWords("cover", one.cover)...), file
		}
	}
	if last != nil {
		build = append(build, carried(s.command, "plan", "no-plan")...)
		s.proposed[last] = append(s.proposed[last], next{words: append(build, "-o", s.app.freshName("dates.csv"))})
	}
}

// out is the file that a surveyed file is to be normalised into: no other one is.
func (s *surveyCommand) out(f *app.Surveyed) string {
	part := f.Source.Parts[0]
	ending := table.EndingOf(part)
	if !s.several {
		return s.app.freshName("clean" + ending)
	}
	stem := table.StemOf(part.Name)
	out := filepath.Join("clean", stem+ending)
	for n := 2; s.outs[out]; n++ {
		out = filepath.Join("clean", fmt.Sprintf("%s-%d%s", stem, n, ending))
	}
	s.outs[out] = true
	return out
}

// nextOf returns the commands to run next on one file. There are none for standard input, which
// is gone.
func (s *surveyCommand) nextOf(f *app.Surveyed) []next {
	if path, _ := table.Path(f.Source.Parts[0]); path == "" {
		return nil // a pipe, which is gone
	}
	words := []string{"roundyear", "normalise", argument(f.Source.Parts[0].Name)}
	first, note := "", ""
	// A period beside a day is mostly that of the day.
	hasDays := len(f.Parts)+len(f.Numbers) > 0 || slices.ContainsFunc(f.Columns, func(c *app.SurveyedColumn) bool {
		return (c.Problem != nil || c.Summary != nil) && !c.IsPeriod()
	})
	for _, column := range f.Columns {
		isParts := slices.ContainsFunc(f.Parts, func(parts reading.Parts) bool { return parts.Name == column.Name })
		if isParts || column.Problem == nil && (column.Summary == nil || hasDays && column.IsPeriod()) {
			continue
		}
		words = append(words, flagWords("date", column.Name)...)
		if first == "" {
			first = column.Name
		}
		if column.ExplainedBy != "" {
			words = append(words, flagWords("order-per", column.ExplainedBy)...)
		} else if errors.As(column.Problem, new(*reading.SwappedCells)) {
			words = append(words, flagWords("swapped", column.Name)...)
			note = fmt.Sprintf("or %s, whichever is right", terminal.Command("--swapped", column.Name+"=no"))
		} else if column.Problem != nil && s.reading.order == "" && note == "" {
			order, other := "day", "month"
			reason := "whichever is right"
			if settled := f.SettledOrder(); settled != nil {
				if settled.Dates.Files[0].Decision.Order == datetext.MonthFirst {
					order, other = other, order
				}
				reason = "if " + column.Name + " differs from " + settled.Name
			}
			words, note = append(words, "--order", order), "or --order "+other+", "+reason
		}
	}
	for _, number := range f.Numbers {
		words = append(append(words, flagWords("date", number.Column)...), flagWords("pattern", number.Column+"="+number.Pattern)...)
		if first == "" {
			first = number.Column
		}
	}
	for _, parts := range f.Parts {
		words = append(words, flagWords("parts", parts.Name+"="+parts.String())...)
		if first == "" {
			first = parts.Name
		}
	}
	if first == "" {
		return nil
	}
	if done, isDone := s.nextOfNormalised(f, first); isDone {
		return done
	}
	words = append(words, carried(s.command, "plan", "no-plan")...)
	words = append(words, carried(s.command, readingFlagNames...)...)
	words = append(words, carried(s.command, "language")...)
	out := s.out(f)
	normalise := next{words: append(words, "-o", out), note: note}
	if slices.ContainsFunc(f.Columns, func(c *app.SurveyedColumn) bool { return c.Name == first && isBeforeBuilt(c) }) {
		return []next{normalise}
	}
	return []next{normalise, {cover: out + ":" + first + "_date"}}
}

// nextOfNormalised returns the command to run next on a file that has a column which normalise would add:
// it was normalised before, or is a date table.
func (s *surveyCommand) nextOfNormalised(f *app.Surveyed, column string) (_ []next, isDone bool) {
	names, file := f.Source.Names(), f.Source.Parts[0].Name
	switch {
	case slices.Contains(names, column+"_date"):
		return []next{{cover: file + ":" + column + "_date"}}, true
	case slices.Contains(names, "date") && slices.Contains(names, "date_key"):
		words := append([]string{"roundyear", "check", argument(file)}, carried(s.command, "plan", "no-plan")...)
		return []next{{words: words}}, true
	case slices.Contains(names, column+"_key"):
		return nil, true
	}
	return nil, false
}

// isBeforeBuilt tells whether the column has a day that no date table can have.
func isBeforeBuilt(c *app.SurveyedColumn) bool {
	if c.Summary == nil {
		return false
	}
	return c.Summary.First < app.FirstBuilt || len(c.Summary.Suspicious) > 0 && c.Summary.Suspicious[0].Day < app.FirstBuilt
}
