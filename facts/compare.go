package facts

import (
	"fmt"
	"strings"

	"roundyear/calendar"
	"roundyear/cell"
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
)

var comparisonNames = [...]string{"previous", "year-ago", "two-years-ago"}

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
		for _, measure := range measures {
			change := measure
			measure.Name += "_" + name
			change.Name += "_" + name + "_change"
			percent := cell.Column{Name: measure.Name + "_percent", Type: cell.Decimal, Scale: changeDecimals}
			columns = append(columns, measure, change, percent)
		}
		columns = append(append(columns, r.dayColumns("_"+name)...), cell.Column{Name: "is_" + name + "_comparable", Type: cell.Boolean})
	}
	return columns
}

// compare appends what a comparison has of a row whose measures are at the end of its values.
func (w *walk) compare(at int, period calendar.Period, measures []cell.Value, row []cell.Value) []cell.Value {
	r := w.result
	comparison := r.operation.Against[at]
	number, ok := comparison.baseOf(r.operation.Grain, period)
	if w.bases == nil {
		w.bases = make([]*walk, len(r.operation.Against))
	}
	if w.bases[at] == nil {
		w.bases[at] = r.walk(w.series)
	}
	var base []cell.Value
	isComparable := false
	w.bases[at].forget()
	if ok && r.holds(w.series, number) {
		other := r.operation.Grain.At(number)
		w.base = w.bases[at].measures(other, w.base[:0])
		base = w.base
		isComparable = r.isWhole(w.series, other) && r.isWhole(w.series, period)
	}
	for i := range measures {
		if base == nil {
			row = append(row, cell.Blank, cell.Blank, cell.Blank)
			continue
		}
		row = append(row, base[i])
		if !isComparable || base[i].IsBlank() || measures[i].IsBlank() {
			row = append(row, cell.Blank, cell.Blank)
			continue
		}
		row = w.change(i, base[i], measures[i], row)
	}
	if base == nil {
		for range r.operation.Rates {
			row = append(row, cell.Blank)
		}
	} else {
		row = w.appendDays(r.operation.Grain.At(number), row)
	}
	return append(row, cell.OfBool(isComparable))
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
	row = append(row, text)
	if before.Sign() < 0 {
		before = before.Neg()
	}
	percent, ok := difference.Mul(decimal.OfInt(100)).Quo(before, changeDecimals)
	if !ok {
		return append(row, cell.Blank)
	}
	return append(row, cell.OfDecimal(percent.Text(changeDecimals)))
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
	begin := r.tally.summary.First
	if from := r.operation.From; from != nil && *from < begin {
		begin = *from
	}
	switch {
	case period.First < begin && !r.beginsWith(period):
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

// beginsWith tells that facts begin in a period so early that nothing of it need be missing: in its first days, of which several are without
// facts now and then.
func (r *Result) beginsWith(period calendar.Period) bool {
	const few, long = 3, 28
	return r.operation.From == nil && period.Contains(r.tally.summary.First) && period.Days() >= long && r.tally.summary.First-period.First < few
}
