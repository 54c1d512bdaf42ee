package daysoff

import (
	"fmt"
	"slices"
	"strings"

	"roundyear/civil"
)

// Kind is what a day off is.
type Kind string

// The kinds: a holiday by law, one of banks and offices, one that people may
// choose, a day that is marked and no day off, a closure of the company, and a
// day of the weekend that is worked in exchange for another.
const (
	Statutory Kind = "statutory"
	Bank      Kind = "bank"
	Elective  Kind = "elective"
	Marked    Kind = "marked"
	Closure   Kind = "closure"
	Worked    Kind = "worked"
)

// Kinds lists all kinds.
var Kinds = []Kind{Statutory, Bank, Elective, Marked, Closure, Worked}

// IsOff tells whether work rests on a day of the kind.
func (k Kind) IsOff() bool { return k == Statutory || k == Bank || k == Closure }

// IsHoliday tells whether a day of the kind is a holiday.
func (k Kind) IsHoliday() bool { return k == Statutory || k == Bank || k == Elective }

// Move says that what falls on a weekday is taken so many days later, or
// earlier when By is negative.
type Move struct {
	From civil.Weekday
	By   int
}

// Rule says when a day off falls and when it is taken.
type Rule struct {
	Name string
	// Names are the names in other languages, by their tags.
	Names map[string]string
	Kind  Kind
	// Half tells that only half of the day is off.
	Half bool
	When When
	// Since and Until bound its own days, both in; nil where nothing does.
	Since, Until *civil.Day
	// Except and Only are years in which it does not fall, or in which alone.
	Except, Only []int
	// Every is after how many years it comes again, counted from Since's year;
	// 0 and 1 are each year.
	Every int
	Moves []Move
	// NextFree tells that a day which falls on a weekend or on another day off
	// is taken on the next day that is neither.
	NextFree bool
	// Nearest tells that it is then taken on the nearest such day, the one before
	// if two are as near.
	Nearest bool
	// ObserveFrom are the weekdays on which NextFree and Nearest begin; without
	// any they begin on weekends and other days off. OrDayOff adds other days off
	// to the weekdays.
	ObserveFrom []civil.Weekday
	OrDayOff    bool
	// KeepBoth tells that its own day stays off besides the one it is taken on.
	KeepBoth bool
	// AnnouncedTo is the last year of which the days are announced; those of later
	// years are expected. 0 is for rules that take no announcement.
	AnnouncedTo int
	// Scope is the subdivisions that it holds in, such as DE-BY; none is all.
	Scope []string
	// Region is the region it belongs to; empty for the company's own.
	Region string
	// Source is the law or other source of the rule.
	Source string
}

// falls returns its own days in a year.
func (r *Rule) falls(year int) []civil.Day {
	if year < firstYear || year > lastYear {
		return nil
	}
	if slices.Contains(r.Except, year) || len(r.Only) > 0 && !slices.Contains(r.Only, year) {
		return nil
	}
	if r.Every > 1 && r.Since != nil && (year-r.Since.Year())%r.Every != 0 {
		return nil
	}
	if r.Since != nil && year < r.Since.Year() || r.Until != nil && year > r.Until.Year() {
		return nil
	}
	return slices.DeleteFunc(r.When.In(year), func(day civil.Day) bool { return !r.bounds(day) })
}

// bounds tells whether a day lies within Since and Until.
func (r *Rule) bounds(day civil.Day) bool {
	return (r.Since == nil || day >= *r.Since) && (r.Until == nil || day <= *r.Until)
}

// goesAround tells whether what falls on a day is taken where it is free.
func (r *Rule) goesAround(day civil.Day) bool {
	return (r.NextFree || r.Nearest) && (r.OrDayOff || r.goesFrom(day))
}

// goesFrom tells whether the weekday of a day is one from which it goes, when no
// other day off does it.
func (r *Rule) goesFrom(day civil.Day) bool {
	return len(r.ObserveFrom) == 0 || slices.Contains(r.ObserveFrom, day.Weekday())
}

// moved returns the day on which one that falls on a day is taken by the
// moves.
func (r *Rule) moved(day civil.Day) civil.Day {
	for _, move := range r.Moves {
		if day.Weekday() == move.From {
			return day + civil.Day(move.By)
		}
	}
	return day
}

// AppliesIn tells whether the rule holds in a place: a region such as IE, or a
// subdivision such as DE-BY.
func (r *Rule) AppliesIn(place string) bool {
	return len(r.Scope) == 0 || slices.Contains(r.Scope, place)
}

// Occurs tells whether the rule has any day in a range of years.
func (r *Rule) Occurs(first, last int) bool {
	if _, ok := r.When.(Between); ok {
		// That is for the other rules to say.
		return true
	}
	for year := first; year <= last; year++ {
		if len(r.falls(year)) > 0 {
			return true
		}
	}
	return false
}

// Why says in words when the rule falls and how it moves.
func (r *Rule) Why() string {
	text := r.When.Words()
	switch {
	case r.Since != nil && r.Until != nil:
		text += fmt.Sprintf(", from %s to %s", r.Since, r.Until)
	case r.Since != nil:
		text += fmt.Sprintf(", since %s", r.Since)
	case r.Until != nil:
		text += fmt.Sprintf(", until %s", r.Until)
	}
	if r.Every > 1 {
		text += fmt.Sprintf(", every %d years", r.Every)
	}
	if len(r.Except) > 0 {
		text += fmt.Sprintf(", except in %s", years(r.Except))
	}
	if r.AnnouncedTo > 0 {
		text += fmt.Sprintf(", announced up to %d", r.AnnouncedTo)
	}
	for _, move := range r.Moves {
		way := "later"
		by := move.By
		if by < 0 {
			way, by = "earlier", -by
		}
		text += fmt.Sprintf("; on a %s it is taken %s %s", move.From, countOfDays(by), way)
	}
	if r.Nearest {
		text += "; " + r.whyObserve() + " it is taken on the nearest day that is neither weekend nor day off"
	}
	if r.NextFree {
		text += "; " + r.whyObserve() + " it is taken on the next day that is neither weekend nor day off"
	}
	return text
}

// whyObserve says when it is taken on another day.
func (r *Rule) whyObserve() string {
	if len(r.ObserveFrom) == 0 {
		return "on a weekend or another day off"
	}
	var from []string
	for _, weekday := range r.ObserveFrom {
		from = append(from, "a "+weekday.String())
	}
	if r.OrDayOff {
		from = append(from, "another day off")
	}
	last := len(from) - 1
	if last == 0 {
		return "on " + from[0]
	}
	return "on " + strings.Join(from[:last], ", ") + " or " + from[last]
}

func years(all []int) string {
	text := ""
	for i, year := range all {
		if i > 0 {
			text += ", "
		}
		text += fmt.Sprint(year)
	}
	return text
}
