// Package nearest finds the name that somebody meant.
package nearest

import (
	"slices"
	"strings"

	"github.com/agnivade/levenshtein"
)

// maxLong is longer than any name that somebody could have mistyped.
const maxLong = 200

// Name returns the name that is most like the wanted one, or nothing when none
// is near enough to be a slip. Case, spaces and underscores do not count, but
// of two names that are equally near the one that has them alike is returned.
func Name(wanted string, names []string) string {
	if len(wanted) > maxLong {
		return "" // nobody means a name by that
	}
	nearest, least := "", [2]int{max(len(wanted)/3, 1) + 1, 0}
	for _, name := range slices.Sorted(slices.Values(names)) {
		if len(name) > maxLong {
			continue
		}
		distance := [2]int{distanceOf(Folded(wanted), Folded(name)), distanceOf(wanted, name)}
		if distance[0] < least[0] || distance[0] == least[0] && nearest != "" && distance[1] < least[1] {
			nearest, least = name, distance
		}
	}
	return nearest
}

// separators stand between the words of a name.
var separators = strings.NewReplacer(" ", "", "_", "", "-", "", ".", "")

// Folded returns a name without regard to case and to what stands between its words.
func Folded(name string) string { return separators.Replace(strings.ToLower(name)) }

// distanceOf is the edit distance, in which two neighbours that have changed places
// count as one slip.
func distanceOf(one, other string) int {
	if areSwapped([]rune(one), []rune(other)) {
		return 1
	}
	return levenshtein.ComputeDistance(one, other)
}

// areSwapped tells whether two texts differ in two neighbours that have changed places,
// and in nothing else.
func areSwapped(one, other []rune) bool {
	if len(one) != len(other) {
		return false
	}
	for i := range one {
		if one[i] != other[i] {
			return i+1 < len(one) && one[i] == other[i+1] && one[i+1] == other[i] && slices.Equal(one[i+2:], other[i+2:])
		}
	}
	return false
}
