package workbook

import (
	"bytes"
	"math"
	"strconv"

	"roundyear/civil"
	"roundyear/rows"
)

// kind is what a cell holds.
type kind uint8

const (
	blank kind = iota
	text
	// number is a number of units with so many decimals.
	number
	// wide is a number that does not fit into units.
	wide
	day
	moment
	clock
	truth
	// span is hours, minutes and seconds, as many as there are.
	span
	kinds
)

// value is what a cell holds.
type value struct {
	kind  kind
	text  []byte
	units int64
	// scale is how many decimals units have: those of a number, 3 or 0 of seconds.
	scale uint8
	// isPercent tells that a number is shown as percent.
	isPercent bool
	float     float64
}

// Numbers of workbooks have 64 bits with 15 digits that count, and a time of day has no more of them than
// tell its milliseconds.
const (
	maxDigits   = 15
	clockScale  = 3
	unitsOfDay  = 24 * 60 * 60 * 1000
	unitsSecond = 1000
)

// numberOf reads a number as it stands in a workbook, rounded to the digits that count.
func numberOf(text []byte) (value, bool) {
	if v, ok := plainNumber(text); ok {
		return v, true
	}
	f, err := strconv.ParseFloat(string(text), 64)
	if err != nil || math.IsInf(f, 0) || math.IsNaN(f) {
		return value{}, false
	}
	if f == 0 {
		return value{kind: number}, true
	}
	short := strconv.AppendFloat(nil, f, 'e', maxDigits-1, 64)
	mantissa, power, _ := bytes.Cut(short, []byte{'e'})
	exponent, _ := strconv.Atoi(string(power))
	mantissa = bytes.TrimRight(mantissa, "0")
	digits := bytes.Replace(mantissa, []byte{'.'}, nil, 1)
	if digits[0] == '-' {
		digits = digits[1:]
	}
	scale := len(digits) - 1 - exponent
	units, _ := strconv.ParseInt(string(digits), 10, 64)
	if f < 0 {
		units = -units
	}
	for ; scale < 0 && abs(units) < 1e17; scale++ {
		units *= 10
	}
	if scale < 0 || scale > maxScale {
		return value{kind: wide, float: f}, true
	}
	return value{kind: number, units: units, scale: uint8(scale), float: f}, true
}

// maxScale is how many decimals a column of decimals has at most.
const maxScale = 9

// plainNumber reads digits with a point or without.
func plainNumber(text []byte) (value, bool) {
	v := value{kind: number}
	digits, isNegative, hasPoint := 0, false, false
	for i, c := range text {
		switch {
		case c == '-' && i == 0:
			isNegative = true
		case c == '.' && !hasPoint:
			hasPoint = true
		case c >= '0' && c <= '9':
			v.units = v.units*10 + int64(c-'0')
			digits++
			if hasPoint {
				v.scale++
			}
		default:
			return value{}, false
		}
	}
	if digits == 0 || digits > maxDigits || v.scale > maxScale {
		return value{}, false
	}
	for v.scale > 0 && v.units%10 == 0 {
		v.units, v.scale = v.units/10, v.scale-1
	}
	if isNegative {
		v.units = -v.units
	}
	return v, true
}

func abs(n int64) int64 { return max(n, -n) }

// number64 returns the number as one of 64 bits.
func (v value) number64() float64 {
	if v.kind == wide {
		return v.float
	}
	return float64(v.units) / math.Pow10(int(v.scale))
}

var (
	firstDay = civil.MustOf(1899, civil.December, 31)
	first904 = civil.MustOf(1904, civil.January, 1)
)

// Serial days of 1900 and their limits: 60 is a 29 February 1900 that never was, and the day after
// 9999-12-31 is none.
const (
	noDay   = 60
	endDays = 2958466
)

