package facts

import (
	"cmp"
	"iter"

	"roundyear/calendar"
	"roundyear/cell"
	"roundyear/civil"
	"roundyear/facts/decimal"
)

// CensusResult is what came of a census: a row for each period and group.
type CensusResult struct {
	tally     *CensusTally
	census    Census
	groups    []numberedGroup
	low, high int
}

// Result works out the periods from all spans taken in. The error is TooManyRows.
func (t *CensusTally) Result() (*CensusResult, error) {
	r := &CensusResult{tally: t, census: t.census, groups: t.sortedGroups(len(t.census.Groups))}
	grain := t.census.Grain
	r.low, r.high = grain.Locate(t.summary.First).Number, grain.Locate(t.census.AsOf).Number
	if t.census.From != nil {
		r.low = grain.Locate(*t.census.From).Number
	}
	if t.census.To != nil {
		r.high = min(r.high, grain.Locate(*t.census.To).Number)
	}
	if most := cmp.Or(t.census.MaxRows, DefaultMaxRows); r.Len() > most {
		return nil, &TooManyRows{r.Len(), most, r.Periods(), len(r.groups), grain.At(r.low).First, grain.At(r.high).Last}
	}
	return r, nil
}

// Periods returns the number of periods, Groups that of groups, and Len that of rows.
func (r *CensusResult) Periods() int { return max(r.high-r.low+1, 0) }

// Groups returns the number of groups.
func (r *CensusResult) Groups() int { return len(r.groups) }

// Len returns the number of rows.
func (r *CensusResult) Len() int { return r.Periods() * len(r.groups) }

// Span returns the first and the last period.
func (r *CensusResult) Span() (first, last calendar.Period) {
	return r.census.Grain.At(r.low), r.census.Grain.At(r.high)
}

// CensusNames are the columns of a census beside its groups and those of its quantities.
var CensusNames = []string{"period", "period_start", "period_end", "open", "opened", "closed", "mean_open", "mean_age", "median_age", "is_running"}

// Decimals of means: those of ages and of numbers of things have two, the median of ages one, since it lies between two of them at most.
const (
	meanDecimals   = 2
	medianDecimals = 1
)

// Columns returns the names and types of the result's columns.
func (r *CensusResult) Columns() []cell.Column {
	columns := r.head()
	columns = append(columns, cell.Column{Name: "open", Type: cell.Integer}, cell.Column{Name: "opened", Type: cell.Integer}, cell.Column{Name: "closed", Type: cell.Integer},
		cell.Column{Name: "mean_open", Type: cell.Decimal, Scale: meanDecimals}, cell.Column{Name: "mean_age", Type: cell.Decimal, Scale: meanDecimals})
	if r.census.MedianAge {
		columns = append(columns, cell.Column{Name: "median_age", Type: cell.Decimal, Scale: medianDecimals})
	}
	for i, name := range r.census.Sums {
		scale := r.scale(i)
		for _, ending := range []string{"open", "opened", "closed"} {
			columns = append(columns, cell.Column{Name: name + "_" + ending, Type: cell.Decimal, Scale: uint8(min(scale, maxScale))})
		}
		columns = append(columns, cell.Column{Name: name + "_mean_open", Type: cell.Decimal, Scale: uint8(min(scale+extraDecimals, maxScale))})
	}
	return append(columns, cell.Column{Name: "is_running", Type: cell.Boolean})
}

func (r *CensusResult) head() []cell.Column {
	columns := []cell.Column{{Name: "period", Type: cell.Text}, {Name: "period_start", Type: cell.Date}, {Name: "period_end", Type: cell.Date}}
	for i, name := range r.census.Groups {
		columns = append(columns, cell.Column{Name: name, Type: r.census.groupType(i)})
	}
	return columns
}

// scale is how many decimals a quantity has.
func (r *CensusResult) scale(sum int) int {
	scale := 0
	for i := range nSums {
		scale = max(scale, r.tally.sums[sum*nSums+i].scale)
	}
	return scale
}

// openGroup is what is open of a group at the end of a period.
type openGroup struct {
	open, fromSum int64
	sums          []decimal.Decimal
	ages          *ages
	values        []cell.Value
}

