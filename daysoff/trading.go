package daysoff

import (
	"fmt"
	"slices"
	"sync"

	"roundyear/civil"
)

// Site is a place that is open on days of its own, such as a shop.
type Site struct {
	Name string
	// Weekdays are those on which it is open as a rule.
	Weekdays []civil.Weekday
	// Holidays are the days off on which it is shut; nil when it keeps open.
	Holidays *Set
	// Opened and Closed are its first and its last day, both in; nil where there
	// is none.
	Opened, Closed *civil.Day
	// Closures are spans of days on which it is shut.
	Closures []Closed
	// Opens and Shuts are exceptions, which win over all but its first and last
	// day; what shuts wins over what opens.
	Opens, Shuts *Exceptions
}

// Closed is a span of days on which a site is shut, both ends in.
type Closed struct {
	From, To civil.Day
	Reason   string
}

// Exception is days on which a site is open or shut against the rule.
type Exception struct {
	When   When
	Reason string
}

// Exceptions are those of a site, or of several that share them. They work years
// out when they are first asked for, and serve several goroutines.
type Exceptions struct {
	list  []Exception
	mutex sync.Mutex
	years map[int]map[civil.Day]string
}

// NewExceptions returns exceptions of which the first that holds on a day gives
// the reason.
func NewExceptions(list []Exception) *Exceptions {
	return &Exceptions{list: list, years: map[int]map[civil.Day]string{}}
}

// on returns the reason of the exception that holds on a day.
func (e *Exceptions) on(day civil.Day) (reason string, holds bool) {
	if e == nil {
		return "", false
	}
	e.mutex.Lock()
	defer e.mutex.Unlock()
	year := day.Year()
	days, known := e.years[year]
	if !known {
		days = map[civil.Day]string{}
		for _, exception := range slices.Backward(e.list) {
			for _, one := range exception.When.In(year) {
				days[one] = exception.Reason
			}
		}
		e.years[year] = days
	}
	reason, holds = days[day]
	return reason, holds
}

// Reason says why a site is open or shut on a day.
type Reason string

// The reasons.
const (
	RegularOpening Reason = "regular opening"
	SpecialOpening Reason = "special opening"
	NotYetOpened   Reason = "not opened yet"
	ClosedDown     Reason = "closed down"
	SpecialClosing Reason = "special closing"
	ShutFor        Reason = "closure"
	OnHoliday      Reason = "holiday"
	OnWeekday      Reason = "weekday"
)

// IsOpen tells whether the site is open on a day, why, and, in words, what of:
// the name of the holiday or the reason of the closure.
func (s *Site) IsOpen(day civil.Day) (open bool, reason Reason, words string) {
	switch {
	case s.Opened != nil && day < *s.Opened:
		return false, NotYetOpened, fmt.Sprintf("opens on %s", *s.Opened)
	case s.Closed != nil && day > *s.Closed:
		return false, ClosedDown, fmt.Sprintf("was open until %s", *s.Closed)
	}
	if why, holds := s.Shuts.on(day); holds {
		return false, SpecialClosing, why
	}
	if why, holds := s.Opens.on(day); holds {
		return true, SpecialOpening, why
	}
	for _, closure := range s.Closures {
		if day >= closure.From && day <= closure.To {
			return false, ShutFor, closure.Reason
		}
	}
	if s.Holidays != nil {
		var off []DayOff
		for _, one := range s.Holidays.Taken(day) {
			if one.Rule.Kind.IsOff() && !one.Rule.Half {
				off = append(off, one)
			}
		}
		if len(off) > 0 {
			return false, OnHoliday, JoinedNames(off, "")
		}
	}
	if !slices.Contains(s.Weekdays, day.Weekday()) {
		return false, OnWeekday, day.Weekday().String()
	}
	return true, RegularOpening, ""
}
