package app

import (
	"bytes"
	"context"

	"roundyear/facts/lapse"
	"roundyear/internal/inside"
)

// countInside counts inside the database what took how long, by the two days. It is nothing where that is done here, as where rows are
// written.
func (l *Lapse) countInside(ctx context.Context) (*Lapsed, error) {
	if l.Open != nil {
		return nil, nil
	}
	of, err := insideOf(l.OnDatabase.Place, l.Source, l.Asked, l.Decimals, l.Minus)
	if of == nil || err != nil {
		return nil, err
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
	if l.filter, err = newFilter(l.Source, l.Where); err != nil {
		return nil, err
	}
	request := &inside.Request{Table: of, Columns: l.Source.Columns(), Clock: l.Clock, Where: l.Where, WhereColumns: l.filter.columns, Patterns: patternsOf(dates), OrderIsAsked: isOrderAsked(l.Asked, l.Columns...)}
	for _, one := range dates {
		request.Dates = append(request.Dates, one.Columns[0])
	}
	request.Groups = l.places // those of the groups, and of the place
	statement, err := inside.Build(ctx, request)
	if err != nil {
		return nil, err
	}
	if err := l.tell(statement); err != nil {
		return nil, err
	}
	l.Filtered = 0
	w := newLapseWorker(l)
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
		if l.placeAt >= 0 {
			w.enter(row.Groups[l.placeAt])
		}
		group := bytes.Join(row.Groups[:len(l.groups)], []byte{0})
		for range row.Rows {
			w.added = w.added[:0]
			if l.IsMeasured {
				w.measure(group, start, end, !row.IsBlank[0] && hasEnd)
			}
			if l.Due != nil {
				w.due(start, !row.IsBlank[0])
			}
		}
	})
	if err != nil {
		return nil, err
	}
	done := &Lapsed{Dates: dates, LapseCounts: newLapseCounts()}
	done.join(w.counts)
	l.Unmatched, err = l.filter.unmatched(ctx, l.Source)
	return done, err
}
