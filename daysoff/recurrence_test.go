package daysoff_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/teambition/rrule-go"

	"roundyear/civil"
	"roundyear/daysoff"
)

func texts(days []civil.Day) string {
	var all []string
	for _, day := range days {
		all = append(all, day.String())
	}
	return strings.Join(all, " ")
}

// Examples of RFC 5545, section 3.8.5.3, and of section 3.3.10.
func TestRecurrencesOfTheStandard(t *testing.T) {
	for _, c := range []struct {
		rule  string
		years []int
		want  string
	}{
		{"DTSTART=19970902T090000;RRULE:FREQ=DAILY;COUNT=3", []int{1997}, "1997-09-02 1997-09-03 1997-09-04"},
		{"DTSTART;TZID=America/New_York:19970902T090000\nRRULE:FREQ=DAILY;INTERVAL=10;COUNT=5", []int{1997}, "1997-09-02 1997-09-12 1997-09-22 1997-10-02 1997-10-12"},
		{"DTSTART=19970902;FREQ=WEEKLY;INTERVAL=2;COUNT=8;WKST=SU;BYDAY=TU,TH", []int{1997}, "1997-09-02 1997-09-04 1997-09-16 1997-09-18 1997-09-30 1997-10-02 1997-10-14 1997-10-16"},
		{"DTSTART=19970905;FREQ=MONTHLY;COUNT=3;BYDAY=1FR", []int{1997}, "1997-09-05 1997-10-03 1997-11-07"},
		{"DTSTART=19970922;FREQ=MONTHLY;COUNT=6;BYDAY=-2MO", []int{1997, 1998}, "1997-09-22 1997-10-20 1997-11-17 1997-12-22 1998-01-19 1998-02-16"},
		{"DTSTART=19970928;FREQ=MONTHLY;BYMONTHDAY=-3;UNTIL=19980301", []int{1997, 1998}, "1997-09-28 1997-10-29 1997-11-28 1997-12-29 1998-01-29 1998-02-26"},
		{"DTSTART=19970310;FREQ=YEARLY;INTERVAL=2;COUNT=4;BYMONTH=1,2,3;BYMONTHDAY=10", []int{1997, 1998, 1999, 2000}, "1997-03-10 1999-01-10 1999-02-10 1999-03-10"},
		{"DTSTART=19970101;FREQ=YEARLY;INTERVAL=3;COUNT=4;BYYEARDAY=1,100,200", []int{1997, 1998, 1999, 2000}, "1997-01-01 1997-04-10 1997-07-19 2000-01-01"},
		{"DTSTART=19970519;FREQ=YEARLY;BYDAY=20MO", []int{1997, 1998, 1999}, "1997-05-19 1998-05-18 1999-05-17"},
		{"DTSTART=19970512;FREQ=YEARLY;BYWEEKNO=20;BYDAY=MO", []int{1997, 1998, 1999}, "1997-05-12 1998-05-11 1999-05-17"},
		{"DTSTART=19970313;FREQ=YEARLY;BYMONTH=3;BYDAY=TH", []int{1997}, "1997-03-13 1997-03-20 1997-03-27"},
		{"DTSTART=19980213;FREQ=MONTHLY;BYDAY=FR;BYMONTHDAY=13", []int{1998, 1999, 2000}, "1998-02-13 1998-03-13 1998-11-13 1999-08-13 2000-10-13"},
		{"DTSTART=19961105;FREQ=YEARLY;INTERVAL=4;BYMONTH=11;BYDAY=TU;BYMONTHDAY=2,3,4,5,6,7,8", []int{1996, 2000, 2004}, "1996-11-05 2000-11-07 2004-11-02"},
		{"DTSTART=19970904;FREQ=MONTHLY;COUNT=3;BYDAY=TU,WE,TH;BYSETPOS=3", []int{1997}, "1997-09-04 1997-10-07 1997-11-06"},
		{"DTSTART=19970929;FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-2;COUNT=3", []int{1997}, "1997-09-29 1997-10-30 1997-11-27"},
		{"DTSTART=20070115;FREQ=MONTHLY;BYMONTHDAY=15,30;COUNT=5", []int{2007}, "2007-01-15 2007-01-30 2007-02-15 2007-03-15 2007-03-30"},
		{"DTSTART=19970805;FREQ=WEEKLY;INTERVAL=2;COUNT=4;BYDAY=TU,SU;WKST=SU", []int{1997}, "1997-08-05 1997-08-17 1997-08-19 1997-08-31"},
		{"DTSTART=19970805;FREQ=WEEKLY;INTERVAL=2;COUNT=4;BYDAY=TU,SU;WKST=MO", []int{1997}, "1997-08-05 1997-08-10 1997-08-19 1997-08-24"},
		// A weekday and a numbered one are either of both.
		{"DTSTART=20260105;FREQ=MONTHLY;BYMONTH=1;BYDAY=MO,1TU", []int{2026}, "2026-01-05 2026-01-06 2026-01-12 2026-01-19 2026-01-26"},
		// What the rule does not say comes from the start.
		{"DTSTART=20260514;FREQ=YEARLY;BYWEEKNO=1", []int{2026, 2027, 2028}, "2026-05-14 2027-01-07 2028-01-06"},
		// A start that the rule does not give is its first day all the same.
		{"DTSTART=20260101;FREQ=YEARLY;BYMONTH=5;BYMONTHDAY=1;COUNT=2", []int{2026, 2027}, "2026-01-01 2026-05-01"},
		{"DTSTART=20260101;FREQ=YEARLY;BYMONTH=5;BYMONTHDAY=1;COUNT=1", []int{2026, 2027}, "2026-01-01"},
		// Without a start it has no bounds.
		{"FREQ=YEARLY;BYMONTH=6;BYDAY=1MO", []int{1583, 1899, 2199, 9999}, "1583-06-06 1899-06-05 2199-06-03 9999-06-07"},
		{"FREQ=YEARLY;INTERVAL=2;BYMONTH=6;BYMONTHDAY=1", []int{1897, 1898, 1899, 1900, 1901}, "1898-06-01 1900-06-01"},
		{"FREQ=YEARLY;BYMONTH=6;BYMONTHDAY=1;UNTIL=19001231T000000Z", []int{1899, 1900, 1901}, "1899-06-01 1900-06-01"},
		{"FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=29", []int{1900, 2000, 2100, 2104}, "2000-02-29 2104-02-29"},
	} {
		rule, err := daysoff.ParseRecurrence(c.rule)
		require.NoError(t, err, c.rule)
		for range 2 {
			var days []civil.Day
			for _, year := range c.years {
				days = append(days, rule.In(year)...)
			}
			assert.Equal(t, c.want, texts(days), c.rule)
		}
		assert.Equal(t, "the rule "+c.rule, rule.Words())
	}
}

