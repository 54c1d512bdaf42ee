package cli

import (
	"context"

	"roundyear/calendar"
	"roundyear/cell"
	"roundyear/civil"
)

// writeRows writes the rows of days or periods and returns how many there are.
// Where all outputs are made of lines, days are worked on side by side.
func (t *dateTable) writeRows(ctx context.Context, sinks *sinks) (int, error) {
	if _, ok := sinks.lines(); ok && t.grain.Unit == calendar.Day {
		return t.count(), t.writeDays(ctx, sinks)
	}
	rows := t.catalogue.Days(t.attributes, t.From, t.To)
	if t.grain.Unit != calendar.Day {
		rows = t.catalogue.Periods(t.attributes, t.grain, t.From, t.To)
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

// writeDays writes days block by block.
func (t *dateTable) writeDays(ctx context.Context, sinks *sinks) error {
	return sinks.writeBlocks(ctx, int(t.To-t.From)+1, blockDays, func(from, to int, write func([]cell.Value, []bool)) {
		cursor := t.catalogue.Cursor(t.attributes)
		for day := t.From + civil.Day(from); day < t.From+civil.Day(to); day++ {
			write(cursor.MoveTo(day), cursor.Changed())
		}
	})
}
