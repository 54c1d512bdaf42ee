package datetext

import (
	"encoding/binary"

	"roundyear/civil"
)

// layout is where the numbers of a pattern stand in texts of one shape. Most
// columns have one shape throughout, and a text of known shape is held against
// it eight bytes at a time.
type layout struct {
	length int
	words  []layoutWord
	// The places of the first and last digit of the numbers; none is -1.
	year                 int
	month, day           place
	hour, minute, second place
	hasTime              bool
	// dateFrom and dateTo are where the date stands, without the time.
	dateFrom, dateTo int
	clock            Resolution
}

// layoutWord holds eight bytes of a text against the shape: those that differ
// from expected are digits, which differ from '0' by at most 9, or faults. The
// sum with slack then has its high bit set in a byte that is at fault.
type layoutWord struct {
	at              int
	expected, slack uint64
}

// place is where a number of one or two digits stands.
type place struct{ first, last int }

const (
	highBits     = 0x8080808080808080
	digitSlack   = 0x7f - 9
	literalSlack = 0x7f
)

// layoutOf returns the layout of a pattern for texts of a shape; nil when a
// field of it is not a plain number, or the text is too short for it to help.
func layoutOf(pattern *Pattern, shape string) *layout {
	if pattern.form != byMonthAndDay || pattern.pivot > 0 || pattern.number != nil || pattern.labels != nil {
		return nil
	}
	none := place{-1, -1}
	l := &layout{length: len(shape), clock: pattern.clock, year: -1, month: none, day: none, hour: none, minute: none, second: none}
	at := 0
	for _, s := range pattern.steps {
		switch s.field {
		case 0:
			if len(shape) < at+len(s.literal) || shape[at:at+len(s.literal)] != s.literal {
				return nil
			}
			at += len(s.literal)
			continue
		case 'y', 'M', 'd', 'H', 'm', 's':
		default:
			return nil
		}
		width := digitsAt(shape[min(at, len(shape)):])
		if s.exact > 0 {
			width = min(s.exact, width)
		}
		if width == 0 || width > 2 && s.field != 'y' || s.field == 'y' && width != 4 {
			return nil
		}
		where := place{at, at + width - 1}
		switch s.field {
		case 'y':
			l.year = at
		case 'M':
			l.month = where
		case 'd':
			l.day = where
		case 'H':
			l.hour, l.hasTime = where, true
		case 'm':
			l.minute = where
		case 's':
			l.second = where
		}
		at += width
	}
	if at != len(shape) || len(shape) < 8 || l.year < 0 || l.month.first < 0 || l.day.first < 0 {
		return nil
	}
	l.dateFrom = min(l.year, l.month.first, l.day.first)
	l.dateTo = max(l.year+4, l.month.last+1, l.day.last+1)
	for at := 0; at < len(shape); at += 8 {
		l.words = append(l.words, wordOf(shape, min(at, len(shape)-8)))
	}
	return l
}

func wordOf(shape string, at int) layoutWord {
	var expected, slack [8]byte
	for i := range 8 {
		expected[i], slack[i] = shape[at+i], literalSlack
		if shape[at+i] == '0' {
			slack[i] = digitSlack
		}
	}
	return layoutWord{at, binary.LittleEndian.Uint64(expected[:]), binary.LittleEndian.Uint64(slack[:])}
}

// fits tells whether a text has the shape of the layout.
func (l *layout) fits(text []byte) bool {
	if len(text) != l.length {
		return false
	}
	for i := range l.words {
		w := &l.words[i]
		differs := binary.LittleEndian.Uint64(text[w.at:]) ^ w.expected
		if (differs|(differs+w.slack))&highBits != 0 {
			return false
		}
	}
	return true
}

// number reads the digits of a place of a text that fits.
func (p place) number(text []byte) int {
	number := int(text[p.last] - '0')
	if p.first != p.last {
		number += 10 * int(text[p.first]-'0')
	}
	return number
}

// date reads the year, month and day of a text that fits.
func (l *layout) date(text []byte) (year, month, day int) {
	digits := text[l.year : l.year+4]
	year = 1000*int(digits[0]-'0') + 100*int(digits[1]-'0') + 10*int(digits[2]-'0') + int(digits[3]-'0')
	return year, l.month.number(text), l.day.number(text)
}

// seconds reads the time of day of a text that fits, in seconds since
// midnight. It is false when there is no such time.
func (l *layout) seconds(text []byte) (seconds int, ok bool) {
	if !l.hasTime {
		return 0, true
	}
	hour, minute, second := l.hour.number(text), l.minute.number(text), 0
	if l.second.first >= 0 {
		second = l.second.number(text)
	}
	seconds = hour*3600 + minute*60 + second
	return seconds, hour < 24 && minute < 60 && second < 60 || seconds == endOfDay && hour == 24
}

// endOfDay is 24:00, which is 00:00 of the next day.
const endOfDay = 24 * 60 * 60

// isMoment tells whether there is such a day, and such a time of it.
func isMoment(year, month, day, seconds int) bool {
	return isDay(year, month, day) && (seconds < endOfDay || year < 9999 || month < 12 || day < 31)
}

// isDay tells whether there is such a day.
func isDay(year, month, day int) bool {
	return year >= 1 && month >= 1 && month <= 12 && day >= 1 && day <= civil.DaysIn(year, civil.Month(month))
}
