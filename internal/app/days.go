package app

import (
	"context"

	"roundyear/civil"
	"roundyear/datetext"
	"roundyear/internal/reading"
	"roundyear/internal/table"
)

// Days asks for the days that the facts of a source count to.
type Days struct {
	Source *table.Source
	// Date is the column of the date, as for Facts; Asked what is said of it.
	Date  string
	Asked reading.Asked
	// Clock moves moments to the days that they count to.
	Clock reading.Clock
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
		work := func() func(*table.Chunk) (collected, error) {
			reader := dates.Reader()
			readers, moments, states := []*reading.Reader{reader}, make([]datetext.Moment, 1), make([]reading.State, 1)
			return func(chunk *table.Chunk) (collected, error) {
				reader.Enter(chunk.File)
				own := collected{part: newCollector()}
				if evidence != nil {
					own.observed = evidence.Part(chunk.File)
				}
				var record table.Record
				records := chunk.Records()
				for records.Next(&record) {
					if own.observed != nil {
						own.observed.ObserveAndRead(&record, readers, moments, states)
					} else {
						moments[0], states[0] = reader.Read(&record)
					}
					row := DatedRow{File: chunk.File.Name, Line: record.Line}
					switch states[0] {
					case reading.Unreadable:
						continue // the guess was wrong, or the run ends at this date
					case reading.Blank:
						row.Blank = true
					default:
						var zoned bool
						if row.Day, zoned = d.Clock.Day(moments[0]); !zoned {
							return own, reader.NoZone(&record, chunk.File)
						}
					}
					add(own.part, row)
				}
				return own, records.Err()
			}
		}
		return table.Process(ctx, d.Source, work, func(one collected) error {
			if one.observed != nil {
				evidence.Join(one.observed)
			}
			join(total, one.part)
			return nil
		})
	})
	return total, err
}
