package app

import (
	"context"
	"fmt"
	"slices"

	"roundyear/civil"
	"roundyear/datetext"
	"roundyear/facts/lapse"
	"roundyear/facts/where"
	"roundyear/fault"
	"roundyear/internal/reading"
	"roundyear/internal/table"
	"roundyear/numbertext"
	"roundyear/rows"
)

// Dated asks for rows with one date or more to be looked at, block by block.
type Dated struct {
	Source *rows.Source
	// Columns are the names of the dates, and Asked what is said of how they are written.
	Columns []string
	Asked   reading.Asked
	// Clock moves moments to the days that they count to.
	Clock datetext.Clock
	// Where are the conditions that rows must meet, all of them.
	Where []*where.Condition
	// Decimals are the decimal marks of columns by their names, of all others without a name, and Minus the mark of numbers that
	// count as negative, CR or DR.
	Decimals map[string]numbertext.Mark
	Minus    string

	// places are the columns whose texts are asked for, and numbers those of them that are numbers, written in any way.
	places  []int
	numbers []int
	formats numberFormats
	filter  *filter
	// wholeRows tells that more of the rows is looked at than what is asked for here.
	wholeRows bool
	// Filtered counts the rows that do not meet the conditions, and Unmatched says of each value that a condition asks for and no
	// row has that there is none.
	Filtered  int
	Unmatched []string
}

// datedBlock is some rows of a batch, those that meet the conditions.
type datedBlock struct {
	batch *rows.Batch
	from  int
	// kept are the places of the rows in the batch, less from.
	kept []int
	// moments and states are those of each date, by place; counted are the days that they count to, where those may be others.
	moments [][]datetext.Moment
	counted [][]civil.Day
	states  [][]reading.State
	// texts are the columns that were asked for, by place; numbers are written plainly.
	texts [][][]byte
}

// day returns the day that a date of a row counts to.
func (b *datedBlock) day(date, place int) civil.Day {
	if counted := b.counted[date]; counted != nil {
		return counted[place]
	}
	return b.moments[date][place].Day
}

// moment returns a date of a row with its time; it is false where there is none. Its day is the one that it counts to, unless only the clock
// matters.
func (b *datedBlock) moment(date, place int, byClock bool) (lapse.Moment, bool) {
	moment := b.moments[date][place]
	if !byClock {
		moment.Day = b.day(date, place)
	}
	return lapse.Moment{Day: moment.Day, Nanos: moment.Nanos}, b.states[date][place] == reading.Read
}

// instants returns two dates of a row in UTC, if for both it is known how far their clocks are from it: then the time between them is that
// which has passed, whatever the clocks say. Else it returns them as they are.
func (b *datedBlock) instants(start, end lapse.Moment, first, second, place int) (lapse.Moment, lapse.Moment) {
	from, to := b.moments[first][place], b.moments[second][place]
	if !from.HasOffset || !to.HasOffset {
		return start, end
	}
	return inUTC(from), inUTC(to)
}

// inUTC is a moment in UTC.
func inUTC(moment datetext.Moment) lapse.Moment {
	const nanosOfDay = secondsOfDay * int64(1e9)
	day, nanos := moment.Day, moment.Nanos-int64(moment.Offset)*1e9
	for nanos < 0 {
		day, nanos = day-1, nanos+nanosOfDay
	}
	for nanos >= nanosOfDay {
		day, nanos = day+1, nanos-nanosOfDay
	}
	return lapse.Moment{Day: day, Nanos: nanos}
}

// lineOf returns the line of a row by its place.
func (b *datedBlock) lineOf(place int) int { return b.batch.LineOf(b.from + place) }

// text asks for the texts of a column, and returns which of the texts of a block they are.
func (d *Dated) text(name string) (int, error) {
	place, err := d.Source.Find(name)
	if err != nil {
		return 0, err
	}
	d.places = append(d.places, place)
	return len(d.places) - 1, nil
}

// number asks for the numbers of a column as plain text.
func (d *Dated) number(name string) (int, error) {
	which, err := d.text(name)
	if err == nil {
		d.numbers = append(d.numbers, d.places[which])
	}
	return which, err
}

