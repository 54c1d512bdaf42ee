package dimension_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/calendar"
	"roundyear/civil"
	"roundyear/daysoff"
	"roundyear/dimension"
	"roundyear/language"
)

func withDaysOff(t testing.TB) *dimension.Catalogue {
	t.Helper()
	weekend := []civil.Weekday{civil.Saturday, civil.Sunday}
	fiscal, err := calendar.NewFiscalMonths(calendar.FiscalMonths{Name: "fiscal", Starts: civil.April, Weeks: calendar.ISOWeeks})
	require.NoError(t, err)
	set, err := calendar.NewSet(calendar.ISOWeeks, fiscal)
	require.NoError(t, err)
	main := daysoff.NewSet([]*daysoff.Rule{
		{Name: "New Year", Names: map[string]string{"nl": "Nieuwjaar"}, Kind: daysoff.Statutory, When: daysoff.OnDate{Month: 1, Day: 1}, Moves: []daysoff.Move{{From: civil.Saturday, By: 2}, {From: civil.Sunday, By: 1}}},
		{Name: "Good Friday", Kind: daysoff.Marked, When: daysoff.FromEaster{Days: -2}},
		{Name: "Easter Monday", Kind: daysoff.Bank, When: daysoff.FromEaster{Days: 1}},
		{Name: "Stocktaking", Kind: daysoff.Closure, When: daysoff.OnDate{Month: 4, Day: 7}},
		{Name: "Eve", Kind: daysoff.Bank, Half: true, When: daysoff.OnDate{Month: 12, Day: 24}},
		{Name: "Also", Kind: daysoff.Elective, When: daysoff.OnDate{Month: 12, Day: 24}},
	}, weekend)
	other := daysoff.NewSet([]*daysoff.Rule{{Name: "May Day", Kind: daysoff.Statutory, When: daysoff.OnDate{Month: 5, Day: 1}}}, weekend)
	c, err := dimension.NewCatalogue(dimension.Settings{Calendars: set, Weekend: weekend, DaysOff: []dimension.DaysOff{{Set: main}, {Prefix: "nl", Set: other}}, Languages: []*language.Names{language.English}})
	require.NoError(t, err)
	return c
}

// Each day with what it is, worked out by hand.
func TestKindsOfDays(t *testing.T) {
	c := withDaysOff(t)
	for day, want := range map[civil.Day]map[string]string{
		// Saturday, whose day is taken on Monday.
		civil.MustOf(2022, 1, 1): {"is_holiday": "true", "is_observed": "false", "is_workday": "false", "day_kind": "weekend", "holiday_name": "New Year", "holiday_kind": "statutory", "days_to_next_holiday": "0", "is_long_weekend": "true", "long_weekend_days": "3", "next_workday": "2022-01-04"},
		civil.MustOf(2022, 1, 3): {"is_holiday": "false", "is_observed": "true", "is_workday": "false", "day_kind": "holiday", "holiday_name": "New Year", "workday_of_month": "", "workdays_so_far_in_month": "0", "workdays_in_month": "20", "workdays_left_in_month": "20", "previous_workday": "2021-12-31"},
		civil.MustOf(2022, 1, 4): {"is_workday": "true", "is_day_after_day_off": "true", "is_eve_of_day_off": "false", "workday_of_year": "1", "day_kind": "workday", "holiday_name": "", "days_to_next_holiday": "104"},
		// Good Friday is marked and no day off.
		civil.MustOf(2026, 4, 3):   {"is_workday": "true", "is_holiday": "false", "holiday_name": "Good Friday", "holiday_kind": "marked", "day_kind": "workday", "is_eve_of_day_off": "false"},
		civil.MustOf(2026, 4, 6):   {"day_kind": "holiday", "is_workday": "false", "holiday_kind": "bank", "fiscal_workday_of_month": "", "fiscal_workdays_so_far_in_month": "3", "fiscal_workdays_so_far_in_year": "3", "workdays_so_far_in_month": "3", "nl_workday_of_month": "4", "is_nl_workday": "true", "long_weekend_days": "4"},
		civil.MustOf(2026, 4, 7):   {"day_kind": "closure", "is_holiday": "false", "is_workday": "false", "holiday_name": "Stocktaking"},
		civil.MustOf(2026, 12, 24): {"is_half_day": "true", "day_kind": "half day", "is_workday": "true", "is_holiday": "true", "holiday_name": "Eve; Also"},
		civil.MustOf(2026, 5, 1):   {"is_workday": "true", "is_nl_workday": "false", "nl_holiday_name": "May Day", "is_workday_everywhere": "false", "is_workday_somewhere": "true", "nl_long_weekend_days": "3", "long_weekend_days": "0"},
		civil.MustOf(2026, 5, 2):   {"is_workday_everywhere": "false", "is_workday_somewhere": "false"},
	} {
		values := valuesOf(c, day)
		for name, value := range want {
			assert.Equal(t, value, values[name], "%s of %s", name, day)
		}
	}
}

// Workdays of, in and left in a period add up, and running numbers go on by one
// from workday to workday.
func TestCountsOfWorkdaysAddUp(t *testing.T) {
	c := withDaysOff(t)
	attributes, err := c.Select([]string{"is_workday", "running_workday", "workdays_so_far_in_month", "workdays_in_month", "workdays_left_in_month", "fiscal_workdays_so_far_in_quarter", "fiscal_workdays_in_quarter", "fiscal_workdays_left_in_quarter", "workdays_so_far_in_year", "workdays_in_year", "workdays_left_in_year"})
	require.NoError(t, err)
	before := -1
	for row := range c.Days(attributes, civil.MustOf(2021, 1, 1), civil.MustOf(2027, 12, 31)) {
		var numbers []int
		for _, value := range row[1:] {
			var number int
			_, err := fmt.Sscan(value.String(), &number)
			require.NoError(t, err)
			numbers = append(numbers, number)
		}
		for i := 1; i < len(numbers); i += 3 {
			require.Equal(t, numbers[i+1], numbers[i]+numbers[i+2])
		}
		step := 0
		if row[0].String() == "true" {
			step = 1
		}
		if before >= 0 {
			require.Equal(t, before+step, numbers[0])
		}
		before = numbers[0]
	}
}

func TestDaysOffAreExplained(t *testing.T) {
	c := withDaysOff(t)
	attributes, err := c.Select([]string{"is_observed", "is_workday_everywhere"})
	require.NoError(t, err)
	explained := c.Explain(attributes, civil.MustOf(2022, 1, 3))
	assert.Equal(t, "New Year (statutory) is on 1 January; on a Saturday it is taken 2 days later; on a Sunday it is taken 1 day later, so 2022-01-01 is taken on 2022-01-03; the weekend is Saturday and Sunday, and the date is a Monday, so true", explained[0].Because)
	assert.Equal(t, "a workday in: nl; not in: the main set, so false", explained[1].Because)
}
