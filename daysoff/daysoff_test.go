package daysoff_test

import (
	"math/rand/v2"
	"slices"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/civil"
	"roundyear/civil/civiltest"
	"roundyear/daysoff"
)

var plainWeekend = []civil.Weekday{civil.Saturday, civil.Sunday, civil.Sunday}

func TestWhen(t *testing.T) {
	for _, c := range []struct {
		when daysoff.When
		year int
		want []string
	}{
		{daysoff.OnDate{Month: civil.February, Day: 29}, 2024, []string{"2024-02-29"}},
		{daysoff.OnDate{Month: civil.February, Day: 29}, 2025, nil},
		{daysoff.OnDate{Month: civil.February, Day: 1, OnlyOn: []civil.Weekday{civil.Friday}}, 2030, []string{"2030-02-01"}},
		{daysoff.OnDate{Month: civil.February, Day: 1, OnlyOn: []civil.Weekday{civil.Friday}}, 2026, nil},
		{daysoff.NthWeekday{civil.Monday, 1, civil.June}, 2026, []string{"2026-06-01"}},
		{daysoff.NthWeekday{civil.Monday, 5, civil.June}, 2026, []string{"2026-06-29"}},
		{daysoff.NthWeekday{civil.Tuesday, 5, civil.February}, 2026, nil},
		{daysoff.NthWeekday{civil.Monday, -1, civil.October}, 2026, []string{"2026-10-26"}},
		{daysoff.NthWeekday{civil.Monday, -1, civil.December}, 2026, []string{"2026-12-28"}},
		{daysoff.NthWeekday{civil.Thursday, -5, civil.February}, 2026, nil},
		{daysoff.NearDate{Weekday: civil.Friday, Month: civil.June, Day: 19}, 2026, []string{"2026-06-19"}},
		{daysoff.NearDate{Weekday: civil.Friday, Month: civil.June, Day: 20}, 2026, []string{"2026-06-26"}},
		{daysoff.NearDate{Weekday: civil.Wednesday, Before: true, Month: civil.November, Day: 22}, 2024, []string{"2024-11-20"}},
		{daysoff.FromEaster{Days: -2}, 2026, []string{"2026-04-03"}},
		{daysoff.FromEaster{Days: 1, Orthodox: true}, 2026, []string{"2026-04-13"}},
		{daysoff.OnDates{civiltest.Day("2026-05-02"), civiltest.Day("2025-01-01"), civiltest.Day("2026-01-02")}, 2026, []string{"2026-01-02", "2026-05-02"}},
		{daysoff.Either{daysoff.OnDate{Month: 2, Day: 29}, daysoff.OnDate{Month: 3, Day: 1}}, 2025, []string{"2025-03-01"}},
		{daysoff.All{daysoff.OnDate{Month: 3, Day: 1}, daysoff.OnDate{Month: 2, Day: 1}, daysoff.OnDate{Month: 3, Day: 1}}, 2025, []string{"2025-02-01", "2025-03-01"}},
	} {
		var got []string
		for _, found := range c.when.In(c.year) {
			got = append(got, found.String())
		}
		assert.Equal(t, c.want, got, "%s in %d", c.when.Words(), c.year)
		assert.NotEmpty(t, c.when.Words())
	}
}

