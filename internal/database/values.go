package database

import (
	"bytes"
	"math"
	"strconv"

	"roundyear/civil"
	"roundyear/rows"
)

// AppendValue appends a value as a server writes it to the vector of its column. It is false for one that the type of the column does not
// have, such as NaN among decimals.
func AppendValue(v *rows.Vector, text []byte) bool {
	switch v.Type {
	case rows.Text:
		v.AppendBytes(text)
		return true
	case rows.Integer:
		number, ok := integer(text)
		v.Int = append(v.Int, number)
		return ok
	case rows.Decimal:
		number, ok := fixed(text, int(v.Scale))
		v.Int = append(v.Int, number)
		return ok
	case rows.Float:
		number, err := strconv.ParseFloat(string(text), 64)
		v.Int = append(v.Int, int64(math.Float64bits(number)))
		return err == nil
	case rows.Bool:
		is := int64(0)
		if len(text) > 0 && (text[0] == 't' || text[0] == '1') {
			is = 1
		}
		v.Int = append(v.Int, is)
		return true
	case rows.Clock:
		value, ok := clock(text, v.Scale)
		v.Int = append(v.Int, value)
		return ok
	case rows.Day:
		value, rest, ok := day(text)
		v.Int = append(v.Int, value)
		return ok && len(rest) == 0
	}
	value, ok := moment(text, v.Scale)
	v.Int = append(v.Int, value)
	return ok
}

// integer reads a whole number of 64 bits.
func integer(text []byte) (int64, bool) {
	if len(text) > 18 {
		number, err := strconv.ParseInt(string(text), 10, 64)
		return number, err == nil
	}
	digits := bytes.TrimPrefix(text, []byte{'-'})
	number, ok := digitsOf(digits)
	if len(digits) < len(text) {
		number = -number
	}
	return number, ok
}

// digitsOf reads up to 18 digits.
func digitsOf(text []byte) (number int64, ok bool) {
	for _, c := range text {
		if c < '0' || c > '9' {
			return 0, false
		}
		number = number*10 + int64(c-'0')
	}
	return number, len(text) > 0 && len(text) <= 18
}

// fixed reads a number with at most so many decimals as units of that scale.
func fixed(text []byte, scale int) (int64, bool) {
	number, decimals, negative := int64(0), -1, false
	for i, c := range text {
		switch {
		case c == '-' && i == 0:
			negative = true
		case c == '.' && decimals < 0:
			decimals = 0
		case c < '0' || c > '9':
			return 0, false
		default:
			number = number*10 + int64(c-'0')
			if decimals >= 0 {
				decimals++
			}
		}
	}
	for decimals = max(decimals, 0); decimals < scale; decimals++ {
		number *= 10
	}
	if negative {
		number = -number
	}
	return number, len(text) > 0 && decimals == scale
}

const secondsOfDay = 24 * 60 * 60

// day reads a day, of any year that a server may have, and returns what stands behind it. Infinite ones are the first and the last number.
func day(text []byte) (value int64, rest []byte, ok bool) {
	if len(text) >= 10 && text[4] == '-' && text[7] == '-' && (len(text) == 10 || text[10] == ' ' || text[10] == 'T') && !bytes.HasSuffix(text, []byte(" BC")) {
		year, isYear := digitsOf(text[:4])
		month, isMonth := digitsOf(text[5:7])
		dayOfMonth, isDay := digitsOf(text[8:10])
		if isYear && isMonth && isDay {
			if found, isThere := civil.Of(int(year), civil.Month(month), int(dayOfMonth)); isThere {
				return int64(found), text[10:], true
			}
		}
	}
	switch string(text) {
	case "infinity":
		return rows.Infinite, nil, true
	case "-infinity":
		return -rows.Infinite - 1, nil, true
	}
	return farDay(text)
}

// farDay reads a day before the year 1 or after 9999, by moving it by whole cycles of 400 years.
func farDay(text []byte) (value int64, rest []byte, ok bool) {
	const cycleYears, cycleDays = 400, 146097
	own, isBC := bytes.CutSuffix(text, []byte(" BC"))
	date, rest, _ := bytes.Cut(own, []byte{' '})
	parts := bytes.Split(date, []byte{'-'})
	if len(parts) != 3 {
		return 0, nil, false
	}
	year, isYear := digitsOf(parts[0])
	month, isMonth := digitsOf(parts[1])
	dayOfMonth, isDay := digitsOf(parts[2])
	if !isYear || !isMonth || !isDay {
		return 0, nil, false
	}
	if isBC {
		year = 1 - year
	}
	cycles := (year - 2000) / cycleYears
	found, isThere := civil.Of(int(year-cycles*cycleYears), civil.Month(month), int(dayOfMonth))
	if len(rest) > 0 {
		rest = own[len(date):]
	}
	return int64(found) + cycles*cycleDays, rest, isThere
}

// clock reads a time of day as units of a scale.
func clock(text []byte, scale uint8) (int64, bool) {
	if len(text) < 8 || text[2] != ':' || text[5] != ':' {
		return 0, false
	}
	hour, isHour := digitsOf(text[:2])
	minute, isMinute := digitsOf(text[3:5])
	second, isSecond := digitsOf(text[6:8])
	value := hour*3600 + minute*60 + second
	fraction := text[8:]
	if len(fraction) > 0 && fraction[0] == '.' {
		fraction = fraction[1:]
	}
	for i := range int(scale) {
		value *= 10
		if i < len(fraction) {
			if fraction[i] < '0' || fraction[i] > '9' {
				return 0, false
			}
			value += int64(fraction[i] - '0')
		}
	}
	return value, isHour && isMinute && isSecond
}

// moment reads a day and a time of day as units of a scale since 1970. An offset of UTC behind it is +00.
func moment(text []byte, scale uint8) (int64, bool) {
	on, rest, ok := day(text)
	if !ok || isInfinite(on) {
		return on, ok
	}
	unit := int64(1)
	for range scale {
		unit *= 10
	}
	if most := math.MaxInt64/(secondsOfDay*unit) - 1; on > most || on < -most {
		return 0, false // which PostgreSQL has for 30 years more
	}
	value := on * secondsOfDay * unit
	if len(rest) == 0 {
		return value, true
	}
	rest = bytes.TrimSuffix(rest[1:], []byte("+00"))
	time, ok := clock(rest, scale)
	return value + time, ok
}
