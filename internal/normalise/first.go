package normalise

import (
	"context"
	"math"
	"slices"

	"roundyear/internal/reading"
	"roundyear/rows"
)

// someRows is how many rows are looked at for the first ones with a date, before all of them are.
const someRows = 1000

// First returns the first rows with a date of a source of so many rows, as a report has them, where nobody else reads the rows.
func First(ctx context.Context, source *rows.Source, options Options, count int) ([][]string, error) {
	first, err := firstAmong(ctx, source, options, someRows)
	if err == nil && len(first) < maxFirst && count > someRows {
		first, err = firstAmong(ctx, source, options, math.MaxInt)
	}
	return first, err
}

func firstAmong(ctx context.Context, source *rows.Source, options Options, among int) (first [][]string, err error) {
	w := &worker{source: source, options: options, kept: options.keep(source)}
	w.start()
	for _, reader := range w.readers {
		reader.Enter(source.Parts[0])
	}
	err = source.Sample(ctx, among, func(row *rows.Row) {
		if len(first) == maxFirst {
			return
		}
		for i, reader := range w.readers {
			w.moments[i], w.states[i] = reader.Read(row)
		}
		if slices.Contains(w.states, reading.Read) {
			first = append(first, w.shown(row))
		}
	})
	return first, err
}
