package yearplan

import "go.yaml.in/yaml/v4"

// Result is a request that the plan gives a name: a command, what it reads, and its settings as they are written. Which settings a command has
// the plan does not know.
type Result struct {
	Name, Command string
	// Inputs are paths and patterns from the plan's folder, addresses, or facts of the plan by their names.
	Inputs   []string
	Settings []ResultSetting
	// Place is where the command is named.
	Place Place
}

// ResultSetting is a setting of a result.
type ResultSetting struct {
	Key    string
	Values []string
	// IsList tells that the values are written as a list.
	IsList bool
	Place  Place
}

// Place is a line and a character of the plan, from 1.
type Place struct{ Line, Char int }

func placeOf(node *yaml.Node) Place { return Place{node.Line, node.Column} }

// ResultNamed returns the result of a name; nil if there is none.
func (p *Plan) ResultNamed(name string) *Result {
	for i := range p.Results {
		if p.Results[i].Name == name {
			return &p.Results[i]
		}
	}
	return nil
}

func (r *reader) readResults(node *yaml.Node) {
	for key, value := range entries(node) {
		if !r.sound(value) {
			continue
		}
		result := Result{Name: key.Value, Command: text(value, "command"), Inputs: texts(value, "inputs"), Place: placeOf(key)}
		if command := below(value, "command"); command != nil {
			result.Place = placeOf(command)
		} else {
			r.add(key, "Add command: totals, or another one", "results.%s has no command", key.Value)
			continue
		}
		for name, given := range entries(value) {
			if name.Value == "command" || name.Value == "inputs" {
				continue
			}
			setting := ResultSetting{Key: name.Value, IsList: resolved(given).Kind == yaml.SequenceNode, Place: placeOf(name)}
			for _, item := range items(given) {
				setting.Values = append(setting.Values, resolved(item).Value)
			}
			result.Settings = append(result.Settings, setting)
		}
		r.plan.Results = append(r.plan.Results, result)
	}
}
