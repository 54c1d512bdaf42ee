package facts

import (
	"slices"

	"roundyear/civil"
)

// Event is something that moves from year to year, such as Easter. It sets the days of two years beside each other by their distance from
// it.
type Event struct {
	Name string
	// Days are those on which it falls, in time order.
	Days []civil.Day
}

// What falls so many days apart is one year apart, in any calendar of religions.
const leastYear, longestYear = 300, 430

// Before returns the day that lies as far from the event of the year before as a day lies from the event that is nearest to it. It is false
// where the event does not fall in both years, and for days that lie nearer to another event in the year before.
func (e *Event) Before(day civil.Day) (civil.Day, bool) {
	at := e.nearest(day)
	if at < 0 {
		return 0, false
	}
	before := at - 1
	for before >= 0 && e.Days[at]-e.Days[before] < leastYear {
		before--
	}
	if before < 0 || e.Days[at]-e.Days[before] > longestYear {
		return 0, false
	}
	ago := day - e.Days[at] + e.Days[before]
	return ago, e.nearest(ago) == before
}

// On returns the day of the event that is nearest to a day; it is false if there is none within a year.
func (e *Event) On(day civil.Day) (civil.Day, bool) {
	if at := e.nearest(day); at >= 0 {
		return e.Days[at], true
	}
	return 0, false
}

// nearest returns which day of the event is nearest to a day, the later one of two; -1 if there is none within half a year.
func (e *Event) nearest(day civil.Day) int {
	at, found := slices.BinarySearch(e.Days, day)
	if found {
		return at
	}
	if at == len(e.Days) || at > 0 && day-e.Days[at-1] < e.Days[at]-day {
		at--
	}
	if at < 0 || max(day-e.Days[at], e.Days[at]-day) > longestYear/2 {
		return -1
	}
	return at
}
