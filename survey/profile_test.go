package survey_test

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/calendar"
	"roundyear/civil"
	"roundyear/civil/civiltest"
	"roundyear/datetext"
	"roundyear/dimension"
	"roundyear/survey"
)

func of(t testing.TB, texts ...string) *survey.Profile {
	p := survey.New()
	for _, text := range texts {
		p.Add(datetext.Moment{Day: civiltest.Day(text)})
	}
	return p
}

func TestASummarySaysFromWhenToWhenAndWithWhichHoles(t *testing.T) {
	// 2026-01-05 is a Monday.
	p := of(t, "2026-01-05", "2026-01-05", "2026-01-07", "2026-01-18", "2026-04-01")
	p.Add(datetext.Moment{Day: civiltest.Day("2026-04-02"), Clock: datetext.Minutes, Nanos: 60e9})
	p.Add(datetext.Moment{Day: civiltest.Day("2026-04-02"), Clock: datetext.Minutes, HasOffset: true})
	s, ok := p.Summary()
	require.True(t, ok)
	assert.Equal(t, &survey.Summary{
		Rows: 7, Days: 5, First: civiltest.Day("2026-01-05"), Last: civiltest.Day("2026-04-02"), Timed: 2, NotMatching: 1, Zoned: 1, Weekend: 1, Median: 1,
		MissingDays: []survey.Run{
			{civiltest.Day("2026-01-06"), civiltest.Day("2026-01-06"), 1}, {civiltest.Day("2026-01-08"), civiltest.Day("2026-01-17"), 10}, {civiltest.Day("2026-01-19"), civiltest.Day("2026-03-31"), 72},
		},
		MissingWeeks:  []survey.Run{{civiltest.Day("2026-01-19"), civiltest.Day("2026-03-29"), 10}},
		MissingMonths: []survey.Run{{civiltest.Day("2026-02-01"), civiltest.Day("2026-03-31"), 2}},
		Months:        []int{4, 0, 0, 3}, FirstMonth: 2026 * 12,
	}, s)
	assert.Equal(t, 83, survey.Total(s.MissingDays))
	_, ok = survey.New().Summary()
	assert.False(t, ok)
}

func TestDaysThatAreHardlyTrueAreSetApart(t *testing.T) {
	texts := []string{"1900-01-01", "9999-12-31", "9999-12-31", "2062-02-01", "2002-06-01"}
	for range 40 {
		texts = append(texts, "2026-01-05", "2026-02-05", "2026-03-05", "2026-04-05", "2026-05-05")
	}
	s, ok := of(t, texts...).Summary()
	require.True(t, ok)
	assert.Equal(t, []dimension.DayCount{{Day: civiltest.Day("1900-01-01"), Count: 1}, {Day: civil.MaxDay, Count: 2}}, s.Sentinels)
	assert.Equal(t, []dimension.DayCount{{Day: civiltest.Day("2002-06-01"), Count: 1}, {Day: civiltest.Day("2062-02-01"), Count: 1}}, s.Suspicious)
	assert.Equal(t, "2026-01-05 2026-05-05", s.First.String()+" "+s.Last.String())
}

func TestJoinIsTheSameAsOneProfile(t *testing.T) {
	random := rand.New(rand.NewPCG(5, 6))
	whole, parts := survey.New(), []*survey.Profile{survey.New(), survey.New()}
	for range 2000 {
		m := datetext.Moment{Day: civiltest.Day("2026-01-01") + civil.Day(random.IntN(500)), Clock: datetext.Resolution(random.IntN(3)), Nanos: random.Int64N(2)}
		whole.Add(m)
		parts[random.IntN(2)].Add(m)
	}
	parts[0].Join(parts[1])
	want, _ := whole.Summary()
	is, _ := parts[0].Summary()
	assert.Equal(t, want, is)
}

// filled returns a profile with so many rows on the fifth of each of five months.
func filled(t testing.TB, each int, more ...string) *survey.Profile {
	t.Helper()
	p := of(t, more...)
	for range each {
		for _, text := range []string{"2026-01-05", "2026-02-05", "2026-03-05", "2026-04-05", "2026-05-05"} {
			p.Add(datetext.Moment{Day: civiltest.Day(text)})
		}
	}
	return p
}

