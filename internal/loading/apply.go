package loading

import (
	"context"
	"fmt"
	"slices"

	"roundyear/internal/database"
	"roundyear/internal/dialect"
	"roundyear/rows"
)

// do carries statements out, or only keeps them.
func (p *publishing) do(ctx context.Context, table string, statements ...string) error {
	if p.Dry {
		p.outcome.Statements = append(p.outcome.Statements, statements...)
		return nil
	}
	for _, statement := range statements {
		if err := p.Session.Do(ctx, table, statement); err != nil {
			return err
		}
	}
	return nil
}

// nothing is done with a block.
func nothing(rows.Block, []byte) error { return nil }

// staged and replaced are the names of a new table before it is in place, and of an old one before it is gone. NewWriter uses the same.
func staged(name string) string   { return name + " (new)" }
func replaced(name string) string { return name + " (old)" }

// isMade tells whether a table is made anew.
func (s *step) isMade() bool {
	return s.result.Kind == Created || s.result.Kind == Replaced && !s.isRefilled
}

// isNoted tells whether the state of a table changes.
func (s *step) isNoted() bool {
	return s.result.Kind != Edited && (s.result.Kind != Unchanged || s.isAdopted)
}

// apply does what was found to be done. Where definitions cannot be undone, whatever may fail comes before the first table is in place.
func (p *publishing) apply(ctx context.Context) error {
	if err := p.clear(ctx); err != nil { // what a run has left that was killed
		return err
	}
	isNeeded := false
	for _, s := range p.steps {
		p.isReplacing = p.isReplacing || s.result.Kind == Altered || s.isMade() && s.old != nil
		isNeeded = isNeeded || s.isNoted()
	}
	isNeeded = isNeeded || slices.ContainsFunc(p.views(), p.viewNeeds) || len(p.Joined) > 0
	if !isNeeded {
		if p.Dry {
			return nil
		}
		return p.Session.Commit(ctx)
	}
	if !p.hasState {
		if err := p.do(ctx, StateTable, p.d.CreateTable(stateTable(), StateTable, true)); err != nil {
			return err
		}
		if err := p.do(ctx, StateTable, p.d.Comments(stateTable())...); err != nil {
			return err
		}
	}
	phases := []func(context.Context, *step) error{p.stage, p.alter, p.changeRows, p.place, p.keep}
	for i, phase := range phases {
		var err error
		switch {
		case i == 1 && !p.way.StatementsCommit:
			err = p.dropViews(ctx)
		case i == 2 && p.way.StatementsCommit:
			err = p.do(ctx, "", "START TRANSACTION")
		case i == len(phases)-1:
			err = p.rename(ctx)
		}
		if err != nil {
			return err
		}
		if i == 2 {
			err = p.removeRows(ctx)
		}
		if err != nil {
			return err
		}
		for _, s := range p.steps {
			if err := phase(ctx, s); err != nil {
				return err
			}
		}
	}
	if err := p.addForeign(ctx); err != nil {
		return err
	}
	if err := p.makeViews(ctx); err != nil {
		return err
	}
	if err := p.join(ctx); err != nil || p.Dry {
		return err
	}
	return p.Session.Commit(ctx)
}

// stage fills a new table beside the old one.
func (p *publishing) stage(ctx context.Context, s *step) error {
	if !p.way.Stages || !s.isMade() {
		return nil
	}
	name := staged(s.Name)
	if err := p.do(ctx, s.Name, p.d.CreateTable(s.Table, name, !p.way.KeysLater)); err != nil {
		return err
	}
	if err := p.fill(ctx, s, name); err != nil {
		return err
	}
	if p.way.KeysLater {
		return nil
	}
	return p.do(ctx, s.Name, p.d.CreateIndexes(s.Table, name)...)
}

// fill fills a table that has just been made.
func (p *publishing) fill(ctx context.Context, s *step, name string) (err error) {
	s.print = fingerprint{}
	own := dialect.Filled{Table: s.Table, Rows: watched{s.Rows, &s.print}}
	if !p.Dry {
		s.result.Rows, err = p.Session.Fill(ctx, own, name)
		return err
	}
	if err := own.Rows.Each(ctx, nil, nothing); err != nil {
		return err
	}
	s.result.Rows = s.print.count
	p.outcome.Statements = append(p.outcome.Statements, fmt.Sprintf("-- %d rows are loaded into %s", s.print.count, p.d.Quote(name)))
	return nil
}

// alter changes the columns of a table in its place.
func (p *publishing) alter(ctx context.Context, s *step) error {
	if s.result.Kind != Altered {
		return nil
	}
	for _, name := range s.drops {
		if err := p.do(ctx, s.Name, p.d.DropColumn(s.Name, name)); err != nil {
			return err
		}
	}
	for _, c := range s.adds {
		if err := p.do(ctx, s.Name, p.d.AddColumn(s.Name, c)); err != nil {
			return err
		}
	}
	return p.do(ctx, s.Name, p.d.Comments(s.Table)...)
}

// changesRows tells whether the rows of a table change in its place.
func (s *step) changesRows() bool { return s.result.Kind == Changed || s.result.Kind == Altered }

