package loading

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strings"

	"roundyear/fault"
	"roundyear/internal/database"
	"roundyear/internal/dialect"
	"roundyear/rows"
)

// there are the rows of a table that is there.
type there struct {
	columns []madeColumn
	block   rows.Block
	print   fingerprint
	// at finds rows by their keys, and seen are those that are still wanted.
	at   map[string]int
	seen []bool
	// counts are how many rows there are of each hash, of a table without a key.
	counts map[uint64]int32
}

// blockSize is how many rows of a table that is there are decoded at once.
const blockSize = 4096

// readThere reads the rows of a table by the columns that it was published with. Rows of a table without a key are not kept.
func readThere(ctx context.Context, s database.Session, name string, made string) (*there, error) {
	t := &there{}
	if err := json.Unmarshal([]byte(made), &t.columns); err != nil {
		return nil, &fault.Fault{File: s.Name(), What: fmt.Sprintf("%s no longer tells how %s was published", StateTable, name), Remedy: "Publish with --force", Kind: fault.Malformed}
	}
	isKeyed := slices.ContainsFunc(t.columns, func(c madeColumn) bool { return c.IsKey })
	size := blockSize
	if isKeyed {
		size = math.MaxInt // rows that are found by their keys are kept, in one block
	} else {
		t.counts = map[uint64]int32{}
	}
	err := eachThere(ctx, s, name, t.columns, size, func(block rows.Block) {
		t.print.add(block)
		if t.block = block; isKeyed {
			return
		}
		for row := range block.Count {
			t.counts[hashOf(block, row)]++
		}
	})
	if err != nil {
		return nil, err
	}
	if isKeyed {
		t.seen, t.at = make([]bool, t.block.Count), make(map[string]int, t.block.Count)
		var places []int
		for i, c := range t.columns {
			if c.IsKey {
				places = append(places, i)
			}
		}
		for row := range t.block.Count {
			t.at[keyOf(t.block, row, places)] = row
		}
	}
	return t, nil
}

// eachThere gives the rows of a table in blocks of a size, the last of which may have none.
func eachThere(ctx context.Context, s database.Session, name string, made []madeColumn, size int, give func(rows.Block)) error {
	var columns []rows.Column
	var names []string
	for _, c := range made {
		columns, names = append(columns, c.column().Column), append(names, s.Dialect().Stored(c.Name))
	}
	block := rows.NewBlock(columns, blockSize, 0)
	err := s.Each(ctx, "SELECT "+strings.Join(names, ", ")+" FROM "+s.Dialect().Quote(name), func(values [][]byte) error {
		for i, value := range values {
			if value == nil {
				block.Vectors[i].AppendMissing()
			} else {
				database.AppendValue(&block.Vectors[i], value)
			}
		}
		if block.Count++; block.Count == size {
			give(block)
			block = rows.NewBlock(columns, blockSize, 0)
		}
		return nil
	})
	if err == nil {
		give(block)
	}
	return err
}

// keyOf is the key of a row as text.
func keyOf(block rows.Block, row int, places []int) string {
	var text []byte
	for _, place := range places {
		text = append(block.Vectors[place].AppendText(text, row), 0)
	}
	return string(text)
}

// Change is a row that differs.
type Change struct {
	Key string
	// Column is one whose value differs; empty for a row that is missing or too many.
	Column     string
	Is, Wanted string
}

// difference is how the rows of a table differ from those that are wanted.
type difference struct {
	// removals come before the other statements, those of tables that lean on others first.
	removals, statements    []string
	added, changed, removed int
	first                   []Change
	print                   fingerprint
	total                   int
	table                   *dialect.Table
	d                       *dialect.Dialect
	places                  []int // where columns of the table are among those that are there; -1 for new ones
	isKeyChanged            bool
}

// mostChanges is how many changes are told.
const mostChanges = 3

