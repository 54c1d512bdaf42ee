// Package request is what a run is asked for, as plain data: a command, what it reads, and its settings. A request comes from the command line
// or from results of a plan, and can be written as one of these:
//
//	results:
//	  monthly:
//	    command: totals
//	    inputs: sales
//	    sum: amount
//	    grain: fiscal.month
//
// The names of settings are those of flags, with _ in place of -.
package request

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"go.yaml.in/yaml/v4"

	"roundyear/fault"
	"roundyear/nearest"
	"roundyear/yearplan"
)

// Kind is what a setting can be.
type Kind int

// The kinds of settings. Texts are given one at a time, and a List is given as a line with commas.
const (
	Text Kind = iota
	Number
	Truth
	List
	Texts
)

// Known is a setting that a command has.
type Known struct {
	// Name is that of its flag.
	Name string
	Kind Kind
	// Default is what holds if it is not given; empty for nothing.
	Default string
}

// Setting is one that is given: with one value, or those of a list, of which there may be none.
type Setting struct {
	Known
	Values []string
}

// Request is a command with what it reads and the settings that are given, in the order of their names.
type Request struct {
	Command  string
	Inputs   []string
	Settings []Setting
}

// KeyOf returns what a setting is called in a plan.
func KeyOf(name string) string { return strings.ReplaceAll(name, "-", "_") }

// Args returns the request as the words of a command line.
func (r Request) Args() []string {
	args := []string{r.Command}
	for _, setting := range r.Settings {
		args = append(args, setting.args()...)
	}
	return append(append(args, "--"), r.Inputs...)
}

func (s Setting) args() []string {
	switch {
	case s.Kind == List:
		var line bytes.Buffer
		writer := csv.NewWriter(&line)
		_ = writer.Write(s.Values) // into memory
		writer.Flush()
		return []string{"--" + s.Name + "=" + strings.TrimSuffix(line.String(), "\n")}
	case len(s.Values) == 0:
		return []string{"--" + s.Name + "="}
	}
	var args []string
	for _, value := range s.Values {
		args = append(args, "--"+s.Name+"="+value)
	}
	return args
}

// Without returns the request without some settings, by their names.
func (r Request) Without(names map[string]bool) Request {
	r.Settings = slices.DeleteFunc(slices.Clone(r.Settings), func(s Setting) bool { return names[s.Name] })
	return r
}

// YAML writes the request as a result of a plan under a name. What holds without being given stands behind it as a comment: known are the
// settings of the command, and planned what the plan says of some of them.
func (r Request) YAML(name string, known []Known, planned []Setting) ([]byte, error) {
	text := func(value string) *yaml.Node { return scalarOf(Text, value) }
	result := &yaml.Node{Kind: yaml.MappingNode}
	add := func(key string, value *yaml.Node) { result.Content = append(result.Content, text(key), value) }
	add("command", text(r.Command))
	if len(r.Inputs) > 0 {
		add("inputs", listOf(Text, r.Inputs))
	}
	isGiven := map[string]bool{}
	for _, setting := range r.Settings {
		add(KeyOf(setting.Name), setting.node())
		isGiven[setting.Name] = true
	}
	var notes []string
	for _, setting := range planned {
		if !isGiven[setting.Name] {
			isGiven[setting.Name] = true
			notes = append(notes, fmt.Sprintf("%s: %s (by the plan)", KeyOf(setting.Name), lineOf(setting.node())))
		}
	}
	for _, one := range known {
		if one.Default != "" && !isGiven[one.Name] {
			notes = append(notes, fmt.Sprintf("%s: %s", KeyOf(one.Name), lineOf(scalarOf(one.Kind, one.Default))))
		}
	}
	if len(notes) > 0 {
		last := result.Content[len(result.Content)-2]
		last.FootComment = "# Defaults:\n# " + strings.Join(notes, "\n# ")
	}
	under := func(key string, value *yaml.Node) *yaml.Node {
		return &yaml.Node{Kind: yaml.MappingNode, Content: []*yaml.Node{text(key), value}}
	}
	var out bytes.Buffer
	encoder := yaml.NewEncoder(&out)
	encoder.SetIndent(2)
	if err := encoder.Encode(under("results", under(name, result))); err != nil {
		return nil, err
	}
	return out.Bytes(), encoder.Close()
}

