package dimension

import (
	"iter"

	"roundyear/calendar"
	"roundyear/cell"
	"roundyear/civil"
)

// Days yields the values of the attributes for each day of a range, both ends
// in, in time order. The slice it yields is used again for the next day.
func (c *Catalogue) Days(attributes []Attribute, from, to civil.Day) iter.Seq[[]cell.Value] {
	return func(yield func([]cell.Value) bool) {
		cursor := c.Cursor(attributes)
		for day := from; day <= to; day++ {
			if !yield(cursor.MoveTo(day)) {
				return
			}
		}
	}
}

// Periods yields the values of the attributes for each period of a grain that
// has a day in the range, in time order. The attributes are to be of those that
// hold at the grain. The slice it yields is used again for the next period.
func (c *Catalogue) Periods(attributes []Attribute, grain calendar.Grain, from, to civil.Day) iter.Seq[[]cell.Value] {
	return func(yield func([]cell.Value) bool) {
		cursor := c.Cursor(attributes)
		for period := grain.Locate(from); period.First <= to; period = grain.Locate(period.Last + 1) {
			if !yield(cursor.MoveTo(period.First)) {
				return
			}
		}
	}
}

// cycleFirst and cycleLast bound the 400 years after which dates and weekdays
// of the Gregorian calendar repeat, so that what constant in them always constant.
var (
	cycleFirst = civil.MustOf(2000, civil.January, 1)
	cycleLast  = civil.MustOf(2399, civil.December, 31)
)

// ConstantWithin returns those of the attributes that stay the same within every
// period of a grain, as well in the range as by the rules of the calendars.
func (c *Catalogue) ConstantWithin(attributes []Attribute, grain calendar.Grain, from, to civil.Day) []Attribute {
	constant := map[calendar.Grain]bool{grain: true}
	var held []Attribute
	for _, attribute := range attributes {
		if attribute.changesDaily() && grain.Unit != calendar.Day {
			continue
		}
		known, asked := constant[attribute.SameFor]
		if !asked {
			known = nests(grain, attribute.SameFor, from, to) && nests(grain, attribute.SameFor, cycleFirst, cycleLast)
			constant[attribute.SameFor] = known
		}
		if known {
			held = append(held, attribute)
		}
	}
	return held
}

// nests tells whether each period of the finer grain lies in one of the
// coarser: where one of these begins in the range, so does one of the finer.
func nests(finer, coarser calendar.Grain, from, to civil.Day) bool {
	for _, grain := range []calendar.Grain{finer, coarser} {
		if bounded, ok := grain.Calendar.(calendar.Bounded); ok {
			first, last := bounded.Bounds()
			from, to = max(from, first), min(to, last)
		}
	}
	for period := coarser.Locate(from); period.Last < to; {
		period = coarser.Locate(period.Last + 1)
		if finer.Locate(period.First).First != period.First {
			return false
		}
	}
	return true
}

// KeyOf returns the attribute that is the key of a table of a grain: that of
// the period, or the year's number.
func (c *Catalogue) KeyOf(grain calendar.Grain) (Attribute, bool) {
	for _, attribute := range c.attributes {
		if attribute.Role == RoleKey && attribute.SameFor == grain {
			return attribute, true
		}
	}
	return Attribute{}, false
}
