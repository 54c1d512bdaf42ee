package facts

import (
	"cmp"
	"slices"

	"roundyear/calendar"
	"roundyear/cell"
	"roundyear/facts/decimal"
)

// Hole is a run of periods without facts in the rows of a group.
type Hole struct {
	Values      []string
	First, Last calendar.Period
	Periods     int
}

// Made says of the rows of a result what was made up, and what stands where a group is away.
type Made struct {
	// Longest is the longest hole of each group that has one, the longest first, and First are the first made-up rows in time order, each as
	// a hole of one period.
	Longest, First []Hole
	// NotLoaded counts the made-up rows after the day up to which their group is loaded.
	NotLoaded int
	// Away are the facts of groups in periods in which they are not there or do not trade, by group.
	Away []Away
	// Lifeless are the groups of which it is not known when they are there.
	Lifeless [][]string
	// Absent are those that were there in the range, and have no facts at all. Where conditions leave out facts there are none.
	Absent []string
}

// Away counts facts of a group in periods in which it is not there or does not trade.
type Away struct {
	Values      []string
	Rows        int
	Periods     int
	First, Last calendar.Period
}

// HasUnloaded tells whether some rows may be of periods that are not loaded.
func (r *Result) HasUnloaded() bool { return slices.Contains(r.marks, loaded) }

// Made looks at all rows. It returns at most so many holes and rows of each kind; groups whose facts are away are all there.
func (r *Result) Made(most int) *Made {
	made := &Made{}
	grain := r.operation.Grain
	for i := range r.series {
		s := &r.series[i]
		values := r.tally.groups.values(s.group)
		away := Away{Values: values}
		inSeries := 0 // of the first made-up rows
		begin, length, longest := 0, 0, struct{ first, last, length int }{}
		for number := s.low; number <= s.high; number++ {
			cell, hasFacts := r.tally.factsOf(s.group, number)
			isAway := r.sparse && r.isAway(s, number)
			if hasFacts {
				length = 0
				if isAway {
					period := grain.At(number)
					if away.Periods == 0 {
						away.First = period
					}
					away.Last = period
					away.Periods++
					away.Rows += int(r.tally.cells.record(cell)[0])
				}
				continue
			}
			if isAway {
				continue // a hole goes on over days on which nobody trades
			}
			if period := grain.At(number); s.loaded != nil && r.operation.knownThrough(period) > *s.loaded || period.First > r.operation.AsOf {
				made.NotLoaded++
				length = 0
				continue
			}
			if inSeries < most {
				period := grain.At(number)
				made.First = append(made.First, Hole{values, period, period, 1})
				inSeries++
			}
			if length == 0 {
				begin = number
			}
			if length++; length > longest.length {
				longest.first, longest.last, longest.length = begin, number, length
			}
		}
		if away.Periods > 0 {
			made.Away = append(made.Away, away)
		}
		if longest.length > 0 {
			made.Longest = append(made.Longest, Hole{values, grain.At(longest.first), grain.At(longest.last), longest.length})
		}
		if i%1024 == 1023 {
			made.trim(most)
		}
	}
	made.trim(most)
	for _, group := range r.lifeless {
		made.Lifeless = append(made.Lifeless, r.tally.groups.values(group))
	}
	made.Absent = r.absent()
	return made
}

// absent returns the names of lives in the range of which there are no facts.
func (r *Result) absent() (names []string) {
	lives := r.operation.Lives
	if lives == nil || len(r.operation.Where) > 0 || len(r.series) == 0 || r.livesAt >= len(r.operation.Groups) {
		return nil
	}
	first, last := r.operation.Grain.At(r.low).First, r.operation.Grain.At(r.high).Last
	has := map[string]bool{}
	for _, value := range r.tally.GroupValues()[r.livesAt] {
		has[value] = true
	}
	for name, life := range lives.Of {
		if !has[name] && (life.Opened == nil || *life.Opened <= last) && (life.Closed == nil || *life.Closed >= first) {
			names = append(names, name)
		}
	}
	slices.Sort(names)
	return names
}

// trim leaves the longest holes and the first rows.
func (m *Made) trim(most int) {
	slices.SortStableFunc(m.Longest, func(a, b Hole) int { return cmp.Compare(b.Periods, a.Periods) })
	m.Longest = m.Longest[:min(len(m.Longest), most)]
	slices.SortStableFunc(m.First, func(a, b Hole) int { return cmp.Compare(a.First.Number, b.First.Number) })
	m.First = m.First[:min(len(m.First), most)]
}

// Written returns the sum of a Sum or Count measure over all rows, those that are filled too; it is false for other kinds.
func (r *Result) Written(measure int) (sum decimal.Decimal, ok bool) {
	if sum, _, ok = r.Total(measure); !ok {
		return sum, false
	}
	gap := r.operation.Measures[measure].Gap
	if gap == Zero || gap == Blank || r.Filled() == 0 {
		return sum, true
	}
	place := 3 + len(r.operation.Groups)
	isFilled := place + len(r.operation.Measures)
	for row := range r.Rows() {
		if row[isFilled].Same(cell.OfBool(true)) && !row[place+measure].IsBlank() {
			number, err := decimal.Parse(row[place+measure].AppendText(nil))
			if err == nil {
				sum = sum.Add(number)
			}
		}
	}
	return sum, true
}
