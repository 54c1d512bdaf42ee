package dimension

import (
	"roundyear/cell"
)

// SpecialRow is a row of no day: for facts without a date, not dated yet, or to
// which a date does not apply. Its date and all other dates are blank.
type SpecialRow struct {
	// Name says which it is: unknown, not_yet, not_applicable.
	Name string
	// Key stands in all keys, Label in all texts.
	Key   int
	Label string
	// BlankFlags leaves flags blank, which are false otherwise.
	BlankFlags bool
	// NumbersAreKey puts the key into all whole numbers, which are blank
	// otherwise.
	NumbersAreKey bool
}

// The rows that a table can have for facts without a day, with the keys and
// labels that they have unless the plan says otherwise.
var (
	Unknown       = SpecialRow{Name: "unknown", Key: -1, Label: "Unknown"}
	NotYet        = SpecialRow{Name: "not_yet", Key: -2, Label: "Not yet"}
	NotApplicable = SpecialRow{Name: "not_applicable", Key: -3, Label: "Not applicable"}
)

// Values returns what the row has for some attributes.
func (s SpecialRow) Values(attributes []Attribute) []cell.Value {
	values := make([]cell.Value, len(attributes))
	for i, attribute := range attributes {
		switch {
		case attribute.Type == cell.Text:
			values[i] = cell.OfText(s.Label)
		case attribute.Type == cell.Boolean && !s.BlankFlags:
			values[i] = cell.OfBool(false)
		case attribute.Type == cell.Integer && (attribute.Role == RoleKey || s.NumbersAreKey):
			values[i] = cell.OfInteger(s.Key)
		}
	}
	return values
}
