package cli

import (
	"context"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"roundyear/calendar"
	"roundyear/check"
	"roundyear/civil"
	"roundyear/datetext"
	"roundyear/dimension"
	"roundyear/internal/app"
	"roundyear/internal/delimited"
	"roundyear/internal/nearest"
	"roundyear/internal/reading"
	"roundyear/language"
	"roundyear/rows"
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

	command   *cobra.Command
	year      *app.Year
	catalogue *dimension.Catalogue
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
	if err := c.makeCatalogue(); err != nil {
		return err
	}
	found, err := c.readTable(ctx, input)
	if err != nil {
		return err
	}
	covers, err := coversOf(c.year, c.covers, c.reading)
	if err != nil {
		return err
	}
	facts, err := c.app.daysOf(ctx, covers)
	if err != nil {
		return err
	}
	report := found.dates.Report(facts...)
	if len(facts) > 0 {
		calendars := []calendar.Calendar{c.year.Set.Year}
		if c.hasYear() {
			for _, fiscal := range c.year.Set.Fiscal {
				if !calendar.IsCalendarYear(fiscal) {
					calendars = append(calendars, fiscal)
				}
			}
		}
		report.AddYears(calendars, facts)
	}
	report.AddValues(found.compared)
	report.AddStructure(found.structure)
	report.Columns, report.Unchecked = found.columns, found.unchecked
	c.app.attention = len(report.Faults) > 0
	if c.json {
		return c.writeJSON(report)
	}
	c.print(input, report)
	return nil
}

// makeCatalogue makes the catalogue of what the plan and the flags say.
func (c *checkCommand) makeCatalogue() error {
	asOf, err := asOf(c.asOf)
	if err != nil {
		return err
	}
	c.catalogue, err = c.app.catalogue(c.year, asOf)
	return err
}

// follow takes the conventions of the table where no plan or flag says them.
func (c *checkCommand) follow(conventions check.Conventions) error {
	if c.hasYear() {
		return nil
	}
	plan := c.year.Plan
	if len(c.languages) == 0 {
		plan.Names = []*language.Names{conventions.Language}
	}
	plan.Weekend, plan.Weeks.First = conventions.Weekend, conventions.WeekStart
	var err error
	if c.year.Set, err = plan.Set(); err != nil {
		return err
	}
	return c.makeCatalogue()
}

// hasYear tells whether a plan or a flag says how the business's year runs.
func (c *checkCommand) hasYear() bool {
	f := c.calendars
	return c.year.Plan.File != "" || f.fiscalStart != "" || f.fiscalEnd != "" || f.weekStart != "" || f.weekMinDays != 0 || len(f.weekend) > 0 || len(f.regions) > 0
}

// checked is the table as it was read.
type checked struct {
	dates     *check.Table
	compared  *check.Comparer
	structure *check.Structure
	columns   int
	unchecked []check.Unchecked
}

