package cli

import (
	"context"
	"errors"
	"fmt"
	"path/filepath"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"roundyear/civil"
	"roundyear/dimension"
	"roundyear/internal/app"
	"roundyear/internal/publish"
	"roundyear/internal/report"
	"roundyear/internal/terminal"
	"roundyear/language"
	"roundyear/nearest"
	"roundyear/yearplan"
)

type buildCommand struct {
	app     *App
	command *cobra.Command
	days    spanFlags
	grain   string
	clock   string
	trading bool
	columns []string
	// languages and labels win over the plan's.
	languages  []string
	labels     []string
	unknownRow bool
	model      bool
	verified   bool
	asOf       string
	calendars  calendarFlags
	reading    readingFlags
	out        outputFlags
}

func (a *App) buildCommand() *cobra.Command {
	b := &buildCommand{app: a}
	command := &cobra.Command{
		Use:   "build",
		Short: "Build the date dimension: one row per day, no gaps, whole years",
		Long: `Build writes a date dimension: one row per day, with the columns that you choose
from some 300 attributes of the calendar year, weeks, fiscal calendars and days
off. roundyear columns lists them.

The range is --from and --to, or it is taken from your data: --cover, or
range.cover in the plan, goes from the earliest to the latest date and is widened
to whole calendar and fiscal years.

Other tables: --grain writes one row per period, with the attributes that are the
same for the whole period; --clock writes one row per time of day; --trading
writes one row per day and site.

Groups of attributes: core, position, earlier, weeks, workdays, moving, labels, each
fiscal calendar by its name (fiscal without a plan), each prefix of days off, and
names_nl and so on for additional languages.`,
		Example: `  roundyear build -o dates.csv
  roundyear build --from 2024-01-01 --to 2026-12-31 --columns core,weeks -o dates.csv
  roundyear build --cover clean/sales.csv:sold_at_date --fiscal-start february -o dates.csv -o dates.jsonl
  roundyear build --grain fiscal.month -o months.csv
  roundyear build --clock 15m -o times.csv
  roundyear build --trading -o trading.csv
  roundyear build --from 2026-01-01 --to 2026-01-31 --language nl --columns date,day_name,fiscal_month_label`,
		Args: arguments(0, 0, ""),
		RunE: func(command *cobra.Command, _ []string) error { return b.run(command.Context()) },
	}
	b.command = command
	b.days.add(command)
	flags := command.Flags()
	flags.StringVar(&b.grain, "grain", "day", "one row per `GRAIN`: day, week, iso.week, month, quarter, half, year, fiscal.month …")
	flags.StringVar(&b.clock, "clock", "", "write the time-of-day table instead, one row per `STEP`: 1h, 15m, 30s …")
	flags.BoolVar(&b.trading, "trading", false, "write the trading table instead: for each day and site of the plan whether it is open, and why")
	flags.StringSliceVar(&b.columns, "columns", nil, "`ATTRIBUTES` or groups to write, in this order, or all (default: the plan's, else all except the group moving)")
	flags.StringSliceVar(&b.languages, "language", nil, "`LANGUAGES` of names, such as en,de: the first for the main columns, the others for additional ones")
	flags.StringArrayVar(&b.labels, "label", nil, "add a label column, `NAME=PATTERN` in Unicode LDML: 'date_label=dd/MM/yyyy' (repeatable)")
	flags.BoolVar(&b.unknownRow, "unknown-row", false, "add a row for facts without a date")
	flags.BoolVar(&b.model, "model", false, "write datapackage.json and model.md next to the table, and its columns into a second sheet of a workbook (always if the plan has a model)")
	flags.BoolVar(&b.verified, "only-verified", false, "stop if the range includes years for which a region's days off are not verified")
	flags.StringVar(&b.asOf, "as-of", "", "`DATE` that counts as today, for the group moving (default: today)")
	b.calendars.add(command)
	b.calendars.addWeekend(command)
	b.reading.addWithoutLanguage(command)
	b.out.add(command)
	return command
}

func (b *buildCommand) run(ctx context.Context) error {
	y, err := b.app.year(&b.calendars)
	if err != nil {
		return err
	}
	if err := overruleNames(y.Plan, b.languages, b.labels); err != nil {
		return err
	}
	b.out.describe = b.model && (b.clock != "" || b.trading) && len(b.out.outs) > 0
	if b.clock != "" {
		return b.buildClock(y)
	}
	if b.trading {
		return b.buildTrading(ctx, y)
	}
	asOf, err := asOf(b.asOf)
	if err != nil {
		return err
	}
	t, err := b.describe(y, asOf)
	if err != nil {
		return err
	}
	reading, err := b.reading.read()
	if err != nil {
		return err
	}
	if err := b.days.find(ctx, b.app, y, reading, t); err != nil {
		return err
	}
	if err := b.checkVerified(y, t); err != nil {
		return err
	}
	if !t.Coarsen() {
		return usageError{fmt.Errorf("none of the columns is the same for a whole %s", grainWords(t.Grain))}
	}
	b.outs(y)
	return b.write(ctx, y, t)
}

// checkVerified refuses a range that goes beyond what is verified of the days off
// of a region, if that is asked for.
func (b *buildCommand) checkVerified(y *app.Year, t *app.DateTable) error {
	if !b.verified {
		return nil
	}
	if beyond := y.BeyondVerified(t.From, t.To); len(beyond) > 0 {
		return usageError{fmt.Errorf("--only-verified: the table runs from %s to %s, but days off are verified for %s; narrow the range, or omit --only-verified", t.From, t.To, strings.Join(beyond, ", "))}
	}
	return nil
}

