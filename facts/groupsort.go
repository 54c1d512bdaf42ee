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

// sortedGroups sorts by the group columns in turn: as numbers where a column
// holds nothing else, so that shop 9 comes before shop 10, else as text.
func (g *grid) sortedGroups(columns int) []numberedGroup {
	groups := make([]numberedGroup, g.groups.len())
	for number := range groups {
		groups[number] = numberedGroup{number, g.groups.values(number)}
	}
	numbers := make([]map[string]decimal.Decimal, columns)
	for column := range columns {
		numbers[column] = map[string]decimal.Decimal{}
		for _, g := range groups {
			number, err := decimal.Parse([]byte(g.values[column]))
			if err != nil {
				numbers[column] = nil
				break
			}
			numbers[column][g.values[column]] = number
		}
	}
	slices.SortFunc(groups, func(a, b numberedGroup) int {
		for column := range columns {
			if numbers[column] != nil {
				if order := numbers[column][a.values[column]].Cmp(numbers[column][b.values[column]]); order != 0 {
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