// readTable takes in the rows of the table in their order.
func (c *checkCommand) readTable(ctx context.Context, input string) (*checked, error) {
	source, done, err := c.app.open(ctx, []string{input}, 2, delimited.Form{Header: delimited.HeaderIsThere})
	if err != nil {
		return nil, err
	}
	defer done()
	column, err := c.dateColumn(ctx, source)
	if err != nil {
		return nil, err
	}
	key, err := c.keyColumn(source)
	if err != nil {
		return nil, err
	}
	dates, err := c.app.dates(ctx, source, column, c.reading)
	if err != nil {
		return nil, err
	}
	matched, checkable, err := c.match(ctx, source, dates)
	if err != nil {
		return nil, err
	}
	result := &checked{dates: &check.Table{Special: c.specialKeys()}, structure: check.NewStructure(matched), columns: len(source.Names())}
	// The date and its key are proved by themselves.
	proved := func(place int) bool { return place == key || source.Names()[place] == dates.Name }
	checkable = slices.DeleteFunc(checkable, func(m check.Matched) bool { return proved(m.Index) })
	for place, column := range source.Names() {
		isAt := func(m check.Matched) bool { return m.Index == place }
		if proved(place) || slices.ContainsFunc(checkable, isAt) {
			continue
		}
		one := check.Unchecked{Column: column}
		if i := slices.IndexFunc(matched, isAt); i >= 0 {
			one.Why = check.DependsOn(matched[i].Attribute)
		}
		result.unchecked = append(result.unchecked, one)
	}
	read := ownDates(dates)
	result.compared = check.NewComparer(c.catalogue, checkable, read)
	places := result.structure.Places()
	type chunkRows struct {
		rows     []check.Row
		values   [][]string
		compared *check.Comparer
	}
	work := func() func(*rows.Batch) (chunkRows, error) {
		reader := dates.Reader()
		return func(batch *rows.Batch) (chunkRows, error) {
			reader.Enter(batch.Part)
			all := chunkRows{compared: check.NewComparer(c.catalogue, checkable, read)}
			var row rows.Row
			for batch.Next(&row) {
				moment, state := reader.Read(&row)
				held := check.Row{Line: row.Line, Read: state == reading.Read, Day: moment.Day, Timed: moment.Nanos != 0}
				if state != reading.Blank {
					held.Text = reader.Value(&row)
				}
				if key >= 0 {
					held.Key, held.Keyed = string(row.Field(key)), true
				}
				all.rows = append(all.rows, held)
				if !held.Read {
					all.values = append(all.values, nil)
					continue
				}
				all.compared.Compare(row.Line, held.Day, row.Field)
				values := make([]string, len(places))
				for i, place := range places {
					values[i] = string(row.Field(place))
				}
				all.values = append(all.values, values)
			}
			return all, batch.Err()
		}
	}
	return result, rows.Process(ctx, source, work, func(part chunkRows) error {
		for i, row := range part.rows {
			result.dates.Add(row)
			if part.values[i] != nil {
				result.structure.Add(row.Line, row.Day, part.values[i])
			}
		}
		result.compared.Join(part.compared)
		return nil
	})
}

// dateColumn returns the date column: the one named, the one of that name, or
// the only one of which every value is a day of its own.
func (c *checkCommand) dateColumn(ctx context.Context, source *rows.Source) (string, error) {
	if c.date != "" {
		return c.date, nil
	}
	for _, name := range []string{c.year.Plan.Model.Naming.Of("date"), "date"} {
		if place, err := source.Find(name); err == nil {
			return source.Names()[place], nil
		}
	}
	names, err := reading.DateColumns(ctx, source)
	if err != nil {
		return "", err
	}
	return onlyDistinct(ctx, source, names)
}

// onlyDistinct returns the only date column of which no value comes twice in
// the first rows; other columns of a date table repeat theirs. A key of digits
// steps back before a date. It returns nothing when that does not settle it.
func onlyDistinct(ctx context.Context, source *rows.Source, names []string) (string, error) {
	seen, digits := make([]map[string]bool, len(names)), make([]bool, len(names))
	count := 0
	for i := range names {
		seen[i], digits[i] = map[string]bool{}, true
	}
	err := source.Sample(ctx, sampleRows, func(row *rows.Row) {
		count++
		for i, name := range names {
			value := string(row.Field(slices.Index(source.Names(), name)))
			seen[i][value] = true
			digits[i] = digits[i] && strings.Trim(value, "0123456789") == ""
		}
	})
	if err != nil {
		return "", err
	}
	var dates, keys []string
	for i, name := range names {
		switch {
		case len(seen[i]) < count:
		case digits[i]:
			keys = append(keys, name)
		default:
			dates = append(dates, name)
		}
	}
	if len(dates) == 1 {
		return dates[0], nil
	}
	if len(dates) == 0 && len(keys) == 1 {
		return keys[0], nil
	}
	return "", nil
}

// keyColumn returns the place of the column with the key, or -1.
func (c *checkCommand) keyColumn(source *rows.Source) (int, error) {
	if c.key != "" {
		return source.Find(c.key)
	}
	for _, name := range []string{c.year.Plan.Model.Naming.Of("date_key"), "date_key"} {
		if place, err := source.Find(name); err == nil {
			return place, nil
		}
	}
	return -1, nil
}

