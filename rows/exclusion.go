package rows

import (
	"slices"

	"roundyear/civil"
)

// Bounds are what a format knows of the values of a column in many rows before it reads them.
type Bounds struct {
	Type  Type
	Scale uint8
	// Least and Most are the smallest and the largest value, LeastText and MostText those of
	// texts by their bytes. Values may lie short of them, but not beyond.
	Least, Most         int64
	LeastText, MostText string
	// IsOne tells that LeastText is the value of all rows, or that it is missing in all of them.
	IsOne bool
	// HasMissing tells that some values are missing.
	HasMissing bool
	// IsLoose tells that values may end before the bounds.
	IsLoose bool
}

// Day returns the day of an end of bounds of days or moments.
func (b Bounds) Day(end int64) civil.Day {
	if b.Type != Day {
		day, _ := divided(end, secondsOfDay*power(b.Scale))
		return civil.Day(day)
	}
	return civil.Day(end)
}

// Exclusion tells of many rows at once that none of them is wanted, by the bounds of a column. A format that
// knows bounds leaves those rows out.
type Exclusion struct {
	Column   int
	Excludes func(Bounds) bool
	// Keeps, if it is there, says the same of single rows: those that it does not hold for are not wanted. A database leaves them out.
	Keeps *Comparison
}

// Comparison is a condition on the values of a column that a database can tell without reading them: of numbers, days or texts, by one of
// the operators =, !=, <, <=, > and >=. A value that is missing is only kept by !=.
type Comparison struct {
	Operator string
	// Numbers, as plain text, Days or Texts are what the values are compared with; of several, one is enough for = and all count for !=.
	Numbers []string
	Days    []civil.Day
	Texts   []string
}

// Comparison returns the comparison of an exclusion, and the place of that; nothing behind the last one.
func (s *Scan) Comparison(from int) (by, column int, keeps *Comparison) {
	for i := from; i < len(s.exclusions); i++ {
		if one := s.exclusions[i]; one.Column != noColumn && one.Keeps != nil {
			return i, one.Column, one.Keeps
		}
	}
	return 0, 0, nil
}

// noColumn is the column of an exclusion that is none of the format's.
const noColumn = -1

// Excluding returns the source without rows that exclusions rule out, as far as its format can
// tell that without reading them. How many there are each batch says.
func (s *Source) Excluding(exclusions ...Exclusion) *Source {
	own := *s
	own.exclusions = exclusions
	return &own
}

// TellingDays returns the source that tells the days of the rows that exclusions rule out, by a column of days or moments. A format that
// cannot tell them leaves no rows out.
func (s *Source) TellingDays(column int) *Source {
	own := *s
	own.days = column + 1
	return &own
}

// ToldDays returns the column whose days are to be told of rows that are left out; it is false for none.
func (s *Scan) ToldDays() (column int, ok bool) { return s.days - 1, s.days > 0 }

// LeavesOut tells whether an exclusion rules out rows, and which, by its place. The format says
// the bounds of a column in them, if it knows them. Days are those of the rows that are to be told.
func (s *Scan) LeavesOut(bounds func(column int) (Bounds, bool)) (by int, days []LeftOutDay, ok bool) {
	if column, isAsked := s.ToldDays(); isAsked {
		known, ok := bounds(column)
		if !ok || known.IsLoose || !known.Type.IsDate() {
			return 0, nil, false
		}
		days = known.daysOf()
	}
	var failed uint64
	for i, exclusion := range slices.Backward(s.exclusions) {
		if exclusion.Column == noColumn || exclusion.Excludes == nil {
			continue
		}
		if known, isKnown := bounds(exclusion.Column); isKnown && exclusion.Excludes(known) {
			by, ok = i, true
			failed |= Failing(i)
		}
	}
	if !ok {
		return 0, nil, false
	}
	for i := range days {
		days[i].Failed = failed
	}
	return by, days, true
}

// Failing is the bit of an exclusion. Those behind the last bit share that.
func Failing(exclusion int) uint64 { return 1 << min(exclusion, 63) }

// daysOf returns the days between both ends, without those that no calendar has.
func (b Bounds) daysOf() (days []LeftOutDay) {
	first, last := max(b.Day(b.Least), civil.MinDay), min(b.Day(b.Most), civil.MaxDay)
	if first > last {
		return nil
	}
	return []LeftOutDay{{Day: first, Through: last}}
}
