package app

import (
	"context"
	"fmt"
	"io"
	"strings"

	"roundyear/cell"
	"roundyear/civil"
	"roundyear/facts/lapse"
	"roundyear/fault"
	"roundyear/internal/extended"
	"roundyear/internal/reading"
	"roundyear/rows"
)

// Lapse asks how long things took.
type Lapse struct {
	Dated
	// Start and End are the columns of the two days or moments. Without an end it is the as-of day, or the start of the row before in
	// its group (FromPrevious), which then is where it begins.
	Start, End   string
	FromPrevious bool
	// By are the columns of the groups.
	By   []string
	AsOf civil.Day

	// Measure says how it is measured; nothing is if IsMeasured is false.
	Measure    lapse.Measure
	IsMeasured bool
	// Bands are nil for none.
	Bands lapse.Bands
	// Due is how much later than the start something is due, in the unit DueIn: days, workdays, trading days or months; nil for nothing.
	Due   *int
	DueIn lapse.Unit
	// Places are the calendars of workdays, Place the one of all rows, and PlaceColumn the column that names that of each.
	Places             *Places
	Place, PlaceColumn string
	// Name is the name of the column that is added, or else that of the unit.
	Name string
	// Open opens what the rows are written to, anew for each time that it is called; nil to write none. IsSeen tells that what is written
	// is seen at once.
	Open   func() ([]*extended.Form, []io.Writer, error)
	IsSeen bool
	// Out is what the rows are written to, where that is one table of a database, so that they may be written inside that.
	Out string
	// OnDatabase says where what took how long is counted.
	OnDatabase

	groups   []int
	placeAt  int
	outputs  []*extended.Output
	previous *previousRows
	calendar *lapse.DayCalendar
}

// Lapsed is what came of it.
type Lapsed struct {
	Dates []*reading.Dates
	*LapseCounts
	// Written is how many rows were written.
	Written int
}

// Added returns the columns that are added to the rows.
func (l *Lapse) Added() []cell.Column {
	var columns []cell.Column
	name, prefix := l.Name, ""
	if name != "" {
		prefix = name + "_"
	}
	if l.IsMeasured {
		if name == "" {
			name = strings.ReplaceAll(l.Measure.Unit.String(), "-", "_")
		}
		column := cell.Column{Name: name, Type: cell.Integer}
		if decimals := l.Measure.Unit.Decimals(); decimals > 0 {
			column = cell.Column{Name: name, Type: cell.Decimal, Scale: uint8(decimals)}
		}
		columns = append(columns, column)
		if l.Bands != nil {
			columns = append(columns, cell.Column{Name: prefix + "band"}, cell.Column{Name: prefix + "band_sort", Type: cell.Integer})
		}
	}
	if l.Due != nil {
		columns = append(columns, cell.Column{Name: prefix + "due_date", Type: cell.Date})
	}
	return columns
}

// Run reads all rows, measures them and writes them. The rows are read once, twice if the first ones do not tell how their dates are
// written or what is written is seen at once, and once more for the rows before.
func (l *Lapse) Run(ctx context.Context) (*Lapsed, error) {
	if err := l.find(); err != nil {
		return nil, err
	}
	if done, err := l.inside(ctx); done != nil || err != nil {
		return done, err
	}
	var workers []*lapseWorker
	begin := func(dates []*reading.Dates) (func() datedWorker[[]extended.Chunk], error) {
		workers = nil
		if err := l.openOutputs(); err != nil {
			return nil, err
		}
		return func() datedWorker[[]extended.Chunk] {
			w := newLapseWorker(l)
			workers = append(workers, w)
			return w
		}, nil
	}
	collect := func(chunks []extended.Chunk) error {
		for i, chunk := range chunks {
			if err := l.outputs[i].Write(chunk); err != nil {
				return err
			}
		}
		return nil
	}
	dates, err := l.pass(ctx, begin, collect)
	if err != nil {
		return nil, err
	}
	done := &Lapsed{Dates: dates, LapseCounts: newLapseCounts()}
	for _, w := range workers {
		done.join(w.counts)
	}
	for _, output := range l.outputs {
		if err := output.Close(); err != nil {
			return nil, err
		}
		done.Written = output.Count
	}
	return done, nil
}