func TestObservance(t *testing.T) {
	newYear := &daysoff.Rule{Name: "New Year", Kind: daysoff.Statutory, When: daysoff.OnDate{Month: 1, Day: 1}, Moves: []daysoff.Move{{civil.Saturday, -1}, {civil.Sunday, 1}}}
	one := &daysoff.Rule{Name: "One", Kind: daysoff.Statutory, When: daysoff.OnDate{Month: 5, Day: 2}, NextFree: true}
	two := &daysoff.Rule{Name: "Two", Kind: daysoff.Statutory, When: daysoff.OnDate{Month: 5, Day: 3}, NextFree: true}
	both := &daysoff.Rule{Name: "Both", Kind: daysoff.Statutory, When: daysoff.OnDate{Month: 6, Day: 3}, KeepBoth: true, Moves: []daysoff.Move{{civil.Wednesday, 2}}}
	half := &daysoff.Rule{Name: "Half", Kind: daysoff.Bank, Half: true, When: daysoff.OnDate{Month: 12, Day: 24}}
	marked := &daysoff.Rule{Name: "Marked", Kind: daysoff.Marked, When: daysoff.OnDate{Month: 7, Day: 1}}
	s := daysoff.NewSet([]*daysoff.Rule{newYear, one, two, both, half, marked}, plainWeekend)
	for _, c := range []struct{ own, taken string }{
		// A day of the next year that is taken in this one.
		{"2022-01-01", "2021-12-31"}, {"2023-01-01", "2023-01-02"}, {"2024-01-01", "2024-01-01"},
		// 2 May 2026 is a Saturday and 3 May a Sunday: they go around each other.
		{"2026-05-02", "2026-05-04"}, {"2026-05-03", "2026-05-05"},
		{"2026-06-03", "2026-06-05"},
	} {
		found := s.Falling(civiltest.Day(c.own))
		require.Len(t, found, 1, c.own)
		assert.Equal(t, c.taken, found[0].TakenOn.String())
		assert.False(t, s.IsWorkday(civiltest.Day(c.taken)))
		taken := s.Taken(civiltest.Day(c.taken))
		require.Len(t, taken, 1)
		assert.Equal(t, c.own, taken[0].Own.String())
	}
	assert.True(t, s.IsWorkday(civiltest.Day("2021-12-30")))
	assert.False(t, s.IsWorkday(civiltest.Day("2026-06-03")), "both days are off")
	assert.True(t, s.IsWorkday(civiltest.Day("2026-12-24")), "half a day is worked")
	assert.True(t, s.IsWorkday(civiltest.Day("2026-07-01")), "a marked day is no day off")
	names := func(from, to string) (names []string) {
		for _, one := range s.Between(civiltest.Day(from), civiltest.Day(to)) {
			names = append(names, one.Rule.Name)
		}
		return names
	}
	assert.Equal(t, []string{"New Year"}, names("2021-12-31", "2021-12-31"), "the taken day lies in the range")
	assert.Equal(t, []string{"New Year"}, names("2022-01-01", "2022-01-01"), "and so does its own")
}

// The first and the last year that there are have days off too.
func TestTheEndsOfTime(t *testing.T) {
	s := daysoff.NewSet([]*daysoff.Rule{
		{Name: "Easter Monday", Kind: daysoff.Statutory, When: daysoff.FromEaster{Days: 1}}, {Name: "Orthodox", Kind: daysoff.Marked, When: daysoff.FromEaster{Orthodox: true}},
		{Name: "New Year", Kind: daysoff.Statutory, When: daysoff.OnDate{Month: 1, Day: 1}, Moves: []daysoff.Move{{civil.Saturday, -1}}},
		{Name: "Pesach", Kind: daysoff.Marked, When: daysoff.InCalendar{daysoff.OtherCalendarOf("hebrew"), daysoff.CalendarMonth{Number: 7}, 15}},
		{Name: "Fitr", Kind: daysoff.Marked, When: daysoff.InCalendar{daysoff.OtherCalendarOf("islamic-civil"), daysoff.CalendarMonth{Number: 10}, 1}},
	}, plainWeekend)
	for _, year := range []int{1583, 9999} {
		assert.NotEmpty(t, s.Between(civil.FirstOfYear(year), civil.MustOf(year, 12, 31)), "%d", year)
		assert.Positive(t, s.Count(civil.FirstOfYear(year), civil.MustOf(year, 12, 31)))
	}
	for _, edge := range []civil.Day{civil.MaxDay, civil.MinDay, civil.MustOf(1582, 12, 31)} {
		s.Next(edge)
		s.Previous(edge)
		s.NextHoliday(edge)
		s.Break(edge)
	}
}

