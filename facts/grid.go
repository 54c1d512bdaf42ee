package facts

// grid is the cells of all groups and periods that have some: records of numbers, found by the values of the group and the number of the
// period. Its memory grows with groups times periods, and not with what comes in.
type grid struct {
	groups *groupTable
	// pages are the cells of each group, by period.
	pages []pageList
	cells *cells
}

func newGrid(cells *cells) grid { return grid{groups: newGroupTable(), cells: cells} }

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
	page := pages.page(period >> pageBits)
	if page == noPage {
		page = g.cells.grow(pageCells)
		pages.set(period>>pageBits, page)
	}
	return page + uint32(period&(pageCells-1))
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
			first := g.cell(group, (other.pages[theirs].base+at)<<pageBits)
			for i := range uint32(pageCells) {
				do(first+i, page+i)
			}
		}
	}
}
