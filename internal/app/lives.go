package app

import (
	"context"
	"fmt"
	"strings"

	"roundyear/civil"
	"roundyear/facts"
	"roundyear/fault"
	"roundyear/internal/reading"
	"roundyear/rows"
)

// SiteLives returns when the sites of the plan are there, and on which days they trade.
func (y *Year) SiteLives() *facts.Lives {
	lives := &facts.Lives{Of: map[string]facts.Life{}}
	for _, site := range y.Sites() {
		lives.Of[site.Name] = facts.Life{Opened: site.Opened, Closed: site.Closed, IsOpen: func(day civil.Day) bool {
			open, _, _ := site.IsOpen(day)
			return open
		}}
	}
	return lives
}

// LivesFile is a table of when groups are there: a row for each.
type LivesFile struct {
	Source *rows.Source
	Asked  reading.Asked
	// Group, Opened and Closed are its columns.
	Group, Opened, Closed string
}

// life is a row of the table.
type life struct {
	group string
	part  *rows.Part
	line  int
	days  [2]*civil.Day
}

// Read reads the table. A group that is in it twice, or that closed before it opened, is an error.
func (l *LivesFile) Read(ctx context.Context) (map[string]facts.Life, error) {
	place, err := l.Source.Find(l.Group)
	if err != nil {
		return nil, err
	}
	var read []life
	_, err = datesTogether(ctx, l.Source, []string{l.Opened, l.Closed}, l.Asked, func(dates []*reading.Dates, evidence []*reading.Evidence) (err error) {
		read, err = l.pass(ctx, place, dates, evidence)
		return err
	})
	if err != nil {
		return nil, err
	}
	lives, lines := map[string]facts.Life{}, map[string]int{}
	for _, one := range read {
		problem := &fault.Fault{File: one.part.Name, Line: one.line, Column: l.Source.Names()[place]}
		opened, closed := one.days[0], one.days[1]
		if earlier, ok := lines[one.group]; ok {
			problem.What, problem.Remedy = fmt.Sprintf("%q is already in line %d", one.group, earlier), "Leave one row for each"
			return nil, problem
		}
		if opened != nil && closed != nil && *closed < *opened {
			problem.What = fmt.Sprintf("%q closed on %s, before it opened on %s", one.group, *closed, *opened)
			return nil, problem
		}
		lines[one.group], lives[one.group] = one.line, facts.Life{Opened: opened, Closed: closed}
	}
	return lives, nil
}

// pass reads all rows, and gathers the evidence for how their dates are read on the way if that is asked for.
func (l *LivesFile) pass(ctx context.Context, place int, dates []*reading.Dates, evidence []*reading.Evidence) (read []life, err error) {
	type batch struct {
		lives    []life
		observed []*reading.Part
	}
	work := func() func(*rows.Batch) (batch, error) {
		readers := []*reading.Reader{dates[0].Reader(), dates[1].Reader()}
		return func(from *rows.Batch) (b batch, err error) {
			for i, reader := range readers {
				reader.Enter(from.Part)
				if evidence != nil {
					b.observed = append(b.observed, evidence[i].Part(from.Part))
				}
			}
			var row rows.Row
			for from.Next(&row) {
				one := life{group: strings.TrimSpace(string(row.Field(place))), part: from.Part, line: row.Line}
				for i, reader := range readers {
					if evidence != nil {
						b.observed[i].Observe(&row)
					}
					if moment, state := reader.Read(&row); state == reading.Read {
						one.days[i] = &moment.Day
					}
				}
				b.lives = append(b.lives, one)
			}
			return b, from.Err()
		}
	}
	err = rows.Process(ctx, l.Source, work, func(b batch) error {
		read = append(read, b.lives...)
		for i, observed := range b.observed {
			evidence[i].Join(observed)
		}
		return nil
	})
	return read, err
}
