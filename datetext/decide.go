package datetext

import (
	"fmt"
	"slices"
)

// Decision is how a column is read, and why.
type Decision struct {
	Reader *Reader
	// Order is the order of the values whose order could differ, Settled
	// the number of values that left no choice, and First the first of them.
	// Settled is 0 when no value could differ or the user has said the order.
	Order   Order
	Settled int
	First   Example
	// Asked tells that the user has said the pattern or the order.
	Asked bool
	// Patterns are the patterns in use, with the most values first.
	Patterns []Share
	// Clock is the finest time of day that any of the values has.
	Clock Resolution
	// Language is the tag of the language of the names of months; empty when
	// no pattern in use has names.
	Language string
	// Pivot is the first of the hundred years that years of two digits mean; 0
	// when no pattern in use has such years.
	Pivot int
	// Values and Blanks count what the column holds, Unread the values that
	// cannot be read; Faults are the first of these.
	Values, Blanks, Unread int
	Faults                 []Example
}

// SameReading tells whether a reader of a decision that was taken on fewer
// values of the column has read all values as this one would: by the same
// patterns, and with the same reasons for those that cannot be read.
func (d *Decision) SameReading(fewer *Decision) bool {
	if fewer == nil || d.Language != fewer.Language || d.Unread > 0 && !slices.Equal(d.Reader.forms, fewer.Reader.forms) {
		return false
	}
	for shape, candidate := range d.Reader.byShape {
		other := fewer.Reader.byShape[shape]
		if other == nil || other.pattern.String() != candidate.pattern.String() {
			return false
		}
	}
	return true
}

// Share is a pattern and the number of values it reads.
type Share struct {
	Pattern string
	Count   int
	// Grain is what a value stands for: day, week, month or quarter.
	Grain string
}

// NoDates is the error for a column in which nothing can be read as a date.
type NoDates struct {
	Values  int
	First   []Example
	Pattern string
}

// Error says so, with a value.
func (e *NoDates) Error() string {
	if e.Values == 0 {
		return "contains no values"
	}
	if e.Pattern != "" {
		return "contains no value in the format " + e.Pattern
	}
	return "contains no recognisable date"
}

// OpenOrder is the error for a column whose values could all be read with the
// day first or with the month first.
type OpenOrder struct {
	Open  int
	First []Example
}

// Error says how many values are open.
func (e *OpenOrder) Error() string {
	return fmt.Sprintf("does not show whether the day or the month comes first (%s could be either, and none settles it)", values(e.Open))
}

// values counts values in words.
func values(count int) string {
	if count == 1 {
		return "1 value"
	}
	return fmt.Sprintf("%d values", count)
}

// MixedOrders is the error for a column in which some values must have the day
// first and others the month.
type MixedOrders struct {
	DayFirst, MonthFirst           int
	FirstDayFirst, FirstMonthFirst Example
}

// Error says how many values there are of each.
func (e *MixedOrders) Error() string {
	return fmt.Sprintf("mixes orders: %s can only be day first, %d only month first", values(e.DayFirst), e.MonthFirst)
}

// Decide settles how the column is read. The error is NoDates, OpenOrder,
// MixedOrders or OpenLanguage.
func (c *Column) Decide() (*Decision, error) {
	c.settleTallies()
	d := &Decision{Values: c.values, Blanks: c.blanks, Unread: c.unmatched, Faults: c.firstUnmatched, Order: c.asked.Order,
		Asked: c.asked.Pattern != nil || c.asked.Order != Unsettled}
	if d.Order == Unsettled {
		if err := c.settle(d); err != nil {
			return nil, err
		}
	}
	language := c.asked.Language
	if len(c.names) > 0 {
		if language == nil {
			var err error
			if language, err = languageFor(c.names); err != nil {
				return nil, err
			}
		}
		d.Language = language.Tag
		for _, name := range sortedNames(c.names) {
			if language.month([]byte(name)) == 0 {
				d.Unread += c.names[name].count
				d.Faults = firstOf(d.Faults, []Example{c.names[name].first})
			}
		}
	}
	only := c.asked.Pattern
	if only != nil && language != nil {
		only = only.inLanguage(language)
	}
	d.Reader = &Reader{only: only, byShape: map[string]*candidate{}}
	shares, grains := map[string]int{}, map[string]string{}
	for shape, t := range c.shapes {
		i := t.choose(d.Order)
		if i < 0 {
			d.Unread += t.count
			d.Faults = firstOf(d.Faults, t.unread[0])
			continue
		}
		pattern := t.candidates[i].pattern
		if c.asked.Pattern == nil {
			chosen := t.candidates[i]
			if language != nil {
				chosen.pattern = chosen.pattern.inLanguage(language)
			}
			d.Reader.byShape[shape] = &chosen
		}
		d.Unread += t.count - t.readable[i]
		d.Faults = firstOf(d.Faults, t.unread[i])
		if t.readable[i] > 0 {
			shares[pattern.String()] += t.readable[i]
			grains[pattern.String()] = pattern.Grain()
			d.Clock = max(d.Clock, t.clock)
			d.Pivot = max(d.Pivot, pattern.pivot)
		}
	}
	d.Patterns = merged(shares, grains)
	if len(d.Patterns) == 0 {
		none := &NoDates{Values: c.values, First: d.Faults}
		if c.asked.Pattern != nil {
			none.Pattern = c.asked.Pattern.String()
		}
		return nil, none
	}
	d.Reader.isTimed = d.Clock > NoTime
	for _, share := range d.Patterns {
		d.Reader.forms = append(d.Reader.forms, share.Pattern)
	}
	return d, nil
}

// settle finds the order that the values leave: one value past 12 is enough,
// two that contradict each other are a fault.
func (c *Column) settle(d *Decision) error {
	var only [2]int
	var first [2]Example
	var open OpenOrder
	for _, t := range c.shapes {
		for i := range only {
			if t.only[i] > 0 && (only[i] == 0 || t.onlyFirst[i].Line < first[i].Line) {
				first[i] = t.onlyFirst[i]
			}
			only[i] += t.only[i]
		}
		open.Open += t.open
		open.First = firstOf(open.First, t.openFirst)
	}
	if c.asked.Pattern == nil {
		if err := c.yearsSettled(); err != nil {
			return err
		}
	}
	switch {
	case only[0] > 0 && only[1] > 0:
		return &MixedOrders{only[0], only[1], first[0], first[1]}
	case only[0] > 0:
		d.Order, d.Settled, d.First = DayFirst, only[0], first[0]
	case only[1] > 0:
		d.Order, d.Settled, d.First = MonthFirst, only[1], first[1]
	case open.Open > 0:
		return &open
	}
	return nil
}

// merged joins patterns that differ only in the widths of their fields.
func merged(shares map[string]int, grains map[string]string) []Share {
	var patterns []string
	for pattern := range shares {
		patterns = append(patterns, pattern)
	}
	slices.Sort(patterns)
	var result []Share
next:
	for _, pattern := range patterns {
		for i := range result {
			if both, ok := looser(result[i].Pattern, pattern); ok {
				result[i].Pattern, result[i].Count = both, result[i].Count+shares[pattern]
				continue next
			}
		}
		result = append(result, Share{pattern, shares[pattern], grains[pattern]})
	}
	slices.SortStableFunc(result, func(a, b Share) int { return b.Count - a.Count })
	return result
}
