package numbertext

import (
	"bytes"
	"cmp"
	"fmt"
	"slices"
)

// Example is a value and the line that it is in.
type Example struct {
	Line  int
	Value string
}

// Column is what all values of a column say of how its numbers are written.
type Column struct {
	// point and comma are values that show a mark, open those that can be read with either.
	point, comma, open seen
	// bad are values that are no numbers with any mark.
	bad seen
	// odd are values that are not written plainly.
	odd seen
	// ledger are values with CR or DR.
	ledger     seen
	currencies map[string]seen
	// pointScale and commaScale are the most decimals that values have with a mark.
	pointScale, commaScale int
}

// seen is how many values there are, and the first of them.
type seen struct {
	count int
	first Example
}

func (s *seen) add(line int, value []byte) {
	if s.count++; s.count == 1 {
		s.first = Example{line, string(value)}
	}
}

func (s *seen) join(other seen) {
	if s.count == 0 {
		s.first = other.first
	}
	s.count += other.count
}

// Observe takes in a value. A blank one says nothing.
func (c *Column) Observe(line int, value []byte) {
	if mark, at, ok := quick(value); ok {
		switch mark {
		case Point:
			c.point.add(line, value)
			c.pointScale = max(c.pointScale, len(value)-at-1)
		case Comma:
			c.comma.add(line, value)
			c.commaScale = max(c.commaScale, len(value)-at-1)
		}
		return
	}
	if len(bytes.TrimSpace(value)) == 0 {
		return
	}
	n, ok := scan(value)
	if !ok || n.ledger != "" && n.negative {
		c.bad.add(line, value)
		return
	}
	mark, isOpen, ok := n.says()
	switch {
	case !ok:
		c.bad.add(line, value)
		return
	case isOpen:
		c.open.add(line, value)
	case mark == Point:
		c.point.add(line, value)
	case mark == Comma:
		c.comma.add(line, value)
	}
	c.pointScale, c.commaScale = max(c.pointScale, n.scale(Point)), max(c.commaScale, n.scale(Comma))
	c.odd.add(line, value)
	if n.ledger != "" {
		c.ledger.add(line, value)
	}
	if n.currency != "" {
		if c.currencies == nil {
			c.currencies = map[string]seen{}
		}
		one := c.currencies[codeOf(n.currency)]
		one.add(line, value)
		c.currencies[codeOf(n.currency)] = one
	}
}

// codes are those of symbols that only one currency has.
var codes = map[string]string{"€": "EUR", "£": "GBP", "₹": "INR", "₺": "TRY", "₽": "RUB", "₴": "UAH", "₫": "VND", "₩": "KRW", "₪": "ILS"}

func codeOf(currency string) string { return cmp.Or(codes[currency], currency) }

// Join takes in what the rows after it say.
func (c *Column) Join(other *Column) {
	c.point.join(other.point)
	c.comma.join(other.comma)
	c.open.join(other.open)
	c.bad.join(other.bad)
	c.ledger.join(other.ledger)
	c.odd.join(other.odd)
	c.pointScale, c.commaScale = max(c.pointScale, other.pointScale), max(c.commaScale, other.commaScale)
	for currency, one := range other.currencies {
		if c.currencies == nil {
			c.currencies = map[string]seen{}
		}
		own := c.currencies[currency]
		own.join(one)
		c.currencies[currency] = own
	}
}

// Format is how the numbers of a column are written.
type Format struct {
	Mark Mark
	// Scale is the most decimals that one of them has.
	Scale int
	// Minus is the mark of numbers that count as negative, Credit or Debit; empty where there are none.
	Minus string
}

// Asked is what is known of a column before its values are: the mark of its decimals, and that of its negative numbers.
type Asked struct {
	Mark  Mark
	Minus string
}

// Unsigned is the error for amounts with CR or DR, of which it is not known which ones count as negative: ledgers and
// statements of banks differ.
type Unsigned struct {
	Count int
	First Example
}

// Error says so, with the first value.
func (u *Unsigned) Error() string {
	return fmt.Sprintf("has amounts marked CR or DR, and does not show which are negative: %q in line %d", u.First.Value, u.First.Line)
}

// Open is the error for a column of which no value shows the decimal mark, and some can be read with either.
type Open struct {
	Count int
	First Example
}

