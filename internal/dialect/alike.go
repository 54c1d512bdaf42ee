package dialect

import (
	"slices"

	"roundyear/rows"
)

// mostAlike is the most rows of one statement that removes rows: the database looks at all rows of the table for it.
const mostAlike = 5000

// DeleteAlike calls give with the statements that remove all rows of a table that have the values of a row of a block, blanks among them.
// Give must not keep a statement.
func (d *Dialect) DeleteAlike(t *Table, block rows.Block, give func(statement []byte) error) error {
	// Rows with blanks in the same columns go together, since a blank equals nothing.
	var patterns []string
	of := map[string][]int{}
	for row := range block.Count {
		pattern := blanksOf(block, row)
		if of[pattern] == nil {
			patterns = append(patterns, pattern)
		}
		of[pattern] = append(of[pattern], row)
	}
	for _, pattern := range patterns {
		if err := d.deleteAlike(t, block, pattern, of[pattern], give); err != nil {
			return err
		}
	}
	return nil
}

// blanksOf says which values of a row are blank: a letter for each column.
func blanksOf(block rows.Block, row int) string {
	pattern := slices.Repeat([]byte{'v'}, len(block.Vectors))
	for i := range block.Vectors {
		if !block.Vectors[i].IsValid(row) {
			pattern[i] = 'b'
		}
	}
	return string(pattern)
}

// deleteAlike removes the rows that have values of some rows of a block, which are blank in the same columns.
func (d *Dialect) deleteAlike(t *Table, block rows.Block, pattern string, of []int, give func(statement []byte) error) error {
	head := []byte("DELETE FROM " + d.quote(t.Name) + " WHERE ")
	var compared []byte
	var places []int
	for i, c := range t.Columns {
		name := d.quote(c.Name)
		if pattern[i] == 'b' {
			head = append(append(head, name...), " IS NULL AND "...)
			continue
		}
		if c.Type == rows.Text {
			name = d.bytewise(name)
		}
		if places = append(places, i); len(places) > 1 {
			compared = append(compared, ", "...)
		}
		compared = append(compared, name...)
	}
	if len(places) == 0 {
		return give(head[:len(head)-len(" AND ")])
	}
	head = append(append(append(head, '('), compared...), ") IN ("...)
	head = append(head, d.listed...)
	text, count := slices.Clone(head), 0
	for n, row := range of {
		if count++; count > 1 {
			text = append(text, ',')
		}
		text = append(text, "\n  ("...)
		for i, place := range places {
			if i > 0 {
				text = append(text, ", "...)
			}
			text = d.appendValue(text, &t.Columns[place], &block.Vectors[place], row)
		}
		text = append(text, ')')
		if n < len(of)-1 && count < mostAlike && len(text) < mostBytes {
			continue
		}
		if err := give(append(text, ')')); err != nil {
			return err
		}
		text, count = append(text[:0], head...), 0
	}
	return nil
}
