package cli

import (
	"context"
	"errors"
	"fmt"
	"os"
	"strings"

	"github.com/spf13/cobra"

	"roundyear/calendar"
	"roundyear/cell"
	"roundyear/civil"
	"roundyear/dimension"
	"roundyear/internal/nearest"
	"roundyear/internal/reading"
	"roundyear/internal/report"
	"roundyear/internal/table"
)

// The years that a dimension can have: the Gregorian calendar began in October
// 1582, and years have four digits.
var (
	firstBuilt = civil.MustOf(1583, civil.January, 1)
	lastBuilt  = civil.MaxDay
)

type buildCommand struct {
	app        *App
	span       rangeFlags
	wholeYears bool
	covers     []string
	exact      bool
	padYears   int
	columns    []string
	calendars  calendarFlags
	reading    readingFlags
	out        outputFlags
}

func (a *App) buildCommand() *cobra.Command {
	b := &buildCommand{app: a}
	command := &cobra.Command{
		Use:   "build",
		Short: "Build the date dimension: one row a day, no hole, whole years",
		Long: `Build writes one row for each day of a range, with the attributes of the
calendar year, of weeks and of the fiscal year. roundyear columns lists them.

The range is either the one of --from and --to, or the one that facts need:
--cover goes from their earliest to their latest day, and every calendar and
fiscal year that holds such a day is whole.`,
		Example: `  roundyear build --from 2024-01-01 --to 2026-12-31 -o dates.csv
  roundyear build --cover clean/sales.csv:sold_at_date --fiscal-start february -o dates.csv -o dates.jsonl
  roundyear build --from 2026-01-01 --to 2026-01-31 --columns date,day_name,fiscal`,
		Args: arguments(0, 0, ""),
		RunE: func(command *cobra.Command, _ []string) error { return b.run(command.Context()) },
	}
	b.span.add(command, "the range")
	flags := command.Flags()
	flags.BoolVar(&b.wholeYears, "whole-years", false, "widen --from and --to to whole calendar and fiscal years")
	flags.StringArrayVar(&b.covers, "cover", nil, "go from the earliest to the latest day of facts, in whole years: `FILE:COLUMN` (repeatable)")
	flags.BoolVar(&b.exact, "exact", false, "with --cover: no wider than the facts")
	flags.IntVar(&b.padYears, "pad-years", 0, "so many `YEARS` more at both sides")
	flags.StringSliceVar(&b.columns, "columns", nil, "`ATTRIBUTES` or groups to write, in this order (default: all)")
	b.calendars.add(command)
	b.calendars.addWeekend(command)
	b.reading.add(command)
	b.out.add(command)
	return command
}

func (b *buildCommand) run(ctx context.Context) error {
	catalogue, set, err := b.calendars.catalogue()
	if err != nil {
		return err
	}
	attributes, err := selected(catalogue, "--columns", b.columns)
	if err != nil {
		return err
	}
	from, to, left, err := b.bounds(ctx, set)
	if err != nil {
		return err
	}
	if from < firstBuilt || to > lastBuilt {
		return usageError{fmt.Errorf("the range from %s to %s is not within %s to %s", from, to, firstBuilt, lastBuilt)}
	}
	columns := make([]cell.Column, len(attributes))
	for i, attribute := range attributes {
		columns[i] = attribute.Column()
	}
	sinks, err := b.out.open(b.app, columns, false)
	if err != nil {
		return err
	}
	defer sinks.abort()
	headline := func() {
		b.app.report().Headline("%s, one a day from %s to %s, with %s%s", report.Plural(int(to-from)+1, "row"), from, to, report.Plural(len(attributes), "attribute"), b.out.where())
	}
	if sinks.forPeople() {
		headline()
	}
	for row := range catalogue.Days(attributes, from, to) {
		if err := sinks.write(row); err != nil {
			return err
		}
		if ctx.Err() != nil {
			return ctx.Err()
		}
	}
	if err := sinks.commit(); err != nil {
		return err
	}
	if !sinks.forPeople() {
		headline()
	}
	r := b.app.report()
	r.Line("Whole calendar years: %s", wholeYears(set.Year, from, to))
	for _, fiscal := range set.Fiscal {
		if fiscal.Starts() != civil.January {
			r.Line("Whole %s years: %s", fiscal.Name(), wholeYears(fiscal, from, to))
		}
	}
	sayFiscal(r, set, from.AddMonths(11))
	for _, sentinel := range left {
		r.Line("Left out of the range: %s (%s), a day that systems write for none", sentinel.Day, report.Plural(sentinel.Count, "fact"))
	}
	if len(b.out.outs) > 0 && b.out.outs[0] != "-" {
		r.Next("roundyear check " + b.out.outs[0] + coverArguments(b.covers))
	}
	return nil
}

// selected returns the attributes that a flag names.
func selected(catalogue *dimension.Catalogue, flag string, names []string) ([]dimension.Attribute, error) {
	attributes, err := catalogue.Select(names)
	var unknown *dimension.UnknownName
	if errors.As(err, &unknown) {
		return nil, usageError{fmt.Errorf("%s: %w%s", flag, err, didYouMean(nearest.Name(unknown.Name, unknown.Known)))}
	}
	return attributes, err
}

func coverArguments(covers []string) string {
	var text strings.Builder
	for _, cover := range covers {
		text.WriteString(" --cover " + cover)
	}
	return text.String()
}

func didYouMean(name string) string {
	if name == "" {
		return "; roundyear columns lists them"
	}
	return fmt.Sprintf(". Did you mean %q?", name)
}