// decideNumbers decides how numbers that are text are written.
func (d *Dated) decideNumbers(ctx context.Context) error {
	var places []int
	for _, place := range d.numbers {
		if column := d.Source.Columns()[place]; column.Type == rows.Text && !column.Plain && !table.IsJSON(d.Source.Parts[0]) && !slices.Contains(places, place) {
			places = append(places, place)
		}
	}
	if len(places) == 0 {
		return nil
	}
	observed, err := observeNumbers(ctx, d.Source, places)
	if err != nil {
		return err
	}
	d.formats, err = observed.decide(d.Source, places, func(place int) numbertext.Asked {
		mark, ok := d.Decimals[d.Source.Names()[place]]
		if !ok {
			mark = d.Decimals[""]
		}
		return numbertext.Asked{Mark: mark, Minus: d.Minus}
	})
	return err
}

// badNumber is the fault of a number that cannot be read.
func (d *Dated) badNumber(b *datedBlock, row int, text string, which int, reason error) error {
	place := d.places[which]
	part := b.batch.Part
	problem := &fault.Fault{File: part.Name, Line: b.lineOf(row), Column: part.Columns[place].Name, What: fmt.Sprintf("%q %s", text, reason)}
	if len(text) > 0 && text[0] == notPlain {
		problem.What = fmt.Sprintf("%q is not a number", text[1:])
	}
	problem.Remedy = "Correct the value, or set such rows apart with normalise --number " + part.Columns[place].Name
	return problem
}

// datedWorker looks at the rows of a batch, block by block, and returns what came of it.
type datedWorker[T any] interface {
	take(block *datedBlock) error
	done() T
}

// eachDated looks at all rows by workers that begin makes anew for each pass, and collects what comes of their batches in order. There
// are two passes if the first rows do not tell how the dates are read; then what came of the first does not count. A date that cannot be
// read is an error.
func eachDated[T any](ctx context.Context, d *Dated, begin func([]*reading.Dates) (func() datedWorker[T], error), collect func(T) error) ([]*reading.Dates, error) {
	if err := d.decideNumbers(ctx); err != nil {
		return nil, err
	}
	var err error
	if d.filter, err = newFilter(ctx, d.Source, d.Where, d.Asked); err != nil {
		return nil, err
	}
	dates, err := datesTogether(ctx, d.Source, d.Columns, d.Asked, func(dates []*reading.Dates, evidence []*reading.Evidence) error {
		newWorker, err := begin(dates)
		if err != nil {
			return err
		}
		return eachOf(ctx, d, dates, evidence, newWorker, collect)
	})
	if err != nil {
		return nil, err
	}
	d.Unmatched, err = d.filter.unmatched(ctx, d.Source)
	return dates, err
}

// eachOf is one pass of eachDated.
func eachOf[T any](ctx context.Context, d *Dated, dates []*reading.Dates, evidence []*reading.Evidence, newWorker func() datedWorker[T], collect func(T) error) error {
	type result struct {
		value    T
		observed []*reading.Part
		filtered int
	}
	d.Filtered = 0
	var filters []*filter
	needs := slices.Concat(d.places, d.filter.columns)
	for _, one := range dates {
		needs = append(needs, one.Needs()...)
	}
	work := func() func(*rows.Batch) (result, error) {
		r := newDatedReader(d, dates)
		filters = append(filters, r.filter)
		worker := newWorker()
		return func(b *rows.Batch) (own result, err error) {
			for i := range evidence {
				own.observed = append(own.observed, evidence[i].Part(b.Part))
			}
			r.enter(b.Part)
			for from := 0; from < b.Len(); from += blockSize {
				block, err := r.read(b, from, min(from+blockSize, b.Len()), own.observed)
				if err != nil {
					return own, err
				}
				if err := worker.take(block); err != nil {
					return own, err
				}
			}
			own.filtered, r.filtered = r.filtered+b.LeftOut, 0
			own.value = worker.done()
			return own, b.Err()
		}
	}
	source := d.Source
	if !d.wholeRows {
		source = source.Narrowed(needs...)
	}
	// Where a date is text, all rows decide how it is written.
	if !slices.ContainsFunc(dates, func(one *reading.Dates) bool { return !one.Type.IsDate() }) {
		source = source.Excluding(d.filter.exclusions(d.Source)...)
	}
	err := rows.Process(ctx, source, work, func(own result) error {
		for i, observed := range own.observed {
			evidence[i].Join(observed)
		}
		d.Filtered += own.filtered
		return collect(own.value)
	})
	for _, own := range filters {
		d.filter.join(own)
	}
	return err
}
