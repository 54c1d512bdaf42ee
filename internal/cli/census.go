package cli

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"github.com/spf13/cobra"

	"roundyear/facts"
	"roundyear/fault"
	"roundyear/internal/app"
	"roundyear/internal/report"
)

type censusCommand struct {
	app                    *App
	opened, closed         string
	openingDay, closingDay string
	by, sums               []string
	id                     string
	medianAge              bool
	cohort, rows           bool
	grain                  string
	where                  []string
	asOf                   string
	maxRows                int
	bounds                 rangeFlags
	calendars              calendarFlags
	input                  factsInput
	inside                 insideFlags
	out                    outputFlags
}

func (a *App) censusCommand() *cobra.Command {
	c := &censusCommand{app: a}
	command := &cobra.Command{
		Use:   "census INPUT…",
		Short: "Count what was open at the end of each period: orders, contracts, members",
		Long: `Census reads things with an opening and a closing day, such as orders, tickets or
contracts, and counts by period (--grain) and group (--by) how many were open at the
end of the period, how many opened and closed in it, how many were open on average
over its days, and how old the open ones are in days. --sum adds up a quantity of
the open ones, such as seats.

A thing is open from its opening day on, and not on its closing day any more;
--opening-day and --closing-day change that. Without a closing day it is open on the
as-of day. What opens or closes after the as-of day has not happened yet.

--rows writes a row per thing and period instead, with all its columns and a status:
opened, open or closed. --cohort tells of the things that opened in each period how
many are still open after 1, 2, 3 … periods.

Conditions of --where: shop=Ballyfern,Cloghvale or != < <= > >=, 'note is blank'.

Grains: day week iso.week month quarter half year week.year iso.year, and those of
each fiscal calendar: fiscal.week fiscal.month fiscal.quarter fiscal.half
fiscal.year.`,
		Example: `  roundyear census clean/orders.csv --opened ordered_date --closed delivered_date
  roundyear census clean/orders.csv --opened ordered_date --closed delivered_date --by shop --grain week --median-age
  roundyear census clean/orders.csv --opened ordered_date --closed delivered_date --cohort
  roundyear census clean/orders.csv --opened ordered_date --closed delivered_date --rows --grain week -o out/open-orders.csv`,
		Args: arguments(1, -1, "the input file"),
		RunE: func(command *cobra.Command, args []string) error { return c.run(command.Context(), args) },
	}
	flags := command.Flags()
	flags.StringVar(&c.opened, "opened", "", "`COLUMN` of the opening day")
	flags.StringVar(&c.closed, "closed", "", "`COLUMN` of the closing day; blank is still open")
	flags.StringVar(&c.openingDay, "opening-day", "counts", "whether a thing is open on its opening day: `counts|not`")
	flags.StringVar(&c.closingDay, "closing-day", "not", "whether a thing is open on its closing day: `counts|not`")
	flags.StringSliceVar(&c.by, "by", nil, "`COLUMNS` to group by")
	flags.StringSliceVar(&c.sums, "sum", nil, "`COLUMNS` of quantities to add up over the open things, exact")
	flags.StringVar(&c.id, "id", "", "`COLUMN` that identifies a thing; reports those that come twice")
	flags.BoolVar(&c.medianAge, "median-age", false, "also the median age of the open things; keeps all of them in memory, 8 bytes each")
	flags.BoolVar(&c.cohort, "cohort", false, "count how many of those that opened in a period are still open after each period")
	flags.BoolVar(&c.rows, "rows", false, "write a row per thing and period, with all its columns")
	flags.StringVar(&c.grain, "grain", "month", "one row per `GRAIN`: day, week, iso.week, month, quarter, half, year, fiscal.month, fiscal.quarter …")
	flags.StringArrayVar(&c.where, "where", nil, "use only rows that meet `CONDITION`: shop=Ballyfern,Cloghvale, also != < <= > >=, or 'note is blank' (repeatable)")
	flags.StringVar(&c.asOf, "as-of", "", "`DATE` that counts as today (default: today)")
	flags.IntVar(&c.maxRows, "max-rows", facts.DefaultMaxRows, "stop if the result would have more than `N` rows")
	c.bounds.add(command, "the periods")
	c.calendars.add(command)
	c.inside.add(command)
	c.input.add(a, command)
	c.out.add(command)
	addDescribe(command, &c.out.describe)
	return command
}

