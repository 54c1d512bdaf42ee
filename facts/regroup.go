package facts

import (
	"slices"
	"strings"

	"roundyear/civil"
)

// DayAttribute is an attribute of days by which facts are grouped, such as the weekday.
type DayAttribute struct {
	// Name is the one that Groups has.
	Name string
	// Of returns the label of a day, and by which number labels sort; those of the same number sort as text.
	Of func(day civil.Day) (label string, rank int)
}

const (
	// AllGroups stands in place of the values of the groups that a subtotal is of.
	AllGroups = "(all)"
	// OtherGroups stands in place of those that are not among the first.
	OtherGroups = "(others)"
)

// madeGroup is a group that the facts do not have: of all or other groups, from one of the columns on.
type madeGroup struct {
	isTotal bool
	from    int
}

// order returns where a group comes among those that have the same values before a column: before the others, and those before all.
func (g madeGroup) order(column int) int {
	switch {
	case column < g.from:
		return 0
	case g.isTotal:
		return 2
	}
	return 1
}

// SourceGroups returns the names of the groups that are columns of the facts, and not attributes of their days.
func (o *Operation) SourceGroups() []string {
	if len(o.Attributes) == 0 {
		return o.Groups
	}
	var names []string
	for _, name := range o.Groups {
		if o.attribute(name) < 0 {
			names = append(names, name)
		}
	}
	return names
}

func (o *Operation) attribute(name string) int {
	return slices.IndexFunc(o.Attributes, func(a DayAttribute) bool { return a.Name == name })
}

// regrouping finds the groups of a result, from those of facts by day.
type regrouping struct {
	operation *Operation
	own       *Tally
	// isMade tells that there are groups that the facts do not have.
	isMade bool
	// top are the groups that are among the first; nil for all.
	top, prefixes map[string]bool
	// tuples are the numbers of the attributes of days, values what they are.
	tuples map[civil.Day]int
	number map[string]int
	values [][]string
	known  map[regrouped][]int
}

// regrouped is a group of a tally, and the attributes of a day.
type regrouped struct {
	tally        *Tally
	group, tuple int
}

func newRegrouping(own *Tally, top map[string]bool) *regrouping {
	o := &own.operation
	own.ranks = make([]map[string]int, len(o.Groups))
	return &regrouping{operation: o, own: own, isMade: o.Subtotals || top != nil, top: top, tuples: map[civil.Day]int{}, number: map[string]int{}, known: map[regrouped][]int{}}
}

// of returns the groups that the facts of a group and day count to: their own, and those of subtotals.
func (g *regrouping) of(tally *Tally, group int, day civil.Day) []int {
	key := regrouped{tally, group, 0}
	if len(g.operation.Attributes) > 0 {
		key.tuple = g.tupleOf(day)
	}
	if groups, ok := g.known[key]; ok {
		return groups
	}
	source := tally.groups.values(group)
	var values []string
	for column, name := range g.operation.Groups {
		if at := g.operation.attribute(name); at >= 0 {
			label := g.values[key.tuple][at]
			values = append(values, label)
			if g.own.ranks[column] == nil {
				g.own.ranks[column] = map[string]int{}
			}
			if _, ok := g.own.ranks[column][label]; !ok {
				_, g.own.ranks[column][label] = g.operation.Attributes[at].Of(day)
			}
			continue
		}
		values, source = append(values, source[0]), source[1:]
	}
	groups := g.add(values)
	g.known[key] = groups
	return groups
}

// add returns the numbers of the groups of values.
func (g *regrouping) add(values []string) []int {
	if !g.isMade {
		return []int{g.group(values)}
	}
	own := values
	made := madeGroup{from: len(values)}
	if g.top != nil && !g.top[strings.Join(values, "\x00")] {
		// With subtotals the others of each group that has one of the first stand below it.
		own, made = slices.Repeat([]string{OtherGroups}, len(values)), madeGroup{}
		for from := len(values) - 1; g.operation.Subtotals && from > 0; from-- {
			if g.isPrefix(values[:from]) {
				own, made = append(slices.Clone(values[:from]), own[from:]...), madeGroup{from: from}
				break
			}
		}
	}
	groups := []int{g.made(own, made)}
	if !g.operation.Subtotals {
		return groups
	}
	for from := len(values) - 1; from >= 0; from-- {
		if from > made.from {
			continue // others are not told apart
		}
		groups = append(groups, g.made(append(slices.Clone(own[:from]), slices.Repeat([]string{AllGroups}, len(own)-from)...), madeGroup{true, from}))
	}
	return groups
}

// isPrefix tells whether one of the first groups begins with some values.
func (g *regrouping) isPrefix(values []string) bool {
	if g.prefixes == nil {
		g.prefixes = map[string]bool{}
		for name := range g.top {
			for at := range len(name) {
				if name[at] == 0 {
					g.prefixes[name[:at]] = true
				}
			}
		}
	}
	return g.prefixes[strings.Join(values, "\x00")]
}

