package database_test

import (
	"fmt"
	"math/big"
	"math/rand/v2"
	"strconv"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/internal/database"
)

// Times are those of the time package, of all years.
func TestMomentsAgreeWithTime(t *testing.T) {
	random := rand.New(rand.NewPCG(15, 2))
	for range 20000 {
		at := time.Date(-4000+random.IntN(16000), time.Month(1+random.IntN(12)), 1+random.IntN(28), random.IntN(24), random.IntN(60), random.IntN(60), random.IntN(1e6)*1000, time.UTC)
		year, ending := at.Year(), ""
		if year < 1 {
			year, ending = 1-year, " BC"
		}
		text := fmt.Sprintf("%04d-%02d-%02d %02d:%02d:%02d.%06d%s", year, at.Month(), at.Day(), at.Hour(), at.Minute(), at.Second(), at.Nanosecond()/1000, ending)
		got, ok := database.Moment([]byte(text), 6)
		require.True(t, ok, text)
		require.Equal(t, at.UnixMicro(), got, text)
	}
	for text, want := range map[string]int64{"2026-03-29 02:30:00+00": 1774751400, "1970-01-01": 0, "1969-12-31 23:59:59": -1} {
		got, ok := database.Moment([]byte(text), 0)
		assert.True(t, ok, text)
		assert.Equal(t, want, got, text)
	}
	for _, text := range []string{"", "2026-02-30 00:00:00", "2026-13-01", "2026-01-01 1:00:00", "20260101", "2026-01-01 00:00:0x", "no date"} {
		_, ok := database.Moment([]byte(text), 6)
		assert.False(t, ok, text)
	}
}

func TestNumbersAgreeWithStrconv(t *testing.T) {
	random := rand.New(rand.NewPCG(15, 3))
	for range 20000 {
		number := random.Int64() >> random.IntN(63) * (1 - 2*random.Int64N(2))
		got, ok := database.Integer([]byte(strconv.FormatInt(number, 10)))
		require.True(t, ok)
		require.Equal(t, number, got)
		units, scale := random.Int64N(1e17)*(1-2*random.Int64N(2)), random.IntN(9)
		text := new(big.Rat).SetFrac(big.NewInt(units), new(big.Int).Exp(big.NewInt(10), big.NewInt(int64(scale)), nil)).FloatString(scale)
		got, ok = database.Fixed([]byte(text), scale)
		require.True(t, ok, text)
		require.Equal(t, units, got, text)
	}
	for _, text := range []string{"", "NaN", "1.234", "1-", "1..2", "Infinity", "1e5"} {
		_, ok := database.Fixed([]byte(text), 2)
		assert.False(t, ok, text)
	}
	for _, text := range []string{"", "-", "1.0", "9223372036854775808"} {
		_, ok := database.Integer([]byte(text))
		assert.False(t, ok, text)
	}
	seconds, ok := database.Clock([]byte("23:59:59.5"), 3)
	assert.True(t, ok)
	assert.Equal(t, int64(86399500), seconds)
}
