// Package app is what the commands do, without flags, words and exit codes: a typed
// request in, a typed result out.
package app

import (
	"context"

	"roundyear/dimension"
	"roundyear/facts"
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
	var workers []*factsWorker
	work := func() func(*rows.Batch) (*reading.Part, error) {
		w := newFactsWorker(f, dates)
		workers = append(workers, w)
		return func(batch *rows.Batch) (observed *reading.Part, err error) {
			if evidence != nil {
				observed = evidence.Part(batch.Part)
			}
			if err := w.take(batch, observed); err != nil {
				return observed, err
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
	whole := workers[0].part
	for _, w := range workers[1:] {
		whole.Join(w.part.Tally)
		whole.days.Join(w.part.days)
		whole.Filtered += w.part.Filtered
		whole.filter.join(w.part.filter)
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
