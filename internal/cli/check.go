package cli

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"github.com/spf13/cobra"

	"roundyear/check"
	"roundyear/dimension"
	"roundyear/internal/app"
	"roundyear/internal/delimited"
	"roundyear/nearest"
)

type checkCommand struct {
	app       *App
	date      string
	key       string
	maps      []string
	covers    []string
	languages []string
	labels    []string
	asOf      string
	json      bool
	calendars calendarFlags
	reading   readingFlags

	command *cobra.Command
	year    *app.Year
	// built are the flags that the table was built with, as its description says.
	built           []string
	fromDescription map[string]bool
}

func (a *App) checkCommand() *cobra.Command {
	c := &checkCommand{app: a, fromDescription: map[string]bool{}}
	command := &cobra.Command{
		Use:   "check TABLE",
		Short: "Verify a date table, and that facts match it",
		Long: `Check reads a date table, whoever built it, and verifies it:

  - every day is there exactly once, in order and without a time of day, and keys
    match their dates;
  - every column that it recognises is recalculated from the date and compared;
  - each label has one sort key within its year, and periods are contiguous,
    undivided and nested in coarser ones;
  - with --cover, or a plan that has facts, every date of the facts is in the
    table, and the years that contain them are complete.

Columns are recognised by their names (those that roundyear columns lists, and
similar ones), by their values if there is a plan, or by --map. What a column
depends on, such as the fiscal year, comes from the calendar flags, the plan, or
the description that build wrote next to the table; otherwise check uses the
language, weekend and first weekday that most rows follow. It lists the columns
that it could not check, and why.

It writes nothing, and exits with 1 if it found faults.`,
		Example: `  roundyear check dates.csv
  roundyear check dates.csv --cover clean/sales.csv:sold_at_date --json
  roundyear check dates.csv --map month_label=month_label --fiscal-start february`,
		Args: arguments(1, 1, "the date table"),
		RunE: func(command *cobra.Command, args []string) error { return c.run(command.Context(), args[0]) },
	}
	c.command = command
	flags := command.Flags()
	flags.StringVar(&c.date, "date", "", "date `COLUMN` of the table (default: date, or the only date column)")
	flags.StringVar(&c.key, "key", "", "`COLUMN` with the date as yyyymmdd (default: date_key, if it exists)")
	flags.StringArrayVar(&c.maps, "map", nil, "check a column as an attribute, `COLUMN=ATTRIBUTE`; COLUMN= to ignore it (repeatable)")
	flags.StringArrayVar(&c.covers, "cover", nil, "check that the dates of facts are in the table, `FILE:COLUMN` (repeatable; default: the plan's)")
	flags.StringSliceVar(&c.languages, "language", nil, "`LANGUAGES` of the names in the table, such as de (default: the plan's, else en)")
	flags.StringArrayVar(&c.labels, "label", nil, "pattern of a label column, `NAME=PATTERN` in Unicode LDML (repeatable)")
	flags.StringVar(&c.asOf, "as-of", "", "`DATE` that counted as today when the table was built, to check the group moving")
	flags.BoolVar(&c.json, "json", false, "write the report to standard output as JSON")
	c.calendars.add(command)
	c.calendars.addWeekend(command)
	c.reading.addWithoutLanguage(command)
	return command
}

func (c *checkCommand) run(ctx context.Context, input string) error {
	if err := c.takeBuiltWith(input); err != nil {
		return err
	}
	var err error
	if c.year, err = c.app.year(&c.calendars); err != nil {
		return err
	}
	if err := overruleNames(c.year.Plan, c.languages, c.labels); err != nil {
		return err
	}
	mappings, err := c.mappings()
	if err != nil {
		return err
	}
	asOf, err := asOf(c.asOf)
	if err != nil {
		return err
	}
	request := app.Check{Date: c.date, Key: c.key, Mappings: mappings, Year: c.year, HasYear: c.hasYear(), HasLanguages: len(c.languages) > 0, HasAsOf: c.asOf != "",
		Catalogue: func() (*dimension.Catalogue, error) { return c.app.catalogue(c.year, asOf) }}
	reading, err := c.reading.read()
	if err != nil {
		return err
	}
	request.Asked = reading.Asked
	source, done, err := c.app.open(ctx, []string{input}, 2, delimited.Form{Header: delimited.HeaderIsThere})
	if err != nil {
		return err
	}
	defer done()
	request.Source, request.Facts = source, func() ([]*check.Facts, error) {
		done() // the table was read
		covers, err := coversOf(c.year, c.covers, reading)
		if err != nil {
			return nil, err
		}
		return app.DaysOf(ctx, c.app.open, covers)
	}
	report, err := request.Run(ctx)
	var unknown *app.UnknownAttribute
	if errors.As(err, &unknown) {
		return usageError{fmt.Errorf("--map: %w%s", unknown, didYouMean(nearest.Name(unknown.Name, unknown.Known)))}
	}
	if err != nil {
		return err
	}
	c.app.attention = len(report.Faults) > 0
	if c.json {
		return c.writeJSON(report)
	}
	c.print(input, report)
	return nil
}

// mappings reads --map.
func (c *checkCommand) mappings() ([]app.Mapping, error) {
	var all []app.Mapping
	for _, text := range c.maps {
		column, attribute, found := strings.Cut(text, "=")
		if !found {
			return nil, usageError{fmt.Errorf("--map must be COLUMN=ATTRIBUTE, such as Wk=iso_week, not %q", text)}
		}
		all = append(all, app.Mapping{Column: column, Attribute: attribute})
	}
	return all, nil
}

// hasYear tells whether a plan or a flag says how the business's year runs.
func (c *checkCommand) hasYear() bool {
	f := c.calendars
	return c.year.Plan.File != "" || f.fiscalStart != "" || f.fiscalEnd != "" || f.weekStart != "" || f.weekMinDays != 0 || len(f.weekend) > 0 || len(f.regions) > 0
}
