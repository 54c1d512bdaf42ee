// Package facts brings facts to periods: it adds them up by period and group
// and fills the periods in which nothing happened, so that none is missing.
// An Operation describes what is wanted and does not know where rows come
// from; a Tally carries it out over a stream of them.
package facts

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"roundyear/calendar"
	"roundyear/cell"
	"roundyear/civil"
	"roundyear/datetext"
	"roundyear/facts/decimal"
	"roundyear/facts/where"
)

// Kind is what a measure does with the values of a column.
type Kind int

// The kinds of measures.
const (
	Sum Kind = iota
	Count
	Mean
	Min
	Max
	First
	Last
	// Distinct is how many different values there are, blank ones left out.
	Distinct
	// Percentile is the value below which so many percent of the values lie.
	Percentile
	// Closing, Opening and MeanOverDays are of balances, which are never added up over time: the values of the last day with some, up to the
	// end of the period or before its start, and what that is on the mean of the period's days. The values of one day are added up.
	Closing
	Opening
	MeanOverDays
)

var kindNames = [...]string{"sum", "count", "mean", "min", "max", "first", "last", "distinct", "percentile", "closing", "opening", "mean-over-days"}

// String returns the kind's name: "sum".
func (k Kind) String() string { return kindNames[k] }

// counts tells whether a kind is a number of rows or values, and not made of the values.
func (k Kind) counts() bool { return k == Count || k == Distinct }

// IsBalance tells whether a kind is of balances.
func (k Kind) IsBalance() bool { return k >= Closing && k <= MeanOverDays }

// gathered returns what the values of a cell are gathered as.
func (k Kind) gathered() Kind {
	if k.IsBalance() {
		return Sum
	}
	return k
}

// Gap says what a measure is in a period without facts.
type Gap int

// The ways to fill a gap: nothing, zero, the value before, the straight line
// between the values around it, or always the same number.
const (
	Blank Gap = iota
	Zero
	Carry
	Linear
	Constant
)

var gapNames = [...]string{"blank", "zero", "carry", "linear"}

// SetGap reads what a measure is in a gap: a name, carry:3 for the value before in at most
// three periods, or a number. The error lists them.
func (m *Measure) SetGap(text string) error {
	name, limit, isLimited := strings.Cut(text, ":")
	for gap, known := range gapNames {
		if !strings.EqualFold(name, known) || isLimited && Gap(gap) != Carry {
			continue
		}
		m.Gap, m.CarryLimit = Gap(gap), 0
		if isLimited {
			if m.CarryLimit, _ = strconv.Atoi(limit); m.CarryLimit < 1 {
				return fmt.Errorf("carry:%s must be carry: and a number of periods from 1", limit)
			}
		}
		return nil
	}
	number, err := decimal.Parse([]byte(text))
	if err != nil || text == "" {
		return fmt.Errorf("unknown gap value %q; use zero, blank, carry, carry:N, linear or a number", text)
	}
	m.Gap, m.Constant = Constant, number
	return nil
}

// Measure is one column of the result.
type Measure struct {
	Kind Kind
	// Column is the column of its values; none for a Count.
	Column string
	// Name is the name of the result's column.
	Name string
	// Percent is that of a Percentile, from 0 to 100 with at most MaxPercentScale decimals;
	// 50 is the median.
	Percent decimal.Decimal
	// Gap says what it is where there are no facts.
	Gap Gap
	// CarryLimit is in how many periods in a row Carry repeats a value; 0 for any number.
	CarryLimit int
	// Constant is the number of the gap Constant.
	Constant decimal.Decimal
}

// MaxPercentScale is how many decimals the percent of a Percentile may have.
const MaxPercentScale = 3

// DefaultGap is zero for what counts up from nothing, blank for all else: a
// month without sales has sold 0, but has no price.
func (k Kind) DefaultGap() Gap {
	if k == Sum || k.counts() {
		return Zero
	}
	return Blank
}

// Span says which periods every group has.
type Span int

// The spans: from the earliest to the latest period of all groups, from the
// group's own first one to the latest of all, the group's own, or from the day
// on which the group opened to the one on which it closed.
const (
	SpanAll Span = iota
	SpanSinceFirst
	SpanOwn
	SpanLives
)

var spanNames = [...]string{"all", "since-first", "own", "lives"}

// ParseSpan reads a span's name; it is false for anything else.
func ParseSpan(name string) (Span, bool) {
	for span, known := range spanNames {
		if strings.EqualFold(name, known) {
			return Span(span), true
		}
	}
	return 0, false
}

