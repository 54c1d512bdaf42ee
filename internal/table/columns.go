package table

import (
	"fmt"
	"strings"

	"roundyear/fault"
	"roundyear/internal/nearest"
)

// Find returns the place of a column by its name: as it is written, else
// without regard to case and spaces if only one column is left then. The error
// names the nearest column.
func (s *Source) Find(name string) (int, error) {
	columns := s.Columns()
	where := s.Files[0].Name
	if s.places == nil {
		s.places = map[string][]int{}
		for place, column := range columns {
			s.places[column] = append(s.places[column], place)
		}
	}
	places := s.places[name]
	if len(places) == 0 {
		places = matching(columns, func(column string) bool { return folded(column) == folded(name) })
	}
	switch len(places) {
	case 1:
		return places[0], nil
	case 0:
		problem := &fault.Fault{File: where, What: fmt.Sprintf("has no column %q", name), Remedy: "The columns are " + strings.Join(columns, ", ")}
		if near := nearest.Name(name, columns); near != "" {
			problem.Remedy = fmt.Sprintf("Did you mean %q?", near)
		}
		return 0, problem
	}
	return 0, &fault.Fault{File: where, What: fmt.Sprintf("has %d columns that match %q", len(places), name), Remedy: "Give each column its own name"}
}

func matching(names []string, match func(string) bool) []int {
	var places []int
	for i, name := range names {
		if match(name) {
			places = append(places, i)
		}
	}
	return places
}

func folded(name string) string {
	return strings.ToLower(strings.Join(strings.Fields(name), ""))
}
