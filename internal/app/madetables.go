package app

import (
	"context"
	"iter"
	"slices"
	"strings"
	"sync"

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
	rows        func(from, to int, write func([]cell.Value))
}

// Each makes the rows.
func (m *generated) Each(ctx context.Context, work func(rows.Block) ([]byte, error), collect func(rows.Block, []byte) error) error {
	type done struct {
		block rows.Block
		made  []byte
	}
	produce := func(_ context.Context, give func(int) bool) error {
		for from := 0; from < m.count; from += m.size {
			if !give(from) {
				break
			}
		}
		return nil
	}
	newWorker := func() func(int) (done, error) {
		return func(from int) (one done, err error) {
			one.block = rows.NewBlock(m.columns, m.size, 0)
			write := func(row []cell.Value) {
				for i := range row {
					one.block.Vectors[i].AppendCell(row[i])
				}
				one.block.Count++
			}
			if from == 0 {
				for _, row := range m.first {
					write(row)
				}
			}
			m.rows(from, min(from+m.size, m.count), write)
			if work != nil {
				one.made, err = work(one.block)
			}
			return one, err
		}
	}
	return parallel.Ordered(ctx, produce, newWorker, func(one done) error { return collect(one.block, one.made) })
}

// allAtOnce are rows that are made one after the other, all in one block.
func allAtOnce(columns []rows.Column, first [][]cell.Value, count int, all func() iter.Seq[[]cell.Value]) *generated {
	return &generated{columns: columns, first: first, count: max(count, 1), size: max(count, 1), rows: func(_, _ int, write func([]cell.Value)) {
		for row := range all() {
			write(row)
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
		all = &generated{columns: columns, first: first, count: blocks.Count, size: blocks.Size, rows: func(from, to int, write func([]cell.Value)) {
			blocks.Rows(from, to, func(row []cell.Value, _ []bool) { write(row) })
		}}
	} else {
		all = allAtOnce(columns, first, t.Len(), t.Rows)
	}
	return dialect.Filled{Table: made, Rows: all}, prove(ctx, made, all)
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
func prove(ctx context.Context, t *dialect.Table, all dialect.Rows) error {
	var mu sync.Mutex
	hasBlank, longest := make([]bool, len(t.Columns)), make([]int, len(t.Columns))
	err := all.Each(ctx, func(block rows.Block) ([]byte, error) {
		blank, long := make([]bool, len(t.Columns)), make([]int, len(t.Columns))
		for i := range block.Vectors {
			v := &block.Vectors[i]
			for row := range block.Count {
				if !v.IsValid(row) {
					blank[i] = true
				} else if v.Type == rows.Text {
					long[i] = max(long[i], len(v.Text(row)))
				}
			}
		}
		mu.Lock()
		defer mu.Unlock()
		for i := range blank {
			hasBlank[i], longest[i] = hasBlank[i] || blank[i], max(longest[i], long[i])
		}
		return nil, nil
	}, func(rows.Block, []byte) error { return nil })
	for i := range t.Columns {
		c := &t.Columns[i]
		c.Required, c.Length = !hasBlank[i], longest[i]
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
	for _, special := range y.SpecialRows(false) {
		first = append(first, special.Values(attributes))
	}
	all := allAtOnce(rows.OfCells(cells), first, clock.Rows(), clock.Times)
	return dialect.Filled{Table: made, Rows: all}, prove(ctx, made, all)
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
	return dialect.Filled{Table: made, Rows: all}, prove(ctx, made, all)
}

// nameOf returns what the table calls an attribute; empty if it does not have it.
func (t *DateTable) nameOf(attribute string) string {
	if i := slices.IndexFunc(t.Attributes, func(a dimension.Attribute) bool { return a.Name == attribute }); i >= 0 {
		return t.Columns[i].Name
	}
	return ""
}
