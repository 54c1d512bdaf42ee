package yearplan

import (
	"fmt"
	"strings"

	"roundyear/cell"
	"roundyear/dimension"
)

// Naming is how the columns of the dimension are named.
type Naming struct {
	// Case is snake, camel or title; empty is snake.
	Case string
	// Rename is the names of single columns by their attributes.
	Rename map[string]string
}

// Of returns the column of an attribute.
func (n Naming) Of(attribute string) string {
	if name, found := n.Rename[attribute]; found {
		return name
	}
	words := strings.Split(attribute, "_")
	switch n.Case {
	case "camel":
		for i := 1; i < len(words); i++ {
			words[i] = capital(words[i])
		}
		return strings.Join(words, "")
	case "title":
		for i := range words {
			words[i] = capital(words[i])
		}
		return strings.Join(words, " ")
	}
	return attribute
}

func capital(word string) string {
	if word == "" {
		return word
	}
	if word == "iso" {
		return "ISO"
	}
	return strings.ToUpper(word[:1]) + word[1:]
}

// Columns returns the columns of attributes. The error says which two would
// have one name.
func (n Naming) Columns(attributes []dimension.Attribute) ([]cell.Column, error) {
	columns := make([]cell.Column, len(attributes))
	taken := map[string]string{}
	for i, attribute := range attributes {
		columns[i] = cell.Column{Name: n.Of(attribute.Name), Type: attribute.Type}
		folded := strings.ToLower(columns[i].Name)
		if other, found := taken[folded]; found {
			return nil, fmt.Errorf("%s and %s would both be columns named %q", other, attribute.Name, columns[i].Name)
		}
		taken[folded] = attribute.Name
	}
	return columns, nil
}
