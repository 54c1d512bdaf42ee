package language

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/civil"
)

func TestNames(t *testing.T) {
	for tag, want := range map[string][4]string{
		"en":      {"March", "Mar", "Monday", "Mon"},
		"en-IE":   {"March", "Mar", "Monday", "Mon"},
		"nl":      {"maart", "mrt", "maandag", "ma"},
		"de-AT":   {"März", "Mär", "Montag", "Mo"},
		"ru":      {"март", "март", "понедельник", "пн"},
		"pt_BR":   {"março", "mar.", "segunda-feira", "seg."},
		"vi":      {"Tháng 3", "Tháng 3", "Thứ Hai", "Thứ 2"},
		"zh-Hant": {"3月", "3月", "星期一", "週一"},
		"de-Latn": {"März", "Mär", "Montag", "Mo"},
	} {
		names, err := Of(tag)
		require.NoError(t, err, tag)
		assert.Equal(t, want, [4]string{names.Month(civil.March), names.MonthShort(civil.March), names.Day(civil.Monday), names.DayShort(civil.Monday)}, tag)
	}
	_, err := Of("klingon")
	assert.EqualError(t, err, `unknown language "klingon"; use a tag such as en, fr or pt-BR`)
	_, err = Of("")
	assert.Error(t, err)
}

// Every language has all names, and no two of its months or days have one.
func TestEveryLanguageIsWhole(t *testing.T) {
	assert.Greater(t, len(Tags()), 250)
	for _, tag := range Tags() {
		names, err := Of(tag)
		require.NoError(t, err)
		for width := range 2 {
			for _, list := range [][]string{names.months[width], names.dateMonths[width]} {
				assert.Len(t, list, 12, tag)
			}
			for _, list := range [][]string{names.days[width], names.inDate[width]} {
				assert.Len(t, list, 7, tag)
			}
		}
		for _, list := range [][]string{names.months[0], names.months[1], names.days[0], names.days[1]} {
			seen := map[string]bool{}
			for _, name := range list {
				assert.NotEmpty(t, name)
				seen[name] = true
			}
			assert.Len(t, seen, len(list), "%s %v", tag, list)
		}
	}
}

func TestPatterns(t *testing.T) {
	russian, err := Of("ru")
	require.NoError(t, err)
	on := civil.MustOf(2026, civil.March, 9)
	week := Week{2026, 11, 1}
	for pattern, want := range map[string]string{
		"dd/MM/yyyy":        "09/03/2026",
		"d.M.yy":            "9.3.26",
		"EEE d MMM y":       "Mon 9 Mar 2026",
		"EEEE, d MMMM yyyy": "Monday, 9 March 2026",
		"yyyy-DDD":          "2026-068",
		"'Q'Q yyyy":         "Q1 2026",
		"YYYY-'W'ww-e":      "2026-W11-1",
		"d 'o''clock' ''yy": "9 o'clock '26",
		"LLLL yyyy":         "March 2026",
		"yyyy年M月d日":         "2026年3月9日",
	} {
		p, err := ParsePattern(pattern)
		require.NoError(t, err, pattern)
		assert.Equal(t, want, string(p.Append(nil, on, English, week)), pattern)
		assert.Equal(t, pattern, p.String())
	}
	p, err := ParsePattern("d MMMM, LLLL, EEEE")
	require.NoError(t, err)
	assert.Equal(t, "9 марта, март, понедельник", string(p.Append(nil, on, russian, week)))
	assert.True(t, p.Fields("d"))
	assert.False(t, p.Fields("yw"))
	for pattern, fault := range map[string]string{
		"DD/MM/yyyy": `pattern "DD/MM/yyyy": DD is the day of the year; the day of the month is dd`,
		"dd/MM/YYYY": `pattern "dd/MM/YYYY": YYYY is the year of the week, which differs near New Year; the year is yyyy`,
		"dd/mm/yyyy": `pattern "dd/mm/yyyy": mm is minutes; the month is MM`,
		"dd 'of":     `pattern "dd 'of" has a ' that is not closed`,
		"--":         `pattern "--" contains no date field`,
		"":           `pattern "" contains no date field`,
		"HH":         `pattern "HH": HH is not supported; the letters are y, yy or yyyy, M or MM, MMM or MMMM, d or dd, EEE or EEEE, Q, D or DDD, and YYYY with w or ww and e`,
	} {
		_, err := ParsePattern(pattern)
		assert.EqualError(t, err, fault)
	}
}
