// Package nearest finds the name that somebody meant.
package nearest

import (
	"slices"
	"strings"

	"github.com/agnivade/levenshtein"
)

// Name returns the name that is most like the wanted one, or nothing when none
// is near enough to be a slip. Case, spaces and underscores do not count.
func Name(wanted string, names []string) string {
	nearest, least := "", max(len(wanted)/3, 1)+1
	for _, name := range slices.Sorted(slices.Values(names)) {
		if distance := levenshtein.ComputeDistance(folded(wanted), folded(name)); distance < least {
			nearest, least = name, distance
		}
	}
	return nearest
}

func folded(name string) string {
	return strings.NewReplacer(" ", "", "_", "").Replace(strings.ToLower(name))
}
