package language_test

import (
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"roundyear/civil"
	"roundyear/datetext"
	"roundyear/language"
)

func TestLongPatternsAreRefused(t *testing.T) {
	_, err := language.ParsePattern(strings.Repeat("y", 100_000))
	require.ErrorContains(t, err, "has 100000 characters; at most 200 are read")
}

// What labels write by a pattern with a year, a month and a day is read again
// as the same day by the patterns that facts are read by.
func TestLabelsAreReadAgain(t *testing.T) {
	random := rand.New(rand.NewPCG(1, 1))
	for _, pattern := range []string{"dd/MM/yyyy", "d.M.yyyy", "yyyy-MM-dd", "yyyyMMdd", "d MMM yyyy", "MMMM d, yyyy", "EEE d MMM yyyy", "yyyy-DDD", "dd-MMM-yyyy", "yyyy'年'M'月'd'日'"} {
		writer, err := language.ParsePattern(pattern)
		require.NoError(t, err)
		reader, err := datetext.Compile(pattern)
		require.NoError(t, err, pattern)
		for range 300 {
			day := civil.MustOf(1600, 1, 1) + civil.Day(random.IntN(240000))
			text := writer.Append(nil, day, language.English, language.Week{})
			moment, ok := reader.Read(text)
			require.True(t, ok, "%s: %s", pattern, text)
			require.Equal(t, day, moment.Day, "%s: %s", pattern, text)
		}
	}
}

// Whatever text is given as a pattern, it is refused or it writes something.
func FuzzPattern(f *testing.F) {
	for _, seed := range []string{"dd/MM/yyyy", "EEEE 'the' d", "''", "YYYY-'W'ww-e", "LLLL", "yyyy年"} {
		f.Add(seed)
	}
	f.Fuzz(func(t *testing.T, text string) {
		pattern, err := language.ParsePattern(text)
		if err != nil {
			if !strings.Contains(err.Error(), "pattern") {
				t.Fatal(err)
			}
			return
		}
		if len(pattern.Append(nil, civil.MustOf(2026, 3, 9), language.English, language.Week{2026, 11, 1})) == 0 {
			t.Fatalf("%q writes nothing", text)
		}
		if pattern.String() != text {
			t.Fatalf("%q became %q", text, pattern)
		}
	})
}
