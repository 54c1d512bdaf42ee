package app

import (
	"context"
	"fmt"
	"io"
	"slices"
	"strings"

	"roundyear/cell"
	"roundyear/civil"
	"roundyear/facts"
	"roundyear/fault"
	"roundyear/internal/extended"
	"roundyear/internal/reading"
	"roundyear/rows"
)

// FilledRows is rows that were kept, and rows that were made for missing periods behind them.
type FilledRows struct {
	Kept, Made int
}

// WriteFilled writes the rows of the facts that were added up as they are, and behind them a row for each period that has none, to each of
// some outputs. The rows that are made have the first day of their period and the values of their group.
func (f *Facts) WriteFilled(ctx context.Context, tally *Tallied, result *facts.Result, forms []*extended.Form, outs []io.Writer) (*FilledRows, error) {
	dates := tally.Dates
	if err := f.checkWritable(dates); err != nil {
		return nil, err
	}
	marks := result.Columns()[3+len(f.Operation.Groups):]
	var outputs []*extended.Output
	for i, form := range forms {
		form.Added = marks
		output, err := extended.Open(form, outs[i])
		if err != nil {
			return nil, err
		}
		outputs = append(outputs, output)
	}
	if err := f.writeKept(ctx, dates, result, outputs); err != nil {
		return nil, err
	}
	done := &FilledRows{Kept: outputs[0].Count}
	if err := f.writeMade(ctx, dates, result, outputs); err != nil {
		return nil, err
	}
	done.Made = outputs[0].Count - done.Kept
	for _, output := range outputs {
		if err := output.Close(); err != nil {
			return nil, err
		}
	}
	return done, nil
}

// checkWritable refuses a date column in which the days of rows that are made could not be read.
func (f *Facts) checkWritable(dates *reading.Dates) error {
	if len(dates.Columns) > 1 {
		return &fault.Fault{File: f.Source.Name(), What: fmt.Sprintf("the date %s is in several columns, so no rows can be added", dates.Name), Remedy: "Normalise the file first"}
	}
	if dates.Type.IsDate() {
		return nil
	}
	for _, found := range dates.Files {
		if found.Decision == nil {
			continue
		}
		for _, share := range found.Decision.Patterns {
			if pattern := share.Pattern; !strings.HasPrefix(pattern, "yyyy-MM-dd") {
				return &fault.Fault{File: found.File.Name, Column: dates.Name, What: fmt.Sprintf("has dates as %s; rows can only be added where dates are written as 2026-03-01", pattern),
					Remedy: "Normalise the file first, or add measures such as --count"}
			}
		}
	}
	return nil
}

// writeKept writes the rows that the operation includes.
func (f *Facts) writeKept(ctx context.Context, dates *reading.Dates, result *facts.Result, outputs []*extended.Output) error {
	marksOf := result.FactMarks()
	noDay := make([]cell.Value, len(result.Columns())-3-len(f.Operation.Groups))
	noDay[0] = cell.OfBool(false)
	work := func() func(*rows.Batch) ([]extended.Chunk, error) {
		var writers []*extended.Writer
		for _, output := range outputs {
			writers = append(writers, output.Writer())
		}
		kept, reader := f.filter.clone(), dates.Reader()
		return func(batch *rows.Batch) ([]extended.Chunk, error) {
			reader.Enter(batch.Part)
			var row rows.Row
			values := make([]string, len(f.groups))
			for batch.Next(&row) {
				if keep, err := kept.keeps(&row, f.formats[batch.Part]); err != nil {
					return nil, err
				} else if !keep {
					continue
				}
				marks := noDay
				if moment, state := reader.Read(&row); state == reading.Read {
					day, _ := f.Operation.Clock.Day(moment)
					if !f.Operation.Includes(day) {
						continue
					}
					for i, place := range f.groups {
						values[i] = string(row.Field(place))
					}
					marks = marksOf(day, values)
				}
				for _, writer := range writers {
					writer.Add(&row, marks)
				}
			}
			var chunks []extended.Chunk
			for _, writer := range writers {
				chunks = append(chunks, writer.Take())
			}
			return chunks, batch.Err()
		}
	}
	return rows.Process(ctx, f.Source, work, func(chunks []extended.Chunk) error {
		for i, chunk := range chunks {
			if err := outputs[i].Write(chunk); err != nil {
				return err
			}
		}
		return nil
	})
}

// madeRows is how many rows that are made are written at a time.
const madeRows = 8192

// writeMade writes a row for each period without facts.
func (f *Facts) writeMade(ctx context.Context, dates *reading.Dates, result *facts.Result, outputs []*extended.Output) error {
	var writers []*extended.Writer
	for _, output := range outputs {
		writers = append(writers, output.Writer())
	}
	flush := func() error {
		for i, writer := range writers {
			if err := outputs[i].Write(writer.Take()); err != nil {
				return err
			}
		}
		return ctx.Err()
	}
	values := make([]cell.Value, len(f.Source.Columns()))
	key := f.keyOf(dates)
	count, first := 0, 3+len(f.Operation.Groups)
	for row := range result.Rows() {
		if !row[first].Same(cell.OfBool(true)) {
			continue
		}
		values[dates.Columns[0]] = row[1]
		if key >= 0 {
			values[key] = cell.OfInteger(civil.Day(row[1].Int()).Key())
		}
		for i, place := range f.groups {
			values[place] = cell.OfText(row[3+i].String())
			if row[3+i].String() == "" {
				values[place] = cell.Blank
			}
		}
		for _, writer := range writers {
			writer.Make(values, row[first:])
		}
		if count++; count%madeRows == 0 {
			if err := flush(); err != nil {
				return err
			}
		}
	}
	return flush()
}

// keyOf returns the column of keys that normalise adds beside a column of days; -1 if there is none.
func (f *Facts) keyOf(dates *reading.Dates) int {
	for _, ending := range []string{"_business_date", "_date"} {
		if name, ok := strings.CutSuffix(dates.Name, ending); ok {
			return slices.Index(f.Source.Names(), name+"_key")
		}
	}
	return -1
}
