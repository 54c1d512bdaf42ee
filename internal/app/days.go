package app

import (
	"context"

	"roundyear/civil"
	"roundyear/datetext"
	"roundyear/internal/reading"
	"roundyear/rows"
)

// Days asks for the days that the facts of a source count to.
type Days struct {
	Source *rows.Source
	// Date is the column of the date, as for Facts; Asked what is said of it.
	Date  string
	Asked reading.Asked
	// Clock moves moments to the days that they count to.
	Clock datetext.Clock
}

// DatedRow is a row with the day that it counts to; a Blank one has none.
type DatedRow struct {
	Day   civil.Day
	Blank bool
	File  string
	Line  int
}

// Collect reads all dates once and collects what is wanted of them, in collectors that are
// joined in the order of the rows. A date that cannot be read is an error.
func Collect[C any](ctx context.Context, d *Days, newCollector func() C, add func(C, DatedRow), join func(total, part C)) (C, error) {
	var total C
	_, err := DatesInOnePass(ctx, d.Source, d.Date, d.Asked, func(dates *reading.Dates, evidence *reading.Evidence) error {
		total = newCollector()
		type collected struct {
			part     C
			observed *reading.Part
		}
		work := func() func(*rows.Batch) (collected, error) {
			reader := dates.Reader()
			readers, moments, states := []*reading.Reader{reader}, make([]datetext.Moment, 1), make([]reading.State, 1)
			return func(batch *rows.Batch) (collected, error) {
				reader.Enter(batch.Part)
				own := collected{part: newCollector()}
				if evidence != nil {
					own.observed = evidence.Part(batch.Part)
				}
				var row rows.Row
				for batch.Next(&row) {
					if own.observed != nil {
						own.observed.ObserveAndRead(&row, readers, moments, states)
					} else {
						moments[0], states[0] = reader.Read(&row)
					}
					dated := DatedRow{File: batch.Part.Name, Line: row.Line}
					switch states[0] {
					case reading.Unreadable:
						continue // the guess was wrong, or the run ends at this date
					case reading.Blank:
						dated.Blank = true
					default:
						var zoned bool
						if dated.Day, zoned = d.Clock.Day(moments[0]); !zoned {
							return own, reader.NoZone(&row)
						}
					}
					add(own.part, dated)
				}
				return own, batch.Err()
			}
		}
		return rows.Process(ctx, d.Source, work, func(one collected) error {
			if one.observed != nil {
				evidence.Join(one.observed)
			}
			join(total, one.part)
			return nil
		})
	})
	return total, err
}
