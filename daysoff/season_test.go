package daysoff_test

import (
	"strings"
	"testing"
	"time"
	_ "time/tzdata"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/civil"
	"roundyear/civil/civiltest"
	"roundyear/daysoff"
)

// Instants as almanacs publish them, in universal time.
func TestSeasonsAsPublished(t *testing.T) {
	for text, name := range map[string]string{
		"2024-03-20 03:06": "march_equinox", "2025-03-20 09:01": "march_equinox", "2026-03-20 14:46": "march_equinox",
		"2024-06-20 20:51": "june_solstice", "2025-06-21 02:42": "june_solstice",
		"2024-09-22 12:44": "september_equinox", "2025-09-22 18:19": "september_equinox",
		"2024-12-21 09:20": "december_solstice", "2025-12-21 15:03": "december_solstice",
		"2000-03-20 07:35": "march_equinox", "2012-09-22 14:49": "september_equinox",
	} {
		want, err := time.Parse("2006-01-02 15:04", text)
		require.NoError(t, err)
		season, ok := daysoff.SunPointOf(name, daysoff.Seasons)
		require.True(t, ok)
		assert.WithinDuration(t, want, season.At(want.Year()), 45*time.Second, text)
	}
}

func TestTheDayOfASeasonInAZone(t *testing.T) {
	tokyo, err := time.LoadLocation("Asia/Tokyo")
	require.NoError(t, err)
	for year, want := range map[int][2]string{2011: {"03-21", "09-23"}, 2012: {"03-20", "09-22"}, 2018: {"03-21", "09-23"}, 2024: {"03-20", "09-22"}, 2026: {"03-20", "09-23"}} {
		spring, autumn := daysoff.OnSun{daysoff.Seasons[0], tokyo}.In(year), daysoff.OnSun{daysoff.Seasons[2], tokyo}.In(year)
		assert.Equal(t, want, [2]string{spring[0].String()[5:], autumn[0].String()[5:]}, "%d", year)
	}
	_, ok := daysoff.SunPointOf("summer", daysoff.Seasons)
	assert.False(t, ok)
}

// Solar terms in Beijing, as the almanacs of China have them.
func TestSolarTermsAsPublished(t *testing.T) {
	shanghai, err := time.LoadLocation("Asia/Shanghai")
	require.NoError(t, err)
	for name, want := range map[string]string{
		"qingming": "2000-04-04 2007-04-05 2019-04-05 2020-04-04 2022-04-05 2023-04-05 2024-04-04 2025-04-04 2026-04-05",
		"lichun":   "2017-02-03 2020-02-04 2021-02-03 2024-02-04 2025-02-03 2026-02-04",
		"dongzhi":  "2020-12-21 2021-12-21 2022-12-22 2023-12-22 2024-12-21 2025-12-21",
		"xiaohan":  "2023-01-05 2024-01-06 2025-01-05",
	} {
		term, ok := daysoff.SunPointOf(name, daysoff.SolarTerms)
		require.True(t, ok)
		for _, text := range strings.Fields(want) {
			assert.Equal(t, []civil.Day{civiltest.Day(text)}, daysoff.OnSun{term, shanghai}.In(civiltest.Day(text).Year()), name)
		}
	}
}

func TestDaysBetweenHolidays(t *testing.T) {
	s := daysoff.NewSet([]*daysoff.Rule{
		{Name: "A", Kind: daysoff.Statutory, When: daysoff.OnDates{civiltest.Day("2026-09-21"), civiltest.Day("2026-05-02"), civiltest.Day("2026-06-01")}},
		{Name: "B", Kind: daysoff.Statutory, When: daysoff.OnDates{civiltest.Day("2026-09-23"), civiltest.Day("2026-05-04"), civiltest.Day("2026-06-02")}},
		{Name: "Bridge", Kind: daysoff.Statutory, When: daysoff.Between{}},
	}, plainWeekend)
	assert.False(t, s.IsWorkday(civiltest.Day("2026-09-22")))
	assert.Empty(t, s.Falling(civiltest.Day("2026-05-03")), "not on a Sunday")
	assert.True(t, s.IsWorkday(civil.MustOf(2026, 6, 3)))
}
