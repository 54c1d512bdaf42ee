package where

import (
	"cmp"
	"slices"
	"strings"

	"roundyear/facts/decimal"
	"roundyear/rows"
)

// Excludes tells that no row is kept whose value of the column lies within bounds. It is false
// where they do not tell that.
func (c *Condition) Excludes(b rows.Bounds) bool {
	if b.IsOne {
		value := []byte(b.LeastText)
		if b.HasMissing {
			value = nil
		}
		keeps, _, err := c.Match(value)
		return err == nil && !keeps
	}
	switch c.Operator {
	case IsBlank:
		return !b.HasMissing && b.Type != rows.Text // a text may be empty or spaces
	case Equal:
		return !slices.ContainsFunc(c.Values, func(value string) bool {
			least, most, ok := c.order(b, value)
			return !ok || least <= 0 && most >= 0
		})
	case Less, LessOrEqual, More, MoreOrEqual:
		least, most, ok := c.order(b, c.Values[0])
		return ok && map[Operator]bool{Less: least >= 0, LessOrEqual: least > 0, More: most <= 0, MoreOrEqual: most < 0}[c.Operator]
	}
	return false
}

// order compares the ends of bounds with a value of the condition. It is false where that is of
// another kind than the bounds, so that it would be compared as text, or is blank.
func (c *Condition) order(b rows.Bounds, value string) (least, most int, ok bool) {
	o := operandOf([]byte(value))
	switch b.Type {
	case rows.Day, rows.Moment, rows.Instant:
		if o.isDay {
			return cmp.Compare(b.Day(b.Least), o.day), cmp.Compare(b.Day(b.Most), o.day), true
		}
	case rows.Integer, rows.Decimal:
		if o.isNumber {
			return decimal.OfUnits(b.Least, int(b.Scale)).Cmp(o.number), decimal.OfUnits(b.Most, int(b.Scale)).Cmp(o.number), true
		}
	case rows.Text:
		if !o.isDay && !o.isNumber && strings.TrimSpace(value) != "" {
			return cmp.Compare(b.LeastText, value), cmp.Compare(b.MostText, value), true
		}
	}
	return 0, 0, false
}
