package cli

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"roundyear/cell"
	"roundyear/civil"
	"roundyear/facts"
	"roundyear/fault"
	"roundyear/internal/app"
	"roundyear/internal/money"
	"roundyear/internal/report"
)

type latestCommand struct {
	*factsFlags
	against      []string
	align        string
	at, atColumn string
	days         int
	money        string
	locale       string
	latest       string
	json         bool
}

func (a *App) latestCommand() *cobra.Command {
	l := &latestCommand{factsFlags: &factsFlags{app: a}}
	command := &cobra.Command{
		Use:   "latest INPUT…",
		Short: "Compare the latest day with the last day that compares with it",
		Long: `Latest takes the latest day of the facts, or the one of --as-of, and compares it with
the last workday before it, the same weekday a week before, and the same weekday 52
weeks before. It says why each day was chosen, and what makes a comparison unfair: a
day off, a day without rows, a day before the data begins.

Workdays are those of the plan, of --region, or of --at: a site of the plan, a prefix
of days off, or a region. Groups that are sites of the plan go by the days on which
each is open; all of them together by the days on which one of them is.

--by has one latest day for all groups, and tells which of them end before it.
--align easter, or another day off of the plan, compares with the day of the year
before that is as far from it.

--money EUR writes the measures with the decimals of the currency, and all numbers as
in the first language of the plan, or in --locale.

Conditions of --where: shop=Ballyfern,Cloghvale or != < <= > >=, 'note is blank'.`,
		Example: `  roundyear latest clean/sales.csv --sum amount
  roundyear latest clean/sales.csv --sum amount --by shop --money EUR
  roundyear latest clean/sales.csv --sum amount --count --as-of 2026-03-09 --region IE
  roundyear latest clean/sales.csv --sum amount --at Varenoord --where shop=Varenoord --against workday --json`,
		Args: arguments(1, -1, "the input file"),
		RunE: func(command *cobra.Command, args []string) error { return l.runLatest(command.Context(), args) },
	}
	l.addMeasures(command)
	l.grain, l.span, l.maxRows = "day", "all", facts.DefaultMaxRows
	flags := command.Flags()
	flags.StringSliceVar(&l.against, "against", app.LatestNames(), "`DAYS` to compare with: workday, week-ago, year-ago")
	flags.StringVar(&l.align, "align", "", "compare with the day of the year before that is as far from an `EVENT`: easter, orthodox-easter, or a day off of the plan by its name")
	flags.StringVar(&l.at, "at", "", "`PLACE` whose workdays count: a site of the plan, a prefix of days off, or a region such as IE")
	flags.StringVar(&l.atColumn, "at-column", "", "`COLUMN` of --by that names the place of each group")
	flags.IntVar(&l.days, "days", 7, "list the last `N` days")
	flags.StringVar(&l.money, "money", "", "`CURRENCY` of the measures, such as EUR: they have its decimals")
	flags.StringVar(&l.locale, "locale", "", "`LOCALE` in which numbers are written, such as en-IE or nl (default with --money: the first language of the plan)")
	flags.StringVar(&l.latest, "as-of", "", "`DATE` that counts as the latest day (default: the last one with rows)")
	flags.BoolVar(&l.json, "json", false, "write the result to standard output as JSON")
	l.calendars.addWeekend(command)
	return command
}

func (l *latestCommand) runLatest(ctx context.Context, args []string) error {
	p, _, done, err := l.prepare(ctx, args)
	if err != nil {
		return err
	}
	defer done()
	request, err := l.request(p)
	if err != nil {
		return err
	}
	view, err := l.view(p)
	if err != nil {
		return err
	}
	found, err := request.Run(ctx)
	if err != nil {
		return l.inside.told(l.app, p.Source.Name(), err)
	}
	if found.Tallied.Tally.Summary().Rows == 0 {
		what := "no rows are left: " + leftOut(found.Tallied) + " are excluded"
		if len(found.Unmatched) > 0 {
			what = strings.Join(found.Unmatched, "; ")
		}
		remedy := widen(found.Tallied)
		if request.AsOf != nil && found.Tallied.Tally.Summary().Outside > 0 && l.bounds.from == "" {
			what, remedy = fmt.Sprintf("no rows up to %s", *request.AsOf), "Choose a later --as-of"
		}
		return &fault.Fault{File: p.Source.Name(), Column: found.Dates.Name, What: what, Remedy: remedy}
	}
	view.found, view.align = found, request.Align
	if err := l.write(ctx, view); err != nil {
		return err
	}
	l.tell(view)
	return nil
}

