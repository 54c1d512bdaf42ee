package facts

import (
	"roundyear/calendar"
	"roundyear/cell"
	"roundyear/civil"
)

// shifted are the facts of the days that other days are held against, by the periods of the latter.
type shifted struct {
	tally *Tally
	// low is the first period, of those that bases has.
	low   int
	bases []baseDays
}

// baseDays are the days that those of a period are held against.
type baseDays struct {
	// first and last are the earliest and the latest of them, count how many they are, of so many days of the period.
	first, last civil.Day
	count, of   int
}

// shifts tells whether a comparison goes by days, and not by whole periods.
func (o *Operation) shifts(c Comparison) bool {
	return c == Restated || c == SameWeekday || o.Align != nil && (c == YearAgo || c == TwoYearsAgo)
}

// baseDay returns the day that a day is held against.
func (o *Operation) baseDay(c Comparison, day civil.Day) (civil.Day, bool) {
	switch {
	case c == Restated:
		return calendar.YearAgoRestated(o.Grain.Calendar, day)
	case c == SameWeekday:
		return day - daysOfWeeksInYear, true
	case c == TwoYearsAgo:
		before, ok := o.Align.Before(day)
		if !ok {
			return 0, false
		}
		return o.Align.Before(before)
	}
	return o.Align.Before(day)
}

// daysOfWeeksInYear is how many days before a day lies the one of the same weekday a year before.
const daysOfWeeksInYear = 52 * 7

// shift brings the facts of the days that others are held against to the periods of those.
func (d *byDays) shift(c Comparison, periods *periodTable) *shifted {
	o := d.regrouping.operation
	s := &shifted{tally: d.regrouping.own.beside(o.Grain)}
	if d.regrouping.own.summary.Rows == 0 {
		return s
	}
	low, high := d.regrouping.own.bounds()
	s.low, s.bases = low, make([]baseDays, high-low+1)
	// into are the periods that days before are held against, from a day on that is before all of them.
	const reach = 2*longestYear + 366
	start := o.Grain.At(low).First - reach
	into := make([]int32, o.Grain.At(high).Last-start+1)
	for number := low; number <= high; number++ {
		period, base := o.Grain.At(number), &s.bases[number-low]
		for day := period.First; day <= o.ThroughOf(period); day++ {
			base.of++
			before, ok := o.baseDay(c, day)
			if !ok {
				continue
			}
			if at := before - start; at >= 0 && int(at) < len(into) {
				into[at] = int32(number-low) + 1
			}
			if base.count == 0 || before < base.first {
				base.first = before
			}
			if base.count == 0 || before > base.last {
				base.last = before
			}
			base.count++
		}
	}
	d.regrouping.absorb(s.tally, d.facts, func(day civil.Day) (int, bool) {
		at := day - start
		if at < 0 || int(at) >= len(into) || into[at] == 0 {
			return 0, false
		}
		return low + int(into[at]) - 1, (o.Future == KeepFuture || day <= o.AsOf)
	})
	return s
}

// base returns the days that those of a period are held against.
func (s *shifted) base(number int) baseDays {
	if at := number - s.low; at >= 0 && at < len(s.bases) {
		return s.bases[at]
	}
	return baseDays{}
}

// valuesOf appends the measures that the facts of a shifted comparison, or a budget, have in a period of a group.
func (w *walk) valuesOf(tally *Tally, period calendar.Period, isLoaded bool, base []cell.Value) (_ []cell.Value, found bool) {
	at, found := tally.factsOf(w.series.group, period.Number)
	for i := range w.result.operation.Measures {
		a, measure := &tally.measures[i], w.result.operation.Measures[i]
		switch {
		case found && a.kind.counts():
			base = append(base, cell.OfInteger(a.values(tally.cells.record(at))))
		case found && a.values(tally.cells.record(at)) > 0:
			base = append(base, w.written(i, tally.number(i, at, w.result.scales[i])))
		case found || !isLoaded || measure.Gap != Zero:
			base = append(base, cell.Blank)
		default:
			base = append(base, w.gap(i, period.Number))
		}
	}
	return base, found
}
