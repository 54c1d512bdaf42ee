package dialect

import (
	"fmt"
	"strings"
	"unicode/utf8"
)

// mostName is how many bytes a name has at most: PostgreSQL cuts off what is behind them.
const mostName = 63

// FreeName returns a name that is short enough for every database, and not taken; names only differ if they do in lower case. It is the
// name itself if that is free and no longer.
func FreeName(name string, isTaken func(lower string) bool) string {
	free := cutName(name, mostName)
	for number := 2; isTaken(strings.ToLower(free)); number++ {
		end := fmt.Sprintf("_%d", number)
		free = cutName(name, mostName-len(end)) + end
	}
	return free
}

// cutName cuts a name between two characters.
func cutName(name string, most int) string {
	if len(name) <= most {
		return name
	}
	for most > 0 && !utf8.RuneStart(name[most]) {
		most--
	}
	return name[:most]
}
