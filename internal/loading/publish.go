// Package loading publishes the tables and views of a model to a database: it makes what is not there, changes only what has changed, and
// leaves alone what somebody has altered by hand unless it is asked to mend that. Those who read see all as it was before, or as it is
// after.
package loading

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"roundyear/fault"
	"roundyear/internal/database"
	"roundyear/internal/dialect"
)

// Request is a model to publish.
type Request struct {
	Session database.Session
	// Name is that of the model.
	Name   string
	Model  *dialect.Model
	Joined []Joined
	// Force replaces what somebody else has made or altered.
	Force bool
	// Dry changes nothing, and returns the statements.
	Dry bool
}

// Kind is what became of a table or view.
type Kind uint8

// What becomes of tables and views.
const (
	Unchanged Kind = iota
	Created
	// Changed is a table of which rows were changed, in its place.
	Changed
	// Replaced is a table that was made anew, and Altered one whose columns were changed in its place.
	Replaced
	Altered
	// Edited is a table that somebody has altered, and that was left as it is.
	Edited
)

// Result is what became of a table or view.
type Result struct {
	Name   string
	IsView bool
	Kind   Kind
	// Rows is how many rows a table has, and the others how many of them changed.
	Rows, Added, Changed, Removed int
	// InPlace tells that all rows of a table are new, but not the table, and Lost lists what somebody had put on one that is.
	InPlace bool
	Lost    []string
	// Columns are those that are new or gone, with + or - before them.
	Columns []string
	// Edits are what somebody has altered, and IsCertain tells that all of it is by hand: what is wanted is what was published.
	Edits     []Change
	EditCount int
	IsCertain bool
	// EditedColumns say which columns somebody has changed.
	EditedColumns []string
}

// Outcome is what publishing has done, or would do.
type Outcome struct {
	Results    []Result
	Joined     []JoinResult
	Statements []string
	// Left are tables and views of the model that it no longer has; they stay.
	Left []string
}

// publishing is a model on its way.
type publishing struct {
	Request
	d        *dialect.Dialect
	way      database.Way
	states   []state
	hasState bool
	outcome  *Outcome
	steps    []*step
	renames  []database.Renamed
	// isReplacing tells that a table that was there is made anew, or that its columns change.
	isReplacing bool
	// restores bring views of other models back that had to go, and restoresOwn who may do what with those of the model.
	restores    []restored
	restoresOwn []string
}

// step is what is done to a table.
type step struct {
	dialect.Filled
	result *Result
	print  fingerprint
	diff   *difference
	// old is what is there.
	old *database.Found
	// made says what the table is made of.
	made string
	// isRefilled tells that all rows of the table are removed and written anew, in its place.
	isRefilled bool
	// isSame tells that the columns are those that are there.
	isSame bool
	// isAdopted tells that a script or another command has made the table, so that its state is still to be noted.
	isAdopted bool
	// grants give again who may do what with it.
	grants []string
	// drops and adds are columns that change in their place.
	drops []string
	adds  []dialect.Column
}

// Publish publishes a model.
func Publish(ctx context.Context, r Request) (_ *Outcome, err error) {
	p := &publishing{Request: r, d: r.Session.Dialect(), way: r.Session.Way(), outcome: &Outcome{}}
	if err := p.Session.Begin(ctx, r.Dry); err != nil {
		return nil, err
	}
	if !r.Dry {
		names := []string{StateTable}
		for _, table := range r.Model.Tables {
			names = append(names, table.Name)
		}
		slices.Sort(names)
		if err := p.Session.Lock(ctx, names); err != nil {
			return nil, err
		}
	}
	if p.states, p.hasState, err = readStates(ctx, p.Session); err != nil {
		return nil, err
	}
	for _, table := range r.Model.Tables {
		if err := p.plan(ctx, table); err != nil {
			return nil, err
		}
		if err := p.keepAdditions(ctx, p.steps[len(p.steps)-1]); err != nil {
			return nil, err
		}
	}
	if err := p.resolve(ctx); err != nil {
		return nil, err
	}
	if err := p.checkViews(ctx); err != nil {
		return nil, err
	}
	if err := p.apply(ctx); err != nil {
		_ = p.clear(context.WithoutCancel(ctx))
		return nil, err
	}
	for _, s := range p.steps {
		p.outcome.Results = append(p.outcome.Results, *s.result)
	}
	p.outcome.Results = append(p.outcome.Results, p.viewResults()...)
	p.leave()
	return p.outcome, nil
}

