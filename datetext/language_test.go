package datetext_test

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/civil"
	"roundyear/datetext"
)

func TestNamesOfMonthsInManyLanguages(t *testing.T) {
	for _, c := range []struct {
		language, pattern string
		values            []string
		want              string
	}{
		{"de", "d. MMMM yyyy", []string{"12. März 2026", "1. Dezember 2025"}, "2026-03-12"},
		{"fr", "d MMMM yyyy", []string{"1 août 2026", "3 JANVIER 2026"}, "2026-08-01"},
		{"es", "d 'de' MMMM 'de' yyyy", []string{"5 de marzo de 2026", "6 de enero de 2026"}, "2026-03-05"},
		{"pl", "d MMMM yyyy", []string{"5 września 2026", "1 lipca 2026"}, "2026-09-05"},
		{"ru", "d MMMM yyyy", []string{"9 мая 2026", "1 января 2026"}, "2026-05-09"},
		{"el", "d MMMM yyyy", []string{"25 Μαρτίου 2026", "1 Αυγούστου 2026"}, "2026-03-25"},
		{"hi", "dd MMMM yyyy", []string{"१५ अगस्त २०२६"}, "2026-08-15"},
		{"ar", "d MMMM yyyy", []string{"٥ يونيو ٢٠٢٦", "٦ يوليو ٢٠٢٦"}, "2026-06-05"},
		{"en", "d 'of' MMMM yyyy", []string{"5 of March 2026"}, "2026-03-05"},
		{"nl", "d MMM yyyy", []string{"5 mrt 2026", "5 mei 2026"}, "2026-03-05"},
	} {
		decision, err := column(datetext.Asked{}, c.values...).Decide()
		require.NoError(t, err, c.language)
		assert.Zero(t, decision.Unread, c.language)
		require.Len(t, decision.Patterns, 1, c.language)
		assert.Equal(t, c.pattern, decision.Patterns[0].Pattern)
		read, ok := decision.Reader.Read([]byte(c.values[0]))
		require.True(t, ok, c.language)
		assert.Equal(t, c.want, read.Day.String(), c.language)
		asked, err := datetext.LanguageOf(c.language)
		require.NoError(t, err)
		decision, err = column(datetext.Asked{Language: asked}, c.values...).Decide()
		require.NoError(t, err)
		assert.Equal(t, c.language, decision.Language)
		assert.Zero(t, decision.Unread, c.language)
	}
}

func TestUnitsBehindNumbers(t *testing.T) {
	for pattern, value := range map[string]string{
		"yyyy年M月d日": "2026年3月1日", "yyyy年MM月dd日 HH:mm": "2026年03月01日 10:30", "yyyy년 M월 d일": "2026년 3월 1일",
	} {
		decision, err := column(datetext.Asked{}, value).Decide()
		require.NoError(t, err, value)
		assert.Equal(t, pattern, decision.Patterns[0].Pattern)
		read, ok := decision.Reader.Read([]byte(value))
		require.True(t, ok)
		assert.Equal(t, "2026-03-01", read.Day.String())
	}
	for _, value := range []string{"2026年3月", "26年3月1日", "2026年3日1月", "2026年3월1日", "2026年123月1日"} {
		_, err := column(datetext.Asked{}, value).Decide()
		assert.Error(t, err, value)
	}
}

// A year of dates in any language of the table is read by its own months.
func TestAYearInEachLanguageIsTold(t *testing.T) {
	tested := 0
	for _, l := range datetext.OtherLanguages() {
		names := map[civil.Month]string{}
		for _, name := range slices.Sorted(maps.Keys(l.Months())) {
			if month := l.Months()[name]; len(name) > len(names[month]) {
				names[month] = name
			}
		}
		// Nheengatu has a month "pm", which is read as half a day.
		if len(names) < 12 || l.Tag == "yrl" {
			continue
		}
		var values []string
		for month := civil.January; month <= civil.December; month++ {
			values = append(values, fmt.Sprintf("1 %s 2026", names[month]))
		}
		decision, err := column(datetext.Asked{}, values...).Decide()
		require.NoError(t, err, l.Tag)
		for i, value := range values {
			read, ok := decision.Reader.Read([]byte(value))
			require.True(t, ok, "%s %s", l.Tag, value)
			_, month, _ := read.Day.Date()
			require.Equal(t, civil.Month(i+1), month, "%s %s, read as %s", l.Tag, value, decision.Language)
		}
		tested++
	}
	assert.Greater(t, tested, 150)
}

func TestNamesThatStandForSeveralMonths(t *testing.T) {
	// listopad is October in Croatian and November in Czech and Polish.
	_, err := column(datetext.Asked{}, "5 listopad 2026").Decide()
	var open *datetext.OpenLanguage
	require.ErrorAs(t, err, &open)
	assert.Equal(t, "listopad", open.Name)
	assert.Subset(t, open.Tags, []string{"cs", "hr", "pl"})
	assert.EqualError(t, err, `does not show which month "listopad" is`)
	for tag, want := range map[string]string{"hr": "2026-10-05", "pl": "2026-11-05"} {
		language, err := datetext.LanguageOf(strings.ToUpper(tag))
		require.NoError(t, err)
		decision, err := column(datetext.Asked{Language: language}, "5 listopad 2026").Decide()
		require.NoError(t, err)
		read, ok := decision.Reader.Read([]byte("5 listopad 2026"))
		require.True(t, ok)
		assert.Equal(t, want, read.Day.String())
	}
	// Another name of the column tells.
	decision, err := column(datetext.Asked{}, "5 listopad 2026", "6 siječanj 2026").Decide()
	require.NoError(t, err)
	assert.Equal(t, "hr", decision.Language)
	_, err = datetext.LanguageOf("xx")
	assert.ErrorContains(t, err, `unknown language "xx"`)
}

func TestNamesOfAnotherLanguageAreNotRead(t *testing.T) {
	values := []string{"1 März 2026", "1 Mai 2026", "1 Oktober 2026", "1 Dezember 2026", "1 styczeń 2026"}
	decision, err := column(datetext.Asked{}, values...).Decide()
	require.NoError(t, err)
	assert.Equal(t, 1, decision.Unread)
	assert.Equal(t, []datetext.Example{{6, "1 styczeń 2026"}}, decision.Faults)
	_, ok := decision.Reader.Read([]byte("1 styczeń 2026"))
	assert.False(t, ok)
}
