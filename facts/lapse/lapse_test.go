package lapse_test

import (
	"fmt"
	"math/rand/v2"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/civil"
	"roundyear/civil/civiltest"
	"roundyear/facts/lapse"
)

// calendar is one of chance: days that count, and opening hours on some of them.
func calendar(random *rand.Rand) (*lapse.DayCalendar, func(civil.Day) bool, *lapse.OpeningHours, func(civil.Day) bool) {
	salt, share := civil.Day(random.IntN(1000)), civil.Day(2+random.IntN(5))
	counts := func(day civil.Day) bool { return day.Weekday() < 6 && (day*7+salt)%share != 0 }
	opens := func(day civil.Day) bool { return (day*3+salt)%share != 1 }
	hours := &lapse.OpeningHours{}
	for weekday := 1; weekday < 8; weekday++ {
		if from := random.IntN(10) * 3600; weekday < 7 {
			hours[weekday] = []lapse.Stretch{{From: from, To: from + 4*3600}, {From: from + 5*3600, To: from + 8*3600 + 1800}}
		}
	}
	return lapse.NewDayCalendar(counts, hours, opens), counts, hours, opens
}

// The count of days is that of a loop over them, whichever ends count and in whichever direction.
func TestCountsAgainstALoop(t *testing.T) {
	random := rand.New(rand.NewPCG(1, 2))
	first := civiltest.Day("1999-06-01")
	for range 40 {
		days, counts, _, _ := calendar(random)
		for range 100 {
			from, to := first+civil.Day(random.IntN(900)), first+civil.Day(random.IntN(900))
			for ends := lapse.LaterEnd; ends <= lapse.NoEnds; ends++ {
				early, late := min(from, to), max(from, to)
				workdays, all := int64(0), int64(0)
				for day := early; day <= late; day++ {
					if day == early && (ends == lapse.LaterEnd || ends == lapse.NoEnds) || day == late && (ends == lapse.EarlierEnd || ends == lapse.NoEnds) {
						continue
					}
					all++
					if counts(day) {
						workdays++
					}
				}
				if to < from {
					workdays, all = -workdays, -all
				}
				require.Equal(t, workdays, lapse.Measure{Unit: lapse.Workdays, Ends: ends}.Between(lapse.Moment{Day: from}, lapse.Moment{Day: to}, days), "%s to %s, %s", from, to, ends)
				require.Equal(t, all, lapse.Measure{Ends: ends}.Between(lapse.Moment{Day: from}, lapse.Moment{Day: to}, nil), "%s to %s, %s", from, to, ends)
			}
		}
	}
}

// Business hours are those of a loop over the minutes.
func TestBusinessHoursAgainstMinutes(t *testing.T) {
	random := rand.New(rand.NewPCG(3, 4))
	first := civiltest.Day("1999-12-20")
	for range 150 {
		days, _, hours, opens := calendar(random)
		from := lapse.Moment{Day: first + civil.Day(random.IntN(20)), Nanos: int64(random.IntN(24*60)) * 60e9}
		to := lapse.Moment{Day: from.Day + civil.Day(random.IntN(6)), Nanos: int64(random.IntN(24*60)) * 60e9}
		if to.Day == from.Day && to.Nanos < from.Nanos {
			from, to = to, from
		}
		minutes := int64(0)
		for day, minute := from.Day, from.Nanos/60e9; day < to.Day || minute < to.Nanos/60e9; minute++ {
			if minute == 24*60 {
				day, minute = day+1, -1
				continue
			}
			for _, s := range hours[day.Weekday()] {
				if opens(day) && minute*60 >= int64(s.From) && minute*60 < int64(s.To) {
					minutes++
				}
			}
		}
		want := (minutes*100*2 + 60) / 120 // to the hundredth
		require.Equal(t, want, lapse.Measure{Unit: lapse.BusinessHours}.Between(from, to, days), "%v to %v", from, to)
		require.Equal(t, -want, lapse.Measure{Unit: lapse.BusinessHours}.Between(to, from, days))
	}
	assert.Equal(t, int64(2425), lapse.Measure{Unit: lapse.Hours}.Between(lapse.Moment{Day: first}, lapse.Moment{Day: first + 1, Nanos: 15 * 60e9}, nil))
}

// Whole months are as many as fit by the date of the standard library, whose overflow is cut to the month's last day.
func TestWholeMonths(t *testing.T) {
	random := rand.New(rand.NewPCG(5, 6))
	plus := func(day civil.Day, months int) civil.Day {
		year, month, dayOfMonth := day.Date()
		last := time.Date(year, time.Month(int(month)+months+1), 0, 0, 0, 0, 0, time.UTC)
		return civil.MustOf(last.Year(), civil.Month(last.Month()), min(dayOfMonth, last.Day()))
	}
	first := civiltest.Day("1999-01-25")
	for range 3000 {
		from := first + civil.Day(random.IntN(800))
		to := from + civil.Day(random.IntN(1000))
		months := 0
		for plus(from, months+1) <= to {
			months++
		}
		require.Equal(t, int64(months), lapse.Measure{Unit: lapse.Months}.Between(lapse.Moment{Day: from}, lapse.Moment{Day: to}, nil), "%s to %s", from, to)
		require.Equal(t, int64(months/12), lapse.Measure{Unit: lapse.Years}.Between(lapse.Moment{Day: from}, lapse.Moment{Day: to}, nil))
		require.Equal(t, int64(to-from)/7, lapse.Measure{Unit: lapse.Weeks}.Between(lapse.Moment{Day: from}, lapse.Moment{Day: to}, nil))
	}
}