// counts reads counts or not.
func counts(flag, text string) (bool, error) {
	switch text {
	case "counts":
		return true, nil
	case "not":
		return false, nil
	}
	return false, usageError{fmt.Errorf("%s must be counts or not, not %q", flag, text)}
}

func (c *censusCommand) run(ctx context.Context, inputs []string) error {
	y, err := c.app.year(&c.calendars)
	if err != nil {
		return err
	}
	if c.rows {
		c.app.writesRows(c.out.outs, c.out.format)
	}
	open, done, err := c.input.open(ctx, y, inputs, func(app.Named) string { return "" })
	if err != nil {
		return err
	}
	defer done()
	request, err := c.request(y, open)
	if err != nil {
		return err
	}
	if err := c.app.files.Check(c.out.outs...); err != nil {
		return err
	}
	counted, err := request.Count(ctx)
	if err != nil {
		return c.inside.told(c.app, open.source.Name(), err)
	}
	summary := counted.Summary()
	if summary.Spans == 0 {
		what := "nothing is left to count"
		if len(request.Unmatched) > 0 {
			what = request.Unmatched[0]
		} else if summary.Future > 0 {
			what = fmt.Sprintf("nothing opened up to %s, the as-of day, but %s after it", request.Operation.AsOf, report.Plural(summary.Future, "row"))
		}
		return &fault.Fault{File: open.source.Name(), Column: c.opened, What: what}
	}
	if slices.Contains(y.Set.Fiscal, request.Operation.Grain.Calendar) {
		if err := y.CheckKnown(summary.First, request.Operation.AsOf); err != nil {
			return err
		}
	}
	result, err := counted.Result()
	var many *facts.TooManyRows
	if errors.As(err, &many) {
		return &fault.Fault{File: open.source.Name(), Column: c.opened, What: many.Error(), Remedy: "Limit the periods with --from and --to, choose a coarser --grain, or allow more with --max-rows"}
	}
	if err != nil {
		return err
	}
	if c.rows {
		return c.writeRows(ctx, request, counted)
	}
	if result.Periods() == 0 {
		return &fault.Fault{File: open.source.Name(), What: fmt.Sprintf("no period up to %s, the as-of day, is left", request.Operation.AsOf), Remedy: "Widen --from and --to"}
	}
	return c.write(ctx, request, counted, result)
}

