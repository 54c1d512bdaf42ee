package charset

import (
	"bytes"
	"unicode"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/japanese"
	"golang.org/x/text/encoding/korean"
	"golang.org/x/text/encoding/simplifiedchinese"
)

// Likely returns the encoding that text which is not UTF-8 is most likely in, and a word of it that
// shows whether that is right. It is a proposal and no more: many encodings have the same bytes.
func Likely(text []byte) (name, word string) {
	if isUTF16(text) {
		return "utf-16le", ""
	}
	for _, one := range candidates {
		if !one.fits(text) {
			continue
		}
		decoded, err := one.how.NewDecoder().Bytes(text)
		if err != nil || one.share > 0 && shareOf(decoded, one.scripts) < one.share {
			continue
		}
		return one.name, wordOf(decoded)
	}
	return "", ""
}

// isUTF16 tells whether every other byte is 0, as in text of Latin letters in UTF-16.
func isUTF16(text []byte) bool {
	odd := 0
	for i := 1; i < len(text); i += 2 {
		if text[i] == 0 {
			odd++
		}
	}
	return len(text) >= 8 && odd > len(text)*2/5
}

// candidate is an encoding with what its bytes look like.
type candidate struct {
	name string
	how  encoding.Encoding
	fits func([]byte) bool
	// share is how much of the text beyond ASCII must be of its scripts at least.
	share   float64
	scripts []*unicode.RangeTable
}

var candidates = []candidate{
	{"windows-1251", charmap.Windows1251, isCyrillic, 0.9, []*unicode.RangeTable{unicode.Cyrillic}},
	{"euc-kr", korean.EUCKR, func(text []byte) bool { return arePairs(text, 0xC8) }, 0.9, []*unicode.RangeTable{unicode.Hangul}},
	{"gb18030", simplifiedchinese.GB18030, func(text []byte) bool { return arePairs(text, 0xF7) }, 0.9, []*unicode.RangeTable{unicode.Han}},
	{"shift_jis", japanese.ShiftJIS, func(text []byte) bool { return highBytes(text) > 1 }, 0.9, []*unicode.RangeTable{unicode.Han, unicode.Hiragana, unicode.Katakana}},
	{"windows-1252", charmap.Windows1252, func([]byte) bool { return true }, 0, nil},
}

func highBytes(text []byte) int {
	count := 0
	for _, b := range text {
		if b >= 0x80 {
			count++
		}
	}
	return count
}

// isCyrillic tells whether the bytes beyond ASCII are mostly small letters in words, as Windows-1251 has them.
func isCyrillic(text []byte) bool {
	high, letters, small, words := 0, 0, 0, 0
	for i, b := range text {
		if b < 0x80 {
			continue
		}
		high++
		if b >= 0xC0 {
			letters++
		}
		if b >= 0xE0 {
			small++
		}
		if i == 0 || text[i-1] < 0x80 {
			words++
		}
	}
	return high >= 3*words && letters*20 >= high*19 && small*2 >= high
}

// arePairs tells whether the bytes beyond ASCII come in pairs, whose first one is from 0xB0 to a last
// one: syllables of Korean, or characters of Chinese in the order of GB 2312. Marks are in a row before those.
func arePairs(text []byte, last byte) bool {
	pairs := 0
	for i := 0; i < len(text); i++ {
		if text[i] < 0x80 {
			continue
		}
		if i+1 == len(text) || text[i+1] < 0xA1 || (text[i] < 0xB0 || text[i] > last) && (text[i] < 0xA1 || text[i] > 0xA3) {
			return false
		}
		pairs++
		i++
	}
	return pairs > 0
}

// shareOf returns how much of the text beyond ASCII is of some scripts. Narrow Katakana counts as none:
// single bytes of other encodings look like it.
func shareOf(text []byte, scripts []*unicode.RangeTable) float64 {
	all, of := 0, 0
	for _, r := range string(text) {
		switch {
		case r < 0x80 || unicode.IsPunct(r):
			continue
		case unicode.In(r, scripts...) && (r < 0xFF61 || r > 0xFF9F):
			of++
		}
		all++
	}
	if all == 0 {
		return 0
	}
	return float64(of) / float64(all)
}

// maxWord is how many letters of a word are shown.
const maxWord = 30

// wordOf returns the first word with a letter beyond ASCII.
func wordOf(text []byte) string {
	letters := []rune(string(bytes.ToValidUTF8(text, nil)))
	at := 0
	for at < len(letters) && (letters[at] < 0x80 || !unicode.IsLetter(letters[at])) {
		at++
	}
	if at == len(letters) {
		return ""
	}
	from, to := at, at
	for from > 0 && isOfWord(letters[from-1]) && at-from < maxWord/2 {
		from--
	}
	for to < len(letters) && isOfWord(letters[to]) && to-from < maxWord {
		to++
	}
	return string(letters[from:to])
}

func isOfWord(r rune) bool { return unicode.IsLetter(r) || unicode.IsMark(r) || r == '\'' || r == '-' }
