package daysoff

import (
	"math/rand/v2"
	"slices"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/civil"
)

func day(t testing.TB, text string) civil.Day {
	t.Helper()
	parsed, err := civil.Parse(text)
	require.NoError(t, err)
	return parsed
}

var plainWeekend = []civil.Weekday{civil.Saturday, civil.Sunday, civil.Sunday}

func TestWhen(t *testing.T) {
	for _, c := range []struct {
		when When
		year int
		want []string
	}{
		{OnDate{Month: civil.February, Day: 29}, 2024, []string{"2024-02-29"}},
		{OnDate{Month: civil.February, Day: 29}, 2025, nil},
		{OnDate{Month: civil.February, Day: 1, OnlyOn: []civil.Weekday{civil.Friday}}, 2030, []string{"2030-02-01"}},
		{OnDate{Month: civil.February, Day: 1, OnlyOn: []civil.Weekday{civil.Friday}}, 2026, nil},
		{NthWeekday{civil.Monday, 1, civil.June}, 2026, []string{"2026-06-01"}},
		{NthWeekday{civil.Monday, 5, civil.June}, 2026, []string{"2026-06-29"}},
		{NthWeekday{civil.Tuesday, 5, civil.February}, 2026, nil},
		{NthWeekday{civil.Monday, -1, civil.October}, 2026, []string{"2026-10-26"}},
		{NthWeekday{civil.Monday, -1, civil.December}, 2026, []string{"2026-12-28"}},
		{NthWeekday{civil.Thursday, -5, civil.February}, 2026, nil},
		{NearDate{Weekday: civil.Friday, Month: civil.June, Day: 19}, 2026, []string{"2026-06-19"}},
		{NearDate{Weekday: civil.Friday, Month: civil.June, Day: 20}, 2026, []string{"2026-06-26"}},
		{NearDate{Weekday: civil.Wednesday, Before: true, Month: civil.November, Day: 22}, 2024, []string{"2024-11-20"}},
		{FromEaster{Days: -2}, 2026, []string{"2026-04-03"}},
		{FromEaster{Days: 1, Orthodox: true}, 2026, []string{"2026-04-13"}},
		{OnDates{day(t, "2026-05-02"), day(t, "2025-01-01"), day(t, "2026-01-02")}, 2026, []string{"2026-01-02", "2026-05-02"}},
		{Either{OnDate{Month: 2, Day: 29}, OnDate{Month: 3, Day: 1}}, 2025, []string{"2025-03-01"}},
		{All{OnDate{Month: 3, Day: 1}, OnDate{Month: 2, Day: 1}, OnDate{Month: 3, Day: 1}}, 2025, []string{"2025-02-01", "2025-03-01"}},
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
	newYear := &Rule{Name: "New Year", Kind: Statutory, When: OnDate{Month: 1, Day: 1}, Moves: []Move{{civil.Saturday, -1}, {civil.Sunday, 1}}}
	one := &Rule{Name: "One", Kind: Statutory, When: OnDate{Month: 5, Day: 2}, NextFree: true}
	two := &Rule{Name: "Two", Kind: Statutory, When: OnDate{Month: 5, Day: 3}, NextFree: true}
	both := &Rule{Name: "Both", Kind: Statutory, When: OnDate{Month: 6, Day: 3}, KeepBoth: true, Moves: []Move{{civil.Wednesday, 2}}}
	half := &Rule{Name: "Half", Kind: Bank, Half: true, When: OnDate{Month: 12, Day: 24}}
	marked := &Rule{Name: "Marked", Kind: Marked, When: OnDate{Month: 7, Day: 1}}
	s := NewSet([]*Rule{newYear, one, two, both, half, marked}, plainWeekend)
	for _, c := range []struct{ own, taken string }{
		// A day of the next year that is taken in this one.
		{"2022-01-01", "2021-12-31"}, {"2023-01-01", "2023-01-02"}, {"2024-01-01", "2024-01-01"},
		// 2 May 2026 is a Saturday and 3 May a Sunday: they go around each other.
		{"2026-05-02", "2026-05-04"}, {"2026-05-03", "2026-05-05"},
		{"2026-06-03", "2026-06-05"},
	} {
		found := s.Falling(day(t, c.own))
		require.Len(t, found, 1, c.own)
		assert.Equal(t, c.taken, found[0].TakenOn.String())
		assert.False(t, s.IsWorkday(day(t, c.taken)))
		taken := s.Taken(day(t, c.taken))
		require.Len(t, taken, 1)
		assert.Equal(t, c.own, taken[0].Own.String())
	}
	assert.True(t, s.IsWorkday(day(t, "2021-12-30")))
	assert.False(t, s.IsWorkday(day(t, "2026-06-03")), "both days are off")
	assert.True(t, s.IsWorkday(day(t, "2026-12-24")), "half a day is worked")
	assert.True(t, s.IsWorkday(day(t, "2026-07-01")), "a marked day is no day off")
	names := func(from, to string) (names []string) {
		for _, one := range s.Between(day(t, from), day(t, to)) {
			names = append(names, one.Rule.Name)
		}
		return names
	}
	assert.Equal(t, []string{"New Year"}, names("2021-12-31", "2021-12-31"), "the taken day lies in the range")
	assert.Equal(t, []string{"New Year"}, names("2022-01-01", "2022-01-01"), "and so does its own")
}

// The first and the last year that there are have days off too.
func TestTheEndsOfTime(t *testing.T) {
	s := NewSet([]*Rule{
		{Name: "Easter Monday", Kind: Statutory, When: FromEaster{Days: 1}}, {Name: "Orthodox", Kind: Marked, When: FromEaster{Orthodox: true}},
		{Name: "New Year", Kind: Statutory, When: OnDate{Month: 1, Day: 1}, Moves: []Move{{civil.Saturday, -1}}},
		{Name: "Pesach", Kind: Marked, When: InCalendar{OtherCalendarOf("hebrew"), CalendarMonth{Number: 7}, 15}},
		{Name: "Fitr", Kind: Marked, When: InCalendar{OtherCalendarOf("islamic-civil"), CalendarMonth{Number: 10}, 1}},
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
	s := NewSet([]*Rule{
		{Name: "Fixed", Kind: Statutory, When: OnDates{day(t, "2026-07-03")}},
		{Name: "Near", Kind: Statutory, When: OnDates{day(t, "2026-07-04"), day(t, "2026-07-12"), day(t, "2026-07-18"), day(t, "2026-07-22")}, Nearest: true},
	}, plainWeekend)
	var taken []string
	for _, one := range s.Between(day(t, "2026-07-04"), day(t, "2026-07-31")) {
		taken = append(taken, one.TakenOn.String())
	}
	// The Friday before the 4th is off already, so Monday is as near as Thursday.
	assert.Equal(t, []string{"2026-07-02", "2026-07-13", "2026-07-17", "2026-07-22"}, taken)
}

func TestYearsOfARule(t *testing.T) {
	since, until := day(t, "2000-01-01"), day(t, "2020-12-31")
	rule := &Rule{Name: "X", Kind: Statutory, When: OnDate{Month: 5, Day: 5}, Since: &since, Until: &until, Every: 5, Except: []int{2010}}
	var years []int
	for year := 1990; year < 2030; year++ {
		if len(rule.falls(year)) > 0 {
			years = append(years, year)
		}
	}
	assert.Equal(t, []int{2000, 2005, 2015, 2020}, years)
	assert.Equal(t, "5 May, from 2000-01-01 to 2020-12-31, every 5 years, except in 2010", rule.Why())
	assert.True(t, (&Rule{When: OnDate{Month: 1, Day: 1}, Only: []int{2007}}).Occurs(2000, 2010))
	assert.False(t, (&Rule{When: OnDate{Month: 1, Day: 1}, Only: []int{2007}}).Occurs(2008, 2010))
	assert.Equal(t, "Nieuw", (&Rule{Name: "New", Names: map[string]string{"nl": "Nieuw"}}).NameIn("nl-BE"))
	assert.Equal(t, "New", (&Rule{Name: "New", Names: map[string]string{"nl": "Nieuw"}}).NameIn("de"))
}

// Counting by formula agrees with counting day by day, for every kind of
// weekend, and whoever asks for whichever year first.
func TestWorkdaysCountedByTwoWays(t *testing.T) {
	rules := []*Rule{
		{Name: "A", Kind: Statutory, When: OnDate{Month: 1, Day: 1}, Moves: []Move{{civil.Saturday, -1}, {civil.Sunday, 1}}},
		{Name: "B", Kind: Bank, When: FromEaster{Days: 1}}, {Name: "C", Kind: Closure, When: NthWeekday{civil.Monday, -1, civil.December}},
		{Name: "D", Kind: Statutory, When: OnDate{Month: 12, Day: 25}, NextFree: true}, {Name: "E", Kind: Statutory, When: OnDate{Month: 12, Day: 26}, NextFree: true},
	}
	for _, weekend := range [][]civil.Weekday{plainWeekend, {civil.Friday}, {civil.Friday, civil.Saturday}, nil} {
		s := NewSet(rules, weekend)
		random := rand.New(rand.NewPCG(1, 2))
		for range 60 {
			from := day(t, "1990-01-01") + civil.Day(random.IntN(20000))
			to := from + civil.Day(random.IntN(900))
			count := 0
			for d := from; d <= to; d++ {
				if s.IsWorkday(d) {
					count++
				}
			}
			require.Equal(t, count, s.Count(from, to), "%v from %s to %s", weekend, from, to)
		}
		next, ok := s.Next(day(t, "2026-12-24"))
		require.True(t, ok)
		previous, ok := s.Previous(next)
		require.True(t, ok)
		assert.LessOrEqual(t, previous, day(t, "2026-12-24"))
		assert.Equal(t, 1, s.Count(previous+1, next))
	}
	resting := NewSet(nil, []civil.Weekday{1, 2, 3, 4, 5, 6, 7})
	_, ok := resting.Next(day(t, "2026-01-01"))
	assert.False(t, ok)
	assert.Zero(t, resting.Count(day(t, "2026-01-01"), day(t, "2026-12-31")))
}

func TestLongWeekendsAndTheNextHoliday(t *testing.T) {
	s := NewSet([]*Rule{{Name: "Easter Monday", Kind: Statutory, When: FromEaster{Days: 1}}, {Name: "Midweek", Kind: Statutory, When: OnDate{Month: 7, Day: 1}}}, plainWeekend)
	first, last, ok := s.Break(day(t, "2026-04-05"))
	assert.True(t, ok)
	assert.Equal(t, "2026-04-04 2026-04-06", first.String()+" "+last.String())
	_, _, ok = s.Break(day(t, "2026-07-01"))
	assert.False(t, ok, "one day is no long weekend")
	_, _, ok = s.Break(day(t, "2026-07-04"))
	assert.False(t, ok, "nor is a plain weekend")
	next, ok := s.NextHoliday(day(t, "2026-07-02"))
	assert.True(t, ok)
	assert.Equal(t, "2027-03-29", next.String())
	_, ok = NewSet(nil, plainWeekend).NextHoliday(day(t, "2026-07-02"))
	assert.False(t, ok)
}

func TestASetServesSeveralAtOnce(t *testing.T) {
	rules := []*Rule{{Name: "A", Kind: Statutory, When: OnDate{Month: 5, Day: 1}}}
	s := NewSet(rules, plainWeekend)
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
	alone := NewSet(rules, plainWeekend)
	assert.True(t, slices.Equal(s.Between(day(t, "1999-01-01"), day(t, "2005-12-31")), alone.Between(day(t, "1999-01-01"), day(t, "2005-12-31"))))
}

func TestDaysOfTheWeekendThatAreWorked(t *testing.T) {
	s := NewSet([]*Rule{
		{Name: "Festival", Kind: Statutory, When: Span{From: OnDates{day(t, "2026-10-01")}, Lasts: 7}},
		{Name: "In exchange", Kind: Worked, When: OnDates{day(t, "2026-09-27"), day(t, "2026-10-10"), day(t, "2026-10-12")}},
	}, plainWeekend)
	assert.True(t, s.IsWorkday(day(t, "2026-09-27")), "a Sunday")
	assert.True(t, s.IsWeekend(day(t, "2026-09-27")), "it stays one of the weekend")
	assert.True(t, s.IsWorkday(day(t, "2026-10-12")), "a Monday is worked anyway")
	// 1 to 7 October are seven days with five weekdays; two weekend days are worked.
	assert.Equal(t, 22-5+1, s.Count(day(t, "2026-10-01"), day(t, "2026-10-31")))
	assert.Equal(t, 23, s.Count(day(t, "2026-09-01"), day(t, "2026-09-30")))
	for first := day(t, "2026-09-20"); first < day(t, "2026-11-01"); first++ {
		counted := 0
		for one := first; one <= day(t, "2027-02-01"); one++ {
			if s.IsWorkday(one) {
				counted++
			}
		}
		assert.Equal(t, counted, s.Count(first, day(t, "2027-02-01")), "%s", first)
	}
	next, _ := s.Next(day(t, "2026-09-30"))
	assert.Equal(t, day(t, "2026-10-08"), next)
	next, _ = s.Next(day(t, "2026-10-09"))
	assert.Equal(t, day(t, "2026-10-10"), next, "the Saturday that is worked")
}

func TestSpansOfDays(t *testing.T) {
	eve := Span{From: OnDate{Month: civil.January, Day: 1}, Shift: -1, Lasts: 3}
	assert.Equal(t, []civil.Day{day(t, "2026-01-01"), day(t, "2026-01-02"), day(t, "2026-12-31")}, eve.In(2026), "they go over the turn of the year")
	assert.Equal(t, "3 days, the first 1 day before 1 January", eve.Words())
	assert.Equal(t, "2 days after 1 January", Span{From: OnDate{Month: civil.January, Day: 1}, Shift: 2}.Words())
}

func TestDaysOffThatAreNotAnnouncedYet(t *testing.T) {
	feast := &Rule{Name: "Feast", Kind: Statutory, AnnouncedTo: 2026, When: InCalendar{OtherCalendarOf("islamic-umalqura"), CalendarMonth{Number: 10}, 1}}
	s := NewSet([]*Rule{feast}, plainWeekend)
	for text, expected := range map[string]bool{"2026-03-20": false, "2027-03-09": true} {
		falling := s.Falling(day(t, text))
		require.Len(t, falling, 1, text)
		assert.Equal(t, expected, falling[0].IsExpected(), text)
	}
	assert.Contains(t, feast.Why(), "announced up to 2026")
	assert.False(t, DayOff{Rule: &Rule{}, Own: day(t, "2027-03-09")}.IsExpected(), "a plain rule takes no announcement")
}

// What falls on another day off goes on from it, but stays on a Saturday that
// is free.
func TestObservedFromSundaysAndOtherDaysOff(t *testing.T) {
	observed := func(name, on string) *Rule {
		return &Rule{Name: name, Kind: Statutory, When: OnDates{day(t, on)}, NextFree: true, ObserveFrom: []civil.Weekday{civil.Sunday}, OrDayOff: true}
	}
	s := NewSet([]*Rule{
		observed("Saturday", "2026-05-02"), observed("Sunday", "2026-05-03"), observed("Monday", "2026-05-04"), observed("Also Monday", "2026-05-04"),
	}, plainWeekend)
	taken := map[string]string{}
	for _, one := range s.Between(day(t, "2026-05-01"), day(t, "2026-05-31")) {
		taken[one.Rule.Name] = one.TakenOn.String()
	}
	assert.Equal(t, map[string]string{"Saturday": "2026-05-02", "Monday": "2026-05-04", "Sunday": "2026-05-05", "Also Monday": "2026-05-06"}, taken)
	assert.Contains(t, observed("A", "2026-05-02").Why(), "on a Sunday or another day off it is taken on the next day that is neither weekend nor day off")
}

// A workday has a number one higher than the day before, a day without work the
// same, on both sides of the day from which they are counted and in whatever order
// the days are asked for.
func TestWorkdaysAreNumberedOneByOne(t *testing.T) {
	rules := []*Rule{
		{Name: "Midsummer", Kind: Statutory, When: OnDate{Month: civil.June, Day: 24}},
		{Name: "Eve", Kind: Statutory, When: OnDate{Month: civil.December, Day: 31}, Moves: []Move{{civil.Saturday, 2}, {civil.Sunday, 1}}},
		{Name: "Exchanged", Kind: Worked, When: NthWeekday{civil.Saturday, 2, civil.May}},
	}
	weekend := []civil.Weekday{civil.Saturday, civil.Sunday}
	set := NewSet(rules, weekend)
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
	assert.Equal(t, NewSet(nil, weekend).Count(from, to), set.Count(from, to))
}

// What one country moves around its own days off does not go around those of
// another, but what the company moves goes around both.
func TestRegionsDoNotMoveEachOther(t *testing.T) {
	monday, tuesday := civil.MustOf(2026, 6, 15), civil.MustOf(2026, 6, 16)
	north := &Rule{Name: "North Day", Kind: Statutory, Region: "XN", When: OnDates{monday - 1}, NextFree: true}
	south := &Rule{Name: "South Day", Kind: Statutory, Region: "XS", When: OnDates{monday}}
	between := &Rule{Name: "Bridge", Kind: Statutory, Region: "XS", When: Between{}}
	other := &Rule{Name: "Other Day", Kind: Statutory, Region: "XN", When: OnDates{monday + 2}}
	own := &Rule{Name: "Outing", Kind: Closure, When: OnDates{monday - 1}, NextFree: true}
	set := NewSet([]*Rule{own, north, south, between, other, south}, []civil.Weekday{civil.Saturday, civil.Sunday})
	taken := map[string]civil.Day{}
	for _, one := range set.Between(monday-7, monday+7) {
		taken[one.Rule.Name] = one.TakenOn
	}
	assert.Equal(t, map[string]civil.Day{"North Day": monday, "South Day": monday, "Other Day": monday + 2, "Outing": tuesday}, taken)
	assert.Equal(t, "North Day; South Day", JoinedNames(set.Taken(monday), ""))
	assert.Len(t, set.Taken(monday), 2, "a rule that two parts of a country share is there once")
	assert.Equal(t, "Outing; North Day", JoinedNames(set.Falling(monday-1), ""), "in the order of the plan")
}

// What goes to a free day at the turn of the year goes around the days off of the
// year beside it.
func TestFreeDaysAcrossTheTurnOfTheYear(t *testing.T) {
	newYear := &Rule{Name: "New Year", Kind: Statutory, Region: "XN", When: OnDate{Month: civil.January, Day: 1}}
	second := &Rule{Name: "Second", Kind: Statutory, Region: "XN", When: OnDate{Month: civil.January, Day: 2}, NextFree: true}
	for _, region := range []string{"XN", ""} {
		eve := &Rule{Name: "Eve", Kind: Closure, Region: region, When: OnDate{Month: civil.December, Day: 31}, NextFree: true}
		last := &Rule{Name: "Last", Kind: Closure, Region: region, When: OnDate{Month: civil.January, Day: 1}, Since: new(civil.MustOf(2022, 1, 1)), Nearest: true}
		taken := func(rules []*Rule, name string, own civil.Day) civil.Day {
			set := NewSet(rules, []civil.Weekday{civil.Saturday, civil.Sunday})
			for _, one := range set.Falling(own) {
				if one.Rule.Name == name {
					return one.TakenOn
				}
			}
			return 0
		}
		// 31 December 2023 was a Sunday.
		assert.Equal(t, civil.MustOf(2024, 1, 3), taken([]*Rule{newYear, second, eve}, "Eve", civil.MustOf(2023, 12, 31)), "region %q", region)
		// 1 January 2022 was a Saturday, and the day before it is off.
		assert.Equal(t, civil.MustOf(2021, 12, 30), taken([]*Rule{{Name: "Fixed", Kind: Statutory, Region: "XN", When: OnDate{Month: civil.December, Day: 31}}, last}, "Last", civil.MustOf(2022, 1, 1)), "region %q", region)
	}
}

// Of two that have to move at the turn of a year the later goes around the
// earlier, whichever year is asked for first.
func TestMovesAcrossTheTurnOfTheYearSeeEachOther(t *testing.T) {
	rules := func() []*Rule {
		return []*Rule{
			{Name: "First", Kind: Statutory, When: OnDate{Month: 1, Day: 1}, NextFree: true},
			{Name: "Last", Kind: Statutory, When: OnDate{Month: 12, Day: 31}, NextFree: true},
			{Name: "Regional", Kind: Statutory, Region: "XX", When: OnDate{Month: 1, Day: 1}, NextFree: true},
		}
	}
	for _, years := range [][]int{{2022, 2023}, {2023, 2022}} {
		s := NewSet(rules(), plainWeekend)
		for _, year := range years {
			s.Between(civil.FirstOfYear(year), civil.FirstOfYear(year+1)-1)
		}
		taken := map[string]string{}
		for _, one := range s.Between(day(t, "2022-12-31"), day(t, "2023-01-01")) {
			taken[one.Rule.Name] = one.TakenOn.String()
		}
		// 31 December 2022 is a Saturday. The region's own day knows nothing of the
		// business's, which go around it.
		assert.Equal(t, map[string]string{"Regional": "2023-01-02", "Last": "2023-01-02", "First": "2023-01-03"}, taken)
	}
}

// A long list is read in time that grows with its length, and not with its square.
func TestManyRulesAreASet(t *testing.T) {
	var rules []*Rule
	for i := range 100_000 {
		rules = append(rules, &Rule{Name: "X", Kind: Closure, When: OnDates{day(t, "2026-01-01") + civil.Day(i%365)}, NextFree: i%3 == 0})
	}
	s := NewSet(append(rules, rules...), plainWeekend)
	assert.Len(t, s.Rules(), 100_000)
	assert.Len(t, s.Between(day(t, "2026-01-01"), day(t, "2026-12-31")), 100_000)
}
