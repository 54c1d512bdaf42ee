package inside

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"roundyear/internal/dialect"
	"roundyear/rows"
)

// Extension says which rows are written again inside the database that has them, with the days, times and keys of their dates behind them.
// Of its Request the table, the dates and their patterns count.
type Extension struct {
	Request
	// Keep are the places of the columns that are written, and Types the types that they get.
	Keep  []int
	Types []rows.Column
	// Adds is what each date adds.
	Adds []Added
	// BlankKey is the key of rows without a date; empty for none.
	BlankKey string
	// Days are the names of the relations with the attributes of the days of each date, if some are added: the column day, and one for each
	// attribute.
	Days []string
}

// Added is what a date adds: its day, its time of day if it is wanted, its key, and columns of the relation of its days.
type Added struct {
	Day, Time, Key string
	Attributes     []Attribute
}

// Attribute is a column that is added, and its name in the relation of the days.
type Attribute struct{ Name, Of string }

// DayColumn is the column of the day in the relation of days.
const DayColumn = "day"

// Select returns the query of the rows. It may ask the table what its columns hold. The error is a Refusal for what cannot be carried out.
func (e *Extension) Select(ctx context.Context) (string, error) {
	d := e.Table.Dialect()
	if err := e.refuseOdd(ctx); err != nil {
		return "", err
	}
	prefix := ""
	if len(e.Days) > 0 {
		prefix = "dated." // the relations of days have columns, too
	}
	columns := e.keptColumns(prefix)
	var all inner
	var joins []string
	for i, added := range e.Adds {
		day, clock, err := e.addDate(ctx, &all, i)
		if err != nil {
			return "", err
		}
		day, clock = prefix+day, prefix+clock
		columns = append(columns, day+" AS "+d.Quote(added.Day))
		if added.Time != "" {
			columns = append(columns, clock+" AS "+d.Quote(added.Time))
		}
		key := d.KeyOf(day)
		if e.BlankKey != "" {
			key = fmt.Sprintf("CASE WHEN %s IS NULL THEN %s ELSE %s END", day, e.BlankKey, key)
		}
		columns = append(columns, key+" AS "+d.Quote(added.Key))
		if len(added.Attributes) == 0 {
			continue
		}
		alias := fmt.Sprintf("d%d", i+1)
		for _, attribute := range added.Attributes {
			columns = append(columns, alias+"."+d.Quote(attribute.Of)+" AS "+d.Quote(attribute.Name))
		}
		joins = append(joins, fmt.Sprintf("\nLEFT JOIN %s %s ON %[2]s.%s = %s", d.Quote(e.Days[i]), alias, d.Quote(DayColumn), day))
	}
	with, dated := e.datedRows(&all)
	return with + "SELECT\n  " + strings.Join(columns, ",\n  ") + "\nFROM " + dated + strings.Join(joins, ""), nil
}

// inner is what the query of the rows with their dates has: texts that are made of columns first, what is made of them, and which rows are
// left out.
type inner struct {
	texts, made []string
	where       string
}

// addDate adds the day of a date and its time of day, if that is wanted, and returns what they are called.
func (e *Extension) addDate(ctx context.Context, to *inner, date int) (day, clock string, err error) {
	text := e.free(fmt.Sprintf("text_%d", date+1))
	ofDay, ofClock, err := e.date(ctx, date, &text)
	if err != nil {
		return "", "", err
	}
	if text != "" {
		to.texts = append(to.texts, text)
	}
	day, clock = e.free(fmt.Sprintf("day_%d", date+1)), e.free(fmt.Sprintf("time_%d", date+1))
	to.made = append(to.made, ofDay+" AS "+day)
	if date < len(e.Adds) && e.Adds[date].Time != "" {
		to.made = append(to.made, ofClock+" AS "+clock)
	}
	return day, clock, nil
}

// keptColumns are the expressions of the columns that are written again.
func (e *Extension) keptColumns(prefix string) (columns []string) {
	for i, place := range e.Keep {
		columns = append(columns, e.kept(e.Table.Dialect(), prefix, place, e.Types[i]))
	}
	return columns
}

