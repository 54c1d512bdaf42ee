package app

import (
	"context"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"roundyear/calendar"
	"roundyear/check"
	"roundyear/civil"
	"roundyear/datetext"
	"roundyear/dimension"
	"roundyear/internal/reading"
	"roundyear/internal/table"
	"roundyear/language"
	"roundyear/rows"
)

// Check asks for a date table to be verified, and that facts match it.
type Check struct {
	// Source is the table, one file.
	Source *rows.Source
	// Date and Key are its columns of the date and the key; empty for those that it seems to have.
	Date, Key string
	// Asked says how its dates are read.
	Asked reading.Asked
	// Mappings say what columns hold.
	Mappings []Mapping
	// Year is how the business's year runs, and HasYear tells that a plan or the call says so;
	// else the conventions are taken that most rows follow. So are the names, unless the call says
	// their languages.
	Year                  *Year
	HasYear, HasLanguages bool
	// HasAsOf tells that it is known which day counted as today for the table.
	HasAsOf bool
	// Catalogue makes the catalogue of the year.
	Catalogue func() (*dimension.Catalogue, error)
	// Facts returns the days of the facts that are to match, once the table was read.
	Facts func() ([]*check.Facts, error)

	catalogue *dimension.Catalogue
}

// Mapping says which attribute a column holds; no attribute for one that is left alone.
type Mapping struct{ Column, Attribute string }

// UnknownAttribute is the error for a mapping to an attribute that there is not.
type UnknownAttribute struct {
	Name string
	// Known are the attributes that there are.
	Known []string
}

// Error says which attribute.
func (u *UnknownAttribute) Error() string { return fmt.Sprintf("there is no attribute %q", u.Name) }

// Run reads the table and verifies it. The error may be an UnknownAttribute.
func (c *Check) Run(ctx context.Context) (*check.Report, error) {
	var err error
	if c.catalogue, err = c.Catalogue(); err != nil {
		return nil, err
	}
	found, err := c.readTable(ctx)
	if err != nil {
		return nil, err
	}
	facts, err := c.Facts()
	if err != nil {
		return nil, err
	}
	report := found.dates.Report(facts...)
	if len(facts) > 0 {
		calendars := []calendar.Calendar{c.Year.Set.Year}
		if c.HasYear {
			for _, fiscal := range c.Year.Set.Fiscal {
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
	return report, nil
}

// follow takes the conventions of the table where no plan or flag says them.
func (c *Check) follow(conventions check.Conventions) error {
	if c.HasYear {
		return nil
	}
	plan := c.Year.Plan
	if !c.HasLanguages {
		plan.Names = []*language.Names{conventions.Language}
	}
	plan.Weekend, plan.Weeks.First = conventions.Weekend, conventions.WeekStart
	var err error
	if c.Year.Set, err = plan.Set(); err != nil {
		return err
	}
	c.catalogue, err = c.Catalogue()
	return err
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
func (c *Check) readTable(ctx context.Context) (*checked, error) {
	source := c.Source
	column, err := c.dateColumn(ctx, source)
	if err != nil {
		return nil, err
	}
	key, err := c.keyColumn(source)
	if err != nil {
		return nil, err
	}
	dates, err := Dates(ctx, source, column, c.Asked)
	if err != nil {
		return nil, err
	}
	matched, checkable, err := c.match(ctx, source, dates)
	if err != nil {
		return nil, err
	}
	result := &checked{dates: &check.Table{Special: c.specialKeys(), Unordered: table.IsDatabase(source.Parts[0])}, structure: check.NewStructure(matched), columns: len(source.Names())}
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
func (c *Check) dateColumn(ctx context.Context, source *rows.Source) (string, error) {
	if c.Date != "" {
		return c.Date, nil
	}
	for _, name := range []string{c.Year.Plan.Model.Naming.Of("date"), "date"} {
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
func (c *Check) keyColumn(source *rows.Source) (int, error) {
	if c.Key != "" {
		return source.Find(c.Key)
	}
	for _, name := range []string{c.Year.Plan.Model.Naming.Of("date_key"), "date_key"} {
		if place, err := source.Find(name); err == nil {
			return place, nil
		}
	}
	return -1, nil
}

// specialKeys are the keys of rows without a day: the plan's, and those that
// the rows have where no plan says it.
func (c *Check) specialKeys() map[string]string {
	rows := c.Year.Plan.Special
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
func (c *Check) match(ctx context.Context, source *rows.Source, dates *reading.Dates) (matched, checkable []check.Matched, err error) {
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
		Catalogue: c.catalogue, NameOf: c.Year.Plan.Model.Naming.Of, Given: given, ByValues: true, Read: ownDates(dates),
		Attributes: c.catalogue.Attributes(),
	}
	matched = slices.DeleteFunc(matching.Match(source.Names(), samples), func(m check.Matched) bool { return nothing[m.Column] })
	for _, one := range matched {
		_, isGiven := given[one.Column]
		depends := check.DependsOn(one.Attribute)
		place := slices.IndexFunc(matching.Attributes, func(a dimension.Attribute) bool { return a.Name == one.Attribute.Name })
		switch {
		case isGiven, depends == check.Independent:
		case depends == check.OnAsOf && !c.HasAsOf:
			continue
		case depends == check.OnDaysOff && !c.HasYear && !matching.AgreesFully(one.Index, place, samples):
			continue // a few holidays more or less are no faults
		case depends != check.OnAsOf && !c.HasYear && !matching.Agrees(one.Index, place, samples):
			continue
		}
		checkable = append(checkable, one)
	}
	return matched, checkable, nil
}

// given finds the columns that are said to hold an attribute, or to be left alone.
func (c *Check) given(source *rows.Source) (given map[string]string, nothing map[string]bool, err error) {
	given, nothing = map[string]string{}, map[string]bool{}
	var names []string
	for _, attribute := range c.catalogue.Attributes() {
		names = append(names, attribute.Name)
	}
	for _, one := range c.Mappings {
		place, err := source.Find(one.Column)
		if err != nil {
			return nil, nil, err
		}
		column := source.Names()[place]
		if one.Attribute == "" {
			nothing[column] = true
			continue
		}
		if !slices.Contains(names, one.Attribute) {
			return nil, nil, &UnknownAttribute{one.Attribute, names}
		}
		given[column] = one.Attribute
	}
	return given, nothing, nil
}
