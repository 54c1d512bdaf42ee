package app

import (
	"bytes"
	"cmp"
	"context"
	"errors"
	"maps"
	"slices"
	"strconv"
	"strings"

	"roundyear/cell"
	"roundyear/civil"
	"roundyear/facts/lapse"
	"roundyear/internal/database"
	"roundyear/internal/dialect"
	"roundyear/internal/extended"
	"roundyear/internal/inside"
	"roundyear/rows"
)

// inside works out inside the database what took how long, by the two days, and writes the rows there if any are written. It is nothing
// where that is done here.
func (l *Lapse) inside(ctx context.Context) (*Lapsed, error) {
	of, err := insideOf(l.OnDatabase.Place, l.Source, l.Asked, l.Decimals, l.Minus)
	if of == nil || err != nil {
		return nil, err
	}
	if l.Open != nil && !database.IsSame(l.Source.Parts[0].Name, l.Out) {
		return nil, notInside(l.OnDatabase.Place, &inside.Refusal{Why: "the output is not a table of the same database"})
	}
	done, err := l.lapseInside(ctx, of)
	if err != nil {
		return nil, notInside(l.OnDatabase.Place, err)
	}
	return done, nil
}

func (l *Lapse) lapseInside(ctx context.Context, of inside.Table) (*Lapsed, error) {
	switch {
	case l.FromPrevious:
		return nil, &inside.Refusal{Why: "the row before is found row by row"}
	case l.byClock():
		return nil, &inside.Refusal{Why: "hours are measured row by row"}
	}
	dates, err := decidedInside(ctx, l.Source, l.Columns, l.Asked)
	if err != nil {
		return nil, err
	}
	if l.filter, err = newFilter(ctx, l.Source, l.Where, l.Asked); err != nil {
		return nil, err
	}
	if l.filter.readsDays() {
		return nil, &inside.Refusal{Why: conditionsOnText}
	}
	request := &inside.Request{Table: of, Columns: l.Source.Columns(), Clock: l.Clock, Where: l.Where, WhereColumns: l.filter.columns, Patterns: patternsOf(dates), OrderIsAsked: isOrderAsked(l.Asked, l.Columns...)}
	for _, one := range dates {
		request.Dates = append(request.Dates, one.Columns[0])
	}
	request.Groups = l.places // those of the groups, and of the place
	groups, placeAt := len(l.groups), l.placeAt
	if l.Open != nil && l.Bands == nil { // nothing is told of groups
		request.Groups, groups, placeAt = l.places[len(l.groups):], 0, min(l.placeAt, 0)
	}
	statement, err := inside.Build(ctx, request)
	if err != nil {
		return nil, err
	}
	if l.Open == nil {
		if err := l.tell(statement); err != nil {
			return nil, err
		}
	}
	l.Filtered = 0
	w, found := newLapseWorker(l), newFoundLapses(l)
	err = statement.Run(ctx, func(row *inside.Row) {
		l.filter.note(row.Seen)
		if !row.IsKept {
			l.Filtered += row.Rows
			return
		}
		start, end, hasEnd := lapse.Moment{Day: row.Days[0]}, lapse.Moment{Day: l.AsOf}, true
		if l.End != "" {
			end, hasEnd = lapse.Moment{Day: row.Days[1]}, !row.IsBlank[1]
		}
		if placeAt >= 0 {
			w.enter(row.Groups[placeAt])
		}
		group := bytes.Join(row.Groups[:groups], []byte{0})
		w.added = w.added[:0]
		if l.IsMeasured {
			w.measure(group, start, end, !row.IsBlank[0] && hasEnd, row.Rows)
		}
		if l.Due != nil {
			w.due(start, !row.IsBlank[0], row.Rows)
		}
		if l.Open != nil {
			found.add(row, w)
		}
	})
	if err != nil {
		return nil, err
	}
	done := &Lapsed{Dates: dates, LapseCounts: newLapseCounts()}
	done.join(w.counts)
	if l.Open != nil {
		if err := l.writeInside(ctx, statement, request, found); err != nil {
			return nil, err
		}
		done.Written = found.rows
	}
	l.Unmatched, err = l.filter.unmatched(ctx, l.Source)
	return done, err
}

// foundLapses are what is added to the rows of each pair of days and each place.
type foundLapses struct {
	lapse *Lapse
	rows  int
	added map[lapseKey][]cell.Value
}

