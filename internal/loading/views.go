package loading

import (
	"context"
	"fmt"
	"slices"

	"roundyear/fault"
	"roundyear/internal/dialect"
)

// viewNeeds tells whether a view is made, because it is not there or is another one.
func (p *publishing) viewNeeds(v *dialect.View) bool {
	if p.isReplacing && p.way.ViewsLean {
		return true // it had to go
	}
	return !slices.ContainsFunc(p.statesOf(v.Name), func(one state) bool { return one.made == viewMade(p.d, v) })
}

// views are those whose tables are there as they should be.
func (p *publishing) views() []*dialect.View {
	return slices.DeleteFunc(slices.Clone(p.Model.Views), func(v *dialect.View) bool {
		return slices.ContainsFunc(p.steps, func(s *step) bool {
			return s.result.Kind == Edited && (s.Name == v.From || slices.ContainsFunc(v.Joins, func(j dialect.Join) bool { return j.Table == s.Name }))
		})
	})
}

// checkViews refuses to replace what is no view of the program.
func (p *publishing) checkViews(ctx context.Context) error {
	for _, v := range p.Model.Views {
		found, err := p.Session.Describe(ctx, v.Name)
		if err != nil {
			return err
		}
		known := p.statesOf(v.Name)
		switch {
		case found == nil:
			// One that somebody has removed is made again.
			p.states = slices.DeleteFunc(p.states, func(one state) bool { return one.name == v.Name })
		case !found.IsView || len(known) == 0 && !p.Force:
			return &fault.Fault{File: p.Session.Name(), What: fmt.Sprintf("%s is there already, and Round Year has not made it", v.Name), Remedy: "Remove it, or choose another name with --name"}
		}
	}
	return nil
}

// isMadeAgain tells whether a view of the model is made again. One of a table that is left alone only comes back as it was.
func (p *publishing) isMadeAgain(view state) bool {
	return slices.ContainsFunc(p.views(), func(v *dialect.View) bool { return v.Name == view.name })
}

// dropViews removes the views that go with tables that are replaced. They come back afterwards: those of the model are made again, others as
// they were, all with the rights of other users.
func (p *publishing) dropViews(ctx context.Context) error {
	if !p.isReplacing || !p.way.ViewsLean {
		return nil
	}
	for _, view := range p.states {
		if !view.isView() {
			continue
		}
		grants, err := p.Session.Grants(ctx, view.name)
		if err != nil {
			return err
		}
		if err := p.do(ctx, view.name, p.d.DropView(view.name)); err != nil {
			return err
		}
		if view.model == p.Name && p.isMadeAgain(view) {
			p.restoresOwn = append(p.restoresOwn, grants...)
		} else {
			p.restores = append(p.restores, restored{view.name, append([]string{view.made}, grants...)})
		}
	}
	return nil
}

// restored is a view that comes back as it was.
type restored struct {
	name       string
	statements []string
}

// viewMade is what is kept of a view: the statements that make it.
func viewMade(d *dialect.Dialect, v *dialect.View) string {
	made := d.CreateView(v)
	if comment := d.ViewComment(v); comment != "" {
		made += ";\n" + comment
	}
	return made
}

// makeViews makes the views that are not as they should be.
func (p *publishing) makeViews(ctx context.Context) error {
	for _, one := range p.restores {
		if err := p.do(ctx, one.name, one.statements...); err != nil {
			return err
		}
	}
	for _, v := range p.views() {
		if !p.viewNeeds(v) {
			continue
		}
		grants, err := p.Session.Grants(ctx, v.Name)
		if err != nil {
			return err
		}
		statements := p.d.ReplaceView(v)
		if comment := p.d.ViewComment(v); comment != "" {
			statements = append(statements, comment)
		}
		own := state{name: v.Name, model: p.Name, made: viewMade(p.d, v)}
		statements = append(append(statements, grants...), forget(p.d, v.Name, ""), own.insert(p.d))
		if err := p.do(ctx, v.Name, statements...); err != nil {
			return err
		}
	}
	return p.do(ctx, "", p.restoresOwn...)
}

func (p *publishing) viewResults() []Result {
	var results []Result
	for _, v := range p.views() {
		result := Result{Name: v.Name, IsView: true}
		known := p.statesOf(v.Name)
		switch {
		case len(known) == 0:
			result.Kind = Created
		case !slices.ContainsFunc(known, func(one state) bool { return one.made == viewMade(p.d, v) }):
			result.Kind = Replaced
		}
		results = append(results, result)
	}
	return results
}
