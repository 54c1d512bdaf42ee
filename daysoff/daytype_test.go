package daysoff_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"roundyear/civil"
	"roundyear/daysoff"
)

func TestTypeOfADay(t *testing.T) {
	on := func(day int) daysoff.OnDate { return daysoff.OnDate{Month: civil.March, Day: day} }
	set := daysoff.NewSet([]*daysoff.Rule{
		{Name: "Off", Kind: daysoff.Statutory, When: on(3)},
		{Name: "Half", Kind: daysoff.Bank, Half: true, When: on(4)},
		{Name: "Also off", Kind: daysoff.Closure, When: on(3)},
		{Name: "Expected", Kind: daysoff.Statutory, When: on(5), AnnouncedTo: 2025},
		{Name: "Marked", Kind: daysoff.Marked, When: on(6)},
		{Name: "Moved", Kind: daysoff.Statutory, When: on(7), Moves: []daysoff.Move{{From: civil.Saturday, By: 2}}},
		{Name: "Worked", Kind: daysoff.Worked, When: on(14)},
		{Name: "Half of a Sunday", Kind: daysoff.Statutory, Half: true, When: on(15)},
	}, []civil.Weekday{civil.Saturday, civil.Sunday})
	for day, want := range map[int]daysoff.DayType{ // 1 March 2026 is a Sunday
		1: daysoff.WeekendDay, 2: daysoff.OrdinaryDay, 3: daysoff.OffDay, 4: daysoff.HalfDay, 5: daysoff.ExpectedDay, 6: daysoff.OtherDay,
		7: daysoff.OtherDay, 8: daysoff.WeekendDay, 9: daysoff.OffDay, 14: daysoff.WorkedDay, 15: daysoff.HalfDay,
	} {
		assert.Equal(t, want, set.TypeOf(civil.MustOf(2026, civil.March, day)), "%d March", day)
	}
	assert.Equal(t, daysoff.OffDay, set.TypeOf(civil.MustOf(2025, civil.March, 5)), "announced")
}