func TestTheNearestWorkday(t *testing.T) {
	s := daysoff.NewSet([]*daysoff.Rule{
		{Name: "Fixed", Kind: daysoff.Statutory, When: daysoff.OnDates{civiltest.Day("2026-07-03")}},
		{Name: "Near", Kind: daysoff.Statutory, When: daysoff.OnDates{civiltest.Day("2026-07-04"), civiltest.Day("2026-07-12"), civiltest.Day("2026-07-18"), civiltest.Day("2026-07-22")}, Nearest: true},
	}, plainWeekend)
	var taken []string
	for _, one := range s.Between(civiltest.Day("2026-07-04"), civiltest.Day("2026-07-31")) {
		taken = append(taken, one.TakenOn.String())
	}
	// The Friday before the 4th is off already, so Monday is as near as Thursday.
	assert.Equal(t, []string{"2026-07-02", "2026-07-13", "2026-07-17", "2026-07-22"}, taken)
}

func TestYearsOfARule(t *testing.T) {
	since, until := civiltest.Day("2000-01-01"), civiltest.Day("2020-12-31")
	rule := &daysoff.Rule{Name: "X", Kind: daysoff.Statutory, When: daysoff.OnDate{Month: 5, Day: 5}, Since: &since, Until: &until, Every: 5, Except: []int{2010}}
	var years []int
	for year := 1990; year < 2030; year++ {
		if len(rule.Falls(year)) > 0 {
			years = append(years, year)
		}
	}
	assert.Equal(t, []int{2000, 2005, 2015, 2020}, years)
	assert.Equal(t, "5 May, from 2000-01-01 to 2020-12-31, every 5 years, except in 2010", rule.Why())
	assert.True(t, (&daysoff.Rule{When: daysoff.OnDate{Month: 1, Day: 1}, Only: []int{2007}}).Occurs(2000, 2010))
	assert.False(t, (&daysoff.Rule{When: daysoff.OnDate{Month: 1, Day: 1}, Only: []int{2007}}).Occurs(2008, 2010))
	assert.Equal(t, "Nieuw", (&daysoff.Rule{Name: "New", Names: map[string]string{"nl": "Nieuw"}}).NameIn("nl-BE"))
	assert.Equal(t, "New", (&daysoff.Rule{Name: "New", Names: map[string]string{"nl": "Nieuw"}}).NameIn("de"))
}

// Counting by formula agrees with counting day by day, for every kind of
// weekend, and whoever asks for whichever year first.
func TestWorkdaysCountedByTwoWays(t *testing.T) {
	rules := []*daysoff.Rule{
		{Name: "A", Kind: daysoff.Statutory, When: daysoff.OnDate{Month: 1, Day: 1}, Moves: []daysoff.Move{{civil.Saturday, -1}, {civil.Sunday, 1}}},
		{Name: "B", Kind: daysoff.Bank, When: daysoff.FromEaster{Days: 1}}, {Name: "C", Kind: daysoff.Closure, When: daysoff.NthWeekday{civil.Monday, -1, civil.December}},
		{Name: "D", Kind: daysoff.Statutory, When: daysoff.OnDate{Month: 12, Day: 25}, NextFree: true}, {Name: "E", Kind: daysoff.Statutory, When: daysoff.OnDate{Month: 12, Day: 26}, NextFree: true},
	}
	for _, weekend := range [][]civil.Weekday{plainWeekend, {civil.Friday}, {civil.Friday, civil.Saturday}, nil} {
		s := daysoff.NewSet(rules, weekend)
		random := rand.New(rand.NewPCG(1, 2))
		for range 60 {
			from := civiltest.Day("1990-01-01") + civil.Day(random.IntN(20000))
			to := from + civil.Day(random.IntN(900))
			count := 0
			for d := from; d <= to; d++ {
				if s.IsWorkday(d) {
					count++
				}
			}
			require.Equal(t, count, s.Count(from, to), "%v from %s to %s", weekend, from, to)
		}
		next, ok := s.Next(civiltest.Day("2026-12-24"))
		require.True(t, ok)
		previous, ok := s.Previous(next)
		require.True(t, ok)
		assert.LessOrEqual(t, previous, civiltest.Day("2026-12-24"))
		assert.Equal(t, 1, s.Count(previous+1, next))
	}
	resting := daysoff.NewSet(nil, []civil.Weekday{1, 2, 3, 4, 5, 6, 7})
	_, ok := resting.Next(civiltest.Day("2026-01-01"))
	assert.False(t, ok)
	assert.Zero(t, resting.Count(civiltest.Day("2026-01-01"), civiltest.Day("2026-12-31")))
}

