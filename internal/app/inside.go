package app

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"roundyear/datetext"
	"roundyear/facts"
	"roundyear/fault"
	"roundyear/internal/database"
	"roundyear/internal/inside"
	"roundyear/internal/reading"
	"roundyear/numbertext"
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

// OnDatabase says where facts of a database are added up. Told, if it is there, gets the statement that adds them up inside; with an error,
// such as ErrOnlyTold, that is all.
type OnDatabase struct {
	Place Place
	Told  func(statement string) error
}

// tell tells the statement, if that is asked for.
func (o *OnDatabase) tell(statement *inside.Statement) error {
	if o.Told == nil {
		return nil
	}
	return o.Told(statement.SQL)
}

// InsideFrom is the size in bytes of a table from which facts are added up inside the database, unless the call says where.
const InsideFrom = 64 << 20

// NotInside is the error for an operation that was asked for inside a database, and that this cannot carry out with the same answer.
type NotInside struct{ Why string }

// Error says why.
func (n *NotInside) Error() string { return n.Why }

// insideOf returns the table of a database that facts are added up in; nothing where they are added up here. The error is a NotInside if they
// were to be added up there.
func insideOf(place Place, source *rows.Source, asked reading.Asked, decimals map[string]numbertext.Mark, minus string) (inside.Table, error) {
	if place == Local {
		return nil, nil
	}
	part := source.Parts[0]
	of, isTable := part.Decoder.(inside.Table)
	var why string
	switch {
	case !isTable:
		why = "the facts are not a plain table or query of a database"
	case place == AnyPlace && part.Size < InsideFrom:
		return nil, nil
	case len(source.Parts) > 1:
		why = "several tables are read together"
	case len(source.BlankAs) > 0 || len(asked.Placeholders) > 0:
		why = "values that stand for blanks are recognised locally"
	case len(decimals) > 0 || minus != "":
		why = "how numbers are written is decided locally"
	default:
		return of, nil
	}
	if place == Inside {
		return nil, &NotInside{why}
	}
	return nil, nil
}

// notInside says what becomes of an error of a statement: nothing where the facts are added up here instead.
func notInside(place Place, err error) error {
	var refusal *inside.Refusal
	if errors.Is(err, database.ErrNoTemporary) {
		err = &inside.Refusal{Why: "the user may not create temporary tables"}
	}
	switch {
	case errors.As(err, &refusal) && place == Inside:
		return &NotInside{refusal.Why}
	case errors.Is(err, inside.ErrUnread) && place == Inside:
		return &NotInside{"it holds a value that is only read locally"}
	case errors.Is(err, inside.ErrChanged) && place == Inside:
		return &NotInside{"its rows have changed meanwhile"}
	case errors.As(err, &refusal), errors.Is(err, inside.ErrUnread), errors.Is(err, inside.ErrChanged):
		return nil // which also says where a value stands that cannot be read
	}
	return err
}

// decidedInside returns how dates are read whose columns a database understands by itself.
func decidedInside(ctx context.Context, source *rows.Source, columns []string, asked reading.Asked) ([]*reading.Dates, error) {
	if len(columns) == 0 || len(asked.Parts) > 0 || asked.OrderPer != "" {
		return nil, &inside.Refusal{Why: "how dates are written is decided locally"}
	}
	for _, name := range columns {
		if _, err := source.Find(name); err != nil {
			return nil, err
		}
	}
	guess, err := reading.Guess(ctx, source, columns, asked)
	var problem *fault.Fault
	if errors.As(err, &problem) && problem.Kind == fault.Unusable {
		return nil, err
	}
	if err != nil {
		return nil, &inside.Refusal{Why: "how dates are written is decided locally"}
	}
	return guess, nil
}

// isOrderAsked tells whether the call or the plan says the order of day and month in each of some columns.
func isOrderAsked(asked reading.Asked, columns ...string) bool {
	return asked.Order != datetext.Unsettled || !slices.ContainsFunc(columns, func(name string) bool {
		return asked.Columns[name].Order == datetext.Unsettled && asked.Patterns[name] == ""
	})
}

// patternsOf returns the patterns of dates that are text, where each has only one and it is of days.
func patternsOf(dates []*reading.Dates) []string {
	var patterns []string
	for _, one := range dates {
		pattern := ""
		if len(one.Files) == 1 && one.Files[0].Decision != nil && len(one.Files[0].Decision.Patterns) == 1 && one.Files[0].Decision.Patterns[0].Grain == "day" {
			pattern = one.Files[0].Decision.Patterns[0].Pattern
		}
		patterns = append(patterns, pattern)
	}
	return patterns
}

// insideTally adds facts up inside their database. It is nothing where they are added up here.
func (f *Facts) insideTally(ctx context.Context) (*Tallied, error) {
	of, err := insideOf(f.Place, f.Source, f.Asked, f.Decimals, f.Minus)
	if of == nil || err != nil {
		return nil, err
	}
	whole, err := f.tallyInside(ctx, of)
	if err != nil {
		return nil, notInside(f.Place, err)
	}
	return whole, nil
}

// tallyInside makes the statement, carries it out and takes in what it gives.
func (f *Facts) tallyInside(ctx context.Context, of inside.Table) (*Tallied, error) {
	columns, asked, err := DateColumn(ctx, f.Source, f.Operation.Date, f.Asked)
	if err != nil {
		return nil, err
	}
	dates, err := decidedInside(ctx, f.Source, columns, asked)
	if err != nil {
		return nil, err
	}
	o := &f.Operation
	if f.hasSortKeys {
		return nil, &inside.Refusal{Why: "labels sort by a column beside them, which is read row by row"}
	}
	if f.filter.readsDays() {
		return nil, &inside.Refusal{Why: conditionsOnText}
	}
	request := &inside.Request{Table: of, Columns: f.Source.Columns(), Dates: dates[0].Columns, Clock: o.Clock, Groups: f.groups, Measures: o.Measures, MeasureColumns: f.measures, Where: o.Where, WhereColumns: f.filter.columns, Patterns: patternsOf(dates[:1]), OrderIsAsked: isOrderAsked(asked, columns...), ByValue: f.Place == Inside}
	statement, err := inside.Build(ctx, request)
	if err != nil {
		return nil, err
	}
	if err := f.tell(statement); err != nil {
		return nil, err
	}
	whole := &Tallied{Tally: facts.NewTally(f.Operation), filter: f.filter.clone(), days: survey.New(), leftOut: newLeftOut(), points: map[*rows.Part][]pointSeen{}, Dates: dates[0], IsInside: true}
	whole.Enter(0)
	err = statement.Run(ctx, func(row *inside.Row) {
		whole.filter.note(row.Seen)
		if !row.IsKept {
			whole.Filtered += row.Rows
			if !row.IsBlank[0] && o.Includes(row.Days[0]) {
				for range row.Rows {
					whole.leftOut.add(row.Failed, row.Days[0])
				}
			}
			return
		}
		whole.AddAggregate(&facts.Aggregate{Day: row.Days[0], IsUndated: row.IsBlank[0], Groups: row.Groups, Rows: row.Rows, Measures: row.Measures})
		if !row.IsBlank[0] && o.Includes(row.Days[0]) {
			for range row.Rows {
				whole.days.Add(datetext.Moment{Day: row.Days[0]})
			}
		}
		f.Many.see(whole.GroupCount())
	})
	if err != nil {
		return nil, err
	}
	whole.reach()
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

// conditionsOnText is why conditions are not asked inside.
const conditionsOnText = "a condition on days is on dates that are text in another form"
