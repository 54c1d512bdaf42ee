package cli

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"roundyear/civil"
	"roundyear/facts"
	"roundyear/facts/decimal"
	"roundyear/fault"
	"roundyear/internal/app"
	"roundyear/internal/delimited"
	"roundyear/internal/reading"
	"roundyear/internal/report"
)

type allocateCommand struct {
	app          *App
	command      *cobra.Command
	date         string
	sums, by     []string
	of, grain    string
	over         string
	at, atColumn string
	weights      []string
	like         string
	likeDays     int
	decimals     int
	where        []string
	maxRows      int
	calendars    calendarFlags
	input        factsInput
	out          outputFlags
}

func (a *App) allocateCommand() *cobra.Command {
	l := &allocateCommand{app: a}
	command := &cobra.Command{
		Use:   "allocate INPUT…",
		Short: "Lay a monthly budget over its days, and add it up by any other period",
		Long: `Allocate takes a measure of coarse periods, such as a budget per month, and lays it
over their days (--over): all days, workdays, or the days on which a site of the plan
is open. Days get the same, unless --weights says what weekdays weigh, or --like names
facts whose distribution is followed: those of the same weekdays 52 weeks earlier.

The days are then added up by --grain, of any calendar: a budget of calendar months
can stand beside sales by retail month.

The parts add up to the whole exactly. What is left by rounding goes, one hundredth
at a time, to the days with the largest remainders. A period without a day to lay on
is reported, and laid over all of its days in rows with is_unplaced.

The period that a row stands for comes from the plan (grain), its label, or the dates
themselves, or from --of.

Conditions of --where: shop=Ballyfern,Cloghvale or != < <= > >=, 'note is blank'.`,
		Example: `  roundyear allocate clean/budget.csv --date budget_date --sum budget --by shop --over trading-days --at-column shop
  roundyear allocate clean/budget.csv --date budget_date --sum budget --by shop --grain retail.month -o out/budget.csv
  roundyear allocate clean/budget.csv --date budget_date --sum budget --weights mon=1,tue=1,wed=1,thu=1,fri=1.5,sat=3,sun=2
  roundyear allocate clean/budget.csv --date budget_date --sum budget --by shop --like clean/sales.csv:sold_at_date,amount`,
		Args: arguments(1, -1, "the input file"),
		RunE: func(command *cobra.Command, args []string) error { return l.run(command.Context(), args) },
	}
	l.command = command
	flags := command.Flags()
	flags.StringVar(&l.date, "date", "", "date `COLUMN` (default: the only date column)")
	flags.StringSliceVar(&l.sums, "sum", nil, "`COLUMNS` of the measures to lay over days")
	flags.StringSliceVar(&l.by, "by", nil, "`COLUMNS` to group by")
	flags.StringVar(&l.of, "of", "", "`GRAIN` of the period that a row stands for (default: the plan's, or what the dates show)")
	flags.StringVar(&l.grain, "grain", "day", "one row per `GRAIN`: day, week, month, fiscal.month, retail.month …")
	flags.StringVar(&l.over, "over", "days", "`DAYS` to lay over: days, workdays or trading-days")
	flags.StringVar(&l.at, "at", "", "`PLACE` whose workdays count: a site of the plan, a prefix of days off, or a region such as IE")
	flags.StringVar(&l.atColumn, "at-column", "", "`COLUMN` of --by that names the place of each group")
	flags.StringSliceVar(&l.weights, "weights", nil, "what weekdays weigh, `WEEKDAY=NUMBER`; those not named weigh nothing")
	flags.StringVar(&l.like, "like", "", "facts whose distribution is followed, `FILE:DATE,MEASURE`")
	flags.IntVar(&l.likeDays, "like-days", app.DaysBeforeAYear, "how many `DAYS` earlier the facts of --like are; whole weeks keep weekdays together")
	flags.IntVar(&l.decimals, "decimals", 2, "`NUMBER` of decimals of the parts, if the measure has not more")
	flags.StringArrayVar(&l.where, "where", nil, "use only rows that meet `CONDITION`: shop=Ballyfern,Cloghvale, also != < <= > >=, or 'note is blank' (repeatable)")
	flags.IntVar(&l.maxRows, "max-rows", facts.DefaultMaxRows, "stop if the result would have more than `N` rows")
	l.calendars.add(command)
	l.calendars.addWeekend(command)
	l.input.add(a, command)
	l.out.add(command)
	addDescribe(command, &l.out.describe)
	return command
}

