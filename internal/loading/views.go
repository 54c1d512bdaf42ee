package loading

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"roundyear/fault"
	"roundyear/internal/dialect"
)

// viewNeeds tells whether a view is made, because it is not there or is another one.
func (p *publishing) viewNeeds(v *dialect.View) bool {
	if p.isReplacing && p.way.ViewsLean {
		return true // it had to go
	}
	return !slices.ContainsFunc(p.statesOf(v.Name), func(one state) bool { return one.made == p.d.CreateView(v) })
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

// ownViews are the names of the views of the model that are there.
func (p *publishing) ownViews() []string {
	var names []string
	for _, one := range p.states {
		if one.model == p.Name && strings.HasPrefix(one.made, "CREATE VIEW") && !slices.Contains(names, one.name) {
			names = append(names, one.name)
		}
	}
	return names
}

// dropViews removes the views that lean on tables that are replaced, and those that the model no longer has.
func (p *publishing) dropViews(ctx context.Context) error {
	for _, name := range p.ownViews() {
		isWanted := slices.ContainsFunc(p.Model.Views, func(v *dialect.View) bool { return v.Name == name })
		if isWanted && (!p.isReplacing || !p.way.ViewsLean) {
			continue
		}
		if err := p.do(ctx, name, p.d.DropView(name), forget(p.d, name, "")); err != nil {
			return err
		}
	}
	return nil
}

// makeViews makes the views that are not as they should be.
func (p *publishing) makeViews(ctx context.Context) error {
	for _, v := range p.views() {
		if !p.viewNeeds(v) {
			continue
		}
		statements := p.d.ReplaceView(v)
		if comment := p.d.ViewComment(v); comment != "" {
			statements = append(statements, comment)
		}
		own := state{name: v.Name, model: p.Name, made: p.d.CreateView(v)}
		statements = append(statements, forget(p.d, v.Name, ""), own.insert(p.d))
		if err := p.do(ctx, v.Name, statements...); err != nil {
			return err
		}
	}
	return nil
}

func (p *publishing) viewResults() []Result {
	var results []Result
	for _, v := range p.views() {
		result := Result{Name: v.Name, IsView: true}
		known := p.statesOf(v.Name)
		switch {
		case len(known) == 0:
			result.Kind = Created
		case !slices.ContainsFunc(known, func(one state) bool { return one.made == p.d.CreateView(v) }):
			result.Kind = Replaced
		}
		results = append(results, result)
	}
	return results
}
