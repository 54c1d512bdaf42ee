package datetext

import (
	"bytes"
	"strings"
	"unicode/utf8"
)

// Order is the order of day, month and year.
type Order int

// Unsettled is the order of a text that only one pattern can read, and of a
// column about which nothing is known yet.
const (
	Unsettled Order = iota
	DayFirst
	MonthFirst
	YearFirst
)

// String returns day, month, year or unsettled.
func (o Order) String() string {
	return [...]string{"unsettled", "day", "month", "year"}[o]
}

// ParseOrder reads day, month or year; it is false for anything else.
func ParseOrder(name string) (Order, bool) {
	for order := DayFirst; order <= YearFirst; order++ {
		if strings.EqualFold(name, order.String()) {
			return order, true
		}
	}
	return Unsettled, false
}

// longestDate is the most bytes that a date and time can have.
const longestDate = 96

// shapeOf appends what kind of character stands where: digits as 0, runs of
// letters as one letter, all else as it is. Texts of one shape can be read by
// the same patterns. It is empty for what cannot be a date.
func shapeOf(shape, text []byte) []byte {
	if len(text) > longestDate {
		return shape[:0]
	}
	for i := 0; i < len(text); {
		c := text[i]
		switch {
		case isDigit(c):
			shape = append(shape, '0')
			i++
		case isLetter(c):
			end := i + nameLength(text[i:])
			shape = append(shape, letterClass(text[i:end]))
			i = end
		case spaceAt(text[i:]) > 0:
			shape = append(shape, ' ')
			i += spaceAt(text[i:])
		case c >= 0x80:
			length := nameLength(text[i:])
			if length == 0 {
				return shape[:0]
			}
			shape = append(shape, letterClass(text[i:i+length]))
			i += length
		case c < ' ':
			return shape[:0]
		default:
			shape = append(shape, c)
			i++
		}
	}
	return shape
}

// letterClass tells the letters that stand for themselves from names: T, Z and W
// of ISO 8601, Q for quarters, P for AM or PM, d and o for "de" and "of", a for
// short names and A for longer ones.
func letterClass(letters []byte) byte {
	if class := unitClasses[string(letters)]; class != 0 {
		return class
	}
	switch {
	case len(letters) == 1 && letters[0]|0x20 == 't':
		return letters[0]
	case len(letters) == 1 && letters[0]|0x20 == 'z':
		return 'Z'
	case len(letters) == 1 && (letters[0] == 'W' || letters[0] == 'Q'):
		return letters[0]
	case len(letters) == 2 && letters[1]|0x20 == 'm' && (letters[0]|0x20 == 'a' || letters[0]|0x20 == 'p'):
		return 'P'
	case string(letters) == "de":
		return 'd'
	case string(letters) == "of":
		return 'o'
	case utf8.RuneCount(letters) == 3:
		return 'a'
	}
	return 'A'
}

// candidate is a pattern that could read the texts of a shape.
type candidate struct {
	order   Order
	pattern *Pattern
	// layout reads texts of the shape by their positions, where that is
	// possible; nil where not.
	layout *layout
}

// candidatesFor returns the patterns that could read texts of a shape: none,
// one, or two where the day and the month could each come first.
func candidatesFor(shape string, asked Asked) []candidate {
	if found := compiled("", shape, wholeShapes(shape), asked); found != nil {
		return found
	}
	if found := compiled("", shape, unitDate(shape), asked); found != nil {
		return found
	}
	if found := compiled("", shape, dateParts(shape, asked.Order), asked); found != nil {
		return found
	}
	// A weekday may stand before the date.
	letters := weekdayAt(shape)
	if letters == "" {
		return nil
	}
	gap := gapAt(shape[1:])
	rest := shape[1+gap:]
	return compiled(letters+shape[1:1+gap], rest, dateParts(rest, asked.Order), asked)
}

// compiled returns the candidates of dates at the beginning of a shape, with a
// pattern before them and the time of day that the shape ends with.
func compiled(before, shape string, dates []datePart, asked Asked) []candidate {
	var candidates []candidate
	for _, date := range dates {
		clock, ok := clockPart(shape[date.used:])
		if !ok {
			continue
		}
		pattern, err := compile(before+date.ldml+clock, asked.pivot())
		if err != nil {
			continue
		}
		var placed *layout
		if before == "" {
			placed = layoutOf(pattern, shape)
		}
		candidates = append(candidates, candidate{date.order, pattern, placed})
	}
	return candidates
}

