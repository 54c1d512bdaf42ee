package datetext

import "strings"

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