// A day is suspicious from more than 5 times 366 days away on, at both ends, if
// no more than a hundredth of the rows, or one row, lie there on at most five days.
func TestWhatIsFarAway(t *testing.T) {
	first, last := civiltest.Day("2026-01-05"), civiltest.Day("2026-05-05")
	many := func(first civil.Day, days, rows int) (texts []string) {
		for i := range rows {
			texts = append(texts, (first + civil.Day(i%days)).String())
		}
		return texts
	}
	for _, c := range []struct {
		name string
		more []string
		each int
		want int
	}{
		{"before, just not far", many(first-5*366, 1, 1), 40, 0},
		{"before, just far", many(first-5*366-1, 1, 1), 40, 1},
		{"after, just not far", many(last+5*366, 1, 1), 40, 0},
		{"after, just far", many(last+5*366+1, 1, 1), 40, 1},
		{"two of 202 rows", many(first-3000, 2, 2), 40, 2},
		{"three of 203 rows", many(first-3000, 3, 3), 40, 0},
		{"three of 203 rows, after", many(last+3000, 3, 3), 40, 0},
		{"one of few rows", many(first-3000, 1, 1), 2, 1},
		{"one of few rows, after", many(last+3000, 1, 1), 2, 1},
		{"five days before", many(first-3000, 5, 5), 200, 5},
		{"six days before", many(first-3000, 6, 6), 200, 0},
		{"five days after", many(last+3000, 5, 5), 200, 5},
		{"six days after", many(last+3000, 6, 6), 200, 0},
		{"two days far from each other too", append(many(first-6000, 1, 1), many(first-3000, 1, 1)...), 200, 2},
		{"both ends", append(many(first-6000, 1, 1), many(last+3000, 1, 1)...), 200, 2},
		{"ten rows on one of 1010", many(first-3000, 1, 10), 200, 1},
		{"eleven rows on one of 1011", many(first-3000, 1, 11), 200, 0},
	} {
		s, ok := filled(t, c.each, c.more...).Summary()
		require.True(t, ok)
		assert.Len(t, s.Suspicious, c.want, c.name)
		assert.Equal(t, 5*c.each+len(c.more), s.Rows, c.name)
		rows := 0
		for _, suspicious := range s.Suspicious {
			rows += suspicious.Count
		}
		if c.want > 0 {
			assert.Equal(t, len(c.more), rows, c.name)
			assert.Equal(t, "2026-01-05 2026-05-05", s.First.String()+" "+s.Last.String(), c.name)
		} else {
			assert.NotEqual(t, "2026-01-05 2026-05-05", s.First.String()+" "+s.Last.String(), c.name)
		}
	}
}

func TestFactsOfMonthsAndRowsADay(t *testing.T) {
	for _, c := range []struct {
		want survey.Step
		days []string
	}{
		{survey.Step{Unit: calendar.Month}, []string{"2026-01-01", "2026-03-01"}},
		{survey.Step{Unit: calendar.Month}, []string{"2026-01-01", "2026-04-01"}},
		{survey.Step{Unit: calendar.Month, AtEnd: true}, []string{"2026-01-31", "2026-02-28", "2026-04-30"}},
		{survey.Step{Unit: calendar.Quarter}, []string{"2026-02-01", "2026-05-01", "2026-11-01"}},
		{survey.Step{Unit: calendar.Quarter, AtEnd: true}, []string{"2025-12-31", "2026-03-31", "2026-06-30"}},
		{survey.Step{Unit: calendar.Year}, []string{"2024-04-01", "2025-04-01", "2026-04-01"}},
		{survey.Step{Unit: calendar.Year, AtEnd: true}, []string{"2024-02-29", "2025-02-28", "2026-02-28"}},
		{survey.Step{Unit: calendar.Week, Weekday: civil.Monday}, []string{"2026-01-05", "2026-01-12", "2026-02-02", "2026-02-09"}},
		{survey.Step{}, []string{"2026-01-05", "2026-01-12", "2026-01-26"}},
		{survey.Step{}, []string{"2026-01-05", "2026-01-12", "2026-02-03"}},
		{survey.Step{}, []string{"2026-01-01", "2026-01-01"}},
		{survey.Step{}, []string{"2026-01-01", "2026-03-01", "2026-03-02"}},
		{survey.Step{}, []string{"2026-01-01", "2026-01-31"}},
	} {
		s, ok := of(t, c.days...).Summary()
		require.True(t, ok)
		assert.Equal(t, c.want, s.Step, "%v", c.days)
	}
	p := filled(t, 2, "2026-06-01")
	assert.Equal(t, []int{0, 1, 3, 2, 11}, []int{p.After(civiltest.Day("2026-06-01"), civil.MaxDay), p.After(civiltest.Day("2026-05-31"), civil.MaxDay), p.After(civiltest.Day("2026-05-04"), civil.MaxDay), p.After(civiltest.Day("2026-05-04"), civiltest.Day("2026-05-31")), p.After(civil.MinDay, civil.MaxDay)})
	s, ok := of(t, "2026-01-02").Summary()
	require.True(t, ok)
	assert.Equal(t, survey.Step{}, s.Step)
	// The median is that of the counts in order, and a Saturday is of the weekend.
	s, ok = of(t, "2026-01-02", "2026-01-02", "2026-01-02", "2026-01-03", "2026-01-04", "2026-01-04").Summary()
	require.True(t, ok)
	assert.Equal(t, []int{2, 3}, []int{s.Median, s.Weekend})
	// Midnight joins to the day, any other time does not.
	p = survey.New()
	for _, nanos := range []int64{0, 0, 1} {
		p.Add(datetext.Moment{Day: civiltest.Day("2026-01-02"), Clock: datetext.Seconds, Nanos: nanos})
	}
	s, ok = p.Summary()
	require.True(t, ok)
	assert.Equal(t, []int{3, 1}, []int{s.Timed, s.NotMatching})
}

