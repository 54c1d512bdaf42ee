package app

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"roundyear/datetext"
	"roundyear/facts"
	"roundyear/internal/inside"
	"roundyear/internal/reading"
	"roundyear/rows"
	"roundyear/survey"
)

// Place says where facts are added up.
type Place uint8

// Facts are added up inside the database that has them if that is large, or here, or there in any case.
const (
	AnyPlace Place = iota
	Inside
	Local
)

// InsideFrom is the size in bytes of a table from which facts are added up inside the database, unless the call says where.
const InsideFrom = 64 << 20

// NotInside is the error for an operation that was asked for inside a database, and that this cannot carry out with the same answer.
type NotInside struct{ Why string }

// Error says why.
func (n *NotInside) Error() string { return n.Why }

// insideTally adds facts up inside their database. It is nothing where they are added up here.
func (f *Facts) insideTally(ctx context.Context) (*Tallied, error) {
	if f.Place == Local {
		return nil, nil
	}
	part := f.Source.Parts[0]
	of, isTable := part.Decoder.(inside.Table)
	var err error
	switch {
	case !isTable:
		err = &inside.Refusal{Why: "the facts are not a plain table or query of a database"}
	case f.Place == AnyPlace && part.Size < InsideFrom:
		return nil, nil
	case len(f.Source.Parts) > 1:
		err = &inside.Refusal{Why: "several tables are read together"}
	case len(f.Source.BlankAs) > 0 || len(f.Asked.Placeholders) > 0:
		err = &inside.Refusal{Why: "values that stand for blanks are recognised locally"}
	case len(f.Decimals) > 0 || f.Minus != "":
		err = &inside.Refusal{Why: "how numbers are written is decided locally"}
	}
	var whole *Tallied
	if err == nil {
		whole, err = f.tallyInside(ctx, of)
	}
	var refusal *inside.Refusal
	switch {
	case errors.As(err, &refusal) && f.Place == Inside:
		return nil, &NotInside{refusal.Why}
	case errors.Is(err, inside.ErrUnread) && f.Place == Inside:
		return nil, &NotInside{"it holds a value that is only read locally"}
	case errors.As(err, &refusal), errors.Is(err, inside.ErrUnread):
		return nil, nil // which also says where a value stands that cannot be read
	}
	return whole, err
}

// tallyInside makes the statement, carries it out and takes in what it gives.
func (f *Facts) tallyInside(ctx context.Context, of inside.Table) (*Tallied, error) {
	columns, asked, err := DateColumn(ctx, f.Source, f.Operation.Date, f.Asked)
	if err != nil {
		return nil, err
	}
	if len(columns) != 1 || len(asked.Patterns) > 0 || asked.OrderPer != "" || slices.ContainsFunc(columns, func(name string) bool { return asked.Columns[name] != reading.ColumnAsked{} }) {
		return nil, &inside.Refusal{Why: "how dates are written is decided locally"}
	}
	guess, err := reading.Guess(ctx, f.Source, columns, asked)
	if err != nil {
		return nil, &inside.Refusal{Why: "how dates are written is decided locally"}
	}
	request := &inside.Request{Table: of, Columns: f.Source.Columns(), Operation: &f.Operation, Date: guess[0].Columns[0], Groups: f.groups, Measures: f.measures, Where: f.filter.columns}
	statement, err := inside.Build(ctx, request)
	if err != nil {
		return nil, err
	}
	if f.Told != nil {
		if err := f.Told(statement.SQL); err != nil {
			return nil, err
		}
	}
	whole := &Tallied{Tally: facts.NewTally(f.Operation), filter: f.filter.clone(), days: survey.New(), points: map[*rows.Part][]pointSeen{}, Dates: guess[0], IsInside: true}
	whole.Enter(0)
	err = statement.Run(ctx, func(row *inside.Row) {
		for i, which := range row.Seen {
			if which >= 0 {
				whole.filter.seen[i][which] = true
			}
		}
		if !row.IsKept {
			whole.Filtered += row.Rows
			return
		}
		whole.AddAggregate(&row.Aggregate)
		if !row.IsUndated && f.Operation.Includes(row.Day) {
			for range row.Rows {
				whole.days.Add(datetext.Moment{Day: row.Day})
			}
		}
		f.Many.see(whole.GroupCount())
	})
	if err != nil {
		return nil, err
	}
	whole.Unmatched, err = whole.filter.unmatched(ctx, f.Source)
	return whole, err
}

// ErrOnlyTold is the error that ends what was to be told and not done.
var ErrOnlyTold = errors.New("only the statement was asked for")

// String returns the name of a place.
func (p Place) String() string { return [...]string{"any", "inside", "local"}[p] }

// ParsePlace reads where facts are added up. The error lists the names.
func ParsePlace(text string) (Place, error) {
	for _, place := range []Place{Inside, Local} {
		if text == place.String() {
			return place, nil
		}
	}
	if text == "" {
		return AnyPlace, nil
	}
	return 0, fmt.Errorf("must be inside or local, not %q", text)
}
