package cli

import (
	"context"
	"fmt"
	"path/filepath"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"roundyear/calendar"
	"roundyear/civil"
	"roundyear/datetext"
	"roundyear/internal/input"
	"roundyear/internal/reading"
	"roundyear/internal/report"
	"roundyear/internal/table"
	"roundyear/internal/terminal"
	"roundyear/rows"
	"roundyear/survey"
)

type surveyCommand struct {
	app     *App
	command *cobra.Command
	// several tells that more than one file is looked at.
	several bool
	json    bool
	asOf    string
	reading readingFlags
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

// surveyedFile is what was found in one file.
type surveyedFile struct {
	source  *rows.Source
	rows    int
	ragged  reading.Ragged
	columns []*surveyedColumn
	// parts are dates in three columns, numbers columns that may hold moments
	// as numbers, pairs columns of which one is never after the other.
	parts   []reading.Parts
	numbers []numberHint
	// fiscal are columns of periods of fiscal years, each with a value.
	fiscal [][2]string
	pairs  [][2]string
	// crossed are pairs that have some rows in which the end is before the start.
	crossed []crossedPair
}

// crossedPair is two columns of which the first is after the second in a few of the
// rows that have both.
type crossedPair struct {
	start, end string
	rows, both int
}

// surveyedColumn is what was found in one date column.
type surveyedColumn struct {
	name     string
	dates    *reading.Dates
	fault    error
	evidence *datetext.Column
	summary  *survey.Summary
	// after counts the rows after the as-of date.
	after int
	asOf  civil.Day
	// explainedBy is a column of whose values each writes dates in one order.
	explainedBy string
}

// numberHint is a column of numbers that may stand for moments.
type numberHint struct{ column, pattern, value, day string }

func (s *surveyCommand) run(ctx context.Context, inputs []string) error {
	var files []*surveyedFile
	for _, name := range inputs {
		found, err := s.surveyInput(ctx, name)
		if err != nil {
			return err
		}
		files = append(files, found...)
	}
	if s.json {
		s.app.attention = slices.ContainsFunc(files, (*surveyedFile).isFaulty)
		return s.writeJSON(files)
	}
	s.several = len(files) > 1
	for i, file := range files {
		if i > 0 {
			s.app.report().Line("")
		}
		s.print(file)
	}
	return nil
}

func (s *surveyCommand) surveyInput(ctx context.Context, name string) ([]*surveyedFile, error) {
	paths, err := input.Paths(name)
	if err != nil {
		return nil, err
	}
	y, err := s.app.yearDespitePlan(s.command, nil)
	if err != nil {
		return nil, err
	}
	flags := s.reading.by(y.factsOf([]string{name}), "")
	// Three columns that are a date are found by the survey itself.
	flags.parts = s.reading.parts
	var files []*surveyedFile
	for _, path := range paths {
		source, done, err := s.app.open(ctx, []string{path}, 1, flags.form())
		if err != nil {
			return nil, err
		}
		source.KeepsRagged = true
		file, err := s.surveyFile(ctx, source, flags)
		done()
		if err != nil {
			return nil, err
		}
		files = append(files, file)
	}
	return files, nil
}

// surveyFile surveys one file.
func (s *surveyCommand) surveyFile(ctx context.Context, source *rows.Source, flags readingFlags) (*surveyedFile, error) {
	asked, err := flags.asked()
	if err != nil {
		return nil, err
	}
	today, err := asOf(s.asOf)
	if err != nil {
		return nil, err
	}
	names, err := reading.DateColumns(ctx, source)
	if err != nil {
		return nil, err
	}
	for name := range asked.Patterns {
		place, err := source.Find(name)
		if err != nil {
			return nil, err
		}
		if column := source.Names()[place]; !slices.Contains(names, column) {
			names = append(names, column)
		}
	}
	file := &surveyedFile{source: source, parts: asked.Parts}
	asked.Parts = nil
	if err := file.hints(ctx, names); err != nil {
		return nil, err
	}
	for _, parts := range file.parts {
		asked.Parts = append(asked.Parts, parts)
		names = append(names, parts.Name)
	}
	evidence, err := reading.NewEvidence(source, names[:len(names)-len(file.parts)], asked)
	if err != nil {
		return nil, err
	}
	var found *inspection
	// The first rows tell how to read; what all rows say must confirm it.
	guess, guessErr := reading.Guess(ctx, source, names[:len(names)-len(file.parts)], asked)
	if guessErr == nil {
		if found, err = inspect(ctx, source, guess, evidence); err != nil {
			return nil, err
		}
	} else if err := evidence.Gather(ctx, source); err != nil {
		return nil, err
	}
	decided, faults := evidence.DecideEach()
	columns := evidence.Columns(source.Parts[0])
	var known []*reading.Dates
	for i, dates := range decided {
		column := &surveyedColumn{name: names[i], dates: dates, fault: faults[i], evidence: columns[i]}
		file.columns = append(file.columns, column)
		if dayFirst, monthFirst, _ := column.evidence.Orders(); faults[i] != nil && dayFirst > 0 && monthFirst > 0 {
			if column.explainedBy, err = explain(ctx, source, names[i], asked); err != nil {
				return nil, err
			}
		}
		if dates != nil {
			known = append(known, dates)
		}
	}
	if guessErr != nil || len(known) < len(decided) || !reading.SameReading(guess, known) {
		if found, err = inspect(ctx, source, known, nil); err != nil {
			return nil, err
		}
	}
	file.rows, file.ragged = found.rows, evidence.Ragged()
	at := 0
	for _, column := range file.columns {
		if column.dates != nil {
			if column.summary, _ = found.profiles[at].Summary(); column.summary != nil {
				column.asOf, column.after = today, found.profiles[at].After(today, column.summary.Last)
			}
			at++
		}
	}
	file.pairs, file.crossed = found.pairs(known)
	return file, nil
}

// maxSystems is how many values a column may have that tells systems apart.
const maxSystems = 30

// explain looks for a column of whose values each writes the dates of another
// column in one order: files glued together from several systems have one.
func explain(ctx context.Context, source *rows.Source, name string, asked reading.Asked) (string, error) {
	values := make([]map[string]bool, len(source.Names()))
	for i := range values {
		values[i] = map[string]bool{}
	}
	err := source.Sample(ctx, 5000, func(row *rows.Row) {
		for i := range values {
			if len(values[i]) <= maxSystems {
				values[i][string(row.Field(i))] = true
			}
		}
	})
	if err != nil {
		return "", err
	}
	for i, column := range source.Names() {
		if column == name || len(values[i]) < 2 || len(values[i]) > maxSystems {
			continue
		}
		asked.OrderPer, asked.Parts = column, nil
		if _, err := reading.Decide(ctx, source, []string{name}, asked); err == nil {
			return column, nil
		}
	}
	return "", nil
}

// inspection is what comes of reading all rows of a file.
type inspection struct {
	rows     int
	profiles []*survey.Profile
	// both counts the rows with dates in two columns, order those in which the
	// first is not after the second, and same those in which they are one day.
	both, order, same [maxPaired][maxPaired]int
}

// maxPaired is how many date columns are held against each other.
const maxPaired = 6

func newInspection(columns int) *inspection {
	l := &inspection{}
	for range columns {
		l.profiles = append(l.profiles, survey.New())
	}
	return l
}

// inspect reads the dates of all rows, and gathers evidence on the way if asked.
func inspect(ctx context.Context, source *rows.Source, dates []*reading.Dates, evidence *reading.Evidence) (*inspection, error) {
	var inspections []*inspection
	work := func() func(*rows.Batch) (*reading.Part, error) {
		own := newInspection(len(dates))
		inspections = append(inspections, own)
		var readers []*reading.Reader
		for _, d := range dates {
			readers = append(readers, d.Reader())
		}
		moments, states := make([]datetext.Moment, len(dates)), make([]reading.State, len(dates))
		return func(batch *rows.Batch) (*reading.Part, error) {
			for _, reader := range readers {
				reader.Enter(batch.Part)
			}
			var part *reading.Part
			if evidence != nil {
				part = evidence.Part(batch.Part)
			}
			var row rows.Row
			for batch.Next(&row) {
				if row.Ragged() > 0 {
					own.rows++
					if part != nil {
						part.Observe(&row)
					}
					continue
				}
				if part != nil {
					part.ObserveAndRead(&row, readers, moments, states)
				} else {
					for i, reader := range readers {
						moments[i], states[i] = reader.Read(&row)
					}
				}
				own.add(moments, states)
			}
			return part, batch.Err()
		}
	}
	err := rows.Process(ctx, source, work, func(part *reading.Part) error {
		if part != nil {
			evidence.Join(part)
		}
		return nil
	})
	if err != nil {
		return nil, err
	}
	for _, other := range inspections[1:] {
		inspections[0].join(other)
	}
	return inspections[0], nil
}

func (l *inspection) add(moments []datetext.Moment, states []reading.State) {
	l.rows++
	for i, state := range states {
		if state != reading.Read {
			continue
		}
		l.profiles[i].Add(moments[i])
		for j := 0; j < i && i < maxPaired; j++ {
			if states[j] == reading.Read {
				l.both[j][i]++
				if moments[j].Day <= moments[i].Day {
					l.order[j][i]++
				}
				if moments[j].Day == moments[i].Day {
					l.same[j][i]++
				}
			}
		}
	}
}

func (l *inspection) join(other *inspection) {
	l.rows += other.rows
	for i := range l.profiles {
		l.profiles[i].Join(other.profiles[i])
	}
	for i := range maxPaired {
		for j := range maxPaired {
			l.both[i][j] += other.both[i][j]
			l.order[i][j] += other.order[i][j]
			l.same[i][j] += other.same[i][j]
		}
	}
}

// pairs returns the columns of which the first is never after the second, and
// not always the same: the start and the end of something. Crossed are those of which
// a few rows say otherwise.
func (l *inspection) pairs(dates []*reading.Dates) (pairs [][2]string, crossed []crossedPair) {
	for i := range min(len(dates), maxPaired) {
		for j := i + 1; j < min(len(dates), maxPaired); j++ {
			both, order, same := l.both[i][j], l.order[i][j], l.same[i][j]
			switch {
			case both == 0 || same == both:
			case order == both:
				pairs = append(pairs, [2]string{dates[i].Name, dates[j].Name})
			case order == same:
				pairs = append(pairs, [2]string{dates[j].Name, dates[i].Name})
			case isFew(both-order, both):
				crossed = append(crossed, crossedPair{dates[i].Name, dates[j].Name, both - order, both})
			case isFew(order-same, both):
				crossed = append(crossed, crossedPair{dates[j].Name, dates[i].Name, order - same, both})
			}
		}
	}
	return pairs, crossed
}

// isFew tells whether rows are so few of all that they are mistakes.
func isFew(rows, all int) bool { return all >= 10 && rows*20 <= all }

// next is a command to run next, and what there is to say of it.
type next struct {
	words []string
	note  string
}

// next returns the commands to run next. There are none for standard input, which
// is gone.
func (s *surveyCommand) next(f *surveyedFile) []next {
	if path, _ := table.Path(f.source.Parts[0]); path == "" {
		return nil // a pipe, which is gone
	}
	words := []string{"roundyear", "normalise", argument(f.source.Parts[0].Name)}
	first, note := "", ""
	// A period beside a day is mostly that of the day.
	hasDays := len(f.parts)+len(f.numbers) > 0 || slices.ContainsFunc(f.columns, func(c *surveyedColumn) bool {
		return (c.fault != nil || c.summary != nil) && !c.isPeriod()
	})
	for _, column := range f.columns {
		if column.isParts() || column.fault == nil && (column.summary == nil || hasDays && column.isPeriod()) {
			continue
		}
		words = append(words, flagWords("date", column.name)...)
		if first == "" {
			first = column.name
		}
		if column.explainedBy != "" {
			words = append(words, flagWords("order-per", column.explainedBy)...)
		} else if column.fault != nil && s.reading.order == "" && note == "" {
			order, other := "day", "month"
			reason := "whichever is right"
			if settled := f.settledOrder(); settled != nil {
				if settled.dates.Files[0].Decision.Order == datetext.MonthFirst {
					order, other = other, order
				}
				reason = "if " + column.name + " differs from " + settled.name
			}
			words, note = append(words, "--order", order), "or --order "+other+", "+reason
		}
	}
	for _, number := range f.numbers {
		words = append(append(words, flagWords("date", number.column)...), flagWords("pattern", number.column+"="+number.pattern)...)
		if first == "" {
			first = number.column
		}
	}
	for _, parts := range f.parts {
		words = append(words, flagWords("parts", fmt.Sprintf("%s=%s,%s,%s", parts.Name, parts.Year, parts.Month, parts.Day))...)
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
	ending := table.EndingOf(f.source.Parts[0])
	out := s.app.freshName("clean" + ending)
	if s.several {
		out = filepath.Join("clean", table.StemOf(f.source.Parts[0].Name)+ending)
	}
	if slices.ContainsFunc(f.columns, func(c *surveyedColumn) bool { return c.name == first && c.beforeBuilt() }) {
		return []next{{append(words, "-o", out), note}}
	}
	build := append([]string{"roundyear", "build"}, flagWords("cover", out+":"+first+"_date")...)
	build = append(build, carried(s.command, "plan", "no-plan")...)
	return []next{{append(words, "-o", out), note}, {append(build, "-o", s.app.freshName("dates.csv")), ""}}
}

// nextOfNormalised returns the command to run next on a file that has a column which normalise would add:
// it was normalised before, or is a date table.
func (s *surveyCommand) nextOfNormalised(f *surveyedFile, column string) (_ []next, isDone bool) {
	names, file := f.source.Names(), f.source.Parts[0].Name
	switch {
	case slices.Contains(names, column+"_date"):
		words := append([]string{"roundyear", "build"}, flagWords("cover", file+":"+column+"_date")...)
		words = append(words, carried(s.command, "plan", "no-plan")...)
		return []next{{append(words, "-o", s.app.freshName("dates.csv")), ""}}, true
	case slices.Contains(names, "date") && slices.Contains(names, "date_key"):
		words := append([]string{"roundyear", "check", argument(file)}, carried(s.command, "plan", "no-plan")...)
		return []next{{words, ""}}, true
	case slices.Contains(names, column+"_key"):
		return nil, true
	}
	return nil, false
}

// print gives the report on a file.
func (s *surveyCommand) print(f *surveyedFile) {
	r := s.app.report()
	name := f.source.Parts[0].Name
	if len(f.columns) == 0 {
		r.Headline("%s: %s, no date columns", name, report.Plural(f.rows, "row"))
	} else {
		r.Headline("%s: %s, %s", name, report.Plural(f.rows, "row"), report.Plural(len(f.columns), "date column"))
		var rows [][]string
		for _, column := range f.columns {
			rows = append(rows, column.row())
		}
		r.Table([]string{"column", "format", "from", "to", "dates", "blank", "unreadable", "with time", "days", "rows per day", "weekend"},
			[]bool{false, false, false, false, true, true, true, true, true, true, true}, rows)
	}
	for _, row := range f.ragged.First {
		r.Attention("line %d: %s", row.Line, rows.RaggedReason(row.Fields, len(f.source.Columns())))
	}
	if more := f.ragged.Count - len(f.ragged.First); more > 0 {
		r.Attention("%s with more or fewer fields than the header", report.Plural(more, "more row"))
	}
	for _, column := range f.columns {
		column.print(r)
	}
	for _, pair := range f.pairs {
		r.Line("%s is never after %s: start and end", pair[0], pair[1])
	}
	for _, pair := range f.crossed {
		r.Attention("%s is after %s in %s of %s", pair.start, pair.end, report.Count(pair.rows), report.Plural(pair.both, "row"))
	}
	for _, parts := range f.parts {
		r.Line("%s, %s and %s form a date together", parts.Year, parts.Month, parts.Day)
	}
	for _, hint := range f.numbers {
		r.Line("%s contains numbers that may be dates: %s would be %s; if so, add --pattern %s=%s", hint.column, hint.value, hint.day, terminal.Word(hint.column), hint.pattern)
	}
	for _, fiscal := range f.fiscal {
		r.Line("%s contains fiscal periods such as %s, which cannot be read as dates", fiscal[0], fiscal[1])
	}
	for _, next := range s.next(f) {
		r.Next(next.words...)
		if next.note != "" {
			r.Line("      %s", next.note)
		}
	}
}

// settledOrder returns a column in which the order of day and month is settled; nil if
// there is none.
func (f *surveyedFile) settledOrder() *surveyedColumn {
	for _, column := range f.columns {
		if column.fault != nil || column.isParts() || column.dates.Files[0].Decision == nil {
			continue
		}
		if decision := column.dates.Files[0].Decision; decision.Settled > 0 && (decision.Order == datetext.DayFirst || decision.Order == datetext.MonthFirst) {
			return column
		}
	}
	return nil
}

// isFaulty tells whether the report on the file has an attention line.
func (f *surveyedFile) isFaulty() bool {
	return len(f.crossed) > 0 || f.ragged.Count > 0 || slices.ContainsFunc(f.columns, func(c *surveyedColumn) bool {
		return c.fault != nil || len(c.dates.Files[0].Faults) > 0 ||
			c.summary != nil && len(c.summary.Sentinels)+len(c.summary.Suspicious) > 0
	})
}

// isParts tells whether the date stands in three columns.
func (c *surveyedColumn) isParts() bool { return c.dates != nil && len(c.dates.Columns) == 3 }

// grain returns what the dates of the column stand for: day, month and so on.
func (c *surveyedColumn) grain() string {
	switch {
	case c.fault != nil, !c.isParts() && c.dates.Files[0].Decision == nil:
		return ""
	case c.isParts() || c.dates.Files[0].Decision.Patterns[0].Grain == "day":
		if c.summary == nil {
			return "day"
		}
		switch step := c.summary.Step; {
		case step.Unit == calendar.Day:
			return "day"
		case step.Unit == calendar.Week:
			return "week, by its " + step.Weekday.String()
		case step.AtEnd:
			return step.Unit.String() + ", by its last day"
		default:
			return step.Unit.String() + ", by its first day"
		}
	}
	return c.dates.Files[0].Decision.Patterns[0].Grain
}

// beforeBuilt tells whether the column has a day that no date table can have.
func (c *surveyedColumn) beforeBuilt() bool {
	if c.summary == nil {
		return false
	}
	return c.summary.First < firstBuilt || len(c.summary.Suspicious) > 0 && c.summary.Suspicious[0].Day < firstBuilt
}

// isPeriod tells whether the values of the column are periods and not days.
func (c *surveyedColumn) isPeriod() bool {
	return c.fault == nil && !c.isParts() && c.dates.Files[0].Decision != nil && c.dates.Files[0].Decision.Patterns[0].Grain != "day"
}

// row is the column's line in the table.
func (c *surveyedColumn) row() []string {
	if c.fault != nil {
		dayFirst, monthFirst, open := c.evidence.Orders()
		return []string{c.name, fmt.Sprintf("uncertain: %s day first, %s month first, %s either", report.Count(dayFirst), report.Count(monthFirst), report.Count(open)), "", "", "", "", "", "", "", "", ""}
	}
	found, s := c.dates.Files[0], c.summary
	form := "year, month and day columns"
	if found.Decision != nil {
		form = formOf(found.Decision)
	} else if !c.isParts() {
		form = "all values are blank"
	}
	line := []string{c.name, form, "", "", report.Count(found.Values - found.Unread), report.Count(found.Blanks), report.Count(found.Unread), "", "", "", ""}
	if s != nil {
		line[2], line[3] = s.First.String(), s.Last.String()
		line[7], line[8], line[9] = report.Count(s.Timed), report.Count(s.Days), report.Count(s.Median)
		line[10] = fmt.Sprintf("%d%%", s.Weekend*100/s.Rows)
	}
	return line
}

// print says what is to know of the column beside its line.
func (c *surveyedColumn) print(r *report.Report) {
	if c.fault != nil {
		r.Attention("%s", c.fault)
		if c.explainedBy != "" {
			r.Line("%s: the order depends on %s: it is the same in all rows with the same %s", c.name, c.explainedBy, c.explainedBy)
		}
		return
	}
	found, s := c.dates.Files[0], c.summary
	if found.Decision != nil && found.Decision.Settled > 0 {
		r.Line("%s: %s first, because of %s", c.name, found.Decision.Order, whyOf(found.Decision))
	}
	for _, fault := range found.Faults {
		reader := c.dates.Reader()
		reader.Enter(found.File)
		r.Attention("%s, line %d: %q %s", c.name, fault.Line, fault.Value, reader.WhyText(fault.Value))
	}
	if s == nil {
		return
	}
	for _, day := range s.Sentinels {
		r.Attention("%s: %s on %s, a placeholder date", c.name, report.Plural(day.Count, "row"), day.Day)
	}
	for _, day := range s.Suspicious {
		r.Attention("%s: %s on %s, far outside the other dates", c.name, report.Plural(day.Count, "row"), day.Day)
	}
	if s.NotMatching > 0 {
		r.Line("%s: %s have a time of day and would not match the date table; normalise removes it", c.name, report.Plural(s.NotMatching, "row"))
	}
	if s.Zoned > 0 {
		r.Line("%s: %s have a UTC offset; the date is used as written unless you give --to-zone", c.name, report.Plural(s.Zoned, "row"))
	}
	switch unit, by, written := strings.Cut(c.grain(), ", by its "); {
	case written:
		each := "the " + by + " of a " + unit
		if unit == "week" {
			each = "a " + by
		}
		r.Line("%s: %sly data: every date is %s", c.name, unit, each)
		printMissing(r, c.name, unit, map[string][]survey.Run{"week": s.MissingWeeks, "month": s.MissingMonths}[unit])
	case unit == "day":
		printMissing(r, c.name, "day", s.MissingDays)
		printMissing(r, c.name, "week", s.MissingWeeks)
		printMissing(r, c.name, "month", s.MissingMonths)
	case unit == "week":
		printMissing(r, c.name, "week", s.MissingWeeks)
	case unit == "month":
		printMissing(r, c.name, "month", s.MissingMonths)
	}
	if c.after > 0 {
		r.Line("%s: %s after %s, the as-of date; the latest is %s", c.name, report.Plural(c.after, "row"), c.asOf, s.Last)
	}
	for _, line := range coverage(s) {
		r.Line("  %s", line)
	}
}

// printMissing says how many periods have no rows, and which runs are longest.
func printMissing(r *report.Report, name, unit string, runs []survey.Run) {
	if len(runs) == 0 {
		return
	}
	longest := slices.Clone(runs)
	slices.SortStableFunc(longest, func(a, b survey.Run) int { return b.Count - a.Count })
	longest = longest[:min(len(longest), 4)]
	slices.SortFunc(longest, func(a, b survey.Run) int { return int(a.First - b.First) })
	var texts []string
	for _, run := range longest {
		if run.First == run.Last {
			texts = append(texts, run.First.String())
		} else {
			texts = append(texts, run.First.String()+" to "+run.Last.String())
		}
	}
	more := ""
	if len(runs) > len(longest) {
		more = " and " + report.Plural(len(runs)-len(longest), "other gap")
	}
	r.Line("%s: %s without rows: %s%s", name, report.Plural(survey.Total(runs), unit), strings.Join(texts, ", "), more)
}

// maxYearsDrawn is how many years of coverage are drawn a month a mark.
const maxYearsDrawn = 15

// coverage draws the rows of each month: the higher the mark the more rows, a
// dot where there is none, nothing outside the range.
func coverage(s *survey.Summary) []string {
	years := (s.FirstMonth+len(s.Months)-1)/12 - s.FirstMonth/12 + 1
	if years > maxYearsDrawn {
		return []string{fmt.Sprintf("(%d years, too many for a chart)", years)}
	}
	most := slices.Max(s.Months)
	lines := []string{"      J F M A M J J A S O N D"}
	for year := s.FirstMonth / 12; year < s.FirstMonth/12+years; year++ {
		line := []rune(fmt.Sprintf("%04d  ", year))
		for month := year * 12; month < year*12+12; month++ {
			at := month - s.FirstMonth
			switch {
			case at < 0 || at >= len(s.Months):
				line = append(line, ' ')
			case s.Months[at] == 0:
				line = append(line, '·')
			default:
				line = append(line, []rune("▁▂▃▄▅▆▇█")[min(s.Months[at]*8/most, 7)])
			}
			line = append(line, ' ')
		}
		lines = append(lines, strings.TrimRight(string(line), " "))
	}
	return lines
}
