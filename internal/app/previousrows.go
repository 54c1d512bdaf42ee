package app

import (
	"cmp"
	"slices"

	"roundyear/civil"
	"roundyear/facts/lapse"
	"roundyear/rows"
)

// seenRows are the moments and groups of the rows of a batch.
type seenRows struct {
	batch batchPlace
	rows  []seenRow
	// names are the groups of the worker that has seen them, by their numbers.
	names *[]string
}

// seenRow is the moment of a row and the number of its group; noGroup for a row that does not count.
type seenRow struct {
	nanos int64
	day   civil.Day
	group int32
}

const noGroup = -1

// batchPlace is where a batch of rows begins.
type batchPlace struct {
	part *rows.Part
	line int
}

func placeOfBatch(b *datedBlock) batchPlace { return batchPlace{b.batch.Part, b.batch.LineOf(0)} }

// seeingWorker notes the moments and groups of rows.
type seeingWorker struct {
	lapse   *Lapse
	seen    seenRows
	numbers map[string]int32
	names   []string
	group   []byte
}

func (w *seeingWorker) take(b *datedBlock) error {
	if !w.lapse.FromPrevious {
		return nil
	}
	if w.seen.rows == nil {
		w.seen = seenRows{placeOfBatch(b), make([]seenRow, 0, b.batch.Len()), &w.names}
	}
	kept := 0
	for row := range b.moments[0] {
		// Rows that do not meet the conditions keep their places.
		isKept := kept < len(b.kept) && b.kept[kept] == row
		moment, isThere := b.moment(0, row, w.lapse.byClock())
		one := seenRow{moment.Nanos, moment.Day, noGroup}
		if isKept {
			kept++
		}
		if isKept && isThere {
			one.group = w.groupOf(b, row)
		}
		w.seen.rows = append(w.seen.rows, one)
	}
	return nil
}

func (w *seeingWorker) groupOf(b *datedBlock, row int) int32 {
	w.group = w.group[:0]
	for _, which := range w.lapse.groups {
		w.group = append(append(w.group, b.texts[which][row]...), 0)
	}
	number, ok := w.numbers[string(w.group)]
	if !ok {
		number = int32(len(w.names))
		w.names = append(w.names, string(w.group))
		w.numbers[w.names[number]] = number
	}
	return number
}

func (w *seeingWorker) done() seenRows {
	seen := w.seen
	w.seen = seenRows{}
	return seen
}

// previousRows knows of each row the moment of the one before it in its group, by date and then by place. For each row it keeps 16 bytes,
// and 40 more while they are found.
type previousRows struct {
	starts map[batchPlace]int
	// before are the moments; those of noMoment are none.
	before []lapse.Moment
}

// noMoment is no moment.
var noMoment = lapse.Moment{Day: civil.MinDay - 1}

// previousOf finds the rows before, of all rows in their order. What was seen is taken apart for it.
func previousOf(all []seenRows) *previousRows {
	type placed struct {
		nanos int64
		day   civil.Day
		group int32
		at    int32
	}
	p := &previousRows{starts: map[batchPlace]int{}}
	count := 0
	for _, seen := range all {
		p.starts[seen.batch] = count
		count += len(seen.rows)
	}
	numbers := map[string]int32{}
	ordered := make([]placed, 0, count)
	at := int32(0)
	for i, seen := range all {
		local := map[int32]int32{}
		for _, row := range seen.rows {
			if row.group != noGroup {
				number, ok := local[row.group]
				if !ok {
					name := (*seen.names)[row.group]
					if number, ok = numbers[name]; !ok {
						number = int32(len(numbers))
						numbers[name] = number
					}
					local[row.group] = number
				}
				ordered = append(ordered, placed{row.nanos, row.day, number, at})
			}
			at++
		}
		all[i].rows = nil
	}
	slices.SortFunc(ordered, func(a, b placed) int {
		switch {
		case a.group != b.group:
			return cmp.Compare(a.group, b.group)
		case a.day != b.day:
			return cmp.Compare(a.day, b.day)
		case a.nanos != b.nanos:
			return cmp.Compare(a.nanos, b.nanos)
		}
		return cmp.Compare(a.at, b.at)
	})
	p.before = make([]lapse.Moment, count)
	for i := range p.before {
		p.before[i] = noMoment
	}
	for i := 1; i < len(ordered); i++ {
		if before := ordered[i-1]; before.group == ordered[i].group {
			p.before[ordered[i].at] = lapse.Moment{Day: before.day, Nanos: before.nanos}
		}
	}
	return p
}

// previousOfBatch is previousRows for the rows of one batch.
type previousOfBatch struct {
	*previousRows
	start int
}

func (p *previousRows) of(b *datedBlock) previousOfBatch {
	if p == nil {
		return previousOfBatch{}
	}
	return previousOfBatch{p, p.starts[placeOfBatch(b)]}
}

// moment returns the moment of the row before a row of the batch; it is false if there is none.
func (p previousOfBatch) moment(row int) (lapse.Moment, bool) {
	before := p.before[p.start+row]
	return before, before.Day != noMoment.Day
}
