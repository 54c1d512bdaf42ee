package facts

import (
	"cmp"
	"slices"

	"roundyear/calendar"
	"roundyear/cell"
	"roundyear/civil"
	"roundyear/facts/allocation"
	"roundyear/facts/decimal"
)

// Allocation describes how the sums of coarse periods are laid over their days, and added up again by periods of any calendar.
type Allocation struct {
	// Of are the periods that facts stand for, and Grain those of the result.
	Of, Grain calendar.Grain
	// Weight returns what a day weighs for a group; what weighs nothing gets nothing.
	Weight func(group []string, day civil.Day) decimal.Decimal
	// Otherwise is the weight in periods in which no day has one; nil for none.
	Otherwise func(group []string, day civil.Day) decimal.Decimal
	// Decimals is how many decimals the parts have at least.
	Decimals int
	MaxRows  int
}

// Allocated is what came of an allocation: a row for each group and period with a part.
type Allocated struct {
	groups   []string
	measures []string
	grain    calendar.Grain
	decimals []int
	rows     []allocatedRow
	// Totals are the sums of each measure.
	Totals []decimal.Decimal
	// Wholes is how many sums of a group and period there were, and Days over how many days they were laid.
	Wholes, Days int
	// Otherwise is how many of them were laid by the other weight.
	Otherwise int
	// Unplaced are the wholes that there was no day for. They are laid over all days of their periods, in rows of their own.
	Unplaced []Unplaced
}

// Unplaced is what there was no day for.
type Unplaced struct {
	Group   []string
	Period  calendar.Period
	Amounts []decimal.Decimal
}

// allocatedRow is a row of the result.
type allocatedRow struct {
	period, group int
	values        []string
	amounts       []decimal.Decimal
	isUnplaced    bool
}

// Allocate lays the sums over days. The tally is one by day of sums. The error is TooManyRows.
func (t *Tally) Allocate(a Allocation) (*Allocated, error) {
	result := &Allocated{groups: t.operation.Groups, grain: a.Grain, Totals: make([]decimal.Decimal, len(t.measures))}
	for i := range t.measures {
		result.measures = append(result.measures, t.operation.Measures[i].Name)
		result.decimals = append(result.decimals, max(a.Decimals, t.measures[i].scale))
	}
	var wholes []whole
	t.EachSum(func(group []string, period calendar.Period, sums []decimal.Decimal) {
		if last := len(wholes) - 1; last < 0 || !wholes[last].period.Contains(period.First) || !slices.Equal(wholes[last].group, group) {
			wholes = append(wholes, whole{group, a.Of.Locate(period.First), make([]decimal.Decimal, len(t.measures))})
		}
		for i, sum := range sums {
			result.Totals[i] = result.Totals[i].Add(sum)
			wholes[len(wholes)-1].amounts[i] = wholes[len(wholes)-1].amounts[i].Add(sum)
		}
	})
	result.Wholes = len(wholes)
	if most := cmp.Or(a.MaxRows, DefaultMaxRows); !result.layAll(&a, wholes, most) {
		return nil, &TooManyRows{len(result.rows), most, 0, t.groups.len(), t.summary.First, t.summary.Last}
	}
	slices.SortFunc(result.rows, func(a, b allocatedRow) int {
		if a.isUnplaced != b.isUnplaced && a.period == b.period && a.group == b.group {
			if a.isUnplaced {
				return 1
			}
			return -1
		}
		return cmp.Or(cmp.Compare(a.period, b.period), cmp.Compare(a.group, b.group))
	})
	return result, nil
}

// whole is the sums of a group and coarse period.
type whole struct {
	group   []string
	period  calendar.Period
	amounts []decimal.Decimal
}

// layAll lays all wholes, which come by group. It is false where they make more rows than are allowed.
func (r *Allocated) layAll(a *Allocation, wholes []whole, most int) bool {
	order := 0
	for from := 0; from < len(wholes); order++ {
		to := from
		rows := map[int]*allocatedRow{}
		for ; to < len(wholes) && slices.Equal(wholes[to].group, wholes[from].group); to++ {
			r.lay(a, order, wholes[to], rows)
		}
		from = to
		for _, row := range rows {
			r.rows = append(r.rows, *row)
		}
		if len(r.rows) > most {
			return false
		}
	}
	return true
}

