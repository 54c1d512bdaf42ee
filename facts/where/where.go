// Package where is the small language of conditions on rows:
//
//	shop = Ballyfern            one value, or a list: shop = Ballyfern, "Kil, North"
//	shop != Ballyfern           none of these; rows where shop is blank are kept
//	amount >= 100               < <= > >= on numbers, days and text
//	sold < 2026-02-01           a day is compared with the day of a time of day, too; what is no day stops
//	note is blank               or: is not blank
//
// Spaces around the operator do not matter. Values are compared as what the condition
// writes: 100 is a number and 2026-02-01 a day; 007 has a leading zero and is text.
package where

import (
	"bytes"
	"errors"
	"fmt"
	"slices"
	"strings"

	"roundyear/civil"
	"roundyear/facts/decimal"
)

// Operator compares the value of a row with those of a condition.
type Operator string

// The operators.
const (
	Equal       Operator = "="
	NotEqual    Operator = "!="
	Less        Operator = "<"
	LessOrEqual Operator = "<="
	More        Operator = ">"
	MoreOrEqual Operator = ">="
	IsBlank     Operator = "is blank"
	IsNotBlank  Operator = "is not blank"
)

// Condition is what the value of one column must be for a row to be kept.
type Condition struct {
	Column   string
	Operator Operator
	// Values are those of the condition as text: any number for Equal and NotEqual,
	// one for the operators of order, none for the others.
	Values []string

	operands []operand
	byText   map[string]int
	// onlyText tells that all values are text that is not blank, which the map finds.
	onlyText bool
	// onlyDays tells that all values are days.
	onlyDays bool
}

// operand is a value of the condition as what it can be compared as.
type operand struct {
	number   decimal.Decimal
	isNumber bool
	day      civil.Day
	isDay    bool
}

// ErrSyntax is the error for a text that is no condition.
var ErrSyntax = errors.New("is not a condition; write COLUMN=VALUE, with = or != < <= > >=, or COLUMN is blank")

// Parse reads a condition. Where the text can be split in more than one way the
// column is the first for which isColumn holds. The error is ErrSyntax or says which
// part is wrong.
func Parse(text string, isColumn func(string) bool) (*Condition, error) {
	for _, operator := range []Operator{IsNotBlank, IsBlank} {
		column, found := strings.CutSuffix(text, " "+string(operator))
		if column = strings.TrimSpace(column); found && column != "" && (isColumn(column) || !strings.ContainsAny(column, "=<>")) {
			return &Condition{Column: column, Operator: operator}, nil
		}
	}
	var first *Condition
	rest := ""
	for i := range len(text) {
		operator := operatorAt(text[i:])
		if operator == "" || i > 0 && operatorAt(text[i-1:]) != "" && len(operatorAt(text[i-1:])) > 1 {
			continue
		}
		one := &Condition{Column: strings.TrimSpace(text[:i]), Operator: operator}
		if first == nil || isColumn(one.Column) {
			first, rest = one, text[i+len(operator):]
		}
		if isColumn(one.Column) {
			break
		}
	}
	if first == nil || first.Column == "" {
		return nil, ErrSyntax
	}
	var err error
	if first.Values, err = splitValues(rest); err != nil {
		return nil, err
	}
	ordered := first.Operator != Equal && first.Operator != NotEqual
	if ordered && (len(first.Values) > 1 || first.Values[0] == "") {
		return nil, fmt.Errorf("needs one value behind %s", first.Operator)
	}
	first.byText, first.onlyText, first.onlyDays = map[string]int{}, true, true
	for i, value := range first.Values {
		o := operandOf([]byte(value))
		first.operands = append(first.operands, o)
		first.onlyDays = first.onlyDays && o.isDay
		first.onlyText = first.onlyText && !o.isDay && !o.isNumber && value != ""
		if _, twice := first.byText[value]; !twice {
			first.byText[value] = i
		}
	}
	return first, nil
}

func operatorAt(text string) Operator {
	for _, operator := range []Operator{NotEqual, LessOrEqual, MoreOrEqual, Equal, Less, More} {
		if strings.HasPrefix(text, string(operator)) {
			return operator
		}
	}
	return ""
}

// splitValues splits a list at its commas. A value in double quotes may hold commas,
// and quotes that are doubled.
func splitValues(text string) ([]string, error) {
	var values []string
	for {
		text = strings.TrimSpace(text)
		if !strings.HasPrefix(text, `"`) {
			value, rest, more := strings.Cut(text, ",")
			values = append(values, strings.TrimSpace(value))
			if !more {
				return values, nil
			}
			text = rest
			continue
		}
		var value strings.Builder
		text = text[1:]
		for {
			end := strings.IndexByte(text, '"')
			if end < 0 {
				return nil, errors.New(`has a " that is not closed`)
			}
			value.WriteString(text[:end])
			if text = text[end+1:]; !strings.HasPrefix(text, `"`) {
				break
			}
			value.WriteByte('"')
			text = text[1:]
		}
		values = append(values, value.String())
		if text = strings.TrimSpace(text); text == "" {
			return values, nil
		}
		if text[0] != ',' {
			return nil, errors.New(`has text behind a closing "; put a comma between values`)
		}
		text = text[1:]
	}
}

func operandOf(text []byte) operand {
	var o operand
	text = bytes.TrimSpace(text)
	if o.day, o.isDay = dayOf(text); o.isDay {
		return o
	}
	o.number, o.isNumber = numberOf(text)
	return o
}

