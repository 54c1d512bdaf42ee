package app

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"sync"

	"roundyear/calendar"
	"roundyear/civil"
	"roundyear/dimension"
	"roundyear/fault"
	"roundyear/internal/database"
	"roundyear/internal/dialect"
	"roundyear/internal/loading"
	"roundyear/numbertext"
	"roundyear/rows"
)

// Publish asks for the model that is published: the date dimension and what belongs to it.
type Publish struct {
	Year *Year
	// Dates is the date dimension, from its first to its last day.
	Dates *DateTable
	// Coarse are tables of periods.
	Coarse []*DateTable
	// Clock is the table of times of day; nil for none.
	Clock   *dimension.Clock
	Trading bool
	Facts   []*PublishedFacts
	// WantsIndexes and WantsForeign give the date columns of facts indexes and foreign keys.
	WantsIndexes, WantsForeign bool
}

// PublishedFacts are facts that become a table of the model.
type PublishedFacts struct {
	// Marks are the decimal marks of columns that are known, and Texts the columns that stay text.
	Marks  map[string]numbertext.Mark
	Texts  []string
	Name   string
	Source *rows.Source
	// Dates are their date columns, and which of their columns have the day and its key.
	Dates []*PublishedDate
	// Rows is how many there are.
	Rows int
}

// PublishedDate is a date column of facts.
type PublishedDate struct {
	// Name is that of the date, and Grain what it stands for.
	Name  string
	Grain calendar.Grain
	// Unmatched is how many rows have a key or day that the dimension does not have.
	Unmatched int
	// IsText tells that the column holds texts that are no days, keys or moments as a database has them.
	IsText bool

	place int
	isKey bool
}

// MadeModel is a model that is ready to be published, and the facts in it.
type MadeModel struct {
	dialect.Model
	// Days are how a table of facts joins that is in the database already.
	Days loading.Joined
}

// Model makes the model.
func (p *Publish) Model(ctx context.Context) (*MadeModel, error) {
	name := p.Year.Plan.Model.Name
	m := &MadeModel{}
	add := func(table dialect.Filled, err error) error {
		if err != nil {
			return err
		}
		for _, other := range m.Tables {
			if strings.EqualFold(other.Name, table.Name) {
				return &fault.Fault{What: fmt.Sprintf("two tables of the model would be called %s", table.Name), Remedy: "Rename the facts in the plan, or name the dimension with --name"}
			}
		}
		table.Comment = database.Ours(table.Comment)
		m.Tables = append(m.Tables, table)
		return nil
	}
	if err := add(p.Dates.Made(ctx, name, "Date dimension: one row per day.")); err != nil {
		return nil, err
	}
	days := m.Tables[0]
	for _, coarse := range p.Coarse {
		own := name + "_" + strings.ReplaceAll(coarse.Grain.String(), ".", "_")
		if err := add(coarse.Made(ctx, own, fmt.Sprintf("One row per %s.", strings.Replace(strings.ReplaceAll(coarse.Grain.String(), ".", " "), "iso", "ISO", 1)))); err != nil {
			return nil, err
		}
	}
	if p.Clock != nil {
		if err := add(p.Year.MadeClock(ctx, "times", "Time of day.", p.Clock)); err != nil {
			return nil, err
		}
	}
	m.Days = loading.Joined{Table: name, Key: p.keyOfDays(), Date: p.Dates.nameOf("date"), WantsIndex: p.WantsIndexes, WantsForeign: p.WantsForeign}
	for _, c := range days.Columns {
		m.Days.Columns = append(m.Days.Columns, c.Name)
	}
	if p.Trading {
		trading, err := p.Year.MadeTrading(ctx, "trading", "Whether each site is open on each day.", p.Dates.Spanned)
		if m.Days.Key != "" && p.WantsForeign && err == nil {
			trading.Foreign = []dialect.Foreign{{Column: "date_key", Table: name, To: m.Days.Key}}
		}
		if err := add(trading, err); err != nil {
			return nil, err
		}
	}
	for _, facts := range p.Facts {
		table, err := p.factsTable(ctx, facts, m.Days)
		if err := add(table, err); err != nil {
			return nil, err
		}
		if joins := p.joinsOf(facts, table, m.Days); len(joins) > 0 {
			var names []string
			for _, c := range table.Columns {
				names = append(names, c.Name)
			}
			m.Views = append(m.Views, loading.FactsView(facts.Name, names, joins, name))
		}
	}
	m.Views = append(m.Views, p.roleViews(days)...)
	moving, err := p.movingView(days)
	if err != nil {
		return nil, err
	}
	if moving != nil {
		m.Views = append(m.Views, moving)
	}
	for _, view := range m.Views {
		if slices.ContainsFunc(m.Tables, func(t dialect.Filled) bool { return strings.EqualFold(t.Name, view.Name) }) {
			return nil, &fault.Fault{What: fmt.Sprintf("a table and a view of the model would both be called %s", view.Name), Remedy: "Rename the facts in the plan, or name the dimension with --name"}
		}
	}
	return m, nil
}

