package datetext_test

import (
	"errors"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/datetext"
)

func column(asked datetext.Asked, values ...string) *datetext.Column {
	c := datetext.NewColumn(asked)
	for i, value := range values {
		c.Observe(i+2, []byte(value))
	}
	return c
}

func moment(m datetext.Moment) string {
	return string(m.AppendTime([]byte(m.Day.String()+" "), m.Clock))
}

// Every form that a column can be written in, with what is read from it.
func TestFormsAreRecognised(t *testing.T) {
	for _, c := range []struct {
		pattern string
		values  []string
		want    string // of the first value
	}{
		{"yyyy-MM-dd", []string{"2026-03-01", "2026-12-31"}, "2026-03-01 "},
		{"yyyy-MM-dd HH:mm", []string{"2026-03-01 23:59"}, "2026-03-01 23:59"},
		{"yyyy-MM-dd'T'HH:mm:ss", []string{"2026-03-01T23:59:59"}, "2026-03-01 23:59:59"},
		{"yyyy-MM-dd'T'HH:mm:ss.SSSXXX", []string{"2026-03-01T23:59:59.999Z", "2026-03-02T00:00:00.000Z"}, "2026-03-01 23:59:59.999"},
		{"yyyy-MM-dd'T'HH:mm:ssXXX", []string{"2026-03-01T23:59:59+02:00"}, "2026-03-01 23:59:59"},
		{"yyyy-MM-dd HH:mm:ss.SSSSSS", []string{"2026-03-01 12:00:00.999999", "2026-03-01 12:00:00.5"}, "2026-03-01 12:00:00.999999"},
		{"yyyy/MM/dd", []string{"2026/03/01"}, "2026-03-01 "},
		{"yyyy.M.d", []string{"2026.3.1", "2026.12.31"}, "2026-03-01 "},
		{"dd/MM/yyyy", []string{"03/04/2026", "13/04/2026"}, "2026-04-03 "},
		{"MM/dd/yyyy", []string{"03/04/2026", "04/13/2026"}, "2026-03-04 "},
		{"d/M/yyyy", []string{"3/4/2026", "13/12/2026"}, "2026-04-03 "},
		{"M/d/yyyy h:mm a", []string{"3/4/2026 1:05 PM", "12/25/2026 12:00 am"}, "2026-03-04 13:05"},
		{"dd.MM.yyyy HH:mm", []string{"03.04.2026 00:00", "31.12.2026 23:59"}, "2026-04-03 00:00"},
		{"dd-MM-yyyy", []string{"31-12-2026"}, "2026-12-31 "},
		{"d. M. yyyy", []string{"3. 4. 2026", "31. 12. 2026"}, "2026-04-03 "},
		{"MMM d yyyy", []string{"Jan 1 2000", "Feb 29 2000"}, "2000-01-01 "},
		{"MMM d, yyyy", []string{"Sep 1, 2026"}, "2026-09-01 "},
		{"MMMM d, yyyy", []string{"September 1, 2026", "May 15, 2026"}, "2026-09-01 "},
		{"dd MMM yyyy", []string{"01 SEP 2026"}, "2026-09-01 "},
		{"d-MMM-yyyy", []string{"1-mar-2026", "12-mar-2026"}, "2026-03-01 "},
		{"yyyy MMM dd", []string{"2026 Mar 05"}, "2026-03-05 "},
		{"yyyyMMdd", []string{"20260301"}, "2026-03-01 "},
		{"yyyyMMdd HH:mm", []string{"20260301 07:15"}, "2026-03-01 07:15"},
		{"dd/MM/yyyy, HH:mm:ss", []string{"31/12/2026, 23:59:59"}, "2026-12-31 23:59:59"},
		{"dd/MM/yyyy H:mm", []string{"31/12/2026  7:05"}, "2026-12-31 07:05"},
		{"yyyyMMddHHmmss", []string{"20260301071500"}, "2026-03-01 07:15:00"},
		{"yyyyMMdd'T'HHmmssXXX", []string{"20260301T071500Z"}, "2026-03-01 07:15:00"},
		{"YYYY-'W'ww-e", []string{"2026-W53-5"}, "2027-01-01 "},
		{"YYYY'W'wwe", []string{"2026W011"}, "2025-12-29 "},
		{"YYYY-'W'ww-e HH:mm", []string{"2026-W53-5 10:00"}, "2027-01-01 10:00"},
		{"yyyy-DDD", []string{"2024-366", "2026-059"}, "2024-12-31 "},
		{"yyyy-MM", []string{"2026-03"}, "2026-03-01 "},
		{"MMM yyyy", []string{"Mar 2026"}, "2026-03-01 "},
		{"yyyy'Q'Q", []string{"1974Q3"}, "1974-07-01 "},
		{"yyyy 'Q'Q", []string{"2026 Q1"}, "2026-01-01 "},
		{"YYYY-'W'ww", []string{"2026-W07"}, "2026-02-09 "},
		{"EEE, d MMM yyyy HH:mm:ss XXX", []string{"Sun, 1 Mar 2026 10:00:00 +0100"}, "2026-03-01 10:00:00"},
		{"EEEE, MMMM d, yyyy", []string{"Sunday, March 1, 2026"}, "2026-03-01 "},
		{"EEE dd/MM/yyyy", []string{"Sat 14/03/2026"}, "2026-03-14 "},
		{"yyyy-MM-dd EEE", []string{"2026-03-01 Sun"}, "2026-03-01 "},
		{"dd/MM/yy", []string{"03/04/69", "13/04/70"}, "2069-04-03 "},
		{"d-MMM-yy", []string{"3-Apr-70"}, "1970-04-03 "},
	} {
		decision, err := column(datetext.Asked{}, c.values...).Decide()
		require.NoError(t, err, c.pattern)
		require.Len(t, decision.Patterns, 1, c.pattern)
		assert.Equal(t, c.pattern, decision.Patterns[0].Pattern)
		assert.Equal(t, len(c.values), decision.Patterns[0].Count, c.pattern)
		assert.Zero(t, decision.Unread, c.pattern)
		for i, value := range c.values {
			read, ok := decision.Reader.Read([]byte("  " + value + " "))
			require.True(t, ok, "%s as %s", value, c.pattern)
			if i == 0 {
				assert.Equal(t, c.want, moment(read), c.pattern)
			}
		}
		// What is shown as the pattern reads the values by itself too.
		pattern, err := datetext.Compile(c.pattern)
		require.NoError(t, err)
		read, ok := pattern.Read([]byte(c.values[0]))
		require.True(t, ok, "%s by %s", c.values[0], c.pattern)
		assert.Equal(t, c.want, moment(read))
	}
}

