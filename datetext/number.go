package datetext

import (
	"fmt"
	"math/bits"

	"roundyear/civil"
)

// Numbers that stand for moments are read only where a pattern asks for them by
// name: no number looks like a date.
var numberPatterns = map[string]number{
	"serial": {serial: true}, "serial1904": {serial: true, from1904: true},
	"julian": {julian: true},
	"unix":   {perSecond: 1}, "unix_ms": {perSecond: 1e3}, "unix_us": {perSecond: 1e6}, "unix_ns": {perSecond: 1e9},
}

// number is how a number stands for a moment: as a spreadsheet's serial day, as a Julian day,
// or as so many parts of seconds since 1970-01-01T00:00Z.
type number struct {
	serial, from1904, julian bool
	perSecond                int64
}

// The largest serial days, which are 9999-12-31 in both systems.
const (
	lastSerial     = 2958465
	lastSerial1904 = 2957003
)

const millisPerDay = 24 * 60 * 60 * 1000

// read reads a decimal number as a moment, or says why it is none.
func (n number) read(text []byte) (Moment, string) {
	negative := len(text) > 0 && text[0] == '-'
	digits := text
	if negative {
		digits = text[1:]
	}
	whole, used := int64(0), 0
	for used < len(digits) && isDigit(digits[used]) && used < 19 {
		whole = whole*10 + int64(digits[used]-'0')
		used++
	}
	fraction := digits[used:]
	if used == 0 || whole < 0 || len(fraction) == 1 || len(fraction) > 0 && fraction[0] != '.' {
		return Moment{}, "is not a number"
	}
	for i := 1; i < len(fraction); i++ {
		if !isDigit(fraction[i]) {
			return Moment{}, "is not a number"
		}
	}
	if negative {
		whole = -whole
	}
	if n.serial {
		return n.readSerial(whole, fraction)
	}
	if n.julian {
		return readJulian(whole, fraction)
	}
	if len(fraction) > 0 {
		return Moment{}, "is not a whole number"
	}
	seconds, rest := whole/n.perSecond, whole%n.perSecond
	if rest < 0 {
		seconds, rest = seconds-1, rest+n.perSecond
	}
	days, second := seconds/86400, seconds%86400
	if second < 0 {
		days, second = days-1, second+86400
	}
	if days < int64(civil.MinDay) || days > int64(civil.MaxDay) {
		return Moment{}, "is not a time of the years 1 to 9999"
	}
	clock := Seconds
	for parts := n.perSecond; parts > 1; parts /= 10 {
		clock++
	}
	return Moment{Day: civil.Day(days), Nanos: second*1e9 + rest*(1e9/n.perSecond), Clock: clock, HasOffset: true}, ""
}

// readSerial reads a serial day. Its fraction is snapped to the millisecond,
// since spreadsheets keep it in binary and write its noise, but never up to the
// next day.
func (n number) readSerial(day int64, fraction []byte) (Moment, string) {
	first, last := int64(1), int64(lastSerial)
	if n.from1904 {
		first, last = 0, lastSerial1904
	}
	if day < first || day > last {
		return Moment{}, fmt.Sprintf("is not a serial day from %d to %d", first, last)
	}
	millis := min(snapped(fraction), millisPerDay-1)
	moment := Moment{Nanos: millis * 1e6}
	switch {
	case len(fraction) > 0 && millis%1000 != 0:
		moment.Clock = Seconds + 3
	case len(fraction) > 0:
		moment.Clock = Seconds
	}
	switch {
	case n.from1904:
		moment.Day = civil.MustOf(1904, civil.January, 1) + civil.Day(day)
	case day == 60:
		return Moment{}, "is 1900-02-29, a day that exists in spreadsheets only"
	case day < 60:
		moment.Day = civil.MustOf(1899, civil.December, 31) + civil.Day(day)
	default:
		moment.Day = civil.MustOf(1899, civil.December, 30) + civil.Day(day)
	}
	if moment.Day > civil.MaxDay {
		return Moment{}, "is after the year 9999"
	}
	return moment, ""
}

// julian1970 is the Julian day that begins at noon of 1970-01-01 in UTC.
const julian1970 = 2440588

// readJulian reads a Julian day, which begins at noon in UTC. Its fraction is snapped to the
// millisecond, which is about what numbers of 64 bits keep of it.
func readJulian(day int64, fraction []byte) (Moment, string) {
	millis := snapped(fraction)
	if isBeforeHalf(fraction) {
		millis = min(millis, millisPerDay/2-1)
	}
	if millis += millisPerDay / 2; millis >= millisPerDay {
		day, millis = day+1, millis-millisPerDay
	}
	day -= julian1970
	if day < int64(civil.MinDay) || day > int64(civil.MaxDay) {
		return Moment{}, "is not a Julian day of the years 1 to 9999"
	}
	moment := Moment{Day: civil.Day(day), Nanos: millis * 1e6, Clock: Seconds, HasOffset: true}
	if millis%1000 != 0 {
		moment.Clock = Seconds + 3
	}
	return moment, ""
}

// isBeforeHalf tells whether a fraction, as .49, is less than half a day.
func isBeforeHalf(fraction []byte) bool { return len(fraction) < 2 || fraction[1] < '5' }

// snapped returns a fraction of a day, as .75, to the nearest millisecond.
func snapped(fraction []byte) int64 {
	var parts, scale uint64 = 0, 1
	for i := 1; i < len(fraction) && i <= 17; i++ {
		parts, scale = parts*10+uint64(fraction[i]-'0'), scale*10
	}
	high, low := bits.Mul64(parts, millisPerDay)
	low, carry := bits.Add64(low, scale/2, 0)
	millis, _ := bits.Div64(high+carry, low, scale)
	return int64(millis)
}