func (l *allocateCommand) run(ctx context.Context, inputs []string) error {
	y, err := l.app.year(&l.calendars)
	if err != nil {
		return err
	}
	open, done, err := l.input.open(ctx, y, inputs, func(named app.Named) string {
		if l.date == "" {
			l.date = named.Date()
		}
		return l.date
	})
	if err != nil {
		return err
	}
	defer done()
	request, err := l.request(y, open)
	if err != nil {
		return err
	}
	if err := l.app.files.Check(l.out.outs...); err != nil {
		return err
	}
	if l.like != "" {
		end, err := l.openLike(ctx, request)
		if err != nil {
			return err
		}
		defer end()
	}
	laid, err := request.Run(ctx, y, open.inputs)
	var many *facts.TooManyRows
	switch {
	case errors.As(err, &many):
		return &fault.Fault{File: open.source.Name(), What: fmt.Sprintf("the result would have more than %s rows", report.Count(many.Most)), Remedy: "Choose a coarser --grain, or allow more with --max-rows"}
	case err != nil:
		return err
	case laid.Allocated == nil:
		what := "no rows are left"
		if len(laid.Unmatched) > 0 {
			what = strings.Join(laid.Unmatched, "; ")
		}
		return &fault.Fault{File: open.source.Name(), Column: laid.Dates.Name, What: what}
	}
	summary := laid.Tallied.Tally.Summary()
	if slices.Contains(y.Set.Fiscal, laid.Of.Calendar) {
		if err := y.CheckKnown(summary.First, summary.Last); err != nil {
			return err
		}
	}
	if slices.Contains(y.Set.Fiscal, request.Grain.Calendar) {
		if err := y.CheckKnown(laid.Of.Locate(summary.First).First, laid.Of.Locate(summary.Last).Last); err != nil {
			return err
		}
	}
	return l.write(ctx, request, laid)
}

// request works out what the flags ask for.
func (l *allocateCommand) request(y *app.Year, open *openFacts) (_ *app.Allocate, err error) {
	r := &app.Allocate{Facts: app.Facts{Source: open.source, Asked: open.reading.Asked, Decimals: open.decimals, Minus: open.minus}, LikeDays: l.likeDays, Decimals: l.decimals, MaxRows: l.maxRows, Place: l.at}
	r.Operation.Date, r.Operation.Clock = l.date, open.reading.Clock
	if l.date == "" && open.planned != nil && len(open.planned.Dates) == 1 {
		r.Operation.Date = open.planned.Dates[0].Column
	}
	if r.Grain, err = y.Set.Grain(l.grain); err != nil {
		return nil, usageError{err}
	}
	if l.of != "" {
		of, err := y.Set.Grain(l.of)
		if err != nil {
			return nil, usageError{fmt.Errorf("--of: %w", err)}
		}
		r.Of = &of
	}
	if len(l.sums) == 0 {
		return nil, usageError{errors.New("nothing to lay over days: add --sum COLUMN")}
	}
	if l.decimals < 0 || l.decimals > 12 {
		return nil, usageError{fmt.Errorf("--decimals must be a number from 0 to 12, not %d", l.decimals)}
	}
	if l.maxRows < 1 {
		return nil, usageError{fmt.Errorf("--max-rows must be a number from 1, not %d", l.maxRows)}
	}
	if r.Operation.Where, err = conditions(open.source, l.where); err != nil {
		return nil, err
	}
	if err := l.readColumns(r, open); err != nil {
		return nil, err
	}
	if err := l.readDays(r, y); err != nil {
		return nil, err
	}
	return r, l.readWeights(r)
}

