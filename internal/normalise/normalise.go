// Package normalise gives facts true dates: each row comes out with its day,
// time of day and key behind it, or is set apart with the reason. No row is
// lost, and no other byte is changed.
package normalise

import (
	"bytes"
	"context"
	"fmt"
	"slices"
	"strconv"
	"sync"

	"roundyear/civil"
	"roundyear/datetext"
	"roundyear/internal/reading"
	"roundyear/internal/table"
)

// Options says what is written.
type Options struct {
	Dates []*reading.Dates
	// Evidence, when set, gathers what the rows say about their dates while
	// they are read.
	Evidence *reading.Evidence
	// DropTime leaves out the times of day.
	DropTime bool
	// DropOriginal leaves out the columns that the dates were read from.
	DropOriginal bool
}

// rejectColumns stand behind the original columns in a file of rejects. Such a
// file can be mended and read in again; they are left out then.
var rejectColumns = []string{"line", "column", "value", "reason"}

// IsRejects tells whether a file is one of rejects, by its header.
func IsRejects(source *table.Source) bool {
	columns := source.Columns()
	return len(columns) > len(rejectColumns) && slices.Equal(columns[len(columns)-len(rejectColumns):], rejectColumns)
}

// Report counts what became of the rows.
type Report struct {
	In, Out, Rejected int
	// Blanks counts the rows without a date for each of the date columns,
	// and Ranges are the days of the others.
	Blanks []int
	Ranges []reading.Range
}

// Check returns an error unless every row that came in went out or was
// rejected. It guards the promise that no row is lost.
func (r *Report) Check() error {
	if r.In != r.Out+r.Rejected {
		return fmt.Errorf("internal fault: %d rows came in, but %d went out and %d were rejected", r.In, r.Out, r.Rejected)
	}
	return nil
}

// Columns returns the names of the columns that are added, in order.
func (o Options) Columns() []string {
	var names []string
	for _, dates := range o.Dates {
		names = append(names, dates.Name+"_date")
		if o.hasTime(dates) {
			names = append(names, dates.Name+"_time")
		}
		names = append(names, dates.Name+"_key")
	}
	return names
}

func (o Options) hasTime(dates *reading.Dates) bool {
	return !o.DropTime && dates.Clock() != datetext.NoTime
}

// keep returns the places of the columns of the source that come out.
func (o Options) keep(source *table.Source) []int {
	count := len(source.Columns())
	if IsRejects(source) {
		count -= len(rejectColumns)
	}
	var places []int
	for place := range count {
		drop := o.DropOriginal && slices.ContainsFunc(o.Dates, func(d *reading.Dates) bool { return slices.Contains(d.Columns, place) })
		if !drop {
			places = append(places, place)
		}
	}
	return places
}

// batch is what came of one chunk.
type batch struct {
	out, rejected []byte
	report        Report
	evidence      *reading.Part
}

// Run reads the source and writes its rows to out and rejects. The second is
// asked for when the first row is rejected.
func Run(ctx context.Context, source *table.Source, options Options, out *table.Output, rejects func() (*table.Output, error)) (*Report, error) {
	keep := options.keep(source)
	taken := map[string]bool{}
	for _, place := range keep {
		taken[source.Columns()[place]] = true
	}
	for _, name := range options.Columns() {
		if taken[name] {
			return nil, &table.Fault{File: source.Name(), What: fmt.Sprintf("has a column %q already, which would stand there twice", name),
				Remedy: "Normalise the file as it was before, or rename the column"}
		}
	}
	w := &worker{source: source, options: options, keep: keep}
	if len(keep) == len(source.Columns()) {
		w.keep = nil
	}
	if _, err := out.Write(w.header()); err != nil {
		return nil, err
	}
	total := &Report{Blanks: make([]int, len(options.Dates)), Ranges: make([]reading.Range, len(options.Dates))}
	var rejected *table.Output
	// Batches are used again once they are written.
	spare := sync.Pool{New: func() any { return &batch{} }}
	newWorker := func() func(*table.Chunk) (*batch, error) {
		own := *w
		own.spare = &spare
		own.start()
		return own.work
	}
	err := table.Process(ctx, source, newWorker, func(b *batch) error {
		defer spare.Put(b)
		total.join(b.report)
		if b.evidence != nil {
			options.Evidence.Join(b.evidence)
		}
		if _, err := out.Write(b.out); err != nil {
			return err
		}
		if len(b.rejected) == 0 {
			return nil
		}
		if rejected == nil {
			var err error
			if rejected, err = rejects(); err != nil {
				return err
			}
			if _, err := rejected.Write(w.rejectsHeader()); err != nil {
				return err
			}
		}
		_, err := rejected.Write(b.rejected)
		return err
	})
	if err != nil {
		return nil, err
	}
	return total, total.Check()
}

func (r *Report) join(other Report) {
	r.In += other.In
	r.Out += other.Out
	r.Rejected += other.Rejected
	for i := range other.Blanks {
		r.Blanks[i] += other.Blanks[i]
		r.Ranges[i].Join(other.Ranges[i])
	}
}

// worker turns chunks into batches.
type worker struct {
	source  *table.Source
	options Options
	// keep are the places of the columns that come out; nil for all.
	keep      []int
	readers   []*reading.Reader
	moments   []datetext.Moment
	states    []reading.State
	timed     []bool
	days      *dayTexts
	spare     *sync.Pool
	delimiter byte
	lineEnd   string
}

// dayTexts keeps the text of days: of one file most rows have few of them.
type dayTexts [1 << 12]struct {
	day   civil.Day
	known bool
	// date is the ISO date, key the date as yyyymmdd.
	date [10]byte
	key  [8]byte
}

