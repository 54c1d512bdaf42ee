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
	var ok bool
	extension := rows.Extension{Source: w.source, Keep: w.kept, Added: w.options.Adds()}
	if w.out, ok = table.NewExtender(w.options.Format, extension, table.Formulas{Kept: w.options.Formulas, Added: w.options.Formulas}); !ok {
		return &fault.Fault{What: fmt.Sprintf("rows cannot be written as %s", w.options.Format), Remedy: "The formats are " + strings.Join(table.Extendable(), ", ")}
	}
	w.tight, _ = w.out.(*delimited.Extender)
	extension = rows.Extension{Source: w.source, Added: rejectColumns}
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
	w.plain = w.tight != nil && o.Clock == reading.Clock{} && o.PartitionBy == "" && !o.DropTime
	column := 0
	for i := range w.readers {
		own := places{-1, -1, -1, -1, -1}
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
		own.business = place(w.timed[i] && o.Clock.DayStarts != nil && (!first || !w.leaveBusiness))
		own.key = place(!first || !w.leaveKey)
		own.attributes = column
		for _, attribute := range o.Added {
			place(len(w.readers) > 1 || !o.leavesOut(attribute.Name))
		}
		w.places = append(w.places, own)
		w.days = append(w.days, &dayTexts{options: o, out: w.out, first: own.attributes})
	}
	w.months = &months{counts: map[int]*Moved{}}
	w.moments = make([]datetext.Moment, len(w.readers))
	w.states = make([]reading.State, len(w.readers))
	w.counted, w.written = make([]civil.Day, len(w.readers)), make([]civil.Day, len(w.readers))
	w.beyond, w.changes = make([]string, len(w.readers)), make([]datetext.Change, len(w.readers))
	w.moves = o.Clock != reading.Clock{}
}

// places are where the columns that a date adds stand among all that are added; -1 for one that
// is left out.
type places struct{ date, time, business, key, attributes int }

func (w *worker) work(from *rows.Batch) (*batch, error) {
	b := w.pool.Get().(*batch)
	*b = batch{out: b.out[:0], rejected: b.rejected[:0],
		report: Report{Blanks: make([]int, len(w.readers)), Ranges: make([]reading.Range, len(w.readers))}}
	if most := from.Size() * 7 / 4; cap(b.out) < most {
		b.out = make([]byte, 0, most)
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
			w.reject(b, &row, "", string(row.Raw()), w.raggedReason(&row))
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
		if unread := slices.Index(w.states, reading.Unreadable); unread >= 0 {
			w.reject(b, &row, w.options.Dates[unread].Name, w.readers[unread].Value(&row), w.reason(&row, unread))
			continue
		}
		b.report.Out++
		if b.parts != nil {
			b.out = b.out[:0]
		}
		start := len(b.out)
		b.out = w.out.Begin(b.out, &row)
		for i := range w.readers {
			if w.states[i] == reading.Blank {
				b.report.Blanks[i]++
				b.out = w.appendFields(b.out, i)
				continue
			}
			b.out = w.appendDate(b, i)
		}
		if len(b.report.First) < maxFirst && slices.Contains(w.states, reading.Read) {
			b.report.First = append(b.report.First, w.shown(&row))
		}
		if row.MayHaveBreak() || len(w.options.Added) > 0 {
			b.breaks += bytes.Count(b.out[start:], lineBreak)
		}
		b.out = w.out.End(b.out)
		if b.parts != nil {
			w.part(b)
		}
	}
	return b, from.Err()
}

