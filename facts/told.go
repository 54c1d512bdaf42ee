package facts

import (
	"roundyear/calendar"
	"roundyear/cell"
	"roundyear/civil"
)

// Told is how a figure of a period came about.
type Told struct {
	Period calendar.Period
	Label  string
	// Last is the last day that counts: of the period, at the position of the as-of day, or that day.
	Last civil.Day
	// IsRunning tells that the period contains the as-of day, ToDate that it ends at its position, and IsLoaded that its facts are there.
	IsRunning, ToDate, IsLoaded bool
	// Rows are the facts, Values their measures, and Filled tells that there are none.
	Rows   int
	Values []cell.Value
	Filled bool
	// Days are those of the period up to Last.
	Days    []ToldDay
	Against []ToldAgainst
	Budget  *ToldAgainst
}

// ToldDay is a day of a period, and how many facts it has.
type ToldDay struct {
	Day  civil.Day
	Rows int
}

// ToldAgainst is what a period is held against.
type ToldAgainst struct {
	Comparison Comparison
	// Label names the other period; empty where it is none of the calendar.
	Label string
	// Found tells that there is one, from First to Last, of so many days, for so many of the period.
	Found       bool
	First, Last civil.Day
	Count, Of   int
	Values      []cell.Value
	Changes     []cell.Value
	Percents    []cell.Value
	// Days are those from First to Last.
	Days []ToldDay
	// IsComparable tells that both can be compared; Why not otherwise.
	IsComparable bool
	Why          []Unfair
}

// Unfair is a reason for which two periods cannot be compared.
type Unfair int

// The reasons: one of them is running or has not begun, facts begin in it or after it, or are not loaded to its end, days of the period have
// none in the other, a week is cut by the beginning of a year, or there are no facts.
const (
	OwnRuns Unfair = iota
	OtherRuns
	OwnNotCovered
	OtherNotCovered
	OwnNotLoaded
	OtherNotLoaded
	DaysUnmatched
	CutWeek
	OtherEmpty
)

// Tell says how the figures of a period of the first group came about. It is false for a period that the result does not have. The facts
// have to be known by day.
func (r *Result) Tell(number int) (*Told, bool) {
	if len(r.series) == 0 || number < r.low || number > r.high {
		return nil, false
	}
	s := &r.series[0]
	w := r.walk(s)
	period := r.operation.Grain.At(number)
	told := &Told{Period: period, Label: r.operation.Grain.Label(period), Last: r.counted(period).Last, IsRunning: period.Contains(r.operation.AsOf), ToDate: r.operation.ToDate}
	told.Values = w.measures(period, nil)
	told.IsLoaded, told.Filled = w.isLoaded, !w.found
	told.Days = r.daysBetween(s.group, r.within(period).First, told.Last)
	for _, day := range told.Days {
		told.Rows += day.Rows
	}
	for at, comparison := range r.operation.Against {
		against := w.against(at, period)
		one := w.tellAgainst(period, told.Values, against)
		one.Comparison = comparison
		if one.Found {
			one.Days = r.daysBetween(s.group, one.First, one.Last)
		}
		if r.days.against[at] != nil {
			base := r.days.against[at].base(number)
			one.Count, one.Of = base.count, base.of
			if base.count > 0 && base.count < base.of {
				one.Why = append(one.Why, DaysUnmatched)
			}
		} else if other, ok := comparison.baseOf(r.operation.Grain, period); ok {
			one.Label = r.operation.Grain.Label(r.operation.Grain.At(other))
		}
		told.Against = append(told.Against, one)
	}
	if r.operation.Budget != nil {
		against := compared{days: r.counted(period), isComparable: r.isWhole(s, period), isBaseWhole: true}
		if _, found := r.days.budget.factsOf(s.group, number); found {
			against.values, _ = w.valuesOf(r.days.budget, period, true, nil)
		}
		against.isComparable = against.isComparable && against.values != nil
		one := w.tellAgainst(period, told.Values, against)
		told.Budget = &one
	}
	return told, true
}

// daysBetween returns the days from one to another.
func (r *Result) daysBetween(group int, first, last civil.Day) (days []ToldDay) {
	for day := first; day <= last; day++ {
		one := ToldDay{Day: day}
		if at, found := r.days.days.factsOf(group, int(day)); found {
			one.Rows = int(r.days.days.cells.record(at)[0])
		}
		days = append(days, one)
	}
	return days
}

// tellAgainst says what a period is held against, and why it cannot be compared.
func (w *walk) tellAgainst(period calendar.Period, values []cell.Value, against compared) ToldAgainst {
	r := w.result
	one := ToldAgainst{Found: against.values != nil, First: against.days.First, Last: against.days.Last, IsComparable: against.isComparable}
	if !one.Found {
		one.Why = append(one.Why, OtherEmpty)
		return one
	}
	one.Values = append(one.Values, against.values...)
	for i := range values {
		changes := []cell.Value{cell.Blank, cell.Blank}
		if against.isComparable && !values[i].IsBlank() && !against.values[i].IsBlank() {
			changes = w.change(i, against.values[i], values[i], nil)
		}
		one.Changes, one.Percents = append(one.Changes, changes[0]), append(one.Percents, changes[1])
	}
	if one.IsComparable {
		return one
	}
	reasons := func(first, last, end civil.Day, runs, notCovered, notLoaded Unfair) {
		if !r.operation.ToDate && end >= r.operation.AsOf || first > r.operation.AsOf {
			one.Why = append(one.Why, runs)
		}
		if first < r.begin() && !r.beginsIn(first, end) {
			one.Why = append(one.Why, notCovered)
		}
		if w.series.loaded != nil && last > *w.series.loaded {
			one.Why = append(one.Why, notLoaded)
		}
	}
	if against.isCut {
		one.Why = append(one.Why, CutWeek)
	}
	reasons(period.First, r.operation.ThroughOf(period), period.Last, OwnRuns, OwnNotCovered, OwnNotLoaded)
	if !against.isBaseWhole {
		reasons(one.First, one.Last, one.Last, OtherRuns, OtherNotCovered, OtherNotLoaded)
	}
	return one
}
