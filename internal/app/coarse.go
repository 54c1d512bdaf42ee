package app

import (
	"slices"

	"roundyear/calendar"
	"roundyear/internal/reading"
	"roundyear/yearplan"
)

// UnitOf returns what a date of facts stands for: by the plan, for its own files
// and the ones that normalise writes, else by how it is written. A date that
// stands for a day is the usual.
func (y *Year) UnitOf(inputs []string, dates *reading.Dates) calendar.Unit {
	for i := range y.Plan.Facts {
		facts := &y.Plan.Facts[i]
		written := *facts
		written.Files = []string{facts.Out}
		isOut := facts.Out != "" && !slices.ContainsFunc(inputs, func(input string) bool { return !y.Holds(&written, input) })
		if !isOut && slices.ContainsFunc(inputs, func(input string) bool { return !y.Holds(facts, input) }) {
			continue
		}
		if planned := plannedDates(facts, dates.Name); planned != nil && planned.Grain != calendar.Day {
			return planned.Grain
		}
	}
	for _, found := range dates.Files {
		if found.Decision == nil {
			continue
		}
		for _, share := range found.Decision.Patterns {
			for _, unit := range []calendar.Unit{calendar.Week, calendar.Month, calendar.Quarter, calendar.Half, calendar.Year} {
				if share.Grain == unit.String() {
					return unit
				}
			}
		}
	}
	return calendar.Day
}

// plannedDates is what the plan says of a date column, or of one that normalise
// has added for it.
func plannedDates(facts *yearplan.Facts, column string) *yearplan.Dates {
	for i, dates := range facts.Dates {
		if column == dates.Column || column == dates.Column+"_date" || column == dates.Column+"_business_date" {
			return &facts.Dates[i]
		}
	}
	return nil
}
