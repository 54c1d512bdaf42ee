package facts

import (
	"slices"
	"strings"

	"roundyear/calendar"
	"roundyear/civil"
)

// Lives say when groups are there, by their value in one of the columns that facts are grouped by: without a Column, in
// the one that has most of these values.
type Lives struct {
	Column string
	Of     map[string]Life
}

// Life says when a group is there: from one day to another, both in; nil is without end.
type Life struct {
	Opened, Closed *civil.Day
	// IsOpen tells whether it trades on a day; nil for every day.
	IsOpen func(civil.Day) bool
}

// Loaded says up to which day facts are known to be complete. A gap after it is not a period in which nothing happened.
type Loaded struct {
	// Through is the day of all groups; nil for none.
	Through *civil.Day
	// Of are the days of groups by a value of any of their columns, and OfSources those of the sources of facts by their numbers, nil
	// for one that is complete. A group is loaded up to the latest day of the sources that it has facts from.
	Of        map[string]civil.Day
	OfSources []*civil.Day
	// IsInferred tells that nobody has said Through, and it is the last day with facts.
	IsInferred bool
	// IsEach asks for the day of each group, by its own facts, and OfGroups are these days, by all values of a group; see EndGroups.
	IsEach   bool
	OfGroups map[string]civil.Day
}

// latest returns the latest day up to which anybody has said that facts are complete; it is false if nobody has.
func (l *Loaded) latest() (day civil.Day, ok bool) {
	if l == nil || l.IsInferred {
		return 0, false
	}
	take := func(one civil.Day) {
		if !ok || one > day {
			day, ok = one, true
		}
	}
	if l.Through != nil {
		take(*l.Through)
	}
	for _, one := range l.Of {
		take(one)
	}
	for _, one := range l.OfSources {
		if one != nil {
			take(*one)
		}
	}
	return day, ok
}

// EndsAt makes a day the last one up to which facts are known, as their rhythm tells. It comes before the result.
func (t *Tally) EndsAt(day civil.Day) {
	t.operation.Loaded = &Loaded{Through: &day, IsInferred: true}
}

// EndGroups makes days the last ones up to which the facts of groups are known; end says which it is of a group with facts on some days, in
// order, if it has one before all others. It comes before the result, of facts that are known by day.
func (t *Tally) EndGroups(end func(values []string, days []civil.Day) (civil.Day, bool)) *Loaded {
	loaded := &Loaded{IsInferred: true, IsEach: true, OfGroups: map[string]civil.Day{}}
	for group := range t.groups.len() {
		var days []civil.Day
		t.eachCell(group, func(number int, _ uint32) { days = append(days, civil.Day(number)) })
		values := t.groups.values(group)
		if day, isEarly := end(values, days); isEarly {
			loaded.OfGroups[groupKey(values)] = day
		}
	}
	t.operation.Loaded = loaded
	return loaded
}

// groupKey is one text for the values of a group.
func groupKey(values []string) string { return strings.Join(values, "\x00") }

// CutByEnd tells whether the last period with facts goes on after their end, so that it would be compared as if it were complete.
func (t *Tally) CutByEnd(grain calendar.Grain, end civil.Day, expected int) (calendar.Period, bool) {
	o := t.operation
	o.Grain = grain
	period := grain.Locate(end)
	through := o.ThroughOf(period)
	if o.To != nil {
		through = min(through, *o.To)
	}
	isOver := o.ToDate && period.First <= o.AsOf || period.Last < o.AsOf
	return period, isOver && through >= end+civil.Day(expected)
}

// through returns the day up to which a group is loaded; nil if it is complete.
func (l *Loaded) through(values []string, sources uint64) *civil.Day {
	if l == nil {
		return nil
	}
	if day, ok := l.OfGroups[groupKey(values)]; ok {
		return &day
	}
	for _, value := range values {
		if day, ok := l.Of[value]; ok {
			return &day
		}
	}
	var latest *civil.Day
	for source, day := range l.OfSources {
		switch {
		case sources&(1<<source) == 0:
		case day == nil:
			return l.Through
		case latest == nil || *day > *latest:
			latest = day
		}
	}
	if latest != nil {
		return latest
	}
	return l.Through
}

