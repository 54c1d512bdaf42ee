package calendar_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/calendar"
	"roundyear/civil"
)

// Labels of all periods are read as these periods.
func TestLabelsAreRead(t *testing.T) {
	set, err := calendar.NewSet(calendar.ISOWeeks)
	require.NoError(t, err)
	for _, grain := range set.Grains() {
		if grain.Unit == calendar.Day {
			continue
		}
		labels := grain.ReadLabels()
		assert.Equal(t, grain, labels.Grain())
		for number := grain.Locate(civil.MustOf(1950, civil.January, 1)).Number; number <= grain.Locate(civil.MustOf(2100, civil.December, 31)).Number; number++ {
			period := grain.At(number)
			got, ok := labels.Find(grain.Label(period))
			require.True(t, ok, grain.Label(period))
			require.Equal(t, period, got, grain.Label(period))
		}
	}
}

func TestLabelsAsPeopleWriteThem(t *testing.T) {
	set, err := calendar.NewSet(calendar.ISOWeeks)
	require.NoError(t, err)
	for name, labels := range map[string]map[string]string{
		"quarter": {"2026 Q1": "2026-01-01", "2026-q1": "2026-01-01", "2026Q4": "2026-10-01", "26 Q2": "2026-04-01", "2026 Q5": "", "Q1": "", "2200 Q1": "", "50 Q1": "", "2026 Q01": "2026-01-01"},
		"month":   {"2026-03": "2026-03-01", "2026 3": "2026-03-01", "2026-13": ""},
		"week":    {"2026-W07": "2026-02-09", "2026 w7": "2026-02-09", "2026-W54": ""},
		"year":    {"2026": "2026-01-01", "": "", "x": ""},
	} {
		grain, err := set.Grain(name)
		require.NoError(t, err)
		reader := grain.ReadLabels()
		for label, want := range labels {
			period, ok := reader.Find(label)
			assert.Equal(t, want != "", ok, label)
			if ok {
				assert.Equal(t, want, period.First.String(), label)
			}
		}
	}
}