// pass goes through the rows, after those before them are known if that is asked for.
func (l *Lapse) pass(ctx context.Context, begin func([]*reading.Dates) (func() datedWorker[[]extended.Chunk], error), collect func([]extended.Chunk) error) ([]*reading.Dates, error) {
	l.wholeRows = l.Open != nil
	if !l.FromPrevious && !l.IsSeen {
		return eachDated(ctx, &l.Dated, begin, collect)
	}
	dates, err := l.decide(ctx)
	if err != nil {
		return nil, err
	}
	newWorker, err := begin(dates)
	if err != nil {
		return nil, err
	}
	return dates, eachOf(ctx, &l.Dated, dates, nil, newWorker, collect)
}

// decide decides how the dates are read, and finds the rows before each.
func (l *Lapse) decide(ctx context.Context) ([]*reading.Dates, error) {
	var all []seenRows
	begin := func([]*reading.Dates) (func() datedWorker[seenRows], error) {
		all = nil
		return func() datedWorker[seenRows] { return &seeingWorker{lapse: l, numbers: map[string]int32{}} }, nil
	}
	dates, err := eachDated(ctx, &l.Dated, begin, func(seen seenRows) error {
		if l.FromPrevious {
			all = append(all, seen)
		}
		return nil
	})
	if err == nil && l.FromPrevious {
		l.previous = previousOf(all)
	}
	return dates, err
}

// find finds the columns.
func (l *Lapse) find() (err error) {
	l.Columns = []string{l.Start}
	if l.End != "" {
		l.Columns = append(l.Columns, l.End)
	}
	l.places, l.numbers, l.groups, l.placeAt = nil, nil, nil, -1
	for _, name := range l.By {
		which, err := l.text(name)
		if err != nil {
			return err
		}
		l.groups = append(l.groups, which)
	}
	if l.PlaceColumn != "" {
		l.placeAt, err = l.text(l.PlaceColumn)
		return err
	}
	if l.needsCalendar() {
		if l.calendar, err = l.Places.Of(l.Place); err != nil {
			return &fault.Fault{What: err.Error()}
		}
	}
	return nil
}

// byClock tells that hours are measured, and not days.
func (l *Lapse) byClock() bool {
	return l.IsMeasured && (l.Measure.Unit == lapse.Hours || l.Measure.Unit == lapse.BusinessHours)
}

// needsCalendar tells whether workdays matter.
func (l *Lapse) needsCalendar() bool {
	needs := func(unit lapse.Unit) bool {
		return unit == lapse.Workdays || unit == lapse.TradingDays || unit == lapse.BusinessHours
	}
	return l.IsMeasured && needs(l.Measure.Unit) || l.Due != nil && needs(l.DueIn)
}

func (l *Lapse) openOutputs() error {
	l.outputs = nil
	if l.Open == nil {
		return nil
	}
	forms, outs, err := l.Open()
	if err != nil {
		return err
	}
	for i, form := range forms {
		form.Added = l.Added()
		output, err := extended.Open(form, outs[i])
		if err != nil {
			return err
		}
		l.outputs = append(l.outputs, output)
	}
	return nil
}

// lapseWorker measures the rows of blocks.
type lapseWorker struct {
	lapse   *Lapse
	writers []*extended.Writer
	counts  *LapseCounts
	row     rows.Row
	added   []cell.Value
	group   []byte
	// place and calendar are those of the row before.
	place    string
	calendar *lapse.DayCalendar
}

func newLapseWorker(l *Lapse) *lapseWorker {
	w := &lapseWorker{lapse: l, counts: newLapseCounts(), calendar: l.calendar}
	for _, output := range l.outputs {
		w.writers = append(w.writers, output.Writer())
	}
	return w
}

func (w *lapseWorker) take(b *datedBlock) error {
	l := w.lapse
	previous := l.previous.of(b)
	for _, row := range b.kept {
		start, hasStart := b.moment(0, row, l.byClock())
		end, hasEnd := lapse.Moment{Day: l.AsOf}, true
		switch {
		case l.FromPrevious:
			end = start
			start, hasEnd = previous.moment(b.from + row)
		case l.End != "":
			end, hasEnd = b.moment(1, row, l.byClock())
		}
		if l.Measure.Unit == lapse.Hours && l.End != "" && hasStart && hasEnd {
			start, end = b.instants(start, end, 0, 1, row)
		}
		if l.placeAt >= 0 {
			w.enter(b.texts[l.placeAt][row])
		}
		w.added = w.added[:0]
		if l.IsMeasured {
			w.measure(w.groupOf(b, row), start, end, hasStart && hasEnd, 1)
		}
		if l.Due != nil {
			w.due(start, hasStart, 1)
		}
		if w.writers == nil {
			continue
		}
		b.batch.Row(b.from+row, &w.row)
		for _, writer := range w.writers {
			writer.Add(&w.row, w.added)
		}
	}
	return nil
}