// Rows yields the rows in time order, and within a period by group. The slice is used again for the next row.
func (r *CensusResult) Rows() iter.Seq[[]cell.Value] {
	return func(yield func([]cell.Value) bool) {
		if r.Len() == 0 {
			return
		}
		states := make([]openGroup, len(r.groups))
		for i, g := range r.groups {
			states[i].sums = make([]decimal.Decimal, len(r.census.Sums))
			for column, value := range g.values {
				states[i].values = append(states[i].values, typedGroup(r.census.groupType(column), value))
			}
			if r.census.MedianAge {
				states[i].ages = newAges(r.tally.spans[g.number])
			}
		}
		grain := r.census.Grain
		row := make([]cell.Value, 0, len(r.Columns()))
		for number := min(r.low, grain.Locate(r.tally.summary.First).Number); number <= r.high; number++ {
			period := grain.At(number)
			for i := range states {
				row = append(append(row[:0], cell.OfText(grain.Label(period)), cell.OfDay(period.First), cell.OfDay(period.Last)), states[i].values...)
				row = r.step(&states[i], r.groups[i].number, period, row)
				if number >= r.low && !yield(row) {
					return
				}
			}
		}
	}
}

// step goes on to a period, and appends what it has of a group.
func (r *CensusResult) step(state *openGroup, group int, period calendar.Period, row []cell.Value) []cell.Value {
	var at uint32
	var record []int64
	if at = r.tally.find(group, period.Number); at != noPage {
		record = r.tally.cells.record(at)
	}
	end := min(period.Last, r.census.AsOf)
	days := int64(end-period.First) + 1
	openDays := state.open * days
	var opened, closed int64
	if record != nil {
		opened, closed = countsOf(record)
		from, gone := opened*int64(end), closed*int64(end) // of a day
		if !r.tally.isDaily {
			from, gone = record[fromOpened], record[goneClosed]
		}
		openDays += opened*int64(end+1) - from - (closed*int64(end+1) - gone)
		state.open += opened - closed
		state.fromSum += from - record[fromClosed]
	}
	row = append(row, cell.OfInteger(int(state.open)), cell.OfInteger(int(opened)), cell.OfInteger(int(closed)),
		ratioCell(openDays, days, meanDecimals), ratioCell(state.open*int64(end)-state.fromSum, state.open, meanDecimals))
	if state.ages != nil {
		state.ages.to(end)
		row = append(row, state.ages.median(end))
	}
	for i := range r.census.Sums {
		row = r.stepSum(state, i, at, record != nil, end, days, row)
	}
	return append(row, cell.OfBool(period.Contains(r.census.AsOf)))
}

// stepSum appends what a period has of a quantity.
func (r *CensusResult) stepSum(state *openGroup, sum int, at uint32, hasRecord bool, end civil.Day, days int64, row []cell.Value) []cell.Value {
	scale := r.scale(sum)
	all := r.tally.sums[sum*nSums : (sum+1)*nSums]
	openDays := state.sums[sum].Mul(decimal.OfInt(int(days)))
	var opened, closed decimal.Decimal
	if hasRecord {
		opened, closed = all[sumOpened].of(at), all[sumClosed].of(at)
		left := decimal.OfInt(int(end) + 1)
		openDays = openDays.Add(opened.Mul(left)).Add(all[sumFrom].of(at).Neg()).Add(closed.Mul(left).Neg()).Add(all[sumGone].of(at))
		state.sums[sum] = state.sums[sum].Add(opened).Add(closed.Neg())
	}
	return append(row, cell.OfDecimal(state.sums[sum].Text(scale)), cell.OfDecimal(opened.Text(scale)), cell.OfDecimal(closed.Text(scale)),
		cell.OfDecimal(openDays.Over(int(days), scale+extraDecimals).Text(scale+extraDecimals)))
}

// ratioCell is a quotient with some decimals; a blank for a division by zero.
func ratioCell(number, divisor int64, decimals int) cell.Value {
	if divisor == 0 {
		return cell.Blank
	}
	return cell.OfDecimal(decimal.OfUnits(number, 0).Over(int(divisor), decimals).Text(decimals))
}
