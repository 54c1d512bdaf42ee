package normalise

import (
	"bytes"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"sync"

	"roundyear/cell"
	"roundyear/civil"
	"roundyear/datetext"
	"roundyear/fault"
	"roundyear/internal/delimited"
	"roundyear/internal/reading"
	"roundyear/internal/table"
	"roundyear/rows"
	"roundyear/survey"
)

// worker turns batches of rows into batches of lines.
type worker struct {
	source  *rows.Source
	options Options
	// kept are the places of the columns that come out; nil for all.
	kept []int
	// columns are those of rows that are written as columns; out is nil then.
	columns []rows.Column
	// added is how many columns are added, and blankKey the key of rows without a date.
	added    int
	blankKey cell.Value
	// isTooFine tells that a time of day is finer than its column can say.
	isTooFine bool
	// out writes rows, and rejected those that are set apart. tight is out where it is
	// delimited text, which has a shorter way.
	out, rejected rows.Extender
	tight         *delimited.Extender
	readers       []*reading.Reader
	moments       []datetext.Moment
	states        []reading.State
	timed         []bool
	// counted are the days of business that the moments count to, written the days
	// as they were written, and beyond why a moment cannot be moved.
	counted, written []civil.Day
	beyond           []string
	changes          []datetext.Change
	moves            bool
	// numbers are those of the row at work as plain text, in memory that is used again, and firstNumber is the place of the
	// first of them among the added columns.
	numbers     [][]byte
	firstNumber int
	// profiles are those of the days of each date column.
	profiles []*survey.Profile
	days     []*dayTexts
	places   []places
	months   *months
	pool     *sync.Pool
	// These columns of the first date are left out.
	leaveDate, leaveBusiness, leaveKey bool
	// plain tells that nothing is converted, partitioned or left out, in delimited text.
	plain bool
	// partition is that of the row at work, month the latest month of its rows.
	partition      partition
	partitionMonth int
	text           []byte
}

// open makes what writes rows and rejects.
func (w *worker) open() error {
	extension := rows.Extension{Source: w.source, Keep: w.kept, Added: w.options.Adds()}
	if w.options.sinks(w.source) {
		w.columns, w.added = extension.Columns(), len(extension.Added)
		if key, err := strconv.Atoi(w.options.BlankKey); err == nil {
			w.blankKey = cell.OfInteger(key)
		}
	} else {
		var ok bool
		if w.out, ok = table.NewExtender(w.options.Format, extension, table.Formulas{Kept: w.options.Formulas, Added: w.options.Formulas}); !ok {
			return &fault.Fault{What: fmt.Sprintf("rows cannot be written as %s", w.options.Format), Remedy: "The formats are " + strings.Join(table.Extendable(), ", ")}
		}
		w.tight, _ = w.out.(*delimited.Extender)
	}
	extension = rows.Extension{Source: w.source, Added: rejectColumns}
	if w.options.HasSurplus {
		extension.Added = append(slices.Clone(rejectColumns), surplusColumn)
	}
	for place := range len(w.source.Columns()) - w.rejectsBefore() {
		extension.Keep = append(extension.Keep, place)
	}
	w.rejected, _ = table.NewExtender(w.options.RejectsFormat, extension, table.Formulas{Kept: delimited.KeepFormulas, Added: delimited.GuardFormulas})
	return nil
}

func (w *worker) start() {
	_ = w.open() // Run has opened it once
	for _, dates := range w.options.Dates {
		w.profiles = append(w.profiles, survey.New())
		w.readers = append(w.readers, dates.Reader())
		w.timed = append(w.timed, w.options.hasTime(dates))
	}
	if w.options.PartitionBy != "" {
		first := w.options.Dates[0].Name
		w.leaveDate = w.options.leavesOut(first + "_date")
		w.leaveBusiness = w.options.leavesOut(first + "_business_date")
		w.leaveKey = w.options.leavesOut(first + "_key")
	}
	o := &w.options
	w.plain = w.tight != nil && !(w.kept != nil && len(w.kept) == 0) && !o.Moves() && o.PartitionBy == "" && !o.DropTime
	column := 0
	for i := range w.readers {
		own := places{-1, -1, -1, -1, -1, -1}
		place := func(isThere bool) int {
			if !isThere {
				return -1
			}
			column++
			return column - 1
		}
		first := i == 0
		own.date = place(!first || !w.leaveDate)
		own.time = place(w.timed[i] && !o.DropTime)
		own.business = place(w.timed[i] && o.ClockOf(o.Dates[i]).DayStarts != nil && (!first || !w.leaveBusiness))
		own.key = place(!first || !w.leaveKey)
		own.grain = place(o.Dates[i].Grain() != "")
		own.attributes = column
		for _, attribute := range o.Added {
			place(len(w.readers) > 1 || !o.leavesOut(attribute.Name))
		}
		w.places = append(w.places, own)
		w.firstNumber = column
		w.days = append(w.days, &dayTexts{options: o, out: w.out, first: own.attributes})
	}
	w.months = &months{counts: map[int]*Moved{}}
	w.moments = make([]datetext.Moment, len(w.readers))
	w.states = make([]reading.State, len(w.readers))
	w.counted, w.written = make([]civil.Day, len(w.readers)), make([]civil.Day, len(w.readers))
	w.beyond, w.changes = make([]string, len(w.readers)), make([]datetext.Change, len(w.readers))
	w.moves = o.Moves()
}

