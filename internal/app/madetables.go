package app

import (
	"context"
	"iter"
	"slices"
	"strings"

	"roundyear/cell"
	"roundyear/dimension"
	"roundyear/internal/dialect"
	"roundyear/parallel"
	"roundyear/rows"
)

// generated are rows that are made as often as they are wanted: some before all others, and the others block by block.
type generated struct {
	columns     []rows.Column
	first       [][]cell.Value
	count, size int
	// rows makes the rows from one to before another; changed, where it is given, tells which values may differ from those of the row before.
	rows func(from, to int, write func(row []cell.Value, changed []bool))
}

// Each makes the rows.
func (g *generated) Each(ctx context.Context, work func(rows.Block) ([]byte, error), collect func(rows.Block, []byte) error) error {
	type done struct {
		block rows.Block
		made  []byte
	}
	newWorker := func() func(int) (done, error) {
		return func(from int) (one done, err error) {
			one.block = rows.NewBlock(g.columns, g.size, 0)
			g.part(from, func(row []cell.Value, _ []bool) {
				for i := range row {
					one.block.Vectors[i].AppendCell(row[i])
				}
				one.block.Count++
			})
			if work != nil {
				one.made, err = work(one.block)
			}
			return one, err
		}
	}
	return parallel.Ordered(ctx, g.froms, newWorker, func(one done) error { return collect(one.block, one.made) })
}

// froms gives where each block begins.
func (g *generated) froms(_ context.Context, give func(int) bool) error {
	for from := 0; from < g.count; from += g.size {
		if !give(from) {
			break
		}
	}
	return nil
}

// part makes the rows of a block.
func (g *generated) part(from int, write func(row []cell.Value, changed []bool)) {
	if from == 0 {
		for _, row := range g.first {
			write(row, nil)
		}
	}
	g.rows(from, min(from+g.size, g.count), write)
}

// allAtOnce are rows that are made one after the other, all in one block.
func allAtOnce(columns []rows.Column, first [][]cell.Value, count int, all func() iter.Seq[[]cell.Value]) *generated {
	return &generated{columns: columns, first: first, count: max(count, 1), size: max(count, 1), rows: func(_, _ int, write func([]cell.Value, []bool)) {
		for row := range all() {
			write(row, nil)
		}
	}}
}

// Made returns the table as a database has it, with its rows.
func (t *DateTable) Made(ctx context.Context, name, comment string) (dialect.Filled, error) {
	columns := rows.OfCells(t.Columns)
	made := &dialect.Table{Name: name, Comment: comment}
	named := map[string]string{}
	for i, attribute := range t.Attributes {
		named[attribute.Name] = t.Columns[i].Name
	}
	key, hasKey := t.Catalogue.KeyOf(t.Grain)
	for i, attribute := range t.Attributes {
		column := dialect.Column{Column: columns[i], Comment: meaning(attribute, named[attribute.SortBy]), Small: true}
		switch {
		case hasKey && attribute.Name == key.Name:
			made.Key, column.Key = []int{i}, true
		case attribute.Name == "date" && t.IsDaily():
			made.Unique = append(made.Unique, i)
		}
		made.Columns = append(made.Columns, column)
	}
	if len(made.Key) == 0 && len(made.Unique) > 0 && len(t.Special) == 0 {
		made.Key, made.Unique = made.Unique, nil
	}
	var first [][]cell.Value
	for _, special := range t.Special {
		first = append(first, special.Values(t.Attributes))
	}
	var all *generated
	if blocks, ok := t.Blocks(); ok {
		all = &generated{columns: columns, first: first, count: blocks.Count, size: blocks.Size, rows: blocks.Rows}
	} else {
		all = allAtOnce(columns, first, t.Len(), t.Rows)
	}
	return dialect.Filled{Table: made, Rows: all}, all.prove(ctx, made)
}

// meaning is what a column says of itself.
func meaning(attribute dimension.Attribute, sortBy string) string {
	text := attribute.Meaning
	if sortBy != "" {
		text = strings.TrimSuffix(text, ".") + ". Sort by " + sortBy + "."
	}
	return text
}