// Some days of a kind after a day, or before it, are as many by a walk.
func TestAddAgainstAWalk(t *testing.T) {
	random := rand.New(rand.NewPCG(7, 8))
	first := civiltest.Day("1999-06-01")
	for range 30 {
		days, counts, _, _ := calendar(random)
		for range 60 {
			from, count := first+civil.Day(random.IntN(500)), random.IntN(60)-25
			want := from
			switch left := count; {
			case left >= 0:
				for left > 0 {
					if want++; counts(want) && left > 0 {
						left--
					}
				}
			default:
				for left < 0 {
					if want--; counts(want) {
						left++
					}
				}
			}
			got, ok := lapse.Add(from, count, days)
			require.True(t, ok)
			require.Equal(t, want, got, "%s and %d", from, count)
		}
	}
	none := lapse.NewDayCalendar(func(civil.Day) bool { return false }, nil, nil)
	_, ok := lapse.Add(first, 1, none)
	assert.False(t, ok)
}

func TestBands(t *testing.T) {
	bands, err := lapse.BandsOf([]int64{10, 20, 21})
	require.NoError(t, err)
	require.NoError(t, bands.Check())
	for value, want := range map[int64]lapse.Place{-1: {"negative", -1}, 0: {"0–9", 1}, 9: {"0–9", 1}, 10: {"10–19", 2}, 20: {"20", 3}, 21: {"21 and over", 4}, 1 << 40: {"21 and over", 4}} {
		assert.Equal(t, want, bands.Of(value, 0))
	}
	assert.Equal(t, lapse.Place{Label: "0–9", Sort: 1}, bands.Of(999, 2), "9.99 hours are below 10")
	assert.Equal(t, lapse.Place{Label: "negative", Sort: -1}, bands.Of(-1, 2))
	below, err := lapse.BandsOf([]int64{-5, 0})
	require.NoError(t, err)
	assert.Equal(t, lapse.Bands{{"-5–-1", -5, -1}, {"0 and over", 0, lapse.NoTo}}, below)
	assert.Equal(t, lapse.Place{Label: "-5–-1", Sort: 1}, below.Of(-1, 2), "-0.01 is below 0")

	var own lapse.Bands
	for _, text := range []string{"early=..-1", "on time = 0..5", "late=6..10"} {
		band, err := lapse.ParseBand(text)
		require.NoError(t, err)
		own = append(own, band)
	}
	require.NoError(t, own.Check())
	assert.Equal(t, lapse.Place{Label: "early", Sort: 1}, own.Of(-100, 0))
	assert.Equal(t, lapse.Place{Label: "above all bands", Sort: 4}, own.Of(11, 0))
	assert.Equal(t, lapse.Place{Label: "below all bands", Sort: 0}, own[2:].Of(3, 0))
	assert.Equal(t, []lapse.Place{{"implausible", 5}, {"blank", 6}}, []lapse.Place{own.PlaceOfImplausible(), own.PlaceOfBlank()})

	for text, want := range map[string]string{
		"a":               `"a" is not LABEL=FROM..TO, such as 'on time=0..5'`,
		"a=..":            `"a=.." is not LABEL=FROM..TO, such as 'on time=0..5'`,
		"=1..2":           `"=1..2" is not LABEL=FROM..TO, such as 'on time=0..5'`,
		"a=1..x":          `"a=1..x" is not LABEL=FROM..TO, such as 'on time=0..5'`,
		"a=1..9999999999": `"a=1..9999999999" is not LABEL=FROM..TO, such as 'on time=0..5'`,
		"a=3..2":          `band "a" ends with 2, before it begins with 3`,
	} {
		_, err := lapse.ParseBand(text)
		assert.EqualError(t, err, want)
	}
	for want, wrong := range map[string]lapse.Bands{
		`the bands "a" and "b" overlap`:                             {{"a", 0, 5}, {"b", 5, 9}},
		`between the bands "a" and "b" there is a gap, from 6 to 6`: {{"a", 0, 5}, {"b", 7, 9}},
		`two bands are called "a"`:                                  {{"a", 0, 5}, {"a", 6, 9}},
	} {
		assert.EqualError(t, wrong.Check(), want)
	}
	assert.EqualError(t, lapse.Bands{{"blank", 0, 1}}.Check(), `a band cannot be called "blank", which stands for lapses in no band`)
	assert.EqualError(t, lapse.Bands{{"a", 0, lapse.NoTo}, {"b", 7, 9}}.Check(), `the bands "a" and "b" overlap`)
	_, err = lapse.BandsOf([]int64{10, 10})
	assert.EqualError(t, err, "bands must go up: 10 does not come after 10")
	_, err = lapse.BandsOf(nil)
	assert.Error(t, err)
}

func TestNames(t *testing.T) {
	for unit := lapse.Days; unit <= lapse.BusinessHours; unit++ {
		parsed, err := lapse.ParseUnit(unit.String())
		require.NoError(t, err)
		assert.Equal(t, unit, parsed)
	}
	_, err := lapse.ParseUnit("fortnights")
	assert.EqualError(t, err, `unknown unit "fortnights"; use days, workdays, trading-days, weeks, months, years, hours, business-hours`)
	for ends := lapse.LaterEnd; ends <= lapse.NoEnds; ends++ {
		parsed, err := lapse.ParseEnds(fmt.Sprint(ends))
		require.NoError(t, err)
		assert.Equal(t, ends, parsed)
	}
	_, err = lapse.ParseEnds("all")
	assert.EqualError(t, err, `"all" is none of later, earlier, both, none`)
}