// What the parts of a column have seen is put together whole: rows with an offset,
// days that are placeholders, and what is missing in between.
func TestPartsOfAProfileLoseNothing(t *testing.T) {
	random := rand.New(rand.NewPCG(7, 8))
	var moments []datetext.Moment
	for i := range 3000 {
		m := datetext.Moment{Day: civiltest.Day("2026-01-01") + civil.Day(random.IntN(700)), Clock: datetext.Resolution(random.IntN(3)), Nanos: random.Int64N(2), HasOffset: random.IntN(3) == 0}
		switch {
		case i%500 == 17:
			m.Day = civiltest.Day("1900-01-01")
		case i%1000 == 19:
			m.Day = civil.MaxDay
		case i == 2200:
			m.Day = civiltest.Day("2062-02-01")
		}
		moments = append(moments, m)
	}
	zoned, weekend, placeholders := 0, 0, 0
	whole := survey.New()
	for _, m := range moments {
		whole.Add(m)
		if m.HasOffset {
			zoned++
		}
		far := m.Day == civil.MaxDay || m.Day.Year() == 1900
		if far {
			placeholders++
		}
		if m.Day.Weekday() >= civil.Saturday && !far && m.Day.Year() != 2062 {
			weekend++
		}
	}
	want, ok := whole.Summary()
	require.True(t, ok)
	assert.Equal(t, []int{3000, zoned, weekend}, []int{want.Rows, want.Zoned, want.Weekend})
	assert.Equal(t, placeholders, want.Sentinels[0].Count+want.Sentinels[1].Count)
	assert.Len(t, want.Suspicious, 1)
	for pieces := 2; pieces < 40; pieces += 9 {
		joined := survey.New()
		for piece := range pieces {
			part := survey.New()
			for _, m := range moments[piece*len(moments)/pieces : (piece+1)*len(moments)/pieces] {
				part.Add(m)
			}
			joined.Join(part)
		}
		is, ok := joined.Summary()
		require.True(t, ok)
		assert.Equal(t, want, is, "of %d pieces", pieces)
	}
}

// A slip far away does not make a placeholder plausible.
func TestPlaceholdersAreToldByTheOtherDays(t *testing.T) {
	s, ok := filled(t, 2, "1024-05-05", "1900-01-01", "1970-01-01", "1970-01-01", "2099-12-31", "2204-01-01").Summary()
	require.True(t, ok)
	assert.Equal(t, []dimension.DayCount{{Day: civiltest.Day("1900-01-01"), Count: 1}, {Day: civiltest.Day("1970-01-01"), Count: 2}, {Day: civiltest.Day("2099-12-31"), Count: 1}}, s.Sentinels)
	assert.Equal(t, []dimension.DayCount{{Day: civiltest.Day("1024-05-05"), Count: 1}, {Day: civiltest.Day("2204-01-01"), Count: 1}}, s.Suspicious)
	assert.Equal(t, "2026-01-05 2026-05-05", s.First.String()+" "+s.Last.String())
	// Among days of its time it is a day, and so it is where there are no others.
	s, ok = of(t, "1969-12-30", "1970-01-01", "1970-02-01").Summary()
	require.True(t, ok)
	assert.Empty(t, s.Sentinels)
	assert.Equal(t, 3, s.Days)
	s, ok = of(t, "1900-01-01", "9999-12-31").Summary()
	require.True(t, ok)
	assert.Empty(t, s.Sentinels)
	assert.Equal(t, 2, s.Days)
}
