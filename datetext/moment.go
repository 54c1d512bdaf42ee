// Package datetext reads dates as people and systems write them. The form of a
// column is decided from all its values, never from one: what stays open
// between day-first and month-first is said and not guessed.
package datetext

import (
	"unicode"
	"unicode/utf8"

	"roundyear/civil"
)

// Moment is a civil day and, when the text had one, a time of day.
type Moment struct {
	Day civil.Day
	// Offset is how many seconds the writer's clock was ahead of UTC, when
	// HasOffset tells that the text said so.
	Offset    int32
	HasOffset bool
	// Clock is how finely the text told the time.
	Clock Resolution
	// Nanos is the time since midnight in nanoseconds, as the text had it.
	Nanos int64
}

// Resolution is how finely a time of day is told: not at all, in minutes, in
// seconds, or in so many decimals of a second (Seconds plus the decimals).
type Resolution int8

// Resolutions. Seconds+3 is milliseconds, Seconds+9 nanoseconds.
const (
	NoTime Resolution = iota
	Minutes
	Seconds
)

// AppendTime appends the time of day at a resolution: 09:30, 09:30:00,
// 09:30:00.000. It cuts what is finer and never rounds.
func (m Moment) AppendTime(text []byte, resolution Resolution) []byte {
	if resolution == NoTime {
		return text
	}
	seconds := uint32(m.Nanos / 1e9)
	hour, minute, second := seconds/3600, seconds/60%60, seconds%60
	text = append(text, byte('0'+hour/10), byte('0'+hour%10), ':', byte('0'+minute/10), byte('0'+minute%10))
	if resolution < Seconds {
		return text
	}
	text = append(text, ':', byte('0'+second/10), byte('0'+second%10))
	if resolution == Seconds {
		return text
	}
	text = append(text, '.')
	fraction := m.Nanos % 1e9
	for digit, unit := Resolution(0), int64(1e8); digit < resolution-Seconds; digit, unit = digit+1, unit/10 {
		text = append(text, byte('0'+fraction/unit%10))
	}
	return text
}

// weekdayOf returns the weekday of an English name, wide or abbreviated to
// three letters, in any case; 0 when it is none.
func weekdayOf(name []byte) civil.Weekday {
	weekday, _ := civil.ParseWeekday(string(name))
	return weekday
}

// latin returns a text with the digits of other scripts written as 0 to 9. A
// text without such digits comes back as it is.
func latin(text []byte) []byte {
	at := 0
	for at < len(text) && text[at] < utf8.RuneSelf {
		at++
	}
	if at == len(text) || len(text) > 4*longestDate {
		return text
	}
	plain := append(make([]byte, 0, len(text)), text[:at]...)
	for rest := text[at:]; len(rest) > 0; {
		r, width := utf8.DecodeRune(rest)
		if digit, ok := digitOf(r); ok {
			plain = append(plain, '0'+digit)
		} else {
			plain = append(plain, rest[:width]...)
		}
		rest = rest[width:]
	}
	return plain
}

// digitOf returns the value of a decimal digit of any script. Unicode encodes
// the digits of a script in a row from 0 to 9 (chapter 4.6 of the standard).
func digitOf(r rune) (byte, bool) {
	if r < utf8.RuneSelf || !unicode.Is(unicode.Nd, r) {
		return 0, false
	}
	for _, span := range unicode.Nd.R16 {
		if rune(span.Lo) <= r && r <= rune(span.Hi) {
			return byte((r - rune(span.Lo)) % 10), true
		}
	}
	for _, span := range unicode.Nd.R32 {
		if rune(span.Lo) <= r && r <= rune(span.Hi) {
			return byte((r - rune(span.Lo)) % 10), true
		}
	}
	return 0, false
}