func TestRulesThatAreNone(t *testing.T) {
	for rule, why := range map[string]string{
		"":                      "FREQ is missing",
		"BYDAY=MO":              "FREQ is missing",
		"FREQ":                  `"FREQ" has no value`,
		"FREQ=SOMETIMES":        "FREQ must be YEARLY, MONTHLY, WEEKLY or DAILY, not SOMETIMES",
		"FREQ=HOURLY":           "it recurs within a day, but days off are whole days",
		"FREQ=DAILY;BYHOUR=9":   "it recurs within a day (BYHOUR), but days off are whole days",
		"FREQ=DAILY;FREQ=DAILY": "FREQ is given twice",
		"FREQ=DAILY;COUNT=2":    "COUNT needs a start",
		"DTSTART=20260105;FREQ=DAILY;COUNT=2;UNTIL=20260105": "it has both COUNT and UNTIL",
		"FREQ=DAILY;INTERVAL=0":                              "INTERVAL must be a number from 1 to 1000000, not 0",
		"FREQ=MONTHLY;BYDAY=10MO":                            "contains days that no month or year has",
		"FREQ=YEARLY;BYDAY=54MO":                             "BYDAY must have weekdays such as MO or 1MO, not 54MO",
		"FREQ=YEARLY;BYDAY=OT":                               "weekdays must be MO, TU, WE, TH, FR, SA or SU, not OT",
		"FREQ=YEARLY;BYMONTH=13":                             "BYMONTH must have numbers from 1 to 12, not 13",
		"FREQ=YEARLY;BYMONTH=-1":                             "BYMONTH must have numbers from 1 to 12, not -1",
		"FREQ=YEARLY;BYMONTHDAY=0":                           "BYMONTHDAY must have numbers from 1 to 31, not 0",
		"FREQ=YEARLY;UNTIL=2026":                             "UNTIL: a day must be written as 20260105, not 2026",
		"FREQ=YEARLY;UNTIL=20260105T9":                       "UNTIL: a time must be written as T170000Z, not 20260105T9",
		"DTSTART=20260230;FREQ=DAILY":                        "DTSTART: 20260230 is not a day",
		"RSCALE=HEBREW;FREQ=YEARLY":                          "RSCALE is not a part of a recurrence rule",
		"FREQ=" + strings.Repeat("X", 10000):                 "not " + strings.Repeat("X", 75),
		"FREQ=YEARLY;BYDAY=MO" + strings.Repeat(",1MO", 800): "BYDAY has 801 values; at most 800 are read",
		"FREQ=YEARLY;BYMONTH=1" + strings.Repeat(",1", 800):  "BYMONTH has 801 values; at most 800 are read",
	} {
		_, err := daysoff.ParseRecurrence(rule)
		if assert.Error(t, err, rule) {
			assert.Contains(t, err.Error(), why)
			assert.Less(t, len(err.Error()), 400)
		}
	}
}