func TestYearsOfTwoDigits(t *testing.T) {
	decision, err := column(datetext.Asked{Pivot: 1930, Order: datetext.DayFirst}, "13/04/29", "13/04/30").Decide()
	require.NoError(t, err)
	assert.Equal(t, 1930, decision.Pivot)
	for value, want := range map[string]string{"13/04/29": "2029-04-13", "13/04/30": "1930-04-13"} {
		read, ok := decision.Reader.Read([]byte(value))
		require.True(t, ok)
		assert.Equal(t, want, read.Day.String())
	}
	decision, err = column(datetext.Asked{Order: datetext.YearFirst}, "26/04/03").Decide()
	require.NoError(t, err)
	assert.Equal(t, []datetext.Share{{"yy/MM/dd", 1, "day"}}, decision.Patterns)
	_, err = column(datetext.Asked{}, "03/04/45").Decide()
	assert.ErrorContains(t, err, "does not show whether the day or the month comes first")

	// 26/04/03 is 26 April 2003 or 3 April 2026.
	for _, values := range [][]string{{"26/04/03"}, {"26/04/03", "26/04/17"}, {"25/12/30", "26/01/02", "26/04/17"}, {"26-Apr-03"}} {
		_, err = column(datetext.Asked{}, values...).Decide()
		var open *datetext.OpenYear
		require.ErrorAs(t, err, &open, "%v", values)
		assert.Equal(t, len(values), open.Open)
		assert.Equal(t, datetext.Example{2, values[0]}, open.First[0])
	}
	// A value that can have the year nowhere but last settles it, and so does
	// a last place with few numbers where the first has many.
	for _, values := range [][]string{{"26/04/03", "26/04/32"}, {"26/04/03", "26/04/00"}, {"04/26/03"}, {"Apr 26, 03"},
		{"01/04/25", "13/05/25", "14/06/26", "15/06/26"}} {
		_, err = column(datetext.Asked{}, values...).Decide()
		assert.NoError(t, err, "%v", values)
	}
}

