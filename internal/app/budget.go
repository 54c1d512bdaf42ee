package app

import (
	"context"
	"fmt"
	"slices"

	"roundyear/calendar"
	"roundyear/civil"
	"roundyear/facts"
	"roundyear/fault"
)

// Budgeted is a budget and what came of laying it over days.
type Budgeted struct {
	*facts.Budget
	Of calendar.Grain
	// Unplaced is how many amounts have no day that counts, and were laid over all days of their periods.
	Unplaced int
	// Undated is how many rows have no date.
	Undated int
}

// Budget reads a budget for a measure of an operation, and lays it over days.
func (a *Allocate) Budget(ctx context.Context, y *Year, inputs []string, o facts.Operation, measure int) (*Budgeted, error) {
	a.Grain = calendar.Grain{Calendar: y.Set.Year, Unit: calendar.Day}
	laid, err := a.Run(ctx, y, inputs)
	if err != nil {
		return nil, err
	}
	if laid.Allocated == nil {
		return nil, &fault.Fault{File: a.Source.Name(), What: "no rows of the budget are left"}
	}
	b := &Budgeted{Budget: facts.NewBudget(o, measure), Of: laid.Of, Unplaced: len(laid.Unplaced), Undated: laid.Tallied.Tally.Summary().Undated}
	groups := len(a.Operation.Groups)
	var failed error
	for row := range laid.Rows {
		day, err := civil.Parse(row[1].String())
		if err != nil {
			return nil, err
		}
		var group []string
		for _, value := range row[3 : 3+groups] {
			group = append(group, value.String())
		}
		if failed = b.Add(day, group, row[3+groups].String()); failed != nil {
			return nil, fmt.Errorf("the budget of %s: %w", day, failed)
		}
	}
	return b, nil
}

// MissingGroups returns the groups that a source does not have as columns.
func MissingGroups(names, groups []string) []string {
	return slices.DeleteFunc(slices.Clone(groups), func(group string) bool { return slices.Contains(names, group) })
}
