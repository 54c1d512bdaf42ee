package app

import (
	"bytes"
	"context"
	"encoding/binary"
	"fmt"
	"hash/maphash"
	"slices"
	"strings"

	"roundyear/fault"
	"roundyear/internal/normalise"
	"roundyear/rows"
)

// repeats finds the rows whose key, the values of some columns, an earlier row has. Memory grows by eight bytes for each row: first
// hashes of the keys are compared, and the keys of those only that come twice.
func repeats(ctx context.Context, source *rows.Source, columns []int) (normalise.Repeats, error) {
	seed := maphash.MakeSeed()
	narrowed := source.Narrowed(columns...)
	narrowed.KeepsRagged = true
	var all []uint64
	err := eachKey(ctx, narrowed, columns, func(key []byte) bool { return true }, func(keys []keyed) {
		for _, one := range keys {
			all = append(all, maphash.Bytes(seed, one.key))
		}
	})
	if err != nil {
		return nil, err
	}
	slices.Sort(all)
	twice := map[uint64]bool{}
	for i := 1; i < len(all); i++ {
		if all[i] == all[i-1] {
			twice[all[i]] = true
		}
	}
	if len(twice) == 0 {
		return nil, nil
	}
	found, firsts := normalise.Repeats{}, map[string]normalise.Earlier{}
	err = eachKey(ctx, narrowed, columns, func(key []byte) bool { return twice[maphash.Bytes(seed, key)] }, func(keys []keyed) {
		for _, one := range keys {
			first, isRepeated := firsts[string(one.key)]
			if !isRepeated {
				firsts[string(one.key)] = normalise.Earlier{Part: one.part, Line: one.line}
				continue
			}
			if found[one.part] == nil {
				found[one.part] = map[int]normalise.Earlier{}
			}
			found[one.part][one.line] = first
		}
	})
	return found, err
}

// keyed is the key of a row.
type keyed struct {
	part *rows.Part
	line int
	key  []byte
}

// eachKey calls give with the keys of all rows that are wanted, in their order. Ragged rows have none, nor have rows in which all of the
// columns are blank.
func eachKey(ctx context.Context, source *rows.Source, columns []int, wanted func(key []byte) bool, give func([]keyed)) error {
	work := func() func(*rows.Batch) ([]keyed, error) {
		return func(b *rows.Batch) (keys []keyed, _ error) {
			var row rows.Row
			var memory []byte
			for b.Next(&row) {
				if row.Ragged() > 0 {
					continue
				}
				start, isBlank := len(memory), true
				for _, place := range columns {
					value := bytes.TrimSpace(row.Field(place))
					isBlank = isBlank && len(value) == 0
					memory = append(binary.AppendUvarint(memory, uint64(len(value))), value...)
				}
				if key := memory[start:]; !isBlank && wanted(key) {
					keys = append(keys, keyed{row.Part(), row.Line, key[:len(key):len(key)]})
				} else {
					memory = memory[:start]
				}
			}
			return keys, b.Err()
		}
	}
	return rows.Process(ctx, source, work, func(keys []keyed) error {
		give(keys)
		return nil
	})
}

// findRepeats finds rows that repeat the key of an earlier one. They are a fault where rejected rows have nowhere to go.
func (n *Normalise) findRepeats(ctx context.Context) (err error) {
	if len(n.Distinct) == 0 {
		return nil
	}
	var places []int
	for _, name := range n.Distinct {
		place, err := n.Source.Find(name)
		if err != nil {
			return err
		}
		places = append(places, place)
	}
	n.Options.Key = places
	if n.Options.Repeats, err = repeats(ctx, n.Source, places); err != nil || n.Rejects != "" {
		return err
	}
	for _, part := range n.Source.Parts {
		lines := n.Options.Repeats[part]
		if len(lines) == 0 {
			continue
		}
		first := 0
		for line := range lines {
			if first == 0 || line < first {
				first = line
			}
		}
		return &fault.Fault{File: part.Name, Line: first, Column: strings.Join(n.Distinct, ", "), What: fmt.Sprintf("%s; nothing was written", lines[first].Reason(part)),
			Remedy: "Name a file for such rows with --rejects FILE, or write to a file with -o"}
	}
	return nil
}
