package cli

import (
	"github.com/spf13/cobra"

	"roundyear/calendar"
	"roundyear/cell"
	"roundyear/civil"
	"roundyear/dimension"
	"roundyear/internal/app"
)

type columnsCommand struct {
	app       *App
	columns   []string
	languages []string
	labels    []string
	asOf      string
	calendars calendarFlags
	out       outputFlags
}

func (a *App) columnsCommand() *cobra.Command {
	c := &columnsCommand{app: a}
	command := &cobra.Command{
		Use:   "columns",
		Short: "List the attributes of the date dimension: type, meaning, sort key, example",
		Long: `Columns lists the attributes that build can write, by group, with type, meaning,
sort key, the coarsest period in which the value is always the same, and an
example. Which attributes there are depends on the plan.

Groups of attributes: core, position, earlier, weeks, workdays, moving, labels, each
fiscal calendar by its name (fiscal without a plan), each prefix of days off, and
names_nl and so on for additional languages.`,
		Example: `  roundyear columns
  roundyear columns --columns fiscal,moving
  roundyear columns --fiscal-start february -o attributes.md`,
		Args: arguments(0, 0, ""),
		RunE: func(*cobra.Command, []string) error { return c.run() },
	}
	flags := command.Flags()
	flags.StringSliceVar(&c.columns, "columns", nil, "`ATTRIBUTES` or groups to list (default: all)")
	flags.StringSliceVar(&c.languages, "language", nil, "`LANGUAGES` of names, such as en,de")
	flags.StringArrayVar(&c.labels, "label", nil, "add a label, `NAME=PATTERN` in Unicode LDML (repeatable)")
	flags.StringVar(&c.asOf, "as-of", "", "`DATE` that counts as today (default: today)")
	c.calendars.add(command)
	c.calendars.addWeekend(command)
	c.out.add(command)
	addDescribe(command, &c.out.describe)
	return command
}

func (c *columnsCommand) run() error {
	y, err := c.app.year(&c.calendars)
	if err != nil {
		return err
	}
	if err := overruleNames(y.Plan, c.languages, c.labels); err != nil {
		return err
	}
	asOf, err := asOf(c.asOf)
	if err != nil {
		return err
	}
	catalogue, err := c.app.catalogue(y, asOf)
	if err != nil {
		return err
	}
	names := c.columns
	if len(names) == 0 {
		names = []string{"all"}
	}
	attributes, err := selected(catalogue, "--columns", names)
	if err != nil {
		return err
	}
	columns := []cell.Column{{Name: "name"}, {Name: "group"}, {Name: "type"}, {Name: "sort_by"}, {Name: "same_for"}, {Name: "example"}, {Name: "meaning"}}
	sinks, err := c.out.open(c.app, columns, true)
	if err != nil {
		return err
	}
	defer sinks.abort()
	r := c.app.report()
	r.Headline("%d attributes; examples are for %s, a %s, as of %s", len(attributes), exampleDay, exampleDay.Weekday(), asOf)
	for _, fiscal := range y.Set.Fiscal {
		year := fiscal.Locate(calendar.Year, exampleDay)
		r.Line("Its %s year is %s, from %s to %s", fiscal.Name(), fiscal.Label(year), year.First, year.Last)
	}
	for example := range catalogue.Days(attributes, exampleDay, exampleDay) {
		for i, attribute := range attributes {
			if err := sinks.write(catalogueRow(y, attribute, example[i])); err != nil {
				return err
			}
		}
	}
	return sinks.commit()
}

func catalogueRow(y *app.Year, attribute dimension.Attribute, example cell.Value) []cell.Value {
	sortBy := ""
	if attribute.SortBy != "" {
		sortBy = y.Plan.Model.Naming.Of(attribute.SortBy)
	}
	return []cell.Value{
		cell.OfText(y.Plan.Model.Naming.Of(attribute.Name)), cell.OfText(attribute.Group), cell.OfText(attribute.Type.String()), cell.OfText(sortBy),
		cell.OfText(attribute.SameFor.String()), cell.OfText(example.String()), cell.OfText(attribute.Meaning),
	}
}

// exampleDay is one on which the calendar year, the ISO year and most fiscal
// years differ in their numbers.
var exampleDay = civil.MustOf(2027, civil.January, 2)
