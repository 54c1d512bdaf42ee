package cli_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// Labels that sort as text in another order than their periods are told, with what mends it.
func TestLabelsThatSortOtherwiseAreTold(t *testing.T) {
	folder := folderWith(t, map[string]string{
		"plain.yaml":  "roundyear: 1\ncalendars:\n  fiscal: {months: {starts: april}, month_label: \"P{period}\"}\n",
		"padded.yaml": "roundyear: 1\ncalendars:\n  fiscal: {months: {starts: april}, month_label: \"P{period:02}\"}\n",
		"both.yaml":   "roundyear: 1\ndays_off:\n  - {name: Fair, when: {month: june, day: 24}, observe: both}\n",
	})
	assert.Contains(t, done(t, folder, "plan", "check", "plain.yaml", "--as-of", "2026-05-01").err, "note: labels of fiscal.month sort as text with FY2027 P10 before FY2027 P9; with two digits, such as {period:02}, they sort right everywhere\n")
	assert.NotContains(t, done(t, folder, "plan", "check", "padded.yaml", "--as-of", "2026-05-01").err, "sort as text")
	both := run(t, folder, "plan", "check", "both.yaml")
	assert.Equal(t, 2, both.code)
	assert.Contains(t, both.err, "both.yaml, line 3, column 57: Fair has observe: both, and nothing that moves it. Add the move, such as move: [{from: saturday, by: 2}], or remove observe: both")
}