func (w *worker) work(from *rows.Batch) (*batch, error) {
	b := w.pool.Get().(*batch)
	*b = batch{out: b.out[:0], rejected: b.rejected[:0],
		report: Report{Blanks: make([]int, len(w.readers)), Placeholders: make([]int, len(w.readers)), Ranges: make([]reading.Range, len(w.readers))}}
	if most := from.Size() * 7 / 4; w.out != nil && cap(b.out) < most {
		b.out = make([]byte, 0, most)
	}
	b.rows, b.size = from.Len(), from.Size()
	if w.out == nil && w.options.PartitionBy == "" {
		b.block = rows.NewBlock(w.columns, from.Len(), 2*from.Size())
	}
	if w.options.PartitionBy != "" {
		b.parts = map[partition]*rowsOfPart{}
	}
	if w.options.Evidence != nil {
		b.evidence = w.options.Evidence.Part(from.Part)
	}
	for _, reader := range w.readers {
		reader.Enter(from.Part)
	}
	var row rows.Row
	for from.Next(&row) {
		b.report.In++
		if row.Ragged() > 0 {
			if b.evidence != nil {
				b.evidence.Observe(&row)
			}
			if !w.options.HasSurplus && row.Ragged() > from.Part.OwnColumns() {
				return nil, ErrWrongGuess // the file of rejects has no column for what is too much
			}
			w.reject(b, &row, "", string(row.Raw()), w.raggedReason(&row))
			continue
		}
		if reason, is := w.isUnmended(&row); is {
			w.reject(b, &row, "", string(row.Field(row.Len()-w.rejectsBefore()+2)), reason)
			continue
		}
		if b.evidence != nil {
			b.evidence.ObserveAndRead(&row, w.readers, w.moments, w.states)
		} else {
			for i, reader := range w.readers {
				w.moments[i], w.states[i] = reader.Read(&row)
			}
		}
		if w.moves {
			if err := w.move(&row); err != nil {
				return nil, err
			}
		}
		if w.rejectRepeated(b, &row) {
			continue
		}
		if unread := slices.Index(w.states, reading.Unreadable); unread >= 0 {
			w.reject(b, &row, w.options.Dates[unread].Name, w.readers[unread].Value(&row), w.reason(&row, unread))
			continue
		}
		if unread := w.readNumbers(&row); unread >= 0 {
			number := w.options.Numbers[unread]
			w.reject(b, &row, number.Name, string(row.Field(number.Place)), w.whyNoNumber(unread, &row))
			continue
		}
		b.report.Out++
		start := len(b.out)
		if w.out == nil {
			w.build(b, &row)
		} else {
			w.write(b, &row)
		}
		w.keep(b, &row, start)
		if len(b.report.First) < maxFirst && slices.Contains(w.states, reading.Read) {
			b.report.First = append(b.report.First, w.shown(&row))
		}
	}
	for i, reader := range w.readers {
		b.report.Placeholders[i] = reader.TakePlaceholders()
	}
	if w.isTooFine {
		return nil, ErrWrongGuess // all rows say how fine times are
	}
	return b, from.Err()
}

// write writes a row as a line.
func (w *worker) write(b *batch, row *rows.Row) {
	if b.parts != nil {
		b.out = b.out[:0]
	}
	start := len(b.out)
	b.out = w.out.Begin(b.out, row)
	for i := range w.readers {
		if w.states[i] == reading.Blank {
			b.report.Blanks[i]++
			b.out = w.appendFields(b.out, i)
			continue
		}
		b.out = w.appendDate(b, i)
	}
	for i, number := range w.numbers {
		b.out = w.out.Add(b.out, w.firstNumber+i, number)
	}
	if row.MayHaveBreak() || len(w.options.Added) > 0 {
		b.breaks += bytes.Count(b.out[start:], lineBreak)
	}
	b.out = w.out.End(b.out)
	if b.parts != nil {
		one := w.part(b)
		one.rows = append(one.rows, b.out...)
	}
}

// shown returns the value of the first date of a row, and what is added behind the row.
func (w *worker) shown(row *rows.Row) []string {
	texts := []string{w.readers[0].Value(row)}
	for i := range w.readers {
		w.fields(i, func(_ int, text []byte) { texts = append(texts, string(text)) })
	}
	for _, number := range w.numbers {
		texts = append(texts, string(number))
	}
	return texts
}

var lineBreak = []byte{'\n'}

// part returns the rows of the partition of the row at work.
func (w *worker) part(b *batch) *rowsOfPart {
	if w.states[0] == reading.Blank {
		w.partition, w.partitionMonth = partition{undated: true}, 0
	}
	one := b.parts[w.partition]
	if one == nil {
		one = &rowsOfPart{}
		b.parts[w.partition] = one
	}
	one.latest = max(one.latest, w.partitionMonth)
	return one
}

// move moves the moments of a row to the zone that is wanted, and finds the days
// of business. Those that have no date there cannot be read.
func (w *worker) move(row *rows.Row) error {
	for i, state := range w.states {
		w.beyond[i] = ""
		if state != reading.Read {
			continue
		}
		moved, counted, change, zoned := w.options.ClockOf(w.options.Dates[i]).Move(w.moments[i])
		if !zoned {
			return w.readers[i].NoZone(row)
		}
		if change == datetext.Beyond {
			w.states[i], w.beyond[i] = reading.Unreadable, w.options.ClockOf(w.options.Dates[i]).WhyBeyond(w.moments[i])
		}
		w.written[i], w.counted[i], w.changes[i] = w.moments[i].Day, counted, change
		w.moments[i] = moved
	}
	return nil
}
