package workbook

import "strings"

// shows is what a number format makes of a number.
type shows uint8

const (
	aNumber shows = iota
	aDay
	aMoment
	aClock
	// aSpan is hours, minutes or seconds that count on beyond a day, such as [h]:mm.
	aSpan
	// aPercent is a number that is shown as a hundred times of it.
	aPercent
)

// builtIn are the number formats that every workbook has, by ECMA-376 part 1, 18.8.30; those of East
// Asian languages among them, which are dates in all of these.
func builtIn(id int) shows {
	switch {
	case id >= 14 && id <= 17, id >= 27 && id <= 31, id == 36, id >= 50 && id <= 54, id == 57, id == 58:
		return aDay
	case id == 22:
		return aMoment
	case id >= 18 && id <= 21, id >= 32 && id <= 35, id == 45, id == 47, id == 55, id == 56:
		return aClock
	case id == 46:
		return aSpan
	case id == 9, id == 10:
		return aPercent
	}
	return aNumber
}

// formatShows tells what a format code of a workbook shows: what its letters outside quotes are.
func formatShows(code string) shows {
	code, _, _ = strings.Cut(code, ";") // behind it come those of negative numbers, zero and text
	var hasDay, hasClock, hasMonth, isSpan, isPercent bool
	for i := 0; i < len(code); i++ {
		switch c := code[i] | 0x20; {
		case code[i] == '"':
			end := strings.IndexByte(code[i+1:], '"')
			if end < 0 {
				return aNumber
			}
			i += end + 1
		case code[i] == '\\', code[i] == '_', code[i] == '*':
			i++ // the next character stands for itself, or for its width
		case code[i] == '[':
			end := strings.IndexByte(code[i:], ']')
			if end < 0 {
				return aNumber
			}
			inside := strings.ToLower(code[i+1 : i+end])
			isSpan = isSpan || inside != "" && strings.Trim(inside, "hms") == "" && strings.Count(inside, inside[:1]) == len(inside)
			i += end
		case strings.HasPrefix(strings.ToLower(code[i:]), "general"):
			return aNumber
		case strings.HasPrefix(strings.ToUpper(code[i:]), "AM/PM"), strings.HasPrefix(strings.ToUpper(code[i:]), "A/P"):
			hasClock = true
			i += strings.IndexByte(code[i:], '/') + 1
		case code[i] == 'E' && i+1 < len(code) && (code[i+1] == '+' || code[i+1] == '-'):
			return aNumber // 0.00E+00
		case c == 'y', c == 'd', code[i] == 'e', code[i] == 'g', code[i] == 'b':
			hasDay = true
		case c == 'h', c == 's':
			hasClock = true
		case c == '%':
			isPercent = true
		case c == 'm':
			hasMonth = true // or minutes, beside hours or seconds
		}
	}
	switch {
	case isSpan:
		return aSpan
	case hasDay && hasClock:
		return aMoment
	case hasClock:
		return aClock
	case hasDay, hasMonth:
		return aDay
	case isPercent:
		return aPercent
	}
	return aNumber
}

// stylesOf reads what the number format of each style of cells shows.
func stylesOf(data []byte) []shows {
	m := &markup{data: data}
	own := map[string]shows{}
	var styles []shows
	inCells := false
	for m.next() {
		switch {
		case m.opens("numFmt"):
			own[m.attribute("numFmtId")] = formatShows(m.attribute("formatCode"))
		case m.is("cellXfs"):
			inCells = m.isStart && !m.isEnd
		case inCells && m.opens("xf"):
			id := m.attribute("numFmtId")
			show, isOwn := own[id]
			if number, ok := wholeNumber([]byte(id)); !isOwn && ok {
				show = builtIn(number)
			}
			styles = append(styles, show)
		}
	}
	return styles
}

// wholeNumber reads digits.
func wholeNumber(text []byte) (int, bool) {
	const longest = 9
	if len(text) == 0 || len(text) > longest {
		return 0, false
	}
	number := 0
	for _, c := range text {
		if c < '0' || c > '9' {
			return 0, false
		}
		number = number*10 + int(c-'0')
	}
	return number, true
}
