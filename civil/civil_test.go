package civil

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Every day of ten thousand years, held against the standard library.
func TestEveryDayAgreesWithTheStandardLibrary(t *testing.T) {
	witness := time.Date(1, 1, 1, 0, 0, 0, 0, time.UTC)
	for day := MinDay; day <= MaxDay; day++ {
		year, month, dayOfMonth := day.Date()
		wantYear, wantMonth, wantDay := witness.Date()
		if year != wantYear || int(month) != int(wantMonth) || dayOfMonth != wantDay {
			t.Fatalf("day %d is %d-%d-%d, the standard library says %s", day, year, month, dayOfMonth, witness)
		}
		if back, ok := Of(year, month, dayOfMonth); !ok || back != day {
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
		_, err := Parse(c.text)
		assert.EqualError(t, err, c.why)
	}
	for _, text := range []string{"2024-02-29", "2000-02-29", "0001-01-01", "9999-12-31"} {
		day, err := Parse(text)
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
		from, err := Parse(c.from)
		require.NoError(t, err)
		assert.Equal(t, c.to, from.AddMonths(c.months).String(), "%s and %d months", c.from, c.months)
	}
}

func TestFirstOfMonthTakesMonthsBeyondTheYear(t *testing.T) {
	assert.Equal(t, "2027-01-01", FirstOfMonth(2026, 13).String())
	assert.Equal(t, "2025-12-01", FirstOfMonth(2026, 0).String())
	assert.Equal(t, "2026-05-01", FirstOfMonth(2026, May).String())
}

func TestWeekdayCounting(t *testing.T) {
	assert.Equal(t, 1, Monday.From(Monday))
	assert.Equal(t, 7, Saturday.From(Sunday))
	assert.Equal(t, 2, Sunday.From(Saturday))
	wednesday := MustOf(2026, July, 1)
	require.Equal(t, Wednesday, wednesday.Weekday())
	assert.Equal(t, "2026-06-29", Monday.OnOrBefore(wednesday).String())
	assert.Equal(t, "2026-07-01", Wednesday.OnOrBefore(wednesday).String())
	assert.Equal(t, "2026-06-25", Thursday.OnOrBefore(wednesday).String())
}

func TestISOWeeksAgreeWithTheStandardLibrary(t *testing.T) {
	witness := time.Date(1, 1, 8, 0, 0, 0, 0, time.UTC)
	for day := MinDay + 7; day <= MaxDay-7; day += 3 {
		year, week := witness.ISOWeek()
		if back, ok := OfISOWeek(year, week, day.Weekday()); !ok || back != day {
			t.Fatalf("week %d of %d leads to %s, not %s", week, year, back, day)
		}
		witness = witness.AddDate(0, 0, 3)
	}
	for _, no := range [][3]int{{2026, 54, 1}, {2025, 53, 1}, {2026, 0, 1}, {2026, 1, 8}, {0, 1, 1}, {9999, 52, 7}} {
		_, ok := OfISOWeek(no[0], no[1], Weekday(no[2]))
		assert.False(t, ok, "%v", no)
	}
	_, ok := OfISOWeek(2026, 53, Sunday)
	assert.True(t, ok, "2026 has 53 weeks")
}

func TestNames(t *testing.T) {
	assert.Equal(t, "September", September.String())
	assert.Equal(t, "Sep", September.Short())
	assert.Equal(t, "no month", Month(13).String())
	assert.Equal(t, "Sunday", Sunday.String())
	assert.Equal(t, "Sun", Sunday.Short())
	assert.Equal(t, "no weekday", Weekday(0).String())
}

func TestOutsideTheYears(t *testing.T) {
	assert.Equal(t, "day 2932897", (MaxDay + 1).String())
	assert.Panics(t, func() { MustOf(2026, February, 30) })
}

func FuzzParse(f *testing.F) {
	f.Add("2026-03-01")
	f.Add("2026-02-30")
	f.Add("    -  -  ")
	f.Fuzz(func(t *testing.T, text string) {
		day, err := Parse(text)
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
	day := MinDay
	for b.Loop() {
		day.Date()
		if day++; day > MaxDay {
			day = MinDay
		}
	}
}
