package cli

import (
	"context"
	"errors"
	"fmt"
	"io"
	"maps"
	"slices"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"roundyear/cell"
	"roundyear/facts/decimal"
	"roundyear/facts/lapse"
	"roundyear/fault"
	"roundyear/internal/app"
	"roundyear/internal/database"
	"roundyear/internal/extended"
	"roundyear/internal/output"
	"roundyear/internal/report"
	"roundyear/yearplan"
)

type lapseCommand struct {
	app              *App
	command          *cobra.Command
	start, end       string
	previous         bool
	by               []string
	in               string
	ends             string
	bands            []string
	ownBands         []string
	addDays, addWork int
	addMonths        int
	at, atColumn     string
	name             string
	distribution     bool
	where            []string
	asOf             string
	calendars        calendarFlags
	input            factsInput
	inside           insideFlags
	out              outputFlags
}

func (a *App) lapseCommand() *cobra.Command {
	l := &lapseCommand{app: a}
	command := &cobra.Command{
		Use:   "lapse INPUT…",
		Short: "Measure the time between two dates: in days, workdays, months, hours",
		Long: `Lapse writes the rows of facts with one more column: the time from one date column
(--start) to another (--end). Without --end it is the time up to the as-of day, and
with --previous the time since the row before it in its group (--by).

Units of --in: days, workdays, trading-days (days on which a site of the plan is
open), weeks, months and years (whole ones), hours, business-hours (within the
opening_hours of the plan). A lapse is negative if the end comes before the start. Of
days, the later of the two counts and the earlier does not, unless --ends says
otherwise.

Workdays are those of the plan's days off, of --region, or of --at: the name of a
site, the prefix of a set of days off, or the code of a region. --at-column takes it
from a column.

--bands 10,20,30 sorts the rows into 0–9, 10–19, 20–29, and 30 and over; --band gives
bands names of their own. Blank and negative lapses, and those of more than a hundred
years, stand apart. --distribution writes how many rows each band has, in place of
the rows.

--add-workdays 10 adds the day that is 10 workdays after the start.

Conditions of --where: shop=Ballyfern,Cloghvale or != < <= > >=, 'note is blank'.`,
		Example: `  roundyear lapse clean/orders.csv --start ordered_date --end delivered_date --in workdays --bands 5,10,20
  roundyear lapse clean/orders.csv --start ordered_date --end delivered_date --band 'in time=..14' --band 'late=15..' --distribution --by shop
  roundyear lapse clean/orders.csv --start ordered_date --add-workdays 10 -o out/orders.csv
  roundyear lapse clean/orders.csv --start ordered_date --previous --by plant --name since_last`,
		Args: arguments(1, -1, "the input file"),
		RunE: func(command *cobra.Command, args []string) error { return l.run(command.Context(), args) },
	}
	l.command = command
	flags := command.Flags()
	flags.StringVar(&l.start, "start", "", "date `COLUMN` that the time begins with")
	flags.StringVar(&l.end, "end", "", "date `COLUMN` that it ends with (default: the as-of day)")
	flags.BoolVar(&l.previous, "previous", false, "measure from the row before, by date within --by, to --start")
	flags.StringSliceVar(&l.by, "by", nil, "`COLUMNS` that form the groups of --previous and --distribution")
	flags.StringVar(&l.in, "in", "days", "`UNIT`: days, workdays, trading-days, weeks, months, years, hours or business-hours")
	flags.StringVar(&l.ends, "ends", "later", "`ENDS` that count, in units of days: later, earlier, both or none")
	flags.StringSliceVar(&l.bands, "bands", nil, "`NUMBERS` with which bands begin, such as 10,20,30")
	flags.StringArrayVar(&l.ownBands, "band", nil, "a band with a name, `LABEL=FROM..TO`, such as 'on time=..5' (repeatable, in order)")
	flags.IntVar(&l.addWork, "add-workdays", 0, "add the day that is `N` workdays after the start, as due_date")
	flags.IntVar(&l.addDays, "add-days", 0, "add the day that is `N` days after the start")
	flags.IntVar(&l.addMonths, "add-months", 0, "add the day that is `N` months after the start")
	flags.StringVar(&l.at, "at", "", "`PLACE` whose workdays count: a site of the plan, a prefix of days off, or a region such as IE")
	flags.StringVar(&l.atColumn, "at-column", "", "`COLUMN` that names the place of each row")
	flags.StringVar(&l.name, "name", "", "`NAME` of the added column (default: the unit)")
	flags.BoolVar(&l.distribution, "distribution", false, "write how many rows each band has, instead of the rows")
	flags.StringArrayVar(&l.where, "where", nil, "use only rows that meet `CONDITION`: shop=Ballyfern,Cloghvale, also != < <= > >=, or 'note is blank' (repeatable)")
	flags.StringVar(&l.asOf, "as-of", "", "`DATE` that counts as today (default: today)")
	l.calendars.add(command)
	l.calendars.addWeekend(command)
	l.inside.addOfLapses(command)
	l.input.add(a, command)
	l.out.add(command)
	addDescribe(command, &l.out.describe)
	return command
}

