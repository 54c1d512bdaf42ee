package cli

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"roundyear/calendar"
	"roundyear/facts"
	"roundyear/facts/decimal"
	"roundyear/facts/where"
	"roundyear/fault"
	"roundyear/internal/app"
	"roundyear/internal/report"
	"roundyear/rows"
)

// factsFlags are the flags of commands that bring facts to periods.
type factsFlags struct {
	// end is where the facts end too early; nil if they do not.
	end       *app.End
	app       *App
	date      string
	by        []string
	measures  [facts.Distinct + 1][]string
	median    []string
	percents  []string
	count     bool
	grain     string
	span      string
	where     []string
	asOf      string
	maxRows   int
	input     factsInput
	bounds    rangeFlags
	loaded    []string
	calendars calendarFlags
	out       outputFlags
	command   *cobra.Command
	inside    insideFlags
	// isFill tells that rows can be filled without measures.
	isFill bool
	// balances are the columns of balances, by kind, and attribute finds an attribute of days to group by; nil for none.
	balances  map[facts.Kind]*[]string
	attribute func(y *app.Year, name string) (facts.DayAttribute, error)
	// others are grains beside the first, and across is what stands across.
	others []calendar.Grain
	across *across
	// groupEnds are the groups whose facts end before they should, where that is asked for.
	groupEnds []app.GroupEnd
	// told says how a figure came about, in place of writing the result.
	told func(*plan, *app.Tallied, *facts.Result) error
	// compared reports on what periods are compared with.
	compared func(*plan, *facts.Result)
}

func (f *factsFlags) add(command *cobra.Command) {
	f.addMeasures(command)
	flags := command.Flags()
	flags.StringVar(&f.grain, "grain", "month", "one row per `GRAIN`: day, week, iso.week, month, quarter, half, year, fiscal.month, fiscal.quarter …")
	spans := "all, since-first, own, plan, or FROM/TO"
	if command.Name() == "fill" {
		spans = "all, since-first, own, lives, plan, or FROM/TO"
	}
	flags.StringVar(&f.span, "span", "all", "`SPAN` of periods that each group gets: "+spans)
	flags.StringArrayVar(&f.loaded, "loaded-through", nil, "last `DAY` for which data is loaded, SOURCE=DAY for a file or group, or each for the last day of each group by its own rows; later gaps are not filled (repeatable; default: the plan's)")
	flags.StringVar(&f.asOf, "as-of", "", "`DATE` that counts as today (default: today)")
	flags.IntVar(&f.maxRows, "max-rows", facts.DefaultMaxRows, "stop if the result would have more than `N` rows")
}

// addMeasures adds what says which facts are read, and what is measured.
func (f *factsFlags) addMeasures(command *cobra.Command) {
	f.command = command
	flags := command.Flags()
	flags.StringVar(&f.date, "date", "", "date `COLUMN` (default: the only date column)")
	flags.StringSliceVar(&f.by, "by", nil, "`COLUMNS` to group by")
	for kind, what := range map[facts.Kind]string{
		facts.Sum: "sum of `COLUMNS`, exact", facts.Mean: "mean of `COLUMNS`", facts.Min: "minimum of `COLUMNS`",
		facts.Max: "maximum of `COLUMNS`", facts.First: "first value of `COLUMNS` by date", facts.Last: "last value of `COLUMNS` by date", facts.Distinct: "number of different values in `COLUMNS`",
	} {
		flags.StringSliceVar(&f.measures[kind], kind.String(), nil, what)
	}
	flags.StringSliceVar(&f.median, "median", nil, "median of `COLUMNS`, exact")
	flags.StringArrayVar(&f.percents, "percentile", nil, "percentile of a column, `COLUMN=PERCENT` such as amount=90 (repeatable)")
	flags.BoolVar(&f.count, "count", false, "count the rows")
	flags.StringArrayVar(&f.where, "where", nil, "use only rows that meet `CONDITION`: shop=Ballyfern,Cloghvale, also != < <= > >=, or 'note is blank' (repeatable)")
	f.inside.add(command)
	f.bounds.add(command, "the facts")
	f.calendars.add(command)
	f.input.add(f.app, command)
	f.out.add(command)
	addDescribe(command, &f.out.describe)
}

// plan is an operation on the columns of a source.
type plan struct {
	app.Facts
	year *app.Year
}