func (s Setting) node() *yaml.Node {
	if s.Kind == List || s.Kind == Texts {
		return listOf(s.Kind, s.Values)
	}
	return scalarOf(s.Kind, s.Values[0])
}

// listOf is a list in one line, or the one value that stands for it.
func listOf(kind Kind, values []string) *yaml.Node {
	if len(values) == 1 {
		return scalarOf(kind, values[0])
	}
	list := &yaml.Node{Kind: yaml.SequenceNode, Style: yaml.FlowStyle}
	for _, value := range values {
		list.Content = append(list.Content, scalarOf(kind, value))
	}
	return list
}

// scalarOf is a value that is read as what it is: a text that looks like a number has quotes.
func scalarOf(kind Kind, value string) *yaml.Node {
	node := &yaml.Node{Kind: yaml.ScalarNode, Value: value}
	switch kind {
	case Number:
		node.Tag = "!!int"
	case Truth:
		node.Tag = "!!bool"
	default:
		if node.SetString(value); dayText.MatchString(value) {
			node.Style = 0 // days stand in plans as they are
			node.Tag = "!!timestamp"
		}
	}
	return node
}

var dayText = regexp.MustCompile(`^\d{4}-\d{2}-\d{2}$`)

func lineOf(node *yaml.Node) string {
	text, err := yaml.Marshal(node)
	if err != nil {
		return node.Value
	}
	return strings.ReplaceAll(strings.TrimSuffix(string(text), "\n"), "\n", " ")
}

// Of returns the request that a result of a plan is. Commands are those that there are, by their names, with their settings. The error is a
// fault.List that says where in the plan what is wrong.
func Of(file string, result yearplan.Result, commands map[string][]Known) (Request, error) {
	var faults fault.List
	add := func(at yearplan.Place, remedy, what string, args ...any) {
		faults = append(faults, &fault.Fault{File: file, Line: at.Line, Char: at.Char, What: fmt.Sprintf(what, args...), Remedy: remedy})
	}
	path := "results." + result.Name
	known, found := commands[result.Command]
	if !found {
		var names []string
		for name := range commands {
			names = append(names, name)
		}
		slices.Sort(names)
		remedy := "The commands are " + strings.Join(names, ", ")
		if near := nearest.Name(result.Command, names); near != "" {
			remedy = fmt.Sprintf("Did you mean %s?", near)
		}
		add(result.Place, remedy, "%s.command must be a command that has results, not %q", path, result.Command)
		return Request{}, faults
	}
	r := Request{Command: result.Command, Inputs: result.Inputs}
	for _, given := range result.Settings {
		at := slices.IndexFunc(known, func(k Known) bool { return KeyOf(k.Name) == given.Key })
		if at < 0 {
			var keys []string
			for _, one := range known {
				keys = append(keys, KeyOf(one.Name))
			}
			remedy := fmt.Sprintf("For its settings, run roundyear %s --help", result.Command)
			if near := nearest.Name(given.Key, keys); near != "" {
				remedy = fmt.Sprintf("Did you mean %s?", near)
			}
			add(given.Place, remedy, "%s has no setting %q", result.Command, given.Key)
			continue
		}
		setting := Setting{Known: known[at], Values: given.Values}
		if what := setting.wrong(given.IsList); what != "" {
			add(given.Place, "", "%s.%s must be %s", path, given.Key, what)
			continue
		}
		r.Settings = append(r.Settings, setting)
	}
	slices.SortFunc(r.Settings, func(a, b Setting) int { return strings.Compare(a.Name, b.Name) })
	if len(faults) > 0 {
		return Request{}, faults
	}
	return r, nil
}

// wrong says what a setting must be that is not; nothing if it is.
func (s Setting) wrong(isList bool) string {
	switch s.Kind {
	case List, Texts:
		return ""
	case Number:
		if isList || len(s.Values) != 1 {
			return "a whole number"
		}
		if _, err := strconv.Atoi(s.Values[0]); err != nil {
			return fmt.Sprintf("a whole number, not %q", s.Values[0])
		}
	case Truth:
		if isList || len(s.Values) != 1 || s.Values[0] != "true" && s.Values[0] != "false" {
			return "true or false"
		}
	default:
		if isList || len(s.Values) != 1 {
			return "a single value"
		}
	}
	return ""
}
