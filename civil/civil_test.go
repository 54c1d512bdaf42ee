package civil_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/civil"
)

// Every day of ten thousand years, held against the standard library.
func TestEveryDayAgreesWithTheStandardLibrary(t *testing.T) {
	witness := time.Date(1, 1, 1, 0, 0, 0, 0, time.UTC)
	for day := civil.MinDay; day <= civil.MaxDay; day++ {
		year, month, dayOfMonth := day.Date()
		wantYear, wantMonth, wantDay := witness.Date()
		if year != wantYear || int(month) != int(wantMonth) || dayOfMonth != wantDay {
			t.Fatalf("day %d is %d-%d-%d, the standard library says %s", day, year, month, dayOfMonth, witness)
		}
		if back, ok := civil.Of(year, month, dayOfMonth); !ok || back != day {
			t.Fatalf("%s leads back to day %d, not %d", witness, back, day)
		}
		if int(day.Weekday())%7 != int(witness.Weekday()) {
			t.Fatalf("%s is a %s, not a %s", day, witness.Weekday(), day.Weekday())
		}
		if day%97 == 0 {
			if day.YearDay() != witness.YearDay() {
				t.Fatalf("%s is day %d of the year, not %d", day, witness.YearDay(), day.YearDay())
			}
			if day.String() != witness.Format(time.DateOnly) {
				t.Fatalf("%s is written %s", witness, day)
			}
		}
		witness = witness.AddDate(0, 0, 1)
	}
	assert.Equal(t, 10000, witness.Year(), "MaxDay is the last day of 9999")
}

func TestDaysThatDoNotExist(t *testing.T) {
	for _, c := range []struct {
		text, why string
	}{
		{"2026-02-29", `"2026-02-29" is not a day: February 2026 has 28 days`},
		{"2026-04-31", `"2026-04-31" is not a day: April 2026 has 30 days`},
		{"2026-13-01", `"2026-13-01" is not a day: there is no month 13`},
		{"2026-00-01", `"2026-00-01" is not a day: there is no month 0`},
		{"2026-01-00", `"2026-01-00" is not a day: there is no day 0`},
		{"0000-01-01", `"0000-01-01" is not a day: the year 0 is not from 1 to 9999`},
		{"2026-1-1", `"2026-1-1" is not a date such as 2026-03-01`},
		{"2026-1a-01", `"2026-1a-01" is not a date such as 2026-03-01`},
		{"", `"" is not a date such as 2026-03-01`},
	} {
		_, err := civil.Parse(c.text)
		assert.EqualError(t, err, c.why)
	}
	for _, text := range []string{"2024-02-29", "2000-02-29", "0001-01-01", "9999-12-31"} {
		day, err := civil.Parse(text)
		require.NoError(t, err)
		assert.Equal(t, text, day.String())
	}
}

func TestAddMonthsStaysInTheMonth(t *testing.T) {
	for _, c := range []struct {
		from   string
		months int
		to     string
	}{
		{"2026-01-31", 1, "2026-02-28"},
		{"2024-01-31", 1, "2024-02-29"},
		{"2024-02-29", -12, "2023-02-28"},
		{"2024-02-29", 48, "2028-02-29"},
		{"2026-01-15", -1, "2025-12-15"},
		{"2026-12-31", 2, "2027-02-28"},
	} {
		from, err := civil.Parse(c.from)
		require.NoError(t, err)
		assert.Equal(t, c.to, from.AddMonths(c.months).String(), "%s and %d months", c.from, c.months)
	}
}

func TestFirstOfMonthTakesMonthsBeyondTheYear(t *testing.T) {
	assert.Equal(t, "2027-01-01", civil.FirstOfMonth(2026, 13).String())
	assert.Equal(t, "2025-12-01", civil.FirstOfMonth(2026, 0).String())
	assert.Equal(t, "2026-05-01", civil.FirstOfMonth(2026, civil.May).String())
}

func TestWeekdayCounting(t *testing.T) {
	assert.Equal(t, 1, civil.Monday.From(civil.Monday))
	assert.Equal(t, 7, civil.Saturday.From(civil.Sunday))
	assert.Equal(t, 2, civil.Sunday.From(civil.Saturday))
	wednesday := civil.MustOf(2026, civil.July, 1)
	require.Equal(t, civil.Wednesday, wednesday.Weekday())
	assert.Equal(t, "2026-06-29", civil.Monday.OnOrBefore(wednesday).String())
	assert.Equal(t, "2026-07-01", civil.Wednesday.OnOrBefore(wednesday).String())
	assert.Equal(t, "2026-06-25", civil.Thursday.OnOrBefore(wednesday).String())
}

func TestISOWeeksAgreeWithTheStandardLibrary(t *testing.T) {
	witness := time.Date(1, 1, 8, 0, 0, 0, 0, time.UTC)
	for day := civil.MinDay + 7; day <= civil.MaxDay-7; day += 3 {
		year, week := witness.ISOWeek()
		if back, ok := civil.OfISOWeek(year, week, day.Weekday()); !ok || back != day {
			t.Fatalf("week %d of %d leads to %s, not %s", week, year, back, day)
		}
		witness = witness.AddDate(0, 0, 3)
	}
	for _, no := range [][3]int{{2026, 54, 1}, {2025, 53, 1}, {2026, 0, 1}, {2026, 1, 8}, {0, 1, 1}, {9999, 52, 7}} {
		_, ok := civil.OfISOWeek(no[0], no[1], civil.Weekday(no[2]))
		assert.False(t, ok, "%v", no)
	}
	_, ok := civil.OfISOWeek(2026, 53, civil.Sunday)
	assert.True(t, ok, "2026 has 53 weeks")
}

func TestNames(t *testing.T) {
	assert.Equal(t, "September", civil.September.String())
	assert.Equal(t, "Sep", civil.September.Short())
	assert.Equal(t, "no month", civil.Month(13).String())
	assert.Equal(t, "Sunday", civil.Sunday.String())
	assert.Equal(t, "Sun", civil.Sunday.Short())
	assert.Equal(t, "no weekday", civil.Weekday(0).String())
}

func TestOutsideTheYears(t *testing.T) {
	assert.Equal(t, "day 2932897", (civil.MaxDay + 1).String())
	assert.Panics(t, func() { civil.MustOf(2026, civil.February, 30) })
}

func FuzzParse(f *testing.F) {
	f.Add("2026-03-01")
	f.Add("2026-02-30")
	f.Add("    -  -  ")
	f.Fuzz(func(t *testing.T, text string) {
		day, err := civil.Parse(text)
		witness, witnessErr := time.Parse(time.DateOnly, text)
		if err == nil {
			require.NoError(t, witnessErr)
			assert.Equal(t, text, day.String())
		} else if witnessErr == nil && witness.Year() > 0 {
			t.Fatalf("the standard library reads %q: %v", text, err)
		}
	})
}

func BenchmarkDate(b *testing.B) {
	day := civil.MinDay
	for b.Loop() {
		day.Date()
		if day++; day > civil.MaxDay {
			day = civil.MinDay
		}
	}
}
