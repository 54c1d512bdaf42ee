package daysoff

import (
	"testing"
	"time"
	_ "time/tzdata"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/civil"
)

// Instants as almanacs publish them, in universal time.
func TestSeasonsAsPublished(t *testing.T) {
	for text, season := range map[string]Season{
		"2024-03-20 03:06": MarchEquinox, "2025-03-20 09:01": MarchEquinox, "2026-03-20 14:46": MarchEquinox,
		"2024-06-20 20:51": JuneSolstice, "2025-06-21 02:42": JuneSolstice,
		"2024-09-22 12:44": SeptemberEquinox, "2025-09-22 18:19": SeptemberEquinox,
		"2024-12-21 09:20": DecemberSolstice, "2025-12-21 15:03": DecemberSolstice,
		"2000-03-20 07:35": MarchEquinox, "2012-09-22 14:49": SeptemberEquinox,
	} {
		want, err := time.Parse("2006-01-02 15:04", text)
		require.NoError(t, err)
		assert.WithinDuration(t, want, season.At(want.Year()), 90*time.Second)
	}
}

func TestTheDayOfASeasonInAZone(t *testing.T) {
	tokyo, err := time.LoadLocation("Asia/Tokyo")
	require.NoError(t, err)
	for year, want := range map[int][2]string{2011: {"03-21", "09-23"}, 2012: {"03-20", "09-22"}, 2018: {"03-21", "09-23"}, 2024: {"03-20", "09-22"}, 2026: {"03-20", "09-23"}} {
		spring, autumn := OnSeason{MarchEquinox, tokyo}.In(year), OnSeason{SeptemberEquinox, tokyo}.In(year)
		assert.Equal(t, want, [2]string{spring[0].String()[5:], autumn[0].String()[5:]}, "%d", year)
	}
	season, ok := ParseSeason("june_solstice")
	assert.True(t, ok)
	assert.Equal(t, JuneSolstice, season)
	_, ok = ParseSeason("summer")
	assert.False(t, ok)
}

func TestDaysBetweenHolidays(t *testing.T) {
	s := NewSet([]*Rule{
		{Name: "A", Kind: Statutory, When: OnDates{day(t, "2026-09-21"), day(t, "2026-05-02"), day(t, "2026-06-01")}},
		{Name: "B", Kind: Statutory, When: OnDates{day(t, "2026-09-23"), day(t, "2026-05-04"), day(t, "2026-06-02")}},
		{Name: "Bridge", Kind: Statutory, When: Between{}},
	}, plainWeekend)
	assert.False(t, s.IsWorkday(day(t, "2026-09-22")))
	assert.Empty(t, s.Falling(day(t, "2026-05-03")), "not on a Sunday")
	assert.True(t, s.IsWorkday(civil.MustOf(2026, 6, 3)))
}
