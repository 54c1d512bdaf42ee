package facts

import (
	"iter"

	"roundyear/calendar"
	"roundyear/cell"
	"roundyear/facts/decimal"
)

// Cohort is the things of a group that opened in one period.
type Cohort struct {
	Period calendar.Period
	Values []string
	Opened int
	// Open are how many of them were open at the end of that period and of each that follows, up to the as-of day.
	Open []int
}

// Cohorts yields the cohorts of the result in time order, and within a period by group. The census must have asked for them.
func (r *CensusResult) Cohorts() iter.Seq[Cohort] {
	return func(yield func(Cohort) bool) {
		grain := r.census.Grain
		for number := r.low; number <= r.high; number++ {
			period := grain.At(number)
			for _, g := range r.groups {
				counts := r.tally.cohorts[g.number][number]
				if counts == nil {
					continue
				}
				c := Cohort{Period: period, Values: g.values}
				for _, count := range counts {
					c.Opened += count
				}
				open := c.Opened
				for after := 0; grain.At(number+after).Last <= r.census.AsOf; after++ {
					if after+1 < len(counts) {
						open -= counts[after+1]
					}
					c.Open = append(c.Open, open)
				}
				if !yield(c) {
					return
				}
			}
		}
	}
}

// CohortColumns returns the columns of the cohorts in rows.
func (r *CensusResult) CohortColumns() []cell.Column {
	return append(r.head(), cell.Column{Name: "opened", Type: cell.Integer}, cell.Column{Name: "periods_later", Type: cell.Integer},
		cell.Column{Name: "open", Type: cell.Integer}, cell.Column{Name: "percent_open", Type: cell.Decimal, Scale: 1})
}

// CohortRows yields the cohorts as rows: one for each cohort and period from its own on. A cohort whose own period has not ended has one
// row, which does not say how many are open.
func (r *CensusResult) CohortRows() iter.Seq[[]cell.Value] {
	return func(yield func([]cell.Value) bool) {
		for c := range r.Cohorts() {
			head := []cell.Value{cell.OfText(r.census.Grain.Label(c.Period)), cell.OfDay(c.Period.First), cell.OfDay(c.Period.Last)}
			for column, value := range c.Values {
				head = append(head, typedGroup(r.census.groupType(column), value))
			}
			head = append(head, cell.OfInteger(c.Opened))
			if len(c.Open) == 0 && !yield(append(head, cell.OfInteger(0), cell.Blank, cell.Blank)) {
				return
			}
			for later, open := range c.Open {
				percent := decimal.OfInt(100*open).Over(c.Opened, 1).Text(1)
				if !yield(append(head[:len(head):len(head)], cell.OfInteger(later), cell.OfInteger(open), cell.OfDecimal(percent))) {
					return
				}
			}
		}
	}
}
