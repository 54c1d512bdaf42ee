package facts

import (
	"roundyear/calendar"
	"roundyear/cell"
	"roundyear/civil"
	"roundyear/facts/decimal"
)

// Rate asks for sums and counts per day of a kind.
type Rate struct {
	// Name is that of one such day, as a part of column names: workday.
	Name string
	// Days returns how many of them a period has for a group, up to the as-of day and where the facts are bounded; it is false where
	// that is not known.
	Days func(group []string, period calendar.Period) (int, bool)
	// IsCountOnly tells that days are only counted, and nothing is divided by them.
	IsCountOnly bool
}

// rateColumns are those of the measures per day of each kind.
func (r *Result) rateColumns(measure cell.Column) []cell.Column {
	var columns []cell.Column
	for _, rate := range r.operation.Rates {
		if rate.IsCountOnly {
			continue
		}
		columns = append(columns, cell.Column{Name: measure.Name + "_per_" + rate.Name, Type: cell.Decimal, Scale: uint8(min(int(measure.Scale)+extraDecimals, maxScale))})
	}
	return columns
}

// dayColumns are those of how many days of each kind there are.
func (r *Result) dayColumns(ending string) []cell.Column {
	var columns []cell.Column
	for _, rate := range r.operation.Rates {
		columns = append(columns, cell.Column{Name: rate.Name + "s" + ending, Type: cell.Integer})
	}
	return columns
}

// counted returns the part of a period that has days with facts: up to the position of the as-of day, or to that day in the period that is
// running, and within From and To.
func (r *Result) counted(period calendar.Period) calendar.Period {
	if period.Last = r.operation.ThroughOf(period); period.Contains(r.operation.AsOf) {
		period.Last = r.operation.AsOf
	}
	return r.within(period)
}

// within returns the part of a period within From and To.
func (r *Result) within(period calendar.Period) calendar.Period {
	if from := r.operation.From; from != nil {
		period.First = max(period.First, *from)
	}
	if to := r.operation.To; to != nil {
		period.Last = min(period.Last, *to)
	}
	return period
}

// daysIn returns how many days of a kind there are for a group, from the first to the last day of a period; blank where that is not known.
// Of an attribute of days only those count that have it.
func (w *walk) daysIn(rate Rate, period calendar.Period) cell.Value {
	r := w.result
	if w.values == nil && len(r.operation.Groups) > 0 {
		w.values = r.tally.groups.values(w.series.group)[:len(r.operation.Groups)]
	}
	if len(r.operation.Attributes) == 0 {
		days, ok := rate.Days(w.values, period)
		if !ok {
			return cell.Blank
		}
		return cell.OfInteger(days)
	}
	count := 0
	for day := period.First; day <= period.Last; day++ {
		if !w.hasAttributes(day) {
			continue
		}
		one := period
		one.First, one.Last = day, day
		days, ok := rate.Days(w.values, one)
		if !ok {
			return cell.Blank
		}
		count += days
	}
	return cell.OfInteger(count)
}

// hasAttributes tells whether a day has the attributes that the group is of.
func (w *walk) hasAttributes(day civil.Day) bool {
	made, isMade := w.result.tally.made[w.series.group]
	for column, name := range w.result.operation.Groups {
		if isMade && column >= made.from {
			break
		}
		at := w.result.operation.attribute(name)
		if at < 0 {
			continue
		}
		if label, _ := w.result.operation.Attributes[at].Of(day); label != w.values[column] {
			return false
		}
	}
	return true
}

// perDay is a value divided by days; blank where there are none, or it has no value.
func (w *walk) perDay(measure int, value, days cell.Value) cell.Value {
	if value.IsBlank() || days.IsBlank() || days.Int() < 1 {
		return cell.Blank
	}
	scale := w.result.scales[measure] + extraDecimals
	return cell.OfDecimal(numberOf(value).Over(int(days.Int()), scale).Text(scale))
}

// HasUnratedFuture tells that a running period may have facts of days that are not counted: there are some after the as-of day, and they
// count like all others. Divided by the days up to that day they would be too much.
func (r *Result) HasUnratedFuture(period calendar.Period) bool {
	o := &r.operation
	return o.Future == KeepFuture && !o.ToDate && period.Contains(o.AsOf) && period.Last > o.AsOf && r.tally.summary.Last > o.AsOf
}

// compareRates appends what a measure of another period is per day, and by how many percent that has changed.
func (w *walk) compareRates(measure int, value cell.Value, period calendar.Period, against compared, row []cell.Value) []cell.Value {
	r := w.result
	for _, rate := range r.operation.Rates {
		if rate.IsCountOnly {
			continue
		}
		if against.values == nil {
			row = append(row, cell.Blank, cell.Blank)
			continue
		}
		then, now := w.daysIn(rate, against.days), w.daysIn(rate, r.counted(period))
		base := against.values[measure]
		row = append(row, w.perDay(measure, base, then))
		if r.HasUnratedFuture(period) || !against.isBaseWhole || base.IsBlank() || value.IsBlank() || then.IsBlank() || now.IsBlank() || then.Int() < 1 || now.Int() < 1 {
			row = append(row, cell.Blank)
			continue
		}
		// Both are multiplied by the days of the other, so that nothing is rounded before.
		row = append(row, percentOf(numberOf(base).Mul(decimal.OfInt(int(now.Int()))), numberOf(value).Mul(decimal.OfInt(int(then.Int())))))
	}
	return row
}

// appendDays appends how many days of each kind a period has.
func (w *walk) appendDays(period calendar.Period, row []cell.Value) []cell.Value {
	for _, rate := range w.result.operation.Rates {
		row = append(row, w.daysIn(rate, w.result.counted(period)))
	}
	return row
}