func TestLongWeekendsAndTheNextHoliday(t *testing.T) {
	s := daysoff.NewSet([]*daysoff.Rule{{Name: "Easter Monday", Kind: daysoff.Statutory, When: daysoff.FromEaster{Days: 1}}, {Name: "Midweek", Kind: daysoff.Statutory, When: daysoff.OnDate{Month: 7, Day: 1}}}, plainWeekend)
	first, last, ok := s.Break(civiltest.Day("2026-04-05"))
	assert.True(t, ok)
	assert.Equal(t, "2026-04-04 2026-04-06", first.String()+" "+last.String())
	_, _, ok = s.Break(civiltest.Day("2026-07-01"))
	assert.False(t, ok, "one day is no long weekend")
	_, _, ok = s.Break(civiltest.Day("2026-07-04"))
	assert.False(t, ok, "nor is a plain weekend")
	next, ok := s.NextHoliday(civiltest.Day("2026-07-02"))
	assert.True(t, ok)
	assert.Equal(t, "2027-03-29", next.String())
	_, ok = daysoff.NewSet(nil, plainWeekend).NextHoliday(civiltest.Day("2026-07-02"))
	assert.False(t, ok)
}

func TestASetServesSeveralAtOnce(t *testing.T) {
	rules := []*daysoff.Rule{{Name: "A", Kind: daysoff.Statutory, When: daysoff.OnDate{Month: 5, Day: 1}}}
	s := daysoff.NewSet(rules, plainWeekend)
	var running sync.WaitGroup
	for worker := range 8 {
		running.Go(func() {
			for year := 2100 - worker; year > 1900; year -= 7 {
				if s.IsWorkday(civil.MustOf(year, 5, 1)) {
					t.Errorf("%d", year)
				}
			}
		})
	}
	running.Wait()
	alone := daysoff.NewSet(rules, plainWeekend)
	assert.True(t, slices.Equal(s.Between(civiltest.Day("1999-01-01"), civiltest.Day("2005-12-31")), alone.Between(civiltest.Day("1999-01-01"), civiltest.Day("2005-12-31"))))
}

func TestDaysOfTheWeekendThatAreWorked(t *testing.T) {
	s := daysoff.NewSet([]*daysoff.Rule{
		{Name: "Festival", Kind: daysoff.Statutory, When: daysoff.Span{From: daysoff.OnDates{civiltest.Day("2026-10-01")}, Lasts: 7}},
		{Name: "In exchange", Kind: daysoff.Worked, When: daysoff.OnDates{civiltest.Day("2026-09-27"), civiltest.Day("2026-10-10"), civiltest.Day("2026-10-12")}},
	}, plainWeekend)
	assert.True(t, s.IsWorkday(civiltest.Day("2026-09-27")), "a Sunday")
	assert.True(t, s.IsWeekend(civiltest.Day("2026-09-27")), "it stays one of the weekend")
	assert.True(t, s.IsWorkday(civiltest.Day("2026-10-12")), "a Monday is worked anyway")
	// 1 to 7 October are seven days with five weekdays; two weekend days are worked.
	assert.Equal(t, 22-5+1, s.Count(civiltest.Day("2026-10-01"), civiltest.Day("2026-10-31")))
	assert.Equal(t, 23, s.Count(civiltest.Day("2026-09-01"), civiltest.Day("2026-09-30")))
	for first := civiltest.Day("2026-09-20"); first < civiltest.Day("2026-11-01"); first++ {
		counted := 0
		for one := first; one <= civiltest.Day("2027-02-01"); one++ {
			if s.IsWorkday(one) {
				counted++
			}
		}
		assert.Equal(t, counted, s.Count(first, civiltest.Day("2027-02-01")), "%s", first)
	}
	next, _ := s.Next(civiltest.Day("2026-09-30"))
	assert.Equal(t, civiltest.Day("2026-10-08"), next)
	next, _ = s.Next(civiltest.Day("2026-10-09"))
	assert.Equal(t, civiltest.Day("2026-10-10"), next, "the Saturday that is worked")
}

