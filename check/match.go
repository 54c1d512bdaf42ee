package check

import (
	"slices"
	"strings"

	"roundyear/civil"
	"roundyear/dimension"
	"roundyear/nearest"
)

// SampleRow is a row of the table by which its columns are matched.
type SampleRow struct {
	Day    civil.Day
	Fields []string
}

// Matching finds out which attribute each column of a table holds.
type Matching struct {
	Catalogue *dimension.Catalogue
	// Attributes are those that columns may hold.
	Attributes []dimension.Attribute
	// NameOf is what the table should call an attribute.
	NameOf func(string) string
	// Given are attributes of columns as the user has said them, by column.
	Given map[string]string
	// ByValues tells that columns may also be known by what they hold.
	ByValues bool
	// Read reads dates of the table's own form, and may be nil.
	Read func([]byte) (civil.Day, bool)
}

// A column holds an attribute when this share of the sampled rows agree.
const (
	minAgreeing = 95
	percent     = 100
)

// Match returns the attributes of the columns: those that the user has said,
// else the one whose name the column has, whatever it holds, else the one that a
// similar name says, else, if it is asked for, the one whose values the column
// has. A column whose name is only similar to that of one attribute, and whose
// values are mostly those of another, holds the other.
func (m *Matching) Match(columns []string, rows []SampleRow) []Matched {
	var matched []Matched
	taken := map[string]bool{}
	var open []int
	for index, column := range columns {
		named := m.byName(column)
		_, given := m.Given[column]
		if named >= 0 && (given || !m.ByValues || m.isNamed(column, named) || m.Agrees(index, named, rows)) {
			matched = append(matched, Matched{Index: index, Column: column, Attribute: m.Attributes[named]})
			taken[m.Attributes[named].Name] = true
			continue
		}
		open = append(open, index)
	}
	var agreeing map[int][]int
	if m.ByValues {
		open = slices.DeleteFunc(open, func(index int) bool { return !varies(rows, index) && m.byName(columns[index]) < 0 })
		agreeing = m.agreement(open, rows)
	}
	for _, index := range open {
		column, best := columns[index], -1
		if m.ByValues && varies(rows, index) {
			best = m.best(column, agreeing[index], len(rows), taken)
		}
		if best >= 0 {
			matched = append(matched, Matched{Index: index, Column: column, Attribute: m.Attributes[best], ByValues: true})
		} else if named := m.byName(column); named >= 0 {
			matched = append(matched, Matched{Index: index, Column: column, Attribute: m.Attributes[named]})
		}
	}
	return matched
}

// isNamed tells whether a column has the very name of an attribute.
func (m *Matching) isNamed(column string, named int) bool {
	name := m.Attributes[named].Name
	return column == name || column == m.NameOf(name)
}

// Agrees tells whether most of the rows of a column agree with an attribute, by
// its index among those of the matching.
func (m *Matching) Agrees(index, named int, rows []SampleRow) bool {
	return m.enough(m.agreeing(index, named, rows), len(rows))
}

// AgreesFully tells whether all rows do.
func (m *Matching) AgreesFully(index, named int, rows []SampleRow) bool {
	return len(rows) > 0 && m.agreeing(index, named, rows) == len(rows)
}

func (m *Matching) agreeing(index, named int, rows []SampleRow) int {
	cursor, agreeing := m.Catalogue.Cursor(m.Attributes[named:named+1]), 0
	for _, row := range rows {
		if Same(cursor.MoveTo(row.Day)[0], m.Attributes[named].Type, []byte(row.Fields[index]), m.Read) {
			agreeing++
		}
	}
	return agreeing
}

func (m *Matching) enough(agreeing, rows int) bool {
	return rows > 0 && agreeing*percent >= rows*minAgreeing
}

// byName returns the attribute that a column's name says, or -1.
func (m *Matching) byName(column string) int {
	if given, found := m.Given[column]; found {
		column = given
	}
	for i := range m.Attributes {
		if m.isNamed(column, i) {
			return i
		}
	}
	wanted := nearest.Folded(column)
	for i, attribute := range m.Attributes {
		if nearest.Folded(attribute.Name) == wanted || nearest.Folded(m.NameOf(attribute.Name)) == wanted {
			return i
		}
	}
	return -1
}

// agreement counts for each index and attribute the rows in which they agree.
// It gives up on a pair that has disagreed too often.
func (m *Matching) agreement(indexes []int, rows []SampleRow) map[int][]int {
	agreeing, wrong := map[int][]int{}, map[int][]int{}
	for _, index := range indexes {
		agreeing[index], wrong[index] = make([]int, len(m.Attributes)), make([]int, len(m.Attributes))
	}
	if len(indexes) == 0 {
		return agreeing
	}
	most := len(rows) * (percent - minAgreeing) / percent
	cursor := m.Catalogue.Cursor(m.Attributes)
	for _, row := range rows {
		values := cursor.MoveTo(row.Day)
		for _, index := range indexes {
			field, right, failed := []byte(row.Fields[index]), agreeing[index], wrong[index]
			for i := range values {
				if failed[i] > most {
					continue
				}
				if Same(values[i], m.Attributes[i].Type, field, m.Read) {
					right[i]++
				} else {
					failed[i]++
				}
			}
		}
	}
	return agreeing
}

// best returns the attribute that a column agrees with most. Of several that
// agree alike the one with words of the column's name comes first, then one
// that no other column holds.
func (m *Matching) best(column string, agreeing []int, rows int, taken map[string]bool) int {
	best, bestScore := -1, 0
	for i, count := range agreeing {
		if !m.enough(count, rows) {
			continue
		}
		score := count*100 + 10*commonWords(column, m.Attributes[i].Name)
		if !taken[m.Attributes[i].Name] {
			score += 5
		}
		if best < 0 || score > bestScore {
			best, bestScore = i, score
		}
	}
	return best
}

func commonWords(column, attribute string) int {
	count := 0
	for _, word := range strings.Split(attribute, "_") {
		if len(word) > 1 && strings.Contains(nearest.Folded(column), word) {
			count++
		}
	}
	return count
}

// varies tells whether a column has more than one value, since one value says
// nothing of what it holds.
func varies(rows []SampleRow, index int) bool {
	for _, row := range rows {
		if row.Fields[index] != rows[0].Fields[index] {
			return true
		}
	}
	return false
}
