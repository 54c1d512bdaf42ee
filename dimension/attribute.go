// Package dimension is the catalogue of attributes that a day can have, and
// the date dimension made of them: one row a day. All that builds, lists,
// explains or checks a date table reads this one catalogue.
package dimension

import (
	"roundyear/calendar"
	"roundyear/cell"
	"roundyear/civil"
)

// Attribute is one column of the date dimension.
type Attribute struct {
	// Name is the column's name in snake case.
	Name string
	// Group is the name under which it can be chosen together with others.
	Group string
	// Type is the type of its values.
	Type cell.Type
	// Meaning says in a sentence what it holds.
	Meaning string
	// SortBy names the attribute that puts its values in time order; empty
	// when they sort by themselves.
	SortBy string
	// Holds is the coarsest grain over which the value stays the same.
	Holds calendar.Grain

	value func(*row) cell.Value
}

// Column returns the attribute's name and type.
func (a Attribute) Column() cell.Column { return cell.Column{Name: a.Name, Type: a.Type} }

// row is a day with all that attributes ask about it, located once.
type row struct {
	day        civil.Day
	year       int
	month      civil.Month
	dayOfMonth int
	weekday    civil.Weekday
	tracks     []track
}

// track follows one grain from day to day and locates a period only when the
// day has left the last one.
type track struct {
	grain  calendar.Grain
	period calendar.Period
	label  string
	// entered tells that the day is the first seen of its period.
	entered bool
}

func (r *row) moveTo(day civil.Day) {
	r.day = day
	r.year, r.month, r.dayOfMonth = day.Date()
	r.weekday = day.Weekday()
	for i := range r.tracks {
		t := &r.tracks[i]
		if t.entered = t.label == "" || !t.period.Contains(day); t.entered {
			t.period = t.grain.Locate(day)
			t.label = t.grain.Label(t.period)
		}
	}
}
