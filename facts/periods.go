package facts

import (
	"roundyear/calendar"
	"roundyear/civil"
)

// periodTable finds the number of the period of a day by a table, which is filled from
// the calendar as days come.
type periodTable struct {
	grain calendar.Grain
	// asOf is the day at whose position in its period all periods end; nil for whole periods.
	asOf *civil.Day
	// pages begin with the one of the page number base.
	pages []*[dayPage]int32
	base  int
	// last is the page of the day before, which mostly is the one of the next.
	last  *[dayPage]int32
	first civil.Day
}

const (
	dayPageBits = 9
	dayPage     = 1 << dayPageBits
)

const (
	// notKnown is a day whose period was not asked for yet.
	notKnown = -1 << 31
	// notToDate is a day behind the position of the as-of day in its period.
	notToDate = notKnown + 1
)

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
	through := period.Last
	if t.asOf != nil {
		through = calendar.ToDate(t.grain.Calendar, t.grain.Unit, *t.asOf, period)
	}
	for d := max(period.First, t.first); d <= min(period.Last, t.first+dayPage-1); d++ {
		if t.last[d-t.first] = int32(period.Number); d > through {
			t.last[d-t.first] = notToDate
		}
	}
	return int(t.last[day-t.first])
}

func (t *periodTable) turnTo(day civil.Day) {
	number := int(day) >> dayPageBits
	t.first = civil.Day(number << dayPageBits)
	at := number - t.base
	if at < 0 || at >= len(t.pages) {
		at = t.reach(number)
	}
	if t.last = t.pages[at]; t.last != nil {
		return
	}
	t.last = new([dayPage]int32)
	for i := range t.last {
		t.last[i] = notKnown
	}
	t.pages[at] = t.last
}

// reach makes the list of pages reach a page, and returns its place in it.
func (t *periodTable) reach(number int) int {
	if len(t.pages) == 0 {
		t.base = number
	}
	if missing := t.base - number; missing > 0 {
		t.pages = append(make([]*[dayPage]int32, missing), t.pages...)
		t.base = number
	}
	if missing := number - t.base - len(t.pages) + 1; missing > 0 {
		t.pages = append(t.pages, make([]*[dayPage]int32, missing)...)
	}
	return number - t.base
}