func TestNumbersAreMomentsOnlyWhereAsked(t *testing.T) {
	for _, c := range []struct{ pattern, value, want string }{
		{"serial", "1", "1900-01-01 "}, {"serial", "59", "1900-02-28 "}, {"serial", "61", "1900-03-01 "},
		{"serial", "46082", "2026-03-01 "}, {"serial", "46082.75", "2026-03-01 18:00:00"}, {"serial", "2958465", "9999-12-31 "},
		{"serial", "46082.999988", "2026-03-01 23:59:58.963"}, {"serial", "46082.99999999999", "2026-03-01 23:59:59.999"},
		{"serial", "46082.999999994", "2026-03-01 23:59:59.999"}, {"serial", "46082.041666666664", "2026-03-01 01:00:00"},
		{"serial", "46082.0000000001", "2026-03-01 00:00:00"}, {"serial", "2958465.99999999999", "9999-12-31 23:59:59.999"},
		{"serial", "60", ""}, {"serial", "0", ""}, {"serial", "0.5", ""}, {"serial", "-1", ""}, {"serial", "2958466", ""}, {"serial", "1.2.3", ""}, {"serial", "x", ""},
		{"serial1904", "0", "1904-01-01 "}, {"serial1904", "44620", "2026-03-01 "}, {"serial1904", "2957003", "9999-12-31 "}, {"serial1904", "2957004", ""},
		{"julian", "2440587.5", "1970-01-01 00:00:00"}, {"julian", "2461041", "2025-12-31 12:00:00"}, {"julian", "2461041.49999", "2025-12-31 23:59:59.136"}, {"julian", "2461041.4999999999", "2025-12-31 23:59:59.999"},
		{"julian", "1721425.5", "0001-01-01 00:00:00"}, {"julian", "1721425.4", ""}, {"julian", "5373484.499", "9999-12-31 23:58:33.600"}, {"julian", "5373484.5", ""}, {"julian", "x", ""}, {"julian", "-1", ""},
		{"unix", "0", "1970-01-01 00:00:00"}, {"unix", "1772359199", "2026-03-01 09:59:59"}, {"unix", "-1", "1969-12-31 23:59:59"}, {"unix", "1.5", ""},
		{"unix_ms", "1772359199999", "2026-03-01 09:59:59.999"}, {"unix_us", "1772359199000001", "2026-03-01 09:59:59.000001"},
		{"unix_ns", "1772359199000000001", "2026-03-01 09:59:59.000000001"}, {"unix", "999999999999999", ""},
	} {
		pattern, err := datetext.Compile(c.pattern)
		require.NoError(t, err)
		read, ok := pattern.Read([]byte(c.value))
		assert.Equal(t, c.want != "", ok, "%s %s", c.pattern, c.value)
		if ok {
			assert.Equal(t, c.want, moment(read), "%s %s", c.pattern, c.value)
			assert.Empty(t, pattern.Why([]byte(c.value)))
		} else {
			assert.NotEmpty(t, pattern.Why([]byte(c.value)))
		}
	}
	pattern, err := datetext.Compile("serial")
	require.NoError(t, err)
	assert.Equal(t, "is 1900-02-29, a day that exists in spreadsheets only", pattern.Why([]byte("60")))
	decision, err := column(datetext.Asked{Pattern: pattern}, "46082", "46083").Decide()
	require.NoError(t, err)
	assert.Equal(t, datetext.NoTime, decision.Clock)
	decision, err = column(datetext.Asked{Pattern: pattern}, "46082", "46083.5").Decide()
	require.NoError(t, err)
	assert.Equal(t, datetext.Seconds, decision.Clock)
}

