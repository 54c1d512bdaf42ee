package daysoff_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"roundyear/civil"
	"roundyear/civil/civiltest"
	"roundyear/daysoff"
)

func TestWhenASiteIsOpen(t *testing.T) {
	opened, closed := civiltest.Day("2025-03-01"), civiltest.Day("2026-12-31")
	holidays := daysoff.NewSet([]*daysoff.Rule{
		{Name: "Easter Monday", Kind: daysoff.Statutory, When: daysoff.FromEaster{Days: 1}}, {Name: "Fair", Kind: daysoff.Marked, When: daysoff.OnDate{Month: 5, Day: 5}},
		{Name: "Eve", Kind: daysoff.Bank, Half: true, When: daysoff.OnDate{Month: 12, Day: 24}},
	}, plainWeekend)
	site := &daysoff.Site{Name: "A", Weekdays: []civil.Weekday{1, 2, 3, 4, 5, 6}, Holidays: holidays, Opened: &opened, Closed: &closed,
		Closures: []daysoff.Closed{{civiltest.Day("2026-02-02"), civiltest.Day("2026-02-06"), "refitting"}},
		Opens:    daysoff.NewExceptions([]daysoff.Exception{{daysoff.NthWeekday{Weekday: civil.Sunday, Nth: 1}, "first Sunday"}, {daysoff.OnDates{civiltest.Day("2026-02-04")}, "sale"}}),
		Shuts:    daysoff.NewExceptions([]daysoff.Exception{{daysoff.OnDate{Month: 12, Day: 25}, "Christmas"}, {daysoff.OnDate{Month: 11, Day: 1}, "All Saints"}}),
	}
	for _, c := range []struct {
		day    string
		open   bool
		reason daysoff.Reason
		words  string
	}{
		{"2025-02-28", false, daysoff.NotYetOpened, "opens on 2025-03-01"}, {"2025-03-01", true, daysoff.RegularOpening, ""}, {"2027-01-01", false, daysoff.ClosedDown, "was open until 2026-12-31"},
		{"2026-03-01", true, daysoff.SpecialOpening, "first Sunday"}, {"2026-03-08", false, daysoff.OnWeekday, "Sunday"},
		{"2026-04-06", false, daysoff.OnHoliday, "Easter Monday"}, {"2026-05-05", true, daysoff.RegularOpening, ""}, {"2026-12-24", true, daysoff.RegularOpening, ""},
		{"2026-02-03", false, daysoff.ShutFor, "refitting"}, {"2026-02-04", true, daysoff.SpecialOpening, "sale"}, {"2026-12-25", false, daysoff.SpecialClosing, "Christmas"},
		// The first Sunday of November 2026 is the 1st: what shuts wins.
		{"2026-11-01", false, daysoff.SpecialClosing, "All Saints"},
	} {
		open, reason, words := site.IsOpen(civiltest.Day(c.day))
		assert.Equal(t, c.open, open, c.day)
		assert.Equal(t, []string{string(c.reason), c.words}, []string{string(reason), words}, c.day)
	}
}