// request works out what the flags ask for.
func (c *censusCommand) request(y *app.Year, open *openFacts) (_ *app.Census, err error) {
	if open.planned != nil && c.opened == "" && c.closed == "" && len(open.planned.Dates) == 2 {
		c.opened, c.closed = plannedDate(open, 0), plannedDate(open, 1)
	}
	if c.opened == "" || c.closed == "" {
		return nil, usageError{errors.New("name the columns of the opening and the closing day: --opened COLUMN --closed COLUMN")}
	}
	r := &app.Census{Dated: app.Dated{Source: open.source, Asked: open.reading.Asked, Clock: open.reading.Clock, Decimals: open.decimals, Minus: open.minus}, ID: c.id}
	r.Many.Tell = c.app.tellManyGroups
	if r.OnDatabase, err = c.inside.read(c.app); err != nil {
		return nil, err
	}
	if c.rows {
		if r.Place == app.Inside {
			return nil, usageError{errors.New("--rows writes rows, which are read from the database; omit --run inside")}
		}
		r.Place = app.Local
	}
	o := &r.Operation
	o.Opened, o.Closed, o.MedianAge, o.Cohorts = c.opened, c.closed, c.medianAge, c.cohort
	if o.Grain, err = y.Set.Grain(c.grain); err != nil {
		return nil, usageError{err}
	}
	if o.AsOf, err = asOf(c.asOf); err != nil {
		return nil, err
	}
	if o.From, o.To, err = c.bounds.days(); err != nil {
		return nil, err
	}
	counted, err := counts("--opening-day", c.openingDay)
	if err != nil {
		return nil, err
	}
	o.OpeningDayOut = !counted
	if o.ClosingDayIn, err = counts("--closing-day", c.closingDay); err != nil {
		return nil, err
	}
	if c.maxRows < 1 {
		return nil, usageError{fmt.Errorf("--max-rows must be a number from 1, not %d", c.maxRows)}
	}
	o.MaxRows = c.maxRows
	if o.Where, err = conditions(open.source, c.where); err != nil {
		return nil, err
	}
	taken := map[string]bool{}
	for _, name := range facts.CensusNames {
		taken[name] = true
	}
	for _, list := range []struct {
		names []string
		to    *[]string
	}{{c.by, &o.Groups}, {c.sums, &o.Sums}} {
		for _, name := range list.names {
			place, err := open.source.Find(name)
			if err != nil {
				return nil, err
			}
			found := open.source.Names()[place]
			if taken[found] && !c.rows || slices.Contains(*list.to, found) {
				return nil, &fault.Fault{File: open.source.Name(), Column: found, What: "would be in the result twice", Remedy: "Rename it with --rename, or choose other columns"}
			}
			*list.to = append(*list.to, found)
		}
	}
	return r, nil
}

// plannedDate is a date column of facts of the plan, as normalise has written it if it has.
func plannedDate(open *openFacts, which int) string {
	name := open.planned.Dates[which].Column
	if open.named.IsNormalised {
		name += "_date"
	}
	return name
}

// headline says what was counted.
func (c *censusCommand) headline(counted *app.Counted, result *facts.CensusResult, o *facts.Census) {
	text := report.Plural(result.Periods(), grainWords(o.Grain))
	if len(o.Groups) > 0 {
		text += " and " + report.Plural(result.Groups(), "group")
	}
	s := counted.Summary()
	c.app.report().Headline("%s from %s to %s in %s; %s open on %s%s", report.Plural(s.Spans, "row"), s.First, s.Last, text, report.Count(s.Open), o.AsOf, c.out.where())
}

// write writes the census, or its cohorts, and reports on it.
func (c *censusCommand) write(ctx context.Context, request *app.Census, counted *app.Counted, result *facts.CensusResult) error {
	columns, rows := result.Columns(), result.Rows()
	if c.cohort {
		columns, rows = result.CohortColumns(), result.CohortRows()
	}
	sinks, err := c.out.open(c.app, columns, true)
	if err != nil {
		return err
	}
	defer sinks.abort()
	if sinks.forPeople() {
		c.headline(counted, result, &request.Operation)
		if c.cohort {
			return c.printTriangle(request, counted, result)
		}
	}
	if err := app.Each(ctx, rows, sinks.write); err != nil {
		return err
	}
	if err := sinks.commit(); err != nil {
		return err
	}
	if !sinks.forPeople() {
		c.headline(counted, result, &request.Operation)
	}
	c.print(request, counted)
	return nil
}