// shown returns the value of the first date of a row, and what is added behind the row.
func (w *worker) shown(row *rows.Row) []string {
	texts := []string{w.readers[0].Value(row)}
	for i := range w.readers {
		w.fields(i, func(_ int, text []byte) { texts = append(texts, string(text)) })
	}
	return texts
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
func (w *worker) move(row *rows.Row) error {
	for i, state := range w.states {
		w.beyond[i] = ""
		if state != reading.Read {
			continue
		}
		moved, counted, change, zoned := w.options.Clock.Move(w.moments[i])
		if !zoned {
			return w.readers[i].NoZone(row)
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
func (w *worker) why(i int, row *rows.Row) string {
	if w.moves && w.beyond[i] != "" {
		return w.beyond[i]
	}
	return w.readers[i].Why(row)
}

// appendDate appends what a date adds to its row, and counts it.
func (w *worker) appendDate(b *batch, i int) []byte {
	moment := w.moments[i]
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
	days := w.days[i]
	day := days.of(moment.Day)
	b.report.Ranges[i].Add(moment.Day)
	w.profiles[i].Add(moment)
	if w.plain && moment.Clock == datetext.Seconds && len(day.key) == len(day.key8) {
		if i == 0 {
			w.months.count(day.month, day.month)
		}
		return append(w.appendPlain(b.out, day, moment), day.added...)
	}
	line := w.appendFields(b.out, i)
	if i > 0 {
		return line
	}
	counted := day
	if w.countsBusiness(i) {
		counted = days.of(business)
	}
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
	month := counted.month
	w.months.count(days.of(written).month, month)
	return line
}

// countsBusiness tells whether a date counts to a day of business of its own.
func (w *worker) countsBusiness(i int) bool {
	return w.timed[i] && w.options.Clock.DayStarts != nil
}

func (w *worker) appendFields(line []byte, i int) []byte {
	w.fields(i, func(column int, text []byte) { line = w.out.Add(line, column, text) })
	return line
}

// fields calls add with each column that a date adds and its text: the day, the time of day,
// the day of business, the key and the attributes of the day. A date that is blank has a key
// at most.
func (w *worker) fields(i int, add func(column int, text []byte)) {
	at, isBlank := w.places[i], w.states[i] == reading.Blank
	give := func(column int, text []byte) {
		if column >= 0 {
			add(column, text)
		}
	}
	if isBlank {
		give(at.date, nil)
		give(at.time, nil)
		give(at.business, nil)
		give(at.key, []byte(w.options.BlankKey))
		w.days[i].blanks(add)
		return
	}
	moment := w.moments[i]
	day := w.days[i].of(moment.Day)
	give(at.date, day.date[:])
	if at.time >= 0 {
		// As finely as the value itself tells it: no seconds are made up.
		w.text = moment.AppendTime(w.text[:0], moment.Clock)
		add(at.time, w.text)
	}
	if w.countsBusiness(i) {
		business := moment.Day
		if w.moves {
			business = w.counted[i]
		}
		day = w.days[i].of(business)
		give(at.business, day.date[:])
	}
	give(at.key, day.key)
	for column, value := range day.values {
		add(at.attributes+column, value)
	}
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
	to[0], to[11], to[20] = w.tight.Delimiter, w.tight.Delimiter, w.tight.Delimiter
	*(*[10]byte)(to[1:]) = day.date
	to[12], to[13], to[14] = byte('0'+hour/10), byte('0'+hour%10), ':'
	to[15], to[16], to[17] = byte('0'+minute/10), byte('0'+minute%10), ':'
	to[18], to[19] = byte('0'+second/10), byte('0'+second%10)
	*(*[8]byte)(to[21:]) = day.key8
	return line
}

// reason says why the dates of a row cannot be read.
func (w *worker) reason(row *rows.Row, unread int) string {
	reason := w.why(unread, row)
	for i := unread + 1; i < len(w.readers); i++ {
		if w.states[i] == reading.Unreadable {
			reason += fmt.Sprintf("; and %s %q %s", w.options.Dates[i].Name, w.readers[i].Value(row), w.why(i, row))
		}
	}
	return reason
}

// raggedReason says in words that a row has more or fewer fields than it should.
func (w *worker) raggedReason(row *rows.Row) string {
	return rows.RaggedReason(row.Ragged()-w.rejectsBefore(), row.Len()-w.rejectsBefore())
}

// rejectsBefore returns how many columns of the source an earlier run has added to rejects.
func (w *worker) rejectsBefore() int {
	if IsRejects(w.source) {
		return len(rejectColumns)
	}
	return 0
}

// reject sets a row apart, which can be mended and read in again.
func (w *worker) reject(b *batch, row *rows.Row, column, value, reason string) {
	b.report.Rejected++
	if len(w.source.Parts) > 1 {
		reason += " (" + row.Part().Name + ")"
	}
	start := len(b.rejected)
	line, isBegun := b.rejected, false
	if tight, ok := w.rejected.(*delimited.Extender); ok && row.Ragged() > 0 {
		if line, isBegun = tight.BeginRagged(line, row, w.rejectsBefore()); isBegun {
			value = string(line[start:])
		}
	}
	if !isBegun {
		line = w.rejected.Begin(line, row)
	}
	for i, text := range []string{strconv.Itoa(row.Line), column, value, reason} {
		line = w.rejected.Add(line, i, []byte(text))
	}
	b.rejectedBreaks += bytes.Count(line[start:], lineBreak)
	b.rejected = w.rejected.End(line)
}
