package facts

import (
	"fmt"
	"strings"

	"roundyear/calendar"
	"roundyear/cell"
	"roundyear/civil"
	"roundyear/facts/decimal"
)

// Comparison is another period that a period is held against.
type Comparison int

// The comparisons: the period before, and the one of the same number in the year before, or two years before, in the same calendar. A day
// is held against the day of the year before that its calendar says.
const (
	Previous Comparison = iota
	YearAgo
	TwoYearsAgo
	// Restated is of years of whole weeks: the days 52 weeks before, if they are in the year before.
	Restated
	// SameWeekday are the days 52 weeks before, in any calendar.
	SameWeekday
)

var comparisonNames = [...]string{"previous", "year-ago", "two-years-ago", "year-ago-restated", "same-weekday-year-ago"}

// String returns the name of the comparison, as it is asked for.
func (c Comparison) String() string { return comparisonNames[c] }

// ParseComparison reads the name of a comparison. The error lists the names.
func ParseComparison(text string) (Comparison, error) {
	for comparison, name := range comparisonNames {
		if strings.EqualFold(text, name) {
			return Comparison(comparison), nil
		}
	}
	return 0, fmt.Errorf("unknown comparison %q; use %s", text, strings.Join(comparisonNames[:], ", "))
}

// column returns the comparison as a part of column names.
func (c Comparison) column() string { return strings.ReplaceAll(c.String(), "-", "_") }

// baseOf returns the number of the period that a period is held against; it is false if its calendar has none, as for week 53.
func (c Comparison) baseOf(grain calendar.Grain, period calendar.Period) (int, bool) {
	switch c {
	case YearAgo:
		return yearBefore(grain, period)
	case TwoYearsAgo:
		number, ok := yearBefore(grain, period)
		if !ok {
			return 0, false
		}
		return yearBefore(grain, grain.At(number))
	}
	return period.Number - 1, true
}

// yearBefore returns the number of the period of the same number in the year before.
func yearBefore(grain calendar.Grain, period calendar.Period) (int, bool) {
	if grain.Unit == calendar.Day {
		day, ok := calendar.YearAgo(grain.Calendar, period.First)
		return grain.Locate(day).Number, ok
	}
	if grain.Unit == calendar.Year {
		return period.Number - 1, true
	}
	year := yearOf(grain, period)
	before := grain.Calendar.At(calendar.Year, year.Number-1)
	first := grain.Locate(before.First)
	if first.InYear != 1 {
		first = grain.At(first.Number + 1) // one that lies in the year before mostly
	}
	base := grain.At(first.Number + period.InYear - 1)
	return base.Number, base.InYear == period.InYear && base.Year == period.Year-1
}

// yearOf returns the year of its calendar that a period belongs to, which for a week is not always that of its first day.
func yearOf(grain calendar.Grain, period calendar.Period) calendar.Period {
	year := grain.Calendar.Locate(calendar.Year, period.First)
	if year.Year < period.Year {
		return grain.Calendar.At(calendar.Year, year.Number+1)
	}
	return year
}

// changeDecimals is how many decimals a change in percent has.
const changeDecimals = 1

// comparisonColumns are the columns of the comparisons: for each the measures of the other period, by how much they have changed, and by how
// many percent, and whether the two can be compared.
func (r *Result) comparisonColumns() []cell.Column {
	var columns []cell.Column
	measures := r.measureColumns()
	for _, comparison := range r.operation.Against {
		name := comparison.column()
		for i, measure := range measures {
			columns = append(columns, changeColumns(measure, name)...)
			if !r.operation.Measures[i].Kind.addsUp() {
				continue
			}
			measure.Name += "_" + name
			for _, rate := range r.rateColumns(measure) {
				columns = append(columns, rate, PercentColumn(rate.Name+"_percent"))
			}
		}
		columns = append(append(columns, r.dayColumns("_"+name)...), cell.Column{Name: "is_" + name + "_comparable", Type: cell.Boolean})
		if r.tellsLeapWeeks(comparison) {
			columns = append(columns, cell.Column{Name: "is_" + name + "_leap_week", Type: cell.Boolean})
		}
	}
	if budget := r.operation.Budget; budget != nil {
		columns = append(append(columns, changeColumns(measures[budget.Measure], BudgetColumn)...), cell.Column{Name: "is_" + BudgetColumn + "_comparable", Type: cell.Boolean})
	}
	return columns
}

