package facts

import (
	"cmp"
	"slices"

	"roundyear/facts/decimal"
)

// numberedGroup is a group with its number.
type numberedGroup struct {
	number int
	values []string
}

// SortGroups says by which numbers the values of columns that facts are grouped by sort: those of the facts in their order, nil for columns
// without. Groups of the same number sort as others do.
func (t *Tally) SortGroups(numbers []map[string]int) {
	for _, of := range numbers {
		if len(of) > 0 {
			t.ranks = numbers
		}
	}
}

// sortedGroups sorts by the group columns in turn: as numbers where a column
// holds nothing else, so that shop 9 comes before shop 10, else as text; an attribute of days
// by its ranks. Groups that are made up come after those that they are of.
func (g *grid) sortedGroups(columns int) []numberedGroup {
	values := g.groups.all(columns)
	groups := make([]numberedGroup, len(values))
	for number := range groups {
		groups[number] = numberedGroup{number, values[number]}
	}
	madeUp := g.made
	// numbers are those of the columns by the numbers of the groups, nil for a column that holds something else.
	numbers := make([][]decimal.Decimal, columns)
	for column := range columns {
		numbers[column] = make([]decimal.Decimal, len(groups))
		for _, g := range groups {
			if made, ok := madeUp[g.number]; ok && column >= made.from {
				continue
			}
			number, err := decimal.Parse([]byte(g.values[column]))
			if err != nil {
				numbers[column] = nil
				break
			}
			numbers[column][g.number] = number
		}
	}
	slices.SortFunc(groups, func(a, b numberedGroup) int {
		for column := range columns {
			inA, inB := g.orderOf(a.number, column), g.orderOf(b.number, column)
			if inA != inB {
				return cmp.Compare(inA, inB)
			}
			if inA > 0 {
				continue
			}
			if column < len(g.ranks) && g.ranks[column] != nil {
				if order := cmp.Compare(g.ranks[column][a.values[column]], g.ranks[column][b.values[column]]); order != 0 {
					return order
				}
			}
			if numbers[column] != nil {
				if order := numbers[column][a.number].Cmp(numbers[column][b.number]); order != 0 {
					return order
				}
			}
			if order := cmp.Compare(a.values[column], b.values[column]); order != 0 {
				return order
			}
		}
		return 0
	})
	return groups
}

// orderOf returns where a group comes by a column before its values are looked at.
func (g *grid) orderOf(number, column int) int {
	if made, ok := g.made[number]; ok {
		return made.order(column)
	}
	return 0
}
