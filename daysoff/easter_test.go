package daysoff_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"roundyear/civil"
	"roundyear/daysoff"
)

// tabular finds Easter by the epact and the letters of the calendar, as Clavius
// has them: another way than the closed form.
func tabular(year int) civil.Day {
	golden := year%19 + 1
	century := year/100 + 1
	skipped := 3*century/4 - 12
	moon := (8*century+5)/25 - 5
	sunday := 5*year/4 - skipped - 10
	epact := ((11*golden+20+moon-skipped)%30 + 30) % 30
	if epact == 25 && golden > 11 || epact == 24 {
		epact++
	}
	day := 44 - epact
	if day < 21 {
		day += 30
	}
	day += 7 - (sunday+day)%7
	return civil.MustOf(year, civil.March, 1) + civil.Day(day-1)
}

func TestEasterByTwoWays(t *testing.T) {
	for year := 1583; year <= 2299; year++ {
		easter := daysoff.Easter(year)
		if easter != tabular(year) {
			t.Fatalf("%d: %s by the closed form, %s by the tables", year, easter, tabular(year))
		}
		assert.Equal(t, civil.Sunday, easter.Weekday())
		assert.Equal(t, civil.Sunday, daysoff.OrthodoxEaster(year).Weekday(), "%d", year)
		if apart := daysoff.OrthodoxEaster(year) - easter; apart < 0 || apart > 42 || apart%7 != 0 {
			t.Fatalf("%d: the Easters are %d days apart", year, apart)
		}
	}
}

// Dates as churches and almanacs publish them.
func TestEasterAsPublished(t *testing.T) {
	for year, want := range map[int][2]string{
		1818: {"1818-03-22", ""}, 1943: {"1943-04-25", ""}, 1999: {"1999-04-04", "1999-04-11"}, 2000: {"2000-04-23", "2000-04-30"},
		2010: {"2010-04-04", "2010-04-04"}, 2013: {"2013-03-31", "2013-05-05"}, 2016: {"2016-03-27", "2016-05-01"}, 2021: {"2021-04-04", "2021-05-02"},
		2023: {"2023-04-09", "2023-04-16"}, 2024: {"2024-03-31", "2024-05-05"}, 2025: {"2025-04-20", "2025-04-20"}, 2026: {"2026-04-05", "2026-04-12"},
		2027: {"2027-03-28", "2027-05-02"}, 2038: {"2038-04-25", ""}, 2285: {"2285-03-22", ""},
	} {
		assert.Equal(t, want[0], daysoff.Easter(year).String())
		if want[1] != "" {
			assert.Equal(t, want[1], daysoff.OrthodoxEaster(year).String())
		}
	}
}