// dated makes a number what its format shows. One that is no day by the calendar of the workbook is left
// as a text that shows what the workbook shows, or as the number that it is.
func (v value) dated(show shows, is1904 bool) value {
	switch show {
	case aNumber:
		return v
	case aPercent:
		v.isPercent = true
		return v
	}
	total := math.Round(v.number64() * unitsOfDay)
	if show == aSpan && math.Abs(total) < endDays*unitsOfDay {
		return value{kind: span, units: int64(total), scale: clockScaleOf(int64(total))}
	}
	if total < 0 || total >= endDays*unitsOfDay {
		return v
	}
	days, clockUnits := int64(total)/unitsOfDay, int64(total)%unitsOfDay
	switch {
	case show == aClock && days == 0:
		return value{kind: clock, units: clockUnits, scale: clockScaleOf(clockUnits)}
	case is1904:
		days += int64(first904)
	case days == 0:
		return value{kind: text, text: []byte("1900-01-00")}
	case days == noDay:
		return value{kind: text, text: []byte("1900-02-29")}
	case days > noDay:
		days += int64(firstDay) - 1
	default:
		days += int64(firstDay)
	}
	if show == aDay && clockUnits == 0 {
		return value{kind: day, units: days}
	}
	return value{kind: moment, units: days*unitsOfDay + clockUnits, scale: clockScaleOf(clockUnits)}
}

// clockScaleOf returns how many decimals of seconds a time of day needs.
func clockScaleOf(units int64) uint8 {
	if units%unitsSecond == 0 {
		return 0
	}
	return clockScale
}

// appendSpan appends a span of time as hours, minutes and seconds, with milliseconds where it has some.
func appendSpan(to []byte, units int64) []byte {
	if units < 0 {
		to, units = append(to, '-'), -units
	}
	seconds := units / unitsSecond
	to = strconv.AppendInt(to, seconds/3600, 10)
	for _, part := range []int64{seconds / 60 % 60, seconds % 60} {
		to = append(to, ':', byte('0'+part/10), byte('0'+part%10))
	}
	if rest := units % unitsSecond; rest > 0 {
		to = append(to, '.', byte('0'+rest/100), byte('0'+rest/10%10), byte('0'+rest%10))
	}
	return to
}

// partsOfSpan are how many of each part of a span the part before it has: hours, minutes, seconds, milliseconds.
var partsOfSpan = [...]int{1, 60, 60, unitsSecond}

// spanOf reads a span of time as appendSpan writes it.
func spanOf(text []byte) (units int64, ok bool) {
	digits := bytes.TrimPrefix(text, []byte{'-'})
	parts := bytes.Split(digits, []byte{':'})
	if len(parts) != 3 {
		return 0, false
	}
	seconds, fraction, hasFraction := bytes.Cut(parts[2], []byte{'.'})
	if !hasFraction {
		fraction = []byte("000")
	}
	for i, part := range [][]byte{parts[0], parts[1], seconds, fraction} {
		number, isNumber := wholeNumber(part)
		if !isNumber || i > 0 && number >= partsOfSpan[i] {
			return 0, false
		}
		units = units*int64(partsOfSpan[i]) + int64(number)
	}
	if len(digits) < len(text) {
		units = -units
	}
	return units, true
}

// appendTo appends the value to a vector, in the vector's type.
func (v value) appendTo(to *rows.Vector) {
	switch {
	case v.kind == blank:
		to.AppendMissing()
	case to.Type == rows.Text:
		to.AppendBytes(v.appendText(nil))
	case to.Type == rows.Float:
		to.Int = append(to.Int, int64(math.Float64bits(v.number64())))
	case to.Type == rows.Decimal:
		units := v.units
		for range int(to.Scale) - int(v.scale) {
			units *= 10
		}
		to.Int = append(to.Int, units)
	case to.Type == rows.Moment && v.kind == day:
		to.Int = append(to.Int, v.units*unitsOfDay/scaled(to.Scale))
	case to.Type == rows.Moment, to.Type == rows.Clock:
		to.Int = append(to.Int, v.units/scaled(to.Scale))
	default:
		to.Int = append(to.Int, v.units)
	}
}

// scaled returns how many milliseconds a unit of seconds with so many decimals has.
func scaled(scale uint8) int64 {
	if scale == 0 {
		return unitsSecond
	}
	return 1
}

// appendText appends the value as text, as a vector of its own type has it.
func (v value) appendText(to []byte) []byte {
	own := rows.Vector{Scale: v.scale}
	switch v.kind {
	case blank:
		return to
	case text:
		return append(to, v.text...)
	case span:
		return appendSpan(to, v.units)
	case number:
		own.Type = rows.Decimal
	case wide:
		own.Type = rows.Float
		v.units = int64(math.Float64bits(v.float))
	case day:
		own.Type = rows.Day
	case moment, clock:
		own.Type, v.units = rows.Moment, v.units/scaled(v.scale)
		if v.kind == clock {
			own.Type = rows.Clock
		}
	case truth:
		own.Type = rows.Bool
	}
	own.Int = []int64{v.units}
	return own.AppendText(to, 0)
}