// request works out what the flags ask for.
func (l *latestCommand) request(p *plan) (*app.Latest, error) {
	request := &app.Latest{Place: l.at, Recent: l.days}
	request.Facts.Source, request.Facts.Asked, request.Facts.Operation = p.Source, p.Asked, p.Operation
	request.Decimals, request.Minus, request.Many.Tell = p.Decimals, p.Minus, p.Many.Tell
	for _, name := range l.against {
		switch {
		case !slices.Contains(app.LatestNames(), name):
			return nil, usageError{fmt.Errorf("--against: unknown day %q; use %s", name, strings.Join(app.LatestNames(), ", "))}
		case slices.Contains(request.Against, app.LatestAgainst(name)):
			return nil, usageError{fmt.Errorf("--against names %s twice", name)}
		}
		request.Against = append(request.Against, app.LatestAgainst(name))
	}
	if l.days < 0 || l.days > 366 {
		return nil, usageError{fmt.Errorf("--days must be a number from 0 to 366, not %d", l.days)}
	}
	if l.latest != "" {
		day, err := asOf(l.latest)
		if err != nil {
			return nil, err
		}
		request.AsOf = &day
	}
	sets, err := l.app.daysOff(p.year)
	if err != nil {
		return nil, err
	}
	request.Places = app.NewPlaces(p.year, sets, false)
	for _, site := range p.year.Plan.Sites {
		request.Sites = append(request.Sites, site.Name)
	}
	switch {
	case l.atColumn != "":
		place, err := p.Source.Find(l.atColumn)
		if err != nil {
			return nil, err
		}
		if request.PlaceColumn = p.Source.Names()[place]; !slices.Contains(p.Operation.Groups, request.PlaceColumn) {
			return nil, usageError{fmt.Errorf("--at-column %s must be a column of --by", l.atColumn)}
		}
	default:
		if _, err := request.Places.Of(l.at); err != nil {
			return nil, &fault.Fault{What: err.Error()}
		}
	}
	if l.align == "" {
		return request, nil
	}
	if !slices.Contains(request.Against, app.LastYear) {
		return nil, usageError{errors.New("--align goes with --against year-ago")}
	}
	first, _ := civil.Of(1990, civil.January, 1)
	last, _ := civil.Of(2090, civil.January, 1)
	if request.Align, err = app.Event(l.align, sets, first, last); err != nil {
		return nil, usageError{fmt.Errorf("--align: %w", err)}
	}
	return request, nil
}

// latestView is a latest day as it is written.
type latestView struct {
	groups   []string
	measures []facts.Measure
	found    *app.LatestDay
	align    *facts.Event
	locale   *money.Locale
	// currency is its code, or empty, and decimals are those of it.
	currency string
	decimals int
}

// view reads how numbers are written.
func (l *latestCommand) view(p *plan) (_ *latestView, err error) {
	v := &latestView{groups: p.Operation.Groups, measures: p.Operation.Measures, locale: money.Plain()}
	tag := l.locale
	if tag == "" && len(p.year.Plan.Names) > 0 && (l.money != "" || l.locale != "") {
		tag = p.year.Plan.Names[0].Tag
	}
	if tag != "" {
		if v.locale, err = money.Of(tag); err != nil {
			return nil, usageError{fmt.Errorf("--locale: %w", err)}
		}
	}
	if l.money != "" {
		if v.currency, v.decimals, err = money.Currency(l.money); err != nil {
			return nil, usageError{fmt.Errorf("--money: %w", err)}
		}
	}
	return v, nil
}

// columns are those of the result in data: a row for each group and day that it is compared with.
func (v *latestView) columns() []cell.Column {
	var columns []cell.Column
	for _, group := range v.groups {
		columns = append(columns, cell.Column{Name: group, Type: cell.Text})
	}
	columns = append(columns, cell.Column{Name: "day", Type: cell.Date}, cell.Column{Name: "last_day", Type: cell.Date}, cell.Column{Name: "against", Type: cell.Text}, cell.Column{Name: "against_day", Type: cell.Date})
	for _, measure := range v.found.Days.Measures() {
		before, change := measure, measure
		before.Name, change.Name = measure.Name+"_against", measure.Name+"_change"
		columns = append(columns, measure, before, change, facts.PercentColumn(measure.Name+"_percent"))
	}
	columns = append(columns, cell.Column{Name: "is_comparable", Type: cell.Boolean}, cell.Column{Name: "why", Type: cell.Text}, cell.Column{Name: "note", Type: cell.Text})
	if len(v.groups) > 0 {
		columns = append(columns, cell.Column{Name: "is_total", Type: cell.Boolean})
	}
	return columns
}