// lay lays the sums of a period over its days, and adds them to the rows of the periods of those.
func (r *Allocated) lay(a *Allocation, order int, w whole, rows map[int]*allocatedRow) {
	group := w.group
	days, weights := weigh(w.period, group, a.Weight)
	if len(days) == 0 && a.Otherwise != nil {
		if days, weights = weigh(w.period, group, a.Otherwise); len(days) > 0 {
			r.Otherwise++
		}
	}
	isUnplaced := false
	row := func(day civil.Day) *allocatedRow {
		period := a.Grain.Locate(day).Number
		key := period * 2
		if isUnplaced {
			key++
		}
		if rows[key] == nil {
			rows[key] = &allocatedRow{period: period, group: order, values: group, amounts: make([]decimal.Decimal, len(w.amounts)), isUnplaced: isUnplaced}
		}
		return rows[key]
	}
	if len(days) == 0 {
		r.Unplaced = append(r.Unplaced, Unplaced{group, w.period, w.amounts})
		days, weights = weigh(w.period, group, func([]string, civil.Day) decimal.Decimal { return decimal.OfInt(1) })
		isUnplaced = true
	} else {
		r.Days += len(days)
	}
	for m, amount := range w.amounts {
		parts, _ := allocation.Apportion(amount, weights, r.decimals[m])
		for i, day := range days {
			own := row(day)
			own.amounts[m] = own.amounts[m].Add(parts[i])
		}
	}
}

// weigh returns the days of a period that weigh something, and what.
func weigh(period calendar.Period, group []string, weight func([]string, civil.Day) decimal.Decimal) (days []civil.Day, weights []decimal.Decimal) {
	for day := period.First; day <= period.Last; day++ {
		if own := weight(group, day); own.Sign() > 0 {
			days, weights = append(days, day), append(weights, own)
		}
	}
	return days, weights
}

// EachSum calls do with each group, period and the sums of its measures, by group and in time order. The sums are good until the next
// call.
func (t *Tally) EachSum(do func(group []string, period calendar.Period, sums []decimal.Decimal)) {
	sums := make([]decimal.Decimal, len(t.measures))
	for _, g := range t.sortedGroups(len(t.operation.Groups)) {
		t.eachCell(g.number, func(number int, cell uint32) {
			for m := range t.measures {
				sums[m] = t.measures[m].of(cell)
			}
			do(g.values, t.operation.Grain.At(number), sums)
		})
	}
}

// AllocatedNames are the columns of an allocation beside its groups and measures.
var AllocatedNames = []string{"period", "period_start", "period_end", "is_unplaced"}

// Columns returns the names and types of the result's columns.
func (r *Allocated) Columns() []cell.Column {
	columns := []cell.Column{{Name: "period", Type: cell.Text}, {Name: "period_start", Type: cell.Date}, {Name: "period_end", Type: cell.Date}}
	for _, name := range r.groups {
		columns = append(columns, cell.Column{Name: name, Type: cell.Text})
	}
	for i, name := range r.measures {
		columns = append(columns, cell.Column{Name: name, Type: cell.Decimal, Scale: uint8(min(r.decimals[i], maxScale))})
	}
	return append(columns, cell.Column{Name: "is_unplaced", Type: cell.Boolean})
}

// Len returns the number of rows.
func (r *Allocated) Len() int { return len(r.rows) }

// Rows calls yield with the rows in time order, and within a period by group. The slice is used again for the next row.
func (r *Allocated) Rows(yield func([]cell.Value) bool) {
	var row []cell.Value
	for _, one := range r.rows {
		period := r.grain.At(one.period)
		row = append(row[:0], cell.OfText(r.grain.Label(period)), cell.OfDay(period.First), cell.OfDay(period.Last))
		for _, value := range one.values {
			row = append(row, cell.OfText(value))
		}
		for i, amount := range one.amounts {
			row = append(row, cell.OfDecimal(amount.Text(r.decimals[i])))
		}
		if !yield(append(row, cell.OfBool(one.isUnplaced))) {
			return
		}
	}
}
