package datetext_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/civil"
	"roundyear/datetext"
	"roundyear/language"
)

// Dates with words that say nothing of the day are read without them.
func TestDatesInOtherWords(t *testing.T) {
	for value, want := range map[string]string{
		"1er mai 2024": "2024-05-01 ", "17 декабря 2024 г.": "2024-12-17 ", "5. Mrz 24": "2024-03-05 ", "1º de março de 2024": "2024-03-01 ", "5 févr. 2024": "2024-02-05 ",
		"1° maggio 2024": "2024-05-01 ", "le 5 mars 2024": "2024-03-05 ", "2024. március 5.": "2024-03-05 ", "Mar 5th, 2024": "2024-03-05 ", "the 22nd of March 2024": "2024-03-22 ",
		"tháng 3 2024": "2024-03-01 ", "ngày 5 tháng 12 năm 2024": "2024-12-05 ", "Thứ Ba, 5 tháng 3, 2024": "2024-03-05 ",
		"mardi 5 mars 2024": "2024-03-05 ", "mar. 5 mars 2024": "2024-03-05 ", "Dienstag, 5. März 2024": "2024-03-05 ", "terça-feira, 5 de março de 2024": "2024-03-05 ", "вторник, 5 марта 2024 г.": "2024-03-05 ",
		"2024年3月5日(火)": "2024-03-05 ", "2024年3月5日火曜日": "2024-03-05 ", "mar 5 mar 2024": "2024-03-05 ", "Tuesday the 5th of March, 2024": "2024-03-05 ",
		"5 mars 2024 à 14 h 30": "2024-03-05 14:30", "5 mars 2024 14h30": "2024-03-05 14:30", "31.12.2024 14 Uhr": "2024-12-31 14:00", "31.12.2024 14:30 Uhr": "2024-12-31 14:30", "samedi 1er juin 2024 à 9h": "2024-06-01 09:00",
		"5 March 2024 at 2 pm": "2024-03-05 14:00", "5 March 2024 2:30 p.m.": "2024-03-05 14:30", "5 March 2024 12 a.m.": "2024-03-05 00:00",
		"Tue, 05 Mar 2024 10:00:00 EST": "2024-03-05 10:00:00-18000", "05 Mar 2024 10:00 GMT": "2024-03-05 10:00+0", "2024-03-05 10:00 UTC": "2024-03-05 10:00+0",
		"2024-03-05 24:00": "2024-03-06 00:00", "2024-12-31T24:00:00": "2025-01-01 00:00:00",
		"Mittwoch, 5. März 2024": "", "2024年3月5日(水)": "", "5 apples 2024": "", "room 12 left": "", "2024-03-05 24:01": "", "9999-12-31 24:00": "", "5 mars 2024 à 25 h": "", "32nd of March 2024": "", "le la 5": "", "tháng 13 2024": "", "R 2024-03-05": "", "g 5 mars 2024": "", "5 marca 2024 r.": "2024-03-05 ",
	} {
		decision, err := column(datetext.Asked{}, value).Decide()
		if want == "" {
			assert.Error(t, err, value)
			continue
		}
		require.NoError(t, err, value)
		read, ok := decision.Reader.Read([]byte(value))
		require.True(t, ok, value)
		got := moment(read)
		if read.HasOffset {
			got += fmt.Sprintf("%+d", read.Offset)
		}
		assert.Equal(t, want, got, value)
	}
}

// What cannot be read is shown as it stands there, and why in the words of the date.
func TestWhyWordsAreNoDate(t *testing.T) {
	values := []string{"Dienstag, 5. März 2024", "Mittwoch, 6. März 2024", "Freitag, 6. März 2024", "Donnerstag, 31. Februar 2024", "irgendwann im März"}
	decision, err := column(datetext.Asked{}, values...).Decide()
	require.NoError(t, err)
	assert.Equal(t, 3, decision.Unread)
	assert.Equal(t, "Freitag, 6. März 2024", decision.Faults[0].Value)
	assert.Equal(t, "read as EEE d. MMMM yyyy, but 2024-03-06 is a Wednesday, not a Friday", decision.Reader.Why([]byte(values[2])))
	assert.Equal(t, "read as EEE dd. MMMM yyyy, but February 2024 has 29 days", decision.Reader.Why([]byte(values[3])))
	assert.Contains(t, decision.Reader.Why([]byte(values[4])), "is not a date in the format EEE d. MMMM yyyy")
}

// A pattern that is asked for reads the same words.
func TestWordsWithAPattern(t *testing.T) {
	pattern, err := datetext.Compile("d MMMM yyyy HH:mm")
	require.NoError(t, err)
	values := []string{"le 5 mars 2024 à 14 h 30", "6 mars 2024 15:00", "le 7 mars 2024"}
	decision, err := column(datetext.Asked{Pattern: pattern}, values...).Decide()
	require.NoError(t, err)
	assert.Equal(t, 1, decision.Unread)
	read, ok := decision.Reader.Read([]byte(values[0]))
	require.True(t, ok)
	assert.Equal(t, "2024-03-05 14:30", moment(read))
	hours, err := datetext.Compile("yyyy-MM-dd HH")
	require.NoError(t, err)
	read, ok = hours.Read([]byte("2024-03-05 14"))
	require.True(t, ok)
	assert.Equal(t, "2024-03-05 14:00", moment(read))
}

// Weekdays of every language are read, and refused on another day, unless their name means several days.
func TestWeekdaysOfAllLanguages(t *testing.T) {
	read, several := 0, 0
	for _, tag := range language.Tags() {
		names, err := language.Of(tag)
		require.NoError(t, err)
		for day := civil.Monday; day <= civil.Sunday; day++ {
			on := civil.MustOf(2024, civil.March, 3) + civil.Day(day) // the 4th is a Monday
			decision, err := column(datetext.Asked{}, names.Day(day)+", "+on.String()).Decide()
			if err != nil {
				continue
			}
			read++
			if _, ok := decision.Reader.Read([]byte(names.Day(day) + ", " + (on + 1).String())); ok {
				several++
			}
		}
	}
	all := 7 * len(language.Tags())
	assert.Greater(t, read*100, all*98, "%d of %d names", read, all)
	assert.Less(t, several*100, all, "%d names", several)
}