// statesOf returns what is known of a table or view.
func (p *publishing) statesOf(name string) []state {
	var own []state
	for _, one := range p.states {
		if one.name == name {
			own = append(own, one)
		}
	}
	return own
}

// plan finds out what is to be done to a table.
func (p *publishing) plan(ctx context.Context, table dialect.Filled) error {
	s := &step{Filled: table, result: &Result{Name: table.Name}}
	_, s.made = madeOf(table.Table)
	p.steps = append(p.steps, s)
	var err error
	if s.old, err = p.Session.Describe(ctx, table.Name); err != nil {
		return err
	}
	known := p.statesOf(table.Name)
	switch {
	case s.old == nil:
		s.result.Kind = Created
		return nil
	case !s.old.IsTable:
		return &fault.Fault{File: p.Session.Name(), What: fmt.Sprintf("%s is a view or something else that is no table", table.Name), Remedy: "Choose another name with --name"}
	case !s.old.IsOurs() && len(known) == 0 && !p.Force:
		return &fault.Fault{File: p.Session.Name(), What: fmt.Sprintf("%s is a table that Round Year has not written", table.Name), Remedy: "Choose another name with --name, or replace it with --force"}
	case len(known) == 0 && s.old.IsOurs() && hasColumns(s.old, s.made):
		// Another command has made it, and nothing tells whether somebody has changed it since.
		known = []state{{name: table.Name, made: s.made}}
	case len(known) == 0:
		return p.replace(s)
	}
	at := slices.IndexFunc(known, func(one state) bool { return one.isOf(s.old) })
	if at < 0 {
		s.result.EditedColumns = editedColumns(known[0], s.old)
		if !p.Force {
			s.result.Kind = Edited
			return nil
		}
		return p.replace(s)
	}
	old, err := readThere(ctx, p.Session, table.Name, known[at].made)
	if err != nil {
		return err
	}
	isEdited := !slices.ContainsFunc(known, func(one state) bool {
		return (one.content == "" || one.content == old.print.String()) && one.isOf(s.old)
	})
	s.isAdopted = known[at].reported == ""
	return p.change(ctx, s, old, known[at], isEdited)
}

// keepAdditions makes a table change in its place that would lose what somebody has put on it if it were made anew. The error is that of one
// whose columns change, too, for which there is no other way.
func (p *publishing) keepAdditions(ctx context.Context, s *step) error {
	if s.old == nil || s.result.Kind != Replaced || s.isRefilled {
		return nil
	}
	own := database.OwnParts{}
	for _, known := range p.statesOf(s.Name) {
		var columns []madeColumn
		if json.Unmarshal([]byte(known.made), &columns) != nil {
			continue
		}
		for _, c := range columns {
			if c.IsIndex {
				own.Indexes = append(own.Indexes, c.Name)
			}
			if c.IsUnique {
				own.Uniques = append(own.Uniques, c.Name)
			}
			if c.Foreign != "" {
				own.Foreign = append(own.Foreign, c.Name)
			}
		}
	}
	additions, err := p.Session.Additions(ctx, s.Name, own)
	switch {
	case err != nil || len(additions) == 0:
		return err
	case s.isSame && s.diff != nil:
		s.result.Kind = Changed
	case s.isSame:
		s.isRefilled, s.result.InPlace = true, true
	case s.diff != nil && !s.diff.isKeyChanged:
		s.result.Kind = Altered
	case p.Force:
		s.result.Lost = additions
	default:
		return database.WouldLose(s.Name, additions)
	}
	return nil
}