// readColumns finds the groups and measures.
func (l *allocateCommand) readColumns(r *app.Allocate, open *openFacts) error {
	taken := map[string]bool{}
	for _, name := range facts.AllocatedNames {
		taken[name] = true
	}
	find := func(name string) (string, error) {
		place, err := open.source.Find(name)
		if err != nil {
			return "", err
		}
		found := open.source.Names()[place]
		if taken[found] {
			return "", &fault.Fault{File: open.source.Name(), Column: found, What: "would be in the result twice", Remedy: "Rename it with --rename, or choose other columns"}
		}
		taken[found] = true
		return found, nil
	}
	for _, name := range l.by {
		found, err := find(name)
		if err != nil {
			return err
		}
		r.Operation.Groups = append(r.Operation.Groups, found)
	}
	for _, name := range l.sums {
		found, err := find(name)
		if err != nil {
			return err
		}
		r.Operation.Measures = append(r.Operation.Measures, facts.Measure{Kind: facts.Sum, Column: found, Name: found})
	}
	if l.atColumn == "" {
		return nil
	}
	place, err := open.source.Find(l.atColumn)
	if err != nil {
		return err
	}
	if r.PlaceColumn = open.source.Names()[place]; !slices.Contains(r.Operation.Groups, r.PlaceColumn) {
		return usageError{fmt.Errorf("--at-column %s must be a column of --by", r.PlaceColumn)}
	}
	return nil
}

// readDays finds out which days are laid over.
func (l *allocateCommand) readDays(r *app.Allocate, y *app.Year) error {
	hasPlace := l.at != "" || l.atColumn != ""
	switch {
	case l.over == "days" && hasPlace:
		return usageError{errors.New("--at and --at-column go with --over workdays or trading-days")}
	case l.over == "trading-days" && !hasPlace:
		return usageError{errors.New("trading days are those of a site: --at SITE, or --at-column COLUMN")}
	case !slices.Contains([]string{"days", "workdays", "trading-days"}, l.over):
		return usageError{fmt.Errorf("--over must be days, workdays or trading-days, not %q", l.over)}
	}
	if r.OverAll = l.over == "days"; r.OverAll {
		return nil
	}
	sets, err := l.app.daysOff(y)
	r.Places = app.NewPlaces(y, sets, l.over == "trading-days")
	return err
}

// readWeights reads what weekdays weigh.
func (l *allocateCommand) readWeights(r *app.Allocate) error {
	if len(l.weights) == 0 {
		return nil
	}
	r.Weekdays = map[civil.Weekday]decimal.Decimal{}
	weighs := false
	for _, text := range l.weights {
		name, number, found := strings.Cut(text, "=")
		weekday, ok := civil.ParseWeekday(strings.TrimSpace(name))
		weight, err := decimal.Parse([]byte(strings.TrimSpace(number)))
		if !found || !ok || err != nil || weight.Sign() < 0 {
			return usageError{fmt.Errorf("--weights must be WEEKDAY=NUMBER, such as mon=1,sat=2.5, not %q", text)}
		}
		if _, twice := r.Weekdays[weekday]; twice {
			return usageError{fmt.Errorf("--weights names %s twice", weekday)}
		}
		r.Weekdays[weekday], weighs = weight, weighs || weight.Sign() > 0
	}
	if !weighs {
		return usageError{errors.New("--weights leaves no weekday that weighs anything")}
	}
	return nil
}