// Chance rules give the days that the witness gives, a library that goes from
// one to the next. Left out is what the two understand differently on purpose.
func TestRecurrencesAgainstAnotherImplementation(t *testing.T) {
	random := rand.New(rand.NewPCG(5545, 1))
	pick := func(names string) string {
		all := strings.Fields(names)
		return all[random.IntN(len(all))]
	}
	some := func(most int, signed bool) string {
		var numbers []string
		for range 1 + random.IntN(3) {
			number := 1 + random.IntN(most)
			if signed && random.IntN(3) == 0 {
				number = -number
			}
			numbers = append(numbers, fmt.Sprint(number))
		}
		return strings.Join(numbers, ",")
	}
	compared := 0
	for range 400 {
		freq := pick("YEARLY YEARLY MONTHLY MONTHLY WEEKLY DAILY")
		parts := []string{"FREQ=" + freq}
		add := func(chance int, name string, value func() string) bool {
			if random.IntN(chance) > 0 {
				return false
			}
			parts = append(parts, name+"="+value())
			return true
		}
		add(2, "INTERVAL", func() string { return fmt.Sprint(1 + random.IntN(5)) })
		add(3, "BYMONTH", func() string { return some(12, false) })
		add(4, "BYMONTHDAY", func() string { return some(31, true) })
		byDay := false
		if freq == "YEARLY" {
			add(6, "BYYEARDAY", func() string { return some(366, true) })
			if random.IntN(6) == 0 {
				parts, byDay = append(parts, "BYWEEKNO="+some(53, false), "BYDAY="+pick("MO TU,SU SA")), true
			}
		}
		if !byDay {
			numbered := freq == "MONTHLY" || freq == "YEARLY"
			add(2, "BYDAY", func() string {
				if numbered && random.IntN(2) == 0 {
					return pick("1MO -1FR 3TH,-2SU 5WE 2TU,2SA")
				}
				return pick("MO TU,WE SU SA,SU MO,TU,WE,TH,FR")
			})
		}
		add(5, "BYSETPOS", func() string { return some(4, true) })
		add(4, "WKST", func() string { return pick("MO TU SU SA") })
		start := time.Date(1950+random.IntN(100), time.Month(1+random.IntN(12)), 1+random.IntN(31), 0, 0, 0, 0, time.UTC)
		add(4, "UNTIL", func() string { return start.AddDate(random.IntN(20), random.IntN(12), 0).Format("20060102") })
		text := strings.Join(parts, ";")

		options, err := rrule.StrToROption(text)
		require.NoError(t, err, text)
		options.Dtstart = start
		witness, err := rrule.NewRRule(*options)
		require.NoError(t, err, text)
		end := start.AddDate(25, 0, 0)
		var want []civil.Day
		for _, one := range witness.Between(start, end, true) {
			want = append(want, civil.MustOf(one.Year(), civil.Month(one.Month()), one.Day()))
		}
		rule, err := daysoff.ParseRecurrence("DTSTART=" + start.Format("20060102") + ";" + text)
		require.NoError(t, err, text)
		first, last := civil.MustOf(start.Year(), civil.Month(start.Month()), start.Day()), civil.MustOf(end.Year(), civil.Month(end.Month()), end.Day())
		var got []civil.Day
		for year := start.Year(); year <= end.Year(); year++ {
			got = append(got, rule.In(year)...)
		}
		got = slices.DeleteFunc(got, func(day civil.Day) bool {
			return day > last || day == first && !slices.Contains(want, first)
		})
		require.Equal(t, texts(want), texts(got), "%s from %s", text, start)
		compared += len(got)

		if len(want) > 3 && want[0] == first && !strings.Contains(text, "UNTIL") {
			count := 1 + random.IntN(min(len(want), 30))
			counted, err := daysoff.ParseRecurrence("DTSTART=" + start.Format("20060102") + ";" + text + fmt.Sprintf(";COUNT=%d", count))
			require.NoError(t, err)
			var got []civil.Day
			for year := start.Year(); year <= end.Year()+5; year++ {
				got = append(got, counted.In(year)...)
			}
			require.Equal(t, texts(want[:count]), texts(got), "%s count %d", text, count)
		}
	}
	assert.Greater(t, compared, 15_000)
}

func TestSpansThatOverlapGiveEachDayOnce(t *testing.T) {
	every, err := daysoff.ParseRecurrence("FREQ=DAILY")
	require.NoError(t, err)
	days := daysoff.Span{From: every, Lasts: 365}.In(2026)
	assert.Len(t, days, 365)
	assert.True(t, slices.IsSorted(days))
	assert.Equal(t, "2026-01-01 2026-01-02", texts(daysoff.Span{From: daysoff.OnDate{Month: 12, Day: 30}, Shift: 1, Lasts: 3}.In(2026)[:2]))
}

func TestWithoutLeavesDaysOut(t *testing.T) {
	w := daysoff.Without{When: daysoff.OnDate{Month: 5, Day: 1}, Days: map[civil.Day]bool{civil.MustOf(2026, 5, 1): true}}
	assert.Empty(t, w.In(2026))
	assert.Equal(t, "2027-05-01", texts(w.In(2027)))
}
