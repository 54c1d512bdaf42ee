package datetext

import "roundyear/civil"

// MaxShapes is how many shapes a column tells apart.
const MaxShapes = maxShapes

// Shapes returns how many shapes a column has seen.
func (c *Column) Shapes() int { return len(c.shapes) }

// OtherLanguages are the languages that have names of months of their own.
var OtherLanguages = others

// Months returns the months by their names.
func (l *Language) Months() map[string]civil.Month { return l.months }
