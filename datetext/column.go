package datetext

import (
	"slices"
	"strings"
)

// Asked is what the user has said about a column; the zero Asked is nothing.
type Asked struct {
	// Pattern reads every value, whatever the values look like.
	Pattern *Pattern
	// Order settles what the values leave open.
	Order Order
	// Pivot is the first of the hundred years that years of two digits mean;
	// 0 for the default.
	Pivot int
	// Language is that of the names of months; nil where the column tells.
	Language *Language
}

func (a Asked) pivot() int {
	if a.Pivot == 0 {
		return DefaultPivot
	}
	return a.Pivot
}

// Example is a value and the line it stands in.
type Example struct {
	Line  int
	Value string
}

// maxExamples is how many values of one fault are kept to be shown.
const maxExamples = 5

// maxShapes bounds the memory of a column in which every value looks different.
const maxShapes = 200

// Column gathers what the values of one column say about their form.
type Column struct {
	asked  Asked
	values int
	blanks int
	shapes map[string]*tally
	last   *tally
	buffer []byte
	// unmatched are the values that no pattern could read.
	unmatched      int
	firstUnmatched []Example
	// names counts the values by the name of their month.
	names map[string]*nameCount
}

// NewColumn returns a column of which nothing has been seen.
func NewColumn(asked Asked) *Column {
	return &Column{asked: asked, shapes: map[string]*tally{}, names: map[string]*nameCount{}}
}

// Observe takes in the value of a line.
func (c *Column) Observe(line int, value []byte) {
	value = trim(value)
	if len(value) == 0 {
		c.blanks++
		return
	}
	c.values++
	if c.last != nil && c.last.observeByLayout(line, value) {
		return
	}
	shown := value
	value = latin(value)
	t := c.tallyOf(value)
	if !t.scans(value) {
		if plain, ok := withoutWords(value); ok {
			if own := c.tallyOf(plain); own.scans(plain) {
				t, value = own, plain
			}
		}
	}
	if t == nil || len(t.candidates) == 0 {
		c.unmatched++
		if len(c.firstUnmatched) < maxExamples {
			c.firstUnmatched = append(c.firstUnmatched, Example{line, string(value)})
		}
		return
	}
	t.observe(line, value, shown)
	if pattern := t.candidates[0].pattern; pattern.has('N') {
		c.observeName(line, value, pattern.nameIn(value))
	}
}

// observeName counts the name of a month.
func (c *Column) observeName(line int, value, name []byte) {
	if name == nil {
		return
	}
	lower := strings.ToLower(string(name))
	n := c.names[lower]
	if n == nil {
		if len(c.names) >= maxNames {
			return
		}
		n = &nameCount{first: Example{line, string(value)}}
		c.names[lower] = n
	}
	n.count++
}

func (c *Column) tallyOf(value []byte) *tally {
	c.buffer = shapeOf(c.buffer[:0], value)
	if c.last != nil && string(c.buffer) == c.last.shape {
		return c.last
	}
	t := c.shapes[string(c.buffer)]
	if t == nil {
		if len(c.shapes) >= maxShapes {
			return nil
		}
		t = &tally{shape: string(c.buffer)}
		if c.asked.Pattern != nil {
			t.candidates = []candidate{{pattern: c.asked.Pattern, layout: layoutOf(c.asked.Pattern, t.shape)}}
		} else {
			t.candidates, t.isOwn = candidatesFor(t.shape, c.asked), true
		}
		c.shapes[t.shape] = t
	}
	c.last = t
	return t
}

// ObserveAndRead takes in the value of a line and reads it as the reader does.
// It is quicker than both by themselves.
func (c *Column) ObserveAndRead(line int, value []byte, r *Reader) (Moment, bool) {
	value = trim(value)
	if t := c.last; t != nil && r.follows(t) && r.last.layout.fits(value) {
		l := r.last.layout
		seconds, timed := l.seconds(value)
		if seconds == endOfDay {
			c.Observe(line, value)
			return r.Read(value)
		}
		c.values++
		var known *knownDate
		if timed {
			var isKnown bool
			if known, isKnown = r.known.place(value[l.dateFrom:l.dateTo]); isKnown && known.outcome() != notCounted && t.isNoted(known.outcome()) {
				t.again[known.outcome()]++
				t.clock = max(t.clock, l.clock)
				return Moment{Day: known.day, Nanos: int64(seconds) * 1e9, Clock: l.clock}, true
			}
		}
		year, month, day := l.date(value)
		ok := timed && isDay(year, month, day)
		t.clock = max(t.clock, l.clock)
		t.countYear(year)
		read := [2]bool{ok}
		if len(t.candidates) == 2 {
			// The other candidate reads the same numbers, day and month swapped.
			if other := timed && isDay(year, day, month); r.last.order == t.candidates[0].order {
				read[1] = other
			} else {
				read = [2]bool{other, ok}
			}
		}
		t.countOne(line, value, read, day != month)
		if !ok {
			return Moment{}, false
		}
		moment := r.moment(l, year, month, day, seconds)
		r.known.know(known, year, moment.Day, outcomeOf(read, day != month))
		return moment, true
	}
	c.Observe(line, value)
	if len(value) == 0 {
		return Moment{}, false
	}
	return r.Read(value)
}

