package app

import (
	"maps"
	"slices"
	"strings"

	"roundyear/facts/decimal"
	"roundyear/facts/lapse"
)

// LapseCounts counts what was measured.
type LapseCounts struct {
	// Rows are all rows, Measured those with a lapse that can be true, and Unknown those of places that there are not, by their names.
	Rows, Measured int
	Unknown        map[string]int
	// values are how many rows have each lapse; small ones are in a list.
	small  [smallLapses]int
	values map[int64]int
	// Negative are those whose end comes before their start, and in no band for such; they are not in the figures. NeverDue are those that are
	// due on no day, since too few days count.
	Negative, NeverDue int
	// shares are how many rows each group has of each place, by what that is sorted by, and labels are those of the places.
	shares map[string][]int
	labels []string
	// last are the shares of the group of the row before.
	last      []int
	lastGroup string
}

// smallLapses is how many lapses are counted in a list.
const smallLapses = 1024

func newLapseCounts() *LapseCounts {
	return &LapseCounts{Unknown: map[string]int{}, values: map[int64]int{}, shares: map[string][]int{}}
}

// add counts rows.
func (c *LapseCounts) add(group []byte, place lapse.Place, value int64, isMeasured bool, count int) {
	c.Rows += count
	at := place.Sort - firstSort
	if len(c.labels) <= at || c.labels[at] == "" {
		c.label(at, place.Label)
	}
	if c.last == nil || string(group) != c.lastGroup || len(c.last) <= at {
		c.lastGroup = string(group)
		c.last = c.shares[c.lastGroup]
		if missing := at + 1 - len(c.last); missing > 0 {
			c.last = append(c.last, make([]int, missing)...)
			c.shares[c.lastGroup] = c.last
		}
	}
	c.last[at] += count
	if !isMeasured {
		return
	}
	c.Measured += count
	if value >= 0 && value < smallLapses {
		c.small[value] += count
	} else {
		c.values[value] += count
	}
}

// firstSort is the least that places are sorted by.
const firstSort = -1

// label notes the label of a place.
func (c *LapseCounts) label(at int, label string) {
	if missing := at + 1 - len(c.labels); missing > 0 {
		c.labels = append(c.labels, make([]string, missing)...)
	}
	c.labels[at] = label
}

func (c *LapseCounts) join(other *LapseCounts) {
	c.Rows += other.Rows
	c.Negative, c.NeverDue = c.Negative+other.Negative, c.NeverDue+other.NeverDue
	c.Measured += other.Measured
	for i, count := range other.small {
		c.small[i] += count
	}
	for name, count := range other.Unknown {
		c.Unknown[name] += count
	}
	for value, count := range other.values {
		c.values[value] += count
	}
	for at, label := range other.labels {
		if label != "" {
			c.label(at, label)
		}
	}
	for group, counts := range other.shares {
		own := c.shares[group]
		if missing := len(counts) - len(own); missing > 0 {
			own = append(own, make([]int, missing)...)
		}
		for at, count := range counts {
			own[at] += count
		}
		c.shares[group] = own
	}
}

// LapseStatistics are figures about all lapses that were measured, in units of the unit's decimals.
type LapseStatistics struct {
	Least, Most int64
	// Median and Mean have one decimal more.
	Median, Mean decimal.Decimal
}

// Statistics returns them; it is false where nothing was measured.
func (c *LapseCounts) Statistics(decimals int) (s LapseStatistics, ok bool) {
	if c.Measured == 0 {
		return s, false
	}
	counts := maps.Clone(c.values)
	for value, count := range c.small {
		if count > 0 {
			counts[int64(value)] = count
		}
	}
	values := slices.Sorted(maps.Keys(counts))
	s.Least, s.Most = values[0], values[len(values)-1]
	sum, seen := decimal.Decimal{}, 0
	var low, high int64
	for _, value := range values {
		count := counts[value]
		sum = sum.Add(decimal.OfInt(int(value)).Mul(decimal.OfInt(count)))
		if first := (c.Measured - 1) / 2; seen <= first && first < seen+count {
			low = value
		}
		if second := c.Measured / 2; seen <= second && second < seen+count {
			high = value
		}
		seen += count
	}
	s.Median = decimal.OfUnits(low+high, decimals).Over(2, decimals+1)
	mean := decimal.OfUnits(1, decimals).Mul(sum)
	s.Mean = mean.Over(c.Measured, decimals+1)
	return s, true
}

// LapseShare is how many rows of a group are in a band, or in none.
type LapseShare struct {
	Group []string
	lapse.Place
	Rows int
	// UpTo are those of the group in this band and those before.
	UpTo, OfGroup int
}

// Distribution returns the shares of the bands, by group and in the order of the bands, those without rows too.
func (c *LapseCounts) Distribution(bands lapse.Bands, groups int) []LapseShare {
	var all []LapseShare
	for _, group := range slices.Sorted(maps.Keys(c.shares)) {
		total, upTo := 0, 0
		for _, count := range c.shares[group] {
			total += count
		}
		for at := range max(len(c.shares[group]), len(bands)+1-firstSort) {
			share := LapseShare{Place: lapse.Place{Sort: at + firstSort}, OfGroup: total}
			if at < len(c.shares[group]) {
				share.Rows = c.shares[group][at]
			}
			isBand := share.Sort >= 1 && share.Sort <= len(bands)
			if share.Rows == 0 && !isBand {
				continue
			}
			if isBand {
				share.Label = bands[share.Sort-1].Label
			} else {
				share.Label = c.labels[at]
			}
			upTo += share.Rows
			if share.UpTo = upTo; groups > 0 {
				share.Group = strings.Split(group, "\x00")
			}
			all = append(all, share)
		}
	}
	return all
}

// Ungrouped returns the same counts without groups.
func (c *LapseCounts) Ungrouped() *LapseCounts {
	whole := &LapseCounts{labels: c.labels}
	var sum []int
	for _, counts := range c.shares {
		if missing := len(counts) - len(sum); missing > 0 {
			sum = append(sum, make([]int, missing)...)
		}
		for at, count := range counts {
			sum[at] += count
		}
	}
	whole.shares = map[string][]int{"": sum}
	return whole
}

// Blank is how many rows have no lapse.
func (c *LapseCounts) Blank() int { return c.countOf(lapse.Blank) }

// Implausible is how many rows have a lapse that can hardly be true.
func (c *LapseCounts) Implausible() int { return c.countOf(lapse.Implausible) }

func (c *LapseCounts) countOf(label string) int {
	count := 0
	for _, counts := range c.shares {
		for at, rows := range counts {
			if c.labels[at] == label {
				count += rows
			}
		}
	}
	return count
}
