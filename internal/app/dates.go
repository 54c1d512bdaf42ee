package app

import (
	"context"
	"slices"

	"roundyear/internal/reading"
	"roundyear/rows"
)

// DateColumn settles which date of facts is read: a column by its name, or one that
// stands in three columns; without a name the only one that there is. The columns are
// empty for a date in three.
func DateColumn(ctx context.Context, source *rows.Source, column string, asked reading.Asked) ([]string, reading.Asked, error) {
	part := slices.IndexFunc(asked.Parts, func(p reading.Parts) bool { return p.Name == column })
	switch {
	case part >= 0:
		asked.Parts = asked.Parts[part : part+1]
		return nil, asked, nil
	case column != "":
		asked.Parts = nil
		return []string{column}, asked, nil
	case len(asked.Parts) > 0:
		asked.Parts = asked.Parts[:1]
		return nil, asked, nil
	}
	name, err := reading.OneDateColumn(ctx, source)
	return []string{name}, asked, err
}

// Dates decides how the date of facts is read.
func Dates(ctx context.Context, source *rows.Source, column string, asked reading.Asked) (*reading.Dates, error) {
	columns, asked, err := DateColumn(ctx, source, column, asked)
	if err != nil {
		return nil, err
	}
	dates, err := reading.Decide(ctx, source, columns, asked)
	if err != nil {
		return nil, err
	}
	return dates[0], nil
}

// DatesInOnePass decides how the date of facts is read while pass goes through all
// of them: it reads them by a guess from the first rows, and gathers the evidence that has
// to confirm it. Where it does not, or pass fails, pass is called again once all rows have
// decided. So what counts is the last call, in which the evidence may be nil. A date that
// cannot be read is an error.
func DatesInOnePass(ctx context.Context, source *rows.Source, column string, asked reading.Asked, pass func(*reading.Dates, *reading.Evidence) error) (*reading.Dates, error) {
	columns, asked, err := DateColumn(ctx, source, column, asked)
	if err != nil {
		return nil, err
	}
	evidence, err := reading.NewEvidence(source, columns, asked)
	if err != nil {
		return nil, err
	}
	if guess, err := reading.Guess(ctx, source, columns, asked); err == nil {
		err := pass(guess[0], evidence)
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		if err == nil {
			decided, err := evidence.Decide()
			switch {
			case err != nil || decided[0].Unread() > 0:
			case reading.SameReading(guess, decided):
				return decided[0], nil
			default:
				return decided[0], pass(decided[0], nil) // all rows have decided already
			}
		}
	}
	decided, err := reading.Decide(ctx, source, columns, asked)
	if err != nil {
		return nil, err
	}
	if err := decided[0].FirstUnread(); err != nil {
		return nil, err
	}
	return decided[0], pass(decided[0], nil)
}
