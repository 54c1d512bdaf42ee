package datetext

import (
	"strings"
	"sync"
	"unicode"
	"unicode/utf8"

	"roundyear/civil"
	"roundyear/language"
)

// Dates are written with words that say nothing of the day: le 5 mars 2024 à 14 h 30. Texts that no pattern reads as
// they are, are read without such words: 5 mars 2024 14:30.

// token is a run of digits or of letters, some spaces, or another character.
type token struct {
	text string
	kind tokenKind
}

type tokenKind uint8

const (
	digits tokenKind = iota
	letters
	gap
	mark
)

// withoutWords returns a text as patterns know it: words that say nothing are gone, weekdays of any language are English ones,
// hours have minutes, and zones of RFC 2822 are offsets. It is false for a text that stays as it is.
func withoutWords(text []byte) ([]byte, bool) {
	if len(text) > longestDate {
		return nil, false
	}
	tokens, ok := tokensOf(string(text))
	if !ok {
		return nil, false
	}
	w := &words{tokens: tokens}
	plain := w.rewrite()
	if plain == string(text) || plain == "" {
		return nil, false
	}
	return []byte(plain), true
}

// maxWords is more words than a date has.
const maxWords = 12

// tokensOf cuts a text into tokens. It is false for one that has no digits, no letters or too many of them.
func tokensOf(text string) ([]token, bool) {
	var tokens []token
	digitCount, wordCount := 0, 0
	for len(text) > 0 {
		one := token{kind: mark}
		switch r, width := utf8.DecodeRuneInString(text); {
		case r >= '0' && r <= '9':
			one.kind = digits
			for len(one.text) < len(text) && isDigit(text[len(one.text)]) {
				one.text = text[:len(one.text)+1]
			}
			digitCount += len(one.text)
		case unicode.IsLetter(r) || unicode.IsMark(r):
			one.kind, one.text = letters, text[:nameLength([]byte(text))]
			if unitClasses[text[:width]] != 0 {
				one.text = text[:width] // 日 before 火曜日
			}
			wordCount++
		case spaceAt([]byte(text)) > 0:
			one.kind, one.text = gap, text[:spaceAt([]byte(text))]
		default:
			one.text = text[:width]
		}
		if one.text == "" {
			return nil, false
		}
		tokens, text = append(tokens, one), text[len(one.text):]
	}
	const mostDigits = 17
	return tokens, digitCount > 0 && digitCount <= mostDigits && wordCount > 0 && wordCount <= maxWords
}

// ordinals are what stands behind the number of a day.
var ordinals = set("st nd rd th er re ère e º ª")

// fillers are words between the parts of dates that say nothing, and those behind years and times.
var fillers = set("le la les el los den der die das dem am at à a um il lo os al de del of on the kl klo kello ore ora las às ás " +
	"года год рік року god godine godini roku rok ngày năm uhr hrs hours uur")

// yearWords are short words behind years; elsewhere they are letters of something else.
var yearWords = set("г гг р r g")

// hourWords stand behind hours.
var hourWords = set("h u uhr hrs hours uur ч год godz klo heures heure")

// zones are those of RFC 2822, section 4.3, and the names of UTC.
var zones = map[string]string{"ut": "+00:00", "utc": "+00:00", "gmt": "+00:00", "est": "-05:00", "edt": "-04:00", "cst": "-06:00", "cdt": "-05:00", "mst": "-07:00", "mdt": "-06:00", "pst": "-08:00", "pdt": "-07:00"}

// monthWord stands before the number of a month in Vietnamese.
const monthWord = "tháng"

func set(words string) map[string]bool {
	all := map[string]bool{}
	for _, word := range strings.Fields(words) {
		all[word] = true
	}
	return all
}