// print reports the rule for both ends, and what was not counted.
func (c *censusCommand) print(request *app.Census, counted *app.Counted) {
	r, o, s := c.app.report(), &request.Operation, counted.Summary()
	first, last := "its opening day", "the day before it closes"
	if o.OpeningDayOut {
		first = "the day after its opening day"
	}
	if o.ClosingDayIn {
		last = "its closing day"
	}
	r.Line("A row is open from %s to %s; as of %s", first, last, o.AsOf)
	switch {
	case o.OpeningDayOut && o.ClosingDayIn:
		r.Note("opened and closed count on the day after, when it is open or no longer open: of the last day of a period in the next one")
	case o.OpeningDayOut:
		r.Note("opened counts on the day after, when it is open: of the last day of a period in the next one")
	case o.ClosingDayIn:
		r.Note("closed counts on the day after, when it is no longer open: of the last day of a period in the next one")
	}
	if request.Filtered > 0 {
		r.Line("Excluded: %s by --where", report.Plural(request.Filtered, "row"))
	}
	for _, text := range request.Unmatched {
		r.Line("--where: %s", text)
	}
	if s.Future > 0 {
		r.Line("Not counted: %s that %s after %s", report.Plural(s.Future, "row"), verb(s.Future, "opens", "open"), o.AsOf)
	}
	if s.Undated > 0 {
		r.Attention("%s without an opening day, not counted", report.Plural(s.Undated, "row"))
	}
	for _, one := range counted.Backward {
		r.Attention("%s; not counted", one)
	}
	if more := s.Backward - len(counted.Backward); more > 0 && len(counted.Backward) > 0 {
		r.Attention("%s that %s before %s opened, not counted", report.Plural(more, "more row"), verb(more, "closed", "closed"), verb(more, "it", "they"))
	}
	for _, one := range counted.Again {
		r.Attention("%s; counted again", one)
	}
	if more := counted.Repeated - len(counted.Again); more > 0 {
		r.Attention("%s with an identifier that comes before, counted again", report.Plural(more, "more row"))
	}
}

// verb returns the words for one thing or several.
func verb(count int, one, several string) string {
	if count == 1 {
		return one
	}
	return several
}

// printTriangle shows the cohorts to people: a line for each, and a column for each period later, as many as fit.
func (c *censusCommand) printTriangle(request *app.Census, counted *app.Counted, result *facts.CensusResult) error {
	o := &request.Operation
	var cohorts []facts.Cohort
	most := 0
	for cohort := range result.Cohorts() {
		cohorts = append(cohorts, cohort)
		most = max(most, len(cohort.Open))
	}
	const widest = 12
	shown := min(most, widest)
	header := append(append([]string{"opened in"}, o.Groups...), "opened")
	right := append(make([]bool, len(header)-1), true)
	for later := range shown {
		header, right = append(header, fmt.Sprintf("+%d", later)), append(right, true)
	}
	var lines [][]string
	for _, cohort := range cohorts {
		line := append(append([]string{o.Grain.Label(cohort.Period)}, cohort.Values...), report.Count(cohort.Opened))
		for later := range shown {
			text := ""
			if later < len(cohort.Open) {
				text = report.Count(cohort.Open[later])
			}
			line = append(line, text)
		}
		lines = append(lines, line)
	}
	c.app.report().Table(header, right, lines)
	if most > shown {
		c.app.report().Line("Up to %s later are shown; write to a file for all %d", report.Plural(shown-1, grainWords(o.Grain)), most-1)
	}
	c.print(request, counted)
	return nil
}

// writeRows writes a row for each thing and period.
func (c *censusCommand) writeRows(ctx context.Context, request *app.Census, counted *app.Counted) error {
	r, o := c.app.report(), &request.Operation
	rows := counted.Summary().Rows
	if rows > o.MaxRows {
		return &fault.Fault{File: request.Source.Name(), What: fmt.Sprintf("there would be %s rows, more than %s", report.Count(rows), report.Count(o.MaxRows)), Remedy: "Choose a coarser --grain, limit them with --where, or allow more with --max-rows"}
	}
	r.Line("%s will be written: %s, once per %s", report.Plural(rows, "row"), report.Plural(counted.Summary().Spans, "row"), grainWords(o.Grain))
	outputs, err := c.out.openRows(c.app, request.Source)
	if err != nil {
		return err
	}
	defer outputs.abort()
	written, err := request.WriteRows(ctx, counted, outputs.forms, outputs.writers())
	if err != nil {
		return err
	}
	if err := outputs.commit(); err != nil {
		return err
	}
	r.Headline("%s written%s", report.Plural(written, "row"), c.out.where())
	c.print(request, counted)
	return nil
}