func (l *lapseCommand) run(ctx context.Context, inputs []string) error {
	y, err := l.app.year(&l.calendars)
	if err != nil {
		return err
	}
	request, err := l.request(y)
	if err != nil {
		return err
	}
	if !l.distribution {
		l.app.writesRows(l.out.outs, l.out.format)
	}
	open, done, err := l.input.open(ctx, y, inputs, func(app.Named) string { return "" })
	if err != nil {
		return err
	}
	defer done()
	request.Dated = app.Dated{Source: open.source, Asked: open.reading.Asked, Clock: open.reading.Clock, Decimals: open.decimals, Minus: open.minus}
	if request.Where, err = conditions(open.source, l.where); err != nil {
		return err
	}
	if open.planned != nil && l.start == "" && l.end == "" && len(open.planned.Dates) == 2 {
		request.Start, request.End = plannedDate(open, 0), plannedDate(open, 1)
	}
	if request.Start == "" {
		return usageError{errors.New("name the column that the time begins with: --start COLUMN")}
	}
	if err := l.app.files.Check(l.out.outs...); err != nil {
		return err
	}
	if request.OnDatabase, err = l.inside.read(l.app); err != nil {
		return err
	}
	if l.distribution {
		lapsed, err := request.Run(ctx)
		if err != nil {
			return l.inside.told(l.app, open.source.Name(), err)
		}
		return l.writeDistribution(request, lapsed)
	}
	if len(l.out.outs) == 1 && database.IsTable(l.out.outs[0]) {
		request.Out = l.out.outs[0]
	}
	var outputs *rowOutputs
	defer func() {
		if outputs != nil {
			outputs.abort()
		}
	}()
	request.IsSeen = len(l.out.outs) == 0 || slices.ContainsFunc(l.out.outs, func(out string) bool { return out == "-" || output.IsStream(out) })
	request.Open = func() (_ []*extended.Form, _ []io.Writer, err error) {
		if outputs != nil { // what was written by a wrong guess
			outputs.abort()
			outputs.leaveTables()
		}
		if outputs, err = l.out.openRows(l.app, open.source); err != nil {
			return nil, nil, err
		}
		return outputs.forms, outputs.writers(), nil
	}
	lapsed, err := request.Run(ctx)
	if err != nil {
		return l.inside.told(l.app, open.source.Name(), err)
	}
	if err := outputs.commit(); err != nil {
		return err
	}
	l.app.report().Headline("%s measured%s", report.Plural(lapsed.Written, "row"), l.out.where())
	l.print(request, lapsed)
	if request.Bands != nil {
		l.app.report().Table(l.distributionTable(request, lapsed))
	}
	return nil
}