// plan works out what the flags ask of a source.
func (f *factsFlags) plan(y *app.Year, open *openFacts) (_ *plan, err error) {
	source := open.source
	p := &plan{Facts: app.Facts{Source: source, Decimals: open.decimals, Minus: open.minus}, year: y}
	p.Many.Tell = f.app.tellManyGroups
	if p.OnDatabase, err = f.inside.read(f.app); err != nil {
		return nil, err
	}
	if f.date == "" && open.planned != nil && len(open.planned.Dates) == 1 {
		f.date = open.planned.Dates[0].Column
	}
	if err := f.readGrains(y, p); err != nil {
		return nil, err
	}
	if p.Operation.AsOf, err = asOf(f.asOf); err != nil {
		return nil, err
	}
	if f.maxRows < 1 {
		return nil, usageError{fmt.Errorf("--max-rows must be a number from 1, not %d", f.maxRows)}
	}
	p.Operation.MaxRows = f.maxRows
	if err := f.readSpan(&p.Operation); err != nil {
		return nil, err
	}
	if err := f.readGroups(y, p); err != nil {
		return nil, err
	}
	if err := f.readMeasures(source, p); err != nil {
		return nil, err
	}
	p.Operation.Where, err = conditions(source, f.where)
	return p, err
}

// readGrains reads --grain, of which totals may have several.
func (f *factsFlags) readGrains(y *app.Year, p *plan) error {
	for i, name := range strings.Split(f.grain, ",") {
		grain, err := y.Set.Grain(strings.TrimSpace(name))
		if err != nil {
			return usageError{err}
		}
		switch {
		case i == 0:
			p.Operation.Grain = grain
		case f.isFill:
			return usageError{errors.New("fill takes one --grain")}
		case grain == p.Operation.Grain || slices.Contains(f.others, grain):
			return usageError{fmt.Errorf("--grain names %s twice", grain)}
		default:
			f.others = append(f.others, grain)
			p.Operation.IsTold = true
		}
	}
	return nil
}

// readGroups reads --by: columns of the facts, or attributes of their days.
func (f *factsFlags) readGroups(y *app.Year, p *plan) error {
	for _, name := range f.by {
		place, err := p.Source.Find(name)
		if err == nil {
			p.Operation.Groups = append(p.Operation.Groups, p.Source.Names()[place])
			continue
		}
		if f.attribute == nil {
			return err
		}
		attribute, unknown := f.attribute(y, name)
		if unknown != nil {
			return err
		}
		p.Operation.Groups = append(p.Operation.Groups, attribute.Name)
		p.Operation.Attributes = append(p.Operation.Attributes, attribute)
	}
	return nil
}

// conditions reads those of --where.
func conditions(source *rows.Source, texts []string) ([]*where.Condition, error) {
	all, err := app.ParseConditions(source, texts)
	var condition *app.ConditionError
	if errors.As(err, &condition) {
		return nil, usageError{fmt.Errorf("--where %w", condition)}
	}
	return all, err
}

// readSpan reads --span, --from and --to. A span FROM/TO is the same as both.
func (f *factsFlags) readSpan(operation *facts.Operation) error {
	bounds := f.bounds
	if f.span == "plan" {
		return nil // usePlansRange finds it
	}
	span, known := facts.ParseSpan(f.span)
	if span == facts.SpanLives && f.command.Name() != "fill" {
		known = false
	}
	if from, to, isRange := strings.Cut(f.span, "/"); !known && isRange {
		if bounds.from != "" || bounds.to != "" {
			return usageError{errors.New("--span FROM/TO cannot be combined with --from or --to")}
		}
		bounds = rangeFlags{from, to}
	} else if !known {
		return usageError{fmt.Errorf("--span must be all, since-first, own, plan or FROM/TO such as 2026-01-01/2026-12-31, not %q", f.span)}
	}
	operation.Span = span
	var err error
	operation.From, operation.To, err = bounds.days()
	return err
}

// readLoaded reads up to which day the facts are complete, from the flags or else the plan.
func (f *factsFlags) readLoaded(y *app.Year, inputs []string, p *plan) (err error) {
	texts, from := f.loaded, "--loaded-through"
	if len(texts) == 0 {
		texts, from = y.LoadedOf(inputs), "loaded_through of the plan"
	}
	if p.Operation.Loaded, err = app.Loaded(texts, p.Source); err != nil {
		return usageError{fmt.Errorf("%s: %w", from, err)}
	}
	if loaded := p.Operation.Loaded; loaded != nil && loaded.IsEach && len(p.Operation.SourceGroups()) == 0 {
		if len(f.loaded) > 0 {
			return usageError{fmt.Errorf("%s %s needs --by with a column of the facts", from, app.EachGroup)}
		}
		p.Operation.Loaded = nil
	}
	return nil
}

