package calendar_test

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/calendar"
	"roundyear/civil"
	"roundyear/civil/civiltest"
)

// Dates and weekdays repeat after 400 years, and so do all calendars without a
// change of rule: the same period, 400 years on.
func TestCalendarsRepeatAfter400Years(t *testing.T) {
	const cycle = 146097
	random := rand.New(rand.NewPCG(3, 5))
	for _, cal := range everyKind(t) {
		if _, sequence := cal.(*calendar.Sequence); sequence {
			continue
		}
		for _, unit := range cal.Units() {
			for range 40 {
				on := civil.MustOf(1600, 1, 1) + civil.Day(random.IntN(cycle))
				now, later := cal.Locate(unit, on), cal.Locate(unit, on+cycle)
				require.Equal(t, []int{now.Year + 400, now.InYear, int(now.First) + cycle, int(now.Last) + cycle},
					[]int{later.Year, later.InYear, int(later.First), int(later.Last)}, "%s %s of %s", cal.Name(), unit, on)
			}
		}
	}
}

// Any split of 52 weeks gives years that are covered by their periods, weeks
// that lie in one period each, and one longer period in leap years.
func TestAnySplitCoversTheYear(t *testing.T) {
	random := rand.New(rand.NewPCG(8, 13))
	for range 200 {
		var split []int
		for left := 52; left > 0; {
			weeks := min(1+random.IntN(9), left)
			split, left = append(split, weeks), left-weeks
		}
		leapWeek := 1 + random.IntN(len(split))
		c, err := calendar.NewFiscalWeeks(calendar.FiscalWeeks{Name: "x", EndsOn: civil.Weekday(1 + random.IntN(7)), LastIn: civil.Month(1 + random.IntN(12)), Split: split, LeapWeek: leapWeek,
			NamedBy: calendar.NamedBy(random.IntN(3))})
		require.NoError(t, err)
		for year := 2019; year <= 2025; year++ {
			whole := c.At(calendar.Year, year)
			day, leap := whole.First, whole.Days() == 371
			for i, weeks := range split {
				period := c.Locate(calendar.Month, day)
				if leap && i+1 == leapWeek {
					weeks++
				}
				require.Equal(t, []int{i + 1, weeks * 7, int(day)}, []int{period.InYear, period.Days(), int(period.First)}, "%v, leap week in %d, %d", split, leapWeek, year)
				for week := period.First; week <= period.Last; week += 7 {
					require.Equal(t, week, c.Locate(calendar.Week, week).First)
				}
				day = period.Last + 1
			}
			require.Equal(t, whole.Last+1, day)
		}
	}
}

// Named by the year that contains most of its days, a year shares more days with
// that year than with any other.
func TestNamedByMostOfTheDays(t *testing.T) {
	for starts := civil.January; starts <= civil.December; starts++ {
		for _, startDay := range []int{1, 2, 3, 15, 28} {
			c, err := calendar.NewFiscalMonths(calendar.FiscalMonths{Name: "x", Starts: starts, StartDay: startDay, NamedBy: calendar.ByMost, Weeks: calendar.ISOWeeks})
			require.NoError(t, err)
			for year := 1999; year <= 2005; year++ {
				period := c.At(calendar.Year, year)
				own, other := 0, 0
				for day := period.First; day <= period.Last; day++ {
					if day.Year() == year {
						own++
					} else {
						other++
					}
				}
				// A leap day can tip a year that is cut in the middle.
				assert.GreaterOrEqual(t, own, other-1, "from %d %s, %d", startDay, starts, year)
			}
		}
	}
}

// A day of this year goes back to one of the year before, and those of
// neighbouring days to neighbouring ones.
func TestYearAgoLeadsToTheYearBefore(t *testing.T) {
	for _, cal := range []calendar.Calendar{calendar.Gregorian(), fiscalOf(t, civil.July, calendar.ByEnd), retail(t)} {
		for on := civiltest.Day("2018-01-01"); on < civiltest.Day("2030-01-01"); on++ {
			ago, ok := calendar.YearAgo(cal, on)
			if !ok {
				require.Equal(t, 53, cal.Locate(calendar.Week, on).InYear, "%s %s", cal.Name(), on)
				continue
			}
			require.Equal(t, cal.Locate(calendar.Year, on).Number-1, cal.Locate(calendar.Year, ago).Number, "%s %s", cal.Name(), on)
			require.Equal(t, cal.Locate(calendar.Month, on).InYear, cal.Locate(calendar.Month, ago).InYear, "%s %s", cal.Name(), on)
			if restated, ok := calendar.YearAgoRestated(cal, on); ok {
				require.Equal(t, on.Weekday(), restated.Weekday())
			}
		}
	}
}

// What is to date ends in the period, never before its first day, and on the
// as-of date in its own period.
func TestToDateStaysInThePeriod(t *testing.T) {
	random := rand.New(rand.NewPCG(21, 34))
	calendars := everyKind(t)
	for range 4000 {
		cal := calendars[random.IntN(len(calendars))]
		units := cal.Units()
		unit := units[random.IntN(len(units))]
		asOf := civiltest.Day("2000-01-01") + civil.Day(random.IntN(15000))
		period := cal.Locate(unit, asOf+civil.Day(random.IntN(4000)-2000))
		last := calendar.ToDate(cal, unit, asOf, period)
		require.True(t, last >= period.First && last <= period.Last, "%s %s as of %s: %s", cal.Name(), unit, asOf, last)
		require.Equal(t, asOf, calendar.ToDate(cal, unit, asOf, cal.Locate(unit, asOf)), "%s %s", cal.Name(), unit)
	}
}
