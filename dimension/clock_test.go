package dimension_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/cell"
	"roundyear/dimension"
)

func TestTimesOfDay(t *testing.T) {
	for step, want := range map[int]struct{ rows, columns int }{1: {86400, 16}, 60: {1440, 15}, 900: {96, 15}, 1800: {48, 14}, 3600: {24, 12}, 43200: {2, 7}, 86400: {1, 6}} {
		clock, err := dimension.NewClock(step, nil)
		require.NoError(t, err)
		count := 0
		seen := map[cell.Value]bool{}
		for row := range clock.Times() {
			assert.Len(t, row, len(clock.Attributes()))
			for i, attribute := range clock.Attributes() {
				if row[i].Type() != attribute.Type {
					t.Fatalf("%s is a %s", attribute.Name, row[i].Type())
				}
			}
			seen[row[0]] = true
			count++
		}
		assert.Equal(t, want.rows, count)
		assert.Len(t, seen, count)
		assert.Equal(t, want.rows, clock.Rows())
		assert.Len(t, clock.Attributes(), want.columns, "%d", step)
	}
}

func TestPartsOfTheDay(t *testing.T) {
	clock, err := dimension.NewClock(1800, []dimension.DayPart{{"day", 6 * 3600}, {"night", 22*3600 + 1800}})
	require.NoError(t, err)
	assert.Equal(t, "night", clock.PartAt(0), "the night goes on past midnight")
	assert.Equal(t, "day", clock.PartAt(6*3600))
	assert.Equal(t, "day", clock.PartAt(22*3600))
	assert.Equal(t, "night", clock.PartAt(22*3600+1800))
	for fault, parts := range map[string][]dimension.DayPart{
		"b starts at 05:00:00, not after a: parts must be in order of time": {{"a", 6 * 3600}, {"b", 5 * 3600}},
		"a starts at 06:10:00, in the middle of a step of 30 minutes":       {{"a", 6*3600 + 600}},
	} {
		_, err := dimension.NewClock(1800, parts)
		assert.EqualError(t, err, fault)
	}
	_, err = dimension.NewClock(0, nil)
	assert.EqualError(t, err, "a step of 0 seconds does not divide the day evenly")
}
