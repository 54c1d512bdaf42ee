package facts

import (
	"roundyear/calendar"
	"roundyear/civil"
)

// periodTable finds the number of the period of a day by a table, which is filled from
// the calendar as days come.
type periodTable struct {
	grain calendar.Grain
	pages map[civil.Day]*[dayPage]int32
	// last is the page of the day before, which mostly is the one of the next.
	last  *[dayPage]int32
	first civil.Day
}

const (
	dayPageBits = 9
	dayPage     = 1 << dayPageBits
)

// notKnown is a day whose period was not asked for yet.
const notKnown = -1 << 31

func (t *periodTable) number(day civil.Day) int {
	at := day - t.first
	if t.last == nil || at < 0 || at >= dayPage {
		t.turnTo(day)
		at = day - t.first
	}
	if known := t.last[at]; known != notKnown {
		return int(known)
	}
	period := t.grain.Locate(day)
	for d := max(period.First, t.first); d <= min(period.Last, t.first+dayPage-1); d++ {
		t.last[d-t.first] = int32(period.Number)
	}
	return period.Number
}

func (t *periodTable) turnTo(day civil.Day) {
	t.first = day >> dayPageBits << dayPageBits
	if t.last = t.pages[t.first]; t.last != nil {
		return
	}
	t.last = new([dayPage]int32)
	for i := range t.last {
		t.last[i] = notKnown
	}
	if t.pages == nil {
		t.pages = map[civil.Day]*[dayPage]int32{}
	}
	t.pages[t.first] = t.last
}