func (t *dayTexts) of(day civil.Day) (date, key []byte) {
	entry := &t[int(day)&(len(t)-1)]
	if entry.day != day || !entry.known {
		entry.day, entry.known = day, true
		day.AppendText(entry.date[:0])
		copy(entry.key[:4], entry.date[:4])
		copy(entry.key[4:6], entry.date[5:7])
		copy(entry.key[6:], entry.date[8:])
	}
	// A year before 1000 has no leading zeros in a number.
	return entry.date[:], bytes.TrimLeft(entry.key[:], "0")
}

func (w *worker) start() {
	for _, dates := range w.options.Dates {
		w.readers = append(w.readers, dates.Reader())
		w.timed = append(w.timed, w.options.hasTime(dates))
	}
	w.days = &dayTexts{}
	w.moments = make([]datetext.Moment, len(w.readers))
	w.states = make([]reading.State, len(w.readers))
	w.delimiter, w.lineEnd = w.source.Files[0].Delimiter, w.source.Files[0].LineEnd
}

func (w *worker) header() []byte {
	file := w.source.Files[0]
	line := w.kept(nil, headerRecord(file))
	for _, name := range w.options.Columns() {
		line = append(line, file.Delimiter)
		start := len(line)
		line = table.QuoteFrom(append(line, name...), start, file.Delimiter)
	}
	return append(line, file.LineEnd...)
}

func headerRecord(file *table.File) *table.Record {
	return table.ParseRecord(file.Header(), file.Delimiter)
}

func (w *worker) rejectsHeader() []byte {
	file := w.source.Files[0]
	line := w.original(nil, headerRecord(file))
	for _, name := range rejectColumns {
		line = append(append(line, file.Delimiter), name...)
	}
	return append(line, file.LineEnd...)
}

// kept appends the columns of a record that come out.
func (w *worker) kept(line []byte, record *table.Record) []byte {
	if w.keep == nil {
		return append(line, record.Raw...)
	}
	for i, place := range w.keep {
		if i > 0 {
			line = append(line, w.source.Files[0].Delimiter)
		}
		line = append(line, record.RawField(place)...)
	}
	return line
}

// original appends the columns of a record as they were, less those that a
// file of rejects has added.
func (w *worker) original(line []byte, record *table.Record) []byte {
	if !IsRejects(w.source) {
		return append(line, record.Raw...)
	}
	for place := range record.Len() - len(rejectColumns) {
		if place > 0 {
			line = append(line, w.source.Files[0].Delimiter)
		}
		line = append(line, record.RawField(place)...)
	}
	return line
}

func (w *worker) work(chunk *table.Chunk) (*batch, error) {
	b := w.spare.Get().(*batch)
	*b = batch{out: b.out[:0], rejected: b.rejected[:0],
		report: Report{Blanks: make([]int, len(w.readers)), Ranges: make([]reading.Range, len(w.readers))}}
	if most := chunk.Size() * 7 / 4; cap(b.out) < most {
		b.out = make([]byte, 0, most)
	}
	if w.options.Evidence != nil {
		b.evidence = w.options.Evidence.Part(chunk.File)
	}
	for _, reader := range w.readers {
		reader.Enter(chunk.File)
	}
	var record table.Record
	records := chunk.Records()
	for records.Next(&record) {
		b.report.In++
		if b.evidence != nil {
			b.evidence.ObserveAndRead(&record, w.readers, w.moments, w.states)
		} else {
			for i, reader := range w.readers {
				w.moments[i], w.states[i] = reader.Read(&record)
			}
		}
		if unread := slices.Index(w.states, reading.Unreadable); unread >= 0 {
			b.report.Rejected++
			b.rejected = w.reject(b.rejected, &record, chunk.File, unread)
			continue
		}
		b.report.Out++
		b.out = w.kept(b.out, &record)
		for i := range w.readers {
			b.out = w.appendDate(b.out, w.timed[i], w.moments[i], w.states[i])
			if w.states[i] == reading.Blank {
				b.report.Blanks[i]++
			} else {
				b.report.Ranges[i].Add(w.moments[i].Day)
			}
		}
		b.out = append(b.out, w.lineEnd...)
	}
	return b, records.Err()
}

// appendDate appends the day, the time of day and the key.
func (w *worker) appendDate(line []byte, timed bool, moment datetext.Moment, state reading.State) []byte {
	line = append(line, w.delimiter)
	if state == reading.Blank {
		if timed {
			line = append(line, w.delimiter)
		}
		return append(line, w.delimiter)
	}
	date, key := w.days.of(moment.Day)
	line = append(line, date...)
	if timed {
		line = append(line, w.delimiter)
		// As finely as the value itself tells it: no seconds are made up.
		line = moment.AppendTime(line, moment.Clock)
	}
	line = append(line, w.delimiter)
	return append(line, key...)
}

// reject appends a row that can be mended and read in again.
func (w *worker) reject(line []byte, record *table.Record, file *table.File, unread int) []byte {
	reader := w.readers[unread]
	reason := reader.Why(record)
	for i := unread + 1; i < len(w.readers); i++ {
		if w.states[i] == reading.Unreadable {
			reason += fmt.Sprintf("; and %s %q %s", w.options.Dates[i].Name, w.readers[i].Value(record), w.readers[i].Why(record))
		}
	}
	if len(w.source.Files) > 1 {
		reason += " (" + file.Name + ")"
	}
	line = w.original(line, record)
	for _, text := range []string{strconv.Itoa(record.Line), w.options.Dates[unread].Name, reader.Value(record), reason} {
		line = append(line, w.delimiter)
		start := len(line)
		line = table.QuoteFrom(append(line, text...), start, w.delimiter)
	}
	return append(line, w.lineEnd...)
}