// changeColumns are those of a measure of another period: its value, by how much it has changed, and by how many percent.
func changeColumns(measure cell.Column, name string) []cell.Column {
	change := measure
	measure.Name += "_" + name
	change.Name += "_" + name + "_change"
	return []cell.Column{measure, change, PercentColumn(measure.Name + "_percent")}
}

// compared is what a period is held against.
type compared struct {
	// values are its measures; nil if there is no such period.
	values []cell.Value
	// days are those that can have facts, of which it has some only if there are values.
	days calendar.Period
	// isComparable tells that both can be compared, isBaseWhole that no facts of the other can be missing, and hasLeapWeek that one of the
	// two has a week more.
	isComparable, isBaseWhole, hasLeapWeek bool
	// isCut tells that one of two weeks is cut by the beginning of a year.
	isCut bool
}

// tellsLeapWeeks tells whether periods that a comparison holds against each other can have different numbers of weeks.
func (r *Result) tellsLeapWeeks(c Comparison) bool {
	grain := r.operation.Grain
	return c != Previous && grain.Unit > calendar.Week && calendar.HasLeapWeeks(grain.Calendar)
}

// compare appends what a comparison has of a row whose measures are at the end of its values.
func (w *walk) compare(at int, period calendar.Period, measures []cell.Value, row []cell.Value) []cell.Value {
	against := w.against(at, period)
	for i := range measures {
		row = w.compareOne(i, measures[i], against, row)
		if w.result.operation.Measures[i].Kind.addsUp() {
			row = w.compareRates(i, measures[i], period, against, row)
		}
	}
	for _, rate := range w.result.operation.Rates {
		if against.values == nil {
			row = append(row, cell.Blank)
			continue
		}
		row = append(row, w.daysIn(rate, against.days))
	}
	row = append(row, cell.OfBool(against.isComparable))
	if w.result.tellsLeapWeeks(w.result.operation.Against[at]) {
		row = append(row, cell.OfBool(against.hasLeapWeek))
	}
	return row
}

// compareOne appends what a comparison has of one measure.
func (w *walk) compareOne(measure int, value cell.Value, against compared, row []cell.Value) []cell.Value {
	if against.values == nil {
		return append(row, cell.Blank, cell.Blank, cell.Blank)
	}
	base := against.values[measure]
	row = append(row, base)
	if !against.isComparable || base.IsBlank() || value.IsBlank() {
		return append(row, cell.Blank, cell.Blank)
	}
	return w.change(measure, base, value, row)
}

// against returns what a comparison holds a period against.
func (w *walk) against(at int, period calendar.Period) compared {
	r := w.result
	if r.days != nil && r.days.against[at] != nil {
		return w.againstDays(r.days.against[at], period)
	}
	number, ok := r.operation.Against[at].baseOf(r.operation.Grain, period)
	if !ok || !r.holds(w.series, number) || number < w.series.first {
		return compared{} // before its first facts there is nothing of the group, and no zero to compare with
	}
	if w.bases == nil {
		w.bases = make([]*walk, len(r.operation.Against))
	}
	if w.bases[at] == nil {
		w.bases[at] = r.walk(w.series)
	}
	w.bases[at].forget()
	other := r.operation.Grain.At(number)
	w.base = w.bases[at].measures(other, w.base[:0])
	isWhole, differ := r.isWhole(w.series, other), period.Days() != other.Days()
	isCut := differ && r.operation.Grain.Unit == calendar.Week // at the first or last day of a year that is not one of weeks
	return compared{w.base, r.counted(other), isWhole && !isCut && r.isWhole(w.series, period), isWhole, differ, isCut}
}

// againstDays returns the days that those of a period are held against.
func (w *walk) againstDays(s *shifted, period calendar.Period) compared {
	r := w.result
	base := s.base(period.Number)
	start := r.begin()
	if r.operation.Span != SpanAll {
		start = max(start, r.operation.Grain.At(w.series.firstLow).First)
	}
	if !w.knowsBegin {
		w.begin, w.hasBegin = r.firstDayOf(w.series.group)
		w.knowsBegin = true
	}
	if w.hasBegin {
		start = max(start, w.begin) // before it there is nothing of the group, and no zero to compare with
	}
	if base.count == 0 || base.last < start {
		return compared{}
	}
	isLoaded := w.series.loaded == nil || base.last <= *w.series.loaded
	w.base, _ = w.valuesOf(s.tally, period, isLoaded, w.base[:0])
	for i, measure := range r.operation.Measures {
		if measure.Kind.IsBalance() {
			w.base[i], _, _ = w.balanceCell(i, base.first, base.last)
		}
	}
	hasBegun := base.first >= r.begin() || r.beginsIn(base.first, base.last)
	days := period
	if days.First, days.Last = base.first, base.last; !r.operation.ToDate && days.Contains(r.operation.AsOf) {
		days.Last = r.operation.AsOf // as for the period before one that has not begun
	}
	isWhole := base.count == base.of && hasBegun && isLoaded && base.last < r.operation.AsOf
	return compared{w.base, r.within(days), isWhole && r.isWhole(w.series, period), isWhole, base.count != base.of, false}
}