func TestWeekdaysMustBeThoseOfTheDate(t *testing.T) {
	decision, err := column(datetext.Asked{}, "Sun 2026-03-01", "Mon 2026-03-01").Decide()
	require.NoError(t, err)
	assert.Equal(t, 1, decision.Unread)
	assert.Equal(t, "read as EEE yyyy-MM-dd, but 2026-03-01 is a Sunday, not a Monday", decision.Reader.Why([]byte("Mon 2026-03-01")))
}

func TestOffsetsAreKept(t *testing.T) {
	for text, want := range map[string]int32{"Z": 0, "+01:00": 3600, "-0330": -12600, "+05": 18000} {
		decision, err := column(datetext.Asked{}, "2026-03-01T10:00:00"+text).Decide()
		require.NoError(t, err)
		read, ok := decision.Reader.Read([]byte("2026-03-01T10:00:00" + text))
		require.True(t, ok)
		assert.True(t, read.HasOffset)
		assert.Equal(t, want, read.Offset, text)
	}
}

func TestDigitsOfOtherScripts(t *testing.T) {
	for _, value := range []string{"٢٠٢٦-٠٣-٠١", "۲۰۲۶-۰۳-۰۱", "२०२६-०३-०१", "๒๐๒๖-๐๓-๐๑", "２０２６-０３-０１", "𝟐𝟎𝟐𝟔-𝟎𝟑-𝟎𝟏", "𞥒𞥐𞥒𞥖-𞥐𞥓-𞥐𞥑"} {
		decision, err := column(datetext.Asked{}, value).Decide()
		require.NoError(t, err, value)
		read, ok := decision.Reader.Read([]byte(value))
		require.True(t, ok)
		assert.Equal(t, "2026-03-01", read.Day.String(), value)
	}
}

func TestGrainsOfPatterns(t *testing.T) {
	for ldml, want := range map[string]string{"dd/MM/yyyy": "day", "yyyy-MM": "month", "yyyy'Q'Q": "quarter", "YYYY-'W'ww": "week", "YYYY-'W'ww-e": "day", "yyyy-DDD": "day"} {
		pattern, err := datetext.Compile(ldml)
		require.NoError(t, err)
		assert.Equal(t, want, pattern.Grain(), ldml)
	}
}

func TestNoBreakSpacesAreSpaces(t *testing.T) {
	decision, err := column(datetext.Asked{}, "5/13/2026 1:05\u202fPM", "5/14/2026\u00a02:05 PM").Decide()
	require.NoError(t, err)
	assert.Equal(t, []datetext.Share{{"M/dd/yyyy h:mm a", 2, "day"}}, decision.Patterns)
	assert.Zero(t, decision.Unread)
}

func TestWhatIsNoDate(t *testing.T) {
	for _, value := range []string{"12.50", "1024", "20261399", "99/99/9999", "2026-13-45", "A-17-2026", "10:30",
		"192.168.1.1", "2026-03-01-05", "2026-03-01T", "2026-03-01 25", "1/2/2026 10", "2026-13", "2026-W54-1", "2025-366", "2026Q5", "1/2/3456789", "fern", "€5", "2026",
		"Foo 1 2000", "00000000", "12-345-6789", "2026-03-01x", "2026-03-01 12:00 oclock",
		"a very long text that goes on and on, 01/02/2026, and on and on"} {
		c := column(datetext.Asked{}, value)
		_, err := c.Decide()
		var none *datetext.NoDates
		require.ErrorAs(t, err, &none, value)
		assert.Equal(t, 1, none.Values)
		assert.Equal(t, []datetext.Example{{2, value}}, none.First)
		assert.False(t, c.LooksLikeDates(), value)
	}
	_, err := column(datetext.Asked{}, "", "  ").Decide()
	assert.EqualError(t, err, "contains no values")
	assert.True(t, column(datetext.Asked{}, "20260301", "", "20260302").LooksLikeDates())
	assert.False(t, column(datetext.Asked{}, "20260301", "20260399").LooksLikeDates(), "one number that is no day: an identifier")
}

