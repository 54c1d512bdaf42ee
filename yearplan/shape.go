package yearplan

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"go.yaml.in/yaml/v4"

	"roundyear/fault"
	"roundyear/nearest"
)

// shape says what a part of the plan may contain. The plan is checked
// against it, and the JSON Schema is written from it.
type shape struct {
	// doc says what the value means, for the schema.
	doc string
	// fields are the keys of a mapping with known keys, and others what stands under further ones; nil if there are none.
	fields []field
	others *shape
	// entries is what stands under each key of a mapping with names of the
	// user's own, and list what the items of a list are. A list of which
	// single is true may be left out where there is one item.
	entries, list *shape
	single        bool
	// scalar is what a single value may be.
	scalar *scalar
	// nothing tells that the value may be left empty.
	nothing bool
	// definition names it in the schema, for what holds itself.
	definition string
}

// field is a key of a mapping.
type field struct {
	key string
	shape
}

// scalar is a kind of single value.
type scalar struct {
	// what names it with its article, for faults: "a weekday such as monday".
	what string
	// accepts tells whether a text is such a value.
	accepts func(string) bool
	// values are the names it can have, for the nearest one and the schema.
	values []string
	// schema is its JSON Schema, where values do not say it.
	schema map[string]any
}

// checker holds a plan against its shape and gathers the faults.
type checker struct {
	file   string
	faults fault.List
	// depth is how far below the root the check is, so that an alias of what
	// it stands in comes to an end.
	depth int
	// aliased are the values of aliases that were held against a shape, and
	// whether that has ended.
	aliased map[aliased]bool
}

// aliased is the value of an alias and the shape that it should have.
type aliased struct {
	value *yaml.Node
	shape *shape
}

// maxDepth is deeper than any plan goes.
const maxDepth = 20

func (c *checker) add(node *yaml.Node, remedy, what string, args ...any) {
	c.faults = append(c.faults, &fault.Fault{File: c.file, Line: node.Line, Char: node.Column, What: fmt.Sprintf(what, args...), Remedy: remedy})
}

// resolved follows an alias to what it stands for.
func resolved(node *yaml.Node) *yaml.Node {
	for range 100 {
		if node.Kind != yaml.AliasNode {
			break
		}
		node = node.Alias
	}
	return node
}

func isNothing(node *yaml.Node) bool { return node.Kind == yaml.ScalarNode && node.Tag == "!!null" }

// check holds a node against a shape; path says where it stands.
func (c *checker) check(node *yaml.Node, s *shape, path string) {
	value := resolved(node)
	if node.Kind == yaml.AliasNode {
		// What stands for many is held against each shape once.
		one := aliased{value, s}
		ended, known := c.aliased[one]
		if known && !ended {
			c.add(node, "", "%s contains itself", path)
		}
		if known {
			return
		}
		if c.aliased == nil {
			c.aliased = map[aliased]bool{}
		}
		c.aliased[one] = false
		defer func() { c.aliased[one] = true }()
	}
	c.depth++
	defer func() { c.depth-- }()
	switch {
	case c.depth > maxDepth:
		c.add(node, "", "%s contains itself", path)
	case isNothing(value) && s.nothing:
	case s.list != nil && value.Kind == yaml.SequenceNode:
		for _, item := range value.Content {
			c.check(item, s.list, path)
		}
	case s.list != nil && s.single:
		c.check(node, s.list, path)
	case s.list != nil:
		c.add(node, "Write it as [a, b], or one entry per line, each starting with a dash", "%s must be a list, not %s", path, kindOf(value))
	case s.scalar != nil:
		c.checkScalar(node, value, s.scalar, path)
	case value.Kind != yaml.MappingNode:
		c.add(node, "Valid keys: "+strings.Join(s.keys(), ", "), "%s must be a mapping, not %s", path, kindOf(value))
	default:
		c.checkMapping(value, s, path)
	}
}