// compare finds how the rows of a table that is there differ from those that are wanted.
func compare(ctx context.Context, d *dialect.Dialect, t dialect.Filled, old *there) (*difference, error) {
	diff := &difference{table: t.Table, d: d}
	for _, c := range t.Columns {
		made := madeColumn{Name: c.Name, Type: c.Type, Scale: c.Scale, Wide: c.Wide}
		diff.places = append(diff.places, slices.IndexFunc(old.columns, func(o madeColumn) bool {
			return o.Name == made.Name && o.Type == made.Type && o.Scale == made.Scale && o.Wide == made.Wide
		}))
	}
	for _, place := range t.Key {
		diff.isKeyChanged = diff.isKeyChanged || diff.places[place] < 0
	}
	if diff.isKeyChanged {
		return diff, nil
	}
	var added []rows.Block
	err := t.Rows.Each(ctx, func(block rows.Block) ([]byte, error) {
		diff.print.add(block)
		return nil, nil
	}, func(block rows.Block, _ []byte) error {
		diff.total += block.Count
		missing := emptyOf(t.Table)
		for row := range block.Count {
			key := keyOf(block, row, t.Key)
			at, found := old.at[key]
			if !found {
				diff.added++
				diff.tell(Change{Key: shownKey(key), Wanted: "a row"})
				missing.AppendFrom(&block, row)
				continue
			}
			old.seen[at] = true
			diff.compareRow(block, row, old, at, key)
		}
		if missing.Count > 0 {
			added = append(added, missing)
		}
		return nil
	})
	if err != nil {
		return nil, err
	}
	diff.remove(old, t.Table)
	return diff, diff.insert(added)
}

// insert adds what inserts rows that are missing.
func (diff *difference) insert(blocks []rows.Block) error {
	inserts := diff.d.NewInserts(diff.table, diff.table.Name, func(statement []byte) error {
		diff.statements = append(diff.statements, string(statement))
		return nil
	})
	for _, block := range blocks {
		if err := inserts.Write(block); err != nil {
			return err
		}
	}
	return inserts.Flush()
}

// compareRow adds what changes a row that is there into the one that is wanted.
func (diff *difference) compareRow(block rows.Block, row int, old *there, at int, key string) {
	var places []int
	for i, place := range diff.places {
		var is *rows.Vector
		if place >= 0 {
			is = &old.block.Vectors[place]
		}
		wanted := &block.Vectors[i]
		if isSame(wanted, row, is, at) {
			continue
		}
		places = append(places, i)
		if place >= 0 {
			diff.tell(Change{Key: shownKey(key), Column: diff.table.Columns[i].Name, Is: shown(is, at), Wanted: shown(wanted, row)})
		}
	}
	if len(places) > 0 {
		diff.changed++
		diff.statements = append(diff.statements, diff.d.Update(diff.table, block, row, places))
	}
}

// remove adds what removes rows that are not wanted.
func (diff *difference) remove(old *there, t *dialect.Table) {
	own := emptyOf(t)
	for at, seen := range old.seen {
		if seen {
			continue
		}
		for _, place := range t.Key {
			own.Vectors[place].AppendFrom(&old.block.Vectors[diff.places[place]], at)
		}
		diff.removals = append(diff.removals, diff.d.Delete(t, own, own.Count))
		diff.tell(Change{Key: shownKey(keyOf(own, own.Count, t.Key)), Is: "a row"})
		own.Count++
		diff.removed++
	}
}

func (diff *difference) tell(c Change) {
	if len(diff.first) < mostChanges {
		diff.first = append(diff.first, c)
	}
}

func (diff *difference) count() int { return diff.added + diff.changed + diff.removed }

// emptyOf is a block of a table without rows.
func emptyOf(t *dialect.Table) rows.Block {
	var columns []rows.Column
	for _, c := range t.Columns {
		columns = append(columns, c.Column)
	}
	return rows.NewBlock(columns, 0, 0)
}

// isSame tells whether two values are the same; one of a column that is not there is missing.
func isSame(a *rows.Vector, row int, b *rows.Vector, at int) bool {
	isThere := b != nil && b.IsValid(at)
	switch {
	case a.IsValid(row) != isThere:
		return false
	case !isThere:
		return true
	case a.Type == rows.Text:
		return bytes.Equal(a.Text(row), b.Text(at))
	}
	return a.Int[row] == b.Int[at]
}

func shown(v *rows.Vector, row int) string {
	if !v.IsValid(row) {
		return "blank"
	}
	return string(v.AppendText(nil, row))
}

func shownKey(key string) string {
	return strings.Join(strings.Split(strings.TrimSuffix(key, "\x00"), "\x00"), ", ")
}