// prove finds what holds for the columns in all rows: which are never blank, and how long texts are.
func (g *generated) prove(ctx context.Context, t *dialect.Table) error {
	type observed struct {
		hasBlank []bool
		longest  []int
	}
	total := observed{make([]bool, len(t.Columns)), make([]int, len(t.Columns))}
	newWorker := func() func(int) (observed, error) {
		return func(from int) (observed, error) {
			own := observed{make([]bool, len(t.Columns)), make([]int, len(t.Columns))}
			g.part(from, func(row []cell.Value, changed []bool) {
				for i := range row {
					switch {
					case changed != nil && !changed[i]:
					case row[i].IsBlank():
						own.hasBlank[i] = true
					case t.Columns[i].Type == rows.Text:
						own.longest[i] = max(own.longest[i], len(row[i].String()))
					}
				}
			})
			return own, nil
		}
	}
	err := parallel.Ordered(ctx, g.froms, newWorker, func(own observed) error {
		for i := range t.Columns {
			total.hasBlank[i], total.longest[i] = total.hasBlank[i] || own.hasBlank[i], max(total.longest[i], own.longest[i])
		}
		return nil
	})
	for i := range t.Columns {
		c := &t.Columns[i]
		c.Required, c.Length = !total.hasBlank[i], total.longest[i]
		if c.Key && c.Type == rows.Text {
			c.Length = 0 // of whatever length they may become
		}
	}
	return err
}

// MadeClock returns the table of times of day as a database has it.
func (y *Year) MadeClock(ctx context.Context, name, comment string, clock *dimension.Clock) (dialect.Filled, error) {
	attributes := clock.Attributes()
	cells, err := y.Plan.Model.Naming.Columns(attributes)
	if err != nil {
		return dialect.Filled{}, err
	}
	made := &dialect.Table{Name: name, Comment: comment}
	for i, column := range rows.OfCells(cells) {
		c := dialect.Column{Column: column, Comment: meaning(attributes[i], attributes[i].SortBy), Small: true}
		switch attributes[i].Name {
		case "time_key":
			made.Key, c.Key = []int{i}, true
		case "time":
			made.Unique = []int{i}
		}
		made.Columns = append(made.Columns, c)
	}
	var first [][]cell.Value
	for _, special := range y.SpecialRows(nil) {
		first = append(first, special.Values(attributes))
	}
	all := allAtOnce(rows.OfCells(cells), first, clock.Rows(), clock.Times)
	return dialect.Filled{Table: made, Rows: all}, all.prove(ctx, made)
}

// tradingMeanings say what the columns of the trading table hold.
var tradingMeanings = map[string]string{
	"date_key": "Date as a number yyyymmdd.", "date": "Date.", "site": "Site of the plan.", "is_open": "The site is open on the date.", "reason": "Why it is open or closed.",
	"what": "Holiday or closure on which it is closed.", "trading_day_of_month": "Number of the trading day in its month; blank on days on which the site is closed.",
	"trading_days_so_far_in_month": "Trading days of the month up to the date.", "trading_day": "Running number of the trading day of the site, from the first date of the table.",
}

// MadeTrading returns the table of days and sites as a database has it.
func (y *Year) MadeTrading(ctx context.Context, name, comment string, span Spanned) (dialect.Filled, error) {
	made := &dialect.Table{Name: name, Comment: comment, Key: []int{0, 2}}
	columns := rows.OfCells(TradingColumns)
	for i := range columns {
		made.Columns = append(made.Columns, dialect.Column{Column: columns[i], Comment: tradingMeanings[columns[i].Name], Small: true})
	}
	for _, place := range made.Key {
		made.Columns[place].Key = true
	}
	sites := y.Sites()
	all := allAtOnce(columns, nil, int(span.To-span.From+1)*len(sites), func() iter.Seq[[]cell.Value] {
		counts := make([]*SiteTrading, len(sites))
		for i, site := range sites {
			counts[i] = NewSiteTrading(site)
		}
		return func(yield func([]cell.Value) bool) {
			for day := span.From; day <= span.To; day++ {
				for _, count := range counts {
					if !yield(count.Row(day)) {
						return
					}
				}
			}
		}
	})
	return dialect.Filled{Table: made, Rows: all}, all.prove(ctx, made)
}

// nameOf returns what the table calls an attribute; empty if it does not have it.
func (t *DateTable) nameOf(attribute string) string {
	if i := slices.IndexFunc(t.Attributes, func(a dimension.Attribute) bool { return a.Name == attribute }); i >= 0 {
		return t.Columns[i].Name
	}
	return ""
}
