// Package numbertext reads numbers as people and systems write them: 1.234,50 € or (1,234.50). Whether
// the point or the comma is the decimal mark is decided from all values of a column, never from one: what stays open is said
// and not guessed.
package numbertext

import (
	"bytes"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"roundyear/facts/decimal"
)

// Mark is what stands before the decimals.
type Mark byte

// The marks. Unsettled is one that is not known.
const (
	Unsettled Mark = 0
	Point     Mark = '.'
	Comma     Mark = ','
)

// String returns the mark's name.
func (m Mark) String() string {
	switch m {
	case Point:
		return "point"
	case Comma:
		return "comma"
	}
	return "unsettled"
}

// ParseMark reads a mark's name: point or comma.
func ParseMark(name string) (Mark, bool) {
	for _, mark := range []Mark{Point, Comma} {
		if mark.String() == name {
			return mark, true
		}
	}
	return Unsettled, false
}

// number is a number that is written somehow.
type number struct {
	negative bool
	percent  bool
	// currency is its symbol or code; empty for none.
	currency string
	// ledger is CR or DR, as ledgers mark credits and debits; empty for neither.
	ledger string
	// body are its digits, points, commas, and spaces and apostrophes as ' ' and '\''; exponent is
	// what stands behind an e.
	body, exponent []byte
}

// scan takes a text apart. It is false for one that is no number.
func scan(text []byte) (n number, ok bool) {
	text = bytes.TrimSpace(text)
	for {
		if len(text) > 2 && text[0] == '(' && text[len(text)-1] == ')' {
			if !n.minus() {
				return n, false
			}
			text = bytes.TrimSpace(text[1 : len(text)-1])
		}
		rest, ok := n.strip(text)
		if !ok {
			return n, false
		}
		if len(rest) == len(text) {
			break
		}
		text = rest
	}
	if at := bytes.IndexAny(text, "eE"); at > 0 {
		n.exponent, text = text[at+1:], text[:at]
		digits := bytes.TrimLeft(n.exponent, "+-")
		if len(n.exponent)-len(digits) > 1 || len(digits) == 0 || len(bytes.Trim(digits, "0123456789")) > 0 {
			return n, false
		}
	}
	return n, n.spell(text)
}

// strip takes away a sign, a currency or a percent sign at one of the ends. It is false where there is a
// second one.
func (n *number) strip(text []byte) (rest []byte, ok bool) {
	if len(text) == 0 {
		return text, false
	}
	if first, width := utf8.DecodeRune(text); first != '(' && !isOfNumber(first) {
		rest = bytes.TrimSpace(text[width:])
		switch {
		case first == '-' || first == '−':
			return rest, n.minus()
		case first == '+':
			return rest, true
		case unicode.Is(unicode.Sc, first):
			return rest, n.in(string(first))
		case code(text):
			return bytes.TrimSpace(text[3:]), n.in(string(text[:3]))
		case len(text) > 2 && ledger(text[:2]) != "" && (isSpaceOrDigit(text[2]) || text[2] == '.'):
			return bytes.TrimSpace(bytes.TrimPrefix(text[2:], []byte{'.'})), n.by(ledger(text[:2]))
		}
		return text, false
	}
	if short := bytes.TrimSuffix(text, []byte{'.'}); len(short) > 2 && ledger(short[len(short)-2:]) != "" {
		text = short // Cr.
	}
	last, width := utf8.DecodeLastRune(text)
	if last == ')' || isOfNumber(last) {
		return text, true
	}
	rest = bytes.TrimSpace(text[:len(text)-width])
	switch {
	case last == '-' || last == '−':
		return rest, n.minus()
	case last == '%':
		is := !n.percent
		n.percent = true
		return rest, is
	case unicode.Is(unicode.Sc, last):
		return rest, n.in(string(last))
	case len(text) > 3 && code(text[len(text)-3:]):
		return bytes.TrimSpace(text[:len(text)-3]), n.in(string(text[len(text)-3:]))
	case len(text) > 2 && ledger(text[len(text)-2:]) != "":
		return bytes.TrimSpace(text[:len(text)-2]), n.by(ledger(text[len(text)-2:]))
	}
	return text, false
}

// ledger returns CR or DR for these letters, in any case.
func ledger(text []byte) string {
	for _, mark := range []string{Credit, Debit} {
		if strings.EqualFold(string(text), mark) {
			return mark
		}
	}
	return ""
}

// The marks of credits and debits.
const (
	Credit = "CR"
	Debit  = "DR"
)

func isSpaceOrDigit(c byte) bool { return c == ' ' || c >= '0' && c <= '9' }

func (n *number) by(mark string) bool {
	is := n.ledger == ""
	n.ledger = mark
	return is
}

func isOfNumber(c rune) bool { return c >= '0' && c <= '9' || c == '.' || c == ',' }

func (n *number) minus() bool {
	is := !n.negative
	n.negative = true
	return is
}

func (n *number) in(currency string) bool {
	is := n.currency == ""
	n.currency = currency
	return is
}