// removeRows removes rows, of tables that lean on others first.
func (p *publishing) removeRows(ctx context.Context) error {
	for _, s := range slices.Backward(p.steps) {
		if !s.changesRows() {
			continue
		}
		if err := p.do(ctx, s.Name, s.diff.removals...); err != nil {
			return err
		}
	}
	return nil
}

// changeRows changes and adds the rows of a table in its place.
func (p *publishing) changeRows(ctx context.Context, s *step) error {
	if !s.changesRows() {
		return nil
	}
	if err := p.do(ctx, s.Name, s.diff.statements...); err != nil {
		return err
	}
	return p.verify(ctx, s)
}

// place puts a new table in its place, or gets ready for that.
func (p *publishing) place(ctx context.Context, s *step) error {
	if !s.isNoted() {
		return nil
	}
	switch {
	case s.isRefilled:
		if err := p.do(ctx, s.Name, p.d.DeleteAll(s.Name)); err != nil {
			return err
		}
		if err := p.fill(ctx, s, s.Name); err != nil {
			return err
		}
	case !s.isMade():
	case !p.way.Stages:
		if err := p.do(ctx, s.Name, p.d.Drop(s.Name), p.d.CreateTable(s.Table, s.Name, true)); err != nil {
			return err
		}
		if err := p.fill(ctx, s, s.Name); err != nil {
			return err
		}
		if err := p.do(ctx, s.Name, p.d.CreateIndexes(s.Table, s.Name)...); err != nil {
			return err
		}
	case p.way.StatementsCommit:
		if s.old != nil {
			p.renames = append(p.renames, database.Renamed{From: s.Name, To: replaced(s.Name)})
		}
		p.renames = append(p.renames, database.Renamed{From: staged(s.Name), To: s.Name})
	default:
		var err error
		if s.grants, err = p.Session.Grants(ctx, s.Name); err != nil {
			return err
		}
		statements := []string{p.d.Drop(s.Name), p.d.Rename(staged(s.Name), s.Name)}
		if keys := p.d.AddKeys(s.Table); keys != "" {
			statements = append(statements, keys)
		}
		statements = append(append(statements, p.d.Comments(s.Table)...), p.d.CreateIndexes(s.Table, s.Name)...)
		if err := p.do(ctx, s.Name, append(statements, s.grants...)...); err != nil {
			return err
		}
	}
	return p.note(ctx, s)
}

// note keeps what the table is, beside what it was: until the transaction ends it may be either.
func (p *publishing) note(ctx context.Context, s *step) error {
	own := state{name: s.Name, model: p.Name, made: s.made, content: s.print.String()}
	if !p.Dry || !s.isMade() {
		name := s.Name
		if s.isMade() && p.way.StatementsCommit {
			name = staged(s.Name)
		}
		found, err := p.Session.Describe(ctx, name)
		if err != nil {
			return err
		}
		own.reported = reportedOf(found)
	}
	if !p.way.StatementsCommit {
		if err := p.do(ctx, s.Name, forget(p.d, s.Name, "")); err != nil {
			return err
		}
		return p.do(ctx, s.Name, own.insert(p.d))
	}
	return p.do(ctx, s.Name, "DELETE FROM "+p.d.Quote(StateTable)+" WHERE "+p.d.Quote("name")+" = "+p.d.Text(s.Name)+" AND "+p.d.Quote("content")+" = "+p.d.Text(own.content), own.insert(p.d))
}

// rename puts all new tables in their places by one statement.
func (p *publishing) rename(ctx context.Context) error {
	if !p.way.StatementsCommit {
		return nil
	}
	if err := p.do(ctx, "", "COMMIT"); err != nil {
		return err
	}
	if len(p.renames) == 0 {
		return nil
	}
	return p.do(ctx, "", p.way.Rename(p.renames))
}

// keep removes what is no longer needed of a table that was there before.
func (p *publishing) keep(ctx context.Context, s *step) error {
	if !p.way.StatementsCommit || !s.isNoted() {
		return nil
	}
	if s.isMade() && s.old != nil {
		if err := p.do(ctx, s.Name, p.d.Drop(replaced(s.Name))); err != nil {
			return err
		}
	}
	return p.do(ctx, s.Name, forget(p.d, s.Name, s.print.String()))
}

// clear removes what was staged and replaced, where the end of the connection does not.
func (p *publishing) clear(ctx context.Context) error {
	if !p.way.StatementsCommit || p.Dry {
		return nil
	}
	for _, s := range p.steps {
		for _, name := range []string{staged(s.Name), replaced(s.Name)} {
			if err := p.Session.Do(ctx, s.Name, p.d.Drop(name)); err != nil {
				return err
			}
		}
	}
	return nil
}

// addForeign adds the foreign keys of tables that were made anew, where they are not part of the definition.
func (p *publishing) addForeign(ctx context.Context) error {
	if p.d.PlacesForeign() {
		return nil
	}
	for _, s := range p.steps {
		if !s.isMade() {
			continue
		}
		for _, foreign := range s.Foreign {
			if err := p.do(ctx, s.Name, p.d.AddForeign(s.Name, foreign)); err != nil {
				return err
			}
		}
	}
	return nil
}