func TestOneValuePastTwelveSettlesTheOrder(t *testing.T) {
	decision, err := column(datetext.Asked{}, "03/04/2026", "05/06/2026", "12/13/2026", "01/01/2026").Decide()
	require.NoError(t, err)
	assert.Equal(t, datetext.MonthFirst, decision.Order)
	assert.Equal(t, 1, decision.Settled)
	assert.Equal(t, datetext.Example{4, "12/13/2026"}, decision.First)
	// It settles other widths and separators of the column too.
	decision, err = column(datetext.Asked{}, "3-4-2026", "13/12/2026").Decide()
	require.NoError(t, err)
	read, ok := decision.Reader.Read([]byte("3-4-2026"))
	require.True(t, ok)
	assert.Equal(t, "2026-04-03", read.Day.String())
}

func TestOpenAndMixedOrdersStop(t *testing.T) {
	_, err := column(datetext.Asked{}, "03/04/2026", "05/06/2026", "07/07/2026").Decide()
	var open *datetext.OpenOrder
	require.ErrorAs(t, err, &open)
	assert.Equal(t, &datetext.OpenOrder{Open: 2, First: []datetext.Example{{2, "03/04/2026"}, {3, "05/06/2026"}}}, open)
	assert.EqualError(t, err, "does not show whether the day or the month comes first (2 values could be either, and none settles it)")

	_, err = column(datetext.Asked{}, "03/04/2026", "25/06/2026", "06/25/2026", "06/26/2026").Decide()
	var mixed *datetext.MixedOrders
	require.ErrorAs(t, err, &mixed)
	assert.Equal(t, &datetext.MixedOrders{1, 2, datetext.Example{3, "25/06/2026"}, datetext.Example{4, "06/25/2026"}}, mixed)

	// Where both readings are the same day there is nothing to settle.
	decision, err := column(datetext.Asked{}, "07/07/2026", "08/08/2026").Decide()
	require.NoError(t, err)
	assert.Equal(t, datetext.Unsettled, decision.Order)
	assert.Zero(t, decision.Unread)
}

func TestTheAskedOrderSettles(t *testing.T) {
	decision, err := column(datetext.Asked{Order: datetext.DayFirst}, "03/04/2026", "06/25/2026", "2026-06-25").Decide()
	require.NoError(t, err)
	assert.Equal(t, 1, decision.Unread)
	assert.Equal(t, []datetext.Example{{3, "06/25/2026"}}, decision.Faults)
	assert.Equal(t, "read as dd/MM/yyyy, but there is no month 25", decision.Reader.Why([]byte("06/25/2026")))
	read, ok := decision.Reader.Read([]byte("03/04/2026"))
	require.True(t, ok)
	assert.Equal(t, "2026-04-03", read.Day.String())
}

func TestTheAskedPatternWins(t *testing.T) {
	pattern, err := datetext.Compile("MM/dd/yyyy")
	require.NoError(t, err)
	decision, err := column(datetext.Asked{Pattern: pattern}, "03/04/2026", "25/06/2026", "2026-01-01", "").Decide()
	require.NoError(t, err)
	assert.Equal(t, []datetext.Share{{"MM/dd/yyyy", 1, "day"}}, decision.Patterns)
	assert.Equal(t, 2, decision.Unread)
	assert.Equal(t, 1, decision.Blanks)
	assert.Equal(t, "read as MM/dd/yyyy, but there is no month 25", decision.Reader.Why([]byte("25/06/2026")))
	assert.Equal(t, "is not a date in the format MM/dd/yyyy", decision.Reader.Why([]byte("2026-01-01")))
	_, err = column(datetext.Asked{Pattern: pattern}, "1.1.2026").Decide()
	assert.EqualError(t, err, "contains no value in the format MM/dd/yyyy")
}

