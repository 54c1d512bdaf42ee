package cli

import (
	"strings"

	"roundyear/calendar"
)

// grainWords returns a grain as it is said in a sentence: fiscal quarter, ISO week.
func grainWords(grain calendar.Grain) string {
	text := strings.ReplaceAll(grain.String(), ".", " ")
	if rest, found := strings.CutPrefix(text, "iso "); found {
		text = "ISO " + rest
	}
	if grain.Unit == calendar.Half {
		text += "-year"
	}
	return text
}
