package cli

import (
	"context"
	"sync"

	"roundyear/calendar"
	"roundyear/civil"
	"roundyear/internal/table"
)

// writeRows writes the rows of days or periods and returns how many there are.
// Where all outputs are made of lines, days are worked on side by side.
func (t *dateTable) writeRows(ctx context.Context, sinks *sinks) (int, error) {
	if _, ok := sinks.lines(); ok && t.grain.Unit == calendar.Day {
		return t.count(), t.writeDays(ctx, sinks)
	}
	rows := t.catalogue.Days(t.attributes, t.from, t.to)
	if t.grain.Unit != calendar.Day {
		rows = t.catalogue.Periods(t.attributes, t.grain, t.from, t.to)
	}
	count := 0
	for row := range rows {
		if err := sinks.write(row); err != nil {
			return count, err
		}
		if ctx.Err() != nil {
			return count, ctx.Err()
		}
		count++
	}
	return count, nil
}

// blockDays is how many days are worked on as one. A block starts afresh, so
// it is long enough for that not to matter.
const blockDays = 1024

// blockText is the lines of a block, for each output.
type blockText struct{ texts [][]byte }

// writeDays writes days block by block.
func (t *dateTable) writeDays(ctx context.Context, sinks *sinks) error {
	produce := func(_ context.Context, give func(civil.Day) bool) error {
		for first := t.from; first <= t.to; first += blockDays {
			if !give(first) {
				break
			}
		}
		return nil
	}
	spare := sync.Pool{New: func() any { return &blockText{make([][]byte, len(sinks.formats))} }}
	work := func() func(civil.Day) (*blockText, error) {
		return func(first civil.Day) (*blockText, error) {
			lines, _ := sinks.lines()
			block := spare.Get().(*blockText)
			texts := block.texts
			for i := range texts {
				texts[i] = texts[i][:0]
			}
			cursor := t.catalogue.Cursor(t.attributes)
			for day := first; day <= min(first+blockDays-1, t.to); day++ {
				row := cursor.MoveTo(day)
				for i := range lines {
					texts[i] = lines[i].Append(texts[i], row, cursor.Changed())
				}
			}
			return block, nil
		}
	}
	return table.Ordered(ctx, produce, work, func(block *blockText) error {
		defer spare.Put(block)
		return sinks.writeText(block.texts)
	})
}