func (c *checker) checkScalar(node, value *yaml.Node, s *scalar, path string) {
	if value.Kind != yaml.ScalarNode || isNothing(value) {
		c.add(node, "", "%s must be %s, not %s", path, s.what, kindOf(value))
		return
	}
	if s.accepts(value.Value) {
		return
	}
	remedy := ""
	if near := nearest.Name(value.Value, s.values); near != "" {
		remedy = fmt.Sprintf("Did you mean %s?", near)
	}
	c.add(node, remedy, "%s must be %s, not %q", path, s.what, value.Value)
}

func (c *checker) checkMapping(value *yaml.Node, s *shape, path string) {
	seen := map[string]int{}
	for i := 0; i+1 < len(value.Content); i += 2 {
		key, below := value.Content[i], value.Content[i+1]
		if key.Kind != yaml.ScalarNode {
			c.add(key, "", "a key under %s must be a name, not %s", path, kindOf(key))
			continue
		}
		if line, twice := seen[key.Value]; twice {
			c.add(key, "Remove one of them", "duplicate key %s in %s, first in line %d", key.Value, path, line)
			continue
		}
		seen[key.Value] = key.Line
		if s.entries != nil {
			c.check(below, s.entries, join(path, key.Value))
			continue
		}
		index := slices.IndexFunc(s.fields, func(f field) bool { return f.key == key.Value })
		if index < 0 && s.others != nil {
			c.check(below, s.others, join(path, key.Value))
			continue
		}
		if index < 0 {
			remedy := "Valid keys: " + strings.Join(s.keys(), ", ")
			if near := nearest.Name(key.Value, s.keys()); near != "" {
				remedy = fmt.Sprintf("Did you mean %s?", near)
			}
			c.add(key, remedy, "unknown key %q in %s", key.Value, path)
			continue
		}
		c.check(below, &s.fields[index].shape, join(path, key.Value))
	}
}

func (s shape) keys() []string {
	if s.entries != nil {
		return []string{"names of your choice"}
	}
	var keys []string
	for _, field := range s.fields {
		keys = append(keys, field.key)
	}
	return keys
}

// planPath is what the plan as a whole is called in faults.
const planPath = "the plan"

func join(path, key string) string {
	if path == planPath {
		return key
	}
	return path + "." + key
}

func kindOf(node *yaml.Node) string {
	switch {
	case node.Kind == yaml.MappingNode:
		return "a mapping"
	case node.Kind == yaml.SequenceNode:
		return "a list"
	case isNothing(node):
		return "nothing"
	}
	return strconv.Quote(node.Value)
}

// below returns what stands under a key of a mapping, or nothing.
func below(node *yaml.Node, key string) *yaml.Node {
	if node == nil {
		return nil
	}
	node = resolved(node)
	if node.Kind != yaml.MappingNode {
		return nil
	}
	for i := 0; i+1 < len(node.Content); i += 2 {
		if node.Content[i].Value == key {
			return node.Content[i+1]
		}
	}
	return nil
}

// text returns the value under a key, or nothing.
func text(node *yaml.Node, key string) string {
	if found := below(node, key); found != nil {
		return resolved(found).Value
	}
	return ""
}

// items returns the items of a list, or the one value that stands for it.
func items(node *yaml.Node) []*yaml.Node {
	if node == nil || isNothing(resolved(node)) {
		return nil
	}
	if value := resolved(node); value.Kind == yaml.SequenceNode {
		return value.Content
	}
	return []*yaml.Node{node}
}

// texts returns the values of a list under a key.
func texts(node *yaml.Node, key string) []string {
	var all []string
	for _, item := range items(below(node, key)) {
		all = append(all, resolved(item).Value)
	}
	return all
}

// entries yields the keys and values of a mapping.
func entries(node *yaml.Node) func(func(*yaml.Node, *yaml.Node) bool) {
	return func(yield func(key, value *yaml.Node) bool) {
		if node == nil {
			return
		}
		content := resolved(node).Content
		for i := 0; i+1 < len(content); i += 2 {
			if !yield(content[i], content[i+1]) {
				return
			}
		}
	}
}
