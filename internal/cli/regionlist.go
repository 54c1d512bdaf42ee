package cli

import (
	"fmt"
	"strings"

	"roundyear/daysoff/regions"

	"github.com/spf13/pflag"

	"roundyear/cell"
	"roundyear/internal/report"
)

// listRegions lists the regions whose days off the program knows.
func (d *daysOffCommand) listRegions(args []string) error {
	codes := regions.Codes()
	if len(args) > 0 {
		codes = args
	}
	columns := []cell.Column{{Name: "region"}, {Name: "name"}, {Name: "verified_from", Type: cell.Integer}, {Name: "verified_to", Type: cell.Integer},
		{Name: "weekend"}, {Name: "weekend_since", Type: cell.Date}, {Name: "subdivisions"}}
	if d.why {
		columns = append(columns, cell.Column{Name: "source"}, cell.Column{Name: "missing"})
	}
	var rows [][]cell.Value
	parts := 0
	for _, code := range codes {
		region, err := regions.Of(code)
		if err != nil {
			return usageError{err}
		}
		var weekend []string
		for _, weekday := range region.Weekend {
			weekend = append(weekend, strings.ToLower(weekday.String()))
		}
		since := cell.Blank
		if region.WeekendSince != nil {
			since = cell.OfDay(*region.WeekendSince)
		}
		row := []cell.Value{cell.OfText(region.Code), cell.OfText(region.Name), cell.OfInteger(region.VerifiedFrom), cell.OfInteger(region.VerifiedTo),
			cell.OfText(strings.Join(weekend, " ")), since, cell.OfText(strings.Join(region.Subdivisions, " "))}
		if d.why {
			row = append(row, cell.OfText(region.Source), cell.OfText(strings.Join(region.Missing, " ")))
		}
		rows = append(rows, row)
		parts += len(region.Subdivisions)
	}
	sinks, err := d.out.open(d.app, columns, true)
	if err != nil {
		return err
	}
	defer sinks.abort()
	d.app.report().Headline("%s with %s%s", report.Plural(len(rows), "region"), report.Plural(parts, "subdivision"), d.out.where())
	for _, row := range rows {
		if err := sinks.write(row); err != nil {
			return err
		}
	}
	return sinks.commit()
}

// unsuited says which flag of a list of days says nothing of a list of regions.
func unsuited(flags *pflag.FlagSet) error {
	var fault error
	flags.Visit(func(flag *pflag.Flag) {
		switch flag.Name {
		case "regions", "why", "out", "format", "plan", "color", "quiet":
		default:
			fault = usageError{fmt.Errorf("--regions lists regions, not days: omit --%s", flag.Name)}
		}
	})
	return fault
}