// Join takes in all that another column of the same file and asking has seen.
func (c *Column) Join(other *Column) {
	c.values += other.values
	c.blanks += other.blanks
	c.unmatched += other.unmatched
	c.firstUnmatched = firstOf(c.firstUnmatched, other.firstUnmatched)
	c.last = nil
	c.settleTallies()
	other.settleTallies()
	for name, theirs := range other.names {
		ours := c.names[name]
		if ours == nil {
			c.names[name] = &nameCount{theirs.count, theirs.first}
			continue
		}
		if theirs.first.Line < ours.first.Line {
			ours.first = theirs.first
		}
		ours.count += theirs.count
	}
	for shape, theirs := range other.shapes {
		ours := c.shapes[shape]
		if ours == nil {
			c.shapes[shape] = theirs
			continue
		}
		ours.count += theirs.count
		ours.neither += theirs.neither
		ours.years.join(&theirs.years)
		ours.farYears += theirs.farYears
		ours.clock = max(ours.clock, theirs.clock)
		ours.open += theirs.open
		ours.openFirst = firstOf(ours.openFirst, theirs.openFirst)
		for i := range ours.readable {
			ours.readable[i] += theirs.readable[i]
			ours.unread[i] = firstOf(ours.unread[i], theirs.unread[i])
			if theirs.only[i] > 0 && (ours.only[i] == 0 || theirs.onlyFirst[i].Line < ours.onlyFirst[i].Line) {
				ours.onlyFirst[i] = theirs.onlyFirst[i]
			}
			ours.only[i] += theirs.only[i]
		}
	}
}

func firstOf(a, b []Example) []Example {
	all := append(slices.Clone(a), b...)
	slices.SortStableFunc(all, func(a, b Example) int { return a.Line - b.Line })
	return all[:min(len(all), maxExamples)]
}

func (c *Column) settleTallies() {
	for _, t := range c.shapes {
		t.settle()
	}
}

// Blanks returns the number of values that are blank.
func (c *Column) Blanks() int { return c.blanks }

// Orders returns how many values must have the day first, how many the month,
// and how many could be either and would be different days.
func (c *Column) Orders() (dayFirst, monthFirst, open int) {
	c.settleTallies()
	for _, t := range c.shapes {
		dayFirst, monthFirst, open = dayFirst+t.only[0], monthFirst+t.only[1], open+t.open
	}
	return dayFirst, monthFirst, open
}

// LooksLikeDates tells whether at least half of the values can be read as dates
// by one pattern or another. It is for finding the date column, whose other
// values are then faults. Plain numbers must all be days of 1900 to 2100, since
// one that is not makes the column one of identifiers.
func (c *Column) LooksLikeDates() bool {
	c.settleTallies()
	read := 0
	for _, t := range c.shapes {
		if len(t.candidates) == 0 {
			continue
		}
		if strings.Trim(t.shape, "0") == "" && (t.neither > 0 || t.farYears > 0 || c.unmatched > 0) {
			return false
		}
		read += t.count - t.neither
	}
	return c.values > 0 && read*2 >= c.values
}

// ArePlainNumbers tells whether all values are digits and nothing else, as in 20260301: dates may be, but so may ids and amounts.
func (c *Column) ArePlainNumbers() bool {
	for shape := range c.shapes {
		if strings.Trim(shape, "0") != "" {
			return false
		}
	}
	return len(c.shapes) > 0 && c.unmatched == 0
}

// ObserveBlank takes in an empty value.
func (c *Column) ObserveBlank() { c.blanks++ }

// ObserveKnown takes in and reads values from the first one on, as ObserveAndRead does, as long as they are dates that were read and counted
// before. It returns how many they are.
func (c *Column) ObserveKnown(values [][]byte, r *Reader, moments []Moment) int {
	t := c.last
	if t == nil || !r.follows(t) {
		return 0
	}
	l := r.last.layout
	for i, value := range values {
		if !l.fits(value) {
			return i
		}
		seconds, timed := l.seconds(value)
		if !timed || seconds == endOfDay {
			return i
		}
		known := r.known.find(value[l.dateFrom:l.dateTo])
		if known == nil || known.outcome() == notCounted || !t.isNoted(known.outcome()) {
			return i
		}
		c.values++
		t.again[known.outcome()]++
		t.clock = max(t.clock, l.clock)
		moments[i] = Moment{Day: known.day, Nanos: int64(seconds) * 1e9, Clock: l.clock}
	}
	return len(values)
}