// weekdayAt returns the pattern of a name at the beginning of a shape that has
// a gap behind it.
func weekdayAt(shape string) string {
	if len(shape) < 2 || gapAt(shape[1:]) == 0 {
		return ""
	}
	switch shape[0] {
	case 'a':
		return "EEE"
	case 'A':
		return "EEEE"
	}
	return ""
}

// clockPart returns the pattern of the time of day that a shape ends with; it
// is empty when the shape has ended, false when this is no time of day.
func clockPart(shape string) (string, bool) {
	if shape == "" {
		return "", true
	}
	// A weekday may stand behind the date.
	for _, gap := range []string{", ", " "} {
		for letters, ldml := range map[string]string{"a": "EEE", "A": "EEEE"} {
			if shape == gap+letters {
				return gap + ldml, true
			}
		}
	}
	var ldml strings.Builder
	switch {
	case shape[0] == 'T' || shape[0] == 't':
		ldml.WriteString("'" + shape[:1] + "'")
		shape = shape[1:]
	case strings.HasPrefix(shape, ", "):
		ldml.WriteString(", ")
		shape = strings.TrimLeft(shape[1:], " ")
	case shape[0] == ' ':
		ldml.WriteString(" ")
		shape = strings.TrimLeft(shape, " ")
	default:
		return "", false
	}
	hours := digitsAt(shape)
	if hours < 1 || hours > 2 || !strings.HasPrefix(shape[hours:], ":00") {
		return "", false
	}
	rest := shape[hours+3:]
	after := ":mm"
	if strings.HasPrefix(rest, ":00") {
		after, rest = after+":ss", rest[3:]
		if len(rest) > 1 && (rest[0] == '.' || rest[0] == ',') && rest[1] == '0' {
			decimals := digitsAt(rest[1:])
			after, rest = after+rest[:1]+strings.Repeat("S", decimals), rest[1+decimals:]
		}
	}
	hour := "H"
	if trimmed := strings.TrimLeft(rest, " "); strings.HasPrefix(trimmed, "P") {
		hour = "h"
		if trimmed != rest {
			after += " "
		}
		after, rest = after+"a", trimmed[1:]
	}
	ldml.WriteString(strings.Repeat(hour, hours) + after)
	if trimmed := strings.TrimLeft(rest, " "); isOffsetShape(trimmed) {
		if trimmed != rest {
			ldml.WriteString(" ")
		}
		ldml.WriteString("XXX")
		rest = ""
	}
	return ldml.String(), rest == ""
}

func isOffsetShape(shape string) bool {
	switch shape {
	case "Z", "+00", "-00", "+0000", "-0000", "+00:00", "-00:00":
		return true
	}
	return false
}

func digitsAt(shape string) int {
	width := 0
	for width < len(shape) && shape[width] == '0' {
		width++
	}
	return width
}

// trim takes the spaces off both ends of a text.
func trim(text []byte) []byte {
	if len(text) > 0 && text[0] > ' ' && text[0] < 0x80 && text[len(text)-1] > ' ' && text[len(text)-1] < 0x80 {
		return text
	}
	return bytes.TrimSpace(text)
}

// looser returns the pattern that reads what both read: the shorter of two
// widths of a number, the longer of two of a name. The two must be alike but
// for widths; it is false when they are not.
func looser(a, b string) (string, bool) {
	var merged strings.Builder
	for a != "" && b != "" {
		if a[0] != b[0] {
			return "", false
		}
		width, other := runAt(a), runAt(b)
		shown := min(width, other)
		if a[0] == 'S' || a[0] == 'M' && shown >= 3 {
			shown = max(width, other)
		}
		if width != other && (a[0] == 'M' && (width < 3) != (other < 3) || !strings.Contains("dMHhS", a[:1])) {
			return "", false
		}
		merged.WriteString(a[:1])
		for range shown - 1 {
			merged.WriteByte(a[0])
		}
		a, b = a[width:], b[other:]
	}
	return merged.String(), a == b
}

func runAt(text string) int {
	width := 1
	for width < len(text) && text[width] == text[0] && isLetter(text[0]) {
		width++
	}
	return width
}