func TestSpansOfDays(t *testing.T) {
	eve := daysoff.Span{From: daysoff.OnDate{Month: civil.January, Day: 1}, Shift: -1, Lasts: 3}
	assert.Equal(t, []civil.Day{civiltest.Day("2026-01-01"), civiltest.Day("2026-01-02"), civiltest.Day("2026-12-31")}, eve.In(2026), "they go over the turn of the year")
	assert.Equal(t, "3 days, the first 1 day before 1 January", eve.Words())
	assert.Equal(t, "2 days after 1 January", daysoff.Span{From: daysoff.OnDate{Month: civil.January, Day: 1}, Shift: 2}.Words())
}

func TestDaysOffThatAreNotAnnouncedYet(t *testing.T) {
	feast := &daysoff.Rule{Name: "Feast", Kind: daysoff.Statutory, AnnouncedTo: 2026, When: daysoff.InCalendar{daysoff.OtherCalendarOf("islamic-umalqura"), daysoff.CalendarMonth{Number: 10}, 1}}
	s := daysoff.NewSet([]*daysoff.Rule{feast}, plainWeekend)
	for text, expected := range map[string]bool{"2026-03-20": false, "2027-03-09": true} {
		falling := s.Falling(civiltest.Day(text))
		require.Len(t, falling, 1, text)
		assert.Equal(t, expected, falling[0].IsExpected(), text)
	}
	assert.Contains(t, feast.Why(), "announced up to 2026")
	assert.False(t, daysoff.DayOff{Rule: &daysoff.Rule{}, Own: civiltest.Day("2027-03-09")}.IsExpected(), "a plain rule takes no announcement")
}

// What falls on another day off goes on from it, but stays on a Saturday that
// is free.
func TestObservedFromSundaysAndOtherDaysOff(t *testing.T) {
	observed := func(name, on string) *daysoff.Rule {
		return &daysoff.Rule{Name: name, Kind: daysoff.Statutory, When: daysoff.OnDates{civiltest.Day(on)}, NextFree: true, ObserveFrom: []civil.Weekday{civil.Sunday}, OrDayOff: true}
	}
	s := daysoff.NewSet([]*daysoff.Rule{
		observed("Saturday", "2026-05-02"), observed("Sunday", "2026-05-03"), observed("Monday", "2026-05-04"), observed("Also Monday", "2026-05-04"),
	}, plainWeekend)
	taken := map[string]string{}
	for _, one := range s.Between(civiltest.Day("2026-05-01"), civiltest.Day("2026-05-31")) {
		taken[one.Rule.Name] = one.TakenOn.String()
	}
	assert.Equal(t, map[string]string{"Saturday": "2026-05-02", "Monday": "2026-05-04", "Sunday": "2026-05-05", "Also Monday": "2026-05-06"}, taken)
	assert.Contains(t, observed("A", "2026-05-02").Why(), "on a Sunday or another day off it is taken on the next day that is neither weekend nor day off")
}