// datedRows is what stands before a query, and behind FROM for the rows with what is made of their dates, which are called dated.
func (e *Extension) datedRows(of *inner) (with, from string) {
	with, from = e.Table.Relation()
	if with != "" {
		with += "\n"
	}
	if len(of.texts) > 0 {
		from = "(SELECT *, " + strings.Join(of.texts, ", ") + " FROM " + from + ") AS texts"
	}
	where := ""
	if of.where != "" {
		where = "\n  WHERE " + of.where
	}
	return with, "(\n  SELECT\n    *,\n    " + strings.Join(of.made, ",\n    ") + "\n  FROM " + from + where + "\n) AS dated"
}

// SelectDays returns the query of all days of a date that there are.
func (e *Extension) SelectDays(ctx context.Context, date int) (string, error) {
	text := ""
	day, _, err := e.date(ctx, date, &text)
	with, from := e.Table.Relation()
	return strings.TrimSpace(with + " SELECT DISTINCT " + day + " FROM " + from), err
}

// free returns a name that no column of the table has.
func (e *Extension) free(name string) string {
	isTaken := func(column rows.Column) bool { return strings.EqualFold(column.Name, name) }
	for slices.ContainsFunc(e.Columns, isTaken) {
		name += "_"
	}
	return name
}

// kept is the expression of a column of the table as it is written again: as it is shown where the types differ.
func (e *Extension) kept(d *dialect.Dialect, prefix string, place int, as rows.Column) string {
	name := prefix + e.Table.ColumnName(place)
	switch {
	case d == dialect.SQLite:
		return name // which keeps values as they are, and its columns make them what they take
	case as.Type == rows.Float:
		// Shown and read again, a number of less than 64 bits is the one that people see.
		return unlessNull(name, "CAST("+d.AsText(name)+" AS "+d.TypeOf(dialect.Column{Column: as})+")")
	case as.Type == rows.Text && !e.Table.IsText(place):
		return unlessNull(name, d.AsText(name))
	}
	return name
}

// unlessNull is an expression where there is a value: of none, text is made as well in some databases.
func unlessNull(name, expression string) string {
	return "CASE WHEN " + name + " IS NOT NULL THEN " + expression + " END"
}

// date is the expressions of the day and of the time of day of a date. A text that is made of its column first gets the name that text has;
// text becomes its definition, or nothing if none is needed.
func (e *Extension) date(ctx context.Context, date int, text *string) (day, clock string, err error) {
	place, d := e.Dates[date], e.Table.Dialect()
	called := *text
	*text = ""
	switch name, column := e.Table.ColumnName(place), e.Columns[place]; column.Type {
	case rows.Day:
		return name, "", nil
	case rows.Moment, rows.Instant:
		return d.DayOf(name), d.AsTime(name), nil
	case rows.Text:
		w, name, err := e.proven(ctx, date)
		if err != nil {
			return "", "", err
		}
		if called != "" && !e.Table.IsText(place) {
			*text = name + " AS " + called
			name = called
		}
		// What was proved beforehand is proved again in the statement, since rows may have changed.
		day = w.guarded(d, name, "    ")
		if w.at['H'] > 0 {
			clock = fmt.Sprintf("CASE WHEN %s <> '' THEN %s END", name, d.AsTime(w.time(d, name)))
		}
		return day, clock, nil
	}
	return "", "", refuse("%s is not a column of dates or times in the database", e.Columns[place].Name)
}

// refuseOdd refuses tables with values in the columns that are kept which are not the same everywhere.
func (e *Extension) refuseOdd(ctx context.Context) error {
	d := e.Table.Dialect()
	var tests []string
	for i, place := range e.Keep {
		if test := d.Odd(dialect.Column{Column: e.Columns[place]}, e.Table.ColumnName(place)); test != "" && e.Types[i].Type == e.Columns[place].Type {
			tests = append(tests, test)
		}
	}
	if len(tests) == 0 {
		return nil
	}
	with, from := e.Table.Relation()
	odd := "0"
	err := e.Table.Ask(ctx, strings.TrimSpace(with+" SELECT count(*) FROM "+from+" WHERE "+strings.Join(tests, " OR ")), func(values [][]byte) error {
		odd = string(values[0])
		return nil
	})
	if err == nil && odd != "0" {
		err = refuse("it holds a value that is only read locally")
	}
	return err
}
