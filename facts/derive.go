package facts

import (
	"fmt"
	"strings"

	"roundyear/calendar"
	"roundyear/cell"
	"roundyear/civil"
	"roundyear/facts/decimal"
)

// Share is the whole that a share is of.
type Share int

// The wholes: all groups of the same period, and all periods of the same group that the result has.
const (
	OfPeriod Share = iota
	OfGroup
)

var shareNames = [...]string{"period", "group"}

// ParseShare reads the name of a whole. The error lists the names.
func ParseShare(text string) (Share, error) {
	for share, name := range shareNames {
		if strings.EqualFold(text, name) {
			return Share(share), nil
		}
	}
	return 0, fmt.Errorf("unknown whole %q; use period or group", text)
}

// String returns the name of the whole.
func (s Share) String() string { return shareNames[s] }

// shareDecimals is how many decimals a share in percent has.
const shareDecimals = 1

// derives tells whether something is worked out of the measures.
func (o *Operation) derives() bool {
	return len(o.Against)+len(o.Shares)+len(o.Rates)+o.Rolling+o.RollingDays > 0 || o.Running != nil || o.Ranked || o.Budget != nil || o.Future == FutureApart
}

// addsUp tells whether the measures of several periods or groups can be added.
func (k Kind) addsUp() bool { return k == Sum || k == Count }

// derivedColumns are those of running and rolling sums and of shares, of the measures that add up.
func (r *Result) derivedColumns() []cell.Column {
	var columns []cell.Column
	for i, measure := range r.measureColumns() {
		name := measure.Name
		if r.operation.Future == FutureApart && !r.operation.Measures[i].Kind.IsBalance() {
			measure.Name = name + "_future"
			columns = append(columns, measure)
		}
		if i == 0 && r.operation.Ranked {
			columns = append(columns, cell.Column{Name: name + "_rank", Type: cell.Integer})
		}
		if !r.operation.Measures[i].Kind.addsUp() {
			continue
		}
		if r.operation.Running != nil {
			measure.Name = name + "_running"
			columns = append(columns, measure)
		}
		if r.operation.Rolling > 0 {
			measure.Name = fmt.Sprintf("%s_rolling_%d", name, r.operation.Rolling)
			columns = append(columns, measure)
		}
		if r.operation.RollingDays > 0 {
			measure.Name = fmt.Sprintf("%s_rolling_%d_days", name, r.operation.RollingDays)
			columns = append(columns, measure)
		}
		for _, share := range r.operation.Shares {
			columns = append(columns, cell.Column{Name: name + "_percent_of_" + share.String(), Type: cell.Decimal, Scale: shareDecimals})
		}
		measure.Name = name
		columns = append(columns, r.rateColumns(measure)...)
	}
	return append(columns, r.dayColumns("")...)
}

// runningSums are the sums of a walk since the start of a longer period, up to the period that was reached last.
type runningSums struct {
	isKnown bool
	longer  int
	reached int
	sums    []decimal.Decimal
}

// derive appends the running and rolling sums, and the shares, of a row.
func (w *walk) derive(period calendar.Period, measures, row []cell.Value) []cell.Value {
	r, o := w.result, &w.result.operation
	if o.Running != nil {
		w.run(period)
	}
	for i, measure := range o.Measures {
		if o.Future == FutureApart && !measure.Kind.IsBalance() {
			w.future, _ = w.valuesOf(r.days.future, period, true, w.future[:0])
			row = append(row, w.future[i])
		}
		if i == 0 && o.Ranked {
			row = append(row, r.rank(w.series, period.Number))
		}
		if !measure.Kind.addsUp() {
			continue
		}
		// After the day up to which a group is loaded its sums would lack something.
		if o.Running != nil && w.isLoaded {
			row = append(row, w.sumCell(i, w.sums.sums[i]))
		} else if o.Running != nil {
			row = append(row, cell.Blank)
		}
		if o.Rolling > 0 && w.isLoaded {
			row = append(row, w.rolling(i, period.Number))
		} else if o.Rolling > 0 {
			row = append(row, cell.Blank)
		}
		if o.RollingDays > 0 {
			row = append(row, w.rollingDays(i, period))
		}
		for _, share := range o.Shares {
			row = append(row, r.share(share, i, w.series, period.Number, measures[i]))
		}
		for _, rate := range o.Rates {
			if rate.IsCountOnly {
				continue
			}
			if r.HasUnratedFuture(period) {
				row = append(row, cell.Blank)
				continue
			}
			row = append(row, w.perDay(i, measures[i], w.daysIn(rate, r.counted(period))))
		}
	}
	return w.appendDays(period, row)
}

