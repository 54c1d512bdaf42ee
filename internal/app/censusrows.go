package app

import (
	"context"
	"io"

	"roundyear/cell"
	"roundyear/facts"
	"roundyear/internal/extended"
	"roundyear/internal/reading"
	"roundyear/rows"
)

// RowColumns are the columns behind those of a thing, in rows for each period.
var RowColumns = []cell.Column{{Name: "period"}, {Name: "period_start", Type: cell.Date}, {Name: "period_end", Type: cell.Date}, {Name: "status"}}

// chunkSize is about how many bytes of rows are made at a time.
const chunkSize = 4 << 20

// WriteRows writes a row for each thing and period in which it was open or closed, with its columns, the period and its status at the
// end of that. It reads all rows once more, by what is known of their dates, and returns how many rows were written. They never are in
// memory together.
func (c *Census) WriteRows(ctx context.Context, counted *Counted, forms []*extended.Form, outs []io.Writer) (int, error) {
	var outputs []*extended.Output
	for i, form := range forms {
		form.Added = RowColumns
		output, err := extended.Open(form, outs[i])
		if err != nil {
			return 0, err
		}
		outputs = append(outputs, output)
	}
	summary := counted.Summary()
	source := *c.Source
	source.BatchSize = min(max(chunkSize/(summary.Rows/summary.Spans+1), 1<<10), 1<<20)
	all := c.Dated
	all.Source, all.wholeRows = &source, true
	newWorker := func() datedWorker[[]extended.Chunk] {
		w := &rowsWorker{census: &c.Operation, periods: map[int][]cell.Value{}}
		for _, output := range outputs {
			w.writers = append(w.writers, output.Writer())
		}
		return w
	}
	err := eachOf(ctx, &all, counted.Dates, nil, newWorker, func(chunks []extended.Chunk) error {
		for i, chunk := range chunks {
			if err := outputs[i].Write(chunk); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return 0, err
	}
	for _, output := range outputs {
		if err := output.Close(); err != nil {
			return 0, err
		}
	}
	return outputs[0].Count, nil
}

// rowsWorker makes the rows of the things of blocks.
type rowsWorker struct {
	census  *facts.Census
	writers []*extended.Writer
	// periods are the values that a row has for a period, but for the status.
	periods map[int][]cell.Value
	row     rows.Row
	added   []cell.Value
}

func (w *rowsWorker) take(b *datedBlock) error {
	for _, row := range b.kept {
		opened, closed, hasClosed := b.day(0, row), b.day(1, row), b.states[1][row] == reading.Read
		if b.states[0][row] != reading.Read || hasClosed && closed < opened {
			continue
		}
		first, last, isGone, ok := w.census.Periods(opened, closed, hasClosed)
		if !ok {
			continue
		}
		b.batch.Row(b.from+row, &w.row)
		for number := first; number <= last; number++ {
			status := "open"
			switch {
			case number == last && isGone:
				status = "closed"
			case number == first:
				status = "opened"
			}
			if period, ok := w.valuesOf(number); ok {
				w.added = append(append(w.added[:0], period...), cell.OfText(status))
				for _, writer := range w.writers {
					writer.Add(&w.row, w.added)
				}
			}
		}
	}
	return nil
}

// valuesOf returns what a row has for a period; it is false for a period out of bounds.
func (w *rowsWorker) valuesOf(number int) ([]cell.Value, bool) {
	if values, ok := w.periods[number]; ok {
		return values, values != nil
	}
	period := w.census.Grain.At(number)
	var values []cell.Value
	if (w.census.From == nil || period.Last >= *w.census.From) && (w.census.To == nil || period.First <= *w.census.To) {
		values = []cell.Value{cell.OfText(w.census.Grain.Label(period)), cell.OfDay(period.First), cell.OfDay(period.Last)}
	}
	w.periods[number] = values
	return values, values != nil
}

func (w *rowsWorker) done() []extended.Chunk {
	var chunks []extended.Chunk
	for _, writer := range w.writers {
		chunks = append(chunks, writer.Take())
	}
	return chunks
}
