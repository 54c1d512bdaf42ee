package daysoff

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"roundyear/civil"
)

func TestWhenASiteIsOpen(t *testing.T) {
	opened, closed := day(t, "2025-03-01"), day(t, "2026-12-31")
	holidays := NewSet([]*Rule{
		{Name: "Easter Monday", Kind: Statutory, When: FromEaster{Days: 1}}, {Name: "Fair", Kind: Marked, When: OnDate{Month: 5, Day: 5}},
		{Name: "Eve", Kind: Bank, Half: true, When: OnDate{Month: 12, Day: 24}},
	}, plainWeekend)
	site := &Site{Name: "A", Weekdays: []civil.Weekday{1, 2, 3, 4, 5, 6}, Holidays: holidays, Opened: &opened, Closed: &closed,
		Closures: []Closed{{day(t, "2026-02-02"), day(t, "2026-02-06"), "refitting"}},
		Opens:    NewExceptions([]Exception{{NthWeekday{Weekday: civil.Sunday, Nth: 1}, "first Sunday"}, {OnDates{day(t, "2026-02-04")}, "sale"}}),
		Shuts:    NewExceptions([]Exception{{OnDate{Month: 12, Day: 25}, "Christmas"}, {OnDate{Month: 11, Day: 1}, "All Saints"}}),
	}
	for _, c := range []struct {
		day    string
		open   bool
		reason Reason
		words  string
	}{
		{"2025-02-28", false, NotYetOpened, "opens on 2025-03-01"}, {"2025-03-01", true, RegularOpening, ""}, {"2027-01-01", false, ClosedDown, "was open until 2026-12-31"},
		{"2026-03-01", true, SpecialOpening, "first Sunday"}, {"2026-03-08", false, OnWeekday, "Sunday"},
		{"2026-04-06", false, OnHoliday, "Easter Monday"}, {"2026-05-05", true, RegularOpening, ""}, {"2026-12-24", true, RegularOpening, ""},
		{"2026-02-03", false, ShutFor, "refitting"}, {"2026-02-04", true, SpecialOpening, "sale"}, {"2026-12-25", false, SpecialClosing, "Christmas"},
		// The first Sunday of November 2026 is the 1st: what shuts wins.
		{"2026-11-01", false, SpecialClosing, "All Saints"},
	} {
		open, reason, words := site.IsOpen(day(t, c.day))
		assert.Equal(t, c.open, open, c.day)
		assert.Equal(t, []string{string(c.reason), c.words}, []string{string(reason), words}, c.day)
	}
}