func TestReasons(t *testing.T) {
	decision, err := column(datetext.Asked{}, "2026-03-01", "13/01/2026 10:00").Decide()
	require.NoError(t, err)
	for value, why := range map[string]string{
		"2026-02-30":       "read as yyyy-MM-dd, but February 2026 has 28 days",
		"2026-13-01":       "read as yyyy-MM-dd, but there is no month 13",
		"0000-01-01":       "read as yyyy-MM-dd, but the year 0 is not from 1 to 9999",
		"14/01/2026 24:01": "read as dd/MM/yyyy HH:mm, but there is no such time of day",
		"tomorrow":         "is not a date in the format dd/MM/yyyy HH:mm or yyyy-MM-dd",
		"1/1/26":           "is not a date in the format dd/MM/yyyy HH:mm or yyyy-MM-dd",
	} {
		_, ok := decision.Reader.Clone().Read([]byte(value))
		assert.False(t, ok, value)
		assert.Equal(t, why, decision.Reader.Why([]byte(value)), value)
	}
}

func TestPatternsThatCannotBeRead(t *testing.T) {
	for pattern, fault := range map[string]string{
		"DD/MM/YYYY":             `pattern "DD/MM/YYYY": DD is the day of the year; the day of the month is dd`,
		"dd/MM/YYYY":             `pattern "dd/MM/YYYY": YYYY is the year of the week, which differs near New Year; the year is yyyy`,
		"dd/mm/yyyy":             `pattern "dd/mm/yyyy" has no month: mm is minutes, the month is MM`,
		"dd/MM":                  `pattern "dd/MM" has no year: add yyyy`,
		"dd yyyy":                `pattern "dd yyyy" has no month: add MM, or MMM for a name`,
		"MM/yyyy HH:mm":          `pattern "MM/yyyy HH:mm" has no day of the month: add dd`,
		"yyyy-ww":                `pattern "yyyy-ww": ww is the week of the year and can only be combined with YYYY and e`,
		"dd/MM/yyyy mm":          `pattern "dd/MM/yyyy mm" has an incomplete time of day: it needs hours HH and minutes mm, then seconds ss, then fractions SSS`,
		"dd/MM/yyyy h:mm":        `pattern "dd/MM/yyyy h:mm" needs both h (hours 1 to 12) and a (AM or PM), or H (hours 0 to 23)`,
		"dd/MM/dd yyyy":          `pattern "dd/MM/dd yyyy" has d twice`,
		strings.Repeat("y", 201): `pattern "` + strings.Repeat("y", 40) + `"… has 201 characters; at most 200 are read`,
		"dd/MM/yyyy 'at":         `pattern "dd/MM/yyyy 'at": a ' is not closed`,
		"dd/MM/yyyy qq":          `pattern "dd/MM/yyyy qq": qq is not supported; the letters are yyyy or yy, M or MM, MMM or MMMM, d or dd, H or HH, h or hh, mm, ss, S, a, XXX, EEE, Q, DDD, and YYYY with ww and e`,
	} {
		_, err := datetext.Compile(pattern)
		assert.EqualError(t, err, fault)
	}
	pattern, err := datetext.Compile("'on' dd''MMMM yyyy HH:mm 'o''clock'")
	require.NoError(t, err)
	read, ok := pattern.Read([]byte("on 5'March 2026 09:00 o'clock"))
	require.True(t, ok)
	assert.Equal(t, "2026-03-05", read.Day.String())
}

func TestTheDayIsCutAndNeverRounded(t *testing.T) {
	decision, err := column(datetext.Asked{}, "2026-12-31T23:59:59.999999999").Decide()
	require.NoError(t, err)
	read, ok := decision.Reader.Read([]byte("2026-12-31T23:59:59.999999999"))
	require.True(t, ok)
	assert.Equal(t, "2026-12-31", read.Day.String())
	assert.Equal(t, "23:59", string(read.AppendTime(nil, datetext.Minutes)))
	assert.Equal(t, "23:59:59", string(read.AppendTime(nil, datetext.Seconds)))
	assert.Equal(t, "23:59:59.999", string(read.AppendTime(nil, datetext.Seconds+3)))
	assert.Equal(t, "23:59:59.999999999", string(read.AppendTime(nil, datetext.Seconds+9)))
	assert.Equal(t, "", string(read.AppendTime(nil, datetext.NoTime)))
}