// keyOfDays is the name of the key of the date dimension; empty if it does not have it.
func (p *Publish) keyOfDays() string {
	key, ok := p.Dates.Catalogue.KeyOf(p.Dates.Grain)
	if !ok {
		return ""
	}
	return p.Dates.nameOf(key.Name)
}

// factsTable finds the types of facts and holds their days against the dimension.
func (p *Publish) factsTable(ctx context.Context, facts *PublishedFacts, days loading.Joined) (dialect.Filled, error) {
	names := facts.Source.Names()
	for _, date := range facts.Dates {
		date.place = -1
		for _, candidate := range []struct {
			name  string
			isKey bool
		}{{date.Name + "_key", true}, {date.Name + "_business_date", false}, {date.Name + "_date", false}, {date.Name, false}} {
			if at := slices.Index(names, candidate.name); at >= 0 && (!candidate.isKey || days.Key != "") {
				date.place, date.isKey = at, candidate.isKey
				break
			}
		}
	}
	var mu sync.Mutex
	has, err := hasFigures(ctx, facts.Source)
	if err == nil && (has || len(facts.Marks) > 0) {
		_, err = FindFigures(ctx, facts.Source, facts.Marks, facts.Texts)
	}
	if err != nil {
		return dialect.Filled{}, err
	}
	typed, evidence, err := readTypes(ctx, facts.Source, facts.Texts, func() (func(*rows.Row), func()) {
		count, unmatched := 0, make([]int, len(facts.Dates))
		see := func(row *rows.Row) {
			count++
			for i, date := range facts.Dates {
				if date.place >= 0 && !p.isMatched(row.Field(date.place), date.isKey) {
					unmatched[i]++
				}
			}
		}
		return see, func() {
			mu.Lock()
			defer mu.Unlock()
			facts.Rows += count
			for i, date := range facts.Dates {
				date.Unmatched += unmatched[i]
			}
			count, unmatched = 0, make([]int, len(facts.Dates))
		}
	})
	if err != nil {
		return dialect.Filled{}, err
	}
	if len(facts.Dates) == 0 {
		if err := p.findDates(ctx, facts, typed); err != nil {
			return dialect.Filled{}, err
		}
	}
	made := &dialect.Table{Name: facts.Name, Comment: fmt.Sprintf("Facts of %s.", facts.Name)}
	for i, c := range typed.columns {
		made.Columns = append(made.Columns, dialect.Column{Column: c, Required: facts.Rows > 0 && !evidence[i].hasBlank, Length: evidence[i].longest})
	}
	for _, date := range facts.Dates {
		if date.place < 0 {
			continue
		}
		column := &made.Columns[date.place]
		date.IsText = column.Type == rows.Text && date.Unmatched > 0
		to := days.Date
		if date.isKey {
			column.Small, to = true, days.Key // as the key of the dimension is
		}
		column.Comment = fmt.Sprintf("Joins %s.%s.", days.Table, to)
		if p.WantsIndexes {
			made.Indexes = append(made.Indexes, date.place)
		}
		isSameType := date.isKey && column.Type == rows.Integer || !date.isKey && column.Type == rows.Day
		if p.WantsForeign && date.Unmatched == 0 && isSameType && to != "" {
			made.Foreign = append(made.Foreign, dialect.Foreign{Column: column.Name, Table: days.Table, To: to})
		}
	}
	return dialect.Filled{Table: made, Rows: typed}, nil
}