// weekdays are the names of weekdays in all languages, in lower case, each with the days that it is in some of them, as bits.
var weekdays = sync.OnceValue(func() map[string]uint8 {
	all := map[string]uint8{}
	for _, tag := range language.Tags() {
		names, err := language.Of(tag)
		if err != nil {
			continue
		}
		for day := civil.Monday; day <= civil.Sunday; day++ {
			for _, name := range []string{names.Day(day), names.DayShort(day)} {
				if name = strings.ToLower(strings.TrimSuffix(name, ".")); len(name) > 1 {
					all[name] |= 1 << day
				}
			}
		}
	}
	return all
})

// words rewrites a text.
type words struct {
	tokens []token
	out    []token
	// hasClock tells that a time of day was written, hasWeekday that a weekday was.
	hasClock, hasWeekday bool
}

func (w *words) rewrite() string {
	for at := 0; at < len(w.tokens); {
		one := w.tokens[at]
		switch one.kind {
		case letters:
			at += w.word(at)
			continue
		case mark:
			if one.text == ":" {
				w.hasClock = true
			}
			isBehindNumber := len(w.out) > 0 && w.out[len(w.out)-1].kind == digits && (at+1 == len(w.tokens) || w.tokens[at+1].kind == gap)
			isDegree := one.text == "°" && isBehindNumber
			if isDegree || one.text == "." && at+1 == len(w.tokens) && isBehindNumber {
				at++ // 1° maggio, 2024. március 5.
				continue
			}
		}
		w.out = append(w.out, one)
		at++
	}
	var plain strings.Builder
	for _, one := range w.out {
		if one.kind == gap && (plain.Len() == 0 || strings.HasSuffix(plain.String(), " ")) {
			continue
		}
		if one.kind == gap {
			one.text = " "
		}
		plain.WriteString(one.text)
	}
	return strings.Trim(plain.String(), " ,")
}

// word rewrites a word, and returns how many tokens it and what belongs to it are.
func (w *words) word(at int) (used int) {
	lower := strings.ToLower(w.tokens[at].text)
	before, isClose := w.before()
	if isClose && before.kind == digits && ordinals[lower] && !w.isHour(before) {
		return 1
	}
	if minutes, used := w.hour(at, lower, before); used > 0 {
		w.dropGap()
		w.out = append(w.out, token{minutes, digits})
		w.hasClock = true
		return used
	}
	if half, used := w.half(at, lower); used > 0 {
		if before.kind == digits && len(before.text) <= 2 && !w.hasClock {
			w.dropGap()
			w.out = append(w.out, token{":00", digits}, token{" ", gap})
		}
		w.out = append(w.out, token{half, letters})
		return used
	}
	if offset, known := zones[lower]; known && w.hasClock {
		w.out = append(w.out, token{offset, mark})
		return 1
	}
	if lower == monthWord {
		if month, used := w.numberedMonth(at); used > 0 {
			w.out = append(w.out, token{month.Short(), letters})
			return used
		}
	}
	if day, used := w.weekday(at); used > 0 && !w.hasWeekday {
		w.hasWeekday = true
		if len(w.out) > 0 && w.out[len(w.out)-1].text == "(" {
			w.out = append(w.out[:len(w.out)-1], token{" ", gap})
		}
		w.out = append(w.out, token{" ", gap}, token{day, letters}, token{" ", gap})
		for at+used < len(w.tokens) && (w.tokens[at+used].kind == gap || strings.Contains(".,)", w.tokens[at+used].text)) {
			used++
		}
		return used
	}
	isBehindYear := yearWords[lower] && before.kind == digits && len(before.text) == 4
	if isBehindYear || fillers[lower] && anyMonth([]byte(lower)) == 0 {
		if at+1 < len(w.tokens) && w.tokens[at+1].text == "." {
			return 2 // г.
		}
		return 1
	}
	if at+1 < len(w.tokens) && w.tokens[at+1].text == "." && anyMonth([]byte(lower)) != 0 {
		w.out = append(w.out, w.tokens[at])
		return 2 // févr.
	}
	w.out = append(w.out, w.tokens[at])
	return 1
}

