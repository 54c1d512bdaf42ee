package normalise

import (
	"slices"

	"roundyear/datetext"
	"roundyear/internal/reading"
)

// places are where the columns that a date adds stand among all that are added; -1 for one that
// is left out.
type places struct{ date, time, business, key, grain, attributes int }

// count counts what a date adds to its row, and returns what stands in rows of its day.
func (w *worker) count(b *batch, i int) *dayText {
	moment := w.moments[i]
	days := w.days[i]
	day := days.of(moment.Day)
	b.report.Ranges[i].Add(moment.Day)
	w.profiles[i].Add(moment)
	written, counted := day, day
	if w.moves {
		switch w.changes[i] {
		case datetext.Doubled:
			b.report.Doubled++
		case datetext.Skipped:
			b.report.Skipped++
		}
		if i == 0 {
			written = days.of(w.written[i])
			if w.countsBusiness(i) {
				counted = days.of(w.counted[i])
			}
		}
	}
	if i > 0 {
		return day
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
	w.months.count(written.month, counted.month)
	return day
}

// appendDate appends what a date adds to its row, and counts it.
func (w *worker) appendDate(b *batch, i int) []byte {
	day, moment := w.count(b, i), w.moments[i]
	if w.plain && moment.Clock == datetext.Seconds && len(day.key) == len(day.key8) {
		return append(w.appendPlain(b.out, day, moment), day.added...)
	}
	return w.appendFields(b.out, i)
}

// countsBusiness tells whether a date counts to a day of business of its own.
func (w *worker) countsBusiness(i int) bool {
	return w.timed[i] && w.options.ClockOf(w.options.Dates[i]).DayStarts != nil
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
		give(at.grain, nil)
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
	if at.grain >= 0 {
		give(at.grain, []byte(w.options.Dates[i].Grain()))
	}
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