// request works out what the flags ask for, but for the source.
func (l *lapseCommand) request(y *app.Year) (_ *app.Lapse, err error) {
	r := &app.Lapse{Start: l.start, End: l.end, FromPrevious: l.previous, By: l.by, Place: l.at, PlaceColumn: l.atColumn, Name: l.name}
	if r.AsOf, err = asOf(l.asOf); err != nil {
		return nil, err
	}
	if r.Measure.Unit, err = lapse.ParseUnit(l.in); err != nil {
		return nil, usageError{fmt.Errorf("--in: %w", err)}
	}
	if r.Measure.Ends, err = lapse.ParseEnds(l.ends); err != nil {
		return nil, usageError{fmt.Errorf("--ends: %w", err)}
	}
	flags := l.command.Flags()
	if flags.Changed("ends") && !r.Measure.Unit.CountsDays() {
		return nil, usageError{fmt.Errorf("--ends is for units of days, and not for %s", r.Measure.Unit)}
	}
	for _, due := range []struct {
		flag string
		n    *int
		in   lapse.Unit
	}{{"add-workdays", &l.addWork, lapse.Workdays}, {"add-days", &l.addDays, lapse.Days}, {"add-months", &l.addMonths, lapse.Months}} {
		if !flags.Changed(due.flag) {
			continue
		}
		const most = 1_000_000
		if *due.n > most || *due.n < -most {
			return nil, usageError{fmt.Errorf("--%s must be a number from %d to %d, not %d", due.flag, -most, most, *due.n)}
		}
		r.Due, r.DueIn = due.n, due.in
	}
	if r.Bands, err = l.readBands(); err != nil {
		return nil, err
	}
	// A due date alone needs no measure.
	r.IsMeasured = r.Due == nil || l.end != "" || l.previous || r.Bands != nil || flags.Changed("in") || l.distribution
	switch {
	case r.Measure.Unit == lapse.TradingDays && l.at == "" && l.atColumn == "":
		return nil, usageError{errors.New("trading days are those of a site: --at SITE, or --at-column COLUMN")}
	case r.IsMeasured && r.Measure.Unit == lapse.BusinessHours && y.Plan.Hours == nil && !slices.ContainsFunc(y.Plan.Sites, hasHours):
		return nil, usageError{errors.New("business hours need opening_hours in the plan, such as opening_hours: {mon: \"09:00-17:00\"}")}
	}
	sets, err := l.app.daysOff(y)
	if err != nil {
		return nil, err
	}
	r.Places = app.NewPlaces(y, sets, r.Measure.Unit == lapse.TradingDays)
	return r, nil
}

// readBands reads --bands or --band.
func (l *lapseCommand) readBands() (bands lapse.Bands, err error) {
	switch {
	case len(l.bands) > 0:
		var starts []int64
		for _, text := range l.bands {
			start, err := strconv.ParseInt(strings.TrimSpace(text), 10, 32)
			if err != nil {
				return nil, usageError{fmt.Errorf("--bands must be whole numbers such as 10,20,30, not %q", text)}
			}
			starts = append(starts, start)
		}
		if bands, err = lapse.BandsOf(starts); err != nil {
			return nil, usageError{fmt.Errorf("--bands: %w", err)}
		}
	case len(l.ownBands) > 0:
		for _, text := range l.ownBands {
			band, err := lapse.ParseBand(text)
			if err != nil {
				return nil, usageError{fmt.Errorf("--band: %w", err)}
			}
			bands = append(bands, band)
		}
	}
	if err := bands.Check(); err != nil {
		return nil, usageError{fmt.Errorf("--band: %w", err)}
	}
	return bands, nil
}

// unitWords is a unit as people say it.
func unitWords(unit lapse.Unit) string { return strings.ReplaceAll(unit.String(), "-", " ") }

// print reports what was measured.
func (l *lapseCommand) print(request *app.Lapse, lapsed *app.Lapsed) {
	r, unit := l.app.report(), request.Measure.Unit
	if statistics, ok := lapsed.Statistics(unit.Decimals()); ok {
		text := func(value int64) string {
			return report.Grouped(decimal.OfUnits(value, unit.Decimals()).Text(unit.Decimals()))
		}
		r.Line("%s in %s: from %s to %s, median %s, mean %s", report.Plural(lapsed.Measured, "row"), unitWords(unit), text(statistics.Least), text(statistics.Most),
			report.Grouped(statistics.Median.Trimmed(unit.Decimals()).String()), report.Grouped(statistics.Mean.String()))
	}
	if lapsed.Negative > 0 {
		r.Attention("%s negative: the end comes before the start; not in the figures", report.Plural(lapsed.Negative, "row"))
	}
	if lapsed.NeverDue > 0 {
		r.Attention("%s never due: too few days count to reach the due date", report.Plural(lapsed.NeverDue, "row"))
	}
	if request.IsMeasured {
		if blank := lapsed.Blank(); blank > 0 {
			what := "%s without both dates"
			switch {
			case request.FromPrevious:
				what = "%s without a date, or the first of their group"
			case request.End == "":
				what = "%s without a date"
			}
			r.Line(what, report.Plural(blank, "row"))
		}
		if implausible := lapsed.Implausible(); implausible > 0 {
			r.Attention("%s with more than a hundred years between the two dates, not in the figures", report.Plural(implausible, "row"))
		}
		if unit.CountsDays() && request.End != "" {
			r.Line("Counted: %s", map[lapse.Ends]string{lapse.LaterEnd: "the later day, not the earlier", lapse.EarlierEnd: "the earlier day, not the later", lapse.BothEnds: "both days", lapse.NoEnds: "neither of the two days"}[request.Measure.Ends])
		}
	}
	if request.End == "" && !request.FromPrevious && request.IsMeasured {
		r.Line("Up to %s, the as-of day", request.AsOf)
	}
	if request.Filtered > 0 {
		r.Line("Excluded: %s by --where", report.Plural(request.Filtered, "row"))
	}
	for _, text := range request.Unmatched {
		r.Line("--where: %s", text)
	}
	unknown := slices.Sorted(maps.Keys(lapsed.Unknown))
	if more := len(unknown) - maxHoles; more > 0 {
		defer r.Attention("%s that there are not", report.Plural(more, "more place"))
		unknown = unknown[:maxHoles]
	}
	for _, name := range unknown {
		_, err := request.Places.Of(name)
		if name == "" {
			err = errors.New("no place is named")
		}
		r.Attention("%s left blank: %s", report.Plural(lapsed.Unknown[name], "row"), err)
	}
}

