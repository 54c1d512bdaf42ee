package normalise

import (
	"roundyear/datetext"
	"roundyear/internal/reading"
	"roundyear/rows"
)

// build appends a row to the columns of its block.
func (w *worker) build(b *batch, row *rows.Row) {
	for i := range w.readers {
		if w.states[i] == reading.Read {
			w.count(b, i)
		} else {
			b.report.Blanks[i]++
		}
	}
	block := &b.block
	if b.parts != nil {
		if block = &w.part(b).block; block.Vectors == nil {
			// Rows often come in the order of time, so that one part gets most of a batch.
			count, size := 0, 0
			if len(b.parts) == 1 {
				count, size = b.rows, b.size
			}
			*block = rows.NewBlock(w.columns, count, size)
		}
	}
	block.Count++
	column := 0
	for ; column < len(w.columns)-w.added; column++ {
		place := column
		if w.kept != nil {
			place = w.kept[column]
		}
		block.Vectors[column].AppendField(row, place)
	}
	added := block.Vectors[column:]
	for i := range w.readers {
		w.buildDate(added, i)
	}
	for i, number := range w.numbers {
		if v := &added[w.firstNumber+i]; len(number) > 0 {
			v.AppendBytes(number)
		} else {
			v.AppendMissing()
		}
	}
}

// buildDate appends what a date adds to its columns.
func (w *worker) buildDate(added []rows.Vector, i int) {
	at := w.places[i]
	if w.states[i] == reading.Blank {
		for _, column := range []int{at.date, at.time, at.business} {
			if column >= 0 {
				added[column].AppendMissing()
			}
		}
		if at.key >= 0 {
			added[at.key].AppendCell(w.blankKey)
		}
		if at.grain >= 0 {
			added[at.grain].AppendMissing()
		}
		w.days[i].blanks(func(column int, _ []byte) { added[column].AppendMissing() })
		return
	}
	give := func(column int, value int64) {
		if column >= 0 {
			added[column].Int = append(added[column].Int, value)
		}
	}
	moment := w.moments[i]
	counted := moment.Day
	if w.moves && w.countsBusiness(i) {
		counted = w.counted[i]
	}
	give(at.date, int64(moment.Day))
	switch {
	case at.time < 0:
	case moment.Clock == datetext.NoTime:
		added[at.time].AppendMissing()
	default:
		unit := unitOf(added[at.time].Scale)
		w.isTooFine = w.isTooFine || moment.Nanos%unit != 0
		give(at.time, moment.Nanos/unit)
	}
	give(at.business, int64(counted))
	give(at.key, int64(counted.Key()))
	if at.grain >= 0 {
		added[at.grain].AppendBytes([]byte(w.options.Dates[i].Grain()))
	}
	for column, value := range w.days[i].of(counted).cells {
		added[at.attributes+column].AppendCell(value)
	}
}

// unitOf returns the nanoseconds of a unit of times with so many decimals of seconds.
func unitOf(scale uint8) int64 {
	unit := int64(1e9)
	for range scale {
		unit /= 10
	}
	return unit
}