// A workday has a number one higher than the day before, a day without work the
// same, on both sides of the day from which they are counted and in whatever order
// the days are asked for.
func TestWorkdaysAreNumberedOneByOne(t *testing.T) {
	rules := []*daysoff.Rule{
		{Name: "Midsummer", Kind: daysoff.Statutory, When: daysoff.OnDate{Month: civil.June, Day: 24}},
		{Name: "Eve", Kind: daysoff.Statutory, When: daysoff.OnDate{Month: civil.December, Day: 31}, Moves: []daysoff.Move{{civil.Saturday, 2}, {civil.Sunday, 1}}},
		{Name: "Exchanged", Kind: daysoff.Worked, When: daysoff.NthWeekday{civil.Saturday, 2, civil.May}},
	}
	weekend := []civil.Weekday{civil.Saturday, civil.Sunday}
	set := daysoff.NewSet(rules, weekend)
	assert.Equal(t, 1, set.Number(civil.MustOf(1970, 1, 1)))
	assert.Equal(t, 0, set.Number(civil.MustOf(1969, 12, 31)), "an eve")
	assert.Equal(t, 0, set.Number(civil.MustOf(1969, 12, 30)))
	assert.Equal(t, -1, set.Number(civil.MustOf(1969, 12, 29)))
	for _, span := range [][2]int{{1899, 1901}, {1969, 1971}, {2190, 2192}, {1583, 1585}, {1750, 1752}, {2024, 2026}, {9998, 9999}} {
		for day := civil.FirstOfYear(span[0]) + 1; day.Year() <= span[1] && day.Year() <= 9999; day++ {
			step := set.Number(day) - set.Number(day-1)
			if set.IsWorkday(day) {
				assert.Equal(t, 1, step, day)
			} else {
				assert.Equal(t, 0, step, day)
			}
		}
	}
	// One day off and one worked Saturday: Midsummer of 1900 was a Sunday.
	from, to := civil.MustOf(1899, 7, 1), civil.MustOf(1900, 6, 30)
	assert.Equal(t, daysoff.NewSet(nil, weekend).Count(from, to), set.Count(from, to))
}

// What one country moves around its own days off does not go around those of
// another, but what the company moves goes around both.
func TestRegionsDoNotMoveEachOther(t *testing.T) {
	monday, tuesday := civil.MustOf(2026, 6, 15), civil.MustOf(2026, 6, 16)
	north := &daysoff.Rule{Name: "North Day", Kind: daysoff.Statutory, Region: "XN", When: daysoff.OnDates{monday - 1}, NextFree: true}
	south := &daysoff.Rule{Name: "South Day", Kind: daysoff.Statutory, Region: "XS", When: daysoff.OnDates{monday}}
	between := &daysoff.Rule{Name: "Bridge", Kind: daysoff.Statutory, Region: "XS", When: daysoff.Between{}}
	other := &daysoff.Rule{Name: "Other Day", Kind: daysoff.Statutory, Region: "XN", When: daysoff.OnDates{monday + 2}}
	own := &daysoff.Rule{Name: "Outing", Kind: daysoff.Closure, When: daysoff.OnDates{monday - 1}, NextFree: true}
	set := daysoff.NewSet([]*daysoff.Rule{own, north, south, between, other, south}, []civil.Weekday{civil.Saturday, civil.Sunday})
	taken := map[string]civil.Day{}
	for _, one := range set.Between(monday-7, monday+7) {
		taken[one.Rule.Name] = one.TakenOn
	}
	assert.Equal(t, map[string]civil.Day{"North Day": monday, "South Day": monday, "Other Day": monday + 2, "Outing": tuesday}, taken)
	assert.Equal(t, "North Day; South Day", daysoff.JoinedNames(set.Taken(monday), ""))
	assert.Len(t, set.Taken(monday), 2, "a rule that two parts of a country share is there once")
	assert.Equal(t, "Outing; North Day", daysoff.JoinedNames(set.Falling(monday-1), ""), "in the order of the plan")
}