// Error says so, with the first value.
func (o *Open) Error() string {
	verb := "value could"
	if o.Count > 1 {
		verb = "values could"
	}
	return fmt.Sprintf("does not show whether the point or the comma marks the decimals (%d %s be either, and none settles it): %q in line %d", o.Count, verb, o.First.Value, o.First.Line)
}

// Conflict is the error for a column that is written with both marks.
type Conflict struct{ Point, Comma Example }

// Error says so, with a value of each.
func (c *Conflict) Error() string {
	return fmt.Sprintf("has decimal points and decimal commas: %q in line %d, %q in line %d", c.Point.Value, c.Point.Line, c.Comma.Value, c.Comma.Line)
}

// SeveralCurrencies is the error for amounts that cannot be added up.
type SeveralCurrencies struct {
	Names  []string
	Values []Example
}

// Error says so, with a value of each of the first two.
func (s *SeveralCurrencies) Error() string {
	return fmt.Sprintf("has amounts in different currencies: %q in line %d, %q in line %d", s.Values[0].Value, s.Values[0].Line, s.Values[1].Value, s.Values[1].Line)
}

// Decide settles how the numbers are written, with a mark that was asked for or by all values. The error is Open, Conflict,
// SeveralCurrencies or Unsigned.
func (c *Column) Decide(asked Asked) (Format, error) {
	if c.ledger.count > 0 && asked.Minus == "" {
		return Format{}, &Unsigned{c.ledger.count, c.ledger.first}
	}
	format, err := c.decideMark(asked.Mark)
	format.Minus = asked.Minus
	return format, err
}

func (c *Column) decideMark(asked Mark) (Format, error) {
	if len(c.currencies) > 1 {
		several := &SeveralCurrencies{}
		for name := range c.currencies {
			several.Names = append(several.Names, name)
		}
		slices.SortFunc(several.Names, func(a, b string) int {
			return cmp.Or(cmp.Compare(c.currencies[a].first.Line, c.currencies[b].first.Line), cmp.Compare(a, b))
		})
		for _, name := range several.Names {
			several.Values = append(several.Values, c.currencies[name].first)
		}
		return Format{}, several
	}
	switch {
	case asked != Unsettled:
		return c.format(asked), nil
	case c.point.count > 0 && c.comma.count > 0:
		return Format{}, &Conflict{c.point.first, c.comma.first}
	case c.comma.count > 0:
		return c.format(Comma), nil
	case c.point.count == 0 && c.open.count > 0:
		return Format{}, &Open{c.open.count, c.open.first}
	}
	return c.format(Point), nil
}

func (c *Column) format(mark Mark) Format {
	if mark == Comma {
		return Format{Mark: Comma, Scale: c.commaScale}
	}
	return Format{Mark: Point, Scale: c.pointScale}
}

// Shows returns the first value that is not written plainly in a format: with its decimal comma, a currency or between
// parentheses. There is none if all are plain.
func (c *Column) Shows(f Format) Example {
	if f.Mark == Comma {
		return c.comma.first
	}
	return c.odd.first
}

// Unread returns how many values are no numbers of a format, and the first of them.
func (c *Column) Unread(f Format) (count int, first Example) {
	all, other := c.bad, c.point
	if f.Mark == Point {
		other = c.comma
	}
	if other.count > 0 && (all.count == 0 || other.first.Line < all.first.Line) {
		all.first = other.first
	}
	return all.count + other.count, all.first
}

// IsNumber tells whether a text is a number with some mark.
func IsNumber(text []byte) bool {
	n, ok := scan(text)
	return ok && (n.fits(Point) || n.fits(Comma))
}

// AppendPlain appends a number as 1234.56, and nothing for a blank. It is false for a text that is no number of the format.
func (f Format) AppendPlain(to, text []byte) ([]byte, bool) {
	if mark, at, ok := quick(text); ok {
		if mark != Unsettled && mark != f.Mark {
			return to, false
		}
		start := len(to)
		if to = append(to, text...); at >= 0 {
			to[start+at] = '.'
		}
		return to, true
	}
	if len(bytes.TrimSpace(text)) == 0 {
		return to, true
	}
	n, ok := scan(text)
	if !ok || !n.fits(f.Mark) || n.ledger != "" && (n.negative || f.Minus == "") {
		return to, false
	}
	return n.appendPlain(to, f.Mark, f.Minus), true
}
