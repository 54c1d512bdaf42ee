package datetext

import (
	"fmt"

	"roundyear/civil"
)

// fields is what a text says, before it is known to be a real day and time.
type fields struct {
	year, month, day     int
	hour, minute, second int
	nanos, decimals      int
	half                 byte // 'a' or 'p' of AM or PM
	week, dayOfWeek      int
	dayOfYear, quarter   int
	weekday              civil.Weekday
	name                 []byte
	offset               int
	hasOffset            bool
}

// Read reads a text. It is false when the text does not have the pattern's
// form or names a day or a time that does not exist; Why then says which.
func (p *Pattern) Read(text []byte) (Moment, bool) {
	if p.number != nil {
		moment, why := p.number.read(text)
		return moment, why == ""
	}
	if p.labels != nil {
		day, ok := p.labels.find(string(text))
		return Moment{Day: day}, ok
	}
	var f fields
	if !p.scan(text, &f) {
		return Moment{}, false
	}
	return f.moment(p)
}

// scans tells whether a text has the form of the pattern, whatever day it names.
func (p *Pattern) scans(text []byte) bool {
	if p.number != nil || p.labels != nil {
		return true
	}
	var f fields
	return p.scan(text, &f)
}

// Why says in words why a text cannot be read with the pattern.
func (p *Pattern) Why(text []byte) string {
	if p.number != nil {
		_, why := p.number.read(text)
		return why
	}
	if p.labels != nil {
		return "is not the label of a " + p.labels.grain + " of the calendars"
	}
	var f fields
	if !p.scan(text, &f) {
		return "is not a date in the format " + p.ldml
	}
	day, why := f.date(p)
	if why == "" && f.weekday != 0 && day.Weekday() != f.weekday {
		why = fmt.Sprintf("%s is a %s, not a %s", day, day.Weekday(), f.weekday)
	}
	if why != "" {
		return "read as " + p.ldml + ", but " + why
	}
	if _, ok := f.moment(p); !ok {
		return "read as " + p.ldml + ", but there is no such time of day"
	}
	return ""
}

// date returns the day, or says why there is none.
func (f *fields) date(p *Pattern) (civil.Day, string) {
	year, month, dayOfMonth := f.year, f.month, f.day
	if p.pivot > 0 {
		if year += p.pivot - p.pivot%100; year < p.pivot {
			year += 100
		}
	}
	switch p.form {
	case byMonth:
		dayOfMonth = 1
	case byYear:
		month, dayOfMonth = 1, 1
	case byQuarter:
		if f.quarter < 1 || f.quarter > 4 {
			return 0, fmt.Sprintf("there is no quarter %d", f.quarter)
		}
		month, dayOfMonth = f.quarter*3-2, 1
	case byDayOfYear:
		first, ok := civil.Of(year, civil.January, 1)
		if day := first + civil.Day(f.dayOfYear-1); ok && f.dayOfYear >= 1 && day.Year() == year {
			return day, ""
		}
		return 0, fmt.Sprintf("the year %d has no day %d", year, f.dayOfYear)
	case byWeek:
		if f.dayOfWeek == 0 {
			f.dayOfWeek = 1
		}
		day, ok := civil.OfISOWeek(year, f.week, civil.Weekday(f.dayOfWeek))
		if !ok {
			return 0, fmt.Sprintf("the year %d has no day %d of a week %d", year, f.dayOfWeek, f.week)
		}
		return day, ""
	}
	day, ok := civil.Of(year, civil.Month(month), dayOfMonth)
	if !ok {
		return 0, civil.WhyNoDay(year, civil.Month(month), dayOfMonth)
	}
	return day, ""
}

func (f *fields) moment(p *Pattern) (Moment, bool) {
	day, ok := civil.Of(f.year, civil.Month(f.month), f.day)
	if p.form != byMonthAndDay || p.pivot > 0 {
		var why string
		day, why = f.date(p)
		ok = why == ""
	}
	if !ok || f.weekday != 0 && day.Weekday() != f.weekday {
		return Moment{}, false
	}
	if p.clock == NoTime {
		return Moment{Day: day}, true
	}
	hour := f.hour
	if f.half != 0 {
		if hour < 1 || hour > 12 {
			return Moment{}, false
		}
		if hour %= 12; f.half == 'p' {
			hour += 12
		}
	}
	if hour == 24 && f.half == 0 && f.minute+f.second+f.nanos == 0 && day < civil.MaxDay {
		day, hour = day+1, 0 // the end of the day, by ISO 8601
	}
	if hour > 23 || f.minute > 59 || f.second > 59 {
		return Moment{}, false
	}
	clock := p.clock
	if clock > Seconds {
		clock = Seconds + Resolution(f.decimals)
	}
	return Moment{Day: day, Nanos: int64(hour*3600+f.minute*60+f.second)*1e9 + int64(f.nanos), Clock: clock, Offset: int32(f.offset), HasOffset: f.hasOffset}, true
}