// run adds up the sums since the start of the longer period that a period begins in.
func (w *walk) run(period calendar.Period) {
	s, grain := &w.sums, w.result.operation.Grain
	longer := grain.Calendar.Locate(*w.result.operation.Running, period.First)
	first := period.Number
	switch {
	case s.isKnown && s.longer == longer.Number && s.reached == period.Number-1:
	case s.sums == nil:
		s.sums = make([]decimal.Decimal, len(w.result.operation.Measures))
		fallthrough
	default:
		clear(s.sums)
		first = max(grain.Locate(longer.First).Number, w.series.firstLow)
		if grain.At(first).First < longer.First && first < period.Number {
			first++ // one that begins in the longer period before
		}
	}
	for number := first; number <= period.Number; number++ {
		for i, measure := range w.result.operation.Measures {
			if measure.Kind.addsUp() {
				s.sums[i] = s.sums[i].Add(w.result.sumAt(w.series, i, number))
			}
		}
	}
	s.isKnown, s.longer, s.reached = true, longer.Number, period.Number
}

// rolling is the sum over the last periods; blank where not all of them are there.
func (w *walk) rolling(measure, number int) cell.Value {
	r := w.result
	first := number - r.operation.Rolling + 1
	if start := r.operation.Grain.At(first); first < w.series.firstLow || start.First < r.begin() && !r.beginsIn(start.First, start.Last) {
		if !r.operation.PartWindows {
			return cell.Blank
		}
		first = max(first, w.series.firstLow)
	}
	sum, hasValue := decimal.Decimal{}, false
	for ; first <= number; first++ {
		sum = sum.Add(r.sumAt(w.series, measure, first))
		hasValue = hasValue || r.hasValueAt(w.series, measure, first)
	}
	if !hasValue {
		return cell.Blank
	}
	return w.sumCell(measure, sum)
}

// hasValueAt tells whether a sum or count of a group and period is known: there are values, or no facts, which is zero. Facts of which all
// values are blank have no sum.
func (r *Result) hasValueAt(s *series, measure, number int) bool {
	at, found := r.tally.factsOf(s.group, number)
	return !found || r.operation.Measures[measure].Kind.counts() || r.tally.measures[measure].values(r.tally.cells.record(at)) > 0
}

// rollingDays is the sum over the last days up to the end of a period, or to the as-of day in it; blank where facts begin later.
func (w *walk) rollingDays(measure int, period calendar.Period) cell.Value {
	r := w.result
	last := r.counted(period).Last
	first := last - civil.Day(r.operation.RollingDays) + 1
	if !r.operation.PartWindows && first < r.begin() || w.series.loaded != nil && last > *w.series.loaded {
		return cell.Blank
	}
	sum, hasFacts, hasValue := decimal.Decimal{}, false, r.operation.Measures[measure].Kind.counts()
	for day := max(first, r.begin()); day <= last; day++ {
		if at, found := r.days.days.factsOf(w.series.group, int(day)); found {
			sum, hasFacts = sum.Add(r.days.days.number(measure, at, r.scales[measure])), true
			hasValue = hasValue || r.days.days.measures[measure].values(r.days.days.cells.record(at)) > 0
		}
	}
	if hasFacts && !hasValue {
		return cell.Blank // all values are blank
	}
	return w.sumCell(measure, sum)
}