// firstDayOf returns the first day with facts of a group, by facts that are known by day.
func (r *Result) firstDayOf(group int) (first civil.Day, ok bool) {
	for _, member := range r.days.members[group] {
		if begin, _, count := r.days.facts.extent(member); count > 0 && (!ok || civil.Day(begin) < first) {
			first, ok = civil.Day(begin), true
		}
	}
	return first, ok
}

// budget appends what the budget has of a period.
func (w *walk) budget(period calendar.Period, measures, row []cell.Value) []cell.Value {
	r, b := w.result, w.result.operation.Budget
	against := compared{isComparable: r.isWhole(w.series, period)}
	if _, found := r.days.budget.factsOf(w.series.group, period.Number); found {
		w.base, _ = w.valuesOf(r.days.budget, period, true, w.base[:0])
		against.values = w.base
	}
	against.isComparable = against.isComparable && against.values != nil
	row = w.compareOne(b.Measure, measures[b.Measure], against, row)
	return append(row, cell.OfBool(against.isComparable))
}

// change appends the difference of two values and what it is in percent of the first, whose sign does not matter; nothing of zero.
func (w *walk) change(measure int, base, value cell.Value, row []cell.Value) []cell.Value {
	before, after := numberOf(base), numberOf(value)
	difference := after.Add(before.Neg())
	text := cell.OfDecimal(difference.Text(w.result.scales[measure]))
	if value.Type() == cell.Integer {
		units, _ := difference.Units(0)
		text = cell.OfInteger(int(units))
	}
	return append(row, text, percentOf(before, after))
}

// percentOf is by how many percent of the first a number has changed, whatever its sign; blank of zero.
func percentOf(before, after decimal.Decimal) cell.Value {
	difference := after.Add(before.Neg())
	if before.Sign() < 0 {
		before = before.Neg()
	}
	percent, ok := difference.Mul(decimal.OfInt(100)).Quo(before, changeDecimals)
	if !ok {
		return cell.Blank
	}
	return cell.OfDecimal(percent.Text(changeDecimals))
}

// numberOf returns the number of a value of a measure.
func numberOf(value cell.Value) decimal.Decimal {
	if value.Type() == cell.Integer {
		return decimal.OfInt(int(value.Int()))
	}
	number, _ := decimal.Parse(value.AppendText(nil)) // it was written by us
	return number
}

// holds tells whether a group has a row in a period, shown or not.
func (r *Result) holds(s *series, number int) bool {
	return number >= s.firstLow && number <= s.high && !(r.sparse && r.isLeftOut(s, number))
}

// isWhole tells that all days of a period can have facts of a group: facts have begun before it, it has ended, and is loaded.
func (r *Result) isWhole(s *series, period calendar.Period) bool {
	switch {
	case period.First < r.begin() && !r.beginsIn(period.First, period.Last):
		return false
	case !r.operation.ToDate && period.Last >= r.operation.AsOf:
		return false
	case r.operation.ToDate && period.First > r.operation.AsOf:
		return false
	}
	through := r.operation.ThroughOf(period)
	if r.operation.To != nil && through > *r.operation.To {
		return false
	}
	return s.loaded == nil || through <= *s.loaded
}

// begin returns the first day that can have facts.
func (r *Result) begin() civil.Day {
	if from := r.operation.From; from != nil {
		return min(*from, r.firstDay())
	}
	return r.firstDay()
}

// firstDay returns the first day with facts, in a period or not.
func (r *Result) firstDay() civil.Day {
	first := r.tally.summary.begin()
	if r.days != nil {
		first = r.days.facts.summary.First
	}
	if r.tally.reach.isKnown {
		first = min(first, r.tally.reach.first)
	}
	return first
}

// beginsIn tells whether facts begin among some days so early that nothing of them need be missing: in the first few, of which several are
// without facts now and then.
func (r *Result) beginsIn(first, last civil.Day) bool {
	const few, long = 3, 28
	begin := r.firstDay()
	return r.operation.From == nil && first <= begin && begin <= last && last-first+1 >= long && begin-first < few
}
