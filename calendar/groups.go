package calendar

import (
	"fmt"
	"slices"
	"strings"
)

// Groups says for each coarser unit which of its groups each period of the
// year belongs to, from the first period to the last: quarters of a year of
// twelve months are 1, 1, 1, 2, 2, 2, 3, 3, 3, 4, 4, 4.
type Groups map[Unit][]int

// groupings are the coarser units of a year of so many periods.
type groupings [Year + 1]grouping

// grouping is one coarser unit: the place, from 0, of the first period of each
// of its groups, and after them the number of periods; and the group of each
// period, from 0. It is empty when the calendar has no such unit.
type grouping struct {
	starts, of []int
}

// groupCounts is how many groups a year has of each unit.
var groupCounts = map[Unit][]int{Quarter: {4}, Trimester: {3, 4}, Third: {3}, Half: {2}}

// newGroupings reads the groups of a year of so many periods. Quarters that
// are not given are even where the periods allow it, of three and three and
// three and four of thirteen, and halves are two quarters.
func newGroupings(given Groups, periods int) (groupings, error) {
	var all groupings
	for unit, groups := range given {
		counts, known := groupCounts[unit]
		if !known {
			return all, fmt.Errorf("periods are not grouped into %s", unit.Plural())
		}
		one, err := newGrouping(unit, groups, periods)
		if err != nil {
			return all, err
		}
		if got := len(one.starts) - 1; !slices.Contains(counts, got) {
			return all, fmt.Errorf("%s make %d periods, not %d", unit.Plural(), got, counts[0])
		}
		all[unit] = one
	}
	if all[Quarter].of == nil && given[Half] == nil || all[Quarter].of == nil && periods == 12 {
		switch {
		case periods%4 == 0 && periods > 0:
			all[Quarter] = evenly(periods, 4)
		case periods == 13:
			all[Quarter], _ = newGrouping(Quarter, []int{1, 1, 1, 2, 2, 2, 3, 3, 3, 4, 4, 4, 4}, 13)
		}
	}
	if all[Half].of == nil {
		switch {
		case all[Quarter].of != nil:
			half := make([]int, periods)
			for i, quarter := range all[Quarter].of {
				half[i] = quarter/2 + 1
			}
			all[Half], _ = newGrouping(Half, half, periods)
		case periods%2 == 0:
			all[Half] = evenly(periods, 2)
		}
	}
	return all, all.checkNesting(given)
}

// checkNesting refuses quarters that lie in two halves. Quarters that were not
// asked for are left out instead.
func (g *groupings) checkNesting(given Groups) error {
	for _, start := range g[Half].starts {
		if g[Quarter].of != nil && !slices.Contains(g[Quarter].starts, start) {
			if given[Quarter] == nil {
				g[Quarter] = grouping{}
				return nil
			}
			return fmt.Errorf("a quarter spans both halves: period %d starts a half but not a quarter", start+1)
		}
	}
	return nil
}

func newGrouping(unit Unit, groups []int, periods int) (grouping, error) {
	var g grouping
	if len(groups) != periods {
		return g, fmt.Errorf("%s must have a value for each of the %d periods of the year, not for %d", unit.Plural(), periods, len(groups))
	}
	for i, group := range groups {
		switch {
		case i == 0 && group != 1, i > 0 && group != groups[i-1] && group != groups[i-1]+1:
			return g, fmt.Errorf("%s must count up from 1 without gaps, such as 1, 1, 1, 2, 2, 2, not %s", unit.Plural(), numbers(groups))
		case i == 0 || group != groups[i-1]:
			g.starts = append(g.starts, i)
		}
		g.of = append(g.of, group-1)
	}
	g.starts = append(g.starts, periods)
	return g, nil
}

func numbers(all []int) string {
	return strings.Trim(strings.ReplaceAll(fmt.Sprint(all), " ", ", "), "[]")
}

func evenly(periods, count int) grouping {
	var g grouping
	for i := range periods {
		if i%(periods/count) == 0 {
			g.starts = append(g.starts, i)
		}
		g.of = append(g.of, i/(periods/count))
	}
	g.starts = append(g.starts, periods)
	return g
}

// units lists the year, the groups that there are, and the given finer units.
func (g *groupings) units(finer ...Unit) []Unit {
	units := []Unit{Year}
	for unit := Half; unit > Month; unit-- {
		if g[unit].of != nil {
			units = append(units, unit)
		}
	}
	return append(units, finer...)
}

// whole is a year as one group, and single each period as its own.
func (g *groupings) addEnds(periods int) {
	g[Year] = evenly(periods, 1)
	g[Month] = evenly(periods, periods)
}

func (g grouping) count() int { return len(g.starts) - 1 }

// members says which periods of the year make a group, both from 0.
func (g grouping) members(group int) string {
	first, last := g.starts[group]+1, g.starts[group+1]
	if first == last {
		return fmt.Sprintf("period %d", first)
	}
	return fmt.Sprintf("periods %d to %d", first, last)
}
