package rows

import "fmt"

// Distinct gives each column a name of its own: the second of two has #2 behind
// it, and one without a name its place. Those that were given one are renamed.
func Distinct(names []string) (own, renamed []string) {
	taken := map[string]bool{}
	for _, name := range names {
		taken[name] = true
	}
	used := map[string]bool{}
	for i, name := range names {
		base := name
		if base == "" {
			base = fmt.Sprintf("column_%d", i+1)
			name = base
		}
		for count := 2; used[name] || name != names[i] && taken[name]; count++ {
			name = fmt.Sprintf("%s#%d", base, count)
		}
		used[name] = true
		if name != names[i] {
			renamed = append(renamed, name)
		}
		own = append(own, name)
	}
	return own, renamed
}
