package normalise

import (
	"bytes"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"sync"

	"roundyear/civil"
	"roundyear/datetext"
	"roundyear/internal/reading"
	"roundyear/internal/table"
	"roundyear/survey"
)

// worker turns chunks into batches.
type worker struct {
	source  *table.Source
	options Options
	// keep are the indexes of the columns that come out; nil for all.
	keep    []int
	readers []*reading.Reader
	moments []datetext.Moment
	states  []reading.State
	timed   []bool
	// counted are the days of business that the moments count to, written the days
	// as they were written, and beyond why a moment cannot be moved.
	counted, written []civil.Day
	beyond           []string
	changes          []datetext.Change
	moves            bool
	// profiles are those of the days of each date column.
	profiles []*survey.Profile
	days     *dayTexts
	months   *months
	pool     *sync.Pool
	// These columns of the first date are left out.
	leaveDate, leaveBusiness, leaveKey bool
	// plain tells that nothing is converted, partitioned or left out.
	plain bool
	// partition is that of the row at work, month the latest month of its rows.
	partition      partition
	partitionMonth int
	delimiter      byte
	lineEnd        string
}

func (w *worker) start() {
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
	w.plain = o.Clock == reading.Clock{} && o.PartitionBy == "" && !o.DropTime
	w.days = &dayTexts{options: &w.options, delimiter: w.source.Files[0].Delimiter}
	w.months = &months{counts: map[int]*Moved{}}
	w.moments = make([]datetext.Moment, len(w.readers))
	w.states = make([]reading.State, len(w.readers))
	w.counted, w.written = make([]civil.Day, len(w.readers)), make([]civil.Day, len(w.readers))
	w.beyond, w.changes = make([]string, len(w.readers)), make([]datetext.Change, len(w.readers))
	w.moves = o.Clock != reading.Clock{}
	w.delimiter, w.lineEnd = w.source.Files[0].Delimiter, w.source.Files[0].LineEnd
}