// bounds returns the first and last day, and the sentinel days left out.
func (b *buildCommand) bounds(ctx context.Context, set *calendar.Set) (from, to civil.Day, left []dimension.DayCount, err error) {
	first, last, err := b.span.days()
	if err != nil {
		return 0, 0, nil, err
	}
	if b.padYears < 0 {
		return 0, 0, nil, usageError{fmt.Errorf("--pad-years is 0 or more, not %d", b.padYears)}
	}
	switch {
	case len(b.covers) > 0 && (first != nil || last != nil):
		return 0, 0, nil, usageError{errors.New("--cover finds the range by itself; leave --from and --to out")}
	case len(b.covers) > 0:
		if from, to, left, err = b.covered(ctx); err != nil {
			return 0, 0, nil, err
		}
	case first == nil || last == nil:
		return 0, 0, nil, usageError{errors.New("the range is missing: give --from and --to, or --cover FILE:COLUMN")}
	default:
		from, to = *first, *last
	}
	if b.exact && b.wholeYears {
		return 0, 0, nil, usageError{errors.New("--exact and --whole-years contradict each other")}
	}
	if b.wholeYears || len(b.covers) > 0 && !b.exact {
		from, to = set.WholeYears(from, to)
	}
	if b.padYears > 0 {
		if b.padYears > 9999 {
			return 0, 0, nil, usageError{fmt.Errorf("--pad-years %d leads beyond the year 9999", b.padYears)}
		}
		// Moved by the day after the end, so that a February ends on its last day.
		from, to = from.AddMonths(-12*b.padYears), (to+1).AddMonths(12*b.padYears)-1
	}
	return from, to, left, nil
}

// covered returns the range of the days of facts.
func (b *buildCommand) covered(ctx context.Context) (from, to civil.Day, left []dimension.DayCount, err error) {
	var all dimension.Coverage
	for _, cover := range b.covers {
		err := b.app.eachDay(ctx, cover, b.reading, func() dayCollector { return &dimension.Coverage{} }, func(part dayCollector) {
			all.Join(*part.(*dimension.Coverage))
		})
		if err != nil {
			return 0, 0, nil, err
		}
	}
	from, to, ok := all.Range()
	if !ok {
		return 0, 0, nil, &table.Fault{File: strings.Join(b.covers, ", "), What: "holds no dates to cover"}
	}
	return from, to, all.Sentinels(), nil
}

// dayCollector takes in the days of facts.
type dayCollector interface{ Add(civil.Day) }

// eachDay reads the dates of FILE:COLUMN, side by side, and joins what the
// collectors have taken in. Dates that cannot be read are an error.
func (a *App) eachDay(ctx context.Context, cover string, flags readingFlags, collector func() dayCollector, join func(dayCollector)) error {
	input, column := splitCover(cover)
	source, done, err := a.open(ctx, []string{input}, 2)
	if err != nil {
		return err
	}
	defer done()
	clock, err := flags.clock()
	if err != nil {
		return err
	}
	dates, err := a.dates(ctx, source, column, flags)
	if err != nil {
		return err
	}
	if err := dates.FirstUnread(); err != nil {
		return err
	}
	work := func() func(*table.Chunk) (dayCollector, error) {
		reader := dates.Reader()
		return func(chunk *table.Chunk) (dayCollector, error) {
			reader.Enter(chunk.File)
			collected := collector()
			var record table.Record
			records := chunk.Records()
			for records.Next(&record) {
				moment, state := reader.Read(&record)
				if state == reading.Read {
					day, ok := clock.Day(moment)
					if !ok {
						return nil, reader.NoZone(&record, chunk.File)
					}
					collected.Add(day)
				} else if blanks, ok := collected.(interface{ AddBlank() }); ok {
					blanks.AddBlank()
				}
			}
			return collected, records.Err()
		}
	}
	return table.Process(ctx, source, work, func(part dayCollector) error {
		join(part)
		return nil
	})
}

// splitCover splits FILE:COLUMN. A path that is there as written has no column.
func splitCover(cover string) (input, column string) {
	if _, err := os.Lstat(cover); err == nil {
		return cover, ""
	}
	at := strings.LastIndexByte(cover, ':')
	if at < 0 {
		return cover, ""
	}
	return cover[:at], cover[at+1:]
}

// dates settles how one date column is read: the one named, the first of the
// parts, or the only one that there is.
func (a *App) dates(ctx context.Context, source *table.Source, column string, flags readingFlags) (*reading.Dates, error) {
	asked, err := flags.asked()
	if err != nil {
		return nil, err
	}
	var columns []string
	switch {
	case column != "":
		columns, asked.Parts = []string{column}, nil
	case len(asked.Parts) > 0:
		asked.Parts = asked.Parts[:1]
	default:
		name, err := reading.OneDateColumn(ctx, source)
		if err != nil {
			return nil, err
		}
		columns = []string{name}
	}
	dates, err := reading.Decide(ctx, source, columns, asked)
	if err != nil {
		return nil, err
	}
	return dates[0], nil
}

// wholeYears lists the years that lie in a range from their first day to their
// last.
func wholeYears(years *calendar.Months, from, to civil.Day) string {
	first, last := years.Locate(calendar.Year, from), years.Locate(calendar.Year, to)
	if first.First < from {
		first = years.At(calendar.Year, first.Number+1)
	}
	if last.Last > to {
		last = years.At(calendar.Year, last.Number-1)
	}
	switch {
	case first.Number > last.Number:
		return "none"
	case first.Number == last.Number:
		return years.Label(first)
	}
	return years.Label(first) + " to " + years.Label(last)
}