// findDates takes the columns of facts whose values are all dates or times for their dates, where nothing says which these are.
func (p *Publish) findDates(ctx context.Context, facts *PublishedFacts, typed *typedFacts) error {
	for place, column := range typed.columns {
		if column.Type.IsDate() {
			facts.Dates = append(facts.Dates, &PublishedDate{Name: column.Name, place: place})
		}
	}
	if len(facts.Dates) == 0 {
		return nil
	}
	return typed.Each(ctx, nil, func(block rows.Block, _ []byte) error {
		for _, date := range facts.Dates {
			v := &block.Vectors[date.place]
			for row := range block.Count {
				if day, _, ok := v.Moment(row); v.IsValid(row) && (!ok || day < p.Dates.From || day > p.Dates.To) {
					date.Unmatched++
				}
			}
		}
		return nil
	})
}

// isMatched tells whether the dimension has a key or day; a blank has none to match.
func (p *Publish) isMatched(text []byte, isKey bool) bool {
	if len(text) == 0 {
		return true
	}
	if !isKey {
		day, err := civil.Parse(string(text[:min(len(text), len("2026-03-01"))]))
		return err == nil && day >= p.Dates.From && day <= p.Dates.To
	}
	for _, special := range p.Dates.Special {
		if fmt.Sprint(special.Key) == string(text) {
			return true
		}
	}
	if len(text) != len("20260301") {
		return false
	}
	day, err := civil.Parse(string(text[:4]) + "-" + string(text[4:6]) + "-" + string(text[6:]))
	return err == nil && day >= p.Dates.From && day <= p.Dates.To
}

// joinsOf says how the dates of facts join to the dimension, in a view of the facts. A date that stands for a longer period has the columns
// only that are the same for all of it.
func (p *Publish) joinsOf(facts *PublishedFacts, table dialect.Filled, days loading.Joined) (joins []loading.ViewJoin) {
	for _, date := range facts.Dates {
		if date.place < 0 {
			continue
		}
		column := table.Columns[date.place]
		join := loading.ViewJoin{Prefix: date.Name + "_", Columns: days.Columns}
		join.Table, join.From, join.Column = days.Table, column.Name, days.Date
		switch {
		case date.isKey:
			join.Column = days.Key
		case column.Type == rows.Moment || column.Type == rows.Instant:
			join.IsMoment = true
		case column.Type != rows.Day:
			continue
		}
		if join.Column == "" {
			continue
		}
		if date.Grain.Unit != calendar.Day && date.Grain.Calendar != nil {
			join.Columns = nil
			for _, attribute := range p.Dates.Catalogue.ConstantWithin(p.Dates.Attributes, date.Grain, p.Dates.From, p.Dates.To) {
				join.Columns = append(join.Columns, p.Dates.nameOf(attribute.Name))
			}
		}
		joins = append(joins, join)
	}
	return joins
}

// roleViews are views of the dimension for each date of facts beside their main one, with names of its own.
func (p *Publish) roleViews(days dialect.Filled) (views []*dialect.View) {
	var done []string
	for _, facts := range p.Facts {
		for i, date := range facts.Dates {
			if i == 0 || date.place < 0 || slices.Contains(done, date.Name) {
				continue
			}
			done = append(done, date.Name)
			v := &dialect.View{Name: days.Name + "_" + date.Name, Comment: fmt.Sprintf("The date dimension as that of %s of %s.", date.Name, facts.Name), From: days.Name, As: "d"}
			taken := map[string]bool{}
			for _, c := range days.Columns {
				as := dialect.FreeName(date.Name+"_"+c.Name, func(lower string) bool { return taken[lower] })
				taken[strings.ToLower(as)] = true
				v.Columns = append(v.Columns, dialect.ViewColumn{Of: "d", Name: c.Name, As: as})
			}
			views = append(views, v)
		}
	}
	return views
}
