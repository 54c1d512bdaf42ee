package app

import (
	"context"

	"roundyear/datetext"
	"roundyear/internal/reading"
	"roundyear/rows"
	"roundyear/survey"
)

// inspection is what comes of reading all rows of a file.
type inspection struct {
	rows     int
	profiles []*survey.Profile
	// both counts the rows with dates in two columns, order those in which the
	// first is not after the second, and same those in which they are one day.
	both, order, same [maxPaired][maxPaired]int
}

// maxPaired is how many date columns are held against each other.
const maxPaired = 6

func newInspection(columns int) *inspection {
	l := &inspection{}
	for range columns {
		l.profiles = append(l.profiles, survey.New())
	}
	return l
}

// inspect reads the dates of all rows, and gathers evidence on the way if asked.
func inspect(ctx context.Context, source *rows.Source, dates []*reading.Dates, evidence *reading.Evidence) (*inspection, error) {
	var inspections []*inspection
	work := func() func(*rows.Batch) (*reading.Part, error) {
		own := newInspection(len(dates))
		inspections = append(inspections, own)
		var readers []*reading.Reader
		for _, d := range dates {
			readers = append(readers, d.Reader())
		}
		moments, states := make([]datetext.Moment, len(dates)), make([]reading.State, len(dates))
		return func(batch *rows.Batch) (*reading.Part, error) {
			for _, reader := range readers {
				reader.Enter(batch.Part)
			}
			var part *reading.Part
			if evidence != nil {
				part = evidence.Part(batch.Part)
			}
			var row rows.Row
			for batch.Next(&row) {
				if row.Ragged() > 0 {
					own.rows++
					if part != nil {
						part.Observe(&row)
					}
					continue
				}
				if part != nil {
					part.ObserveAndRead(&row, readers, moments, states)
				} else {
					for i, reader := range readers {
						moments[i], states[i] = reader.Read(&row)
					}
				}
				own.add(moments, states)
			}
			return part, batch.Err()
		}
	}
	err := rows.Process(ctx, source, work, func(part *reading.Part) error {
		if part != nil {
			evidence.Join(part)
		}
		return nil
	})
	if err != nil {
		return nil, err
	}
	for _, other := range inspections[1:] {
		inspections[0].join(other)
	}
	return inspections[0], nil
}

func (l *inspection) add(moments []datetext.Moment, states []reading.State) {
	l.rows++
	for i, state := range states {
		if state != reading.Read {
			continue
		}
		l.profiles[i].Add(moments[i])
		for j := 0; j < i && i < maxPaired; j++ {
			if states[j] == reading.Read {
				l.both[j][i]++
				if moments[j].Day <= moments[i].Day {
					l.order[j][i]++
				}
				if moments[j].Day == moments[i].Day {
					l.same[j][i]++
				}
			}
		}
	}
}

func (l *inspection) join(other *inspection) {
	l.rows += other.rows
	for i := range l.profiles {
		l.profiles[i].Join(other.profiles[i])
	}
	for i := range maxPaired {
		for j := range maxPaired {
			l.both[i][j] += other.both[i][j]
			l.order[i][j] += other.order[i][j]
			l.same[i][j] += other.same[i][j]
		}
	}
}

// pairs returns the columns of which the first is never after the second, and
// not always the same: the start and the end of something. Crossed are those of which
// a few rows say otherwise.
func (l *inspection) pairs(dates []*reading.Dates) (pairs [][2]string, crossed []CrossedPair) {
	for i := range min(len(dates), maxPaired) {
		for j := i + 1; j < min(len(dates), maxPaired); j++ {
			both, order, same := l.both[i][j], l.order[i][j], l.same[i][j]
			switch {
			case both == 0 || same == both:
			case order == both:
				pairs = append(pairs, [2]string{dates[i].Name, dates[j].Name})
			case order == same:
				pairs = append(pairs, [2]string{dates[j].Name, dates[i].Name})
			case isFew(both-order, both):
				crossed = append(crossed, CrossedPair{dates[i].Name, dates[j].Name, both - order, both})
			case isFew(order-same, both):
				crossed = append(crossed, CrossedPair{dates[j].Name, dates[i].Name, order - same, both})
			}
		}
	}
	return pairs, crossed
}

// isFew tells whether rows are so few of all that they are mistakes.
func isFew(rows, all int) bool { return all >= 10 && rows*20 <= all }