func (w *worker) header() []byte {
	file := w.source.Files[0]
	line := w.kept(nil, headerRecord(file))
	for _, name := range w.options.Columns() {
		line = append(line, file.Delimiter)
		start := len(line)
		line = append(line, name...)
		if w.options.Formulas == table.GuardFormulas {
			line = table.GuardFrom(line, start)
		}
		line = table.QuoteFrom(line, start, file.Delimiter)
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
	guard := w.options.Formulas == table.GuardFormulas && hasFormula(record)
	if w.keep == nil && !guard {
		return append(line, record.Raw...)
	}
	delimiter := w.source.Files[0].Delimiter
	count := len(w.keep)
	if w.keep == nil {
		count = record.Len()
	}
	for i := range count {
		index := i
		if w.keep != nil {
			index = w.keep[i]
		}
		if i > 0 {
			line = append(line, delimiter)
		}
		if value := record.Field(index); guard && table.IsFormula(value) {
			start := len(line)
			line = table.QuoteFrom(table.GuardFrom(append(line, value...), start), start, delimiter)
			continue
		}
		line = append(line, record.RawField(index)...)
	}
	return line
}

func hasFormula(record *table.Record) bool {
	for index := range record.Len() {
		if table.IsFormula(record.Field(index)) {
			return true
		}
	}
	return false
}

// original appends the columns of a record as they were, less those that a
// file of rejects has added.
func (w *worker) original(line []byte, record *table.Record) []byte {
	if !IsRejects(w.source) {
		return append(line, record.Raw...)
	}
	for index := range record.Len() - len(rejectColumns) {
		if index > 0 {
			line = append(line, w.source.Files[0].Delimiter)
		}
		line = append(line, record.RawField(index)...)
	}
	return line
}

func (w *worker) work(chunk *table.Chunk) (*batch, error) {
	b := w.pool.Get().(*batch)
	*b = batch{out: b.out[:0], rejected: b.rejected[:0],
		report: Report{Blanks: make([]int, len(w.readers)), Ranges: make([]reading.Range, len(w.readers))}}
	if most := chunk.Size() * 7 / 4; cap(b.out) < most {
		b.out = make([]byte, 0, most)
	}
	if w.options.PartitionBy != "" {
		b.parts = map[partition]*rowsOfPart{}
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
		if w.moves {
			if err := w.move(&record, chunk.File); err != nil {
				return nil, err
			}
		}
		if unread := slices.Index(w.states, reading.Unreadable); unread >= 0 {
			b.report.Rejected++
			start := len(b.rejected)
			b.rejected = w.reject(b.rejected, &record, chunk.File, unread)
			b.rejectedBreaks += bytes.Count(b.rejected[start:len(b.rejected)-len(w.lineEnd)], lineBreak)
			continue
		}
		b.report.Out++
		if b.parts != nil {
			b.out = b.out[:0]
		}
		row := len(b.out)
		b.out = w.kept(b.out, &record)
		start := len(b.out)
		for i := range w.readers {
			if w.states[i] == reading.Blank {
				b.report.Blanks[i]++
				b.out = w.appendBlank(b.out, i)
				continue
			}
			b.out = w.appendDate(b, i)
		}
		if len(b.report.First) < maxFirst && slices.Contains(w.states, reading.Read) {
			texts := []string{w.readers[0].Value(&record)}
			texts = append(texts, strings.Split(string(b.out[start+1:]), string(w.delimiter))...)
			b.report.First = append(b.report.First, texts)
		}
		if record.IsQuoted() || len(w.options.Added) > 0 {
			b.breaks += bytes.Count(b.out[row:], lineBreak)
		}
		b.out = append(b.out, w.lineEnd...)
		if b.parts != nil {
			w.part(b)
		}
	}
	return b, records.Err()
}

var lineBreak = []byte{'\n'}

// part puts the row at work to those of its partition.
func (w *worker) part(b *batch) {
	if w.states[0] == reading.Blank {
		w.partition, w.partitionMonth = partition{undated: true}, 0
	}
	one := b.parts[w.partition]
	if one == nil {
		one = &rowsOfPart{}
		b.parts[w.partition] = one
	}
	one.rows = append(one.rows, b.out...)
	one.latest = max(one.latest, w.partitionMonth)
}

// move moves the moments of a row to the zone that is wanted, and finds the days
// of business. Those that have no date there cannot be read.
func (w *worker) move(record *table.Record, file *table.File) error {
	for i, state := range w.states {
		w.beyond[i] = ""
		if state != reading.Read {
			continue
		}
		moved, counted, change, zoned := w.options.Clock.Move(w.moments[i])
		if !zoned {
			return w.readers[i].NoZone(record, file)
		}
		if change == datetext.Beyond {
			w.states[i], w.beyond[i] = reading.Unreadable, w.options.Clock.WhyBeyond(w.moments[i])
		}
		w.written[i], w.counted[i], w.changes[i] = w.moments[i].Day, counted, change
		w.moments[i] = moved
	}
	return nil
}

// why says in words why a date column of a row cannot be read.
func (w *worker) why(i int, record *table.Record) string {
	if w.moves && w.beyond[i] != "" {
		return w.beyond[i]
	}
	return w.readers[i].Why(record)
}

// appendDate appends the day, the time of day, the day of business, the key and
// the attributes of the day.
func (w *worker) appendDate(b *batch, i int) []byte {
	line, moment := b.out, w.moments[i]
	written, business := moment.Day, moment.Day
	if w.moves {
		written, business = w.written[i], w.counted[i]
		switch w.changes[i] {
		case datetext.Doubled:
			b.report.Doubled++
		case datetext.Skipped:
			b.report.Skipped++
		}
	}
	day := w.days.of(moment.Day)
	b.report.Ranges[i].Add(moment.Day)
	w.profiles[i].Add(moment)
	if w.plain && moment.Clock == datetext.Seconds && len(day.key) == len(day.key8) {
		if i == 0 {
			w.months.count(day.month, day.month)
		}
		return append(w.appendPlain(line, day, moment), day.added...)
	}
	if i > 0 || !w.leaveDate {
		line = append(append(line, w.delimiter), day.date[:]...)
	}
	counted := day
	if w.timed[i] && !w.options.DropTime {
		// As finely as the value itself tells it: no seconds are made up.
		line = moment.AppendTime(append(line, w.delimiter), moment.Clock)
	}
	if w.timed[i] && w.options.Clock.DayStarts != nil {
		counted = w.days.of(business)
		if i > 0 || !w.leaveBusiness {
			line = append(append(line, w.delimiter), counted.date[:]...)
		}
	}
	if i > 0 || !w.leaveKey {
		line = append(append(line, w.delimiter), counted.key...)
	}
	if i == 0 {
		if w.options.PartitionBy != "" {
			w.partitionMonth = counted.month
			switch first := w.options.Dates[0].Name; w.options.PartitionBy {
			case first + "_date":
				w.partition = partition{value: string(day.date[:])}
			case first + "_business_date":
				w.partition = partition{value: string(counted.date[:])}
			case first + "_key":
				w.partition = partition{value: string(counted.key)}
			default:
				w.partition = partition{value: counted.partition}
			}
		}
		if written == counted.day {
			w.months.count(counted.month, counted.month)
		} else {
			w.months.count(w.days.of(written).month, counted.month)
		}
	}
	return append(line, counted.added...)
}

// plainWidth is the width of a date, a time in seconds and a key with their
// delimiters.
const plainWidth = 1 + 10 + 1 + 8 + 1 + 8

// appendPlain appends the day, the time of day and the key where nothing is
// converted or left out: in most files it is all that is to be done.
func (w *worker) appendPlain(line []byte, day *dayText, moment datetext.Moment) []byte {
	line = slices.Grow(line, plainWidth)
	at := len(line)
	line = line[:at+plainWidth]
	to := (*[plainWidth]byte)(line[at:])
	second := uint32(moment.Nanos / 1e9)
	hour, minute := second/3600, second/60%60
	second %= 60
	to[0], to[11], to[20] = w.delimiter, w.delimiter, w.delimiter
	*(*[10]byte)(to[1:]) = day.date
	to[12], to[13], to[14] = byte('0'+hour/10), byte('0'+hour%10), ':'
	to[15], to[16], to[17] = byte('0'+minute/10), byte('0'+minute%10), ':'
	to[18], to[19] = byte('0'+second/10), byte('0'+second%10)
	*(*[8]byte)(to[21:]) = day.key8
	return line
}

// appendBlank appends what stands behind a row without a date.
func (w *worker) appendBlank(line []byte, i int) []byte {
	first := i == 0
	if !first || !w.leaveDate {
		line = append(line, w.delimiter)
	}
	if w.timed[i] && !w.options.DropTime {
		line = append(line, w.delimiter)
	}
	if w.timed[i] && w.options.Clock.DayStarts != nil && (!first || !w.leaveBusiness) {
		line = append(line, w.delimiter)
	}
	if !first || !w.leaveKey {
		line = append(append(line, w.delimiter), w.options.BlankKey...)
	}
	for _, attribute := range w.options.Added {
		if len(w.options.Dates) > 1 || !w.options.leavesOut(attribute.Name) {
			line = append(line, w.delimiter)
		}
	}
	return line
}

// reject appends a row that can be mended and read in again.
func (w *worker) reject(line []byte, record *table.Record, file *table.File, unread int) []byte {
	reader := w.readers[unread]
	reason := w.why(unread, record)
	for i := unread + 1; i < len(w.readers); i++ {
		if w.states[i] == reading.Unreadable {
			reason += fmt.Sprintf("; and %s %q %s", w.options.Dates[i].Name, w.readers[i].Value(record), w.why(i, record))
		}
	}
	if len(w.source.Files) > 1 {
		reason += " (" + file.Name + ")"
	}
	line = w.original(line, record)
	for _, text := range []string{strconv.Itoa(record.Line), w.options.Dates[unread].Name, reader.Value(record), reason} {
		line = append(line, w.delimiter)
		start := len(line)
		line = table.QuoteFrom(table.GuardFrom(append(line, text...), start), start, w.delimiter)
	}
	return append(line, w.lineEnd...)
}
