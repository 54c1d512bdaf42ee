package yearplan

import (
	"fmt"
	"strings"

	"go.yaml.in/yaml/v4"

	"roundyear/nearest"
)

func (r *reader) readPublish(node *yaml.Node) {
	if !r.sound(node) {
		return
	}
	p := &r.plan.Publish
	p.Out, p.Dialect, p.Grains = texts(node, "out"), text(node, "dialect"), texts(node, "grains")
	p.Facts, p.Join = texts(node, "facts"), texts(node, "join")
	p.Indexes, p.ForeignKeys = text(node, "indexes") == "true", text(node, "foreign_keys") == "true"
	for _, item := range items(below(node, "facts")) {
		if name := resolved(item).Value; r.plan.FactsNamed(name) == nil {
			r.noFacts(item, name)
		}
	}
	for _, item := range items(below(node, "join")) {
		if table, column, found := strings.Cut(resolved(item).Value, "."); !found || table == "" || column == "" {
			r.add(item, "", "a table of the database must be written as TABLE.COLUMN, such as receipts.sold_at, not %q", resolved(item).Value)
		}
	}
	if len(r.faults) > 0 {
		return
	}
	set, err := r.plan.Set()
	if err != nil {
		return
	}
	for _, item := range items(below(node, "grains")) {
		if _, err := set.Grain(resolved(item).Value); err != nil {
			r.add(item, "", "%v", err)
		}
	}
}

// noFacts is the fault of a name of facts that the plan does not have.
func (r *reader) noFacts(item *yaml.Node, name string) {
	var names []string
	for _, f := range r.plan.Facts {
		names = append(names, f.Name)
	}
	remedy := "Add them under facts"
	if near := nearest.Name(name, names); near != "" {
		remedy = fmt.Sprintf("Did you mean %s?", near)
	} else if len(names) > 0 {
		remedy += "; there are " + strings.Join(names, ", ")
	}
	r.add(item, remedy, "there are no facts named %q", name)
}