// Operation describes periods of measures: the facts of each group, by period,
// with no period left out. It names columns and knows no rows, so that whatever has the facts
// can carry it out.
type Operation struct {
	// Date is the column of the date, or the name of one in three columns; empty for the only
	// one that there is. Clock says to which day its moments count.
	Date  string
	Clock datetext.Clock
	// Where are the conditions that facts must meet, all of them.
	Where []*where.Condition
	Grain calendar.Grain
	// Groups are the names of the columns that facts are grouped by, and of the attributes of their days.
	Groups []string
	// GroupTypes are the types of the columns of Groups, where they are known: integers, days and truth values stay what they are. Without
	// them, and where subtotals or others stand among the groups, they are texts.
	GroupTypes []cell.Type
	Attributes []DayAttribute
	Measures   []Measure
	// CombineAll asks for every combination of the groups' values, and not only for those
	// that occur.
	CombineAll bool
	Span       Span
	// Lives are those of SpanLives, and of OnlyOpen, which leaves out periods in which the
	// group did not trade on any day. No facts are left out by either.
	Lives    *Lives
	OnlyOpen bool
	// Against are the periods that rows are held against. Align sets the days of an event beside each other, in years that are compared.
	Against []Comparison
	Align   *Event
	Budget  *Budget
	// Running adds up sums and counts since the start of a longer period, Rolling over so many periods, and RollingDays over so many days.
	// Windows that begin before the facts are blank, unless PartWindows asks for them.
	Running              *calendar.Unit
	Rolling, RollingDays int
	PartWindows          bool
	// Ranked gives groups their rank in each period, by the first measure; Top leaves only so many groups, the greatest of all periods
	// shown, and the others together.
	Ranked bool
	Top    int
	// Subtotals adds rows of all groups together, and of all in the last columns.
	Subtotals bool
	// Future says what becomes of facts after the as-of day.
	Future Future
	// Rates are days by which sums and counts are divided.
	Rates []Rate
	// Shares are of what the shares of sums and counts are told.
	Shares []Share
	// ToDate counts in each period only the facts up to the position that the as-of day has in its own.
	ToDate bool
	// CompleteOnly leaves out the period that is running, and Recent shows only so many of the latest periods; 0 for all. What is
	// left out is compared and added up all the same.
	CompleteOnly bool
	Recent       int
	// IsTold asks for facts by day, so that a figure can be told how it came about, and for results by several grains.
	IsTold bool
	// Loaded says up to which day there are facts; nil where that is not known.
	Loaded *Loaded
	// From and To bound the facts and, where given, the span of all groups.
	// Both ends are in.
	From, To *civil.Day
	// AsOf is the day that counts as today. The period it lies in is
	// running. No period is made up after it, unless facts lie after that.
	AsOf civil.Day
	// MaxRows is how many rows a result may have; 0 for DefaultMaxRows.
	MaxRows int
}

// Future says what becomes of facts after the as-of day.
type Future int

// They count as all others do, are left out, or stand in columns of their own.
const (
	KeepFuture Future = iota
	DropFuture
	FutureApart
)

var futureNames = [...]string{"keep", "drop", "apart"}

// ParseFuture reads the name of it. The error lists the names.
func ParseFuture(text string) (Future, error) {
	for future, name := range futureNames {
		if strings.EqualFold(text, name) {
			return Future(future), nil
		}
	}
	return 0, fmt.Errorf("unknown %q; use keep, drop or apart", text)
}

// byDay tells whether facts have to be known by day, and not only by period.
func (o *Operation) byDay() bool {
	return o.Loaded != nil && o.Loaded.IsEach || o.RollingDays > 0 || o.Top > 0 || o.Subtotals || o.Future != KeepFuture || o.Budget != nil || len(o.Attributes) > 0 || o.IsTold ||
		slices.ContainsFunc(o.Measures, func(m Measure) bool { return m.Kind.IsBalance() }) ||
		slices.ContainsFunc(o.Against, func(c Comparison) bool { return o.shifts(c) })
}

// DefaultMaxRows is more rows than a result has that anyone wants. A date far
// from the others, such as 1900-01-01 for none, may reach it.
const DefaultMaxRows = 100_000_000

// positionOf returns the as-of day if all periods end at its position; else nil.
func (o *Operation) positionOf() *civil.Day {
	if !o.ToDate {
		return nil
	}
	return &o.AsOf
}

// ThroughOf returns the last day of a period that counts.
func (o *Operation) ThroughOf(period calendar.Period) civil.Day {
	if !o.ToDate {
		return period.Last
	}
	return calendar.ToDate(o.Grain.Calendar, o.Grain.Unit, o.AsOf, period)
}

// knownThrough returns the last day of a period of which facts can be there: the as-of day in the one that is running.
func (o *Operation) knownThrough(period calendar.Period) civil.Day {
	through := o.ThroughOf(period)
	if period.Contains(o.AsOf) {
		through = min(through, o.AsOf)
	}
	return through
}

// Includes tells whether a day lies within From and To.
func (o *Operation) Includes(day civil.Day) bool {
	return (o.From == nil || day >= *o.From) && (o.To == nil || day <= *o.To)
}

// groupType returns the type of the values of a column of the groups.
func (o *Operation) groupType(column int) cell.Type {
	if column >= len(o.GroupTypes) || o.Subtotals || o.Top > 0 {
		return cell.Text
	}
	return o.GroupTypes[column]
}

// groupCell is a value of a column of the groups.
func (o *Operation) groupCell(column int, text string) cell.Value {
	return typedGroup(o.groupType(column), text)
}

// typedGroup is the value of a group as its type, or as text where it is none of that.
func typedGroup(typ cell.Type, text string) cell.Value {
	switch typ {
	case cell.Integer:
		if number, err := strconv.Atoi(text); err == nil {
			return cell.OfInteger(number)
		}
	case cell.Boolean:
		if text == "true" || text == "false" {
			return cell.OfBool(text == "true")
		}
	case cell.Date:
		if day, err := civil.Parse(text); err == nil {
			return cell.OfDay(day)
		}
	default:
		return cell.OfText(text)
	}
	if text == "" {
		return cell.Blank
	}
	return cell.OfText(text)
}
