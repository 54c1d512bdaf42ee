// Package dimension is the catalogue of attributes that a day can have, and
// the tables made of it: one row a day, a week, a month or any other period,
// and one row a moment of the day. All that builds, lists, explains or checks
// a date table reads this one catalogue.
package dimension

import (
	"roundyear/calendar"
	"roundyear/cell"
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
	// SameFor is the coarsest grain over which the value stays the same.
	SameFor calendar.Grain
	// Role is what the attribute is to the period over which it stays the same.
	Role Role

	value func(*row) cell.Value
	why   func(*row) string
	// kept is the place from 1 on of the set of days off for which the value stays
	// while the set says the same of each day; 0 is none.
	kept int
}

// Role is what an attribute is to its period.
type Role uint8

// The roles. A key is what tables are joined by, a label what people read, a number counts
// the periods of a year, and the first and the last day are those of the period.
const (
	NoRole Role = iota
	RoleKey
	RoleLabel
	RoleNumber
	RoleFirstDay
	RoleLastDay
)

// Column returns the attribute's name and type.
func (a Attribute) Column() cell.Column { return cell.Column{Name: a.Name, Type: a.Type} }

// changesDaily tells whether the value can differ from day to day.
func (a Attribute) changesDaily() bool { return a.SameFor.Unit == calendar.Day }