// sumAt is a sum or count of a group and period; zero without facts.
func (r *Result) sumAt(s *series, measure, number int) decimal.Decimal {
	at, found := r.tally.factsOf(s.group, number)
	if !found {
		return decimal.Decimal{}
	}
	return r.number(measure, at)
}

// sumCell is a sum of the values of a measure.
func (w *walk) sumCell(measure int, sum decimal.Decimal) cell.Value {
	if w.result.operation.Measures[measure].Kind == Count && w.result.scales[measure] == 0 {
		units, _ := sum.Units(0)
		return cell.OfInteger(int(units))
	}
	return w.written(measure, sum)
}

// wholes are the sums that shares are of: by measure, and by period from the first one on, or by group.
type wholes struct {
	ofPeriods [][]decimal.Decimal
	ofGroups  [][]decimal.Decimal
}

// addWholes adds up what shares are of, of the rows that are shown.
func (r *Result) addWholes() {
	if len(r.operation.Shares) == 0 {
		return
	}
	r.wholes = &wholes{}
	for m, measure := range r.operation.Measures {
		periods, groups := make([]decimal.Decimal, r.Periods()), make([]decimal.Decimal, r.tally.groups.len())
		for i := range r.series {
			s := &r.series[i]
			if r.isTotal(s) {
				groups[s.group] = r.shownSum(s, m)
				continue
			}
			for number := s.low; number <= s.high && measure.Kind.addsUp(); number++ {
				sum := r.sumAt(s, m, number)
				periods[number-r.low], groups[s.group] = periods[number-r.low].Add(sum), groups[s.group].Add(sum)
			}
		}
		r.wholes.ofPeriods, r.wholes.ofGroups = append(r.wholes.ofPeriods, periods), append(r.wholes.ofGroups, groups)
	}
}

// share is how many percent a value is of a whole; blank of nothing.
func (r *Result) share(share Share, measure int, s *series, number int, value cell.Value) cell.Value {
	if value.IsBlank() {
		return cell.Blank
	}
	whole := r.wholes.ofGroups[measure][s.group]
	if share == OfPeriod {
		whole = r.wholes.ofPeriods[measure][number-r.low]
	}
	percent, ok := numberOf(value).Mul(decimal.OfInt(100)).Quo(whole, shareDecimals)
	if !ok {
		return cell.Blank
	}
	return cell.OfDecimal(percent.Text(shareDecimals))
}

// shown returns the first and the last period that are shown, of those from one to another.
func (o *Operation) shown(low, high int) (first, last int) {
	first, last = low, high
	if running := o.Grain.Locate(o.AsOf); o.CompleteOnly && running.Last >= o.AsOf {
		last = min(last, running.Number-1)
	}
	if o.Recent > 0 {
		latest := high
		if o.CompleteOnly {
			latest = min(latest, o.Grain.Locate(o.AsOf).Number-1)
		}
		first = max(first, latest-o.Recent+1)
	}
	return first, last
}

// cut leaves only the periods of a series that are shown, and tells whether it has left out some.
func (r *Result) cut(s *series) bool {
	low, high := s.low, s.high
	first, last := r.operation.shown(r.low, r.high)
	s.low, s.high = max(low, first), min(high, last)
	return s.low != low || s.high != high
}

// shownSum is the sum of a measure of a series over the periods that are shown.
func (r *Result) shownSum(s *series, measure int) (sum decimal.Decimal) {
	for number := s.low; number <= s.high; number++ {
		sum = sum.Add(r.sumAt(s, measure, number))
	}
	return sum
}

// isTotal tells that a series is of several groups that have series of their own.
func (r *Result) isTotal(s *series) bool { return r.tally.made[s.group].isTotal }

// countFacts counts the shown periods of a series that have facts.
func (r *Result) countFacts(s *series) int {
	count := 0
	for number := s.low; number <= s.high; number++ {
		if _, found := r.tally.factsOf(s.group, number); found {
			count++
		}
	}
	return count
}
