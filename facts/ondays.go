package facts

import (
	"roundyear/cell"
	"roundyear/civil"
)

// OnDays are the measures of groups on single days.
type OnDays struct {
	result *Result
	walks  []*walk
	groups []int
}

// OnDays returns the measures by day, from facts that are known by day. With subtotals the last group is that of all, of others that are
// made of several none is there.
func (t *Tally) OnDays() (*OnDays, error) {
	r, err := t.ResultBy(dayGrain)
	if err != nil {
		return nil, err
	}
	o := &OnDays{result: r}
	for i := range r.series {
		if made, ok := r.tally.made[r.series[i].group]; ok && made.from > 0 {
			continue
		}
		o.groups, o.walks = append(o.groups, i), append(o.walks, r.walk(&r.series[i]))
	}
	return o, nil
}

// Len returns how many groups there are.
func (o *OnDays) Len() int { return len(o.groups) }

// Group returns the values of a group, and whether it is that of all.
func (o *OnDays) Group(at int) (values []string, isTotal bool) {
	s := &o.result.series[o.groups[at]]
	for _, value := range s.values {
		values = append(values, value.String())
	}
	return values, o.result.isTotal(s)
}

// First and Last return the first and the last day with facts of any group, those that conditions leave out as well.
func (o *OnDays) First() civil.Day { return o.result.firstDay() }

// Last returns the last day with facts of any group.
func (o *OnDays) Last() civil.Day {
	if t := o.result.tally; t.reach.isKnown {
		return max(t.summary.Last, t.reach.last)
	}
	return o.result.tally.summary.Last
}

// LastOf returns the last day with facts of a group.
func (o *OnDays) LastOf(at int) civil.Day {
	_, last, _ := o.result.tally.extent(o.result.series[o.groups[at]].group)
	return civil.Day(last)
}

// On returns the measures of a group on a day, and how many facts it has. What adds up is zero without any.
func (o *OnDays) On(at int, day civil.Day) (values []cell.Value, rows int) {
	w := o.walks[at]
	if cell, found := o.result.tally.factsOf(w.series.group, int(day)); found {
		rows = int(o.result.tally.cells.record(cell)[0])
	}
	w.forget()
	return w.measures(dayGrain.At(int(day)), nil), rows
}

// Measures returns the names and types of the measures.
func (o *OnDays) Measures() []cell.Column { return o.result.measureColumns() }

// Change returns the difference of two values of a measure, and what it is in percent of the first; blank if one of them is.
func (o *OnDays) Change(measure int, base, value cell.Value) (difference, percent cell.Value) {
	if base.IsBlank() || value.IsBlank() {
		return cell.Blank, cell.Blank
	}
	changes := o.walks[0].change(measure, base, value, nil)
	return changes[0], changes[1]
}

// PercentColumn is the type of a change in percent.
func PercentColumn(name string) cell.Column {
	return cell.Column{Name: name, Type: cell.Decimal, Scale: changeDecimals}
}
