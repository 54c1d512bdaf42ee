// Package lapse measures how long something took: from one day or moment to another, in days, workdays, whole weeks, months and years, or
// hours, of all days or of opening hours; and sorts what came of it into bands.
package lapse

import (
	"fmt"
	"strings"
)

// Unit is what time is measured in.
type Unit int

// The units. Weeks, months and years are whole ones that have passed.
const (
	Days Unit = iota
	// Workdays are those of a region, a set of days off or a site.
	Workdays
	// TradingDays are days on which a site is open.
	TradingDays
	Weeks
	Months
	Years
	// Hours are those of the clock, BusinessHours those within opening hours.
	Hours
	BusinessHours
)

var unitNames = [...]string{"days", "workdays", "trading-days", "weeks", "months", "years", "hours", "business-hours"}

// String returns the unit's name, as it is asked for.
func (u Unit) String() string { return unitNames[u] }

// ParseUnit reads a unit's name. The error lists the names.
func ParseUnit(text string) (Unit, error) {
	for unit, name := range unitNames {
		if strings.EqualFold(text, name) {
			return Unit(unit), nil
		}
	}
	return 0, fmt.Errorf("unknown unit %q; use %s", text, strings.Join(unitNames[:], ", "))
}

// Units returns the names of all units.
func Units() []string { return unitNames[:] }

// Decimals returns how many decimals a lapse has: two for hours, which are told to the hundredth, none for the others.
func (u Unit) Decimals() int {
	if u == Hours || u == BusinessHours {
		return 2
	}
	return 0
}

// CountsDays tells whether days of one kind are counted, so that it matters which ends count.
func (u Unit) CountsDays() bool { return u <= TradingDays }

// Ends says which of the two days between which days are counted count themselves, if they are of the kind.
type Ends int

// The ends: the later of the two days, the earlier, both or none.
const (
	LaterEnd Ends = iota
	EarlierEnd
	BothEnds
	NoEnds
)

var endNames = [...]string{"later", "earlier", "both", "none"}

// ParseEnds reads which ends count. The error lists the names.
func ParseEnds(text string) (Ends, error) {
	for ends, name := range endNames {
		if strings.EqualFold(text, name) {
			return Ends(ends), nil
		}
	}
	return 0, fmt.Errorf("%q is none of %s", text, strings.Join(endNames[:], ", "))
}

// String returns the name of the ends.
func (e Ends) String() string { return endNames[e] }
