package app

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"roundyear/cell"
	"roundyear/civil"
	"roundyear/datetext"
	"roundyear/internal/database"
	"roundyear/internal/dialect"
	"roundyear/internal/inside"
	"roundyear/internal/normalise"
	"roundyear/internal/reading"
	"roundyear/rows"
)

// whyNotInside says why the rows cannot be written inside their database with the same answer; nothing if they can.
func (n *Normalise) whyNotInside() string {
	o := &n.Options
	switch {
	case o.Sink == nil || !database.IsSame(n.Source.Parts[0].Name, n.Out):
		return "the output is not a table of the same database"
	case len(n.Numbers) > 0:
		return "numbers are read locally"
	case len(n.Distinct) > 0:
		return "rows that repeat others are found row by row"
	case len(n.SortBy) > 0:
		return "a table has no order"
	}
	return ""
}

// inside writes the rows inside their database. It is nothing where they are written by what is read.
func (n *Normalise) inside(ctx context.Context, columns []string) (*Normalised, error) {
	of, err := insideOf(n.Place, n.Source, n.Asked, n.Decimals, n.Minus)
	if of == nil || err != nil {
		return nil, err
	}
	if why := n.whyNotInside(); why != "" {
		return nil, notInside(n.Place, &inside.Refusal{Why: why})
	}
	done, err := n.writeInside(ctx, of, columns)
	if err != nil {
		return nil, notInside(n.Place, err)
	}
	return done, nil
}

func (n *Normalise) writeInside(ctx context.Context, of inside.Table, columns []string) (*Normalised, error) {
	dates, err := decidedInside(ctx, n.Source, columns, n.Asked)
	if err != nil {
		return nil, err
	}
	options := n.Options
	options.Dates = dates
	extension, err := n.extension(of, options)
	if err != nil {
		return nil, err
	}
	relations, days, err := n.daysOf(ctx, extension, options)
	if err != nil {
		return nil, err
	}
	query, err := extension.Select(ctx)
	if err != nil {
		return nil, err
	}
	kept, _ := options.Kept(n.Source)
	all := rows.Extension{Source: n.Source, Keep: kept, Added: options.Adds()}.Columns()
	if n.Told != nil {
		text, err := written(of.Dialect(), n.Out, all, relations, query)
		if err != nil {
			return nil, err
		}
		return nil, n.Told(text)
	}
	sink, err := options.Sink(all)
	if err != nil {
		return nil, err
	}
	done, err := n.fill(ctx, sink.(writtenInside), options, relations, days, query)
	if err != nil {
		n.Files.Leave(sink.(writtenInside))
		return nil, err
	}
	return done, n.Files.Commit()
}

// extension says which columns are written, with the types of all of them.
func (n *Normalise) extension(of inside.Table, options normalise.Options) (*inside.Extension, error) {
	kept, err := options.Kept(n.Source)
	if err != nil {
		return nil, err
	}
	e := &inside.Extension{Keep: kept, BlankKey: options.BlankKey}
	e.Types = rows.Extension{Source: n.Source, Keep: kept}.Columns()
	e.Table, e.Columns, e.Patterns = of, n.Source.Columns(), patternsOf(options.Dates)
	var names []string
	for _, date := range options.Dates {
		names = append(names, date.Name)
	}
	e.OrderIsAsked = isOrderAsked(n.Asked, names...)
	for i, date := range options.Dates {
		if date.Grain() != "" {
			return nil, &inside.Refusal{Why: fmt.Sprintf("%s stands for longer periods than days, which is told row by row", date.Name)}
		}
		if !options.ClockOf(date).MovesNothing() {
			return nil, &inside.Refusal{Why: "time zones and days that do not start at midnight are converted locally"}
		}
		if isGuessed(date) && !isOrderAsked(n.Asked, date.Name) {
			return nil, &inside.Refusal{Why: fmt.Sprintf("nothing in the first rows of %s settles whether the day or the month comes first", date.Name)}
		}
		e.Dates = append(e.Dates, date.Columns[0])
		added := inside.Added{Day: date.Name + "_date", Key: date.Name + "_key"}
		if date.Clock() != datetext.NoTime && !options.DropTime {
			added.Time = date.Name + "_time"
		}
		for place, attribute := range options.Added {
			name := attribute.Name
			if len(options.Dates) > 1 {
				name = date.Name + "_" + name
			}
			added.Attributes = append(added.Attributes, inside.Attribute{Name: name, Of: "a" + strconv.Itoa(place+1)})
		}
		if len(options.Added) > 0 {
			e.Days = append(e.Days, "roundyear_days_"+strconv.Itoa(i+1))
		}
		e.Adds = append(e.Adds, added)
	}
	return e, nil
}