// loadedThrough returns the day up to which a group of the result is loaded: the earliest of those of the groups in it.
func (r *Result) loadedThrough(g numberedGroup) *civil.Day {
	loaded := r.operation.Loaded
	if r.days == nil || loaded == nil || len(r.days.members[g.number]) == 0 { // the last is a combination that does not occur
		return loaded.through(g.values[:len(r.operation.Groups)], r.tally.sourcesOf(g.number))
	}
	var earliest *civil.Day
	for _, member := range r.days.members[g.number] {
		day := loaded.through(r.days.facts.groups.values(member), r.days.facts.sourcesOf(member))
		if day != nil && (earliest == nil || *day < *earliest) {
			earliest = day
		}
	}
	return earliest
}

// MaxSources is how many sources can be loaded up to days of their own.
const MaxSources = 64

// findLives finds the column of the groups that says which life is theirs.
func (r *Result) findLives() {
	lives := r.operation.Lives
	if lives == nil {
		return
	}
	if r.livesAt = max(slices.Index(r.operation.Groups, lives.Column), 0); lives.Column != "" {
		return
	}
	most := 0
	for column, values := range r.tally.GroupValues() {
		known := 0
		for _, value := range values {
			if _, ok := lives.Of[value]; ok {
				known++
			}
		}
		if known > most {
			most, r.livesAt = known, column
		}
	}
}

// lifeOf returns when a group is there; nil where nothing is known of it.
func (r *Result) lifeOf(values []string) *Life {
	o := &r.operation
	if o.Lives == nil || len(values) == 0 {
		return nil
	}
	if life, ok := o.Lives.Of[values[r.livesAt]]; ok {
		return &life
	}
	return nil
}

// live limits the periods of a series to those of its life, and notes which of them are left out if they are empty.
func (r *Result) live(s *series, values []string, firstFact, lastFact int) {
	life := r.lifeOf(values)
	if life == nil {
		if r.operation.Lives != nil {
			r.lifeless = append(r.lifeless, s.group)
		}
		return
	}
	grain := r.operation.Grain
	s.away = &away{hasLife: true, low: r.low, high: r.high}
	if life.Opened != nil {
		s.away.low = max(s.away.low, grain.Locate(*life.Opened).Number)
	}
	if life.Closed != nil {
		s.away.high = min(s.away.high, grain.Locate(*life.Closed).Number)
	}
	if r.operation.Span == SpanLives {
		s.low, s.high = s.away.low, s.away.high
		if firstFact <= lastFact {
			s.low, s.high = min(s.low, firstFact), max(s.high, lastFact)
		}
	}
	r.sparse = true
	if !r.operation.OnlyOpen || life.IsOpen == nil {
		return
	}
	s.away.open = r.openPeriods(values, life)
}

// openPeriods tells of each period whether there is a day on which a group trades.
func (r *Result) openPeriods(values []string, life *Life) []bool {
	name := values[r.livesAt]
	if known := r.open[name]; known != nil {
		return known
	}
	open := make([]bool, r.high-r.low+1)
	for i := range open {
		period := r.operation.Grain.At(r.low + i)
		for day := period.First; day <= period.Last && !open[i]; day++ {
			open[i] = life.IsOpen(day)
		}
	}
	if r.open == nil {
		r.open = map[string][]bool{}
	}
	r.open[name] = open
	return open
}

// isAway tells that a group is not there in a period, or does not trade in it.
func (r *Result) isAway(s *series, number int) bool {
	switch {
	case s.away == nil:
		return false
	case s.away.open != nil && !s.away.open[number-r.low]:
		return true
	}
	return s.away.hasLife && r.operation.Span == SpanLives && (number < s.away.low || number > s.away.high)
}

// isLeftOut tells that a group has no row in one of its periods.
func (r *Result) isLeftOut(s *series, number int) bool {
	if !r.isAway(s, number) {
		return false
	}
	_, hasFacts := r.tally.factsOf(s.group, number)
	return !hasFacts
}
