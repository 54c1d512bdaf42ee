package facts

import (
	"bytes"
	"math"
	"slices"

	"roundyear/calendar"
	"roundyear/cell"
	"roundyear/civil"
	"roundyear/facts/decimal"
	"roundyear/facts/where"
)

// Census describes how many things were open over time: each is a span from the day on which it opened to the one on which it closed.
// It is open at the end of a day if it opened on that day or before, and did not close on that day or before.
type Census struct {
	// Opened and Closed are the columns of the two days. One that has not closed is open on the as-of day.
	Opened, Closed string
	// OpeningDayOut tells that a thing is not open on its opening day yet, ClosingDayIn that it still is on its closing day: it opens, or
	// closes, on the day after.
	OpeningDayOut, ClosingDayIn bool
	Where                       []*where.Condition
	Grain                       calendar.Grain
	// Groups are the names of the columns that spans are grouped by.
	Groups []string
	// GroupTypes are the types of these columns; without them they are text.
	GroupTypes []cell.Type
	// Sums are the columns of quantities that are added up over the things that are open, beside their number.
	Sums []string
	// MedianAge asks for the median of the ages, for which all spans are kept in memory.
	MedianAge bool
	// Cohorts asks how many of the things that opened in a period are still open after each of those that follow.
	Cohorts bool
	// From and To bound the periods of the result; what opened before From is open in the first of them. Without them it goes from the
	// first opening to the as-of day.
	From, To *civil.Day
	// AsOf is the day that counts as today. What opens or closes after it has not happened yet.
	AsOf civil.Day
	// MaxRows is how many rows a result may have; 0 for DefaultMaxRows.
	MaxRows int
}

// groupType is the type of a column of the groups.
func (c *Census) groupType(column int) cell.Type {
	if column < len(c.GroupTypes) {
		return c.GroupTypes[column]
	}
	return cell.Text
}

// effective returns the days from which a span is open, and from which it is not open any more. hasClosed is false for one that is
// open on the as-of day.
func (c *Census) effective(opened civil.Day, closed civil.Day, hasClosed bool) (from, gone civil.Day, isGone bool) {
	if from = opened; c.OpeningDayOut {
		from++
	}
	if gone = closed; c.ClosingDayIn {
		gone++
	}
	gone = max(gone, from)
	return from, gone, hasClosed && gone <= c.AsOf
}

// Periods returns the first and the last period of a span, and whether it closed in the last one. It is false for a span that had
// not opened on the as-of day.
func (c *Census) Periods(opened, closed civil.Day, hasClosed bool) (first, last int, isGone, ok bool) {
	from, gone, isGone := c.effective(opened, closed, hasClosed)
	if from > c.AsOf {
		return 0, 0, false, false
	}
	if !isGone {
		gone = c.AsOf
	}
	return c.Grain.Locate(from).Number, c.Grain.Locate(gone).Number, isGone, true
}

// What a record of a census has: how many spans opened in a period, and closed times oneClosed, and of those that closed the sum of the days
// from which they were open. Records are small, so that those of many days stay in the cache. For periods of several days also the sums of the days from which those that opened are open, and from which those that closed
// are not; of a day they follow from the numbers.
const (
	atCounts = iota
	fromClosed
	nOfDay
	fromOpened = iota - 1
	goneClosed
	nOfPeriod
)

const oneClosed = 1 << 32

// countsOf returns how many spans of a record opened and closed.
func countsOf(record []int64) (opened, closed int64) {
	return record[atCounts] & (oneClosed - 1), record[atCounts] >> 32
}

// What there is of each quantity: the sums of those that opened and closed, and of them times the days from which they are open, or
// not open any more.
const (
	sumOpened = iota
	sumClosed
	sumFrom
	sumGone
	nSums
)

// CensusTally gathers spans, one by one. What it does for each does not depend on how long it is.
type CensusTally struct {
	grid
	census  Census
	periods periodTable
	sums    []accumulator
	// spans are all spans of each group, for the median of the ages.
	spans [][]agedSpan
	// cohorts are how many spans closed after how many periods, by group and the period in which they opened.
	cohorts []map[int][]int
	summary SpanSummary
	// isDaily tells that periods are days, and fixed is how many numbers of a record are not of quantities.
	isDaily bool
	fixed   int
	// dayOffset is by how much the number of a day as a period is more than the day, and last the period of the as-of day.
	dayOffset, last int
	// low and high are the periods of the bounds.
	low, high int
	// values and places are memory for what is at work.
	values [][]byte
	places []located
}

// agedSpan is from which day to before which one a span is open.
type agedSpan struct{ from, gone int32 }

// never is the end of a span that has none.
const never = 1<<31 - 1