// describe works out what the table has, but not yet from when to when.
func (b *buildCommand) describe(y *app.Year, asOf civil.Day) (*app.DateTable, error) {
	t := &app.DateTable{AsOf: asOf}
	var err error
	if t.Catalogue, err = b.app.catalogue(y, asOf); err != nil {
		return nil, err
	}
	if t.Grain, err = y.Set.Grain(b.grain); err != nil {
		return nil, usageError{err}
	}
	names := b.columns
	if len(names) == 0 && t.IsDaily() {
		names = y.Plan.Model.Columns
	}
	if t.Attributes, err = selected(t.Catalogue, "--columns", names); err != nil {
		return nil, err
	}
	t.AddSpecial(y, b.wantsUnknown())
	return t, nil
}

// wantsUnknown tells whether there is a row for facts without a date; nil if the call does not say so.
func (b *buildCommand) wantsUnknown() *bool {
	if !given(b.command)["unknown-row"] {
		return nil
	}
	return &b.unknownRow
}

// outs takes the outputs of the plan where none is named. A range of the call's
// own is not put in the place of the plan's table without being asked for.
func (b *buildCommand) outs(y *app.Year) {
	if len(b.out.outs) > 0 || b.out.format != "" || b.grain != "day" {
		return
	}
	var outs []string
	for _, out := range y.Plan.Model.Out {
		outs = append(outs, shown(y.Path(out)))
	}
	if !b.days.given() {
		b.out.outs = outs
	} else if len(outs) > 0 {
		b.app.report().Line("Not written to %s, because the range differs from the plan's; to replace it, add -o %s", strings.Join(outs, ", "), terminal.Path(outs[0]))
	}
}

// overruleNames puts the languages and labels of flags in the place of the
// plan's.
func overruleNames(plan *yearplan.Plan, languages, labels []string) error {
	if len(languages) > 0 {
		plan.Names = nil
		for _, tag := range languages {
			names, err := language.Of(tag)
			if err != nil {
				near := nearest.Name(tag, language.Tags())
				if near != "" {
					return usageError{fmt.Errorf("--language: %w. Did you mean %s?", err, near)}
				}
				return usageError{fmt.Errorf("--language: %w", err)}
			}
			if !slices.ContainsFunc(plan.Names, func(n *language.Names) bool { return strings.EqualFold(n.Tag, tag) }) {
				plan.Names = append(plan.Names, names)
			}
		}
	}
	for _, text := range labels {
		name, pattern, found := strings.Cut(text, "=")
		if !found || name == "" {
			return usageError{fmt.Errorf("--label must be NAME=PATTERN, such as 'date_label=dd/MM/yyyy', not %q", text)}
		}
		parsed, err := language.ParsePattern(pattern)
		if err != nil {
			return usageError{fmt.Errorf("--label: %w", err)}
		}
		plan.Labels = slices.DeleteFunc(plan.Labels, func(l dimension.Label) bool { return l.Name == name })
		plan.Labels = append(plan.Labels, dimension.Label{Name: name, Pattern: parsed})
	}
	return nil
}

// write writes the table and reports on it.
func (b *buildCommand) write(ctx context.Context, y *app.Year, t *app.DateTable) error {
	var err error
	if t.Columns, err = y.Plan.Model.Naming.Columns(t.Attributes); err != nil {
		return usageError{err}
	}
	for i, attribute := range t.Attributes {
		t.Columns[i].Key = attribute.Role == dimension.RoleKey && attribute.SameFor == t.Grain
	}
	sinks, err := b.out.open(b.app, t.Columns, false)
	if err != nil {
		return err
	}
	defer sinks.abort()
	headline := func(count int) {
		b.app.report().Headline("%s, one per %s from %s to %s, with %s%s", report.Plural(count, "row"), grainWords(t.Grain), t.From, t.To, report.Plural(len(t.Attributes), "attribute"), b.out.where())
	}
	if sinks.forPeople() {
		headline(t.Len())
	}
	for _, special := range t.Special {
		if err := sinks.write(special.Values(t.Attributes)); err != nil {
			return err
		}
	}
	if blocks, ok := t.Blocks(); ok && sinks.isLines() {
		err = sinks.writeBlocks(ctx, blocks)
	} else {
		err = app.Each(ctx, t.Rows(), sinks.write)
	}
	if err != nil {
		return err
	}
	described := b.wantsModel(y)
	model := publish.Of(t.Catalogue, t.Attributes, t.Columns, t.Grain)
	if described {
		if err := writeColumns(sinks, model); err != nil {
			return err
		}
	}
	if err := sinks.close(); err != nil {
		return err
	}
	if described {
		if err := b.writeModel(y, t, model); err != nil {
			return err
		}
	}
	if err := b.app.files.Commit(); err != nil {
		return err
	}
	if !sinks.forPeople() {
		headline(t.Len())
	}
	if err := b.print(y, t); err != nil {
		return err
	}
	if t.TellsDaysOff(y) {
		b.app.printBeyondVerified(y, t.From, t.To)
		if note := onlyPrefixed(y.Plan.DaysOff); note != "" {
			b.app.report().Note("%s", note)
		}
	}
	if described {
		folder := filepath.Dir(b.out.outs[0])
		b.app.report().Line("Description: %s and %s", filepath.Join(folder, packageName), filepath.Join(folder, pageName))
	}
	b.printNext(t)
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

func didYouMean(name string) string {
	if name == "" {
		return "; roundyear columns lists them"
	}
	return fmt.Sprintf(". Did you mean %q?", name)
}
