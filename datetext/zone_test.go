package datetext_test

import (
	"math/rand/v2"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/civil"
	"roundyear/datetext"
)

func written(t testing.TB, text string) datetext.Moment {
	t.Helper()
	decision, err := column(datetext.Asked{}, text).Decide()
	require.NoError(t, err)
	read, ok := decision.Reader.Read([]byte(text))
	require.True(t, ok)
	return read
}

func TestMomentsMoveBetweenZones(t *testing.T) {
	for _, c := range []struct {
		from, to, text, want string
		change               datetext.Change
	}{
		{"UTC", "Europe/Dublin", "2026-06-30 23:30", "2026-07-01 00:30", datetext.Unchanged},
		{"UTC", "Europe/Dublin", "2026-01-31 23:30:15", "2026-01-31 23:30:15", datetext.Unchanged},
		{"Europe/Amsterdam", "UTC", "2026-07-01 00:30", "2026-06-30 22:30", datetext.Unchanged},
		{"Europe/Dublin", "America/New_York", "2026-03-01 04:59:59.999", "2026-02-28 23:59:59.999", datetext.Unchanged},
		{"", "Asia/Kolkata", "2026-03-01T20:00:00Z", "2026-03-02 01:30:00", datetext.Unchanged},
		{"Europe/Dublin", "UTC", "2026-03-01T20:00:00+05:00", "2026-03-01 15:00:00", datetext.Unchanged},
		// Clocks in Ireland go back on 25 October 2026: 01:30 is there twice.
		{"Europe/Dublin", "UTC", "2026-10-25 01:30", "2026-10-25 00:30", datetext.Doubled},
		{"Europe/Dublin", "UTC", "2026-10-25 00:59", "2026-10-24 23:59", datetext.Unchanged},
		{"Europe/Dublin", "UTC", "2026-10-25 02:00", "2026-10-25 02:00", datetext.Unchanged},
		// They go forward on 29 March: 01:30 is not there, and is 02:30 then.
		{"Europe/Dublin", "UTC", "2026-03-29 01:30", "2026-03-29 01:30", datetext.Skipped},
		{"Europe/Dublin", "Europe/Dublin", "2026-03-29 01:30", "2026-03-29 02:30", datetext.Skipped},
		{"UTC", "Europe/Dublin", "2026-03-29", "2026-03-29 ", datetext.Unchanged},
	} {
		conversion, err := datetext.NewConversion(c.from, c.to)
		require.NoError(t, err)
		moved, change, ok := conversion.Convert(written(t, c.text))
		require.True(t, ok)
		assert.Equal(t, c.want, moment(moved), "%s from %s to %s", c.text, c.from, c.to)
		assert.Equal(t, c.change, change, c.text)
	}
	conversion, err := datetext.NewConversion("", "UTC")
	require.NoError(t, err)
	_, _, ok := conversion.Convert(written(t, "2026-03-01 10:00"))
	assert.False(t, ok, "nobody has said in which zone it was written")
	for _, zone := range []string{"Europe/Nowhere", "Local", "dublin"} {
		_, err = datetext.NewConversion(zone, "UTC")
		assert.ErrorContains(t, err, "unknown time zone", zone)
	}
}

// Any instant, written in a zone and moved to UTC, is that instant again, but
// for the second of two doubled hours.
func TestInstantsComeBack(t *testing.T) {
	random := rand.New(rand.NewPCG(4, 2))
	for _, zone := range []string{"Europe/Dublin", "Europe/Amsterdam", "America/New_York", "Australia/Lord_Howe", "Asia/Kathmandu", "Pacific/Apia", "Africa/Casablanca"} {
		location, err := time.LoadLocation(zone)
		require.NoError(t, err)
		conversion, err := datetext.NewConversion(zone, "UTC")
		require.NoError(t, err)
		doubled := 0
		for range 20000 {
			instant := time.Unix(random.Int64N(60*365*86400)+86400, 0)
			local := instant.In(location)
			second := local.Hour()*3600 + local.Minute()*60 + local.Second()
			m := datetext.Moment{Day: civil.MustOf(local.Year(), civil.Month(local.Month()), local.Day()), Nanos: int64(second) * 1e9, Clock: datetext.Seconds}
			moved, change, ok := conversion.Convert(m)
			require.True(t, ok)
			back := int64(moved.Day)*86400 + moved.Nanos/1e9
			if change == datetext.Doubled {
				doubled++
				require.LessOrEqual(t, back, instant.Unix())
			} else {
				require.Equal(t, instant.Unix(), back, "%s", local)
			}
		}
		assert.Less(t, doubled, 40)
	}
}

func TestBusinessDays(t *testing.T) {
	const four = int64(4 * time.Hour)
	for text, want := range map[string]string{
		"2026-03-01 03:59": "2026-02-28", "2026-03-01 04:00": "2026-03-01", "2026-03-01 00:00": "2026-02-28", "2026-03-01 23:59": "2026-03-01", "2026-03-01": "2026-03-01",
	} {
		assert.Equal(t, want, datetext.BusinessDay(written(t, text), four).String(), text)
	}
}