// before returns the last token that was written and is no gap, and whether none stands behind it.
func (w *words) before() (before token, isClose bool) {
	for i := len(w.out) - 1; i >= 0; i-- {
		if w.out[i].kind != gap {
			return w.out[i], i == len(w.out)-1
		}
	}
	return token{kind: mark}, false
}

func (w *words) dropGap() {
	for len(w.out) > 0 && w.out[len(w.out)-1].kind == gap {
		w.out = w.out[:len(w.out)-1]
	}
}

// isHour tells whether a number stands where an hour would, behind a date.
func (w *words) isHour(number token) bool {
	count := 0
	for _, one := range w.out {
		if one.kind == digits {
			count++
		}
	}
	return count > 2 && len(number.text) <= 2
}

// hour reads the word behind an hour, with the minutes behind that: 14 h 30, 14 Uhr.
func (w *words) hour(at int, lower string, before token) (minutes string, used int) {
	if !hourWords[lower] || before.kind != digits || len(before.text) > 2 || w.hasClock {
		return "", 0
	}
	for used = 1; at+used < len(w.tokens) && (w.tokens[at+used].kind == gap || w.tokens[at+used].text == "."); {
		used++
	}
	if at+used < len(w.tokens) && w.tokens[at+used].kind == digits && len(w.tokens[at+used].text) == 2 {
		return ":" + w.tokens[at+used].text, used + 1
	}
	return ":00", 1
}

// half reads AM and PM, also with points.
func (w *words) half(at int, lower string) (half string, used int) {
	if lower == "am" || lower == "pm" {
		before, _ := w.before()
		if before.kind != digits {
			return "", 0 // am 5. März
		}
		return strings.ToUpper(lower), 1
	}
	if lower != "a" && lower != "p" {
		return "", 0
	}
	text := ""
	for used = 0; at+used < len(w.tokens) && used < 5 && len(text) < 4; used++ {
		if w.tokens[at+used].kind != gap {
			text += strings.ToLower(w.tokens[at+used].text)
		}
	}
	if text == "a.m." || text == "p.m." {
		return strings.ToUpper(lower) + "M", used
	}
	return "", 0
}

// numberedMonth reads the number behind the word for a month.
func (w *words) numberedMonth(at int) (civil.Month, int) {
	for used := 1; at+used < len(w.tokens); used++ {
		switch one := w.tokens[at+used]; {
		case one.kind == gap:
			continue
		case one.kind == digits && len(one.text) <= 2:
			if number, _ := scanNumber([]byte(one.text), 1, 2); number >= 1 && number <= 12 {
				return civil.Month(number), used + 1
			}
		}
		break
	}
	return 0, 0
}

// weekday reads a weekday of any language, of one word or several, and returns its English name; nothing for a name that means
// several days. A name that is that of a month, too, is one only beside another name of a month.
func (w *words) weekday(at int) (name string, used int) {
	const most = 5
	text := ""
	var days uint8
	for i := at; i < len(w.tokens) && i < at+most; i++ {
		text += strings.ToLower(w.tokens[i].text)
		if found := weekdays()[text]; found != 0 {
			days, used = found, i-at+1
		}
	}
	before, _ := w.before()
	switch own := w.tokens[at].text; {
	case used == 0:
		return "", 0
	case used > 1:
	case fillers[strings.ToLower(own)], utf8.RuneCountInString(own) == 1 && before.text != "(": // 月 and 日 are a month and a day, too
		return "", 0
	case anyMonth([]byte(own)) != 0 && (before.kind == digits || !w.hasMonthBeside(at)):
		return "", 0
	}
	for day := civil.Monday; day <= civil.Sunday; day++ {
		if days == 1<<day {
			return day.Short(), used
		}
	}
	return "", used
}

func (w *words) hasMonthBeside(at int) bool {
	for i, one := range w.tokens {
		if i != at && one.kind == letters && anyMonth([]byte(one.text)) != 0 {
			return true
		}
	}
	return false
}
