package facts

import "roundyear/calendar"

// grid is the cells of all groups and periods that have some: records of numbers, found by the values of the group and the number of the
// period. Its memory grows with groups times periods, and not with what comes in.
type grid struct {
	groups *groupTable
	// pages are the cells of each group, by period.
	pages []pageList
	cells *cells
	// bits is how many periods in a row have cells together, as a power of two.
	bits uint8
	// made are the groups that facts do not have, by their numbers, and ranks those of attributes of days by column.
	made  map[int]madeGroup
	ranks []map[string]int
}

// newGrid returns a grid of periods of a grain. Days in a row have their cells together, and of coarse periods few, so that a group with
// facts here and there does not take much.
func newGrid(cells *cells, grain calendar.Grain) grid {
	bits := uint8(1)
	switch grain.Unit {
	case calendar.Day:
		bits = 4
	case calendar.Week:
		bits = 3
	case calendar.Month:
		bits = 2
	}
	return grid{groups: newGroupTable(), cells: cells, bits: bits}
}

// GroupCount returns how many groups there are.
func (g *grid) GroupCount() int { return g.groups.len() }

// pageSize is how many periods have cells together.
func (g *grid) pageSize() uint32 { return 1 << g.bits }

// find returns the cell of a group and period; noPage if there is none.
func (g *grid) find(group, period int) uint32 {
	page := g.pages[group].page(period >> g.bits)
	if page == noPage {
		return noPage
	}
	return page + uint32(period)&(g.pageSize()-1)
}

// group returns the number of a combination of values.
func (g *grid) group(values [][]byte) int {
	number, isNew := g.groups.number(values)
	if isNew {
		g.pages = append(g.pages, pageList{})
	}
	return number
}

// cell returns the cell of a group and period, which is there from now on.
func (g *grid) cell(group, period int) uint32 {
	pages := &g.pages[group]
	page := pages.page(period >> g.bits)
	if page == noPage {
		page = g.cells.grow(g.pageSize())
		pages.set(period>>g.bits, page)
	}
	return page + uint32(period)&(g.pageSize()-1)
}

// join calls do with each cell of another grid and the one of the same group and period here.
func (g *grid) join(other *grid, newGroup func(own, theirs int), do func(own, theirs uint32)) {
	for theirs := range other.groups.len() {
		group, isNew := g.groups.numberOf(other.groups.keyOf(theirs))
		if isNew {
			g.pages = append(g.pages, pageList{})
		}
		if newGroup != nil {
			newGroup(group, theirs)
		}
		for at, page := range other.pages[theirs].pages {
			if page == noPage {
				continue
			}
			first := g.cell(group, (other.pages[theirs].base+at)<<g.bits)
			for i := range g.pageSize() {
				do(first+i, page+i)
			}
		}
	}
}

// eachCell calls do with the periods of a group that have facts, in time order, and their cells.
func (g *grid) eachCell(group int, do func(number int, cell uint32)) {
	list := &g.pages[group]
	for at, page := range list.pages {
		if page == noPage {
			continue
		}
		for i := range g.pageSize() {
			if g.cells.record(page + i)[0] > 0 {
				do((list.base+at)<<g.bits+int(i), page+i)
			}
		}
	}
}