func TestJoinIsTheSameAsOneColumn(t *testing.T) {
	values := []string{"03/04/2026", "x", "31/12/2026", "", "1/2/2026", "30/02/2026", "2026-01-05", "14/01/2026", "y"}
	whole, err := column(datetext.Asked{}, values...).Decide()
	require.NoError(t, err)
	for cut := range values {
		first, second := column(datetext.Asked{}, values[:cut]...), datetext.NewColumn(datetext.Asked{})
		for i, value := range values[cut:] {
			second.Observe(cut+i+2, []byte(value))
		}
		second.Join(first)
		joined, err := second.Decide()
		require.NoError(t, err)
		joined.Reader, whole.Reader = nil, nil
		assert.Equal(t, whole, joined, "cut at %d", cut)
	}
}

func TestAColumnOfManyShapesIsBounded(t *testing.T) {
	c := datetext.NewColumn(datetext.Asked{})
	for i := range 1000 {
		c.Observe(i, fmt.Appendf(nil, "%0*d", i%40+1, i))
		c.Observe(i, fmt.Appendf(nil, "%0*d-%0*d", i%13+1, i, i%17+1, i))
	}
	assert.LessOrEqual(t, c.Shapes(), datetext.MaxShapes)
}

func TestReadParts(t *testing.T) {
	for _, c := range []struct{ year, month, day, want, reason string }{
		{"2026", "3", "1", "2026-03-01", ""},
		{" 2026 ", "03", "01", "2026-03-01", ""},
		{"2026", "March", "1", "2026-03-01", ""},
		{"2026", "2", "30", "", "February 2026 has 28 days"},
		{"26", "2", "3", "", `the year "26" is not a four-digit number`},
		{"2026", "Smarch", "3", "", `the month "Smarch" is neither a number nor a name`},
		{"2026", "13", "3", "", "there is no month 13"},
		{"2026", "12", "", "", `the day "" is not a number of one or two digits`},
	} {
		day, reason := datetext.ReadParts([]byte(c.year), []byte(c.month), []byte(c.day))
		assert.Equal(t, c.reason, reason)
		if reason == "" {
			assert.Equal(t, c.want, day.String())
		}
	}
}

func TestOrders(t *testing.T) {
	order, ok := datetext.ParseOrder("Month")
	assert.True(t, ok)
	assert.Equal(t, datetext.MonthFirst, order)
	_, ok = datetext.ParseOrder("unsettled")
	assert.False(t, ok)
}

// Whatever is read as a date is one that the standard library reads the same.
func FuzzRead(f *testing.F) {
	for _, seed := range []string{"2026-03-01", "31/12/2026 23:59", "Jan 1 2000", "20260301", "2026-03-01T10:00:00.123+02:00", "1/2/2026 1:05 PM"} {
		f.Add(seed)
	}
	f.Fuzz(func(t *testing.T, text string) {
		for _, asked := range []datetext.Asked{{}, {Order: datetext.DayFirst}, {Order: datetext.MonthFirst}} {
			decision, err := column(asked, text).Decide()
			if err != nil {
				var none *datetext.NoDates
				var open *datetext.OpenOrder
				var language *datetext.OpenLanguage
				var year *datetext.OpenYear
				require.True(t, errors.As(err, &none) || errors.As(err, &open) || errors.As(err, &language) || errors.As(err, &year), "%v", err)
				continue
			}
			require.Equal(t, decision.Values, 1)
			read, ok := decision.Reader.Read([]byte(text))
			require.True(t, ok)
			witness := time.Date(read.Day.Year(), 1, read.Day.YearDay(), 0, 0, 0, 0, time.UTC)
			require.Equal(t, witness.Format(time.DateOnly), read.Day.String())
			require.GreaterOrEqual(t, read.Nanos, int64(0))
			require.Less(t, read.Nanos, int64(24*time.Hour))
		}
	})
}

func BenchmarkRead(b *testing.B) {
	for _, value := range []string{"2026-03-01", "31/12/2026 23:59:59", "Sep 30, 2026"} {
		b.Run(value, func(b *testing.B) {
			decision, err := column(datetext.Asked{}, value).Decide()
			require.NoError(b, err)
			text := []byte(value)
			for b.Loop() {
				decision.Reader.Read(text)
			}
		})
	}
}
