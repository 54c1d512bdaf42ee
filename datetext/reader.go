package datetext

import (
	"strings"

	"roundyear/civil"
)

// follows tells whether the reader reads texts of the tally's shape by their
// positions.
func (r *Reader) follows(t *tally) bool {
	if r.tally == t {
		return true
	}
	if r.last == nil || r.last.layout == nil || len(t.candidates) == 0 || t.candidates[0].layout == nil || t.shape != string(r.lastShape) {
		return false
	}
	r.tally = t
	return true
}

// Reader reads the values of a column in the way that was decided. It is for
// one goroutine; Clone makes another.
type Reader struct {
	only    *Pattern
	byShape map[string]*candidate
	forms   []string
	// isTimed tells that values have times of day, so that a whole serial day is midnight.
	isTimed   bool
	last      *candidate
	lastShape []byte
	buffer    []byte
	// tally is one whose shape is that of last.
	tally *tally
	// known are the dates that were read before by the layout of last.
	known knownDates
	// first is the first day of the month that was read last.
	year, month int
	first       civil.Day
}

// Clone returns a reader for another goroutine.
func (r *Reader) Clone() *Reader {
	return &Reader{only: r.only, byShape: r.byShape, forms: r.forms, isTimed: r.isTimed}
}

// Read reads a value that is not blank. It is false when the value cannot be
// read; Why then says the reason.
func (r *Reader) Read(value []byte) (Moment, bool) {
	value = trim(value)
	if r.last != nil && r.last.layout != nil && r.last.layout.fits(value) {
		return r.readByLayout(r.last.layout, value)
	}
	value = latin(value)
	pattern := r.patternFor(value)
	if pattern != nil {
		if moment, ok := pattern.Read(value); ok || pattern.scans(value) {
			if r.isTimed && moment.Clock == NoTime && pattern.number != nil {
				moment.Clock = Seconds
			}
			return moment, ok
		}
	}
	plain, ok := withoutWords(value)
	if !ok {
		return Moment{}, false
	}
	if pattern = r.patternFor(plain); pattern == nil {
		return Moment{}, false
	}
	return pattern.Read(plain)
}

func (r *Reader) readByLayout(l *layout, value []byte) (Moment, bool) {
	seconds, ok := l.seconds(value)
	known, isKnown := r.known.place(value[l.dateFrom:l.dateTo])
	if isKnown && ok && seconds != endOfDay {
		return Moment{Day: known.day, Nanos: int64(seconds) * 1e9, Clock: l.clock}, true
	}
	year, month, day := l.date(value)
	if !ok || !isMoment(year, month, day, seconds) {
		return Moment{}, false
	}
	moment := r.moment(l, year, month, day, seconds)
	if seconds != endOfDay {
		r.known.know(known, year, moment.Day, notCounted)
	}
	return moment, true
}

func (r *Reader) moment(l *layout, year, month, day, seconds int) Moment {
	if year != r.year || month != r.month {
		r.year, r.month, r.first = year, month, civil.FirstOfMonth(year, civil.Month(month))
	}
	if seconds == endOfDay {
		day, seconds = day+1, 0
	}
	return Moment{Day: r.first + civil.Day(day-1), Nanos: int64(seconds) * 1e9, Clock: l.clock}
}

// Why says in words why a value cannot be read.
func (r *Reader) Why(value []byte) string {
	value = latin(trim(value))
	pattern := r.patternFor(value)
	if pattern == nil || !pattern.scans(value) {
		if plain, ok := withoutWords(value); ok {
			if own := r.patternFor(plain); own != nil {
				return own.Why(plain)
			}
		}
	}
	if pattern != nil {
		return pattern.Why(value)
	}
	return "is not a date in the format " + strings.Join(r.forms, " or ")
}

func (r *Reader) patternFor(value []byte) *Pattern {
	r.buffer = shapeOf(r.buffer[:0], value)
	if r.last == nil || string(r.buffer) != string(r.lastShape) {
		r.lastShape = append(r.lastShape[:0], r.buffer...)
		r.tally = nil
		r.known.forget()
		if r.only != nil {
			r.last = &candidate{pattern: r.only, layout: layoutOf(r.only, string(r.buffer))}
		} else {
			r.last = r.byShape[string(r.buffer)]
		}
	}
	if r.last == nil {
		return nil
	}
	return r.last.pattern
}