// made returns the number of a group that may be made up. What it is stands behind its values, so that it is another than one of facts
// with the same values.
func (g *regrouping) made(values []string, made madeGroup) int {
	kind := "facts"
	switch {
	case made.isTotal:
		kind = "total"
	case made.from < len(values):
		kind = "others"
	}
	number := g.group(append(slices.Clone(values), kind))
	if kind != "facts" {
		if g.own.made == nil {
			g.own.made = map[int]madeGroup{}
		}
		g.own.made[number] = made
	}
	return number
}

func (g *regrouping) group(values []string) int {
	texts := make([][]byte, len(values))
	for i, value := range values {
		texts[i] = []byte(value)
	}
	return g.own.group(texts)
}

// tupleOf returns the number of the attributes of a day.
func (g *regrouping) tupleOf(day civil.Day) int {
	if known, ok := g.tuples[day]; ok {
		return known
	}
	var labels []string
	for _, attribute := range g.operation.Attributes {
		label, _ := attribute.Of(day)
		labels = append(labels, label)
	}
	key := strings.Join(labels, "\x00")
	number, ok := g.number[key]
	if !ok {
		number = len(g.values)
		g.number[key], g.values = number, append(g.values, labels)
	}
	g.tuples[day] = number
	return number
}

// passes is how many groups facts count to at most.
func (g *regrouping) passes() int {
	if g.operation.Subtotals {
		return 1 + len(g.operation.Groups)
	}
	return 1
}

// reach makes the groups of facts by day known, of the days that count. A group is there even if none of its facts are in a period.
func (g *regrouping) reach(days *Tally, counts func(day civil.Day) bool) {
	for group := range days.groups.len() {
		days.eachCell(group, func(number int, _ uint32) {
			if counts(civil.Day(number)) {
				g.of(days, group, civil.Day(number))
			}
		})
	}
}

// reachAttributes makes each group of facts known with the attributes of all days of the range: a month without facts is there as well.
func (g *regrouping) reachAttributes(days *Tally, first, last civil.Day) {
	var groups []int
	seen := map[int]bool{}
	for key := range g.known {
		if key.tally == days && !seen[key.group] {
			seen[key.group] = true
			groups = append(groups, key.group)
		}
	}
	slices.Sort(groups)
	isDone := map[int]bool{}
	for day := first; day <= last; day++ {
		tuple := g.tupleOf(day)
		if isDone[tuple] {
			continue
		}
		isDone[tuple] = true
		for _, group := range groups {
			g.of(days, group, day)
		}
	}
}

// absorb takes the facts of a tally by day into another with the groups of this one: those of each day into the period that numberOf says,
// if any. It returns how many facts were left out.
func (g *regrouping) absorb(into, days *Tally, numberOf func(day civil.Day) (int, bool)) (leftOut int) {
	for pass := range g.passes() {
		left := into.absorb(days, func(group, number int) (int, int, bool) {
			day := civil.Day(number)
			period, ok := numberOf(day)
			if !ok {
				return 0, 0, false
			}
			groups := g.of(days, group, day)
			into.reachGroups()
			if pass >= len(groups) {
				return 0, 0, false
			}
			return groups[pass], period, true
		})
		if pass == 0 {
			leftOut = left
		}
	}
	return leftOut
}

// limitToAttributes leaves out the periods of a series in which no day has its attributes, such as a year in a month of another one.
func (r *Result) limitToAttributes(s *series, values []string) {
	o := &r.operation
	if len(o.Attributes) == 0 {
		return
	}
	made, isMade := r.tally.made[s.group]
	var wanted []int // the columns that are attributes of days
	for column, name := range o.Groups {
		if o.attribute(name) >= 0 && (!isMade || column < made.from) {
			wanted = append(wanted, column)
		}
	}
	if len(wanted) == 0 {
		return
	}
	if r.attributed == nil {
		r.attributed = r.periodsOfAttributes()
	}
	if s.away == nil {
		s.away = &away{}
	}
	trades := s.away.open
	s.away.open = make([]bool, r.Periods())
	for tuple, periods := range r.attributed {
		labels := r.days.regrouping.values[tuple]
		if slices.ContainsFunc(wanted, func(column int) bool { return labels[o.attribute(o.Groups[column])] != values[column] }) {
			continue
		}
		for at, has := range periods {
			s.away.open[at] = s.away.open[at] || has && (trades == nil || trades[at])
		}
	}
	r.sparse = true
}

// periodsOfAttributes tells of each combination of attributes which periods have a day with it.
func (r *Result) periodsOfAttributes() [][]bool {
	var periods [][]bool
	for number := r.low; number <= r.high; number++ {
		period := r.operation.Grain.At(number)
		for day := period.First; day <= period.Last; day++ {
			tuple := r.days.regrouping.tupleOf(day)
			for len(periods) <= tuple {
				periods = append(periods, make([]bool, r.Periods()))
			}
			periods[tuple][number-r.low] = true
		}
	}
	return periods
}