// What goes to a free day at the turn of the year goes around the days off of the
// year beside it.
func TestFreeDaysAcrossTheTurnOfTheYear(t *testing.T) {
	newYear := &daysoff.Rule{Name: "New Year", Kind: daysoff.Statutory, Region: "XN", When: daysoff.OnDate{Month: civil.January, Day: 1}}
	second := &daysoff.Rule{Name: "Second", Kind: daysoff.Statutory, Region: "XN", When: daysoff.OnDate{Month: civil.January, Day: 2}, NextFree: true}
	for _, region := range []string{"XN", ""} {
		eve := &daysoff.Rule{Name: "Eve", Kind: daysoff.Closure, Region: region, When: daysoff.OnDate{Month: civil.December, Day: 31}, NextFree: true}
		last := &daysoff.Rule{Name: "Last", Kind: daysoff.Closure, Region: region, When: daysoff.OnDate{Month: civil.January, Day: 1}, Since: new(civil.MustOf(2022, 1, 1)), Nearest: true}
		taken := func(rules []*daysoff.Rule, name string, own civil.Day) civil.Day {
			set := daysoff.NewSet(rules, []civil.Weekday{civil.Saturday, civil.Sunday})
			for _, one := range set.Falling(own) {
				if one.Rule.Name == name {
					return one.TakenOn
				}
			}
			return 0
		}
		// 31 December 2023 was a Sunday.
		assert.Equal(t, civil.MustOf(2024, 1, 3), taken([]*daysoff.Rule{newYear, second, eve}, "Eve", civil.MustOf(2023, 12, 31)), "region %q", region)
		// 1 January 2022 was a Saturday, and the day before it is off.
		assert.Equal(t, civil.MustOf(2021, 12, 30), taken([]*daysoff.Rule{{Name: "Fixed", Kind: daysoff.Statutory, Region: "XN", When: daysoff.OnDate{Month: civil.December, Day: 31}}, last}, "Last", civil.MustOf(2022, 1, 1)), "region %q", region)
	}
}

// Of two that have to move at the turn of a year the later goes around the
// earlier, whichever year is asked for first.
func TestMovesAcrossTheTurnOfTheYearSeeEachOther(t *testing.T) {
	rules := func() []*daysoff.Rule {
		return []*daysoff.Rule{
			{Name: "First", Kind: daysoff.Statutory, When: daysoff.OnDate{Month: 1, Day: 1}, NextFree: true},
			{Name: "Last", Kind: daysoff.Statutory, When: daysoff.OnDate{Month: 12, Day: 31}, NextFree: true},
			{Name: "Regional", Kind: daysoff.Statutory, Region: "XX", When: daysoff.OnDate{Month: 1, Day: 1}, NextFree: true},
		}
	}
	for _, years := range [][]int{{2022, 2023}, {2023, 2022}} {
		s := daysoff.NewSet(rules(), plainWeekend)
		for _, year := range years {
			s.Between(civil.FirstOfYear(year), civil.FirstOfYear(year+1)-1)
		}
		taken := map[string]string{}
		for _, one := range s.Between(civiltest.Day("2022-12-31"), civiltest.Day("2023-01-01")) {
			taken[one.Rule.Name] = one.TakenOn.String()
		}
		// 31 December 2022 is a Saturday. The region's own day knows nothing of the
		// business's, which go around it.
		assert.Equal(t, map[string]string{"Regional": "2023-01-02", "Last": "2023-01-02", "First": "2023-01-03"}, taken)
	}
}

// A long list is read in time that grows with its length, and not with its square.
func TestManyRulesAreASet(t *testing.T) {
	var rules []*daysoff.Rule
	for i := range 100_000 {
		rules = append(rules, &daysoff.Rule{Name: "X", Kind: daysoff.Closure, When: daysoff.OnDates{civiltest.Day("2026-01-01") + civil.Day(i%365)}, NextFree: i%3 == 0})
	}
	s := daysoff.NewSet(append(rules, rules...), plainWeekend)
	assert.Len(t, s.Rules(), 100_000)
	assert.Len(t, s.Between(civiltest.Day("2026-01-01"), civiltest.Day("2026-12-31")), 100_000)
}