// usePlansRange makes the range of the plan that of the groups, if that is asked for.
func (f *factsFlags) usePlansRange(ctx context.Context, y *app.Year, operation *facts.Operation) error {
	if f.span != "plan" {
		return nil
	}
	if f.bounds.from != "" || f.bounds.to != "" {
		return usageError{errors.New("--span plan cannot be combined with --from or --to")}
	}
	t := &app.DateTable{Grain: calendar.Grain{Calendar: y.Set.Year, Unit: calendar.Day}}
	if err := (&spanFlags{}).find(ctx, f.app, y, app.Reading{}, t); err != nil {
		return err
	}
	operation.From, operation.To = &t.From, &t.To
	return nil
}

// measured tells whether measures are asked for.
func (f *factsFlags) measured() bool {
	return f.count || len(f.median) > 0 || len(f.percents) > 0 || slices.ContainsFunc(f.measures[:], func(names []string) bool { return len(names) > 0 })
}

// readMeasures names the measures: by their column, and where a column has
// several, by the kind behind it.
func (f *factsFlags) readMeasures(source *rows.Source, p *plan) error {
	uses, isMedian := map[string]int{}, map[int]bool{}
	add := func(column string, measure facts.Measure) error {
		place, err := source.Find(column)
		if err != nil {
			return err
		}
		measure.Column, measure.Gap = source.Names()[place], measure.Kind.DefaultGap()
		uses[measure.Column]++
		p.Operation.Measures = append(p.Operation.Measures, measure)
		return nil
	}
	for kind, names := range f.measures {
		for _, name := range names {
			if err := add(name, facts.Measure{Kind: facts.Kind(kind)}); err != nil {
				return err
			}
		}
	}
	for _, name := range f.median {
		isMedian[len(p.Operation.Measures)] = true
		if err := add(name, facts.Measure{Kind: facts.Percentile, Percent: decimal.OfInt(50)}); err != nil {
			return err
		}
	}
	for _, text := range f.percents {
		name, percent, err := readPercentile(text)
		if err != nil {
			return err
		}
		if err := add(name, facts.Measure{Kind: facts.Percentile, Percent: percent}); err != nil {
			return err
		}
	}
	for _, kind := range []facts.Kind{facts.Closing, facts.Opening, facts.MeanOverDays} {
		if names := f.balances[kind]; names != nil {
			for _, name := range *names {
				if err := add(name, facts.Measure{Kind: kind}); err != nil {
					return err
				}
			}
		}
	}
	for i := range p.Operation.Measures {
		measure := &p.Operation.Measures[i]
		measure.Name = measure.Column
		switch {
		case isMedian[i]:
			if uses[measure.Column] > 1 {
				measure.Name += "_median"
			}
		case measure.Kind == facts.Percentile:
			measure.Name += "_p" + measure.Percent.String()
		case uses[measure.Column] > 1 || measure.Kind == facts.Distinct:
			measure.Name += "_" + strings.ReplaceAll(measure.Kind.String(), "-", "_")
		}
	}
	if f.count {
		p.Operation.Measures = append(p.Operation.Measures, facts.Measure{Kind: facts.Count, Name: "count", Gap: facts.Zero})
	}
	if len(p.Operation.Measures) == 0 && !f.isFill {
		return usageError{errors.New("nothing to measure: add --sum COLUMN, --mean, --min, --max, --first, --last, --distinct, --median, --percentile or --count")}
	}
	taken := map[string]bool{"period": true, "period_start": true, "period_end": true}
	for _, name := range facts.MarkNames() {
		taken[name] = true
	}
	for _, name := range p.names() {
		if taken[name] {
			return &fault.Fault{File: source.Name(), Column: name, What: "would be in the result twice", Remedy: "Rename it in the file, or choose other columns"}
		}
		taken[name] = true
	}
	return nil
}

