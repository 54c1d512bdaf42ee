package cli

import (
	"context"

	"roundyear/calendar"
)

// writeRows writes the rows of days or periods and returns how many there are.
func (t *dateTable) writeRows(ctx context.Context, sinks *sinks) (int, error) {
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