// change finds out how a table changes that is there.
func (p *publishing) change(ctx context.Context, s *step, old *there, known state, isEdited bool) (err error) {
	isSame := known.made == s.made
	s.isSame = isSame
	if len(s.Key) == 0 {
		var diff *difference
		if isSame && (!isEdited || p.Force) {
			diff, err = p.compareAlike(ctx, s, old)
		} else {
			err = watched{s.Rows, &s.print}.Each(ctx, nil, nothing)
		}
		if err != nil {
			return err
		}
		s.result.Rows, s.result.IsCertain = s.print.count, known.content == s.print.String()
		switch {
		case isEdited && !p.Force:
			s.result.Kind = Edited
		case isSame && old.print.String() == s.print.String():
			s.result.Kind = Unchanged
		case isSame && diff != nil:
			s.diff, s.result.Kind, s.result.Added, s.result.Removed = diff, Changed, diff.added, diff.removed
		case isSame && len(p.viewsOfOthers(s)) > 0:
			s.result.Kind, s.isRefilled, s.result.InPlace = Replaced, true, true
		default:
			return p.replace(s)
		}
		return nil
	}
	if s.diff, err = compare(ctx, p.d, s.Filled, old); err != nil {
		return err
	}
	if s.diff.isKeyChanged {
		return p.replace(s)
	}
	s.print, s.result.Rows = fingerprint{sums: s.diff.print.sums, count: s.diff.print.count}, s.diff.total
	s.result.Added, s.result.Changed, s.result.Removed = s.diff.added, s.diff.changed, s.diff.removed
	s.result.IsCertain = isSame && known.content == s.print.String()
	switch {
	case isEdited && !p.Force:
		s.result.Kind, s.result.Edits, s.result.EditCount = Edited, s.diff.first, s.diff.count()
	case !isSame:
		s.result.Columns, s.adds, s.drops = columnsChanged(old.columns, s.Table)
		if p.isLeant(s) {
			s.result.Kind = Altered
			return nil
		}
		return p.replace(s)
	case s.diff.count() == 0:
		s.result.Kind = Unchanged
	case s.diff.count() > s.diff.total/2 && !p.isLeant(s) && p.way.Stages:
		s.result.Kind = Replaced // quicker than row by row
	default:
		s.result.Kind = Changed
	}
	return nil
}

// isLeant tells whether foreign keys or views of others lean on a table, so that it stays where it is.
func (p *publishing) isLeant(s *step) bool {
	return p.way.Stages && len(s.old.Leaning) > 0 || len(p.viewsOfOthers(s)) > 0
}

// viewsOfOthers are the views that would go with a table, and that somebody else has made.
func (p *publishing) viewsOfOthers(s *step) (names []string) {
	for _, name := range s.old.Views {
		if len(p.statesOf(name)) == 0 {
			names = append(names, name)
		}
	}
	return names
}

// replace says that a table is made anew.
func (p *publishing) replace(s *step) error {
	if p.isLeant(s) {
		return &fault.Fault{File: p.Session.Name(), What: fmt.Sprintf("%s cannot be replaced, since foreign keys or views need it: %s", s.Name, strings.Join(append(p.viewsOfOthers(s), s.old.Leaning...), ", ")),
			Remedy: "Drop these first; publish with --foreign-keys to have foreign keys again"}
	}
	s.result.Kind = Replaced
	return nil
}

// columnsChanged returns which columns are new, and which are gone. One of another type is both.
func columnsChanged(old []madeColumn, t *dialect.Table) (told []string, adds []dialect.Column, drops []string) {
	now, _ := madeOf(t)
	isThere := func(all []madeColumn, c madeColumn) bool {
		return slices.ContainsFunc(all, func(o madeColumn) bool {
			return o.Name == c.Name && o.Type == c.Type && o.Scale == c.Scale && o.Wide == c.Wide
		})
	}
	for i, c := range now {
		if !isThere(old, c) {
			told, adds = append(told, "+"+c.Name), append(adds, t.Columns[i])
		}
	}
	for _, c := range old {
		if !isThere(now, c) {
			told, drops = append(told, "-"+c.Name), append(drops, c.Name)
		}
	}
	return told, adds, drops
}

// leave finds the tables and views that belong to the model and that it no longer has.
func (p *publishing) leave() {
	for _, one := range p.states {
		isKept := one.isTable() && !slices.ContainsFunc(p.steps, func(s *step) bool { return s.Name == one.name }) ||
			one.isView() && !slices.ContainsFunc(p.Model.Views, func(v *dialect.View) bool { return v.Name == one.name })
		if isKept && one.model == p.Name && !slices.Contains(p.outcome.Left, one.name) {
			p.outcome.Left = append(p.outcome.Left, one.name)
		}
	}
}