// readPercentile reads COLUMN=PERCENT.
func readPercentile(text string) (column string, percent decimal.Decimal, err error) {
	at := strings.LastIndex(text, "=")
	if at > 0 {
		percent, err = decimal.Parse([]byte(text[at+1:]))
	}
	if at <= 0 || err != nil || percent.Cmp(decimal.OfInt(0)) < 0 || percent.Cmp(decimal.OfInt(100)) > 0 || percent.Scale() > facts.MaxPercentScale {
		return "", percent, usageError{fmt.Errorf("--percentile must be COLUMN=PERCENT, a number from 0 to 100 with at most %d decimals, such as amount=90, not %q", facts.MaxPercentScale, text)}
	}
	return text[:at], percent, nil
}

// names returns the names of the result's own columns.
func (p *plan) names() []string {
	names := slices.Clone(p.Operation.Groups)
	for _, measure := range p.Operation.Measures {
		names = append(names, measure.Name)
	}
	return names
}

// prepare opens the facts, and works out what the flags ask of them. They are closed by done.
func (f *factsFlags) prepare(ctx context.Context, inputs []string) (_ *plan, _ []string, done func(), err error) {
	y, err := f.app.year(&f.calendars)
	if err != nil {
		return nil, nil, nil, err
	}
	if f.isFill && !f.measured() {
		f.app.writesRows(f.out.outs, f.out.format)
	}
	open, end, err := f.input.open(ctx, y, inputs, func(named app.Named) string {
		if f.date == "" {
			f.date = named.Date()
		}
		if columns := f.input.reading.patternColumns(); f.date == "" && len(columns) == 1 {
			f.date = columns[0]
		}
		return f.date
	})
	if err != nil {
		return nil, nil, nil, err
	}
	defer func() {
		if err != nil {
			end()
		}
	}()
	p, err := f.plan(y, open)
	if err != nil {
		return nil, nil, nil, err
	}
	p.Operation.Date = f.date
	p.Asked, p.Operation.Clock = open.reading.Asked, open.reading.Clock
	if err := f.app.files.Check(f.out.outs...); err != nil {
		return nil, nil, nil, err
	}
	if f.out.describe {
		if err := f.app.checkDescribed(f.out.outs); err != nil {
			return nil, nil, nil, err
		}
	}
	return p, open.inputs, end, nil
}

// run reads the facts, writes the result and reports on it.
func (f *factsFlags) run(ctx context.Context, inputs []string, adjust func(context.Context, *plan) error) error {
	p, inputs, done, err := f.prepare(ctx, inputs)
	if err != nil {
		return err
	}
	defer done()
	y, source := p.year, p.Source
	if err := adjust(ctx, p); err != nil {
		return err
	}
	if err := f.usePlansRange(ctx, y, &p.Operation); err != nil {
		return err
	}
	if err := f.readLoaded(y, inputs, p); err != nil {
		return err
	}
	tally, err := p.Tally(ctx)
	if err != nil {
		return f.inside.told(f.app, p.Source.Name(), err)
	}
	dates, unmatched := tally.Dates, tally.Unmatched
	if tally.Summary().Rows+tally.Summary().NotToDate == 0 {
		if len(unmatched) > 0 {
			return &fault.Fault{File: source.Name(), What: strings.Join(unmatched, "; ")}
		}
		return &fault.Fault{File: source.Name(), Column: dates.Name, What: "no rows are left: " + leftOut(tally) + " are excluded", Remedy: widen(tally)}
	}
	summary := tally.Summary()
	first, last := summary.Span()
	if err := p.year.CheckKnown(first, last); err != nil && slices.Contains(p.year.Set.Fiscal, p.Operation.Grain.Calendar) {
		return err
	}
	of, err := p.year.GrainIn(ctx, source, inputs, dates)
	if err != nil {
		return err
	}
	for _, grain := range append([]calendar.Grain{p.Operation.Grain}, f.others...) {
		if err := p.checkCoarse(grain, dates, of, tally); err != nil {
			return err
		}
	}
	if err := tally.CheckLoaded(p.Operation.Loaded); err != nil {
		return usageError{fmt.Errorf("--loaded-through: %w", err)}
	}
	f.end = p.EndsEarly(tally, append([]calendar.Grain{p.Operation.Grain}, f.others...))
	switch loaded := p.Operation.Loaded; {
	case loaded != nil && loaded.IsEach:
		f.groupEnds = p.GroupsEndEarly(tally, f.end)
	case f.end != nil && f.end.Cut != nil:
		tally.EndsAt(f.end.Last)
		p.Operation.Loaded = &facts.Loaded{Through: &f.end.Last, IsInferred: true}
	}
	results, err := f.results(p, tally)
	if err != nil {
		return err
	}
	if f.told != nil {
		return f.told(p, tally, results[0])
	}
	taken := map[string]bool{}
	for _, column := range results[0].Columns() {
		if taken[column.Name] {
			return &fault.Fault{File: source.Name(), Column: column.Name, What: "would be in the result twice", Remedy: "Rename it with --rename, or choose other columns"}
		}
		taken[column.Name] = true
	}
	switch {
	case len(p.Operation.Measures) == 0:
		err = f.writeFilled(ctx, p, tally, results[0])
	case f.across != nil || len(results) > 1:
		err = f.writeOthers(ctx, p, results)
	default:
		err = f.write(ctx, p, results[0])
	}
	if err != nil {
		return err
	}
	f.print(p, tally, results, unmatched)
	return nil
}

