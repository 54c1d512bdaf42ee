package dimension

import (
	"iter"

	"roundyear/cell"
	"roundyear/civil"
)

// Days yields the values of the attributes for each day of a range, both ends
// in, in time order. The slice it yields is used again for the next day.
func (c *Catalogue) Days(attributes []Attribute, from, to civil.Day) iter.Seq[[]cell.Value] {
	return func(yield func([]cell.Value) bool) {
		r := &row{tracks: make([]track, len(c.grains))}
		for i, grain := range c.grains {
			r.tracks[i].grain = grain
		}
		values := make([]cell.Value, len(attributes))
		for day := from; day <= to; day++ {
			r.moveTo(day)
			for i := range attributes {
				values[i] = attributes[i].value(r)
			}
			if !yield(values) {
				return
			}
		}
	}
}
