package cli

import (
	"github.com/spf13/cobra"

	"roundyear/calendar"
	"roundyear/cell"
	"roundyear/civil"
)

func (a *App) columnsCommand() *cobra.Command {
	var calendars calendarFlags
	var out outputFlags
	command := &cobra.Command{
		Use:   "columns",
		Short: "List the attributes of the date dimension: type, meaning, sort key, example",
		Long: `Columns lists every attribute that build can write, by group: its type, what it
means, which attribute its values sort by, the coarsest grain over which it stays
the same, and its value on an example day.`,
		Example: `  roundyear columns
  roundyear columns --fiscal-start february -o attributes.md`,
		Args: arguments(0, 0, ""),
		RunE: func(*cobra.Command, []string) error {
			catalogue, set, err := calendars.catalogue()
			if err != nil {
				return err
			}
			columns := []cell.Column{{Name: "name"}, {Name: "group"}, {Name: "type"}, {Name: "sort_by"}, {Name: "same_for"}, {Name: "example"}, {Name: "meaning"}}
			sinks, err := out.open(a, columns, true)
			if err != nil {
				return err
			}
			defer sinks.abort()
			r := a.report()
			r.Headline("%d attributes; the example day is %s, a %s", len(catalogue.Attributes()), exampleDay, exampleDay.Weekday())
			year := set.Fiscal[0].Locate(calendar.Year, exampleDay)
			r.Line("The fiscal year of that day is %s, from %s to %s", set.Fiscal[0].Label(year), year.First, year.Last)
			for example := range catalogue.Days(catalogue.Attributes(), exampleDay, exampleDay) {
				for i, attribute := range catalogue.Attributes() {
					err := sinks.write([]cell.Value{
						cell.OfText(attribute.Name), cell.OfText(attribute.Group), cell.OfText(attribute.Type.String()), cell.OfText(attribute.SortBy),
						cell.OfText(attribute.Holds.String()), cell.OfText(example[i].String()), cell.OfText(attribute.Meaning),
					})
					if err != nil {
						return err
					}
				}
			}
			return sinks.commit()
		},
	}
	calendars.add(command)
	calendars.addWeekend(command)
	out.add(command)
	return command
}

// exampleDay is one on which the calendar year, the ISO year and most fiscal
// years differ in their numbers.
var exampleDay = civil.MustOf(2027, civil.January, 2)
