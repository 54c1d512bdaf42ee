package datetext

import (
	"fmt"
	"math/bits"
)

// yearPosition gathers whether dates such as 26/04/03, which are read with the
// year last, could have it first.
type yearPosition struct {
	// settled tells that a value cannot have the year first.
	settled bool
	// first and last are the different numbers in both places, as bits.
	first, last [2]uint64
	count       int
	examples    []Example
}

func (y *yearPosition) observe(line int, value []byte, pattern *Pattern) {
	if y.settled {
		return
	}
	var f fields
	if len(value) > 1 && isDigit(value[0]) && !isDigit(value[1]) {
		y.settled = true // a single digit is no year
		return
	}
	// Only where the day stands first could the year stand there.
	if pattern.firstField() != 'd' || !pattern.scan(value, &f) || f.year < 1 || f.year > 31 || f.month > 12 {
		y.settled = true
		return
	}
	y.first[f.day/64] |= 1 << (f.day % 64)
	y.last[f.year/64] |= 1 << (f.year % 64)
	y.count++
	if len(y.examples) < maxExamples {
		y.examples = append(y.examples, Example{line, string(value)})
	}
}

func (y *yearPosition) join(other *yearPosition) {
	y.settled = y.settled || other.settled
	y.count += other.count
	y.examples = firstOf(y.examples, other.examples)
	for i := range y.first {
		y.first[i] |= other.first[i]
		y.last[i] |= other.last[i]
	}
}

// firstField returns the letter of the first field of a pattern.
func (p *Pattern) firstField() byte {
	for _, s := range p.steps {
		if s.field != 0 {
			return s.field
		}
	}
	return 0
}

// OpenYear is the error for a column of dates with years of two digits that
// could as well have the year first.
type OpenYear struct {
	Open  int
	First []Example
}

// Error says how many values are open.
func (e *OpenYear) Error() string {
	return fmt.Sprintf("does not show whether the day or the year comes first (%s could be either, and none settles it)", values(e.Open))
}

// yearsSettled returns an OpenYear unless the years of two digits are last:
// because a value can be read in no other way, or because the last place has
// at most half as many different numbers as the first, as years have and days
// have not.
func (c *Column) yearsSettled() error {
	var all yearPosition
	for _, t := range c.shapes {
		all.join(&t.years)
	}
	first := bits.OnesCount64(all.first[0]) + bits.OnesCount64(all.first[1])
	last := bits.OnesCount64(all.last[0]) + bits.OnesCount64(all.last[1])
	if all.settled || all.count == 0 || 2*last <= first {
		return nil
	}
	return &OpenYear{Open: all.count, First: all.examples}
}