// SpanSummary counts spans.
type SpanSummary struct {
	// Spans are those that count, and Open those of them that are open on the as-of day.
	Spans, Open int
	// Undated have no opening day, Future open after the as-of day, and Backward closed before they opened. They do not count.
	Undated, Future, Backward int
	// First and Last are the first opening and the last opening or closing, up to the as-of day.
	First, Last civil.Day
	// Rows is how many periods the spans have together, within the bounds.
	Rows int
}

// NewCensusTally returns a tally that has seen nothing.
func NewCensusTally(census Census) *CensusTally {
	t := &CensusTally{census: census, periods: periodTable{grain: census.Grain}, values: make([][]byte, len(census.Groups)),
		low: math.MinInt, high: math.MaxInt}
	if census.From != nil {
		t.low = census.Grain.Locate(*census.From).Number
	}
	if census.To != nil {
		t.high = census.Grain.Locate(*census.To).Number
	}
	t.isDaily, t.last = census.Grain.Unit == calendar.Day, census.Grain.Locate(census.AsOf).Number
	t.dayOffset = t.last - int(census.AsOf)
	records := &cells{stride: nOfPeriod}
	if t.isDaily {
		records.stride = nOfDay
	}
	t.fixed = records.stride
	for range census.Sums {
		for range nSums {
			t.sums = append(t.sums, accumulator{kind: Sum, cells: records, place: records.stride})
			records.stride += Sum.width()
		}
	}
	t.grid = newGrid(records, census.Grain)
	return t
}

// Spans are spans, column by column.
type Spans struct {
	Opened, Closed []civil.Day
	// HasClosed tells which of them have closed.
	HasClosed []bool
	// Groups and Quantities are the texts of the columns of the census's groups and sums.
	Groups, Quantities [][][]byte
}

// Add takes in a span, as AddSpans does.
func (t *CensusTally) Add(opened, closed civil.Day, hasClosed bool, groups, quantities [][]byte) error {
	one := Spans{Opened: []civil.Day{opened}, Closed: []civil.Day{closed}, HasClosed: []bool{hasClosed}}
	for _, text := range groups {
		one.Groups = append(one.Groups, [][]byte{text})
	}
	for _, text := range quantities {
		one.Quantities = append(one.Quantities, [][]byte{text})
	}
	_, err := t.AddSpans(&one)
	return err
}

// located is where a span counts.
type located struct {
	// opening and closing are its cells; noCell where it does not close.
	opening, closing uint32
	from, gone       civil.Day
}

// noCell is no cell.
const noCell = ^uint32(0)

// AddSpans takes in spans. The error is a BadValue with the row it is of, and those from that on are not taken in. A span that closed
// before it opened is counted apart.
func (t *CensusTally) AddSpans(spans *Spans) (row int, err error) {
	// Where they count is found first, and counted then: memory that is far away is asked for many times at once.
	places := t.places[:0]
	for row := range spans.Opened {
		opened, closed, hasClosed := spans.Opened[row], spans.Closed[row], spans.HasClosed[row]
		if hasClosed && closed < opened {
			t.summary.Backward++
			places = append(places, located{opening: noCell})
			continue
		}
		from, gone, isGone := t.census.effective(opened, closed, hasClosed)
		if from > t.census.AsOf {
			t.summary.Future++
			places = append(places, located{opening: noCell})
			continue
		}
		for i := range t.values {
			t.values[i] = spans.Groups[i][row]
		}
		group := t.group(t.values)
		first := t.period(from)
		place := located{t.cell(group, first), noCell, from, gone}
		last := first
		if isGone {
			last = t.period(gone)
			place.closing = t.cell(group, last)
		}
		places = append(places, place)
		t.count(from, gone, isGone, first, last)
		if t.census.MedianAge {
			t.keep(group, from, gone, isGone)
		}
		if t.census.Cohorts {
			t.addToCohort(group, first, last, isGone)
		}
	}
	t.places = places
	for i := range places {
		place := &places[i]
		if place.opening == noCell {
			continue
		}
		record := t.cells.record(place.opening)
		record[atCounts]++
		if !t.isDaily {
			record[fromOpened] += int64(place.from)
		}
	}
	for i := range places {
		place := &places[i]
		if place.opening == noCell || place.closing == noCell {
			continue
		}
		record := t.cells.record(place.closing)
		record[atCounts] += oneClosed
		record[fromClosed] += int64(place.from)
		if !t.isDaily {
			record[goneClosed] += int64(place.gone)
		}
	}
	return t.addQuantities(spans)
}

// keep keeps a span for the median of the ages.
func (t *CensusTally) keep(group int, from, gone civil.Day, isGone bool) {
	for len(t.spans) <= group {
		t.spans = append(t.spans, nil)
	}
	end := int32(never)
	if isGone {
		end = int32(gone)
	}
	t.spans[group] = append(t.spans[group], agedSpan{int32(from), end})
}

