package facts

import (
	"slices"
	"strings"

	"roundyear/civil"
)

// Budget is what one of the measures should have been.
type Budget struct {
	// Days are its amounts by day, of the same groups and measures as the facts, of which only one has amounts.
	Days *Tally
	// Measure is the place of that.
	Measure int
}

// BudgetColumn is a part of the names of its columns.
const BudgetColumn = "budget"

// NewBudget returns a budget without amounts for a measure of an operation.
func NewBudget(o Operation, measure int) *Budget {
	o.Groups, o.Attributes = o.SourceGroups(), nil
	o.From, o.To, o.IsTold = nil, nil, true
	return &Budget{Days: NewTally(o), Measure: measure}
}

// Add takes in the amount of a day. The error is a BadValue.
func (b *Budget) Add(day civil.Day, group []string, amount string) error {
	groups := make([][]byte, len(group))
	for i, value := range group {
		groups[i] = []byte(value)
	}
	values := make([][]byte, len(b.Days.measures))
	values[b.Measure] = []byte(amount)
	return b.Days.Add(day, Place{Day: day}, groups, values)
}

// addGroups makes the groups of the budget known to a result, so that those without facts have rows, too.
func (b *Budget) addGroups(g *regrouping) {
	if len(g.operation.Attributes) > 0 {
		return // they have no groups before there is a day
	}
	for group := range b.Days.groups.len() {
		g.of(b.Days, group, 0)
	}
}

// GroupsWithout returns the groups of the budget that have no facts, as their values.
func (r *Result) GroupsWithout() (without []string) {
	if r.operation.Budget == nil {
		return nil
	}
	own := map[string]bool{}
	for group := range r.days.facts.groups.len() {
		own[strings.Join(r.days.facts.groups.values(group), ", ")] = true
	}
	for group := range r.operation.Budget.Days.groups.len() {
		if name := strings.Join(r.operation.Budget.Days.groups.values(group), ", "); !own[name] {
			without = append(without, name)
		}
	}
	slices.Sort(without)
	return without
}

// Unbudgeted returns the groups of facts that the budget does not have.
func (r *Result) Unbudgeted() (without []string) {
	if r.operation.Budget == nil {
		return nil
	}
	planned := map[string]bool{}
	for group := range r.operation.Budget.Days.groups.len() {
		planned[strings.Join(r.operation.Budget.Days.groups.values(group), ", ")] = true
	}
	for group := range r.days.facts.groups.len() {
		if name := strings.Join(r.days.facts.groups.values(group), ", "); !planned[name] {
			without = append(without, name)
		}
	}
	slices.Sort(without)
	return without
}