// mostShares is how many lines of a distribution by group people are shown.
const mostShares = 40

// distributionTable is the distribution for people: by group where these are few, and not there for the rows before.
func (l *lapseCommand) distributionTable(request *app.Lapse, lapsed *app.Lapsed) (header []string, right []bool, lines [][]string) {
	by := request.By
	shares := lapsed.Distribution(request.Bands, len(by))
	if len(shares) > mostShares || request.FromPrevious {
		by, shares = nil, lapsed.Ungrouped().Distribution(request.Bands, 0)
	}
	header = append(slices.Clone(by), unitWords(request.Measure.Unit), "rows", "share", "up to here")
	right = append(make([]bool, len(by)+1), true, true, true)
	for _, share := range shares {
		lines = append(lines, append(slices.Clone(share.Group), share.Label, report.Count(share.Rows), percent(share.Rows, share.OfGroup)+"%", percent(share.UpTo, share.OfGroup)+"%"))
	}
	return header, right, lines
}

// percent is a share with one decimal.
func percent(part, whole int) string {
	return decimal.OfInt(100*part).Over(max(whole, 1), 1).Text(1)
}

// writeDistribution writes how many rows each band has.
func (l *lapseCommand) writeDistribution(request *app.Lapse, lapsed *app.Lapsed) error {
	var columns []cell.Column
	for _, name := range request.By {
		place, err := request.Source.Find(name)
		if err != nil {
			return err
		}
		columns = append(columns, cell.Column{Name: request.Source.Names()[place]})
	}
	columns = append(columns, cell.Column{Name: "band"}, cell.Column{Name: "band_sort", Type: cell.Integer}, cell.Column{Name: "rows", Type: cell.Integer},
		cell.Column{Name: "percent", Type: cell.Decimal, Scale: 1}, cell.Column{Name: "percent_up_to", Type: cell.Decimal, Scale: 1})
	for i, column := range columns[:len(request.By)] {
		if slices.ContainsFunc(columns[i+1:], func(other cell.Column) bool { return other.Name == column.Name }) {
			return &fault.Fault{File: request.Source.Name(), Column: column.Name, What: "would be in the result twice", Remedy: "Rename it with --rename"}
		}
	}
	sinks, err := l.out.open(l.app, columns, true)
	if err != nil {
		return err
	}
	defer sinks.abort()
	for _, share := range lapsed.Distribution(request.Bands, len(request.By)) {
		var row []cell.Value
		for _, value := range share.Group {
			row = append(row, cell.OfText(value))
		}
		row = append(row, cell.OfText(share.Label), cell.OfInteger(share.Sort), cell.OfInteger(share.Rows), cell.OfDecimal(percent(share.Rows, share.OfGroup)), cell.OfDecimal(percent(share.UpTo, share.OfGroup)))
		if err := sinks.write(row); err != nil {
			return err
		}
	}
	if err := sinks.commit(); err != nil {
		return err
	}
	l.app.report().Headline("%s measured%s", report.Plural(lapsed.Rows, "row"), l.out.where())
	l.print(request, lapsed)
	return nil
}

// hasHours tells whether a site has opening hours.
func hasHours(site yearplan.Site) bool { return site.Hours != nil }
