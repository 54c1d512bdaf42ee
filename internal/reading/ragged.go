package reading

import "roundyear/rows"

// Ragged is the rows with more or fewer fields than there are columns, which say nothing about
// dates: how many there are, and the first of them.
type Ragged struct {
	Count int
	// IsLong tells that one of them has more fields.
	IsLong bool
	First  []RaggedRow
}

// RaggedRow is where a ragged row stands, and how many fields it has.
type RaggedRow struct {
	File         string
	Line, Fields int
}

func (r *Ragged) add(row *rows.Row) {
	r.IsLong = r.IsLong || row.Ragged() > row.Part().OwnColumns()
	if r.Count++; len(r.First) < maxFaults {
		r.First = append(r.First, RaggedRow{row.Part().Name, row.Line, row.Ragged()})
	}
}

func (r *Ragged) join(other Ragged) {
	r.Count, r.IsLong = r.Count+other.Count, r.IsLong || other.IsLong
	r.First = append(r.First, other.First...)[:min(maxFaults, len(r.First)+len(other.First))]
}

// Ragged returns the ragged rows of all files, which a source that keeps them has.
func (e *Evidence) Ragged() Ragged {
	var all Ragged
	for _, file := range e.files {
		all.join(e.seen[file].ragged)
	}
	return all
}
