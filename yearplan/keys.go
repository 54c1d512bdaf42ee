package yearplan

import "strings"

// Key is a key of the plan, for its reference.
type Key struct {
	// Path are the keys above it and its own; NAME stands for one of the user's own.
	Path []string
	// Value says what it holds, and Doc what that means.
	Value, Doc string
}

// Keys returns all keys of the plan in the order of the form. What holds itself, such as rules in rules, is there once.
func Keys() []Key {
	var keys []Key
	seen := map[string]bool{}
	form.addKeys(nil, &keys, seen)
	return keys
}

func (s shape) addKeys(path []string, keys *[]Key, seen map[string]bool) {
	if s.definition != "" {
		if seen[s.definition] {
			return
		}
		seen[s.definition] = true
	}
	switch {
	case s.list != nil:
		s.list.addKeys(path, keys, seen)
	case s.entries != nil:
		s.entries.addKeys(append(path[:len(path):len(path)], "NAME"), keys, seen)
	}
	for _, field := range s.fields {
		own := append(path[:len(path):len(path)], field.key)
		*keys = append(*keys, Key{own, field.value(), field.doc})
		field.addKeys(own, keys, seen)
	}
	if s.others != nil {
		own := append(path[:len(path):len(path)], "SETTING")
		*keys = append(*keys, Key{own, s.others.value(), s.others.doc})
	}
}

// value says in words what a value can be.
func (s shape) value() string {
	switch {
	case s.list != nil && s.single:
		return s.list.value() + ", or a list of such"
	case s.list != nil:
		return "a list: " + s.list.value()
	case s.entries != nil && s.entries.scalar != nil:
		return "names, each with " + s.entries.value()
	case s.entries != nil:
		return "names, each with the keys below"
	case s.scalar == nil:
		return "the keys below"
	case s.scalar.what == "" && len(s.scalar.values) > 0:
		return strings.Join(s.scalar.values, ", ")
	}
	return s.scalar.what
}
