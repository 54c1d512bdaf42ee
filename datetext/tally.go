package datetext

import "roundyear/civil"

// maxNames bounds the memory of a column in which every name is another.
const maxNames = 200

// tally counts the values of one shape under each of its candidates.
type tally struct {
	shape      string
	candidates []candidate
	// isOwn tells that the candidates are those of the shape.
	isOwn bool
	count int
	// clock is the finest time of day of the values read so far.
	clock Resolution
	// readable counts the values that each candidate can read, neither those
	// that none can.
	readable [2]int
	neither  int
	// farYears counts the days before 1900 and after 2100.
	farYears int
	unread   [2][]Example
	// only counts the values that just one of two candidates can read, open
	// those that both read, and as different days.
	only      [2]int
	onlyFirst [2]Example
	open      int
	openFirst []Example
	// years is about dates with years of two digits.
	years yearPosition
	// again counts values with dates that were counted before, by their outcomes;
	// they are not in the other counts yet.
	again [8]int
}

// scans tells whether a text has the form of a candidate. One whose shape has a candidate has its form, unless that has names.
func (t *tally) scans(text []byte) bool {
	if t == nil || len(t.candidates) == 0 {
		return false
	}
	pattern := t.candidates[0].pattern
	return t.isOwn && !pattern.has('N') && !pattern.has('E') || pattern.scans(text)
}

// settle takes the values that were only counted as ones before into the counts.
func (t *tally) settle() {
	for i, n := range t.again {
		if n == 0 {
			continue
		}
		what := outcome(i)
		t.again[i] = 0
		t.count += n
		for candidate := range t.candidates {
			if what.reads(candidate) {
				t.readable[candidate] += n
			}
		}
		switch {
		case len(t.candidates) < 2:
		case what.reads(0) && what.reads(1):
			if what&4 == 0 {
				t.open += n
			}
		case what.reads(0):
			t.only[0] += n
		case what.reads(1):
			t.only[1] += n
		}
	}
}

// isNoted tells that another value of an outcome adds to the counts and to nothing else: all examples are there.
func (t *tally) isNoted(what outcome) bool {
	if len(t.candidates) < 2 {
		return true
	}
	if what.reads(0) && what.reads(1) {
		return what&4 != 0 || len(t.openFirst) >= maxExamples
	}
	unread := 0
	if what.reads(0) {
		unread = 1
	}
	return t.only[1-unread] > 0 && len(t.unread[unread]) >= maxExamples
}

// observe takes in a value, and what it is shown as.
func (t *tally) observe(line int, value, shown []byte) {
	if pattern := t.candidates[0].pattern; pattern.pivot > 0 {
		t.years.observe(line, value, pattern)
	}
	var read [2]bool
	var days [2]civil.Day
	for i, candidate := range t.candidates {
		var moment Moment
		moment, read[i] = candidate.pattern.Read(value)
		days[i] = moment.Day
		if i == 0 {
			t.countYear(moment.Day.Year())
		}
		t.clock = max(t.clock, moment.Clock)
	}
	t.countOne(line, shown, read, days[0] != days[1])
}

// observeByLayout takes in a value that has the shape of the tally and can be
// read by positions; it is false, and nothing is taken in, for any other.
func (t *tally) observeByLayout(line int, value []byte) bool {
	if len(t.candidates) == 0 || t.candidates[0].layout == nil || !t.candidates[0].layout.fits(value) {
		return false
	}
	t.observeFitting(line, value)
	return true
}

// observeFitting takes in a value that fits the layout of the candidates.
func (t *tally) observeFitting(line int, value []byte) {
	l := t.candidates[0].layout
	t.clock = max(t.clock, l.clock)
	year, month, day := l.date(value)
	t.countYear(year)
	seconds, timed := l.seconds(value)
	read := [2]bool{timed && isMoment(year, month, day, seconds)}
	if len(t.candidates) == 2 {
		// The other candidate reads the same numbers, day and month swapped.
		read[1] = timed && isMoment(year, day, month, seconds)
	}
	t.countOne(line, value, read, day != month)
}

func (t *tally) countYear(year int) {
	if year < 1900 || year > 2100 {
		t.farYears++
	}
}

// countOne counts a value by which of the candidates can read it, and whether
// as different days.
func (t *tally) countOne(line int, value []byte, read [2]bool, differ bool) {
	t.count++
	for i := range t.candidates {
		if read[i] {
			t.readable[i]++
		} else if len(t.unread[i]) < maxExamples {
			t.unread[i] = append(t.unread[i], Example{line, string(value)})
		}
	}
	if !read[0] && !read[1] {
		t.neither++
	}
	if len(t.candidates) < 2 {
		return
	}
	switch {
	case read[0] && read[1]:
		if differ {
			t.open++
			if len(t.openFirst) < maxExamples {
				t.openFirst = append(t.openFirst, Example{line, string(value)})
			}
		}
	case read[0], read[1]:
		i := 0
		if read[1] {
			i = 1
		}
		if t.only[i] == 0 {
			t.onlyFirst[i] = Example{line, string(value)}
		}
		t.only[i]++
	}
}

// choose returns the candidate for an order; -1 when there is none.
func (t *tally) choose(order Order) int {
	if len(t.candidates) == 1 {
		return 0
	}
	for i, candidate := range t.candidates {
		// Where nothing could differ (05/05/2026) either will do.
		if order == Unsettled || candidate.order == order {
			return i
		}
	}
	return -1
}
