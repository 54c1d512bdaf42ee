package dimension

import (
	"iter"
	"slices"

	"roundyear/cell"
	"roundyear/civil"
)

// Days yields the values of the attributes for each day of a range, both ends
// in, in time order. The slice it yields is used again for the next day.
//
// An attribute is worked out again only when the day has left the period over
// which the catalogue says it stays the same.
func (c *Catalogue) Days(attributes []Attribute, from, to civil.Day) iter.Seq[[]cell.Value] {
	return func(yield func([]cell.Value) bool) {
		r := &row{tracks: make([]track, len(c.grains))}
		for i, grain := range c.grains {
			r.tracks[i].grain = grain
		}
		held := make([]int, len(attributes))
		for i, attribute := range attributes {
			held[i] = slices.Index(c.grains, attribute.Holds)
		}
		values := make([]cell.Value, len(attributes))
		for day := from; day <= to; day++ {
			r.moveTo(day)
			for i := range attributes {
				if held[i] < 0 || r.tracks[held[i]].entered {
					values[i] = attributes[i].value(r)
				}
			}
			if !yield(values) {
				return
			}
		}
	}
}