// row is a row of the data.
func (v *latestView) row(row *app.LatestRow, c *app.LatestCompared) []cell.Value {
	var values []cell.Value
	for _, group := range row.Group {
		values = append(values, cell.OfText(group))
	}
	day := cell.Blank
	if c.Found {
		day = cell.OfDay(c.Day)
	}
	values = append(values, cell.OfDay(v.found.Day), cell.OfDay(row.Last), cell.OfText(string(c.Against)), day)
	for m := range row.Values {
		values = append(values, row.Values[m], c.Values[m], c.Changes[m], c.Percents[m])
	}
	note := cell.Blank
	if notes := v.notes(row, c); len(notes) > 0 {
		note = cell.OfText(strings.Join(notes, "; "))
	}
	values = append(values, cell.OfBool(c.IsComparable), cell.OfText(v.why(row, c)), note)
	if len(v.groups) > 0 {
		values = append(values, cell.OfBool(row.IsTotal))
	}
	return values
}

// write writes the result: a table for people, JSON, or rows.
func (l *latestCommand) write(ctx context.Context, v *latestView) error {
	if l.json {
		return l.writeJSON(v)
	}
	format, err := l.out.formatOf(l.app, "-", true)
	if len(l.out.outs) == 0 && err == nil && format == peopleFormat {
		return l.writePeople(v)
	}
	sinks, err := l.out.open(l.app, v.columns(), true)
	if err != nil {
		return err
	}
	defer sinks.abort()
	err = app.Each(ctx, func(yield func([]cell.Value) bool) {
		for i := range v.found.Rows {
			for k := range v.found.Rows[i].Compared {
				if !yield(v.row(&v.found.Rows[i], &v.found.Rows[i].Compared[k])) {
					return
				}
			}
		}
	}, sinks.write)
	if err != nil {
		return err
	}
	if err := sinks.commit(); err != nil {
		return err
	}
	l.headline(v)
	return nil
}

// headline says what the latest day is.
func (l *latestCommand) headline(v *latestView) {
	all := &v.found.Rows[len(v.found.Rows)-1]
	var figures []string
	for m, measure := range v.measures {
		figures = append(figures, measure.Name+" "+v.number(m, all.Values[m]))
	}
	l.app.report().Headline("Latest day: %s, %s, %s%s", dayWords(v.found.Day), strings.Join(figures, ", "), report.Plural(all.Count, "row"), l.out.where())
}

// tell reports on what was read.
func (l *latestCommand) tell(v *latestView) {
	r := l.app.report()
	all := &v.found.Rows[len(v.found.Rows)-1]
	switch last := v.found.Days.Last(); {
	case last < v.found.Day:
		r.Attention("no rows on %s; the last day with rows is %s", v.found.Day, last)
	case all.Count == 0:
		r.Attention("no rows on %s that meet --where; the last day with some is %s. Add --as-of %[2]s to see that day", v.found.Day, all.Last)
	}
	var early []string
	for i := range v.found.Rows {
		if row := &v.found.Rows[i]; row.Last < v.found.Day && !row.IsTotal && len(row.Group) > 0 {
			early = append(early, fmt.Sprintf("%s on %s", strings.Join(row.Group, " "), row.Last))
		}
	}
	if len(early) > 0 {
		r.Note("%s before the latest day: %s", verb(len(early), "1 group ends", fmt.Sprintf("%d groups end", len(early))), shortList(early))
	}
	if v.found.Tallied.Tally.Summary().Outside+v.found.Filtered > 0 {
		r.Line("Excluded: %s", leftOut(v.found.Tallied))
	}
	for _, text := range v.found.Unmatched {
		r.Line("--where: %s", text)
	}
	placeholders, far := v.found.ImplausibleDays()
	for _, one := range append(placeholders, far...) {
		r.Attention("%s on %s, far outside the other dates; if that is wrong, exclude it with --from or --to", report.Plural(one.Count, "row"), one.Day)
	}
	if undated := v.found.Tallied.Tally.Summary().Undated; undated > 0 {
		r.Attention("%s without a date, on no day", report.Plural(undated, "row"))
	}
}