// enter makes a place that of the row.
func (w *lapseWorker) enter(name []byte) {
	if w.calendar != nil && string(name) == w.place {
		return
	}
	w.place = string(name)
	var err error
	if w.calendar, err = w.lapse.Places.Of(w.place); err != nil || w.place == "" {
		w.calendar = nil
	}
}

// measure adds the lapse of a row and its band, and counts so many rows.
func (w *lapseWorker) measure(group []byte, start, end lapse.Moment, isThere bool, count int) {
	l := w.lapse
	unit := l.Measure.Unit
	needsPlace := unit == lapse.Workdays || unit == lapse.TradingDays || unit == lapse.BusinessHours
	place, value, text := l.Bands.PlaceOfBlank(), int64(0), cell.Blank
	isImplausible := isThere && (end.Day-start.Day >= lapse.ImplausibleDays || start.Day-end.Day >= lapse.ImplausibleDays)
	switch {
	case !isThere:
	case needsPlace && w.calendar == nil:
		w.counts.Unknown[w.place] += count
		isThere = false
	case isImplausible:
		place = l.Bands.PlaceOfImplausible()
	}
	if isThere && !(isImplausible && needsPlace) {
		value = l.Measure.Between(start, end, w.calendarOf())
		if text = cell.OfInteger(int(value)); unit.Decimals() > 0 {
			text = cell.OfDecimal(w.decimal(value))
		}
		switch {
		case isImplausible:
		case l.Measure.IsBackward(start, end):
			isInBand := false
			if place, isInBand = l.Bands.OfBackward(value, unit.Decimals()); !isInBand {
				w.counts.Negative += count
				isThere = false // in the figures
			}
		default:
			place = l.Bands.Of(value, unit.Decimals())
		}
	}
	w.counts.add(group, place, value, isThere && !isImplausible, count)
	w.added = append(w.added, text)
	if l.Bands != nil {
		w.added = append(w.added, cell.OfText(place.Label), cell.OfInteger(place.Sort))
	}
}

// calendarOf returns the calendar of the row; nil if there is none.
func (w *lapseWorker) calendarOf() lapse.Calendar {
	if w.calendar == nil {
		return nil
	}
	return w.calendar
}

// decimal writes a number of hundredths.
func (w *lapseWorker) decimal(value int64) string {
	sign := ""
	if value < 0 {
		sign, value = "-", -value
	}
	return fmt.Sprintf("%s%d.%02d", sign, value/100, value%100)
}

// due adds the day on which something is due, for so many rows.
func (w *lapseWorker) due(start lapse.Moment, isThere bool, count int) {
	l := w.lapse
	day, ok := start.Day, isThere
	switch {
	case !isThere:
	case l.DueIn == lapse.Days:
		day += civil.Day(*l.Due)
	case l.DueIn == lapse.Months:
		day = day.AddMonths(*l.Due)
	case w.calendar == nil:
		if !l.IsMeasured {
			w.counts.Unknown[w.place] += count
		}
		ok = false
	default:
		day, ok = lapse.Add(day, *l.Due, w.calendar)
	}
	if !ok {
		if isThere && (l.DueIn == lapse.Days || l.DueIn == lapse.Months || w.calendar != nil) {
			w.counts.NeverDue += count
		}
		w.added = append(w.added, cell.Blank)
		return
	}
	w.added = append(w.added, cell.OfDay(day))
}

// groupOf returns the values of the groups of a row as one text.
func (w *lapseWorker) groupOf(b *datedBlock, row int) []byte {
	w.group = w.group[:0]
	for i, which := range w.lapse.groups {
		if i > 0 {
			w.group = append(w.group, 0)
		}
		w.group = append(w.group, b.texts[which][row]...)
	}
	return w.group
}

func (w *lapseWorker) done() []extended.Chunk {
	var chunks []extended.Chunk
	for _, writer := range w.writers {
		chunks = append(chunks, writer.Take())
	}
	return chunks
}
