package survey

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/civil"
	"roundyear/datetext"
	"roundyear/dimension"
)

func day(t testing.TB, text string) civil.Day {
	t.Helper()
	parsed, err := civil.Parse(text)
	require.NoError(t, err)
	return parsed
}

func of(t testing.TB, texts ...string) *Profile {
	p := New()
	for _, text := range texts {
		p.Add(datetext.Moment{Day: day(t, text)})
	}
	return p
}

func TestASummarySaysFromWhenToWhenAndWithWhichHoles(t *testing.T) {
	// 2026-01-05 is a Monday.
	p := of(t, "2026-01-05", "2026-01-05", "2026-01-07", "2026-01-18", "2026-04-01")
	p.Add(datetext.Moment{Day: day(t, "2026-04-02"), Clock: datetext.Minutes, Nanos: 60e9})
	p.Add(datetext.Moment{Day: day(t, "2026-04-02"), Clock: datetext.Minutes, HasOffset: true})
	s, ok := p.Summary()
	require.True(t, ok)
	assert.Equal(t, &Summary{
		Rows: 7, Days: 5, First: day(t, "2026-01-05"), Last: day(t, "2026-04-02"), Timed: 2, MissJoin: 1, Zoned: 1, Weekend: 1, Median: 1,
		MissingDays: []Run{
			{day(t, "2026-01-06"), day(t, "2026-01-06"), 1}, {day(t, "2026-01-08"), day(t, "2026-01-17"), 10}, {day(t, "2026-01-19"), day(t, "2026-03-31"), 72},
		},
		MissingWeeks:  []Run{{day(t, "2026-01-19"), day(t, "2026-03-29"), 10}},
		MissingMonths: []Run{{day(t, "2026-02-01"), day(t, "2026-03-31"), 2}},
		Months:        []int{4, 0, 0, 3}, FirstMonth: 2026 * 12,
	}, s)
	assert.Equal(t, 83, Total(s.MissingDays))
	_, ok = New().Summary()
	assert.False(t, ok)
}

func TestDaysThatAreHardlyTrueAreSetApart(t *testing.T) {
	texts := []string{"1900-01-01", "9999-12-31", "9999-12-31", "2062-02-01", "2002-06-01"}
	for range 40 {
		texts = append(texts, "2026-01-05", "2026-02-05", "2026-03-05", "2026-04-05", "2026-05-05")
	}
	s, ok := of(t, texts...).Summary()
	require.True(t, ok)
	assert.Equal(t, []dimension.DayCount{{Day: day(t, "1900-01-01"), Count: 1}, {Day: civil.MaxDay, Count: 2}}, s.Sentinels)
	assert.Equal(t, []dimension.DayCount{{Day: day(t, "2002-06-01"), Count: 1}, {Day: day(t, "2062-02-01"), Count: 1}}, s.Suspicious)
	assert.Equal(t, "2026-01-05 2026-05-05", s.First.String()+" "+s.Last.String())
}

func TestJoinIsTheSameAsOneProfile(t *testing.T) {
	random := rand.New(rand.NewPCG(5, 6))
	whole, parts := New(), []*Profile{New(), New()}
	for range 2000 {
		m := datetext.Moment{Day: day(t, "2026-01-01") + civil.Day(random.IntN(500)), Clock: datetext.Resolution(random.IntN(3)), Nanos: random.Int64N(2)}
		whole.Add(m)
		parts[random.IntN(2)].Add(m)
	}
	parts[0].Join(parts[1])
	want, _ := whole.Summary()
	is, _ := parts[0].Summary()
	assert.Equal(t, want, is)
}