// specialKeys are the keys of rows without a day: the plan's, and those that
// the rows have where no plan says it.
func (c *checkCommand) specialKeys() map[string]string {
	rows := c.year.Plan.Special
	if len(rows) == 0 {
		rows = []dimension.SpecialRow{dimension.Unknown, dimension.NotYet, dimension.NotApplicable}
	}
	keys := map[string]string{}
	for _, row := range rows {
		keys[strconv.Itoa(row.Key)] = row.Name
	}
	return keys
}

// ownDates returns what reads other dates of the table as it reads its days.
func ownDates(dates *reading.Dates) func([]byte) (civil.Day, bool) {
	if len(dates.Files) == 0 || dates.Files[0].Decision == nil || len(dates.Files[0].Decision.Patterns) == 0 {
		return nil
	}
	pattern, err := datetext.Compile(dates.Files[0].Decision.Patterns[0].Pattern)
	if err != nil {
		return nil
	}
	return func(text []byte) (civil.Day, bool) {
		moment, ok := pattern.Read(text)
		return moment.Day, ok
	}
}

// sampleRows is how many rows tell what a column holds: eleven years.
const sampleRows = 4000

// match finds out what the columns hold, and which of them can be worked out
// again: all when a plan or flags say how the business's year runs. Without them
// it is what is the same in every business, and what follows the defaults.
func (c *checkCommand) match(ctx context.Context, source *rows.Source, dates *reading.Dates) (matched, checkable []check.Matched, err error) {
	var samples []check.SampleRow
	reader := dates.Reader()
	err = source.Sample(ctx, sampleRows, func(row *rows.Row) {
		reader.Enter(row.Part())
		moment, state := reader.Read(row)
		if state != reading.Read {
			return
		}
		sample := check.SampleRow{Day: moment.Day}
		for place := range source.Columns() {
			sample.Fields = append(sample.Fields, string(row.Field(place)))
		}
		samples = append(samples, sample)
	})
	if err != nil {
		return nil, nil, err
	}
	if err := c.follow(check.ConventionsOf(source.Names(), samples)); err != nil {
		return nil, nil, err
	}
	given, nothing, err := c.given(source)
	if err != nil {
		return nil, nil, err
	}
	matching := &check.Matching{
		Catalogue: c.catalogue, NameOf: c.year.Plan.Model.Naming.Of, Given: given, ByValues: c.hasYear(), Read: ownDates(dates),
		Attributes: c.catalogue.Attributes(),
	}
	matched = slices.DeleteFunc(matching.Match(source.Names(), samples), func(m check.Matched) bool { return nothing[m.Column] })
	for _, one := range matched {
		_, isGiven := given[one.Column]
		depends := check.DependsOn(one.Attribute)
		place := slices.IndexFunc(matching.Attributes, func(a dimension.Attribute) bool { return a.Name == one.Attribute.Name })
		switch {
		case isGiven, depends == check.Independent:
		case depends == check.OnAsOf && c.asOf == "":
			continue
		case depends == check.OnDaysOff && !c.hasYear() && !matching.AgreesFully(one.Index, place, samples):
			continue // a few holidays more or less are no faults
		case depends != check.OnAsOf && !c.hasYear() && !matching.Agrees(one.Index, place, samples):
			continue
		}
		checkable = append(checkable, one)
	}
	return matched, checkable, nil
}

// given reads --map.
func (c *checkCommand) given(source *rows.Source) (given map[string]string, nothing map[string]bool, err error) {
	given, nothing = map[string]string{}, map[string]bool{}
	var names []string
	for _, attribute := range c.catalogue.Attributes() {
		names = append(names, attribute.Name)
	}
	for _, text := range c.maps {
		name, attribute, found := strings.Cut(text, "=")
		if !found {
			return nil, nil, usageError{fmt.Errorf("--map must be COLUMN=ATTRIBUTE, such as Wk=iso_week, not %q", text)}
		}
		place, err := source.Find(name)
		if err != nil {
			return nil, nil, err
		}
		column := source.Names()[place]
		if attribute == "" {
			nothing[column] = true
			continue
		}
		if !slices.Contains(names, attribute) {
			return nil, nil, usageError{fmt.Errorf("--map: there is no attribute %q%s", attribute, didYouMean(nearest.Name(attribute, names)))}
		}
		given[column] = attribute
	}
	return given, nothing, nil
}
