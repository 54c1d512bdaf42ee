package civil_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"roundyear/civil"
	"roundyear/civil/civiltest"
)

func TestParseNames(t *testing.T) {
	for text, want := range map[string]civil.Weekday{"monday": civil.Monday, "SUN": civil.Sunday, "Wed": civil.Wednesday} {
		weekday, ok := civil.ParseWeekday(text)
		assert.True(t, ok, text)
		assert.Equal(t, want, weekday, text)
	}
	for text, want := range map[string]civil.Month{"april": civil.April, "DEC": civil.December, "1": civil.January, "12": civil.December, "may": civil.May} {
		month, ok := civil.ParseMonth(text)
		assert.True(t, ok, text)
		assert.Equal(t, want, month, text)
	}
	for _, text := range []string{"", "mo", "mond", "0", "13", "-1", "1.5", "no month", "no weekday"} {
		_, isWeekday := civil.ParseWeekday(text)
		_, isMonth := civil.ParseMonth(text)
		assert.False(t, isWeekday || isMonth, "%q", text)
	}
	assert.Equal(t, civil.MustOf(2024, 2, 29), civiltest.Day("2024-02-29"))
	assert.Panics(t, func() { civiltest.Day("2023-02-29") })
}