func (p *Pattern) scan(text []byte, f *fields) bool {
	for i := range p.steps {
		s := &p.steps[i]
		used := 0
		switch s.field {
		case 0:
			used = scanLiteral(text, s.literal)
		case 'y', 'Y':
			f.year, used = scanNumber(text, s.exact, s.exact)
		case 'D':
			f.dayOfYear, used = scanNumber(text, s.exact, 3)
		case 'w':
			f.week, used = scanNumber(text, s.least(), 2)
		case 'e':
			f.dayOfWeek, used = scanNumber(text, 1, 1)
		case 'Q':
			f.quarter, used = scanNumber(text, 1, 1)
		case 'E':
			for used < len(text) && isLetter(text[used]) {
				used++
			}
			if f.weekday = weekdayOf(text[:used]); f.weekday == 0 {
				return false
			}
		case 'M':
			f.month, used = scanNumber(text, s.least(), 2)
		case 'd':
			f.day, used = scanNumber(text, s.least(), 2)
		case 'H', 'h':
			f.hour, used = scanNumber(text, s.least(), 2)
		case 'm':
			f.minute, used = scanNumber(text, 2, 2)
		case 's':
			f.second, used = scanNumber(text, 2, 2)
		case 'S':
			used = f.scanFraction(text)
		case 'N':
			used = nameLength(text)
			f.name = text[:used]
			if p.language != nil {
				f.month = int(p.language.month(f.name))
			} else {
				f.month = int(anyMonth(f.name))
			}
			if f.month == 0 {
				return false
			}
		case 'a':
			used = f.scanHalf(text)
		case 'X':
			f.offset, used = scanOffset(text)
			f.hasOffset = true
		}
		if used == 0 {
			return false
		}
		text = text[used:]
	}
	return len(text) == 0
}

func (s *step) least() int {
	if s.exact == 2 {
		return 2
	}
	return 1
}

func scanNumber(text []byte, least, most int) (number, used int) {
	for used < len(text) && used < most && isDigit(text[used]) {
		number = number*10 + int(text[used]-'0')
		used++
	}
	if used < least {
		return 0, 0
	}
	return number, used
}

// scanLiteral matches a literal; a space matches any run of spaces, also those
// that do not break.
func scanLiteral(text []byte, literal string) int {
	if literal != " " {
		if len(text) < len(literal) || string(text[:len(literal)]) != literal {
			return 0
		}
		return len(literal)
	}
	used := 0
	for {
		width := spaceAt(text[used:])
		if width == 0 {
			return used
		}
		used += width
	}
}

func (f *fields) scanFraction(text []byte) int {
	used, unit := 0, 100_000_000
	for used < len(text) && isDigit(text[used]) {
		if used < 9 {
			f.nanos += int(text[used]-'0') * unit
			unit /= 10
		}
		used++
	}
	f.decimals = min(used, 9)
	return used
}

func (f *fields) scanHalf(text []byte) int {
	if len(text) < 2 || text[1]|0x20 != 'm' {
		return 0
	}
	if f.half = text[0] | 0x20; f.half != 'a' && f.half != 'p' {
		return 0
	}
	return 2
}

// scanOffset reads Z or an offset from UTC such as +01:00 or -0330, in seconds
// to the east.
func scanOffset(text []byte) (seconds, used int) {
	if len(text) == 0 {
		return 0, 0
	}
	if text[0] == 'Z' || text[0] == 'z' {
		return 0, 1
	}
	if text[0] != '+' && text[0] != '-' {
		return 0, 0
	}
	hours, used := scanNumber(text[1:], 2, 2)
	if used == 0 || hours > 23 {
		return 0, 0
	}
	used++
	rest := text[used:]
	colon := 0
	if len(rest) > 0 && rest[0] == ':' {
		colon = 1
	}
	minutes, width := scanNumber(rest[colon:], 2, 2)
	if width > 0 && minutes < 60 {
		used += colon + width
	} else {
		minutes = 0
	}
	seconds = hours*3600 + minutes*60
	if text[0] == '-' {
		seconds = -seconds
	}
	return seconds, used
}

func isDigit(c byte) bool { return '0' <= c && c <= '9' }

func isLetter(c byte) bool { return 'a' <= c|0x20 && c|0x20 <= 'z' }

// spaceAt returns the width in bytes of the space that a text begins with: a
// space, a tab, a no-break space (U+00A0) or a narrow one (U+202F); 0 for none.
func spaceAt(text []byte) int {
	switch {
	case len(text) > 0 && (text[0] == ' ' || text[0] == '\t'):
		return 1
	case len(text) > 1 && text[0] == 0xC2 && text[1] == 0xA0:
		return 2
	case len(text) > 2 && text[0] == 0xE2 && text[1] == 0x80 && text[2] == 0xAF:
		return 3
	}
	return 0
}
