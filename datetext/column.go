package datetext

import (
	"fmt"
	"slices"
	"strings"

	"roundyear/civil"
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

// maxNames bounds the memory of a column in which every name is another.
const maxNames = 200

// tally counts the values of one shape under each of its candidates.
type tally struct {
	shape      string
	candidates []candidate
	count      int
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
	// again counts values with the date of the value before, whose outcome was
	// againRead and againDiffer; they are not in the other counts yet.
	again       int
	againRead   [2]bool
	againDiffer bool
}

// settle takes the values that were only counted as the one before into the
// counts.
func (t *tally) settle() {
	n := t.again
	t.again = 0
	t.count += n
	for i := range t.candidates {
		if t.againRead[i] {
			t.readable[i] += n
		}
	}
	if len(t.candidates) < 2 || n == 0 {
		return
	}
	switch {
	case t.againRead[0] && t.againRead[1]:
		if t.againDiffer {
			t.open += n
		}
	case t.againRead[0]:
		t.only[0] += n
	case t.againRead[1]:
		t.only[1] += n
	}
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
	value = latin(value)
	t := c.tallyOf(value)
	if t == nil || len(t.candidates) == 0 {
		c.unmatched++
		if len(c.firstUnmatched) < maxExamples {
			c.firstUnmatched = append(c.firstUnmatched, Example{line, string(value)})
		}
		return
	}
	t.observe(line, value)
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
			t.candidates = candidatesFor(t.shape, c.asked)
		}
		c.shapes[t.shape] = t
	}
	c.last = t
	return t
}

func (t *tally) observe(line int, value []byte) {
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
	t.countOne(line, value, read, days[0] != days[1])
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
	_, timed := l.seconds(value)
	read := [2]bool{timed && isDay(year, month, day)}
	if len(t.candidates) == 2 {
		// The other candidate reads the same numbers, day and month swapped.
		read[1] = timed && isDay(year, day, month)
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
	if t.again > 0 {
		t.settle()
	}
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

// ObserveAndRead takes in the value of a line and reads it as the reader does.
// It is quicker than both by themselves.
func (c *Column) ObserveAndRead(line int, value []byte, r *Reader) (Moment, bool) {
	value = trim(value)
	if t := c.last; t != nil && r.follows(t) && r.last.layout.fits(value) {
		l := r.last.layout
		c.values++
		seconds, timed := l.seconds(value)
		if timed && r.again && string(value[l.dateFrom:l.dateTo]) == string(r.date) {
			// Facts mostly lie in time order: the date is that of the row before.
			t.again++
			return Moment{Day: r.day, Nanos: int64(seconds) * 1e9, Clock: l.clock}, true
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
		if r.again = false; !ok {
			return Moment{}, false
		}
		moment := r.moment(l, year, month, day, seconds)
		r.again, r.day, r.date = year >= 1900 && year <= 2100, moment.Day, append(r.date[:0], value[l.dateFrom:l.dateTo]...)
		t.againRead, t.againDiffer = read, day != month
		return moment, true
	}
	c.Observe(line, value)
	if len(value) == 0 {
		return Moment{}, false
	}
	return r.Read(value)
}

// follows tells whether the reader reads texts of the tally's shape by their
// positions.
func (r *Reader) follows(t *tally) bool {
	if r.tally == t {
		return true
	}
	if r.last == nil || r.last.layout == nil || len(t.candidates) == 0 || t.candidates[0].layout == nil || t.shape != string(r.lastShape) {
		return false
	}
	r.tally, r.again = t, false
	return true
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
	if err := c.yearsSettled(); err != nil {
		return err
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

// Reader reads the values of a column in the way that was decided. It is for
// one goroutine; Clone makes another.
type Reader struct {
	only      *Pattern
	byShape   map[string]*candidate
	forms     []string
	last      *candidate
	lastShape []byte
	buffer    []byte
	// tally is one whose shape is that of last.
	tally *tally
	// date is the text of the date that was read last by a tally, day its day;
	// again tells that both hold, and that the tally has counted them.
	date  []byte
	day   civil.Day
	again bool
	// first is the first day of the month that was read last.
	year, month int
	first       civil.Day
}

// Clone returns a reader for another goroutine.
func (r *Reader) Clone() *Reader {
	return &Reader{only: r.only, byShape: r.byShape, forms: r.forms}
}

// Read reads a value that is not blank. It is false when the value cannot be
// read; Why then says the reason.
func (r *Reader) Read(value []byte) (Moment, bool) {
	value = trim(value)
	if r.last != nil && r.last.layout != nil && r.last.layout.fits(value) {
		return r.readByLayout(r.last.layout, value)
	}
	value = latin(value)
	pattern := r.patternFor(value)
	if pattern == nil {
		return Moment{}, false
	}
	return pattern.Read(value)
}

func (r *Reader) readByLayout(l *layout, value []byte) (Moment, bool) {
	year, month, day := l.date(value)
	seconds, ok := l.seconds(value)
	if !ok || !isDay(year, month, day) {
		return Moment{}, false
	}
	return r.moment(l, year, month, day, seconds), true
}

func (r *Reader) moment(l *layout, year, month, day, seconds int) Moment {
	if year != r.year || month != r.month {
		r.year, r.month, r.first = year, month, civil.FirstOfMonth(year, civil.Month(month))
	}
	return Moment{Day: r.first + civil.Day(day-1), Nanos: int64(seconds) * 1e9, Clock: l.clock}
}

// Why says in words why a value cannot be read.
func (r *Reader) Why(value []byte) string {
	value = latin(trim(value))
	if pattern := r.patternFor(value); pattern != nil {
		return pattern.Why(value)
	}
	return "is not a date in the format " + strings.Join(r.forms, " or ")
}

func (r *Reader) patternFor(value []byte) *Pattern {
	r.buffer = shapeOf(r.buffer[:0], value)
	if r.last == nil || string(r.buffer) != string(r.lastShape) {
		r.lastShape = append(r.lastShape[:0], r.buffer...)
		r.tally, r.again = nil, false
		if r.only != nil {
			r.last = &candidate{pattern: r.only, layout: layoutOf(r.only, string(r.buffer))}
		} else {
			r.last = r.byShape[string(r.buffer)]
		}
	}
	if r.last == nil {
		return nil
	}
	return r.last.pattern
}
