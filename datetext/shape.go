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

// unitClasses are the characters that Chinese, Japanese and Korean write behind
// the numbers of years, months and days, and units those of each script.
var unitClasses = map[string]byte{"年": 'Y', "月": 'M', "日": 'D', "년": 'y', "월": 'm', "일": 'e'}

var units = []struct{ classes, year, month, day string }{{"YMD", "年", "月", "日"}, {"yme", "년", "월", "일"}}

// unitDate reads a date such as 2026年3月1日 at the beginning of a shape.
func unitDate(shape string) []datePart {
	for _, u := range units {
		at, ldml := 0, ""
		for i, field := range []struct{ letter, unit string }{{"y", u.year}, {"M", u.month}, {"d", u.day}} {
			if i > 0 && at < len(shape) && shape[at] == ' ' {
				at, ldml = at+1, ldml+" "
			}
			width := digitsAt(shape[at:])
			if width == 0 || i == 0 && width != 4 || i > 0 && width > 2 || at+width == len(shape) || shape[at+width] != u.classes[i] {
				at = -1
				break
			}
			ldml += strings.Repeat(field.letter, width) + field.unit
			at += width + 1
		}
		if at > 0 {
			return []datePart{{YearFirst, ldml, at}}
		}
	}
	return nil
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

type datePart struct {
	order Order
	ldml  string
	used  int
}

// oneReading are the shapes, or beginnings of shapes, that only one pattern
// reads: basic, ordinal and week dates of ISO 8601, and months and quarters.
var oneReading = []struct {
	shape, ldml string
	// whole tells that nothing may follow.
	whole bool
}{
	{"00000000000000", "yyyyMMddHHmmss", true},
	{"000000000000", "yyyyMMddHHmm", true},
	{"00000000T000000", "yyyyMMdd'T'HHmmss", true},
	{"00000000T0000", "yyyyMMdd'T'HHmm", true},
	{"00000000T000000Z", "yyyyMMdd'T'HHmmssXXX", true},
	{"00000000", "yyyyMMdd", false},
	{"0000-W00-0", "YYYY-'W'ww-e", false},
	{"0000W000", "YYYY'W'wwe", false},
	{"0000-W00", "YYYY-'W'ww", true},
	{"0000 W00", "YYYY 'W'ww", true},
	{"0000W00", "YYYY'W'ww", true},
	{"0000-000", "yyyy-DDD", false},
	{"0000-00", "yyyy-MM", true},
	{"0000/00", "yyyy/MM", true},
	{"00/0000", "MM/yyyy", true},
	{"00-0000", "MM-yyyy", true},
	{"00.0000", "MM.yyyy", true},
	{"a 0000", "MMM yyyy", true},
	{"A 0000", "MMMM yyyy", true},
	{"a-0000", "MMM-yyyy", true},
	{"0000Q0", "yyyy'Q'Q", true},
	{"0000 Q0", "yyyy 'Q'Q", true},
	{"0000-Q0", "yyyy-'Q'Q", true},
	{"Q0 0000", "'Q'Q yyyy", true},
	{"Q0-0000", "'Q'Q-yyyy", true},
}

// wholeShapes reads the shapes of oneReading.
func wholeShapes(shape string) []datePart {
	for _, one := range oneReading {
		rest, found := strings.CutPrefix(shape, one.shape)
		if found && (rest == "" || !one.whole && rest[0] != '0' && rest[0] != '-' && rest[0] != '/') {
			return []datePart{{YearFirst, one.ldml, len(one.shape)}}
		}
	}
	return nil
}

// gapLetters are the words between the parts of a date, by their letter in a shape.
var gapLetters = strings.NewReplacer("d", "'de'", "o", "'of'")

// dateParts reads the date at the beginning of a shape: three parts with
// separators between them. Of years with two digits the last part is the one,
// unless the user has said that the year comes first.
func dateParts(shape string, asked Order) []datePart {
	var parts [3]string
	var gaps [2]string
	at := 0
	for i := range parts {
		if i > 0 {
			width := gapAt(shape[at:])
			if width == 0 {
				return nil
			}
			gaps[i-1] = gapLetters.Replace(shape[at : at+width])
			at += width
		}
		width := digitsAt(shape[at:])
		if width == 0 && at < len(shape) && (shape[at] == 'a' || shape[at] == 'A') {
			width = 1
		}
		if width == 0 {
			return nil
		}
		parts[i] = shape[at : at+width]
		at += width
	}
	var found []datePart
	add := func(order Order, fields ...string) {
		found = append(found, datePart{order, fields[0] + gaps[0] + fields[1] + gaps[1] + fields[2], at})
	}
	kinds := [3]byte{kindOf(parts[0]), kindOf(parts[1]), kindOf(parts[2])}
	number := func(part, letter string) string { return strings.Repeat(letter, len(part)) }
	if string(kinds[:]) == "nnn" && len(parts[0]) == 2 && asked == YearFirst {
		kinds[0] = 'z'
	} else if kinds[0] != 'y' && len(parts[2]) == 2 && kinds[2] == 'n' {
		kinds[2] = 'z'
	}
	switch name := func(part string) string {
		if part == "a" {
			return "MMM"
		}
		return "MMMM"
	}; string(kinds[:]) {
	case "nny":
		if gaps[0] == gaps[1] {
			add(DayFirst, number(parts[0], "d"), number(parts[1], "M"), "yyyy")
			add(MonthFirst, number(parts[0], "M"), number(parts[1], "d"), "yyyy")
		}
	case "nnz":
		if gaps[0] == gaps[1] {
			add(DayFirst, number(parts[0], "d"), number(parts[1], "M"), "yy")
			add(MonthFirst, number(parts[0], "M"), number(parts[1], "d"), "yy")
		}
	case "znn":
		if gaps[0] == gaps[1] {
			add(YearFirst, "yy", number(parts[1], "M"), number(parts[2], "d"))
		}
	case "naz":
		add(Unsettled, number(parts[0], "d"), name(parts[1]), "yy")
	case "anz":
		add(Unsettled, name(parts[0]), number(parts[1], "d"), "yy")
	case "ynn":
		if gaps[0] == gaps[1] {
			add(YearFirst, "yyyy", number(parts[1], "M"), number(parts[2], "d"))
		}
	case "nay":
		add(Unsettled, number(parts[0], "d"), name(parts[1]), "yyyy")
	case "any":
		add(Unsettled, name(parts[0]), number(parts[1], "d"), "yyyy")
	case "yan":
		add(Unsettled, "yyyy", name(parts[1]), number(parts[2], "d"))
	}
	return found
}

// kindOf is n for a day or month, y for a year, a for a name, 0 for no part of
// a date.
func kindOf(part string) byte {
	switch {
	case part == "a" || part == "A":
		return 'a'
	case len(part) <= 2:
		return 'n'
	case len(part) == 4:
		return 'y'
	}
	return 0
}

// gapAt returns the width of the separator at the beginning of a shape.
func gapAt(shape string) int {
	for _, gap := range []string{" d ", " o ", ". ", ", ", "/", "-", ".", " "} {
		if strings.HasPrefix(shape, gap) {
			return len(gap)
		}
	}
	return 0
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
