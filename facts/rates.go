package facts

import (
	"roundyear/calendar"
	"roundyear/cell"
)

// Rate asks for sums and counts per day of a kind.
type Rate struct {
	// Name is that of one such day, as a part of column names: workday.
	Name string
	// Days returns how many of them a period has for a group, up to the as-of day and where the facts are bounded; it is false where
	// that is not known.
	Days func(group []string, period calendar.Period) (int, bool)
}

// rateColumns are those of the measures per day of each kind.
func (r *Result) rateColumns(measure cell.Column) []cell.Column {
	var columns []cell.Column
	for _, rate := range r.operation.Rates {
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
	o := &r.operation
	if period.Last = o.ThroughOf(period); period.Contains(o.AsOf) {
		period.Last = o.AsOf
	}
	if o.From != nil {
		period.First = max(period.First, *o.From)
	}
	if o.To != nil {
		period.Last = min(period.Last, *o.To)
	}
	return period
}

// days returns how many days of a kind a period has for a group; blank where that is not known.
func (w *walk) days(rate Rate, period calendar.Period) cell.Value {
	if w.values == nil && len(w.result.operation.Groups) > 0 {
		w.values = w.result.tally.groups.values(w.series.group)
	}
	days, ok := rate.Days(w.values, w.result.counted(period))
	if !ok {
		return cell.Blank
	}
	return cell.OfInteger(days)
}

// perDay is a value divided by days; blank where there are none, or it has no value.
func (w *walk) perDay(measure int, value, days cell.Value) cell.Value {
	if value.IsBlank() || days.IsBlank() || days.Int() < 1 {
		return cell.Blank
	}
	scale := w.result.scales[measure] + extraDecimals
	return cell.OfDecimal(numberOf(value).Over(int(days.Int()), scale).Text(scale))
}

// appendDays appends how many days of each kind a period has.
func (w *walk) appendDays(period calendar.Period, row []cell.Value) []cell.Value {
	for _, rate := range w.result.operation.Rates {
		row = append(row, w.days(rate, period))
	}
	return row
}