// code tells whether text begins with three capital letters that end there, as the codes of ISO 4217.
func code(text []byte) bool {
	for i := range 3 {
		if i >= len(text) || text[i] < 'A' || text[i] > 'Z' {
			return false
		}
	}
	return len(text) == 3 || text[3] < 'A' || text[3] > 'Z' && text[3] < 'a' || text[3] > 'z'
}

// spell reads the digits and what stands between them.
func (n *number) spell(text []byte) bool {
	hasDigit := false
	for i := 0; i < len(text); {
		c, width := rune(text[i]), 1
		if c >= utf8.RuneSelf {
			c, width = utf8.DecodeRune(text[i:])
		}
		switch {
		case c >= '0' && c <= '9':
			hasDigit = true
		case c == '.' || c == ',':
		case c == '\'' || c == '’':
			c = '\''
		case c == ' ' || c == '\u00A0' || c == '\u202F' || c == '\u2009':
			c = ' '
		default:
			return false
		}
		n.body = append(n.body, byte(c))
		i += width
	}
	return hasDigit
}

// fits tells whether the number is well formed with a decimal mark: its whole digits in groups of three, or as in
// India of two before the last three, with one and the same separator.
func (n *number) fits(mark Mark) bool {
	whole := n.body
	if at := bytes.IndexByte(n.body, byte(mark)); at >= 0 {
		whole = n.body[:at]
		if len(bytes.Trim(n.body[at+1:], "0123456789")) > 0 {
			return false
		}
	}
	at := bytes.IndexAny(whole, ".,' ")
	if at < 0 {
		return true
	}
	separator := whole[at : at+1]
	if n.exponent != nil || whole[0] == '0' {
		return false
	}
	groups := bytes.Split(whole, separator)
	last := len(groups) - 1
	byThree, byTwo := len(groups[0]) >= 1 && len(groups[0]) <= 3, len(groups[0]) >= 1 && len(groups[0]) <= 2
	for i, group := range groups {
		if len(bytes.Trim(group, "0123456789")) > 0 {
			return false // another separator
		}
		if i > 0 {
			byThree = byThree && len(group) == 3
			byTwo = byTwo && (len(group) == 2 && i < last || len(group) == 3 && i == last)
		}
	}
	return byThree || byTwo
}

// says tells which mark the number shows by itself. It is isOpen if it can be read with either, to different ends.
func (n *number) says() (mark Mark, isOpen, ok bool) {
	points, commas := bytes.Count(n.body, []byte{'.'}), bytes.Count(n.body, []byte{','})
	switch {
	case points == 0 && commas == 0:
		return Unsettled, false, n.fits(Point)
	case points > 0 && commas > 0:
		mark = Point
		if bytes.LastIndexByte(n.body, ',') > bytes.LastIndexByte(n.body, '.') {
			mark = Comma
		}
		return mark, false, n.fits(mark)
	}
	mine, other, count := Point, Comma, points
	if commas > 0 {
		mine, other, count = Comma, Point, commas
	}
	asMark, asGroups := count == 1 && n.fits(mine), n.fits(other)
	switch {
	case asMark && asGroups:
		return Unsettled, true, true
	case asMark:
		return mine, false, true
	case asGroups:
		return other, false, true
	}
	return Unsettled, false, false
}

// appendPlain appends the number as 1234.56, with a digit before the point, and no other zeros there.
func (n *number) appendPlain(to []byte, mark Mark, minus string) []byte {
	if n.negative || n.ledger != "" && n.ledger == minus {
		to = append(to, '-')
	}
	start := len(to)
	for _, c := range n.body {
		switch {
		case c >= '0' && c <= '9':
			if len(to) == start+1 && to[start] == '0' {
				to = to[:start]
			}
			to = append(to, c)
		case c == byte(mark):
			if len(to) == start {
				to = append(to, '0')
			}
			to = append(to, '.')
		}
	}
	if to[len(to)-1] == '.' {
		to = to[:len(to)-1]
	}
	if n.exponent == nil && !n.percent {
		return to
	}
	exponent := n.exponent
	if n.percent {
		power, _ := strconv.Atoi(string(n.exponent))
		exponent = strconv.AppendInt(nil, int64(power-2), 10)
	}
	digits := append(append(append([]byte(nil), to[start:]...), 'e'), exponent...)
	if number, err := decimal.Parse(digits); err == nil {
		return number.AppendText(to[:start], number.Scale())
	}
	return append(append(to, 'e'), exponent...)
}

// scale returns how many decimals the number has with a mark; 0 if it does not fit that.
func (n *number) scale(mark Mark) int {
	at := bytes.IndexByte(n.body, byte(mark))
	switch {
	case at < 0 && n.exponent == nil && !n.percent || !n.fits(mark):
		return 0
	case n.exponent == nil && !n.percent:
		return len(n.body) - at - 1
	}
	number, err := decimal.Parse(n.appendPlain(nil, mark, ""))
	if err != nil {
		return 0
	}
	return number.Scale()
}