// isGuessed tells whether nothing has settled the order of day and month of texts that could be read in both ways.
func isGuessed(date *reading.Dates) bool {
	decision := date.Files[0].Decision
	return decision != nil && decision.Settled == 0 && len(decision.Patterns) > 0 && !strings.HasPrefix(decision.Patterns[0].Pattern, "y")
}

// daysOf finds the days that a date has, and their attributes, where some are added.
func (n *Normalise) daysOf(ctx context.Context, e *inside.Extension, options normalise.Options) (relations []*relation, known []map[civil.Day]bool, err error) {
	for date, name := range e.Days {
		columns := []dialect.Column{{Column: rows.Column{Name: inside.DayColumn, Type: rows.Day, Key: true}, Required: true}}
		for place, attribute := range options.Added {
			own := rows.OfCells([]cell.Column{{Name: "a" + strconv.Itoa(place+1), Type: attribute.Type}})[0]
			columns = append(columns, dialect.Column{Column: own})
		}
		one := newRelation(name, columns)
		query, err := e.SelectDays(ctx, date)
		if err != nil {
			return nil, nil, err
		}
		days := map[civil.Day]bool{}
		err = e.Table.Ask(ctx, query, func(values [][]byte) error {
			if values[0] == nil {
				return nil
			}
			day, err := dayInside(values[0])
			days[day] = true
			return err
		})
		if err != nil {
			return nil, nil, err
		}
		for _, day := range slices.Sorted(maps.Keys(days)) {
			for row := range options.Catalogue.Days(options.Added, day, day) {
				one.block.Vectors[0].Int = append(one.block.Vectors[0].Int, int64(day))
				for i, value := range row {
					one.block.Vectors[i+1].AppendCell(value)
				}
				one.block.Count++
			}
		}
		relations, known = append(relations, one), append(known, days)
	}
	return relations, known, nil
}

// dayInside reads a day as a database writes it.
func dayInside(value []byte) (civil.Day, error) {
	day, err := civil.Parse(string(value))
	if err != nil {
		return 0, inside.ErrUnread
	}
	return day, nil
}

// fill fills the table, and finds out from it what has come of the rows.
func (n *Normalise) fill(ctx context.Context, into writtenInside, options normalise.Options, relations []*relation, known []map[civil.Day]bool, query string) (*Normalised, error) {
	if _, err := filled(into, relations, query); err != nil {
		if errors.Is(err, database.ErrNoDay) {
			err = inside.ErrUnread
		}
		return nil, err
	}
	counted := normalise.NewCounted(len(options.Dates))
	for date, one := range options.Dates {
		query := func(table string) string {
			return fmt.Sprintf("SELECT %s, count(*) FROM %s GROUP BY 1", into.Dialect().Stored(one.Name+"_date"), table)
		}
		err := into.Ask(query, func(values [][]byte) error {
			count, err := strconv.Atoi(string(values[1]))
			if values[0] == nil {
				counted.AddBlanks(date, count)
				return err
			}
			day, err := dayInside(values[0])
			switch {
			case err != nil:
				return err
			case known != nil && !known[date][day]:
				return inside.ErrUnread // it has come since
			}
			counted.Add(date, day, count)
			return nil
		})
		if err != nil {
			return nil, err
		}
	}
	counted.Settle(options.Dates)
	done := &Normalised{Report: counted.Report, Dates: options.Dates, Added: options.Columns()}
	var err error
	if done.First, err = normalise.First(ctx, n.Source, options, done.In); err != nil {
		return nil, err
	}
	if n.Rejects != "" {
		if done.DroppedRejects, err = n.dropOldRejects(); err != nil {
			return nil, err
		}
	}
	if n.Describe != nil {
		err = n.Describe(options.AllFields(n.Source))
	}
	return done, err
}
