package app

import (
	"context"
	"errors"

	"roundyear/internal/reading"
	"roundyear/rows"
)

// datesTogether is DatesInOnePass for several date columns of the same facts.
func datesTogether(ctx context.Context, source *rows.Source, columns []string, asked reading.Asked, pass func([]*reading.Dates, []*reading.Evidence) error) ([]*reading.Dates, error) {
	names, askedOf := make([][]string, len(columns)), make([]reading.Asked, len(columns))
	evidence, guesses := make([]*reading.Evidence, len(columns)), make([]*reading.Dates, len(columns))
	isGuessed := true
	for i, column := range columns {
		var err error
		if names[i], askedOf[i], err = DateColumn(ctx, source, column, asked); err != nil {
			return nil, err
		}
		if evidence[i], err = reading.NewEvidence(source, names[i], askedOf[i]); err != nil {
			return nil, err
		}
		guess, err := reading.Guess(ctx, source, names[i], askedOf[i])
		if isGuessed = isGuessed && err == nil; isGuessed {
			guesses[i] = guess[0]
		}
	}
	if isGuessed {
		err := pass(guesses, evidence)
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		if err == nil {
			decided, isSame, err := decideTogether(evidence, guesses)
			switch {
			case err != nil:
			case isSame:
				return decided, nil
			default:
				return decided, pass(decided, nil)
			}
		}
	}
	decided := make([]*reading.Dates, len(columns))
	for i := range columns {
		own, err := reading.Decide(ctx, source, names[i], askedOf[i])
		if err != nil {
			return nil, err
		}
		if decided[i] = own[0]; own[0].Unread() > 0 {
			return nil, own[0].FirstUnread()
		}
	}
	return decided, pass(decided, nil)
}

// decideTogether decides by the evidence of all rows, and tells whether that confirms the guesses.
func decideTogether(evidence []*reading.Evidence, guesses []*reading.Dates) (decided []*reading.Dates, isSame bool, err error) {
	isSame = true
	for i := range evidence {
		own, err := evidence[i].Decide()
		if err != nil {
			return nil, false, err
		}
		if own[0].Unread() > 0 {
			return nil, false, errUnread
		}
		decided = append(decided, own[0])
		isSame = isSame && reading.SameReading(guesses[i:i+1], own)
	}
	return decided, isSame, nil
}

// errUnread is a date that cannot be read.
var errUnread = errors.New("a date cannot be read")
