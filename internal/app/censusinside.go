package app

import (
	"context"

	"roundyear/civil"
	"roundyear/facts"
	"roundyear/internal/inside"
)

// countInside counts spans inside their database, by the days on which they opened and closed. It is nothing where they are counted here.
func (c *Census) countInside(ctx context.Context) (*Counted, error) {
	of, err := insideOf(c.Place, c.Source, c.Asked, c.Decimals, c.Minus)
	if of == nil || err != nil {
		return nil, err
	}
	counted, err := c.censusInside(ctx, of)
	if err != nil {
		return nil, notInside(c.Place, err)
	}
	return counted, nil
}

func (c *Census) censusInside(ctx context.Context, of inside.Table) (*Counted, error) {
	switch {
	case len(c.sums) > 0:
		return nil, &inside.Refusal{Why: "quantities are added up span by span"}
	case c.ID != "":
		return nil, &inside.Refusal{Why: "repeated identifiers are found row by row"}
	}
	dates, err := decidedInside(ctx, c.Source, c.Columns, c.Asked)
	if err != nil {
		return nil, err
	}
	if c.filter, err = newFilter(ctx, c.Source, c.Where, c.Asked); err != nil {
		return nil, err
	}
	if c.filter.readsDays() {
		return nil, &inside.Refusal{Why: conditionsOnText}
	}
	request := &inside.Request{Table: of, Columns: c.Source.Columns(), Dates: []int{dates[0].Columns[0], dates[1].Columns[0]}, Clock: c.Clock, Where: c.Where, WhereColumns: c.filter.columns, Patterns: patternsOf(dates), OrderIsAsked: isOrderAsked(c.Asked, c.Columns...)}
	for _, which := range c.groups {
		request.Groups = append(request.Groups, c.places[which])
	}
	statement, err := inside.Build(ctx, request)
	if err != nil {
		return nil, err
	}
	if err := c.tell(statement); err != nil {
		return nil, err
	}
	counted := &Counted{CensusTally: facts.NewCensusTally(c.Operation), Dates: dates}
	c.Filtered = 0
	isBackward := false
	err = statement.Run(ctx, func(row *inside.Row) {
		c.filter.note(row.Seen)
		switch {
		case !row.IsKept:
			c.Filtered += row.Rows
		case row.IsBlank[0]:
			for range row.Rows {
				counted.AddUndated()
			}
		default:
			hasClosed := !row.IsBlank[1]
			isBackward = isBackward || hasClosed && row.Days[1] < row.Days[0]
			_, _ = counted.AddSpans(repeated(row, hasClosed)) // without quantities there is nothing to read
			c.Many.see(counted.GroupCount())
		}
	})
	switch {
	case err != nil:
		return nil, err
	case isBackward:
		return nil, &inside.Refusal{Why: "spans that close before they open are told row by row"}
	}
	c.Unmatched, err = c.filter.unmatched(ctx, c.Source)
	return counted, err
}

// repeated are as many spans as a row of a statement stands for.
func repeated(row *inside.Row, hasClosed bool) *facts.Spans {
	s := &facts.Spans{Opened: make([]civil.Day, row.Rows), Closed: make([]civil.Day, row.Rows), HasClosed: make([]bool, row.Rows), Groups: make([][][]byte, len(row.Groups))}
	for i := range row.Rows {
		s.Opened[i], s.Closed[i], s.HasClosed[i] = row.Days[0], row.Days[1], hasClosed
		for group := range row.Groups {
			s.Groups[group] = append(s.Groups[group], row.Groups[group])
		}
	}
	return s
}
