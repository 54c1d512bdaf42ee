// Package app is what the commands do, without flags, words and exit codes: a typed
// request in, a typed result out.
package app

import (
	"context"
	"errors"

	"roundyear/datetext"
	"roundyear/dimension"
	"roundyear/facts"
	"roundyear/fault"
	"roundyear/internal/reading"
	"roundyear/rows"
	"roundyear/survey"
)

// Facts asks for facts of a source to be added up.
type Facts struct {
	Source *rows.Source
	// Date is the column of the date, or the name of one in three columns; empty for the
	// only one that there is. Asked is what is said of how it is written.
	Date  string
	Asked reading.Asked
	// Clock moves moments to the days that they count to.
	Clock reading.Clock
	// Filter keeps the rows that count.
	Filter *Filter
	// Operation says what is added up; Groups and Measures are the columns of its groups
	// and measures, -1 for a measure that needs none.
	Operation        facts.Operation
	Groups, Measures []int
}

// Tallied is what came of reading the facts.
type Tallied struct {
	*facts.Tally
	// Dates says how their date was read.
	Dates *reading.Dates
	// Filtered counts the rows that do not meet the conditions.
	Filtered int
	// Unmatched says of each value that a condition asks for and no row has that there is
	// none.
	Unmatched []string

	filter *Filter
	days   *survey.Profile
}

// Tally reads all facts of the source once and adds them up; twice if the first rows do
// not tell how their date is read. A date or a value that cannot be read is an error.
func (f *Facts) Tally(ctx context.Context) (*Tallied, error) {
	var whole *Tallied
	dates, err := DatesInOnePass(ctx, f.Source, f.Date, f.Asked, func(dates *reading.Dates, evidence *reading.Evidence) (err error) {
		whole, err = f.tally(ctx, dates, evidence)
		return err
	})
	if err != nil {
		return nil, err
	}
	whole.Dates = dates
	whole.Unmatched, err = whole.filter.unmatched(ctx, f.Source)
	return whole, err
}

// tally reads all facts of a source, and gathers the evidence for how their dates are read
// on the way if that is asked for.
func (f *Facts) tally(ctx context.Context, dates *reading.Dates, evidence *reading.Evidence) (*Tallied, error) {
	var parts []*Tallied
	still := f.Clock.MovesNothing()
	work := func() func(*rows.Batch) (*reading.Part, error) {
		part := &Tallied{Tally: facts.NewTally(f.Operation), filter: f.Filter.clone(), days: survey.New()}
		parts = append(parts, part)
		reader := dates.Reader()
		groups, values := make([][]byte, len(f.Groups)), make([][]byte, len(f.Measures))
		readers, moments, states := []*reading.Reader{reader}, make([]datetext.Moment, 1), make([]reading.State, 1)
		return func(batch *rows.Batch) (observed *reading.Part, _ error) {
			reader.Enter(batch.Part)
			firstRow := int64(batch.Part.Index) << 40
			if evidence != nil {
				observed = evidence.Part(batch.Part)
			}
			var row rows.Row
			for batch.Next(&row) {
				if observed != nil {
					observed.ObserveAndRead(&row, readers, moments, states)
				}
				keep, err := part.filter.keeps(&row)
				if err != nil {
					return observed, err
				}
				if !keep {
					part.Filtered++
					continue
				}
				for i, column := range f.Groups {
					groups[i] = row.Field(column)
				}
				for i, column := range f.Measures {
					if column >= 0 {
						values[i] = row.Field(column)
					}
				}
				place := firstRow | int64(row.Line)
				moment, state := moments[0], states[0]
				if observed == nil {
					moment, state = reader.Read(&row)
				}
				switch state {
				case reading.Unreadable:
					// The guess was wrong, or the run ends at this date.
				case reading.Blank:
					err = part.AddUndated(place, values)
				default:
					day := moment.Day
					if !still {
						var zoned bool
						if moment, day, _, zoned = f.Clock.Move(moment); !zoned {
							return observed, reader.NoZone(&row)
						}
					}
					if f.Operation.Includes(day) {
						part.days.Add(datetext.Moment{Day: day})
					}
					err = part.Add(day, facts.Place{Day: moment.Day, Nanos: moment.Nanos, Row: place}, groups, values)
				}
				if err != nil {
					return observed, f.locate(err, batch.Part, row.Line)
				}
			}
			return observed, batch.Err()
		}
	}
	err := rows.Process(ctx, f.Source, work, func(observed *reading.Part) error {
		if observed != nil {
			evidence.Join(observed)
		}
		return nil
	})
	if err != nil {
		return nil, err
	}
	whole := parts[0]
	for _, part := range parts[1:] {
		whole.Join(part.Tally)
		whole.days.Join(part.days)
		whole.Filtered += part.Filtered
		whole.filter.join(part.filter)
	}
	return whole, nil
}

// ImplausibleDays returns the days that systems write for none, and those that are far outside
// all others.
func (t *Tallied) ImplausibleDays() (placeholders, far []dimension.DayCount) {
	summary, found := t.days.Summary()
	if !found {
		return nil, nil
	}
	return summary.Sentinels, summary.Suspicious
}

// locate says where a bad value of a measure stands.
func (f *Facts) locate(err error, part *rows.Part, line int) error {
	var bad *facts.BadValue
	if !errors.As(err, &bad) {
		return err
	}
	return &fault.Fault{File: part.Name, Line: line, Column: part.Columns[f.Measures[bad.Measure]].Name, What: bad.Error()}
}
