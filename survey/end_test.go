package survey_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/civil"
	"roundyear/datetext"
	"roundyear/survey"
)

// The end of rows is told with their rhythm, and only by enough of them.
func TestTheEndOfRowsAndTheirRhythm(t *testing.T) {
	start := civil.MustOf(2026, 1, 1)
	profile := func(count int, isThere func(day civil.Day) bool) *survey.Profile {
		p := survey.New()
		for day := start; count > 0; day++ {
			if isThere(day) {
				p.Add(datetext.Moment{Day: day})
				count--
			}
		}
		return p
	}
	daily := func(civil.Day) bool { return true }
	workdays := func(day civil.Day) bool { return day.Weekday() < civil.Saturday }
	firsts := func(day civil.Day) bool { _, _, d := day.Date(); return d == 1 }
	for _, c := range []struct {
		of       *survey.Profile
		last     civil.Day
		expected int
	}{
		{profile(40, daily), start + 39, 1}, {profile(30, workdays), civil.MustOf(2026, 2, 11), 3}, {profile(36, firsts), civil.MustOf(2028, 12, 1), 31},
	} {
		last, expected, ok := c.of.End(civil.MustOf(2030, 1, 1))
		require.True(t, ok)
		assert.Equal(t, c.last, last)
		assert.Equal(t, c.expected, expected)
	}
	last, _, ok := profile(60, daily).End(start + 30)
	require.True(t, ok)
	assert.Equal(t, start+30, last, "later rows do not count")
	_, _, ok = profile(27, daily).End(civil.MustOf(2030, 1, 1))
	assert.False(t, ok)
}
