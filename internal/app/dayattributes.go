package app

import (
	"sync"

	"roundyear/cell"
	"roundyear/civil"
	"roundyear/dimension"
	"roundyear/facts"
)

// DayAttribute returns an attribute of the catalogue by which facts can be grouped. It serves several goroutines.
func DayAttribute(catalogue *dimension.Catalogue, attribute dimension.Attribute) facts.DayAttribute {
	attributes := []dimension.Attribute{attribute}
	if attribute.SortBy != "" {
		for _, other := range catalogue.Attributes() {
			if other.Name == attribute.SortBy {
				attributes = append(attributes, other)
			}
		}
	}
	type labelled struct {
		label string
		rank  int
	}
	var mutex sync.Mutex
	known := map[civil.Day]labelled{}
	cursor := catalogue.Cursor(attributes)
	return facts.DayAttribute{Name: attribute.Name, Of: func(day civil.Day) (string, int) {
		mutex.Lock()
		defer mutex.Unlock()
		one, ok := known[day]
		if !ok {
			values := cursor.MoveTo(day)
			one = labelled{values[0].String(), rankOf(values[len(values)-1])}
			known[day] = one
		}
		return one.label, one.rank
	}}
}

// rankOf returns a number that sorts a value among others of its kind: true before false, and blank last. Text sorts by itself.
func rankOf(value cell.Value) int {
	const last = 1 << 60
	switch {
	case value.IsBlank():
		return last
	case value.Type() == cell.Integer:
		return int(value.Int())
	case value.Type() == cell.Boolean:
		if value.String() == "false" {
			return 1
		}
	case value.Type() == cell.Date:
		if day, err := civil.Parse(value.String()); err == nil {
			return int(day)
		}
	}
	return 0
}