// lapseKey is a pair of days, blankDay for one that is blank, and the place if it has a calendar.
type lapseKey struct {
	start, end civil.Day
	place      string
}

const blankDay = civil.MinDay - 1

func newFoundLapses(l *Lapse) *foundLapses {
	return &foundLapses{lapse: l, added: map[lapseKey][]cell.Value{}}
}

// add takes what a worker adds to some rows.
func (f *foundLapses) add(row *inside.Row, w *lapseWorker) {
	f.rows += row.Rows
	day := func(date int) civil.Day {
		if row.IsBlank[date] {
			return blankDay
		}
		return row.Days[date]
	}
	key := lapseKey{start: day(0)}
	if f.lapse.End != "" {
		key.end = day(1)
	}
	if f.lapse.placeAt >= 0 && w.calendar != nil {
		key.place = w.place
	}
	if f.added[key] == nil {
		f.added[key] = slices.Clone(w.added)
	}
}

// places are those with a calendar, in order.
func (f *foundLapses) places() []string {
	names := map[string]bool{}
	for key := range f.added {
		if key.place != "" {
			names[key.place] = true
		}
	}
	return slices.Sorted(maps.Keys(names))
}

// noDay is a day that no row has.
func (f *foundLapses) noDay() civil.Day {
	days := map[civil.Day]bool{}
	for key := range f.added {
		days[key.start], days[key.end] = true, true
	}
	day := civil.MustOf(1000, 1, 1) // from which on all databases have days
	for days[day] {
		day++
	}
	return day
}

// relation is what was found as rows for a query, in the order of the days and places.
func (f *foundLapses) relation(query *inside.Lapses, added []cell.Column) *relation {
	keys := query.Keys()
	columns := slices.Clone(keys)
	for i, column := range rows.OfCells(added) {
		column.Name = "a" + strconv.Itoa(i+1)
		columns = append(columns, dialect.Column{Column: column})
	}
	r := newRelation(query.Relation, columns)
	inOrder := slices.SortedFunc(maps.Keys(f.added), func(a, b lapseKey) int {
		return cmp.Or(cmp.Compare(a.start, b.start), cmp.Compare(a.end, b.end), strings.Compare(a.place, b.place))
	})
	for _, key := range inOrder {
		days := []civil.Day{key.start, key.end}
		for i := range query.Dates {
			if days[i] == blankDay {
				days[i] = query.NoDay
			}
			r.block.Vectors[i].Int = append(r.block.Vectors[i].Int, int64(days[i]))
		}
		if query.PlaceColumn >= 0 {
			of := &r.block.Vectors[len(query.Dates)]
			of.Int = append(of.Int, int64(slices.Index(query.Places, key.place)+1))
		}
		for i, value := range f.added[key] {
			r.block.Vectors[len(keys)+i].AppendCell(value)
		}
		r.block.Count++
	}
	return r
}

// writeInside writes the rows into a table of their database.
func (l *Lapse) writeInside(ctx context.Context, statement *inside.Statement, request *inside.Request, found *foundLapses) error {
	condition, err := statement.Condition()
	if err != nil {
		return err
	}
	query := &inside.Lapses{Condition: condition, Relation: "roundyear_lapses", NoDay: found.noDay(), PlaceColumn: -1, Places: found.places()}
	query.Request, query.Keep, query.Types = *request, rows.Extension{Source: l.Source}.Kept(), rows.Extension{Source: l.Source}.Columns()
	if l.placeAt >= 0 {
		query.PlaceColumn = l.places[l.placeAt]
	}
	for i, column := range l.Added() {
		query.Added = append(query.Added, inside.Attribute{Name: column.Name, Of: "a" + strconv.Itoa(i+1)})
	}
	text, err := query.Select(ctx)
	if err != nil {
		return err
	}
	relations := []*relation{found.relation(query, l.Added())}
	if l.Told != nil {
		form := extended.Form{Source: l.Source, Added: l.Added()}
		columns, err := form.Columns()
		if err != nil {
			return err
		}
		statements, err := written(request.Table.Dialect(), l.Out, columns, relations, text)
		if err != nil {
			return err
		}
		return l.Told(statements)
	}
	if err := l.openOutputs(); err != nil {
		return err
	}
	into := l.outputs[0].Sink().(writtenInside)
	count, err := filled(into, relations, text)
	switch {
	case errors.Is(err, database.ErrNoDay), err == nil && count != int64(found.rows):
		return inside.ErrChanged // since all days were read before
	case err != nil:
		return err
	}
	return nil
}