// openLike opens the facts of --like, grouped by the columns of --by that they have.
func (l *allocateCommand) openLike(ctx context.Context, r *app.Allocate) (func(), error) {
	at := colonOf(l.like)
	columns := strings.Split(l.like[at+1:], ",")
	if at < 1 || len(columns) != 2 {
		return nil, usageError{fmt.Errorf("--like must be FILE:DATE,MEASURE, such as clean/sales.csv:sold_at_date,amount, not %s", fault.Quoted(l.like))}
	}
	if l.likeDays < 0 || l.likeDays > 36600 {
		return nil, usageError{fmt.Errorf("--like-days must be a number from 0 to 36600, not %d", l.likeDays)}
	}
	source, done, err := l.app.open(ctx, []string{l.like[:at]}, 1, delimited.Form{})
	if err != nil {
		return nil, err
	}
	like := &app.Facts{Source: source, Asked: reading.Asked{Order: r.Asked.Order, Pivot: r.Asked.Pivot}}
	like.Operation.Date = columns[0]
	place, err := source.Find(columns[1])
	if err != nil {
		done()
		return nil, err
	}
	like.Operation.Measures = []facts.Measure{{Kind: facts.Sum, Column: source.Names()[place], Name: "weight"}}
	for _, name := range r.Operation.Groups {
		if place, err := source.Find(name); err == nil && source.Names()[place] == name {
			like.Operation.Groups = append(like.Operation.Groups, name)
		}
	}
	r.Like = like
	return done, nil
}

// write writes the result and reports on it.
func (l *allocateCommand) write(ctx context.Context, request *app.Allocate, laid *app.Laid) error {
	sinks, err := l.out.open(l.app, laid.Columns(), true)
	if err != nil {
		return err
	}
	defer sinks.abort()
	headline := func() {
		l.app.report().Headline("%s by %s laid over %s: %s%s", report.Plural(laid.Wholes, "amount"), grainWords(laid.Of), report.Plural(laid.Allocated.Days, "day"), report.Plural(laid.Len(), "row"), l.out.where())
	}
	if sinks.forPeople() {
		headline()
	}
	if err := app.Each(ctx, laid.Rows, sinks.write); err != nil {
		return err
	}
	if err := sinks.commit(); err != nil {
		return err
	}
	if !sinks.forPeople() {
		headline()
	}
	r := l.app.report()
	for i, measure := range request.Operation.Measures {
		r.Line("%s: %s before and after", measure.Name, report.Grouped(laid.Totals[i].String()))
	}
	if laid.Grouped > 0 {
		r.Line("%s added to others of the same period and group", report.Plural(laid.Grouped, "row"))
	}
	if laid.Otherwise > 0 {
		r.Note("%s had nothing to follow in %s, and %s laid evenly", report.Plural(laid.Otherwise, "amount"), l.like, verb(laid.Otherwise, "was", "were"))
	}
	if laid.Filtered > 0 {
		r.Line("Excluded: %s by --where", report.Plural(laid.Filtered, "row"))
	}
	for _, text := range laid.Unmatched {
		r.Line("--where: %s", text)
	}
	for _, one := range laid.Unplaced[:min(len(laid.Unplaced), maxHoles)] {
		r.Attention("%s has no %s: %s is laid over all its days", strings.TrimSpace(laid.Of.Label(one.Period)+" "+strings.Join(one.Group, " ")), l.countedDay(), amounts(request, one.Amounts))
	}
	if more := len(laid.Unplaced) - maxHoles; more > 0 {
		r.Attention("%s without a %s", report.Plural(more, "more amount"), l.countedDay())
	}
	if undated := laid.Tallied.Tally.Summary().Undated; undated > 0 {
		r.Attention("%s without a date, not laid", report.Plural(undated, "row"))
	}
	return nil
}

// countedDay is a day that amounts are laid over.
func (l *allocateCommand) countedDay() string {
	switch l.over {
	case "workdays":
		return "workday"
	case "trading-days":
		return "trading day"
	}
	return "day that weighs anything"
}

// amounts writes the amounts of measures with their names.
func amounts(request *app.Allocate, all []decimal.Decimal) string {
	var texts []string
	for i, amount := range all {
		texts = append(texts, request.Operation.Measures[i].Name+" "+report.Grouped(amount.String()))
	}
	return strings.Join(texts, ", ")
}