// addQuantities adds up the quantities of the spans whose places were found last.
func (t *CensusTally) addQuantities(spans *Spans) (row int, err error) {
	if len(t.sums) == 0 {
		return 0, nil
	}
	for row, place := range t.places {
		if place.opening == noCell {
			continue
		}
		for i := range t.census.Sums {
			text := bytes.TrimSpace(spans.Quantities[i][row])
			if len(text) == 0 {
				continue
			}
			number, err := decimal.Parse(text)
			if err != nil {
				return row, &BadValue{Measure: i, Value: string(text), Reason: err}
			}
			t.addQuantity(i, sumOpened, sumFrom, place.opening, number, place.from)
			if place.closing != noCell {
				t.addQuantity(i, sumClosed, sumGone, place.closing, number, place.gone)
			}
		}
	}
	return 0, nil
}

func (t *CensusTally) addQuantity(i, sum, days int, cell uint32, number decimal.Decimal, day civil.Day) {
	record := t.cells.record(cell)
	t.sums[i*nSums+sum].add(cell, record, number, Place{})
	t.sums[i*nSums+days].add(cell, record, number.Mul(decimal.OfInt(int(day))), Place{})
}

// period returns the number of the period of a day. Days are numbered one by one.
func (t *CensusTally) period(day civil.Day) int {
	if t.isDaily {
		return int(day) + t.dayOffset
	}
	return t.periods.number(day)
}

// count counts a span.
func (t *CensusTally) count(from, gone civil.Day, isGone bool, first, last int) {
	s := &t.summary
	if s.Spans == 0 {
		s.First, s.Last = from, from
	}
	s.Spans++
	s.First, s.Last = min(s.First, from), max(s.Last, from)
	if isGone {
		s.Last = max(s.Last, gone)
		s.Rows += max(min(last, t.high)-max(first, t.low)+1, 0)
		return
	}
	s.Open++
	s.Rows += max(min(t.last, t.high)-max(first, t.low)+1, 0)
}

// addToCohort counts a span among those that opened in the same period: by how many periods later it closed, or as one that has not.
func (t *CensusTally) addToCohort(group, first, last int, isGone bool) {
	for len(t.cohorts) <= group {
		t.cohorts = append(t.cohorts, map[int][]int{})
	}
	after := 0 // those that have not closed
	if isGone {
		after = last - first + 1
	}
	counts := t.cohorts[group][first]
	if missing := after + 1 - len(counts); missing > 0 {
		counts = append(counts, make([]int, missing)...)
	}
	counts[after]++
	t.cohorts[group][first] = counts
}

// AddUndated counts a span without an opening day.
func (t *CensusTally) AddUndated() { t.summary.Undated++ }

// Summary returns the counts of spans so far.
func (t *CensusTally) Summary() SpanSummary { return t.summary }

// Join takes in all that another tally of the same census has seen.
func (t *CensusTally) Join(other *CensusTally) {
	groups := make([]int, other.groups.len())
	t.grid.join(&other.grid, func(own, theirs int) { groups[theirs] = own }, func(own, theirs uint32) {
		record, their := t.cells.record(own), other.cells.record(theirs)
		for i := range t.fixed {
			record[i] += their[i]
		}
		for i := range t.sums {
			t.sums[i].join(own, record, &other.sums[i], theirs, their)
		}
	})
	for theirs, spans := range other.spans {
		for len(t.spans) <= groups[theirs] {
			t.spans = append(t.spans, nil)
		}
		t.spans[groups[theirs]] = append(t.spans[groups[theirs]], spans...)
	}
	for theirs, cohorts := range other.cohorts {
		for len(t.cohorts) <= groups[theirs] {
			t.cohorts = append(t.cohorts, map[int][]int{})
		}
		own := t.cohorts[groups[theirs]]
		for period, counts := range cohorts {
			sum := slices.Grow(own[period], len(counts))
			for after, count := range counts {
				if after >= len(sum) {
					sum = append(sum, 0)
				}
				sum[after] += count
			}
			own[period] = sum
		}
	}
	s, theirs := &t.summary, other.summary
	if theirs.Spans > 0 {
		if s.Spans == 0 {
			s.First, s.Last = theirs.First, theirs.Last
		}
		s.First, s.Last = min(s.First, theirs.First), max(s.Last, theirs.Last)
	}
	s.Spans += theirs.Spans
	s.Open += theirs.Open
	s.Undated += theirs.Undated
	s.Future += theirs.Future
	s.Backward += theirs.Backward
	s.Rows += theirs.Rows
}
