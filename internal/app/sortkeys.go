package app

import (
	"slices"
	"strconv"
	"strings"

	"roundyear/rows"
)

// sortKeys are the numbers by which labels sort, where the facts have them in a column beside that of the labels, as band_sort beside band.
type sortKeys struct {
	// places are the columns of the numbers, by the groups; less than 0 for none.
	places []int
	fields rows.Fields
	labels rows.Fields
	// of are the numbers of labels by group; nil where a label has two.
	of []map[string]int
}

// sortSuffix stands behind the name of a label's sort key.
const sortSuffix = "_sort"

// findSortKeys finds the columns of the numbers.
func (f *Facts) findSortKeys() {
	f.sortKeys, f.hasSortKeys = nil, false
	for _, name := range f.Operation.SourceGroups() {
		place := -1
		if at := slices.Index(f.Source.Names(), name+sortSuffix); at >= 0 && !slices.Contains(f.Operation.Groups, name+sortSuffix) {
			place, f.hasSortKeys = at, true
		}
		f.sortKeys = append(f.sortKeys, place)
	}
}

func (f *Facts) newSortKeys() *sortKeys {
	if !f.hasSortKeys {
		return nil
	}
	k := &sortKeys{places: f.sortKeys}
	for range k.places {
		k.of = append(k.of, map[string]int{})
	}
	return k
}

// see takes in the rows of a block.
func (k *sortKeys) see(b *rows.Batch, groups []int, from, to int) {
	for i, place := range k.places {
		if place < 0 || k.of[i] == nil {
			continue
		}
		k.fields.Read(b, place, from, to)
		k.labels.Read(b, groups[i], from, to)
		for at, label := range k.labels.Texts {
			if _, isKnown := k.of[i][string(label)]; isKnown && at > 0 && string(label) == string(k.labels.Texts[at-1]) {
				continue
			}
			number, err := strconv.Atoi(strings.TrimSpace(string(k.fields.Texts[at])))
			if known, isKnown := k.of[i][string(label)]; err != nil && len(label) > 0 || isKnown && err == nil && known != number {
				k.of[i] = nil // it is no sort key
				break
			}
			if err == nil {
				k.of[i][string(label)] = number
			}
		}
	}
}

// join takes in what another worker has seen.
func (k *sortKeys) join(other *sortKeys) {
	for i := range k.of {
		if other.of[i] == nil {
			k.of[i] = nil
		}
		for label, number := range other.of[i] {
			if known, isKnown := k.of[i][label]; isKnown && known != number {
				k.of[i] = nil
			}
			if k.of[i] == nil {
				break
			}
			k.of[i][label] = number
		}
	}
}
