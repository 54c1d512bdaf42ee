// Package rows is rows on their way from a source to what reads them: in batches that workers
// decode side by side, whatever format they come in. It knows no files; formats bring their
// own Decoder.
package rows

import (
	"fmt"
	"strings"

	"roundyear/fault"
	"roundyear/nearest"
)

// Type is the type of a column.
type Type uint8

// The types of columns. Delimited files have nothing but text.
const (
	// Text is text in UTF-8.
	Text Type = iota
	// Day is a day without a time of day, as civil.Day counts it.
	Day
	// Moment is a time since 1970-01-01T00:00:00 by the clock of the place, in fractions of
	// a second with so many decimals as the scale of the column says.
	Moment
	// Instant is a Moment in UTC.
	Instant
	// Integer is a whole number of 64 bits.
	Integer
	// Decimal is a number with so many decimals as the scale of the column says.
	Decimal
	// Bool is yes or no: 1 or 0.
	Bool
	// Float is a number by the bits of a floating-point number of 64 bits (IEEE 754).
	Float
	// Clock is a time of day since midnight, in fractions of a second with so many decimals as
	// the scale of the column says.
	Clock
)

// IsDate tells whether values of the type are days or have one.
func (t Type) IsDate() bool { return t == Day || t == Moment || t == Instant }

// Shown is how a workbook shows numbers.
type Shown uint8

// Numbers are shown as they are, as percent (0.25 as 25%), or as spans of time (1.5 as 36:00:00).
const (
	AsNumbers Shown = iota
	AsPercent
	AsSpans
)

// Column is a column of a source.
type Column struct {
	Name string
	Type Type
	// Scale is the number of decimals of a Decimal, and of the seconds of a Moment or a Clock.
	Scale uint8
	// Wide tells that numbers of a Decimal need not fit into 64 bits.
	Wide bool
	// Plain tells that numbers in a Text are written plainly, as 1234.56; with Wide they have so many decimals at most as
	// Scale says.
	Plain bool
	// Figures tells that all texts are numbers or truth values; nil where that is not known.
	Figures *Figures
	// Shown is how a workbook shows the numbers of the column, and spans of time, which are texts such as 36:00:00 elsewhere.
	Shown Shown
	// Key tells that no two rows have the same value, and that none is missing.
	Key bool
}

// Texts returns columns of text with names.
func Texts(names []string) []Column {
	columns := make([]Column, len(names))
	for i, name := range names {
		columns[i].Name = name
	}
	return columns
}

// Find returns the place of a column by its name: as it is written, else without regard to
// case and spaces if only one column is left then. The error names the nearest column.
func (s *Source) Find(name string) (int, error) {
	names := s.Names()
	if s.places == nil {
		s.places = map[string][]int{}
		for place, column := range names {
			s.places[column] = append(s.places[column], place)
		}
	}
	places := s.places[name]
	if len(places) == 0 {
		places = matching(names, func(column string) bool { return folded(column) == folded(name) })
	}
	switch len(places) {
	case 1:
		return places[0], nil
	case 0:
		problem := &fault.Fault{File: s.Parts[0].Name, What: fmt.Sprintf("has no column %q", name), Remedy: "The columns are " + strings.Join(names, ", ")}
		if near := nearest.Name(name, names); near != "" {
			problem.Remedy = fmt.Sprintf("Did you mean %q?", near)
		}
		return 0, problem
	}
	return 0, &fault.Fault{File: s.Parts[0].Name, What: fmt.Sprintf("has %d columns that match %q", len(places), name), Remedy: "Give each column its own name"}
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