// numberOf reads a number. One with a leading zero is a code, such as 007.
func numberOf(text []byte) (decimal.Decimal, bool) {
	digits := bytes.TrimLeft(text, "+-")
	if len(digits) == 0 || len(digits) > 1 && digits[0] == '0' && digits[1] != '.' {
		return decimal.Decimal{}, false
	}
	number, err := decimal.Parse(text)
	return number, err == nil
}

const dayWidth = len("2026-02-01")

// dayOf reads a day in the form of ISO 8601, and the day of a time of day.
func dayOf(text []byte) (civil.Day, bool) {
	if len(text) < dayWidth || len(text) > dayWidth && text[dayWidth] != ' ' && text[dayWidth] != 'T' {
		return 0, false
	}
	day, err := civil.Parse(string(text[:dayWidth]))
	return day, err == nil
}

// NotComparable is the error for a value that cannot be compared with the condition's.
type NotComparable struct {
	Condition *Condition
	Value     string
	// Wanted is what it should be: a number or a day.
	Wanted string
}

// Error says so, with the value.
func (e *NotComparable) Error() string {
	return fmt.Sprintf("%q is not %s, which %s needs", e.Value, e.Wanted, e.Condition)
}

// OrdersNumbers tells whether it compares by the order of numbers.
func (c *Condition) OrdersNumbers() bool {
	return len(c.operands) == 1 && c.operands[0].isNumber && c.Operator != Equal && c.Operator != NotEqual
}

// Numbers returns the values of the condition if all of them are numbers.
func (c *Condition) Numbers() (numbers []decimal.Decimal, ok bool) {
	for _, o := range c.operands {
		if !o.isNumber {
			return nil, false
		}
		numbers = append(numbers, o.number)
	}
	return numbers, len(numbers) > 0
}

// Days returns the values of the condition if all of them are days.
func (c *Condition) Days() (days []civil.Day, ok bool) {
	for _, o := range c.operands {
		if !o.isDay {
			return nil, false
		}
		days = append(days, o.day)
	}
	return days, len(days) > 0
}

// Texts returns the values of the condition if they are nothing but texts that are not blank, which values of the same bytes are.
func (c *Condition) Texts() (texts []string, ok bool) {
	return c.Values, c.onlyText && len(c.Values) > 0
}

// String returns the condition as it can be parsed.
func (c *Condition) String() string {
	if len(c.Values) == 0 {
		return c.Column + " " + string(c.Operator)
	}
	var values []string
	for _, value := range c.Values {
		if strings.ContainsAny(value, `,"=<>`) || strings.TrimSpace(value) != value || strings.HasSuffix(value, " blank") {
			value = `"` + strings.ReplaceAll(value, `"`, `""`) + `"`
		}
		values = append(values, value)
	}
	space := ""
	if strings.HasSuffix(c.Column, "!") || operatorAt(c.Column[len(c.Column)-1:]) != "" {
		space = " " // or its end would be taken for a part of the operator
	}
	return c.Column + space + string(c.Operator) + strings.Join(values, ",")
}

// Match tells whether a row with a value is kept, and for Equal which of the
// condition's values it is, else -1. The error is NotComparable.
func (c *Condition) Match(value []byte) (keep bool, which int, err error) {
	switch c.Operator {
	case IsBlank, IsNotBlank:
		return (len(bytes.TrimSpace(value)) == 0) == (c.Operator == IsBlank), -1, nil
	case Equal, NotEqual:
		which = c.index(value)
		if which < 0 && c.onlyDays && len(bytes.TrimSpace(value)) > 0 {
			if _, ok := dayOf(bytes.TrimSpace(value)); !ok {
				return false, -1, &NotComparable{c, string(value), "a day such as 2026-02-01"}
			}
		}
		if c.Operator == NotEqual {
			return which < 0, -1, nil
		}
		return which >= 0, which, nil
	}
	order, compares, err := c.compare(value)
	if err != nil || !compares {
		return false, -1, err
	}
	switch c.Operator {
	case Less:
		keep = order < 0
	case LessOrEqual:
		keep = order <= 0
	case More:
		keep = order > 0
	case MoreOrEqual:
		keep = order >= 0
	}
	return keep, -1, nil
}

// index returns which of the condition's values a value is, or -1.
func (c *Condition) index(value []byte) int {
	if i, found := c.byText[string(value)]; found {
		return i
	}
	if c.onlyText {
		return -1
	}
	trimmed := bytes.TrimSpace(value)
	if i, found := c.byText[string(trimmed)]; found && len(trimmed) == 0 {
		return i
	}
	return slices.IndexFunc(c.operands, func(o operand) bool {
		switch {
		case o.isDay:
			day, ok := dayOf(trimmed)
			return ok && day == o.day
		case o.isNumber:
			number, ok := numberOf(trimmed)
			return ok && number.Cmp(o.number) == 0
		}
		return false
	})
}

// compare compares a value with the condition's; a blank value compares with none.
func (c *Condition) compare(value []byte) (order int, compares bool, err error) {
	trimmed, o := bytes.TrimSpace(value), c.operands[0]
	switch {
	case len(trimmed) == 0:
		return 0, false, nil
	case o.isDay:
		day, ok := dayOf(trimmed)
		if !ok {
			return 0, false, &NotComparable{c, string(value), "a day such as 2026-02-01"}
		}
		return int(day) - int(o.day), true, nil
	case o.isNumber:
		number, parseErr := decimal.Parse(trimmed)
		if parseErr != nil {
			return 0, false, &NotComparable{c, string(value), "a number"}
		}
		return number.Cmp(o.number), true, nil
	}
	return bytes.Compare(value, []byte(c.Values[0])), true, nil
}