// results works out the periods of all grains.
func (f *factsFlags) results(p *plan, tally *app.Tallied) ([]*facts.Result, error) {
	source, dates := p.Source, tally.Dates
	var results []*facts.Result
	for i, grain := range append([]calendar.Grain{p.Operation.Grain}, f.others...) {
		work := tally.Result
		if i > 0 || p.Operation.IsTold {
			work = func() (*facts.Result, error) { return tally.ResultBy(grain) }
		}
		result, err := work()
		var many *facts.TooManyRows
		if errors.As(err, &many) {
			remedy := "Limit the dates with --from and --to, choose a coarser --grain or --span own, or allow more with --max-rows"
			switch placeholders, far := tally.ImplausibleDays(); {
			case len(far) > 0:
				remedy = fmt.Sprintf("%s (%s) is far outside the other dates: exclude it with --from or --to, or allow more rows with --max-rows", far[0].Day, report.Plural(far[0].Count, "row"))
			case len(placeholders) > 0:
				remedy = fmt.Sprintf("%s (%s) is a placeholder date: exclude it with --from or --to, or allow more rows with --max-rows", placeholders[0].Day, report.Plural(placeholders[0].Count, "row"))
			}
			return nil, &fault.Fault{File: source.Name(), Column: dates.Name, What: many.Error(), Remedy: remedy}
		}
		if err != nil {
			return nil, err
		}
		if result.Len() == 0 {
			if result.Summary().Rows == 0 && result.Summary().NotToDate > 0 {
				return nil, &fault.Fault{File: source.Name(), Column: dates.Name, What: fmt.Sprintf("all rows are behind the position of %s in its %s", p.Operation.AsOf, grainWords(grain)), Remedy: "Choose a later --as-of, or omit --to-date"}
			}
			if result.Summary().Rows == 0 && result.Summary().Future > 0 {
				return nil, &fault.Fault{File: source.Name(), Column: dates.Name, What: fmt.Sprintf("all rows are after %s, the as-of date", p.Operation.AsOf), Remedy: "Omit --future, or change --as-of"}
			}
			return nil, &fault.Fault{File: source.Name(), Column: dates.Name, What: fmt.Sprintf("no complete period is left before %s, the as-of date", p.Operation.AsOf), Remedy: "Omit --complete-only, or change --as-of"}
		}
		results = append(results, result)
	}
	return results, nil
}

// write writes the rows. Where people read them, the headline comes first.
func (f *factsFlags) write(ctx context.Context, p *plan, result *facts.Result) error {
	sinks, err := f.out.open(f.app, result.Columns(), true)
	if err != nil {
		return err
	}
	defer sinks.abort()
	sinks.periods(p.periods())
	if sinks.forPeople() {
		f.headline(p, result)
	}
	if err := writeResult(ctx, sinks, result); err != nil {
		return err
	}
	sinks.footer(footer(p, result))
	if err := sinks.commit(); err != nil {
		return err
	}
	if !sinks.forPeople() {
		f.headline(p, result)
	}
	return nil
}

// periods says how people are shown the result.
func (p *plan) periods() (shown report.Periods) {
	for _, measure := range p.Operation.Measures {
		shown.Measures = append(shown.Measures, measure.Name)
	}
	for _, comparison := range p.Operation.Against {
		shown.Others = append(shown.Others, strings.ReplaceAll(comparison.String(), "-", "_"))
	}
	if p.Operation.Budget != nil {
		shown.Others = append(shown.Others, facts.BudgetColumn)
	}
	return shown
}
