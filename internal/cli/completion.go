package cli

import (
	"context"
	"slices"
	"strings"

	"roundyear/daysoff/regions"
	"roundyear/facts/lapse"

	"github.com/spf13/cobra"

	"roundyear/internal/app"
	"roundyear/internal/delimited"
	"roundyear/internal/dialect"
	"roundyear/internal/table"
)

// completer lists what a word of a command line can be. It completes what is typed so
// far; what cannot be found out has no completions.
type completer = func(command *cobra.Command, args []string, typed string) ([]string, cobra.ShellCompDirective)

// completeAll adds completions to the flags of all commands, by the names of flags:
// grains of the plan's calendars, regions, attributes, and columns of the file at hand.
func (a *App) completeAll(command *cobra.Command) {
	for _, one := range command.Commands() {
		a.completeAll(one)
	}
	for names, complete := range map[string]completer{
		"grain of": a.completeGrains, "at": a.completePlaces, "region": completeRegions, "columns": a.completeAttributes,
		"date by sum mean min max first last distinct median order-per opened closed start end id site at-column keep closing opening mean-over-days budget-date across": completeColumns,
		"in": choices(lapse.Units()...), "over": choices("days", "workdays", "trading-days"), "budget-of": a.completeGrains, "budget-over": choices("days", "workdays", "trading-days"),
		"future": choices("keep", "drop", "apart"), "align": choices("easter", "orthodox-easter"),
		"share": choices("period", "group"), "running": choices("month", "quarter", "half", "year"), "combine": choices("seen", "all"),
		"dialect": choices(dialect.Names()...), "without": choices(withoutFacts, withoutClock, withoutTrading), "run": choices(app.Inside.String(), app.Local.String()),
		"map": a.completeMap, "cover": completeCover,
	} {
		for _, name := range strings.Fields(names) {
			if command.Flags().Lookup(name) == nil {
				continue
			}
			if err := command.RegisterFlagCompletionFunc(name, complete); err != nil {
				panic(err) // a flag has one list of completions
			}
		}
	}
	against := map[string][]string{"totals": {"previous", "year-ago", "two-years-ago", "year-ago-restated", "same-weekday-year-ago"}, "latest": app.LatestNames()}[command.Name()]
	if against != nil {
		if err := command.RegisterFlagCompletionFunc("against", choices(against...)); err != nil {
			panic(err)
		}
	}
	if command.Name() == "days-off" {
		command.ValidArgsFunction = completeRegions
	}
}

// completed are the values that begin with what was typed behind the last comma, each
// with what stands before it.
func completed(values []string, typed string) ([]string, cobra.ShellCompDirective) {
	before := typed[:strings.LastIndexByte(typed, ',')+1]
	var fitting []string
	for _, value := range values {
		if strings.HasPrefix(value, typed[len(before):]) {
			fitting = append(fitting, before+value)
		}
	}
	return fitting, cobra.ShellCompDirectiveNoFileComp
}

// choices completes one of some values.
func choices(values ...string) completer {
	return func(_ *cobra.Command, _ []string, typed string) ([]string, cobra.ShellCompDirective) {
		return completed(values, typed)
	}
}

// completePlaces lists the sites of the plan and the regions.
func (a *App) completePlaces(command *cobra.Command, args []string, typed string) ([]string, cobra.ShellCompDirective) {
	found, directive := completeRegions(command, args, typed)
	if y, err := a.year(nil); err == nil {
		for _, site := range y.Plan.Sites {
			if strings.HasPrefix(site.Name, typed) {
				found = append(found, site.Name)
			}
		}
	}
	return found, directive
}

func (a *App) completeGrains(_ *cobra.Command, _ []string, typed string) ([]string, cobra.ShellCompDirective) {
	y, err := a.year(nil)
	if err != nil {
		return completed(nil, typed)
	}
	var names []string
	for _, grain := range y.Set.Grains() {
		names = append(names, grain.String())
	}
	return completed(names, typed)
}

func completeRegions(_ *cobra.Command, _ []string, typed string) ([]string, cobra.ShellCompDirective) {
	codes := regions.Codes()
	if country, _, parts := strings.Cut(typed, "-"); parts {
		if region, err := regions.Of(country); err == nil {
			codes = append(codes, region.Subdivisions...)
		}
	}
	slices.Sort(codes)
	return completed(codes, typed)
}

func (a *App) completeAttributes(_ *cobra.Command, _ []string, typed string) ([]string, cobra.ShellCompDirective) {
	y, err := a.year(nil)
	if err != nil {
		return completed(nil, typed)
	}
	today, err := asOf("")
	if err != nil {
		return completed(nil, typed)
	}
	catalogue, err := a.catalogue(y, today)
	if err != nil {
		return completed(nil, typed)
	}
	names := catalogue.Groups()
	for _, attribute := range catalogue.Attributes() {
		names = append(names, attribute.Name)
	}
	return completed(names, typed)
}

// completeColumns lists the columns of the first file of the call.
func completeColumns(_ *cobra.Command, args []string, typed string) ([]string, cobra.ShellCompDirective) {
	if len(args) == 0 {
		return completed(nil, typed)
	}
	return completed(columnsOf(args[0]), typed)
}

// completeMap lists the columns of the table, and the attributes after the =.
func (a *App) completeMap(command *cobra.Command, args []string, typed string) ([]string, cobra.ShellCompDirective) {
	column, attribute, found := strings.Cut(typed, "=")
	if !found {
		columns, _ := completeColumns(command, args, typed)
		for i := range columns {
			columns[i] += "="
		}
		return columns, cobra.ShellCompDirectiveNoSpace | cobra.ShellCompDirectiveNoFileComp
	}
	names, directive := a.completeAttributes(command, args, attribute)
	for i := range names {
		names[i] = column + "=" + names[i]
	}
	return names, directive
}

// completeCover lists files, and after the : the columns of the file.
func completeCover(_ *cobra.Command, _ []string, typed string) ([]string, cobra.ShellCompDirective) {
	at := colonOf(typed)
	if at < 0 {
		return nil, cobra.ShellCompDirectiveNoSpace
	}
	columns := columnsOf(typed[:at])
	for i := range columns {
		columns[i] = typed[:at+1] + columns[i]
	}
	fitting := slices.DeleteFunc(columns, func(column string) bool { return !strings.HasPrefix(column, typed) })
	return fitting, cobra.ShellCompDirectiveNoFileComp
}

// columnsOf returns the columns of a file; none if it cannot be read.
func columnsOf(file string) []string {
	if file == "-" {
		return nil
	}
	source, err := table.Open(context.Background(), []string{file}, nil, delimited.Form{Header: delimited.HeaderIsThere})
	if err != nil {
		return nil
	}
	defer source.Close()
	return slices.Clone(source.Names())
}
