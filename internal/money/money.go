// Package money writes numbers as the people of a locale do: with its decimal mark and groups of digits, and as many decimals as a currency
// has. The marks and decimals are those of the Unicode CLDR.
package money

import (
	"fmt"
	"strings"
	"unicode"

	"golang.org/x/text/currency"
	"golang.org/x/text/language"
	"golang.org/x/text/message"
	"golang.org/x/text/number"

	"roundyear/facts/decimal"
)

// Locale writes numbers.
type Locale struct {
	point, group string
	// first is how many digits the last group has, next how many those before it.
	first, next int
}

// Plain is the locale of reports: 1,234,567.89.
func Plain() *Locale { return &Locale{point: ".", group: ",", first: 3, next: 3} }

// Of returns the locale of a language tag, such as en-IE or nl. The digits are those of ASCII.
func Of(tag string) (*Locale, error) {
	parsed, err := language.Parse(tag)
	if err != nil {
		return nil, fmt.Errorf("%q is not a language tag such as en-IE", tag)
	}
	if parsed, err = parsed.SetTypeForKey("nu", "latn"); err != nil {
		return nil, err
	}
	printer := message.NewPrinter(parsed)
	sample := strings.Map(withoutMarks, printer.Sprint(number.Decimal(1234567.5)))
	l := &Locale{point: ".", first: 3, next: 3}
	parts := strings.FieldsFunc(sample, func(r rune) bool { return r < '0' || r > '9' })
	marks := strings.FieldsFunc(sample, func(r rune) bool { return r >= '0' && r <= '9' })
	if len(parts) > 1 {
		l.point = marks[len(marks)-1]
	}
	if whole := parts[:len(parts)-1]; len(whole) > 1 {
		l.group, l.first, l.next = marks[0], len(whole[len(whole)-1]), len(whole[1])
	}
	return l, nil
}

// withoutMarks drops marks of direction.
func withoutMarks(r rune) rune {
	if unicode.Is(unicode.Cf, r) {
		return -1
	}
	return r
}

// Currency returns the code of a currency in capitals, and how many decimals it has.
func Currency(code string) (name string, decimals int, err error) {
	unit, err := currency.ParseISO(code)
	if err != nil {
		return "", 0, fmt.Errorf("%q is not the code of a currency, such as EUR", code)
	}
	decimals, _ = currency.Standard.Rounding(unit)
	return unit.String(), decimals, nil
}

// Text writes a number with so many decimals, rounded half to even.
func (l *Locale) Text(value decimal.Decimal, decimals int) string {
	text := value.Round(decimals).Text(decimals)
	sign, rest := "", text
	if strings.HasPrefix(text, "-") {
		sign, rest = "-", text[1:]
	}
	whole, fraction, hasFraction := strings.Cut(rest, ".")
	if l.group != "" {
		whole = l.grouped(whole)
	}
	if hasFraction {
		whole += l.point + fraction
	}
	return sign + whole
}

// grouped groups digits.
func (l *Locale) grouped(digits string) string {
	size, groups := l.first, []string{}
	for len(digits) > size {
		groups = append([]string{digits[len(digits)-size:]}, groups...)
		digits, size = digits[:len(digits)-size], l.next
	}
	return strings.Join(append([]string{digits}, groups...), l.group)
}
