package dimension

import (
	"slices"

	"roundyear/calendar"
	"roundyear/cell"
	"roundyear/civil"
)

// row is a day with all that attributes ask about it, located once.
type row struct {
	day        civil.Day
	year       int
	month      civil.Month
	dayOfMonth int
	weekday    civil.Weekday
	tracks     []track
	sets       []setDay
}

// track follows one grain from day to day and locates a period only when the
// day has left the last one.
type track struct {
	grain  calendar.Grain
	period calendar.Period
	label  string
	// entered tells that the last move has led into another period.
	entered bool
	// firstWeek and toDate are worked out when first asked for in a period.
	firstWeek           int
	toDate              civil.Day
	hasFirst, hasToDate bool
}

func (r *row) moveTo(day civil.Day) {
	r.day = day
	r.year, r.month, r.dayOfMonth = day.Date()
	r.weekday = day.Weekday()
	for i := range r.tracks {
		t := &r.tracks[i]
		if t.entered = t.label == "" || !t.period.Contains(day); t.entered {
			t.period = t.grain.Locate(day)
			t.label = t.grain.Label(t.period)
			t.hasFirst, t.hasToDate = false, false
		}
	}
}

// Cursor gives the values of some attributes, day by day. An attribute is
// worked out again only when the day has left the period over which the
// catalogue says it stays the same.
type Cursor struct {
	attributes []Attribute
	row        row
	// daily are the places of the attributes that each day has anew, held those
	// that a track's periods have, and kept those that stay while a set of days
	// off says the same of each day.
	daily   []int
	held    [][]int
	kept    [][]int
	sets    []*workdaySet
	values  []cell.Value
	changed []bool
	// again are the places that the last move has worked out besides the
	// daily ones.
	again []int
}

// Cursor returns a cursor over some attributes of the catalogue.
func (c *Catalogue) Cursor(attributes []Attribute) *Cursor {
	cursor := &Cursor{
		attributes: attributes, row: row{tracks: make([]track, len(c.grains)), sets: make([]setDay, len(c.sets))}, held: make([][]int, len(c.grains)),
		kept: make([][]int, len(c.sets)), sets: c.sets,
		values: make([]cell.Value, len(attributes)), changed: make([]bool, len(attributes)),
	}
	for i, grain := range c.grains {
		cursor.row.tracks[i].grain = grain
	}
	for i := range cursor.row.sets {
		cursor.row.sets[i] = setDay{day: noDay, counts: make([]periodCount, len(c.grains))}
		for k := range cursor.row.sets[i].counts {
			cursor.row.sets[i].counts[k].first = noDay
		}
	}
	for i, attribute := range attributes {
		if track := slices.Index(c.grains, attribute.SameFor); track >= 0 {
			cursor.held[track] = append(cursor.held[track], i)
			continue
		}
		if attribute.kept > 0 {
			cursor.kept[attribute.kept-1] = append(cursor.kept[attribute.kept-1], i)
			continue
		}
		cursor.daily = append(cursor.daily, i)
		cursor.changed[i] = true
	}
	return cursor
}

// MoveTo returns the values of a day. The slice is used again for the next.
func (c *Cursor) MoveTo(day civil.Day) []cell.Value {
	c.row.moveTo(day)
	for _, i := range c.again {
		c.changed[i] = false
	}
	c.again = c.again[:0]
	for i := range c.row.tracks {
		if c.row.tracks[i].entered {
			c.again = append(c.again, c.held[i]...)
		}
	}
	for i, places := range c.kept {
		if len(places) > 0 && c.sets[i].at(&c.row).entered {
			c.again = append(c.again, places...)
		}
	}
	for _, i := range c.again {
		c.changed[i] = true
		c.values[i] = c.attributes[i].value(&c.row)
	}
	for _, i := range c.daily {
		c.values[i] = c.attributes[i].value(&c.row)
	}
	return c.values
}

// Changed tells of each attribute whether the last move has worked it out
// again. The slice is used again for the next.
func (c *Cursor) Changed() []bool { return c.changed }
